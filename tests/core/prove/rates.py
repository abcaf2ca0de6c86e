"""How often the fault that was hidden is found: in builds of usual kinds, by noisy readings.

Run as a module it tries every fault of every build and prints the rates; the tests try a sample.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache

import numpy as np

from tests.conftest import gear
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.bench.measure import measure
from tonleiter.core.bench.reading import Reading
from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Element,
    Inductor,
    Jfet,
    ModulatedResistor,
    OpAmp,
    Regulator,
    Resistor,
    VoltageSource,
)
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.fault import Fault, both
from tonleiter.core.prove.prove import Proof
from tonleiter.core.prove.rank import Explained

PATIENCE = 40


def kind(name: str) -> dict:
    """A generic piece of the library by its kind."""
    found = next(g for g in parts_library().values() if g.kind_id == name)
    return found.model_dump(mode="json") | {"id": name, "guest": False}


@cache
def builds() -> dict[str, Proof]:
    """A build of each usual kind; made once, since each bench takes its time."""
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
    plain = (mic(), lead(), radio())
    carbon = gear("carbon-microphone", "mic", rest_ohm=80)
    ways = {
        "foot switch": station(*plain, hands={"transmit": "foot-switch"}),
        "opto-coupler": station(*plain, hands={"transmit": "serial-opto"}),
        "carbon": station(carbon, lead(), radio(bias_v=8, bias_ohm=470, z_in_ohm=400)),
    }
    stations = {name: station(*path) for name, path in paths.items()} | ways
    return {name: Proof(verdict_of(made), 0) for name, made in stations.items()}


@dataclass
class Score:
    """What became of the faults that were hidden."""

    tried: int = 0
    first: int = 0
    third: int = 0
    untold: int = 0
    either: int = 0
    missed: list[str] = field(default_factory=list)


def bought(element: Element, supply: str, rng: np.random.Generator) -> Element:
    """A part as one buys it: evenly between the ends of its tolerance.

    Written down by itself, not taken from the product: 5 % resistors, 10 % film, 20 % electrolytics
    and coils, current gain over a decade, pinch-off 2:1, a block of 7.5 to 9.6 V.
    """

    def by(share: float) -> float:
        return float(rng.uniform(1 - share, 1 + share))

    match element:
        case Resistor(name=name) if name.startswith(("joint:", "tin:", "plugged:")):
            return element
        case Resistor(name=name, ohm=ohm) if name == f"{supply}_inside":
            return replace(element, ohm=ohm * float(rng.uniform(1, 4)))
        case Resistor(ohm=ohm):
            return replace(element, ohm=ohm * by(0.05))
        case Capacitor(farad=farad):
            return replace(element, farad=farad * by(0.2 if farad >= 1e-6 else 0.1))
        case Inductor(henry=henry):
            return replace(element, henry=henry * by(0.2))
        case VoltageSource(name=name, dc=dc) if name == supply:
            return replace(element, dc=dc * float(rng.uniform(7.5, 9.6)) / 9)
        case VoltageSource(dc=dc):
            return replace(element, dc=dc * by(0.05))
        case ModulatedResistor(ohm=ohm):
            return replace(element, ohm=ohm * by(0.3))
        case Bipolar(model=m):
            gain = m.bf * 10 ** float(rng.uniform(-0.45, 0.45))
            return replace(element, model=replace(m, bf=gain, is_a=m.is_a * by(0.4)))
        case Jfet(model=m):
            pinch, idss = 2 ** float(rng.uniform(-0.5, 0.5)), 3 ** float(rng.uniform(-0.5, 0.5))
            beta = m.beta_a_per_v2 * idss / pinch**2
            return replace(element, model=replace(m, vto_v=m.vto_v * pinch, beta_a_per_v2=beta))
        case OpAmp(model=m):
            return replace(element, model=replace(m, draws_a=m.draws_a * by(0.3)))
        case Regulator(model=m):
            return replace(element, model=replace(m, holds_v=m.holds_v * by(0.04)))
    return element


@dataclass
class Meter:
    """A multimeter of a class: off by as much on all of a range, 2000 counts, a last digit."""

    share: float
    rng: np.random.Generator
    off: dict[str, float] = field(default_factory=dict)

    def reads(self, reading: Reading, value: float) -> float:
        """What it shows; infinite for what is over its highest range."""
        if not np.isfinite(value):
            return float(value)
        on = reading.unit + reading.step
        wider = 2.0 if reading.step == "tone" else 1.0
        gain = self.off.setdefault(on, float(self.rng.uniform(-1, 1)) * self.share * wider)
        ranges = [r * 10.0**k for k in range(-4, 8) for r in (2.0,)]
        full = next((r for r in ranges if r >= abs(value) * 1.001), 2e8)
        least = {"Ω": 0.1, "V": 1e-4, "A": 1e-6}[reading.unit]
        digit = max(full / 2000, least)
        lead = abs(float(self.rng.normal(0, 0.1))) if reading.unit == "Ω" else 0.0
        return round(value * (1 + gain) / digit + float(self.rng.uniform(-1, 1))) * digit + lead


METERS = (0.005, 0.01, 0.015)


def hidden(
    proof: Proof, fault: Fault, rng: np.random.Generator, share: float = 0.01
) -> dict[str, float]:
    """Readings of one unit as hands would build it, with a fault, through a meter."""
    supply = proof.unit.supply
    drawn = tuple(bought(e, supply, rng) for e in proof.unit.elements)
    values = measure(proof.unit, fault.change(drawn), proof.readings)
    meter = Meter(share, rng)
    return {
        r.id: meter.reads(r, float(v))
        for r, v in zip(proof.readings, values, strict=True)
        if not np.isnan(v)
    }


@dataclass
class Accused:
    """Right builds: how many were tried, how many were accused, and of what."""

    tried: int = 0
    accused: int = 0
    marked: int = 0
    of: list[str] = field(default_factory=list)


def accused(proof: Proof, units: int, seed: int = 3) -> Accused:
    """Right units, each read with one of three meters: how many are said to have a fault."""
    rng = np.random.default_rng(seed)
    score = Accused()
    for k in range(units):
        read = hidden(proof, proof.bench.faults[0], rng, METERS[k % len(METERS)])
        score.tried += 1
        found = proof.rank(read)
        score.marked += any(not proof.as_predicted(i, v) for i, v in read.items())
        if found.right < 0.5 or found.suspicious:
            score.accused += 1
            score.of.append(found.explained[0].fault.id)
    return score


def stepwise(proof: Proof, read: Mapping[str, float]) -> dict[str, float]:
    """Only the readings that were asked for, one after the other."""
    have: dict[str, float] = {}
    for _ in range(PATIENCE):
        wanted = proof.rank(have).next
        if wanted is None or wanted.id not in read:
            break
        have[wanted.id] = read[wanted.id]
    return have


def is_it(proof: Proof, explained: Explained, fault: Fault, read: Mapping[str, float]) -> bool:
    """The fault itself, one that these readings do not tell from it, or it in another degree."""
    return explained.fault.family == fault.family or explained.fault.id in proof.bench.alike(
        fault.id, list(read)
    )


def tried(proof: Proof, every: int = 1, seed: int = 7, share: float = 1.0) -> Score:
    """Hide every so-manieth fault of a build and look for it, with a share of the readings."""
    rng = np.random.default_rng(seed)
    score = Score()
    for k, fault in enumerate(proof.bench.faults[1 + seed % every :: every]):
        read = hidden(proof, fault, rng, METERS[k % len(METERS)])
        if share < 1.0:
            kept = rng.permutation(list(read))[: max(round(share * len(read)), 1)]
            read = {i: read[i] for i in read if i in kept}
        if fault.id in proof.bench.untold(list(read)):
            score.untold += 1
            continue
        score.tried += 1
        explained = proof.rank(read).explained
        found = [is_it(proof, e, fault, read) for e in explained[:3]]
        score.first += found[0]
        score.third += any(found)
        if not found[0]:
            score.missed.append(
                f"{fault.id}: {explained[0].fault.id} at {explained[0].likelihood:.2f}"
            )
    return score


def advised(proof: Proof, every: int, seed: int = 7) -> list[int]:
    """How many readings it takes by its own advice, in the due order."""
    rng = np.random.default_rng(seed)
    counts = []
    untold = proof.bench.untold()
    for k, fault in enumerate(proof.bench.faults[1 + seed % every :: every]):
        if fault.id not in untold:
            read = hidden(proof, fault, rng, METERS[k % len(METERS)])
            counts.append(len(stepwise(proof, read)))
    return counts


def doubles(proof: Proof, count: int, seed: int = 5) -> Score:
    """Hide pairs of faults on different parts that readings tell, and look for both."""
    rng = np.random.default_rng(seed)
    score, untold = Score(), proof.bench.untold()
    told = [f for f in proof.bench.faults[1:] if f.id not in untold]
    while score.tried < count:
        one, other = (told[int(k)] for k in rng.integers(len(told), size=2))
        if one.part == other.part:
            continue
        read = hidden(proof, both(one, other, 1.0), rng)
        # of a pair that reads as one of them alone nobody can name the other
        alone = hidden(proof, one, rng), hidden(proof, other, rng)
        if any(_same(proof, read, a) for a in alone):
            score.untold += 1
            continue
        score.tried += 1
        explained = proof.rank(read).explained
        named = [_named(proof, e, one, other, read) for e in explained[:3]]
        score.first += named[0] == 2
        score.third += max(named) == 2
        score.either += named[0] > 0
    return score


def _same(proof: Proof, read: Mapping[str, float], other: Mapping[str, float]) -> bool:
    """Whether no reading of two units differs by more than parts and meters do."""
    places, one = proof.bench.simulated.scaled(read)
    other = {i: other.get(i, np.nan) for i in read}
    _, two = proof.bench.simulated.scaled(other)
    width = np.sqrt(np.diag(proof.bench.shapes.common))[places] + 0.05
    return bool(np.nanmax(np.abs(one - two) / width) < 4)


def _named(
    proof: Proof, explained: Explained, one: Fault, other: Fault, read: Mapping[str, float]
) -> int:
    """How many of two faults are named: itself, in another degree, or by one that reads alike."""
    family = {f.id: f.family for f in proof.bench.faults}
    said = explained.fault.id.split("+")
    return sum(
        any(
            family[i] == f.family or i in proof.bench.alike(f.id, list(read))
            for i in said
            if i in family
        )
        for f in (one, other)
    )


def main() -> int:
    """Print the rates; every fault and a hundred right units of each kind, or every so-manieth."""
    every = int(sys.argv[1]) if len(sys.argv) > 1 else 1
    right, full, half, pairs, counts = Accused(), Score(), Score(), Score(), list[int]()
    began = time.perf_counter()
    for name, proof in builds().items():
        units = accused(proof, 100 // every)
        scores = tried(proof, every), tried(proof, every, share=0.5), doubles(proof, 24 // every)
        taken = advised(proof, 3 * every)
        right.tried, right.accused = right.tried + units.tried, right.accused + units.accused
        for total, score in zip((full, half, pairs), scores, strict=True):
            total.tried, total.first = total.tried + score.tried, total.first + score.first
            total.third, total.untold = total.third + score.third, total.untold + score.untold
            total.either += score.either
        counts += taken
        one, two, three = scores
        print(
            f"{name}: right {units.tried}, accused {units.accused}; faults {one.tried}, first"
            f" {one.first}, among three {one.third}, untold {one.untold}; with half the readings"
            f" {two.first} and {two.third} of {two.tried}; pairs, both named {three.first} of"
            f" {three.tried}; by its advice {statistics.median(taken):g} of {len(proof.readings)}",
            flush=True,
        )
        for line in one.missed:
            print(f"    {line}")
    print(
        f"all: {right.tried} right units, {right.accused} accused; {full.tried} faults, first"
        f" {full.first / full.tried:.1%}, among three {full.third / full.tried:.1%}; with half the"
        f" readings {half.first / half.tried:.1%} and {half.third / half.tried:.1%} of"
        f" {half.tried}; untold {full.untold} of {full.tried + full.untold}; pairs: both named in"
        f" {pairs.first / pairs.tried:.0%} of {pairs.tried}, one of them in"
        f" {pairs.either / pairs.tried:.0%}; by its advice {statistics.median(counts):g} readings"
        f" (median), {max(counts)} at most; {time.perf_counter() - began:.0f} s"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
