"""Pictures of the main views, made from the shipped demo station."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QSettings

from tonleiter.app.demo import shipped_demo
from tonleiter.app.document import Document
from tonleiter.app.jobs import Wait
from tonleiter.app.manual import hints
from tonleiter.app.recents import keep_recent
from tonleiter.app.spaces.gear.model import GROUNDS, LEARN
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.window import MainWindow
from tonleiter.core.gear.beginnings import GOES, SPEAKS, beginning
from tonleiter.core.gear.bench import METHODS
from tonleiter.core.match.terms import lead_for
from tonleiter.core.station.adopt import adopt_path
from tonleiter.core.station.begin import begun
from tonleiter.core.station.edits import open_chain
from tonleiter.core.station.files import save_station

FOLDER = Path(__file__).resolve().parents[2] / "docs" / "screenshots"


def ladder(window: MainWindow) -> None:
    """The demo as it opens: a stop finding stands."""
    window.space("ladder").model.select(3)


def ladder_mended(window: MainWindow) -> None:
    """After the first remedy, with the response shown."""
    window.space("ladder").tray.cards[0].buttons[1].click()
    window.space("ladder").show_response(True)


def electret(window: MainWindow) -> None:
    """The electret headset behind the mixer has no bias."""
    window.space("ladder").model.swap(0, "electret-headset")
    window.space("ladder").model.select(0)


def curves(window: MainWindow) -> None:
    """The electret headset on the FM mobile: load line and bands."""
    window.space("ladder").model.edit("chain", lambda s: open_chain(s, "fm-headset"))
    window.space("ladder").model.select(0)


def gear(window: MainWindow) -> None:
    """A radio on the shelf, its bias being measured."""
    window.go_to("gear")
    assert window.space("gear") is not None
    window.space("gear").model.select("hf-set")
    bench = window.space("gear").bench
    bench.choose(next(m for m in METHODS if m.id == "bias"))
    for field, text in (("open_v", "8"), ("loaded_v", "5.3"), ("load", "2k2")):
        bench.type_reading(field, text)


def grounds(window: MainWindow) -> None:
    """The loop through two USB leads, lit up."""
    window.space("ladder").model.edit("chain", lambda s: open_chain(s, "hf-weak-data"))
    window.go_to("gear")
    window.space("gear").model.select(GROUNDS)


def readings(window: MainWindow) -> None:
    """What four readings of the headset teach, of which one does not fit."""
    window.document.edit("chain", lambda s: open_chain(s, "fm-headset"))
    window.go_to("gear")
    space = window.space("gear")
    space.model.select(LEARN)
    model = space.learning.learning
    for kind, stage, typed in (
        ("open", None, "5.1 V"),
        ("volts", "fm-mobile", "2.4 V"),
        ("knob", None, "50"),
        ("speech", "fm-mobile", "60 mV"),
    ):
        model.add(kind, stage, typed)  # type: ignore[arg-type]
    model.finish(Wait.LATER)


def start(window: MainWindow) -> None:
    """The start page over the demo, and a station of two answers."""
    home = window.document.folder.with_name("at-home.station")
    made = begun(beginning(SPEAKS, "electret"), beginning(GOES, "radio-biased"))
    source, socket = made.gear
    made = adopt_path(made, (source, lead_for(source), socket), "plugged in", "ssb-chat",
                      "operator", 30.0)  # fmt: skip
    save_station(made.model_copy(update={"title": "At home"}), home)
    keep_recent(home, "At home")
    keep_recent(window.document.folder, window.document.station.title)
    window.show_start()
    window.lobby.page.model.finish()


def match(window: MainWindow) -> None:
    """The grid."""
    window.go_to("match")
    assert window.space("match") is not None
    window.space("match").model.finish()


def plans(window: MainWindow) -> None:
    """Three plans for the stage dynamic on the HF set."""
    match(window)
    assert window.space("match") is not None
    window.space("match").model.select(("stage-dynamic", "hf-set"))
    window.space("match").model.start_plan("simple")
    window.space("match").model.finish()


def wire(window: MainWindow) -> None:
    """The pad and the transformer between mixer and radio, a net lit up, the plug from behind."""
    window.go_to("wire")
    model = window.space("wire").model
    model.turn("right", "solder-side")
    window.space("wire").model.finish()
    model.light("hot behind the isolating transformer", "isolator:hot")


def wrong_wire(window: MainWindow) -> None:
    """The microphone's wire soldered to the contact that carries a supply."""
    window.go_to("wire")
    model = window.space("wire").model
    model.land(model.span.right, "hot", "6")
    model.finish()


def mended(window: MainWindow) -> None:
    """The chain's stop mended by the first remedy that the Ladder offers."""
    ladder = window.space("ladder")
    ladder.model.finish()
    ladder.tray.cards[0].buttons[0].click()
    ladder.model.finish()


