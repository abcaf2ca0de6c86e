"""Painting a sheet: the same on the screen, in a picture file and on paper."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QPainter, QPen

from tonleiter.app.theme.fonts import font
from tonleiter.app.theme.palette import Palette
from tonleiter.app.widgets.drawing.symbols import SYMBOLS, Pencil
from tonleiter.core.drawing.sheet import Sheet, Symbol, Text, Wire

LINE_PX, JOINT_PX, DOT_PX = 1.5, 4.2, 2.8
TEXT_PX = 12.0
# how far from the middle of a symbol its name begins, where its body says something else
_BESIDE = {
    "resistor": 1.2,
    "capacitor": 1.6,
    "battery": 1.7,
    "zener": 1.6,
    "diode": 1.5,
    "coil": 1.3,
    "npn": 2.9,
    "pnp": 2.9,
    "n-fet": 2.9,
    "p-fet": 2.9,
    "pot": 1.1,
    "current-source": 1.6,
    "capsule-dynamic": 2.4,
    "capsule-electret": 2.4,
    "capsule-piezo": 2.4,
    "capsule-carbon": 2.4,
    "capsule-3-wire": 2.6,
}


# half of what the bodies of symbols take up, along their leads and across, in grid units
_BODIES = {
    "resistor": (1.5, 0.55),
    "capacitor": (0.4, 1.1),
    "battery": (0.4, 1.2),
    "diode": (0.8, 0.8),
    "diode-up": (0.8, 0.8),
    "zener": (0.8, 0.8),
    "coil": (1.5, 0.5),
    "pot": (1.5, 0.8),
}


class Face:
    """A font with the widths of what was written in it."""

    def __init__(self, made: QFont) -> None:
        self.font = made
        self._metrics = QFontMetricsF(made)
        self._known: dict[str, float] = {}

    def width(self, words: str) -> float:
        """In pixels."""
        found = self._known.get(words)
        if found is None:
            if len(self._known) > MOST_KNOWN:
                self._known.clear()
            found = self._known[words] = self._metrics.horizontalAdvance(words)
        return found

    def area(self, words: str, at: QPointF) -> QRectF:
        """What ink takes up whose base line begins at a point."""
        return self._metrics.tightBoundingRect(words).translated(at)


MOST_KNOWN = 2_000


@lru_cache(maxsize=64)
def _face(size_px: float, weight: int, mono: bool, scale: float) -> Face:
    return Face(font(size_px, weight, mono, scale))


@dataclass(frozen=True)
class _Said:
    """Words to write, their base line beginning at a point."""

    words: str
    face: Face
    color: str
    at: QPointF


# where words go that find no room, in heights of a line, the nearest first
_SHIFTS = sorted(
    ((dx / 4, dy / 4) for dx in range(-10, 11) for dy in range(-8, 9)),
    key=lambda s: math.hypot(*s),
)


class SheetPainter:
    """One drawing in one size. ``scale`` is that of the text, ``unit_px`` a grid unit."""

    def __init__(
        self, painter: QPainter, sheet: Sheet, palette: Palette, unit_px: float, scale: float
    ) -> None:
        self._painter, self._sheet, self._palette = painter, sheet, palette
        self._u, self._scale = unit_px, scale
        self._pencil = Pencil(painter, unit_px)
        self._mono = _face(TEXT_PX, 400, True, scale)
        self._sans = _face(TEXT_PX, 400, False, scale)
        self._bold = _face(TEXT_PX, 600, True, scale)
        self.said: list[tuple[str, QRectF]] = []
        self._wanted: list[list[_Said]] = []

    def paint(self) -> None:
        """Paint it, its box's corner at the painter's origin; ``said`` has the words and where."""
        self.said.clear()
        box = self._sheet.box()
        p = self._painter
        p.save()
        p.translate(-box.x0 * self._u, -box.y0 * self._u)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._cases()
        p.setPen(self._ink())
        for wire in self._sheet.wires:
            self._pencil.line((wire.x0, wire.y0), (wire.x1, wire.y1))
        for bar in self._sheet.bars:
            self._pencil.thick(1.6)
            self._pencil.line((bar.x - 0.9, bar.y), (bar.x + 0.9, bar.y))
            self._pencil.thick(1)
        for symbol in self._sheet.symbols:
            p.setPen(self._ink())
            SYMBOLS[symbol.kind](self._pencil, symbol)
        self._joints()
        self._say_all()
        p.restore()

    def _say_all(self) -> None:
        """Words last: names of parts first, volts and notes where room is left for them."""
        self._wanted = []
        bodies = []
        for symbol in self._sheet.symbols:
            self._wanted.append([])
            self._labels(symbol)
            if symbol.label != "inside":
                bodies.append(self._body(symbol))
        for case in self._sheet.cases:
            self._wanted.append([])
            self._text(case.x0 + 0.5, case.y1 - 0.3, case.words, self._sans, "soft", "left")
        marks = ("pin", "rail", "note", "volts")
        for text in sorted(self._sheet.texts, key=lambda t: marks.index(t.role)):
            self._wanted.append([])
            self._words(text)
        lines = [self._area_of(wire) for wire in self._sheet.wires] + bodies
        for group in self._wanted:
            self._say(group, lines)

    def _say(self, group: list[_Said], lines: list[QRectF]) -> None:
        """Words that belong together, moved a little where others stand or a wire runs."""
        p = self._painter
        line = self._line() * self._u
        taken = [area for _, area in self.said]

        def clear(shift: QPointF) -> bool:
            areas = [s.face.area(s.words, s.at + shift) for s in group]
            return not any(a.intersects(o) for a in areas for o in (*taken, *lines))

        shifts = [QPointF(dx * line, dy * line) for dx, dy in _SHIFTS]
        shift = next((s for s in shifts if clear(s)), QPointF(0, 0))
        for said in group:
            p.setFont(said.face.font)
            p.setPen(QColor(self._palette.color(said.color)))
            p.drawText(said.at + shift, said.words)
            self.said.append((said.words, said.face.area(said.words, said.at + shift)))

    def _body(self, s: Symbol) -> QRectF:
        """What a symbol takes up without its leads."""
        long, wide = _BODIES.get(s.kind, (min(s.half[0], 1.4), min(s.half[1], 1.4)))
        half_x, half_y = (wide, long) if s.upright else (long, wide)
        return QRectF(
            self._pencil.at(s.x - half_x, s.y - half_y), self._pencil.at(s.x + half_x, s.y + half_y)
        )

    def _area_of(self, wire: Wire) -> QRectF:
        a, b = self._pencil.at(wire.x0, wire.y0), self._pencil.at(wire.x1, wire.y1)
        return QRectF(a, b).normalized().adjusted(-0.8, -0.8, 0.8, 0.8)

    def _ink(self) -> QPen:
        ink = self._palette.color("ink")
        return QPen(
            ink, LINE_PX, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
        )

    def _cases(self) -> None:
        p = self._painter
        for case in self._sheet.cases:
            pen = QPen(self._palette.color("soft"), 1.2)
            pen.setDashPattern([5, 4])
            p.setPen(pen)
            p.setBrush(QBrush())
            area = QRectF(self._pencil.at(case.x0, case.y0), self._pencil.at(case.x1, case.y1))
            p.drawRoundedRect(area, 5, 5)

    def _joints(self) -> None:
        p = self._painter
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self._palette.color("ink"))
        for dot in self._sheet.dots:
            p.drawEllipse(self._pencil.at(dot.x, dot.y), DOT_PX, DOT_PX)
        p.setBrush(self._palette.color("signal"))
        for terminal in self._sheet.terminals:
            at = self._pencil.at(terminal.x, terminal.y)
            p.drawEllipse(at, JOINT_PX, JOINT_PX)
        p.setBrush(QBrush())

    # --- words -----------------------------------------------------------------------------------

    def _labels(self, s: Symbol) -> None:
        """Its name in soft, its value in ink; and the plus of a polarised one."""
        line = self._line()
        if s.plus:
            self._plus(s)
        if s.label == "inside":
            self._inside(s)
            return
        lines = [(s.ref, self._sans, "soft"), (s.value, self._mono, "ink")]
        lines += [(w, self._sans, "soft") for w in s.words]
        lines = [entry for entry in lines if entry[0]]
        if s.label == "none":
            lines = lines[:1]
        aside = _BESIDE.get(s.kind, s.half[1] + 0.7)
        if s.label in ("right", "none"):
            x, align = s.x + aside, "left"
            y = s.y - line * (len(lines) - 2) / 2
        elif s.label == "left":
            x, align = s.x - aside, "right"
            y = s.y - line * (len(lines) - 2) / 2
        elif s.label == "below":
            x, align = s.x, "middle"
            y = s.y + s.half[1] + 0.5 + line
        else:
            x, align = s.x, "middle"
            y = s.y - max(s.half[1] + 0.8, 1.5) - line * (len(lines) - 1)
        for k, (words, face, color) in enumerate(lines):
            self._text(x, y + k * line - 0.1 * line, words, face, color, align)

    def _inside(self, s: Symbol) -> None:
        """A case's name and what it is in its middle; an amplifier's name in its triangle."""
        line = self._line()
        if s.kind == "opamp":
            self._text(s.x - 0.5, s.y + 0.4, s.ref, self._sans, "soft", "middle")
            return
        words = [(s.ref, self._sans, "soft")] if s.ref else []
        head, *rest = s.words or ("",)
        room = (2 * s.half[0] - 1) * self._u
        words += [(w, self._bold_sans(), "ink") for w in self._wrapped(head, room)]
        words += [(w, self._sans, "soft") for w in rest]
        y = s.y - line * (len(words) - 2) / 2
        for k, (text, face, color) in enumerate(words):
            self._text(s.x, y + k * line - 0.3, text, face, color, "middle")

    def _bold_sans(self) -> Face:
        return _face(TEXT_PX + 1, 600, False, self._scale)

    def _wrapped(self, words: str, room_px: float) -> list[str]:
        """Words in as many lines as they need in a case."""
        lines = [""]
        for word in words.split():
            longer = f"{lines[-1]} {word}".strip()
            if lines[-1] and self._bold_sans().width(longer) > room_px:
                lines.append(word)
            else:
                lines[-1] = longer
        return lines

    def _plus(self, s: Symbol) -> None:
        pin = s.pin(s.plus)
        aside = 1.3 if s.label == "left" else -1.3
        dx, dy = (aside, 0.0) if s.upright else (0.0, 1.9)
        sign_x = 0.0 if s.upright else (-0.9 if pin.x < s.x else 0.9)
        sign_y = (-0.7 if pin.y < s.y else 1.6) if s.upright else 0.2
        self._text(s.x + dx + sign_x, s.y + dy + sign_y, "+", self._bold, "aim_text", "middle")

    def _words(self, text: Text) -> None:
        face, color = {
            "volts": (self._bold, "aim_text"),
            "pin": (self._sans, "soft"),
            "note": (self._sans, "soft"),
            "rail": (self._bold, "signal"),
        }[text.role]
        self._text(text.x, text.y, text.words, face, color, text.align)

    def _line(self) -> float:
        """Height of a line of text in grid units."""
        return 1.18 * TEXT_PX * self._scale / self._u

    def _text(self, x: float, y: float, words: str, face: Face, color: str, align: str) -> None:
        """Words with their base line at a point."""
        if not words:
            return
        width = 0.0 if align == "left" else face.width(words)
        shift = {"left": 0.0, "middle": width / 2, "right": width}[align]
        at = self._pencil.at(x, y) - QPointF(shift, 0.0)
        self._wanted[-1].append(_Said(words, face, color, at))


def size_px(sheet: Sheet, unit_px: float) -> tuple[float, float]:
    """Width and height of a drawing."""
    box = sheet.box()
    return box.width * unit_px, box.height * unit_px
