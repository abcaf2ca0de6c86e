"""What the Gear space's views share: the document, what is chosen, edits."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from tonleiter.app.document import Document, EditRefusedError
from tonleiter.core.gear.base import Gear
from tonleiter.core.station import edits
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.model import Station
from tonleiter.core.station.pieces import read_piece, save_piece

ADD, PEOPLE, ROOM, DRAWER = "\0add", "\0people", "\0room", "\0drawer"


class GearModel(QObject):
    """The chosen piece by id, or one of the other places: adding, people, room, drawer."""

    changed = Signal()
    selection_changed = Signal()
    refused = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.as_guest = False
        gear = document.station.gear
        self.selected = gear[0].id if gear else ADD
        document.changed.connect(self._follow)

    @property
    def station(self) -> Station:
        """The station as it is now."""
        return self.document.station

    @property
    def piece(self) -> Gear | None:
        """The chosen piece."""
        return self.station.gear_by_id.get(self.selected)

    def _follow(self) -> None:
        if not self.selected.startswith("\0") and self.piece is None:
            gear = self.station.gear
            self.selected = gear[0].id if gear else ADD
            self.selection_changed.emit()
        self.changed.emit()

    def select(self, what: str) -> None:
        """Choose a piece by its id, or another place."""
        if what != self.selected:
            self.selected = what
            self.selection_changed.emit()

    def start_adding(self, guest: bool) -> None:
        """Go to the questions; what is added is mine, or a guest."""
        self.as_guest = guest
        self.select(ADD)
        self.selection_changed.emit()

    # --- edits -----------------------------------------------------------------------------------

    def edit(
        self, words: str, change: Callable[[Station], Station], gesture: str | None = None
    ) -> str:
        """Apply an edit; returns the refusal, empty if it was taken."""
        try:
            self.document.edit(words, change, gesture)
        except EditRefusedError as error:
            self.refused.emit(str(error))
            return str(error)
        return ""

    def set_value(self, field: str, value: object, gesture: str | None = None) -> str:
        """Set a field of the chosen piece, everywhere it is used."""
        piece = self.piece
        if piece is None:
            return ""
        return self.edit(field, lambda s: edits.change_gear(s, piece.id, **{field: value}), gesture)

    def add(self, gear: Gear) -> None:
        """Put a piece on the shelf and choose it."""
        arrived = gear.with_values({"guest": self.as_guest}) if self.as_guest else gear
        before = set(self.station.gear_by_id)
        if self.edit(f"add {gear.name}", lambda s: edits.add_gear(s, arrived)):
            return
        self.as_guest = False
        self.select(next(g.id for g in self.station.gear if g.id not in before))

    def duplicate(self) -> None:
        """A copy of the chosen piece, chosen."""
        piece = self.piece
        if piece is not None:
            copy = piece.with_values({"name": f"{piece.name}, copy"[:80]})
            before = set(self.station.gear_by_id)
            if not self.edit("duplicate", lambda s: edits.add_gear(s, copy)):
                self.select(next(g.id for g in self.station.gear if g.id not in before))

    def remove(self) -> None:
        """Take the chosen piece off the shelf."""
        piece = self.piece
        if piece is not None:
            self.edit(f"remove {piece.name}", lambda s: edits.remove_gear(s, piece.id))

    # --- files -----------------------------------------------------------------------------------

    def import_file(self, file: Path) -> bool:
        """Add a piece from its file; a refusal is told."""
        try:
            gear = read_piece(file)
        except FileError as error:
            self.refused.emit(str(error))
            return False
        self.add(gear)
        return True

    def export_file(self, file: Path) -> bool:
        """Write the chosen piece; a refusal is told."""
        piece = self.piece
        if piece is None:
            return False
        try:
            save_piece(piece, file)
        except FileError as error:
            self.refused.emit(str(error))
            return False
        return True
