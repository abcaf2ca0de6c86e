"""The open document: where it lies, its history, whether it is saved."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import QObject, Signal

from tonleiter.core.station.files import Opened, read_station, save_station
from tonleiter.core.station.history import History
from tonleiter.core.station.model import Station
from tonleiter.core.station.refusal import one_line


class EditRefusedError(Exception):
    """An edit would not give a valid station; the message is one line for the user."""


class Document(QObject):
    """One station folder. Every edit goes through ``edit`` and can be undone."""

    changed = Signal()
    saved_changed = Signal()

    def __init__(self, opened: Opened) -> None:
        super().__init__()
        self.folder: Path = opened.folder
        self._fingerprint: str | None = opened.fingerprint
        self._saved: Station = opened.station
        self.history = History.start(opened.station)

    @classmethod
    def open(cls, path: Path) -> Document:
        """Open a station folder. Raises FileError."""
        return cls(read_station(path))

    @property
    def station(self) -> Station:
        """The station as it is now."""
        return self.history.present.station

    @property
    def is_saved(self) -> bool:
        """Whether the station on disk is this one."""
        return self.station == self._saved

    def edit(
        self, label: str, change: Callable[[Station], Station], gesture: str | None = None
    ) -> None:
        """Apply an edit as one undo step; edits of one ``gesture`` share a step.

        Raises EditRefusedError and leaves everything as it was if the result is not valid.
        """
        try:
            station = change(self.station)
        except ValidationError as error:
            raise EditRefusedError(one_line(error, None)) from None
        self._take(self.history.push(station, label, gesture))

    def settle(self) -> None:
        """End a gesture."""
        self.history = self.history.settled()

    def undo(self) -> str:
        """Undo a step and return its label, empty if there was none."""
        label = self.history.present.label if self.history.past else ""
        self._take(self.history.undo())
        return label

    def redo(self) -> str:
        """Redo a step and return its label, empty if there was none."""
        before = self.history
        self._take(self.history.redo())
        return self.history.present.label if self.history is not before else ""

    def _take(self, history: History) -> None:
        before = self.station
        self.history = history
        if history.present.station is not before:
            self.changed.emit()
            self.saved_changed.emit()

    def save(self, folder: Path | None = None) -> Path | None:
        """Save here or into ``folder``; returns a copy kept of somebody else's file, if any.

        Raises FileError; the document then stays as it is, unsaved.
        """
        target = folder or self.folder
        known = self._fingerprint if target == self.folder else None
        opened = save_station(self.station, target, known)
        self.folder, self._fingerprint, self._saved = target, opened.fingerprint, opened.station
        self.saved_changed.emit()
        return opened.backup
