"""Pictures of the main views, made from the shipped demo station."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tonleiter.app.demo import shipped_demo
from tonleiter.app.document import Document
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.window import MainWindow

FOLDER = Path(__file__).resolve().parents[2] / "docs" / "screenshots"


def ladder(window: MainWindow) -> None:
    """The demo as it opens: a stop finding stands."""
    window.space.model.select(3)


def ladder_mended(window: MainWindow) -> None:
    """After the first remedy, with the response shown."""
    window.space.tray.cards[0].buttons[1].click()
    window.space.show_response(True)


def electret(window: MainWindow) -> None:
    """The electret headset behind the mixer has no bias."""
    window.space.model.swap(0, "electret-headset")
    window.space.model.select(0)


SHOTS: tuple[tuple[str, str, tuple[int, int], Callable[[MainWindow], None]], ...] = (
    ("ladder-light", "light", (1280, 800), ladder),
    ("ladder-dark", "dark", (1280, 800), ladder),
    ("ladder-response", "light", (1280, 800), ladder_mended),
    ("ladder-small-window", "dark", (1024, 700), electret),
)


def main() -> None:
    """Take all pictures."""
    app = application()
    look = Look(app)
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, theme, size, prepare in SHOTS:
        look.set_theme(theme)
        window = MainWindow(Document.open(shipped_demo()), look)
        window.resize(*size)
        window.show()
        app.processEvents()
        window.space.model.try_remedies_now()
        prepare(window)
        window.space.model.try_remedies_now()
        window.space.model.weigh_now()
        window.notice.hide()
        for _ in range(5):
            app.processEvents()
        window.grab().save(str(FOLDER / f"{name}.png"))
        window.hide()
        print(f"docs/screenshots/{name}.png")


if __name__ == "__main__":
    main()
