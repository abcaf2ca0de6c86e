"""The solved chain: DC, response at every joint, noise by source, impedances both ways."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.ac import Complexes, Floats, Linear, linearise
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import GROUND, CircuitError
from tonleiter.core.circuit.noise import NoiseShares, band_power
from tonleiter.core.circuit.onward import onwards, split_currents
from tonleiter.core.circuit.readings import Pair, read
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.voice import flat_weights, speech_weights
from tonleiter.core.solve.compiled import VOICE, CompiledChain, PlacedStage
from tonleiter.core.solve.hum import Hum, hum_of_cascade, solve_hum
from tonleiter.core.solve.row import cascade_of, group_of_elements, placed_sources

LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
POINTS = 200
# enough to draw and to judge by while a value moves: levels within 0.1 dB of the full grid's
DRAFT_POINTS = 60
IMPEDANCE_AT_HZ = 1000.0
DEAD_SHORT_OHM = 1e-6
# a quarter turn between them makes 0.71 of what resistors add up to
NEARLY_RESISTIVE = 0.9


@dataclass(frozen=True)
class Impedances:
    """Magnitudes in ohm at 1 kHz at one joint: back into the source, on into the load, together."""

    source_ohm: float
    load_ohm: float
    joint_ohm: float

    @property
    def loading_loss_db(self) -> float:
        """What loading takes off the open source: 20 log10 |(Zs + Zl) / Zl|, |Zs| over both.

        Infinite for a source of current or a dead short.
        """
        if self.source_ohm <= 0.0:
            return 0.0
        if not math.isfinite(self.source_ohm) or self.joint_ohm <= 0.0:
            return math.inf
        return 20 * math.log10(self.source_ohm / self.joint_ohm)

    @property
    def is_resistive(self) -> bool:
        """Whether source and load add up as resistors do: those of coil and capacitor do not."""
        apart_ohm = self.source_ohm + self.load_ohm
        if self.joint_ohm <= 0.0 or not math.isfinite(apart_ohm):
            return True
        return self.source_ohm * self.load_ohm / self.joint_ohm > NEARLY_RESISTIVE * apart_ohm


@dataclass(frozen=True)
class ChainSolution:
    """Everything computed about one variant. Joint ``k`` is the outlet of stage ``k``.

    ``response`` is volts per pascal and ``noise_psd`` V²/Hz, shapes (frequencies, joints);
    ``shares_at`` gives the contributors at one joint; ``impedances`` and ``dc_a`` have one entry
    per inner joint, that is one fewer than stages.
    """

    compiled: CompiledChain
    linear: Linear
    op: OperatingPoint
    f_hz: Floats
    response: Complexes
    noise_psd: Floats
    shares_at: Callable[[int], NoiseShares]
    impedances: tuple[Impedances, ...]
    hum: Hum
    dc_v: tuple[float, ...]
    dc_a: tuple[float, ...]

    def node_v(self, node: str) -> float | None:
        """DC of a node against earth; None for one that is not there."""
        try:
            return self.op.volts(node, GROUND)
        except (KeyError, CircuitError):
            return None

    def around(self, stage: int) -> tuple[float, float]:
        """What a stage meets at 1 kHz: ohms of what stands before it, and behind it."""
        inner = self.impedances
        source = inner[stage - 1].source_ohm if stage else 0.0
        return source, inner[stage].load_ohm if stage < len(inner) else math.inf

    def joints(self) -> list[Pair]:
        """The hot and the cold node of each joint."""
        return _joints(self.compiled.stages)

    def speech_v(self) -> Floats:
        """Level in volts RMS at each joint: of speech the active level, through the response."""
        volts: Floats = self.compiled.speech_pa * np.sqrt(
            self.weights() @ np.abs(self.response) ** 2
        )
        return volts

    def speech_in_band_v(self) -> Floats:
        """The part of it that lies in the band in which noise is weighed."""
        weights = self.weights() * self._band()
        volts: Floats = self.compiled.speech_pa * np.sqrt(weights @ np.abs(self.response) ** 2)
        return volts

    def weights(self) -> Floats:
        """Share of the signal's power that each frequency stands for, shape (frequencies,)."""
        if self.compiled.signal.id in ("speech", "music"):
            return speech_weights(self.f_hz)
        return flat_weights(self.f_hz, self.compiled.chain.band)

    def noise_v(self) -> Floats:
        """Noise in volts RMS in the chain's band at each joint."""
        inside = self._band()
        volts: Floats = np.sqrt(band_power(self.noise_psd[inside], self.f_hz[inside], axis=0))
        return volts

    def noise_shares_at(self, joint: int) -> dict[str, float]:
        """Share of the noise power in the band, by stage id; ``voice`` stands for the room."""
        inside = self._band()
        noise = self.shares_at(joint)
        power = band_power(noise.psd_v2_per_hz[:, inside, 0], self.f_hz[inside])
        total = float(power.sum())
        shares: dict[str, float] = {}
        for name, value in zip(noise.names, power, strict=True):
            stage = name.partition(":")[0]
            shares[stage] = shares.get(stage, 0.0) + (float(value) / total if total > 0 else 0.0)
        return shares

    def _band(self) -> NDArray[np.bool_]:
        low, high = self.compiled.chain.band
        return np.asarray((self.f_hz >= low) & (self.f_hz <= high))

    def own_gain(self, joint: int) -> Floats:
        """Gain of one stage by itself from the joint before (V/Pa for the first), (frequencies,).

        Not finite where nothing arrives.
        """
        response = np.abs(self.response)
        if joint == 0:
            return np.asarray(response[:, 0])
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(response[:, joint] / response[:, joint - 1])

    def gain_db(self) -> Floats:
        """Response from the air to the radio in dB re 1 V/Pa, shape (frequencies,)."""
        magnitude = np.abs(self.response[:, -1])
        gain: Floats = 20 * np.log10(np.maximum(magnitude, 1e-12))
        return gain


