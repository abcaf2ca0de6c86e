"""Hum and buzz: currents round chassis and screens, and what a mains field induces in a lead.

Each chassis has an earth path, and every screen joins two of them. Currents are injected at the
chassis of the solved circuit at the mains frequency, its 2nd, 3rd and 5th harmonic, and, for a
computer on USB, at multiples of 1 kHz; what they leave between the conductors of a joint is hum.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.ac import Floats, Linear
from tonleiter.core.circuit.cascade import Cascade
from tonleiter.core.circuit.elements import GROUND, Resistor
from tonleiter.core.circuit.readings import Pair, Readings, read
from tonleiter.core.circuit.system import NoiseInjection
from tonleiter.core.gear.net import EarthPath, Pickup, Ripple
from tonleiter.core.solve.compiled import PlacedStage

# Strength of the mains harmonics relative to the fundamental: of the EMF between two outlets, and
# of the mains voltage itself (EN 50160 allows 5 % of the third). Typical values.
HARMONICS = (1, 2, 3, 5)
EARTH_SHAPE = (1.0, 0.05, 0.30, 0.15)
MAINS_SHAPE = (1.0, 0.01, 0.05, 0.04)
# of what a full-wave rectifier leaves on a supply: most of it at twice the mains frequency
RIPPLE_SHAPE = (0.2, 0.97, 0.1, 0.1)
COMB_HZ = tuple(1000.0 * n for n in range(1, 9))
# conductors that join chassis: screens and straps, not signal resistors
JOINS_BELOW_OHM = 5.0


@dataclass(frozen=True)
class Hum:
    """Hum at each joint in volts RMS; by stage what it leaves at the last one.

    ``own_v`` is the part of that which comes from a stage's own supply.
    """

    total_v: Floats
    at_end_v: dict[str, float]
    own_v: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class _Injection:
    """A current that hums: the stage it belongs to, nodes it feeds and is drawn from, amperes."""

    stage: int
    p: str
    n: str
    amps: Floats
    own: bool = False


def _injections(
    stages: tuple[PlacedStage, ...], mains_hz: float
) -> tuple[Floats, list[_Injection]]:
    """Frequencies of hum, and every current; ``amps`` has shape (frequencies,)."""
    mains = np.array([n * mains_hz for n in HARMONICS])
    f_hz = np.concatenate([mains, COMB_HZ])
    found = []
    for k, stage in enumerate(stages):
        for mark in stage.marks:
            if isinstance(mark, EarthPath):
                amps = _injected_a(mark, f_hz, len(mains))
                found.append(_Injection(k, mark.chassis, GROUND, amps))
            elif isinstance(mark, Pickup):
                amps = np.zeros(f_hz.size)
                amps[: len(mains)] = mark.volts_per_hz * mains * MAINS_SHAPE / mark.ohm
                found.append(_Injection(k, mark.p, mark.n, amps))
            elif isinstance(mark, Ripple):
                amps = np.zeros(f_hz.size)
                amps[: len(mains)] = mark.volts * np.array(RIPPLE_SHAPE) / mark.ohm
                found.append(_Injection(k, mark.p, mark.n, amps, own=True))
    return f_hz, found


def solve_hum(
    stages: tuple[PlacedStage, ...], linear: Linear, joints: Sequence[Pair], mains_hz: float
) -> Hum:
    """Hum of all earth paths; phases are unknown, so powers are summed."""
    f_hz, injections = _injections(stages, mains_hz)
    readings = read(linear, f_hz, joints)
    total, at_end, own = np.zeros(len(joints)), dict[str, float](), dict[str, float]()
    for at in injections:
        power = _power(readings, at)
        total += power
        _add(at_end, stages[at.stage].id, float(power[-1]))
        if at.own:
            _add(own, stages[at.stage].id, float(power[-1]))
    return Hum(np.sqrt(total), at_end, own)


def hum_of_cascade(
    stages: tuple[PlacedStage, ...],
    linear: Linear,
    cascade: Cascade,
    groups: NDArray[np.intp],
    mains_hz: float,
) -> Hum:
    """The same for long chains, stage by stage: hum travels like noise, as power."""
    f_hz, injections = _injections(stages, mains_hz)
    row = linear.system.row
    sources = [(at.stage, NoiseInjection("", row(at.p), row(at.n), ())) for at in injections]
    powers = np.array([at.amps**2 for at in injections]).reshape(len(injections), f_hz.size)
    solved = cascade.solve(f_hz, None, sources, powers)
    total = np.array([solved.at(k).noise.sum() for k in range(len(stages))])
    at_last = solved.readings(len(stages) - 1)
    at_end, own = dict[str, float](), dict[str, float]()
    for at in injections:
        power = float(_power(at_last, at)[0])
        _add(at_end, stages[at.stage].id, power)
        if at.own:
            _add(own, stages[at.stage].id, power)
    return Hum(np.sqrt(total), at_end, own)


def _power(readings: Readings, at: _Injection) -> Floats:
    """What one current leaves at each joint that is read, in V²; shape (joints,)."""
    volts = np.abs(readings.from_current(at.p, at.n)) * at.amps[:, None]
    power: Floats = (volts**2).sum(axis=0)
    return power


def _add(volts: dict[str, float], stage: str, power: float) -> None:
    volts[stage] = float(np.hypot(volts.get(stage, 0.0), np.sqrt(power)))


def _injected_a(path: EarthPath, f_hz: Floats, mains: int) -> NDArray[np.float64]:
    """Norton current of an earth path at each frequency: EMF times admittance."""
    emf = np.zeros(f_hz.size)
    emf[:mains] = path.mains_v * np.array(EARTH_SHAPE if path.ohm else MAINS_SHAPE)
    emf[mains:] = path.comb_v / np.arange(1, f_hz.size - mains + 1)
    admittance = np.full(f_hz.size, 1 / path.ohm) if path.ohm else 2 * np.pi * f_hz * path.farad
    return np.asarray(emf * admittance)


@dataclass(frozen=True)
class Loop:
    """Two or more safety earths joined by screens: ids of the earthed stages and of the joins."""

    earthed: tuple[str, ...]
    joins: tuple[str, ...]


def earth_loop(stages: tuple[PlacedStage, ...], linear: Linear) -> Loop | None:
    """The loop that joins safety earths, named by its members; None if there is none."""
    parent: dict[str, str] = {}

    def find(node: str) -> str:
        parent.setdefault(node, node)
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    colds = {c for s in stages for p in (s.inlet, s.outlet) for c in (p.cold, p.chassis)} - {"0"}
    screens: list[tuple[str, str]] = []
    owner_of = {k: s.id for s in stages for k in s.elements}
    for k, element in enumerate(linear.system.circuit.elements):
        if (
            isinstance(element, Resistor)
            and element.ohm < JOINS_BELOW_OHM
            and {element.p, element.n} <= colds
        ):
            parent[find(element.p)] = find(element.n)
            screens.append((owner_of[k], element.p))
    earthed: dict[str, list[str]] = {}
    for stage in stages:
        for mark in stage.marks:
            if isinstance(mark, EarthPath) and mark.ohm is not None:
                earthed.setdefault(find(mark.chassis), []).append(stage.id)
    for root, members in earthed.items():
        if len(members) > 1:
            order = [s.id for s in stages]
            first, last = order.index(members[0]), order.index(members[-1])
            joins = tuple(
                owner
                for owner, node in screens
                if find(node) == root and first < order.index(owner) < last
            )
            return Loop(tuple(members), joins)
    return None
