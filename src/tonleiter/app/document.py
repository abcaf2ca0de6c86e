"""The open document: station and records, where they lie, their history, who else writes them."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import replace
from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from tonleiter.app import turns
from tonleiter.app.drafts import Drafts
from tonleiter.app.held import Lock
from tonleiter.app.safety.trouble import LOG
from tonleiter.app.writing import Writing
from tonleiter.core.log.carry import carry_log
from tonleiter.core.log.photos import carry_photos
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.autosave import Autosave, sweep_own, write_autosave
from tonleiter.core.station.begin import named
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.edits import open_chain
from tonleiter.core.station.files import (
    RECORDS_FILE,
    STATION_FILE,
    SUFFIX,
    Opened,
    moved_to,
    present_fingerprint,
    read_station,
    save_station,
    stands_in_the_way,
)
from tonleiter.core.station.history import History
from tonleiter.core.station.kept_sound import carry
from tonleiter.core.station.model import Station
from tonleiter.core.station.records import Records
from tonleiter.core.station.refusal import one_line
from tonleiter.core.station.undrawn import undrawn
from tonleiter.core.station.unplaced import give_up, is_slight, is_unplaced

# unsaved work is kept when the hand has rested this long, and at the latest after the second time
KEEP_AFTER_MS, KEEP_AT_LEAST_MS = 3_000, 15_000
# watching the file misses what happens on a network: it is also looked at now and then
LOOK_EVERY_MS = 5_000


# what cannot be done to a station that is only looked at
LOOKED_AT = (
    "this station is only looked at: nothing is written into it; save it in another folder"
    " (Ctrl+Shift+S) to work on a copy"
)


class EditRefusedError(RefusedError):
    """An edit would not give a valid station; the message is one line for the user."""


class Document(QObject):
    """One station folder. Every edit goes through ``edit`` and can be undone.

    One that ``looks_only`` can be tried out on; nothing is ever written into its folder.
    """

    changed = Signal()
    saved_changed = Signal()
    changed_outside = Signal()
    left_behind: tuple[str, ...] = ()
    """Recordings that could not be carried along by the last save into another folder."""

    def __init__(self, opened: Opened, looks_only: bool = False) -> None:
        super().__init__()
        self.folder: Path = opened.folder
        self.lock = None if looks_only else Lock(opened.folder)
        # where somebody else works on it, it is looked at until somebody says otherwise
        self.looks_only = self.lock is None or self.lock.holder is not None
        self.drafts = Drafts()
        self._opened = opened
        self._saved = (opened.station, opened.records)
        # what was last read or written, by folder: nothing else is replaced without being kept
        self._known = {self._resolved(opened.folder): opened.fingerprint}
        self._seen_outside: str | None = opened.fingerprint
        self.history = History.start(opened.station, opened.records)
        self._kept = self._given_up = False
        self._writing, self.is_saving = Writing(), False
        self._keep_soon, self._keep_at_last = QTimer(self), QTimer(self)
        for timer, after in (
            (self._keep_soon, KEEP_AFTER_MS),
            (self._keep_at_last, KEEP_AT_LEAST_MS),
        ):
            timer.setSingleShot(True)
            timer.setInterval(after)
            timer.timeout.connect(self._keep_behind)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self.look_outside)
        self._watcher.directoryChanged.connect(self.look_outside)
        self._look = QTimer(self)
        self._look.setInterval(LOOK_EVERY_MS)
        self._look.timeout.connect(self.look_outside)

    @classmethod
    def open(cls, path: Path, looks_only: bool = False) -> Document:
        """Open a station folder, or only look at it. Raises FileError."""
        return cls(read_station(path, keeps=not looks_only), looks_only)

    @property
    def placed(self) -> bool:
        """Whether it lies where somebody put it; a new one does not, until it is saved."""
        return not is_unplaced(self.folder)

    def give_up(self) -> bool:
        """A station without a place is not wanted; whether nothing else lay with it."""
        self._keep_soon.stop()
        self._keep_at_last.stop()
        self.sweep()
        self._given_up = is_slight(self.folder)
        return self._given_up

    @property
    def unwritable(self) -> str:
        """Why nothing may be written into the folder; empty where it may."""
        return LOOKED_AT if self.looks_only else ""

    def work_here(self) -> None:
        """Nobody else works on it any more, somebody says: the lock is ours now."""
        if self.lock is None:
            self.lock = Lock(self.folder)
        if self.lock.holder is not None:
            self.lock.take_over()
        self.looks_only = self.lock.holder is not None
        self.saved_changed.emit()

    @property
    def station(self) -> Station:
        """The station as it is now."""
        return self.history.present.station

    @property
    def records(self) -> Records:
        """What was read and set with it, as it is now."""
        return self.history.present.records

    @property
    def is_saved(self) -> bool:
        """Whether there is nothing to be saved: what is only looked at never has anything."""
        return self.looks_only or (self.station, self.records) == self._saved

    @property
    def backup(self) -> Path | None:
        """Where the file of an older version was kept when it was read."""
        return self._opened.backup

    # --- edits -----------------------------------------------------------------------------------

    @turns.at_work()
    def edit(
        self, label: str, change: Callable[[Station], Station], gesture: str | None = None
    ) -> None:
        """Apply an edit as one undo step; edits of one ``gesture`` share a step.

        Raises EditRefusedError and leaves everything as it was if the result is not valid.
        """
        try:
            station = undrawn(change(self.station), self.station)
        except ValidationError as error:
            raise EditRefusedError(one_line(error, None)) from None
        self._take(self.history.push(station, label, gesture))

    def look_at_chain(self, chain: str) -> None:
        """Another chain is open, as it had been left: no step to undo, nothing to be saved."""
        station = open_chain(self.station, chain)
        self.history = History.start(station, self.records)
        self._saved = (station, self._saved[1])
        self.changed.emit()
        self.saved_changed.emit()

    def note(self, label: str, change: Callable[[Records], Records]) -> None:
        """Change the records as one undo step. Raises EditRefusedError."""
        try:
            records = change(self.records)
        except ValidationError as error:
            raise EditRefusedError(one_line(error, None, Records)) from None
        self._take(self.history.push(self.station, label, None, records))

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

    @turns.at_work()
    def _take(self, history: History) -> None:
        before, now = self.history.present, history.present
        self.history = history
        if now.station is not before.station or now.records is not before.records:
            self._keep_soon.start()
            if not self._keep_at_last.isActive():
                self._keep_at_last.start()
            self.changed.emit()
            self.saved_changed.emit()

    # --- unsaved work ----------------------------------------------------------------------------

    def keep(self) -> None:
        """Keep unsaved work beside the station; sweep it where nothing is unsaved any more."""
        self._keep_behind()
        self._writing.finish()

    def _keep_behind(self) -> None:
        """Keep it while the hand goes on."""
        self._keep_soon.stop()
        self._keep_at_last.stop()
        if self.is_saved:
            self.sweep()
            return
        self._kept = True
        write = partial(write_autosave, self.station, self.folder, self.records)
        self._writing.begin(write, self._is_kept)

    def _is_kept(self, written: Future[Path]) -> None:
        try:
            written.result()
        except OSError as error:
            LOG.warning("no autosave for %s: %s", self.folder, error)

    def sweep(self) -> None:
        """What was kept is saved, or was given up."""
        self._writing.finish()
        if self._kept:
            sweep_own(self.folder)
            self._kept = False

    def close(self) -> None:
        """Saved or given up: nothing is kept, nothing watched any more."""
        self._writing.close()
        self._keep_soon.stop()
        self._keep_at_last.stop()
        self._look.stop()
        self.sweep()
        if self.lock is not None:
            self.lock.let_go()
        # nothing was done to a station without a place, or what was done is not wanted
        if not self.placed and (self._given_up or self._is_as_begun()):
            with contextlib.suppress(FileError):
                give_up(self.folder)
        if paths := [*self._watcher.files(), *self._watcher.directories()]:
            self._watcher.removePaths(paths)

    def _is_as_begun(self) -> bool:
        return not self.history.past and not self.history.future and not self.looks_only

    def take_autosave(self, kept: Autosave) -> None:
        """Take over work that was kept by an application that ended, as a step to be undone."""
        self._take(self.history.push(kept.station, "edits that were not saved", None, kept.records))
        self.keep()
        self.drop_autosave(kept)

    def finish_writing(self) -> None:
        """Wait for what is written behind the window."""
        self._writing.finish()

    @staticmethod
    def drop_autosave(kept: Autosave) -> None:
        """It is taken over, or not wanted."""
        with contextlib.suppress(OSError):
            kept.file.unlink()

    # --- saving ----------------------------------------------------------------------------------

    @staticmethod
    def _resolved(folder: Path) -> Path:
        return folder.resolve()

    def in_the_way(self, folder: Path) -> bool:
        """Whether a save into ``folder`` would replace something that was not read or written here.

        Raises FileError.
        """
        try:
            return stands_in_the_way(folder, self._known.get(self._resolved(folder))) is not None
        except (OSError, RuntimeError, ValueError):
            return False  # the save itself will say why it cannot

    def save(self, folder: Path | None = None) -> tuple[Path, ...]:
        """Save here or into ``folder``; returns the copies kept of somebody else's files.

        A folder that was renamed meanwhile is followed. Raises FileError; the document then stays
        as it is, unsaved.
        """
        self._writing.finish()
        if self.looks_only and (folder is None or self._is_here(folder)):
            raise FileError(LOOKED_AT)
        target = self._where() if folder is None else folder
        if not self.placed and not is_unplaced(target):
            self._name_after(target)
        opened = self._writer(target)()
        self.left_behind = ()
        if target != self.folder:
            self.left_behind = carry(self.records.recordings, self.folder, target)
            theirs, why = carry_log(self.folder, target)
            opened = replace(opened, kept=(*opened.kept, *theirs))
            photos = carry_photos(self.folder, target)
            self.left_behind = (*self.left_behind, *photos, *filter(None, [why]))
            self.sweep()
            self._move_lock(target)
        left, self.folder = self.folder, target
        if is_unplaced(left) and target != left and not self.left_behind:
            with contextlib.suppress(FileError):
                give_up(left, whole=True)
        self._is_saved_as(opened)
        return opened.kept

    def save_behind(self, then: Callable[[tuple[Path, ...] | FileError], None]) -> None:
        """Save here while the hand goes on; edits meanwhile are not in it.

        ``then`` is given what ``save`` would return, or raise. Raises FileError where nothing may
        be written.
        """
        self._writing.finish()
        if not self.placed or self.looks_only or self._where() != self.folder:
            then(self.save())
            return
        self.is_saving = True
        self._writing.begin(self._writer(self.folder), partial(self._is_written, then))

    def _is_written(
        self,
        then: Callable[[tuple[Path, ...] | FileError], None],
        written: Future[Opened],
    ) -> None:
        self.is_saving = False
        try:
            opened = written.result()
        except FileError as error:
            then(error)
            return
        self.left_behind = ()
        self._is_saved_as(opened)
        then(opened.kept)

    def _writer(self, target: Path) -> Callable[[], Opened]:
        """What writes station and records as they are now, and replaces nothing unseen."""
        known = self._known.get(self._resolved(target))
        older = self._opened.older if target == self._opened.folder else None
        return partial(save_station, self.station, target, known, older, self.records)

    def _is_saved_as(self, opened: Opened) -> None:
        """Station and records lie in the folder, as they were when that was begun."""
        self._saved = (opened.station, opened.records)
        self._known[self._resolved(self.folder)] = self._seen_outside = opened.fingerprint
        self._opened = replace(opened, backup=self._opened.backup)
        self._keep_behind()
        self.watch()
        self.saved_changed.emit()

    def _name_after(self, target: Path) -> None:
        """A station that nobody titled is titled by its first place."""
        titled = named(self.station, target.name.removesuffix(SUFFIX))
        if titled is not self.station:
            self._take(self.history.push(titled, "title", None))

    def _is_here(self, folder: Path) -> bool:
        return self._resolved(folder) == self._resolved(self.folder)

    def _move_lock(self, target: Path) -> None:
        """From the folder that was left to the one that is worked in now."""
        if self.lock is not None:
            self.lock.let_go()
        self.lock, self.looks_only = Lock(target), False

    def _where(self) -> Path:
        """The folder, under the name it has now."""
        identity = self._opened.identity
        if identity is None:
            return self.folder
        found = moved_to(self.folder, identity)
        if found is None:
            raise FileError(
                f"{self.folder}: the folder is not there any more; put it back, or save in another"
                " one (Ctrl+Shift+S); your edits are still open"
            )
        if found != self.folder:
            self._known[self._resolved(found)] = self._opened.fingerprint
        return found

    # --- other people ----------------------------------------------------------------------------

    def watch(self) -> None:
        """Notice when somebody else writes the file, or renames the folder."""
        files = (STATION_FILE, RECORDS_FILE)
        wanted = {str(self.folder / f) for f in files if (self.folder / f).exists()}
        wanted |= {str(self.folder), str(self.folder.parent)}
        present = {*self._watcher.files(), *self._watcher.directories()}
        if gone := present - wanted:
            self._watcher.removePaths([*gone])
        if new := wanted - present:
            self._watcher.addPaths([*new])
        self._look.start()

    def look_outside(self) -> None:
        """See whether the file is still the one that was read or written last; tell if not."""
        if self.is_saving:
            return
        identity = self._opened.identity
        if identity is not None:
            found = moved_to(self.folder, identity)
            if found is not None and found != self.folder:
                self._known[self._resolved(found)] = self._opened.fingerprint
                self.folder = found
                self.watch()
                self.saved_changed.emit()
        try:
            now = present_fingerprint(self.folder)
        except (OSError, FileError):
            return  # being written, or gone: saving will say so
        with contextlib.suppress(RuntimeError):
            self.watch()  # a file that was replaced is watched anew
        if now == self._seen_outside:
            return
        self._seen_outside = now
        if now != self._known.get(self._resolved(self.folder)):
            self.changed_outside.emit()

    def take_theirs(self) -> None:
        """Take over what somebody else saved, as one step that can be undone. Raises FileError."""
        self._writing.finish()
        opened = read_station(self.folder)
        self._opened = replace(opened, folder=self.folder)
        self._known[self._resolved(self.folder)] = self._seen_outside = opened.fingerprint
        self._saved = (opened.station, opened.records)
        self._take(
            self.history.push(opened.station, "what somebody else saved", None, opened.records)
        )
        self.saved_changed.emit()
