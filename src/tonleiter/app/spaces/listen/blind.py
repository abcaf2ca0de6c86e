"""Trials that nobody sees into: is X A or B, and which of two is liked better."""

from __future__ import annotations

from datetime import date
from typing import Literal

from PySide6.QtCore import QObject, Signal

from tonleiter.app.editing import Editing
from tonleiter.app.spaces.listen.player import Player
from tonleiter.app.spaces.listen.slots import Slots
from tonleiter.core.listen.blind import Preferences, Side, TrialError, Trials
from tonleiter.core.station import edits
from tonleiter.core.station.records import keep_trial
from tonleiter.core.station.trial import Trial


class Blind(QObject):
    """``changed``: a trial began, was answered, or was kept. Refusals are said by ``editing``."""

    changed = Signal()

    def __init__(self, editing: Editing, slots: Slots, player: Player) -> None:
        super().__init__(editing)
        self._editing, self._slots, self._player = editing, slots, player
        self.trials: Trials | None = None
        self.likes: Preferences | None = None

    def forget(self) -> None:
        """Other recordings lie there: what was heard of those before counts no more."""
        self.trials = self.likes = None

    def begin_trial(self) -> None:
        """A new one: which is which stands nowhere."""
        if self._slots.at("A") is None or self._slots.at("B") is None:
            self._editing.refused.emit("two recordings are wanted for a trial")
            return
        self._player.silence()
        self.trials = Trials.begun()
        self.changed.emit()

    def play_x(self) -> None:
        """X, whichever it is."""
        if self.trials is None:
            self._editing.refused.emit("begin a trial first")
            return
        self._editing.attempt(self._play_x)

    def _play_x(self) -> None:
        assert self.trials is not None
        self._player.play(self.trials.x, called="X")

    def answer(self, side: Side) -> None:
        """X was that."""
        if self.trials is None:
            self._editing.refused.emit("begin a trial first")
            return
        try:
            self.trials = self.trials.answer(side)
        except TrialError as error:
            self._editing.refused.emit(str(error))
        self._player.silence()
        self.changed.emit()

    def begin_likes(self) -> None:
        """Which is liked better, asked of several: which is which stands nowhere."""
        if self._slots.at("A") is None or self._slots.at("B") is None:
            self._editing.refused.emit("two recordings are wanted to choose between")
            return
        self._player.silence()
        self.likes = Preferences.begun()
        self.changed.emit()

    def play_like(self, second: bool) -> None:
        """The first or the second, whichever it is."""
        if self.likes is not None:
            called = "second" if second else "first"
            self._player.play(self.likes.heard(second), called=called)

    def like(self, listener: str, second: bool) -> None:
        """Somebody likes the first or the second better."""
        if self.likes is None:
            return
        try:
            self.likes = self.likes.vote(listener[:40], second)
        except TrialError as error:
            self._editing.refused.emit(str(error))
        self._player.silence()
        self.changed.emit()

    def keep_result(self, kind: Literal["told", "liked"]) -> None:
        """What a trial came to, with the station; a new one may begin."""
        a, b = self._slots.at("A"), self._slots.at("B")
        if a is None or b is None:
            return
        hits, count, who = 0, 0, ()  # type: tuple[int, int, tuple[str, ...]]
        if kind == "told" and self.trials is not None:
            hits, count = self.trials.right, len(self.trials.given)
        elif kind == "liked" and self.likes is not None:
            hits, count = self.likes.counts[1], sum(self.likes.counts)
            who = tuple(dict.fromkeys(name for name, _ in self.likes.votes))
        if not count:
            self._editing.refused.emit("nobody was asked yet: there is nothing to keep")
            return
        taken = {t.id for t in self._editing.records.trials}
        day = date.today().isoformat()
        made = Trial(
            id=edits.fresh_id(taken, f"{kind} {day}"), kind=kind, day=day, one=a.name[:80],
            other=b.name[:80], hits=hits, count=count, listeners=who,
        )  # fmt: skip
        self._editing.note("trial kept", lambda r: keep_trial(r, made))
        if kind == "told":
            self.trials = None
        else:
            self.likes = None
        self.changed.emit()