@lru_cache(maxsize=32)
def frequency_grid(band_hz: tuple[float, float], points: int = POINTS) -> Floats:
    """Frequencies, evenly spread in octaves, that include 1 kHz and the band's edges."""
    marks = {*band_hz, IMPEDANCE_AT_HZ} - {LOWEST_HZ, HIGHEST_HZ}
    even = np.logspace(np.log10(LOWEST_HZ), np.log10(HIGHEST_HZ), points - len(marks))
    grid = np.array(sorted({*even.tolist(), *marks}))
    grid.setflags(write=False)
    return grid


# a curve that bends by more than this from one step to the next, in dB, is looked at more closely
BENDS_DB, MOST_BETWEEN = 0.4, 7
DEAD_SHARE = 1e-6
LOOKED_AT_HZ = (60.0, 8000.0)


def between_bends(f_hz: Floats, response: Complexes) -> Floats:
    """Further frequencies where a response of shape (frequencies, joints) bends; none mostly.

    A resonance of a case or a tube falls between the points of a coarse grid; its flanks show.
    """
    size = np.abs(response)
    # what is so far under the loudest is rounding, and bends everywhere
    db = 20 * np.log10(np.maximum(size, max(DEAD_SHARE * float(size.max()), 1e-30)))
    bends = np.zeros(len(f_hz))
    bends[1:-1] = np.abs(np.diff(db, n=2, axis=0)).max(axis=1)
    low, high = LOOKED_AT_HZ
    bends[(f_hz < low) | (f_hz > high)] = 0.0
    steps = np.maximum(bends[:-1], bends[1:])
    counts = np.minimum(np.ceil(np.sqrt(steps / BENDS_DB)).astype(int), MOST_BETWEEN)
    counts[steps < BENDS_DB] = 0
    wanted = np.flatnonzero(counts)
    many = counts[wanted]
    # evenly in octaves between each pair: step 1 to n of n + 1
    at = np.repeat(wanted, many)
    step = np.arange(many.sum()) - np.repeat(np.cumsum(many) - many, many) + 1
    share = step / (np.repeat(many, many) + 1)
    between: Floats = f_hz[at] * (f_hz[at + 1] / f_hz[at]) ** share
    return between


# from so many unknowns on, taking the stages one after the other beats one matrix for all
CASCADE_FROM = 110