def on_air(window: MainWindow) -> None:
    """The set on the chain with the transformer, one move made; a finding of the panel stands."""
    mended(window)
    window.go_to("set")
    model = window.space("set").model
    model.finish()
    model.follow_guide()
    model.finish(Wait.LATER)
    model.hold_still()
    for _ in range(36):
        model.tick()


def at_computer(window: MainWindow) -> None:
    """The audio box has just taken the system's loudspeaker; its switch hangs on too long."""
    window.space("ladder").model.edit("chain", lambda s: open_chain(s, "hf-weak-data"))
    window.go_to("set")
    model = window.space("set").model
    model.finish()
    model.at_desk.look(True)
    model.finish()
    model.hold_still()


def prove(window: MainWindow) -> None:
    """The transformer box with a broken winding, read off the bench."""
    mended(window)
    window.go_to("prove")
    model = window.space("prove").model
    model.finish()
    model.hide(model.proof.fault("T1-open-2"))
    model.read_off(model.shown_of(model.of_step("ring"))[:4])
    model.read_off(model.of_step("dc"))
    model.show_step("dc")
    model.finish()


def listen(window: MainWindow) -> None:
    """The demo's clear recording and its muffled one, one more beside them, a blind trial begun."""
    window.go_to("listen")
    model = window.space("listen").model
    model.take_kept("A", "muffled")
    model.take_kept("B", "clear")
    model.take_kept("C", "hum")
    model.finish()
    model.finish()
    model.blind.begin_trial()
    for _ in range(4):
        model.blind.answer(model.blind.trials.x)
    model.finish()


def log(window: MainWindow) -> None:
    """A year of the club, the report that nothing answers yet chosen."""
    window.go_to("log")
    model = window.space("log").model
    model.finish(Wait.LATER)
    model.choose(next(e.number for e in model.entries if "harsh" in e.words))


def practise(window: MainWindow) -> None:
    """A riddle half way: three things looked at, one of them not safely."""
    window.go_to("practise")
    model = window.space("practise").model
    model.choose("voice")
    model.another(4)
    model.finish()
    model.care("dummy-load", True)
    for look in ("panel", "meter", "hum"):
        model.look(look)


SHOTS: tuple[tuple[str, str, tuple[int, int], Callable[[MainWindow], None]], ...] = (
    ("ladder-light", "light", (1280, 800), ladder),
    ("ladder-dark", "dark", (1280, 800), ladder),
    ("ladder-response", "light", (1280, 800), ladder_mended),
    ("ladder-curves", "light", (1280, 800), curves),
    ("ladder-small-window", "dark", (1024, 700), electret),
    ("gear-light", "light", (1280, 800), gear),
    ("practise-dark", "dark", (1280, 800), practise),
    ("start-light", "light", (1280, 800), start),
    ("gear-grounds", "light", (1280, 800), grounds),
    ("gear-readings", "light", (1280, 800), readings),
    ("match-light", "light", (1280, 800), match),
    ("wire-light", "light", (1280, 800), wire),
    ("listen-light", "light", (1280, 800), listen),
    ("log-light", "light", (1280, 800), log),
    ("prove-light", "light", (1280, 800), prove),
    ("set-light", "light", (1280, 800), on_air),
    ("set-small-window", "dark", (1024, 700), on_air),
    ("plan-light", "light", (1280, 800), plans),
    ("set-computer", "light", (1280, 800), at_computer),
)


def main(wanted: Sequence[str]) -> None:
    """Take all pictures, or those whose names are given."""
    app = application()
    look = Look(app)
    FOLDER.mkdir(parents=True, exist_ok=True)
    hints.SHOWN = False
    # a copy: what is edited for a picture is kept beside its station, and not beside the demo
    with tempfile.TemporaryDirectory() as folder:
        # nor do pictures stand in anybody's list of stations
        for kind in (QSettings.Format.NativeFormat, QSettings.Format.IniFormat):
            QSettings.setPath(kind, QSettings.Scope.UserScope, folder)
        os.environ["XDG_DATA_HOME"] = folder
        for name, theme, size, prepare in SHOTS:
            if wanted and name not in wanted:
                continue
            look.set_theme(theme)
            copy = Path(folder) / f"{name}.station"
            shutil.copytree(shipped_demo(), copy)
            window = MainWindow(Document.open(copy), look)
            window.resize(*size)
            window.show()
            app.processEvents()
            window.space("ladder").model.finish()
            prepare(window)
            window.space("ladder").model.finish(Wait.LATER)
            window.notice.hide()
            if window._stack.currentWidget() is window.space("ladder"):
                window.space("ladder").view.setFocus()
            for _ in range(5):
                app.processEvents()
            window.grab().save(str(FOLDER / f"{name}.png"))
            window.hide()
            window.session.end()
            print(f"docs/screenshots/{name}.png")


if __name__ == "__main__":
    main(sys.argv[1:])
