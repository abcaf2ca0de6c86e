"""Colours of the two themes. Colour is never the only sign: a word or a shape goes with it."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtGui import QColor


@dataclass(frozen=True)
class Palette:
    """Named colours as #RRGGBB."""

    name: str
    paper: str
    panel: str
    field: str
    ink: str
    soft: str
    line: str
    rail: str
    rail_ink: str
    rail_soft: str
    signal: str
    other: str
    """A second signal beside the first: the earlier of two recordings."""
    aim: str
    aim_text: str
    stop: str
    mind: str
    mind_text: str
    fine: str
    chosen: str

    def color(self, name: str, alpha: float = 1.0) -> QColor:
        """A colour by its field name, with an opacity."""
        color = QColor(getattr(self, name))
        color.setAlphaF(alpha)
        return color

    def severity(self, severity: str) -> str:
        """Colour of a finding's mark."""
        return {"stop": self.stop, "mind": self.mind, "fine": self.fine}[severity]

    def severity_text(self, severity: str) -> str:
        """Colour of a finding's word, dark enough (or light enough) to read."""
        return {"stop": self.stop, "mind": self.mind_text, "fine": self.fine}[severity]


LIGHT = Palette(
    name="light",
    paper="#F3EFE6",
    panel="#FCFAF5",
    field="#FFFFFF",
    ink="#1D2A35",
    soft="#5C6873",
    line="#D8D0C2",
    rail="#1D2A35",
    rail_ink="#F3EFE6",
    rail_soft="#A9B4BC",
    signal="#0E6470",
    other="#6D4E8F",
    aim="#A8701B",
    aim_text="#85550F",
    stop="#A93420",
    mind="#B7850B",
    mind_text="#7D5A05",
    fine="#46723A",
    chosen="#C3DBDC",
)

DARK = Palette(
    name="dark",
    paper="#16202A",
    panel="#1C2833",
    field="#111A22",
    ink="#ECE6DA",
    soft="#A3AFB8",
    line="#35434F",
    rail="#0E161D",
    rail_ink="#ECE6DA",
    rail_soft="#8C99A3",
    signal="#5FC0CC",
    other="#BFA3DD",
    aim="#D9A24E",
    aim_text="#E2B36B",
    stop="#F08A74",
    mind="#E0B23C",
    mind_text="#E6BF5A",
    fine="#93C47D",
    chosen="#24505A",
)

# for desktops that ask for high contrast: lines and soft words as dark as the rest
CONTRAST = Palette(
    name="contrast",
    paper="#FFFFFF",
    panel="#FFFFFF",
    field="#FFFFFF",
    ink="#000000",
    soft="#24303A",
    line="#4A5560",
    rail="#000000",
    rail_ink="#FFFFFF",
    rail_soft="#E4E8EB",
    signal="#00464F",
    other="#4B2C70",
    aim="#7A4B00",
    aim_text="#5E3A00",
    stop="#8E1600",
    mind="#7A5600",
    mind_text="#5C4100",
    fine="#1F4A12",
    chosen="#A9D5D8",
)

THEMES = {"light": LIGHT, "dark": DARK, "contrast": CONTRAST}

SIGN = {"stop": "■", "mind": "▲", "fine": "●"}
"""Shape that goes with a severity's colour."""
