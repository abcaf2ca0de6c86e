"""Where everything of a score stands, in pixels of one width, before anything is painted."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF

from tonleiter.core.drawing.draft import COMMON, HOT
from tonleiter.core.report.score import Score, Side
from tonleiter.core.wiring.model import Build

TOP_PX, UNIT_PX, LEAST_PX = 58, 11.0, 6.9
# radius of a face, its way from the edge, room for the names of conductors: roomy, and narrow
ROOMY, NARROW, TIGHT = (74, 30, 108), (58, 12, 84), (50, 18, 66)
NARROW_BELOW_PX, TIGHT_BELOW_PX = 800, 700
# the transmit switch: so many rows below common, so tall
SWITCH_ROWS, SWITCH_PX = 5.6, 48
# a serial port's transistor: its unit, room for the port's contacts and for words below
KEYER_UNIT_PX, PORT_PX, KEYER_TOP_PX, KEYER_FOOT_PX = 7.0, 44, 10, 24
# rows above a case for a wire that feeds something in it
FEED_ROWS, FEED_EDGE_PX = 3.0, 18
# words below a face
FOOT_PX = 70


class ScorePlaces:
    """One score in one width: where its faces, its drawing, its switch and its feet stand."""

    def __init__(
        self,
        score: Score,
        build: Build,
        scale: float,
        width: float,
        height: float = 0.0,
        buttons_px: float = 0.0,
        foot: bool = True,
    ) -> None:
        """``buttons_px`` is kept free under each face; in more ``height`` it stands lower.

        ``foot``: with words under the faces.
        """
        self._foot_px = FOOT_PX if foot else 4
        self._score, self._build = score, build
        self._scale, self._width, self._buttons = scale, width, buttons_px
        self._down = 0.0
        box = score.sheet.box()
        self._wide = box.width if score.sheet.symbols else 0.0
        self._high = max(-box.y0, 3.0) if score.sheet.symbols else 3.0
        if score.fed:
            self._high += FEED_ROWS
        self._used = {
            (p.side, label)
            for p in (score.left, score.right)
            for label in (c.label for c in p.end.connector.contacts)
            if any(p.end.ref(label) in n.contacts for n in build.nets)
        }
        self._used |= {("right", at.label) for t in score.shared for at in t.contacts}
        self._down = max(0.0, min(height - self.height(), self.px(120))) / 2

    def px(self, size: float) -> float:
        """A length that grows with the text."""
        return size * self._scale

    def size(self) -> tuple[float, float, float]:
        """Radius of a face, its way from the edge, room for names."""
        tight, narrow = (self._width < self.px(x) for x in (TIGHT_BELOW_PX, NARROW_BELOW_PX))
        face, edge, room = TIGHT if tight else NARROW if narrow else ROOMY
        return self.px(face), self.px(edge), self.px(room)

    def beside(self) -> float:
        """What a face takes of the width, with the names beside it."""
        face, edge, room = self.size()
        return 2 * face + edge + room

    def unit(self) -> float:
        """A grid unit in pixels: rows of the drawing and of the conductors are the same."""
        room = self._width - 2 * self.beside()
        most, least = UNIT_PX * self._scale, LEAST_PX * self._scale
        return most if self._wide <= 0 else max(min(most, room / self._wide), least)

    def least_width(self) -> float:
        """Narrower than this it does not fit: the least that suits the faces it has there."""
        drawn = LEAST_PX * self._scale * self._wide
        ranges = (
            (TIGHT, 0.0, self.px(TIGHT_BELOW_PX)),
            (NARROW, self.px(TIGHT_BELOW_PX), self.px(NARROW_BELOW_PX)),
            (ROOMY, self.px(NARROW_BELOW_PX), math.inf),
        )
        for (face, edge, room), low, high in ranges:
            wanted = max(low, self.px(2 * (2 * face + edge + room)) + drawn)
            if wanted < high:
                return max(self.px(420), wanted)
        raise AssertionError("the last range has no end")

    def height(self) -> float:
        """What it takes."""
        feet = [
            self.buttons_at(p.side).y() + self._buttons
            for p in (self._score.left, self._score.right)
        ]
        below = max(max(feet) + self.px(self._foot_px), self._y(COMMON) + self.px(40))
        return below - self._down

    def _y(self, row: float) -> float:
        return self._down + self.px(TOP_PX) + self.unit() * (row + self._high)

    def _edges(self) -> tuple[float, float]:
        wide = self.unit() * self._wide
        return self._width / 2 - wide / 2, self._width / 2 + wide / 2

    def centre(self, side: Side) -> QPointF:
        """The middle of a face."""
        x = self.size()[1] + self.size()[0]
        return QPointF(x if side == "left" else self._width - x, self._y((HOT + COMMON) / 2))

    def _turn_x(self, side: Side) -> float:
        away = self.size()[1] + 2 * self.size()[0] + self.px(22)
        return away if side == "left" else self._width - away

    def _switch_box(self) -> QRectF:
        wide, high = max(2 * self.size()[0], self.px(152)), self.px(SWITCH_PX)
        if self._score.keyer.symbols:
            drawn, unit = self._score.keyer.box(), self.px(KEYER_UNIT_PX)
            wide = unit * drawn.width + self.px(PORT_PX)
            high = unit * drawn.height + self.px(KEYER_TOP_PX + KEYER_FOOT_PX)
        # under the words of the left plug
        foot = self.buttons_at("left").y() + self.px(self._foot_px) + self._buttons
        top = max(self._y(COMMON + SWITCH_ROWS), foot)
        return QRectF(self.size()[1], top, wide, high)

    def _shared_box(self, n: int) -> QRectF:
        """Where another chain of the right plug stands, below the switch."""
        switch, gap = self._switch_box(), self.px(10)
        top = switch.bottom() + gap if self._score.keyed else switch.top()
        high = self.px(SWITCH_PX)
        return QRectF(switch.left(), top + n * (high + gap), max(switch.width(), 1.0), high)

    def _keyed_from(self, k: int) -> QPointF:
        """Where a wire of the switch leaves it: the line first, then its ground."""
        box = self._switch_box()
        ends = [t for t in self._score.keyer.terminals if t.side == "right"]
        if not ends:
            return QPointF(box.right(), box.top() + box.height() * (0.25 + 0.5 * k))
        drawn, unit = self._score.keyer.box(), self.px(KEYER_UNIT_PX)
        top = box.top() + self.px(KEYER_TOP_PX)
        return QPointF(box.right(), top + unit * (ends[k].y - drawn.y0))

    def buttons_at(self, side: Side) -> QPointF:
        """The middle of the upper edge of what is kept free under a face.

        On the right the wires of the switch come up from below: it lies under them.
        """
        at = self.centre(side) + QPointF(0, self.size()[0] + self.px(8))
        # clear of the name of the lowest wire, where the face is the smaller one
        at.setY(max(at.y(), self._y(COMMON) + self.px(24)))
        if side == "right" and self._score.keyed:
            at.setY(max(at.y(), self._switch_box().bottom() + self.px(8)))
        if side == "right" and self._score.shared:
            last = self._shared_box(len(self._score.shared) - 1)
            at.setY(max(at.y(), last.bottom() + self.px(8)))
        return at
