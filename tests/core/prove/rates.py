"""How often the fault that was hidden is found: in builds of usual kinds, by noisy readings.

Run as a module it tries every fault of every build and prints the rates; the tests try a sample.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from tests.conftest import gear
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.bench.measure import measure
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.faults import Fault, both
from tonleiter.core.prove.prove import Proof
from tonleiter.core.prove.rank import Explained, _drawn

METER = {"V": 0.007, "A": 0.01, "Ω": 0.01}
PATIENCE = 40


def kind(name: str) -> dict:
    """A generic piece of the library by its kind."""
    found = next(g for g in parts_library().values() if g.kind_id == name)
    return found.model_dump(mode="json") | {"id": name, "guest": False}


def builds() -> dict[str, Proof]:
    """A build of each usual kind."""
    cap = gear("capacitor", "block", capacitance_f=2.2e-6, plus_side="output")
    biased = radio(bias_v=8, bias_ohm=2200, z_in_ohm=1500)
    paths = {
        "one transistor": (mic(), lead(), kind("bipolar-preamp"), lead("out"), radio()),
        "FET": (mic(), lead(), kind("jfet-preamp"), lead("out"), radio()),
        "op-amp": (mic(), lead(), kind("opamp-preamp"), lead("out"), radio()),
        "transformer box": (mic(), lead(), kind("transformer"), cap, lead("out"), biased),
        "bias box": (gear("electret-2-wire", "mic"), kind("bias-feed"), lead(), radio()),
        "pad box": (mic(), kind("l-pad"), lead(), radio()),
        "T-pad box": (mic(), kind("t-pad"), lead(), radio()),
        "plain lead": (mic(), lead(), radio()),
    }
    return {name: Proof(verdict_of(station(*path)), 0) for name, path in paths.items()}


@dataclass
class Score:
    """What became of the faults that were hidden."""

    tried: int = 0
    first: int = 0
    third: int = 0
    share: list[float] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)


def hidden(proof: Proof, fault: Fault, rng: np.random.Generator) -> dict[str, float]:
    """Readings of one unit as hands would build it, with a fault, through a meter."""
    drawn = tuple(_drawn(e, rng) for e in proof.unit.elements)
    values = measure(proof.unit, fault.change(drawn), proof.readings)
    read = {}
    for reading, value in zip(proof.readings, values, strict=True):
        if np.isnan(value):
            continue
        noise = 1 + rng.normal(0, METER[reading.unit])
        read[reading.id] = float(value * noise) if np.isfinite(value) else float(value)
    return read


def stepwise(proof: Proof, read: Mapping[str, float]) -> dict[str, float]:
    """Only the readings that were asked for, one after the other."""
    have: dict[str, float] = {}
    for _ in range(PATIENCE):
        wanted = proof.rank(have).next
        if wanted is None or wanted.id not in read:
            break
        have[wanted.id] = read[wanted.id]
    return have


def is_it(explained: Explained, fault: Fault) -> bool:
    """The fault itself, or one that no reading tells from it."""
    return explained.fault.id == fault.id or fault.id in explained.equals


def tried(proof: Proof, every: int = 1, seed: int = 7) -> Score:
    """Hide every so-manieth fault of a build and look for it."""
    rng = np.random.default_rng(seed)
    score = Score()
    for fault in proof.faults[seed % every :: every]:
        read = hidden(proof, fault, rng)
        if not read:
            continue
        score.tried += 1
        explained = proof.rank(read).explained
        score.first += is_it(explained[0], fault)
        score.third += any(is_it(e, fault) for e in explained[:3])
        if not is_it(explained[0], fault):
            score.missed.append(
                f"{fault.id}: {explained[0].fault.id} at {explained[0].likelihood:.2f}"
            )
        score.share.append(len(stepwise(proof, read)) / len(proof.readings))
    return score


def doubles(proof: Proof, count: int, seed: int = 5) -> Score:
    """Hide pairs of faults on different parts, and look for both."""
    rng = np.random.default_rng(seed)
    score = Score()
    while score.tried < count:
        one, other = (proof.faults[int(k)] for k in rng.integers(len(proof.faults), size=2))
        if one.part == other.part:
            continue
        read = hidden(proof, both(one, other, 1.0), rng)
        if not read:
            continue
        score.tried += 1
        explained = proof.rank(read).explained
        score.first += is_either(explained[0], one, other)
        score.third += any(is_either(e, one, other) for e in explained[:3])
    return score


def is_either(explained: Explained, one: Fault, other: Fault) -> bool:
    """Whether one of the two is named, alone or in a pair: it is mended first, the rest is next."""
    names = {n for i in (explained.fault.id, *explained.equals) for n in i.split("+")}
    return one.id in names or other.id in names


def all_scores(every: int = 1) -> Iterator[tuple[str, Score]]:
    """Of every build."""
    for name, proof in builds().items():
        yield name, tried(proof, every)


def main() -> int:
    """Print the rates."""
    total = Score()
    began = time.perf_counter()
    for name, score in all_scores():
        total.tried += score.tried
        total.first += score.first
        total.third += score.third
        total.share += score.share
        print(
            f"{name}: {score.tried} faults, first {score.first / score.tried:.1%}, among three"
            f" {score.third / score.tried:.1%}, by {statistics.median(score.share):.0%} of the"
            " readings"
        )
        for line in score.missed:
            print(f"    {line}")
    twice = Score()
    for proof in builds().values():
        made = doubles(proof, 12)
        twice.tried += made.tried
        twice.first += made.first
        twice.third += made.third
    print(
        f"pairs: {twice.tried} tried, one of both named first in {twice.first / twice.tried:.0%},"
        f" among three in {twice.third / twice.tried:.0%}"
    )
    first, third = total.first / total.tried, total.third / total.tried
    print(
        f"all: {total.tried} faults, first {first:.1%}, among three {third:.1%}, by"
        f" {statistics.median(total.share):.0%} of the readings (median),"
        f" {time.perf_counter() - began:.0f} s"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
