"""The solved chain: DC, response at every joint, noise by source, impedances both ways."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.chain.compiled import VOICE, CompiledChain, PlacedStage
from tonleiter.core.chain.hum import Hum, solve_hum
from tonleiter.core.circuit.ac import Complexes, Floats, Linear, linearise
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.noise import NoiseShares, band_power, noise_shares
from tonleiter.core.circuit.system import NOWHERE, System
from tonleiter.core.gear.voice import speech_weights

LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
POINTS = 200
# enough to draw and to judge by while a value moves: levels within 0.1 dB of the full grid's
DRAFT_POINTS = 60
IMPEDANCE_AT_HZ = 1000.0


@dataclass(frozen=True)
class Impedances:
    """Magnitudes in ohm at 1 kHz at one joint: back into the source, on into the load, together."""

    source_ohm: float
    load_ohm: float
    joint_ohm: float

    @property
    def loading_loss_db(self) -> float:
        """What loading takes off the open source: 20 log10((Zs + Zl) / Zl); the load is finite."""
        return 20 * math.log10((self.source_ohm + self.load_ohm) / self.load_ohm)


@dataclass(frozen=True)
class ChainSolution:
    """Everything computed about one variant. Joint ``k`` is the outlet of stage ``k``.

    ``response`` is volts per pascal, shape (frequencies, joints); ``noise.psd_v2_per_hz`` has shape
    (contributors, frequencies, joints); ``impedances`` and ``dc_a`` have one entry per inner joint,
    that is one fewer than stages.
    """

    compiled: CompiledChain
    linear: Linear
    op: OperatingPoint
    f_hz: Floats
    response: Complexes
    noise: NoiseShares
    impedances: tuple[Impedances, ...]
    hum: Hum
    dc_v: tuple[float, ...]
    dc_a: tuple[float, ...]

    def speech_v(self) -> Floats:
        """Active speech level in volts RMS at each joint: P.50 speech through the response."""
        weights = speech_weights(self.f_hz)
        power = weights @ np.abs(self.response) ** 2
        volts: Floats = self.compiled.speech_pa * np.sqrt(power)
        return volts

    def noise_v(self) -> Floats:
        """Noise in volts RMS in the chain's band at each joint."""
        inside = self._band()
        psd = self.noise.psd_v2_per_hz[:, inside, :].sum(axis=0)
        volts: Floats = np.sqrt(band_power(psd, self.f_hz[inside], axis=0))
        return volts

    def noise_shares_at(self, joint: int) -> dict[str, float]:
        """Share of the noise power in the band, by stage id; ``voice`` stands for the room."""
        inside = self._band()
        power = band_power(self.noise.psd_v2_per_hz[:, inside, joint], self.f_hz[inside])
        total = float(power.sum())
        shares: dict[str, float] = {}
        for name, value in zip(self.noise.names, power, strict=True):
            stage = name.partition(":")[0]
            shares[stage] = shares.get(stage, 0.0) + (float(value) / total if total > 0 else 0.0)
        return shares

    def _band(self) -> NDArray[np.bool_]:
        low, high = self.compiled.chain.band_hz
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


def solve_chain(compiled: CompiledChain, points: int = POINTS) -> ChainSolution:
    """DC, AC and noise of a compiled chain. Raises CircuitError if it has no solution."""
    system = System(compiled.circuit)
    op = solve_dc(system)
    linear = linearise(system, op)
    f_hz = frequency_grid(compiled.chain.band_hz, points)
    reads = np.stack([system.unit(s.outlet.hot, s.outlet.cold) for s in compiled.stages], axis=1)
    adjoint = linear.adjoint(f_hz, reads)
    impedances, dc_a = _joints(compiled.stages, linear, op)
    return ChainSolution(
        compiled=compiled,
        linear=linear,
        op=op,
        f_hz=f_hz,
        response=adjoint[:, system.branch_row[VOICE], :],
        noise=noise_shares(linear, f_hz, adjoint),
        impedances=impedances,
        hum=solve_hum(compiled.stages, linear, reads, compiled.mains_hz),
        dc_v=tuple(op.volts(s.outlet.hot, s.outlet.cold) for s in compiled.stages),
        dc_a=dc_a,
    )


def _joints(
    stages: tuple[PlacedStage, ...], linear: Linear, op: OperatingPoint
) -> tuple[tuple[Impedances, ...], tuple[float, ...]]:
    """Impedances both ways and DC onwards at each joint between two stages.

    A test current into the joint splits between the two sides: with voltage v and current i into
    the load side, the load is v/i and the source v/(1−i).
    """
    system = linear.system
    inner = stages[:-1]
    tests = np.stack([system.unit(s.outlet.hot, s.outlet.cold) for s in inner], axis=1)
    x = linear.solve(np.array([IMPEDANCE_AT_HZ]), tests)[0]
    omega = 2 * np.pi * IMPEDANCE_AT_HZ
    impedances, dc = [], []
    for k, stage in enumerate(inner):
        onwards = frozenset().union(*(s.elements for s in stages[k + 1 :]))
        g, c = system.current_row(stage.outlet.hot, onwards)
        direct = float(g @ op.x)
        row = system.row(stage.outlet.hot)
        for placed, state in zip(system.devices, op.states, strict=True):
            if placed.element in onwards and row in placed.rows:
                terminal = placed.rows.index(row)
                direct += float(state.currents[terminal])
                for column, value in zip(placed.rows, state.conductances[terminal], strict=True):
                    if column != NOWHERE:
                        g[column] += value
        v = complex(tests[:, k] @ x[:, k])
        i = complex((g + 1j * omega * c) @ x[:, k])
        impedances.append(Impedances(_ratio(v, 1 - i), _ratio(v, i), abs(v)))
        dc.append(direct)
    return tuple(impedances), tuple(dc)


def _ratio(v: complex, i: complex) -> float:
    return abs(v / i) if abs(i) > 1e-15 else float("inf")
