"""What is wrong with a station: a cause, and the edit that puts it there."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.practice.look import Look, Seen
from tonleiter.core.practice.riddle import REPORT, Cause, Family, Level, Riddle, riddle_of
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KNOBS, KnobId

Spoil = Callable[[Station], Station]
Shown = Callable[["Wrong | None"], Mapping[str, Seen]]
# a knob that stands off its card by more than so many of its steps is seen to be off
OFF_STEPS = 3


@dataclass(frozen=True)
class Wrong:
    """A cause with its edit.

    ``part`` is what another one in its place would mend; ``habit`` shows in how somebody works.
    """

    cause: Cause
    spoil: Spoil
    part: str = ""
    habit: str = ""


def turned(chain: str, knobs: Mapping[KnobId, float]) -> Spoil:
    """Knobs of a chain's panel turned, each within its ends."""

    def spoil(station: Station) -> Station:
        panel = with_knobs(station.chain(chain).panel, knobs)
        return edits.change_chain(station, chain, panel=panel)

    return spoil


def other_system(chain: str) -> Spoil:
    """The set switched from wide to narrow, or back."""

    def spoil(station: Station) -> Station:
        panel = station.chain(chain).panel
        other = "narrow" if panel.system == "wide" else "wide"
        return edits.change_chain(station, chain, panel=panel.but(system=other))

    return spoil


def both(*spoils: Spoil) -> Spoil:
    """One after the other."""

    def spoil(station: Station) -> Station:
        for one in spoils:
            station = one(station)
        return station

    return spoil


def wrong(
    kind: str,
    title: str,
    mends: str,
    where: str,
    spoil: Spoil,
    level: Level = 1,
    part: str = "",
    often: float = 1.0,
    habit: str = "",
) -> Wrong:
    """A cause whose kind is its id: there is one of each in a riddle."""
    return Wrong(Cause(kind, kind, title, mends, where, level, often), spoil, part, habit)


def off_card(names: Iterable[KnobId], chain: str, now: Station, card: Station) -> list[str]:
    """Knobs that stand otherwise than on the card, in words."""
    mine, theirs = now.chain(chain).panel, card.chain(chain).panel
    off = []
    for name in names:
        knob = KNOBS[name]
        a, b = (p.knobs.get(name, knob.usual) for p in (mine, theirs))
        if abs(a - b) > OFF_STEPS * knob.step:
            off.append(f"{knob.title} {'up' if a > b else 'down'}")
    if mine.system != theirs.system and "deviation" in names:
        off.append("another system")
    return off


def chosen(
    family: Family,
    seed: int,
    about: str,
    looks: tuple[Look, ...],
    found: list[Wrong],
    shown: Shown,
    rng: random.Random,
    kind: str | None,
    told: frozenset[str],
) -> Riddle | None:
    """A riddle with one of those that can be found: a look shows it, and somebody notices it."""
    wanted = [w for w in found if kind in (None, w.cause.kind)]
    rng.shuffle(wanted)
    well = shown(None)
    true = next((w for w in wanted if _shows(looks, shown(w), well)), None)
    if true is None:
        return None
    by_id: Mapping[str, Wrong] = {w.cause.id: w for w in found}
    return riddle_of(
        family,
        seed,
        about,
        looks,
        tuple(w.cause for w in found),
        lambda c: shown(None if c is None else by_id[c.id]),
        true.cause.id,
        told,
    )


def _shows(looks: tuple[Look, ...], one: Mapping[str, Seen], well: Mapping[str, Seen]) -> bool:
    return one[REPORT] != well[REPORT] and any(x.tells(one[x.id], well[x.id]) for x in looks)
