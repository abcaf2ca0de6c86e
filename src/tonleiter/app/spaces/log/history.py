"""The log that lies in the open station's folder: what was read of it, and what is done to all."""

from __future__ import annotations

from pathlib import Path

from tonleiter.app.document import Document
from tonleiter.core.log.arriving import arriving
from tonleiter.core.log.backup import backup
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.offered import unpacked
from tonleiter.core.log.repair import repair
from tonleiter.core.log.store import LogError, LogStore
from tonleiter.core.station.files import STATION_FILE
from tonleiter.core.station.model import Station
from tonleiter.core.words import count_of


class History:
    """``entries`` and ``last``, the station of the last one, are as of the last ``read``."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._store: LogStore | None = None
        self._of: Path | None = None
        self._stamp: object = None
        self.entries: tuple[LogEntry, ...] = ()
        self.last: Station | None = None

    @property
    def store(self) -> LogStore:
        """The log of the station's folder, as it is now."""
        if self._store is None or self._of != self._document.folder:
            self.close()
            self._of = self._document.folder
            self._store = LogStore(self._of, self._document.looks_only)
        return self._store

    @property
    def trouble(self) -> str:
        """Why nothing can be written."""
        if self._document.looks_only:
            return self._document.unwritable
        if not (self._document.folder / STATION_FILE).exists():
            return "save the station first: its log lies beside it"
        return self.store.trouble

    def close(self) -> None:
        """The station is left, or its file is to be replaced."""
        if self._store is not None:
            self._store.close()
        self._store = self._of = self._stamp = None

    def read(self) -> None:
        """Entries, where somebody wrote since they were read last.

        Raises LogError; what was known is forgotten then, and the file opened anew the next time.
        """
        try:
            stamp = (self._document.folder, self.store.stamp)
            if stamp == self._stamp:
                return
            self.entries = self.store.entries()
            self.last = unpacked(self.store.last_state())
            self._stamp = stamp
        except LogError:
            self.entries, self.last = (), None
            self.close()
            raise

    def with_words(self, words: str) -> frozenset[int] | None:
        """Numbers of entries that have all of the words; None where no word is given."""
        if not words.strip():
            return None
        try:
            return frozenset(e.number for e in self.store.entries(find=words))
        except LogError:
            return frozenset()

    def station_of(self, entry: LogEntry) -> Station | None:
        """The station as it stood at an entry; None where it is not known."""
        return unpacked(self.store.state(entry.number)) if entry.number > 0 else None

    def has_station_of(self, entry: LogEntry) -> bool:
        """Whether the station of its day is known."""
        return entry.number > 0 and self.store.state(entry.number) is not None

    # --- all of it -------------------------------------------------------------------------------

    @property
    def may_repair(self) -> bool:
        """Whether the log is damaged, and somebody may write it anew."""
        return not self._document.looks_only and self.store.damaged

    def repair(self) -> str:
        """What can be read is written anew; what was done in words. Raises LogError."""
        self.close()
        made = repair(self._document.folder)
        return (
            f"{count_of(made.entries, 'entry', 'entries')} written anew; the damaged file is"
            f" kept as {made.kept.name}"
        )

    def keep_all(self, file: Path) -> str:
        """The whole station in one file; how it comes back. Raises RefusedError."""
        count = len(backup(self._document.folder, file))
        back = f"tonleiter restore {file.name} FOLDER"
        return f"{file}: {count} files are kept; “{back}” brings them back"

    def take_over(self, file: Path) -> str:
        """Entries of a file of contacts, or of a table: what is valid and new. Raises LogError."""
        if self.trouble:
            raise LogError(self.trouble)
        read = arriving(file, file.name, self.entries)
        self.store.add_all((e, None) for e in read.fresh)
        taken = count_of(len(read.fresh), "entry", "entries")
        said = f"{taken} taken over, {read.known} known already"
        if read.refused:
            said += f", {len(read.refused)} refused: {read.refused[0]}"
        return said
