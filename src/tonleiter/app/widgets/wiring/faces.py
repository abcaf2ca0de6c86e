"""The face of a plug: its outline, its key, its contacts as one sees them from a side."""

from __future__ import annotations

import math
from collections.abc import Container
from itertools import combinations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from tonleiter.app.theme.fonts import font
from tonleiter.app.theme.palette import Palette
from tonleiter.core.report.score import Plug
from tonleiter.core.station.shells import SHELLS, Face, Key

JACK_PX = 67.0
SPOT_PX, LEAST_SPOT_PX, BLADE_HIGH = 13.0, 9.0, 1.25
# where what keeps it from turning is drawn, from the top, clockwise
_KEY_DEG: dict[Key, float] = {
    "key above": 0.0,
    "notch above": 0.0,
    "key below": 180.0,
    "latch below": 180.0,
}


class FacePainter:
    """Paints faces in one size: ``radius`` in pixels, ``scale`` that of the text."""

    def __init__(self, painter: QPainter, palette: Palette, radius: float, scale: float) -> None:
        self._painter, self._palette = painter, palette
        self._radius, self._scale = radius, scale
        # words stand on a jack's contacts: a small one is drawn longer, not smaller
        self._stretch = max(1.0, JACK_PX * scale / radius)

    def places(self, plug: Plug, face: Face, centre: QPointF) -> dict[str, QPointF]:
        """Where each contact is."""
        facts = SHELLS[plug.shell]
        if len(facts.labels) > facts.most_drawn:
            return {}  # nobody solders these into a lead of sound
        stretch = self._stretch if facts.along or facts.boxed else 1.0
        return places(plug, face, centre, self._radius, stretch)

    def paint(
        self,
        plug: Plug,
        face: Face,
        centre: QPointF,
        used: Container[str],
        live: Container[str] = (),
        chosen: str = "",
    ) -> None:
        """``used`` contacts stand out, ``live`` ones carry volts that nothing uses."""
        self.outline(plug, face, centre)
        self.paint_contacts(self.places(plug, face, centre), used, live, chosen)

    def paint_contacts(
        self,
        spots: dict[str, QPointF],
        used: Container[str],
        live: Container[str] = (),
        chosen: str = "",
    ) -> None:
        """The contacts alone, over what was drawn between them."""
        size = spot_size(spots, self._scale)
        for label, at in spots.items():
            self._contact(label, at, size, label in used, label in live, label == chosen)

    def outline(self, plug: Plug, face: Face, centre: QPointF) -> None:
        """The shell and its key."""
        p, r = self._painter, self._radius
        facts = SHELLS[plug.shell]
        p.setPen(QPen(self._palette.color("ink"), 1.6))
        p.setBrush(self._palette.color("field"))
        if facts.along:
            high, wide = (0.62 if plug.shell == "two-plugs" else 0.4), r * self._stretch
            p.drawRoundedRect(
                QRectF(centre.x() - wide, centre.y() - high * r, 2 * wide, 2 * high * r), 12, 12
            )
        elif not plug.is_known:
            # no face, but a list of what is there
            p.setPen(QPen(self._palette.color("soft"), 1.4, Qt.PenStyle.DashLine))
            p.drawRoundedRect(QRectF(centre.x() - r, centre.y() - 0.62 * r, 2 * r, 1.24 * r), 6, 6)
        elif facts.boxed:
            wide = r * self._stretch
            p.drawRoundedRect(
                QRectF(centre.x() - wide, centre.y() - 0.55 * r, 2 * wide, 1.1 * r), 6, 6
            )
        else:
            p.drawEllipse(centre, r, r)
        if plug.is_known and facts.key in _KEY_DEG:
            self._key(_KEY_DEG[facts.key], centre, facts.boxed)
        p.setBrush(Qt.BrushStyle.NoBrush)

    def _key(self, key_deg: float, centre: QPointF, boxed: bool) -> None:
        p, r = self._painter, self._radius
        angle = math.radians(key_deg)
        away = 0.55 if boxed else 1.0
        at = centre + QPointF(r * math.sin(angle), -away * r * math.cos(angle))
        size = 7 * self._scale
        p.setBrush(self._palette.color("line"))
        p.drawRoundedRect(QRectF(at.x() - size, at.y() - 0.8 * size, 2 * size, 1.6 * size), 3, 3)

    def _contact(
        self, label: str, at: QPointF, size: float, used: bool, live: bool, chosen: bool
    ) -> None:
        p, palette = self._painter, self._palette
        ring = "stop" if live else "ink" if used else "line"
        p.setPen(QPen(palette.color("aim" if chosen else ring), 2.6 if chosen else 1.8))
        p.setBrush(palette.color("panel" if used or live else "field"))
        area = contact_area(label, at, size, self._scale)
        p.drawRoundedRect(area, min(size, 0.5 * area.width()), size)
        p.setFont(font(12, 600, False, self._scale))
        p.setPen(palette.color("stop" if live else "ink" if used else "soft"))
        p.drawText(area, Qt.AlignmentFlag.AlignCenter, _shown(label))
        p.setBrush(Qt.BrushStyle.NoBrush)


def places(
    plug: Plug, face: Face, centre: QPointF, radius: float, stretch: float = 1.0
) -> dict[str, QPointF]:
    """Where each contact of a plug is, on a face of some radius, drawn longer by ``stretch``."""
    return {
        s.label: QPointF(centre.x() + s.x * radius * stretch, centre.y() - s.y * radius)
        for s in plug.spots(face)
    }


def spot_size(spots: dict[str, QPointF], scale: float) -> float:
    """Radius of a contact so that neighbours do not touch."""
    gaps = [math.hypot(a.x() - b.x(), a.y() - b.y()) for a, b in combinations(spots.values(), 2)]
    return min(SPOT_PX * scale, 0.47 * min(gaps, default=100.0))


def spot_tall(size: float, scale: float) -> float:
    """How much taller than wide contacts of a size are drawn: blades where they are narrow."""
    return 1.0 if size >= LEAST_SPOT_PX * scale else SPOT_PX * BLADE_HIGH * scale / size


def _shown(label: str) -> str:
    """A contact's mark; of two plugs side by side the row says which."""
    return label.replace("large ", "").replace("small ", "").replace("ring ", "r")


def contact_area(label: str, at: QPointF, size: float, scale: float) -> QRectF:
    """A contact on the screen: a circle, a lozenge for a word, a blade where it is narrow."""
    said = _shown(label)
    wide = size if len(said) <= 2 else 3.3 * scale * len(said) + 3.5 * scale
    high = size if size >= LEAST_SPOT_PX * scale else SPOT_PX * BLADE_HIGH * scale
    return QRectF(at.x() - wide, at.y() - high, 2 * wide, 2 * high)
