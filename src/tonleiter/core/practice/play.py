"""A riddle being played: what was looked at, named, asked for; what it comes to."""

from __future__ import annotations

from dataclasses import dataclass, replace

from tonleiter.core.practice.look import Care, Look, Seen
from tonleiter.core.practice.riddle import Riddle
from tonleiter.core.refused import RefusedError

# of a hundred: the result, the path, safety; what each slip costs
RESULT, PATH, SAFETY = 40, 40, 20
WRONG, HINT, UNSAFE = 12, 10, 7


class PlayError(RefusedError):
    """Something that cannot be done in a riddle; one line says why."""


@dataclass(frozen=True)
class Score:
    """What a riddle came to, of a hundred, and why."""

    total: int
    result: int
    path: int
    safety: int
    minutes: float
    best_minutes: float
    needless: tuple[str, ...]


@dataclass(frozen=True)
class Play:
    """Immutable: each move makes another one. ``cared`` is what has been seen to so far.

    ``unsafe`` are looks that were taken without what they want first; ``wrong`` causes that were
    named and are not it.
    """

    riddle: Riddle
    taken: tuple[str, ...] = ()
    cared: frozenset[Care] = frozenset()
    unsafe: tuple[str, ...] = ()
    wrong: tuple[str, ...] = ()
    hints: int = 0
    hinted: str | None = None
    ended: bool = False
    given_up: bool = False

    @property
    def seen(self) -> dict[str, Seen]:
        """Everything that was seen so far, the report included."""
        return self.riddle.free() | {k: self.riddle.sees(k) for k in self.taken}

    @property
    def minutes(self) -> float:
        """What looking took."""
        return sum(self.riddle.look(k).minutes for k in self.taken)

    def look(self, look_id: str) -> Play:
        """Look at something. Raises PlayError for what was looked at, or a riddle that is over."""
        self._still_open()
        if look_id in self.seen:
            raise PlayError("that was looked at already: it stands above")
        look = self.riddle.look(look_id)
        if look.power and "power-off" in self.cared:
            raise PlayError("the power is off, so nothing shows: switch it on for this")
        unsafe = any(c not in self.cared for c in look.care)
        return replace(
            self,
            taken=(*self.taken, look_id),
            unsafe=(*self.unsafe, look_id) if unsafe else self.unsafe,
            hinted=None if self.hinted == look_id else self.hinted,
        )

    def care(self, care: Care, on: bool) -> Play:
        """See to something first, or let it be: power that is off is on again for a reading."""
        made = self.cared | {care} if on else self.cared - {care}
        return replace(self, cared=made)

    def hint(self) -> Play:
        """Ask what to look at next; it costs."""
        self._still_open()
        look = self.riddle.belief().next(self.seen)
        if look is None:
            raise PlayError("nothing more tells: name the likeliest")
        return replace(self, hints=self.hints + 1, hinted=look.id)

    def name(self, cause_id: str) -> Play:
        """Say what it is and mend that. Raises PlayError."""
        self._still_open()
        if cause_id not in {c.id for c in self.riddle.causes}:
            raise PlayError("that is none of what may be wrong here")
        if cause_id in self.wrong:
            raise PlayError("that was mended already, and it is as it was")
        if self.riddle.solved_by(cause_id):
            return replace(self, ended=True)
        return replace(self, wrong=(*self.wrong, cause_id))

    def give_up(self) -> Play:
        """Be told."""
        self._still_open()
        return replace(self, ended=True, given_up=True)

    def _still_open(self) -> None:
        if self.ended:
            raise PlayError("this one is over: take another")

    def score(self) -> Score:
        """What it comes to."""
        best = self.riddle.best_path()
        least = max(sum(x.minutes for x in best), 1.0)
        result = 0 if self.given_up else max(RESULT - WRONG * len(self.wrong), 0)
        path = round(PATH * min(least / max(self.minutes, least), 1.0)) - HINT * self.hints
        # somebody who looks at nothing and guesses has no path to speak of
        if self.given_up or (not self.taken and best):
            path = 0
        safety = max(SAFETY - UNSAFE * len(self.unsafe), 0)
        if self.given_up and not self.taken:
            safety = 0
        path = max(path, 0)
        return Score(
            result + path + safety, result, path, safety, self.minutes, least, self._needless()
        )

    def _needless(self) -> tuple[str, ...]:
        """What was looked at and told nothing that was not known."""
        belief, seen, found = self.riddle.belief(), self.riddle.free(), []
        for look_id in self.taken:
            look: Look = self.riddle.look(look_id)
            if belief.worth(look, seen) < NEEDLESS_BITS:
                found.append(look_id)
            seen = {**seen, look_id: self.riddle.sees(look_id)}
        return tuple(found)


# what is expected to tell so little need not have been looked at
NEEDLESS_BITS = 0.1