def solve_chain(compiled: CompiledChain, points: int = POINTS) -> ChainSolution:
    """DC, AC and noise of a compiled chain. Raises CircuitError if it has no solution."""
    with np.errstate(all="ignore"):  # what is not finite is found where it comes out, and said
        try:
            return _solved(compiled, points)
        except (ArithmeticError, np.linalg.LinAlgError) as error:
            raise CircuitError(f"its figures are beyond what can be computed ({error})") from error


def _solved(compiled: CompiledChain, points: int) -> ChainSolution:
    system = System(compiled.circuit)
    op = solve_dc(system)
    linear = linearise(system, op)
    f_hz = frequency_grid(compiled.chain.band, points)
    stages = compiled.stages
    if system.size >= CASCADE_FROM:
        return _cascaded(compiled, linear, op, f_hz)
    joints = _joints(stages)
    readings = read(linear, f_hz, joints)
    more_hz = between_bends(f_hz, readings.from_source(VOICE))
    if more_hz.size:
        readings = readings.and_more(read(linear, more_hz, joints))
        f_hz = readings.f_hz
    noise = readings.noise(linear)
    onward = onwards(linear, group_of_elements(stages, system), [p for p, _ in joints[:-1]])
    return ChainSolution(
        compiled=compiled,
        linear=linear,
        op=op,
        f_hz=f_hz,
        response=readings.from_source(VOICE),
        noise_psd=noise.psd_v2_per_hz.sum(axis=0),
        shares_at=noise.at,
        impedances=tuple(
            _impedances_of(v, i)
            for v, i in split_currents(linear, IMPEDANCE_AT_HZ, joints[:-1], onward)
        ),
        hum=solve_hum(compiled, linear, joints),
        dc_v=_direct_v(compiled, op),
        dc_a=tuple(row.direct_a(op) for row in onward),
    )


def _cascaded(
    compiled: CompiledChain, linear: Linear, op: OperatingPoint, f_hz: Floats
) -> ChainSolution:
    """The same stage by stage, for long chains."""
    system, stages = linear.system, compiled.stages
    groups = group_of_elements(stages, system)
    cascade = cascade_of(stages, linear, groups)
    sources = placed_sources(linear, groups)
    onward = onwards(linear, groups, [p for p, _ in _joints(stages)[:-1]])
    solved = cascade.solve(f_hz, VOICE, sources)
    more_hz = between_bends(f_hz, solved.at(len(stages) - 1).response[:, None])
    if more_hz.size:
        f_hz = np.union1d(f_hz, more_hz)
        solved = cascade.solve(f_hz, VOICE, sources)
    joints = [solved.at(k) for k in range(len(stages))]
    one = cascade.solve(np.array([IMPEDANCE_AT_HZ]), VOICE)
    z = []
    for k in range(len(stages) - 1):
        at = one.at(k)
        v, i = complex(at.z[0]), complex(at.onwards[0])
        z.append(_impedances_of(v, i))

    def shares(joint: int) -> NoiseShares:
        return solved.readings(joint).noise(linear)

    return ChainSolution(
        compiled=compiled,
        linear=linear,
        op=op,
        f_hz=f_hz,
        response=np.stack([j.response for j in joints], axis=1),
        noise_psd=np.stack([j.noise for j in joints], axis=1),
        shares_at=lru_cache(maxsize=4)(shares),
        impedances=tuple(z),
        hum=hum_of_cascade(compiled, linear, cascade, groups),
        dc_v=_direct_v(compiled, op),
        dc_a=tuple(row.direct_a(op) for row in onward),
    )


def _joints(stages: tuple[PlacedStage, ...]) -> list[Pair]:
    return [(s.outlet.hot, s.outlet.cold) for s in stages]


def _direct_v(compiled: CompiledChain, op: OperatingPoint) -> tuple[float, ...]:
    return tuple(op.volts(s.outlet.hot, s.outlet.cold) for s in compiled.stages)


def _ratio(v: complex, i: complex) -> float:
    return abs(v / i) if abs(i) > 1e-15 else float("inf")


def _impedances_of(v: complex, onwards_a: complex) -> Impedances:
    """From the volts of 1 A into a joint and the share of it that goes on.

    A dead short is some leads' resistance still, so that ratios of impedances exist.
    """
    floor = DEAD_SHORT_OHM
    return Impedances(
        max(_ratio(v, 1 - onwards_a), floor), max(_ratio(v, onwards_a), floor), max(abs(v), floor)
    )
