"""The chosen piece: its name, schematic, figures with their origin, notes; copy, trade, remove."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetrics, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QBoxLayout,
    QCheckBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QVBoxLayout,
)

from tonleiter.app.derived import Derived
from tonleiter.app.document import EditRefusedError
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.reckoning import Reckoning
from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.gear.model import BOX, LEARN, GearModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.drawing.large import LargeDrawing
from tonleiter.app.widgets.drawing.widget import DrawingView
from tonleiter.app.widgets.figure_form import FigureForm, add_section, plain_grid, word_fields
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.lines_field import LinesField
from tonleiter.app.widgets.panel import Panel, clear
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.gear.base import Gear
from tonleiter.core.match.terms import usual_terms
from tonleiter.core.report.drawings import draw_piece
from tonleiter.core.report.glance import glance
from tonleiter.core.report.results import Line
from tonleiter.core.station.edits import uses_of
from tonleiter.core.station.pieces import SUFFIX
from tonleiter.core.station.shelf import known_figures
from tonleiter.core.words import count_of, sentence, the

SCHEMATIC_PX = 330
ROWS_A_COLUMN = 7
NARROW_BELOW_PX = 540
# words of a link break into lines where they are longer
LINK_PX = 240


class PieceEditor(Panel):
    """Built anew for another piece; refreshed in place while figures change."""

    # a page of the manual that somebody wants
    read = Signal(str)

    def __init__(self, model: GearModel, look: Look, reckoning: Reckoning, jobs: Jobs) -> None:
        super().__init__("center", (24, 14, 20, 16))
        self._model, self._look, self._reckoning = model, look, reckoning
        self._built_for: tuple[object, ...] = ()
        self._form: FigureForm | None = None
        self._schematic: DrawingView | None = None
        self._cards: LinesField | None = None
        self._caption = label("", "caption", wraps=True)
        self._asks_removal = False
        # solved behind the window: a page that is built anew need not solve it again
        self._glanced: Derived[list[Line]] = model.derive(jobs, Wait.HAND, self._show_lines)
        self.name = TextField("", "")
        self.notes = LinesField("", "Notes")
        self.guest = QCheckBox()
        self.refusal = label("", "refusal", wraps=True)
        model.changed.connect(self.refresh)
        model.selection_changed.connect(self._other)
        reckoning.changed.connect(self.refresh)
        self.refresh()

    def _other(self) -> None:
        self._asks_removal = False
        self.refresh()

    @property
    def form(self) -> FigureForm:
        """Entries of the piece that is shown."""
        assert self._form is not None
        return self._form

    def refresh(self) -> None:
        """Show the chosen piece as it is now; out of sight that waits until it is seen.

        Before it is seen its width is not known either, and so not whether there are two columns.
        """
        piece = self._model.piece
        if piece is None or not self.isVisible():
            return
        wanted = (
            piece.id,
            piece.kind_id,
            piece.idle_fields(),
            self._look.scale,
            self._asks_removal,
            self._narrow(),
            self._model.station.device_by_port.get(piece.id),
        )
        if wanted != self._built_for:
            self._built_for = wanted
            self._build(piece)
        self._show(piece)

    def _narrow(self) -> bool:
        """Whether there is room for one column only."""
        return self.width() < self._look.px(NARROW_BELOW_PX)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """One column or two."""
        super().resizeEvent(event)
        self.refresh()

    @guarded
    def showEvent(self, event: QShowEvent) -> None:
        """Catch up with what was not shown out of sight."""
        super().showEvent(event)
        self.refresh()

    # --- building --------------------------------------------------------------------------------

    def _build(self, piece: Gear) -> None:
        column = self.begin(spacing=8)
        self.refusal = label("", "refusal", wraps=True)
        column.addLayout(self._head(piece))
        if self._asks_removal:
            column.addWidget(self._question(piece))
        column.addWidget(self.refusal)
        self._form = FigureForm(
            self._look,
            piece,
            partial(self._model.set_value_of, piece.id),
            self._refuse,
            self._model.document.settle,
            self._model.document.drafts,
            partial(self._model.select, LEARN),
        )
        column.addLayout(self._first_row(piece))
        column.addLayout(self._facts(piece))
        column.addWidget(label("Notes", "section"))
        drafts = self._model.document.drafts
        self.notes = LinesField(
            piece.notes, f"Notes on {the(piece.name)}", drafts, (piece.id, "notes")
        )
        self.notes.setPlaceholderText("Where it came from, what was changed in it, who lent it")
        self.notes.setFixedHeight(self._look.px(64))
        self.notes.accepted.connect(partial(self._take_text, piece.id, "notes", self.notes))
        column.addWidget(self.notes)
        self.finish(column)

    def _head(self, piece: Gear) -> QVBoxLayout:
        self.name = TextField(
            piece.name, "Name of the piece", self._model.document.drafts, (piece.id, "name")
        )
        self.name.setObjectName("name")
        self.name.setMaxLength(80)
        self.name.accepted.connect(partial(self._take_text, piece.id, "name", self.name))
        self._caption = label("", "caption", wraps=True)
        self.guest = QCheckBox("a guest: not mine")
        self.guest.setToolTip("Seen in Match as something to buy")
        self.guest.clicked.connect(
            lambda on: self._model.attempt(lambda: self._model.set_value("guest", on))
        )
        both = QVBoxLayout()
        both.setSpacing(4)
        buttons = [
            button(words, "plain", action)
            for words, action in (
                ("Duplicate", lambda: self._model.attempt(self._model.duplicate)),
                ("Export…", self.ask_export),
                ("Remove…", self.ask_removal),
            )
        ]
        about = button("what it is", "link", partial(self.read.emit, f"kind/{piece.kind_id}"))
        about.setToolTip("Its page of the manual")
        links: list[QAbstractButton] = [about]
        box = self._model.station.device_by_port.get(piece.id)
        if box is not None:
            words = (
                f"a socket of {the(box.name)}" if len(box.ports) > 1 else "its box, more sockets"
            )
            select = partial(self._model.select, BOX + box.id)
            metrics, room = QFontMetrics(self._look.font(14, 600)), self._look.px(LINK_PX)
            links.append(wrapped_button(words, "link", select, metrics, room))
        links.append(self.guest)
        if self._narrow():
            both.addWidget(self.name)
            both.addLayout(Flow(*buttons))
            both.addWidget(self._caption)
            both.addLayout(Flow(*links))
            return both
        for first, others in ((self.name, buttons), (self._caption, links)):
            row = QHBoxLayout()
            row.setSpacing(8)
            row.addWidget(first, 1)
            for other in others:
                row.addWidget(other)
            both.addLayout(row)
        return both

    def _question(self, piece: Gear) -> QFrame:
        """What removing would take along, said before it is done."""
        frame = QFrame()
        frame.setObjectName("card")
        column = QVBoxLayout(frame)
        column.setContentsMargins(14, 10, 14, 10)
        uses = uses_of(self._model.station, piece.id)
        if uses:
            says = f"{sentence(the(piece.name))} stands in {count_of(len(uses), 'path')}:"
            ends = piece.role != "between"
            then = (
                "Removing it removes these paths."
                if ends
                else "Removing it takes it out of them; the rest stays."
            )
            column.addWidget(label(says, "title", wraps=True))
            column.addWidget(label("\n".join(uses), "sub", wraps=True))
            column.addWidget(label(f"{then} It can be undone.", "caption", wraps=True))
        else:
            column.addWidget(label(f"Nothing uses {the(piece.name)}.", "title", wraps=True))
        row = QHBoxLayout()
        row.addWidget(button("Remove it", "plain", lambda: self._model.attempt(self._model.remove)))
        row.addWidget(button("Keep it", "plain", self.keep))
        row.addStretch(1)
        column.addLayout(row)
        return frame

    def _first_row(self, piece: Gear) -> QBoxLayout:
        """The schematic, and beside it what it gives and how it is set."""
        row: QBoxLayout = QVBoxLayout() if self._narrow() else QHBoxLayout()
        row.setSpacing(8 if self._narrow() else 24)
        left = QVBoxLayout()
        self._schematic = DrawingView(self._look)
        self._schematic.opened.connect(self.open_drawing)
        self._schematic.setMaximumWidth(self._look.px(SCHEMATIC_PX))
        left.addWidget(self._schematic)
        left.addStretch(1)
        row.addLayout(left, 1)
        right = QVBoxLayout()
        self._glance_of: object = None
        self._glance = plain_grid()
        right.addLayout(self._glance)
        chosen = [f for f in self._fields(piece) if f in piece.choices]
        if chosen:
            right.addWidget(label("How it is set", "section"))
            grid = plain_grid()
            add_section(self.form, grid, piece, chosen, tagged=False)
            right.addLayout(grid)
        if piece.lines_field is not None:
            right.addWidget(label("Its cards", "section"))
            self._cards = LinesField(
                getattr(piece, piece.lines_field),
                f"Netlist cards of {the(piece.name)}",
                self._model.document.drafts,
                (piece.id, piece.lines_field),
            )
            self._cards.setFixedHeight(self._look.px(150))
            self._cards.accepted.connect(
                partial(self._take_text, piece.id, piece.lines_field, self._cards)
            )
            right.addWidget(self._cards)
        right.addStretch(1)
        row.addLayout(right, 1)
        return row

    def _facts(self, piece: Gear) -> QVBoxLayout:
        """Facts under their headings, in two columns."""
        column = QVBoxLayout()
        column.setSpacing(6)
        facts = [f for f in self._fields(piece) if f not in piece.choices]
        for section in piece.sections:
            fields = [f for f in facts if piece.section(f) == section]
            if not fields:
                continue
            column.addWidget(label(section, "section"))
            two = len(fields) > ROWS_A_COLUMN // 2 and not self._narrow()
            half = (len(fields) + 1) // 2 if two else len(fields)
            sides = QHBoxLayout()
            sides.setSpacing(28)
            for part in (fields[:half], fields[half:]) if two else (fields,):
                grid: QGridLayout = plain_grid()
                add_section(self.form, grid, piece, part, tagged=True)
                side = QVBoxLayout()
                side.addLayout(grid)
                side.addStretch(1)
                sides.addLayout(side, 1)
            column.addLayout(sides)
        return column

    def _fields(self, piece: Gear) -> list[str]:
        idle = piece.idle_fields()
        figures, words = piece.figures(), word_fields(piece)
        return [
            f for f in type(piece).model_fields if (f in figures or f in words) and f not in idle
        ]

    # --- showing ---------------------------------------------------------------------------------

    def _show(self, piece: Gear) -> None:
        self.name.show_text(piece.name)
        known = known_figures(piece)
        count = f"{known.known} of {known.of} figures known"
        self._caption.setText(f"{piece.noun}: {piece.what}; {count}.")
        self.guest.setChecked(piece.guest)
        self.notes.show_text(piece.notes)
        learned = self._reckoning.learned
        self.form.show(piece, learned.gear_by_id.get(piece.id) if learned is not None else None)
        if self._cards is not None and piece.lines_field is not None:
            self._cards.show_text(getattr(piece, piece.lines_field))
        if self._schematic is not None:
            self._schematic.show_sheet(draw_piece(piece).sheet)
        self._show_glance(piece)

    def _show_glance(self, piece: Gear) -> None:
        """What it gives or wants, solved by itself; again only when something changed."""
        station = self._model.station
        terms = usual_terms(station)
        self._glanced.want(
            (piece, terms, station.room_noise_dba), lambda _: glance(station, piece, terms)
        )
        self._show_lines()

    def _show_lines(self) -> None:
        """What was known before an edit stays until what it led to is known."""
        lines = self._glanced.current
        if lines is None or lines is self._glance_of:
            return
        self._glance_of = lines
        clear(self._glance)
        for k, line in enumerate(lines):
            self._glance.addWidget(label(line.name, "sub", wraps=True), k, 0)
            value = label(line.value, "figure")
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            self._glance.addWidget(value, k, 1)

    def _refuse(self, why: str) -> None:
        self.refusal.setText(why)

    # --- hands -----------------------------------------------------------------------------------

    def _take_text(
        self, gear_id: str, field: str, entry: LinesField | TextField, text: str
    ) -> None:
        """What is refused stays as typed, with one line that says why."""

        def take() -> None:
            if field == "name" and not text.strip():
                raise EditRefusedError("a piece needs a name")
            self._model.set_value_of(gear_id, field, text)

        self._refuse(entry.offer(take))

    def open_drawing(self) -> None:
        """The piece's drawing large, with its parts."""
        piece = self._model.piece
        if piece is not None:
            self.large = LargeDrawing(draw_piece(piece), piece.name, self._look, self)
            self.large.open()

    def ask_removal(self) -> None:
        """Show what uses the piece, and ask."""
        self._asks_removal = True
        self.refresh()
        self.area.ensureVisible(0, 0)

    def keep(self) -> None:
        """Rather not."""
        self._asks_removal = False
        self.refresh()

    def ask_export(self) -> None:
        """Ask for a file and write the piece there."""
        piece = self._model.piece
        if piece is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Export a piece", f"{piece.id}{SUFFIX}", "Pieces (*.json)"
        )
        if name:
            self._model.export_file(Path(name))

    @guarded
    def keyPressEvent(self, event: object) -> None:
        """Escape keeps the piece."""
        if self._asks_removal and getattr(event, "key", lambda: None)() == Qt.Key.Key_Escape:
            self.keep()
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]
