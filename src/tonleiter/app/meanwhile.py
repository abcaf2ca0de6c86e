"""Unsaved work of before, and what others saved meanwhile: offered, never taken in silence."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject

from tonleiter.app.document import Document
from tonleiter.app.notice import Notice
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.autosave import Autosave, found_autosaves, set_aside
from tonleiter.core.station.compare import differences
from tonleiter.core.words import listed


class Meanwhile(QObject):
    """Asks by the notice; ends with the session whose document it looks after."""

    def __init__(self, session: QObject, document: Document, notice: Notice) -> None:
        super().__init__(session)
        self.document, self._notice = document, notice
        document.changed_outside.connect(self._tell_outside)
        if document.looks_only:
            self._tell_looking()
            return
        if document.backup is not None:
            notice.say(
                f"This station was of an older version; its file is kept as {document.backup.name}."
            )
        if aside := set_aside(document.folder):
            names = listed([file.name for file in aside])
            notice.say(
                f"Edits that were kept here cannot be read; they were set aside as {names}.",
                bad=True,
            )
        # last: an offer that is written over could not be taken
        self._offer_autosave()

    def _tell_looking(self) -> None:
        """Why nothing is written here, and the ways out."""
        lock = self.document.lock
        if lock is None or lock.holder is None:
            self._notice.say(
                "This station is only looked at: try what you like, nothing is written into it."
            )
            return
        self._notice.ask(
            f"This station is open {lock.holder.says()}: here it is only looked at, and nothing is"
            " written into it.",
            (("Work on it here all the same", self._work_here),),
        )

    def _work_here(self) -> None:
        self.document.work_here()
        if self.document.looks_only:
            self._notice.say(self.document.unwritable, bad=True)
            return
        self._notice.say(
            "You work on it here now; what is saved elsewhere meanwhile is told and kept.",
            fades=True,
        )

    def _offer_autosave(self) -> None:
        found = found_autosaves(self.document.folder, self.document.station, self.document.records)
        if found:
            newest = found[0]
            what = ", ".join(differences(self.document.station, newest.station)) or "the same"
            self._notice.ask(
                f"Tonleiter ended here on {newest.kept_at:%d %B at %H:%M} with edits that were not"
                f" saved: {what}.",
                (
                    ("Take them over", partial(self._take_autosave, newest)),
                    ("Throw them away", partial(self._drop_autosave, newest)),
                ),
            )

    def _take_autosave(self, kept: Autosave) -> None:
        self.document.take_autosave(kept)
        self._notice.say("Taken over; Undo gives what was saved, Save keeps it.", fades=True)

    def _drop_autosave(self, kept: Autosave) -> None:
        self.document.drop_autosave(kept)

    def _tell_outside(self) -> None:
        """Somebody else saved this station: theirs are taken over, ours are kept by Undo."""
        if self.document.is_saved and not self.document.drafts.words:
            self._take_theirs()
            return
        self._notice.ask(
            "Somebody else saved this station meanwhile, and here are edits that are not saved.",
            (
                ("Take theirs; Undo brings these back", self._take_theirs),
                ("Keep these; theirs is kept beside when you save", lambda: None),
            ),
        )

    def _take_theirs(self) -> None:
        before = self.document.station
        try:
            self.document.take_theirs()
        except RefusedError as error:
            self._notice.say(f"Somebody else changed this station: {error}", bad=True)
            return
        what = ", ".join(differences(before, self.document.station)) or "nothing that shows"
        self._notice.say(f"Taken over from somebody else: {what}. Undo brings yours back.")
