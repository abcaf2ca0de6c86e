"""The ladder itself: a ribbon from noise to peaks with the speech line, taken hold of by hand."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.ladder.grasp import VOICE_INDEX, nudge, pull
from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.spaces.ladder.painter import Canvas, LadderPainter
from tonleiter.app.spaces.ladder.scene import Frame, framed
from tonleiter.app.theme.look import Look
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.units.levels import signed

DRAG_STARTS_PX = 4
UNITS = ("dBu", "dBV", "V RMS", "V p-p")


class LadderView(Canvas):
    """Paints the assessment; drag a column up or down to move its value, scroll to nudge it."""

    edit_requested = Signal()
    insert_requested = Signal()

    def __init__(self, model: LadderModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self.unit = UNITS[0]
        self._press: QPointF | None = None
        self._start: Assessment | None = None
        self._dragging = False
        self._gestures = 0
        self._painter = LadderPainter(self, model, look)
        # it fills its own ground: nothing behind it has to be painted first
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Level ladder")
        model.changed.connect(self._on_change)
        model.selection_changed.connect(self._on_change)
        model.doubts_changed.connect(self._on_change)
        look.changed.connect(self.update)
        self._on_change()

    @guarded
    def minimumSizeHint(self) -> QSize:
        """Small enough for a 1024 by 700 window."""
        return QSize(420, 220)

    def _on_change(self) -> None:
        self.setAccessibleDescription(self._spoken())
        self.update()

    def _spoken(self) -> str:
        """The ladder in words, for a screen reader."""
        assessment = self._model.assessment
        if assessment is None:
            return self._model.trouble or "no chain"
        words = []
        for row in assessment.rows:
            clear = "" if row.headroom_db is None else f", {row.headroom_db:.0f} dB clear"
            words.append(f"{row.name}: speech {signed(row.speech_dbu)} dBu{clear}")
        chosen = self._model.selected
        name = "voice" if chosen == VOICE_INDEX else assessment.rows[chosen].name
        return f"Selected: {name}. " + "; ".join(words)

    def cycle_unit(self) -> str:
        """Show levels in the next unit and return its name."""
        self.unit = UNITS[(UNITS.index(self.unit) + 1) % len(UNITS)]
        self.update()
        return self.unit

    # --- geometry --------------------------------------------------------------------------------

    def frame(self) -> Frame:
        """The present layout; shared by painting and the mouse."""
        return framed(self._look, self.width(), self.height(), self._model.assessment)

    def column_at(self, x: float) -> int | None:
        """Stage index of the column at ``x`` (−1 for the voice), None outside."""
        frame = self.frame()
        if not frame.plot.left() <= x <= frame.plot.right():
            return None
        column = int((x - frame.plot.left()) / frame.plot.width() * frame.columns)
        return min(column, frame.columns - 1) - 1

    # --- hands -----------------------------------------------------------------------------------

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select, and get ready to drag."""
        column = self.column_at(event.position().x())
        if event.button() == Qt.MouseButton.LeftButton and column is not None:
            self._model.select(column)
            self._press, self._start = event.position(), self._model.assessment
            self._gestures += 1

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag: the level behind the stage follows the hand."""
        if self._press is None or self._start is None:
            self._hint(event.position().x())
            return
        travel = self._press.y() - event.position().y()
        if not self._dragging and abs(travel) < DRAG_STARTS_PX:
            return
        self._dragging = True
        move = pull(self._start, self._model.selected, travel * self.frame().db_per_px)
        if move is not None:
            gesture = f"drag {self._gestures}"
            self._model.attempt(lambda: self._model.move(move, gesture))

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End the gesture: it is one undo step."""
        self._press, self._start, self._dragging = None, None, False
        self._model.document.settle()

    @guarded
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Go to the stage's first value to type it."""
        self.edit_requested.emit()

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nudge the value of the column under the pointer."""
        column = self.column_at(event.position().x())
        steps = event.angleDelta().y() / 120
        if column is None or steps == 0 or self._model.assessment is None:
            return
        self._model.select(column)
        self._nudge(1 if steps > 0 else -1)
        event.accept()

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows choose and nudge, with Alt move; Enter types, Insert puts in, Delete takes out."""
        if event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in (
            Qt.Key.Key_Left,
            Qt.Key.Key_Right,
        ):
            places = 1 if event.key() == Qt.Key.Key_Right else -1
            self._model.attempt(lambda: self._model.shift(self._model.selected, places))
            return
        match event.key():
            case Qt.Key.Key_Insert:
                self.insert_requested.emit()
            case Qt.Key.Key_Left:
                self._model.select(self._model.selected - 1)
            case Qt.Key.Key_Right:
                self._model.select(self._model.selected + 1)
            case Qt.Key.Key_Up:
                self._nudge(1)
            case Qt.Key.Key_Down:
                self._nudge(-1)
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.edit_requested.emit()
            case Qt.Key.Key_Delete:
                self._leave_out()
            case _:
                super().keyPressEvent(event)

    def _nudge(self, steps: int) -> None:
        if self._model.assessment is None:
            return
        move = nudge(self._model.assessment, self._model.selected, steps)
        if move is not None:
            self._model.attempt(lambda: self._model.move(move))

    def _leave_out(self) -> None:
        assessment = self._model.assessment
        if assessment is None or not 0 < self._model.selected < len(assessment.rows) - 1:
            return
        self._model.attempt(lambda: self._model.remove(self._model.selected))

    def _hint(self, x: float) -> None:
        column = self.column_at(x)
        assessment = self._model.assessment
        movable = column is not None and assessment and nudge(assessment, column, 0) is not None
        shape = Qt.CursorShape.SizeVerCursor if movable else Qt.CursorShape.ArrowCursor
        self.setCursor(shape)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Everything, by its painter."""
        self._painter.paint()
