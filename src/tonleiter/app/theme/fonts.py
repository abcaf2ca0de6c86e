"""The bundled fonts. Glyphs that the main fonts lack come from the second family."""

from __future__ import annotations

from importlib.resources import files

from PySide6.QtGui import QFont, QFontDatabase

SANS = "Atkinson Hyperlegible Next"
MONO = "Atkinson Hyperlegible Mono"
SYMBOLS = "DejaVu Sans"
SMALLEST_PX = 12

_loaded = False


def load_fonts() -> None:
    """Register the bundled fonts once. Raises RuntimeError if one cannot be read."""
    global _loaded
    if _loaded:
        return
    folder = files("tonleiter.app.theme") / "fonts"
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if not entry.name.endswith(".woff"):
            continue
        if QFontDatabase.addApplicationFontFromData(entry.read_bytes()) < 0:
            raise RuntimeError(f"the bundled font {entry.name} cannot be read")
    _loaded = True


def font(size_px: float, weight: int = 400, mono: bool = False, scale: float = 1.0) -> QFont:
    """A font of the bundled families in pixels, never below 12 px."""
    result = QFont()
    result.setFamilies([MONO if mono else SANS, SYMBOLS])
    result.setPixelSize(max(SMALLEST_PX, round(size_px * scale)))
    result.setWeight(QFont.Weight(weight))
    return result
