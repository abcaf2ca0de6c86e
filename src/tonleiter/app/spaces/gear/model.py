"""What the Gear space's views share: the document, what is chosen, edits."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal

from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.editing import Editing
from tonleiter.core.gear.base import Gear
from tonleiter.core.station import boxes, edits
from tonleiter.core.station.box_files import Arrived, read_arrival
from tonleiter.core.station.devices import Device
from tonleiter.core.station.pieces import save_piece

ADD, PEOPLE, ROOM, DRAWER = "\0add", "\0people", "\0room", "\0drawer"
GROUNDS, LEARN, BOX = "\0grounds", "\0learn", "\0box:"


class GearModel(Editing):
    """The chosen piece by id, or one of the other places: adding, people, room, drawer."""

    changed = Signal()
    selection_changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.as_guest = False
        gear = document.station.gear
        self.selected = gear[0].id if gear else ADD
        document.changed.connect(self._follow)

    @property
    def piece(self) -> Gear | None:
        """The chosen piece."""
        return self.station.gear_by_id.get(self.selected)

    @property
    def box(self) -> Device | None:
        """The chosen box."""
        if not self.selected.startswith(BOX):
            return None
        return self.station.device_by_id.get(self.selected.removeprefix(BOX))

    def select_box(self, box_id: str) -> None:
        """Choose a box; one that is a piece by itself is chosen as that."""
        box = self.station.device_by_id[box_id]
        only = box.ports[0] if len(box.ports) == 1 else None
        alone = only is not None and box.name == self.station.gear_by_id[only].name
        self.select(only if alone and only is not None else f"{BOX}{box_id}")

    def _follow(self) -> None:
        if self.selected.startswith(BOX) and self.box is None:
            self.select(self.station.gear[0].id if self.station.gear else ADD)
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

    def set_value(self, field: str, value: object, gesture: str | None = None) -> None:
        """Set a field of the chosen piece, everywhere it is used. Raises EditRefusedError."""
        piece = self.piece
        if piece is not None:
            self.set_value_of(piece.id, field, value, gesture)

    def set_value_of(
        self, gear_id: str, field: str, value: object, gesture: str | None = None
    ) -> None:
        """Set a field of a piece, everywhere it is used. Raises EditRefusedError."""
        if gear_id not in self.station.gear_by_id:
            raise EditRefusedError("this piece is not on the shelf any more")
        self.edit(field, lambda s: edits.change_gear(s, gear_id, **{field: value}), gesture)

    def add(self, gear: Gear) -> None:
        """Put a piece on the shelf and choose it. Raises EditRefusedError."""
        arrived = gear.with_values({"guest": self.as_guest}) if self.as_guest else gear
        self._add(f"add {gear.name}", arrived)
        self.as_guest = False

    def _add(self, words: str, gear: Gear) -> None:
        before = set(self.station.gear_by_id)
        self.edit(words, lambda s: edits.add_gear(s, gear))
        self.select(next(g.id for g in self.station.gear if g.id not in before))

    def duplicate(self) -> None:
        """A copy of the chosen piece, chosen. Raises EditRefusedError."""
        piece = self.piece
        if piece is not None:
            self._add("duplicate", piece.with_values({"name": f"{piece.name}, copy"[:80]}))

    def remove(self) -> None:
        """Take the chosen piece off the shelf. Raises EditRefusedError."""
        piece = self.piece
        if piece is not None:
            self.edit(f"remove {piece.name}", lambda s: edits.remove_gear(s, piece.id))

    # --- files -----------------------------------------------------------------------------------

    def import_file(self, file: Path) -> bool:
        """Add a piece or a box from its file; a refusal is told."""

        def take() -> None:
            arrived = read_arrival(file)
            if arrived.device is None:
                self.add(arrived.sockets[0])
            else:
                self._arrive(arrived)

        return self.attempt(take)

    def _arrive(self, arrived: Arrived) -> None:
        before = set(self.station.device_by_id)
        self.edit(f"add {arrived.name}", arrived.put_on)
        self.select_box(next(d.id for d in self.station.devices if d.id not in before))

    def add_box(self, device: Device, sockets: tuple[Gear, ...]) -> None:
        """Put a box with its sockets on the shelf and choose it. Raises EditRefusedError."""
        guests = tuple(g.with_values({"guest": self.as_guest}) for g in sockets)
        before = set(self.station.device_by_id)
        self.edit(f"add {device.name}", lambda s: boxes.add_device(s, device, guests))
        self.as_guest = False
        self.select(BOX + next(d.id for d in self.station.devices if d.id not in before))

    def export_file(self, file: Path) -> bool:
        """Write the chosen piece; a refusal is told."""
        piece = self.piece
        return piece is not None and self.attempt(lambda: save_piece(piece, file))
