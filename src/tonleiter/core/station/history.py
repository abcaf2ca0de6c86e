"""Undo and redo over whole stations with their records."""

from __future__ import annotations

from dataclasses import dataclass, replace

from tonleiter.core.station.model import Station
from tonleiter.core.station.records import NO_RECORDS, Records

MOST_STEPS = 500


@dataclass(frozen=True)
class Step:
    """A station, its records, and the words for the edit that made them."""

    station: Station
    label: str
    records: Records = NO_RECORDS


@dataclass(frozen=True)
class History:
    """The present station, those before it, those undone. Operations return a new one."""

    present: Step
    past: tuple[Step, ...] = ()
    future: tuple[Step, ...] = ()
    gesture: str | None = None

    @classmethod
    def start(cls, station: Station, records: Records = NO_RECORDS) -> History:
        """A history with nothing to undo."""
        return cls(Step(station, "", records))

    def push(
        self,
        station: Station,
        label: str,
        gesture: str | None = None,
        records: Records | None = None,
    ) -> History:
        """Make ``station`` the present, with its records, by default those of before.

        Edits of the same ``gesture`` (a drag) are one step.
        """
        now = self.present
        made = Step(station, label, now.records if records is None else records)
        if (made.station, made.records) == (now.station, now.records):
            return self
        if gesture is not None and gesture == self.gesture:
            return replace(self, present=made, future=())
        past = (*self.past, now)[-MOST_STEPS:]
        return History(made, past, (), gesture)

    def settled(self) -> History:
        """End the gesture: the next edit is a step of its own."""
        return replace(self, gesture=None) if self.gesture is not None else self

    def undo(self) -> History:
        """Go back one step, if there is one."""
        if not self.past:
            return self
        return History(self.past[-1], self.past[:-1], (self.present, *self.future))

    def redo(self) -> History:
        """Go forward one step, if there is one."""
        if not self.future:
            return self
        return History(self.future[0], (*self.past, self.present), self.future[1:])
