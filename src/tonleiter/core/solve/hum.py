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
from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.circuit.readings import Pair, Readings, read
from tonleiter.core.circuit.system import NoiseInjection
from tonleiter.core.gear.net import EarthPath, Pickup, Ripple
from tonleiter.core.solve.compiled import CompiledChain

# Strength of the mains harmonics relative to the fundamental: of the EMF between two outlets, and
# of the mains voltage itself (EN 50160 allows 5 % of the third). Typical values.
HARMONICS = (1, 2, 3, 5)
EARTH_SHAPE = (1.0, 0.05, 0.30, 0.15)
MAINS_SHAPE = (1.0, 0.01, 0.05, 0.04)
# of what a full-wave rectifier leaves on a supply: most of it at twice the mains frequency
RIPPLE_SHAPE = (0.2, 0.97, 0.1, 0.1)
COMB_ORDERS = np.arange(1, 9)
COMB_HZ = tuple(1000.0 * COMB_ORDERS)
# conductors that join chassis: screens and straps, not signal resistors
JOINS_BELOW_OHM = 5.0


@dataclass(frozen=True)
class Hum:
    """Hum at each joint in volts RMS; by source what it leaves at the last one.

    A source is a stage by its id, another box as ``@id``, the data in a lead as ``&id``. ``own_v``
    is the part of a stage that comes from its own supply.
    """

    total_v: Floats
    at_end_v: dict[str, float]
    own_v: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Injection:
    """A current that hums: whose it is, the nodes it feeds and is drawn from, amperes.

    ``stage`` is the place in the chain (0 for what is around it), ``amps`` has shape
    (frequencies,).
    """

    source: str
    stage: int
    p: str
    n: str
    amps: Floats
    own: bool = False


def injections(compiled: CompiledChain) -> tuple[Floats, list[Injection]]:
    """Frequencies of hum, and every current that hums in a chain's circuit."""
    mains = np.array([n * compiled.mains_hz for n in HARMONICS])
    f_hz = np.concatenate([mains, COMB_HZ])
    found = []
    for k, stage in [*enumerate(compiled.stages), *((0, s) for s in compiled.beside)]:
        for mark in stage.marks:
            if isinstance(mark, EarthPath):
                amps = _injected_a(mark, f_hz, len(mains))
                found.append(Injection(stage.id, k, mark.chassis, GROUND, amps))
            elif isinstance(mark, Pickup):
                amps = np.zeros(f_hz.size)
                amps[: len(mains)] = mark.volts_per_hz * mains * MAINS_SHAPE / mark.ohm
                found.append(Injection(stage.id, k, mark.p, mark.n, amps))
            elif isinstance(mark, Ripple):
                amps = np.zeros(f_hz.size)
                amps[: len(mains)] = mark.volts * np.array(RIPPLE_SHAPE) / mark.ohm
                found.append(Injection(stage.id, k, mark.p, mark.n, amps, own=True))
    for box in compiled.grounds.boxes:
        if box.path is not None:
            amps = _injected_a(box.path, f_hz, len(mains))
            found.append(Injection(box.node, 0, box.node, GROUND, amps))
    for lead in compiled.grounds.leads:
        if lead.comb_v > 0:
            amps = np.zeros(f_hz.size)
            amps[len(mains) :] = lead.comb_v / COMB_ORDERS / lead.ohm
            found.append(Injection(f"&{lead.link.id}", 0, lead.p, lead.n, amps))
    return f_hz, found


def solve_hum(compiled: CompiledChain, linear: Linear, joints: Sequence[Pair]) -> Hum:
    """Hum of all earth paths; phases are unknown, so powers are summed."""
    f_hz, currents = injections(compiled)
    readings = read(linear, f_hz, joints)
    total, at_end, own = np.zeros(len(joints)), dict[str, float](), dict[str, float]()
    for at in currents:
        power = power_of(readings, at)
        total += power
        _add(at_end, at.source, float(power[-1]))
        if at.own:
            _add(own, at.source, float(power[-1]))
    return Hum(np.sqrt(total), at_end, own)


def hum_of_cascade(
    compiled: CompiledChain, linear: Linear, cascade: Cascade, groups: NDArray[np.intp]
) -> Hum:
    """The same for long chains, stage by stage: hum travels like noise, as power."""
    f_hz, currents = injections(compiled)
    row = linear.system.row
    sources = [(at.stage, NoiseInjection("", row(at.p), row(at.n), ())) for at in currents]
    powers = np.array([at.amps**2 for at in currents]).reshape(len(currents), f_hz.size)
    solved = cascade.solve(f_hz, None, sources, powers)
    count = len(compiled.stages)
    total = np.array([solved.at(k).noise.sum() for k in range(count)])
    at_last = solved.readings(count - 1)
    at_end, own = dict[str, float](), dict[str, float]()
    for at in currents:
        power = float(power_of(at_last, at)[0])
        _add(at_end, at.source, power)
        if at.own:
            _add(own, at.source, power)
    return Hum(np.sqrt(total), at_end, own)


def power_of(readings: Readings, at: Injection) -> Floats:
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
    emf[mains:] = path.comb_v / COMB_ORDERS
    admittance = np.full(f_hz.size, 1 / path.ohm) if path.ohm else 2 * np.pi * f_hz * path.farad
    return np.asarray(emf * admittance)
