"""What stands beside two recordings: a line for each, held against the first, and room for more."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.listen.model import ListenModel
from tonleiter.app.spaces.listen.pictures import line_of
from tonleiter.app.spaces.listen.slots import MORE, Place, Taken
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label
from tonleiter.core.words import sentence

LINE_PX = (30, 10)


class Beside(QWidget):
    """Under the spectra, whose lines it names; ``one_more`` is filled by the space.

    The space knows where recordings come from, and where there is room for that choice.
    """

    def __init__(self, model: ListenModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._built_for: object = None
        self.one_more = Choice(look, "One more recording beside them", 260)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._rows = QWidget()
        self._column.addWidget(self._rows)

    def show_now(self, items: list[tuple[str, str]]) -> None:
        """Built anew where something of it changed; one more is asked for once two are there."""
        model = self._model
        there = [p for p in MORE if model.slots.at(p) is not None or model.slots.busy(p)]
        both = all(model.slots.at(p) is not None for p in ("A", "B"))
        self.setVisible(bool(there))
        self.one_more.show_items(items, "")
        self.one_more.setVisible(both and model.next_free() is not None)
        key = (
            tuple((p, id(model.slots.at(p)), model.slots.busy(p)) for p in there),
            tuple(id(model.against_a(p)) for p in there), model.player.plays,
            self._look.scale, self._look.palette.name,
        )  # fmt: skip
        if key == self._built_for:
            return
        self._built_for = key
        rows = QWidget()
        column = QVBoxLayout(rows)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for place in there:
            column.addLayout(self._row(place))
        self._column.replaceWidget(self._rows, rows)
        self._rows.hide()
        self._rows.deleteLater()
        self._rows = rows

    def _row(self, place: Place) -> QVBoxLayout:
        model, taken = self._model, self._model.slots.at(place)
        column = QVBoxLayout()
        column.setSpacing(1)
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(_Line(place, self._look))
        name = taken.name if taken is not None else "it is being read…"
        top.addWidget(label(f"{place}  {name}", "step", wraps=True), 1)
        if taken is not None:
            s = taken.measures.survey
            top.addWidget(label(f"{s.seconds:.1f} s · {s.rate_hz} Hz", "caption"))
        column.addLayout(top)
        flow = Flow(gap_px=6)
        if taken is not None:
            column.addWidget(label(self._said(place, taken), "sub", wraps=True))
            role = "primary" if model.player.plays == place else "plain"
            flow.addWidget(button(f"▶ {place}", role, partial(model.player.play, place)))
            flow.addWidget(button(f"{place} as A", "plain", partial(model.swap, place, "A")))
            flow.addWidget(button(f"{place} as B", "plain", partial(model.swap, place, "B")))
        flow.addWidget(button(f"Take {place} away", "plain", partial(model.clear, place)))
        column.addLayout(flow)
        return column

    def _said(self, place: Place, taken: Taken) -> str:
        sounds, made = taken.sounds(), self._model.against_a(place)
        if made is None:
            return sounds
        said = made.said()
        if said is None:
            return f"{sounds} Against A: {sentence(made.why_not)}."
        other = "" if made.aligned.same_words else ", of other words"
        return f"Against A: {said}{other}. {sounds}"


class _Line(QWidget):
    """How its curve is drawn."""

    def __init__(self, place: Place, look: Look) -> None:
        super().__init__()
        self._place, self._look = place, look
        self.setFixedSize(self.sizeHint())

    @guarded
    def sizeHint(self) -> QSize:
        """A short piece."""
        return QSize(self._look.px(LINE_PX[0]), self._look.px(LINE_PX[1]))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The piece."""
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(line_of(self._place, self._look))
            y = self.height() / 2
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
