"""A label whose terms of the trade can be pressed: they are underlined with dots."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPaintEvent, QPen, QTextLayout, QTextLine, QTextOption
from PySide6.QtWidgets import QLabel

from tonleiter.app.safety.events import guarded, painting
from tonleiter.core.manual.glossary import Term, terms_in


class Asked(QObject):
    """Tells of a term that was pressed, and where on the screen."""

    pressed = Signal(object, QPoint)


# one for the whole application: whoever shows the explanation listens
TERMS = Asked()


@dataclass(frozen=True)
class Place:
    """Where a term is written."""

    rect: QRectF
    term: Term


def _across(line: QTextLine, cursor: int) -> float:
    """How far right a place in the text stands; the toolkit hands the place back with it."""
    found: Any = line.cursorToX(cursor)
    return float(found[0] if isinstance(found, tuple) else found)


class Said(QLabel):
    """Plain text, laid out a second time to know where its terms stand."""

    def __init__(self) -> None:
        super().__init__()
        self._of: object = None
        self._places: tuple[Place, ...] = ()

    def places(self) -> tuple[Place, ...]:
        """Where its terms are written, at its present size."""
        now = (self.text(), self.width(), self.height(), self.font().key(), self.wordWrap())
        if now != self._of:
            self._of = now
            self._places = self._laid_out()
            self.setMouseTracking(bool(self._places))
        return self._places

    def _laid_out(self) -> tuple[Place, ...]:
        text = self.text()
        terms = terms_in(text)
        if not terms:
            return ()
        box = self.contentsRect()
        layout = QTextLayout(text, self.font())
        option = QTextOption(self.alignment())
        wraps = QTextOption.WrapMode.WordWrap if self.wordWrap() else QTextOption.WrapMode.NoWrap
        option.setWrapMode(wraps)
        layout.setTextOption(option)
        layout.beginLayout()
        high, lines = 0.0, []
        while (line := layout.createLine()).isValid():
            line.setLineWidth(box.width())
            line.setPosition(QPointF(0, high))
            high += line.height()
            lines.append(line)
        layout.endLayout()
        # as the label itself stands it between its edges
        free = box.height() - high
        top = box.top() + (free / 2 if self.alignment() & Qt.AlignmentFlag.AlignVCenter else 0)
        made = []
        for first, last, term in terms:
            on = next(
                (x for x in lines if x.textStart() <= first < x.textStart() + x.textLength()), None
            )
            if on is None:
                continue
            left = _across(on, first)
            right = _across(on, min(last, on.textStart() + on.textLength()))
            at = QRectF(box.left() + left, top + on.y(), right - left, on.height())
            if at.right() <= box.right() + 1:
                made.append(Place(at, term))
        return tuple(made)

    def _at(self, where: QPointF) -> Place | None:
        return next((p for p in self.places() if p.rect.contains(where)), None)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The text, and dots under its terms."""
        super().paintEvent(event)
        places = self.places()
        if not places:
            return
        with painting(self) as painter:
            color = self.palette().color(self.foregroundRole())
            color.setAlpha(130)
            painter.setPen(QPen(color, 1.2, Qt.PenStyle.DotLine))
            for place in places:
                under = place.rect.bottom() - 1.5
                painter.drawLine(
                    QPointF(place.rect.left(), under), QPointF(place.rect.right(), under)
                )

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Over a term the mouse says that there is something to be had."""
        over = self._at(event.position()) is not None
        shape = Qt.CursorShape.WhatsThisCursor if over else Qt.CursorShape.ArrowCursor
        if self.cursor().shape() != shape:
            self.setCursor(shape) if over else self.unsetCursor()
        super().mouseMoveEvent(event)

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A press on a term asks what it is."""
        place = self._at(event.position())
        if place is None or event.button() != Qt.MouseButton.LeftButton:
            super().mousePressEvent(event)
            return
        at = self.mapToGlobal(place.rect.bottomLeft().toPoint())
        TERMS.pressed.emit(place.term, at)
