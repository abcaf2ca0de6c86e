"""A riddle: a station with one thing wrong, what could be wrong with it, what can be looked at.

Whatever is shown is computed: each cause is put into the station, and the station solved with it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from tonleiter.core.practice.belief import Belief
from tonleiter.core.practice.look import Look, Seen
from tonleiter.core.sound.sound import Sound
from tonleiter.core.stop import checkpoint

Family = Literal["voice", "computer", "build"]
FAMILIES: dict[Family, str] = {
    "voice": "a microphone on a radio",
    "computer": "a computer before a radio",
    "build": "something just soldered",
}
Level = Literal[1, 2, 3]
# from this share on a cause is as good as found
FOUND = 0.9
REPORT = "report"


@dataclass(frozen=True)
class Cause:
    """What may be wrong: its kind, its words once it is known, what mends it, how often it is.

    ``where`` is the space in which it is mended.
    """

    id: str
    kind: str
    title: str
    mends: str
    where: str
    level: Level = 2
    often: float = 1.0


@dataclass(frozen=True, eq=False)
class Riddle:
    """One riddle. ``shows`` has what each cause shows at each look, by their ids.

    ``report`` is what others say of it; ``right`` what was seen while all was well, where somebody
    wrote it down.
    """

    family: Family
    seed: int
    about: str
    report: str
    looks: tuple[Look, ...]
    causes: tuple[Cause, ...]
    shows: Mapping[str, Mapping[str, Seen]]
    right: Mapping[str, Seen]
    true: str = field(repr=False)
    heard: Sound | None = field(default=None, repr=False)
    """What a far receiver hears of it, where there is a voice."""

    @property
    def cause(self) -> Cause:
        """What is wrong."""
        return next(c for c in self.causes if c.id == self.true)

    def look(self, look_id: str) -> Look:
        """A look by its id. Raises KeyError."""
        for look in self.looks:
            if look.id == look_id:
                return look
        raise KeyError(look_id)

    def sees(self, look_id: str) -> Seen:
        """What a look shows."""
        return self.shows[self.true][look_id]

    def belief(self) -> Belief:
        """Over its causes."""
        return Belief(
            self.looks, [self.shows[c.id] for c in self.causes], [c.often for c in self.causes]
        )

    def same(self, one: str, other: str) -> bool:
        """Whether no look tells two causes apart."""
        return not any(x.tells(self.shows[one][x.id], self.shows[other][x.id]) for x in self.looks)

    def solved_by(self, cause_id: str) -> bool:
        """Whether mending that mends it: it is the cause, or nobody could tell it from it."""
        return cause_id == self.true or self.same(cause_id, self.true)

    def best_path(self) -> tuple[Look, ...]:
        """What somebody looks at who always takes what tells most a minute."""
        belief, seen = self.belief(), self.free()
        path: list[Look] = []
        while True:
            share = belief.after(seen)
            mine = sum(float(share[k]) for k, c in enumerate(self.causes) if self.solved_by(c.id))
            look = belief.next(seen)
            if mine >= FOUND or look is None:
                return tuple(path)
            path.append(look)
            seen = {**seen, look.id: self.sees(look.id)}

    def free(self) -> dict[str, Seen]:
        """What is known from the beginning: the report, where it is one of the looks."""
        return {REPORT: self.sees(REPORT)} if any(x.id == REPORT for x in self.looks) else {}


def riddle_of(
    family: Family,
    seed: int,
    about: str,
    looks: tuple[Look, ...],
    causes: tuple[Cause, ...],
    shown: Callable[[Cause | None], Mapping[str, Seen]],
    true: str,
    told: frozenset[str],
) -> Riddle:
    """Compute what each cause shows; ``told`` are the looks of which the right value is known.

    Causes that nothing tells from the true one are left out: to mend them would mend it as well.
    """
    right = dict(shown(None))
    shows: dict[str, Mapping[str, Seen]] = {}
    for cause in causes:
        checkpoint()
        shows[cause.id] = shown(cause)
    report = shows[true].get(REPORT, "")
    made = Riddle(
        family,
        seed,
        about,
        str(report),
        looks,
        causes,
        shows,
        {k: v for k, v in right.items() if k in told},
        true,
    )
    kept = tuple(c for c in causes if c.id == true or not made.same(c.id, true))
    return Riddle(family, seed, about, str(report), looks, kept, shows, made.right, true)
