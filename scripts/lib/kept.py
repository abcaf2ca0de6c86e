"""Makes what packages carry and the tree keeps: icons in their sizes, the manual page."""

from __future__ import annotations

import os
from pathlib import Path

from PySide6.QtCore import QSize
from PySide6.QtGui import QGuiApplication, QIcon

from tonleiter.cli.main import manual_page

ROOT = Path(__file__).resolve().parents[2]
ICON_PX = (16, 22, 24, 32, 48, 64, 128, 256)


def main() -> None:
    """Write them anew."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QGuiApplication([])
    icon = QIcon(str(ROOT / "src/tonleiter/app/theme/icon/tonleiter.svg"))
    folder = ROOT / "packaging" / "icons"
    folder.mkdir(exist_ok=True)
    for px in ICON_PX:
        icon.pixmap(QSize(px, px)).save(str(folder / f"{px}.png"))
    del app
    (ROOT / "packaging" / "tonleiter.1").write_text(manual_page(), "utf-8")


if __name__ == "__main__":
    main()
