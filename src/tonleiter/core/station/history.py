"""Undo and redo over whole stations."""

from __future__ import annotations

from dataclasses import dataclass, replace

from tonleiter.core.station.model import Station

MOST_STEPS = 500


@dataclass(frozen=True)
class Step:
    """A station and the words for the edit that made it."""

    station: Station
    label: str


@dataclass(frozen=True)
class History:
    """The present station, those before it, those undone. Operations return a new one."""

    present: Step
    past: tuple[Step, ...] = ()
    future: tuple[Step, ...] = ()
    gesture: str | None = None

    @classmethod
    def start(cls, station: Station) -> History:
        """A history with nothing to undo."""
        return cls(Step(station, ""))

    def push(self, station: Station, label: str, gesture: str | None = None) -> History:
        """Make ``station`` the present. Edits of the same ``gesture`` (a drag) are one step."""
        if station == self.present.station:
            return self
        if gesture is not None and gesture == self.gesture:
            return replace(self, present=Step(station, label), future=())
        past = (*self.past, self.present)[-MOST_STEPS:]
        return History(Step(station, label), past, (), gesture)

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
