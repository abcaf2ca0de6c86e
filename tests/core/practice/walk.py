"""Missions from many seeds, played by a scripted solver: ``python -m tests.core.practice.walk``.

The solver sees to what each look wants first, always takes what tells most a minute, and names the
likeliest cause once it is sure, or once nothing tells more.
"""

from __future__ import annotations

import sys
import time
from collections import Counter

from tonleiter.core.practice.missions import MissionError, mission
from tonleiter.core.practice.play import Play
from tonleiter.core.practice.riddle import FOUND, Family, Riddle

FAMILIES: tuple[Family, ...] = ("voice", "computer", "build")


def solver(riddle: Riddle) -> Play:
    """A riddle played to its end."""
    play, belief = Play(riddle), riddle.belief()
    while not play.ended:
        share = belief.after(play.seen)
        order = sorted(range(len(riddle.causes)), key=lambda k: -share[k])
        left = [k for k in order if riddle.causes[k].id not in play.wrong]
        look = belief.next(play.seen)
        first = riddle.causes[left[0]].id
        sure = sum(float(share[k]) for k in left if riddle.same(first, riddle.causes[k].id))
        if sure >= FOUND or look is None:
            play = play.name(first)
            continue
        for care in ("dummy-load", "power-off", "headphones-down"):
            wants = care in look.care
            if care == "power-off" or wants:
                play = play.care(care, wants)
        play = play.look(look.id)
    return play


def told_at_last(riddle: Riddle) -> bool:
    """Whether all looks together put the cause first, with those that nothing tells from it."""
    seen = riddle.free() | {x.id: riddle.sees(x.id) for x in riddle.looks}
    share = riddle.belief().after(seen)
    first = riddle.causes[int(share.argmax())]
    return riddle.solved_by(first.id)


def main(count: int) -> None:
    begun, kinds, looks = time.monotonic(), Counter(), []
    bad, none, wrong = [], [], 0
    for seed in range(count):
        family = FAMILIES[seed % len(FAMILIES)]
        try:
            riddle = mission(family, seed)
        except MissionError:
            none.append((family, seed))
            continue
        kinds[family, riddle.cause.kind] += 1
        play = solver(riddle)
        wrong += len(play.wrong)
        looks.append(len(play.taken))
        if not told_at_last(riddle) or len(play.wrong) > 2:
            bad.append((family, seed, riddle.true, play.wrong))
    looks.sort()
    print(f"{count} seeds in {time.monotonic() - begun:.0f} s; {len(kinds)} kinds")
    print(f"not made: {none}\nnot told, or named wrongly more than twice: {bad}")
    print(f"wrong names {wrong}; looks: median {looks[len(looks) // 2]}, most {looks[-1]}")
    for (family, kind), n in sorted(kinds.items()):
        print(f"  {family} {kind} {n}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
