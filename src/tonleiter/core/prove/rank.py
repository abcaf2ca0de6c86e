"""What would explain these readings: every fault simulated, weighed by how well it fits them all.

Each reading is compared with what a fault predicts, in units of how far parts and meter spread:
volts as they are, ohms and tones as ratios. A slip of the hand at the meter is always possible, so
that no single reading rules a fault out for good. The next reading is the one with the greatest
expected gain of information a minute (Lindley, Ann. Math. Stat. 27, 1956).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.bench.junctions import OPEN_V, TESTER_V
from tonleiter.core.bench.measure import Reading, at_rest, measure
from tonleiter.core.bench.unit import JOINT, Unit
from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Element,
    Inductor,
    Jfet,
    Resistor,
    VoltageSource,
)
from tonleiter.core.prove.faults import Fault, Weighed, both
from tonleiter.core.stop import checkpoint

Floats = NDArray[np.float64]
DRAWS, SEED = 24, 20260314
# a meter of the workshop: part of the reading, and what it cannot tell from nothing
METER_SHARE = {"V": 0.01, "A": 0.015, "Ω": 0.015, "tone": 0.03, "diode": 0.01}
METER_FLOOR = {"V": 0.01, "A": 10e-6, "Ω": 0.4, "tone": 0.2e-3, "diode": 0.03}
# how parts spread, as a share of their value (one standard deviation)
SPREAD = {Resistor: 0.02, Capacitor: 0.08, Inductor: 0.12, VoltageSource: 0.02}
GAIN_SPREAD = 0.35
# how often a reading is simply wrong: read off another place, or written down badly
SLIP = 2e-3
# ohms from which a meter shows open, as the number that an open pair counts as
OPEN_AS_OHM = 100e6
HEALTHY = "none"
# so much likelier than that no fault at all explains the readings
SUSPICIOUS_Z = 5.0
# single faults that are tried in pairs; a misfit that counts for no more than this
PAIRED, WORST_Z2 = 16, 100.0


@dataclass(frozen=True)
class Predicted:
    """What the readings of a healthy unit are, and between which ends they lie."""

    nominal: Floats
    low: Floats
    high: Floats
    sigma: Floats


@dataclass(frozen=True)
class Explained:
    """A fault with its share of the belief, and faults that no reading tells from it."""

    fault: Fault
    likelihood: float
    worst: str
    equals: tuple[str, ...]


@dataclass(frozen=True)
class Ranking:
    """Faults, likeliest first; the reading to take next; whether nothing explains the readings."""

    explained: tuple[Explained, ...]
    next: Reading | None
    suspicious: bool

    def groups(self, least: float) -> tuple[tuple[float, Explained], ...]:
        """Faults that no reading tells apart under the likeliest of them, with the share of all.

        Each is named by its first; those whose first has less than ``least`` are left out.
        """
        share = {e.fault.id: e.likelihood for e in self.explained}
        said: set[str] = set()
        groups: list[tuple[float, Explained]] = []
        for explained in self.explained:
            if explained.fault.id in said or explained.likelihood < least:
                continue
            same = [e for e in explained.equals if e not in said]
            said |= {explained.fault.id, *same}
            together = explained.likelihood + sum(share.get(e, 0.0) for e in same)
            groups.append((min(together, 1.0), explained))
        return tuple(sorted(groups, key=lambda g: -g[0]))


class Bench:
    """One unit with its faults, all simulated once."""

    def __init__(self, unit: Unit, readings: Sequence[Reading], faults: Sequence[Fault]) -> None:
        self.unit, self.readings = unit, tuple(readings)
        self.faults: tuple[Fault, ...] = (_healthy(faults), *faults)
        self._names = {r.id: k for k, r in enumerate(self.readings)}
        self._near = at_rest(unit, unit.elements)
        self.nominal = self._scaled(measure(unit, unit.elements, self.readings, self._near))
        self.sigma = self._spread()
        rows = []
        for fault in self.faults:
            checkpoint()
            made = fault.change(unit.elements)
            rows.append(self._scaled(measure(unit, made, self.readings, self._near)))
        self.values = np.array(rows)

    # --- scales ----------------------------------------------------------------------------------

    def _kind(self, k: int) -> str:
        reading = self.readings[k]
        if reading.unit == "V" and reading.step != "dc":
            return "tone" if reading.step == "tone" else "diode"
        return reading.unit

    def _scaled(self, values: Floats) -> Floats:
        """Volts as they are; ohms, amperes and tones as natural logarithms over their floor."""
        out = np.empty_like(values)
        for k, value in enumerate(values):
            kind = self._kind(k)
            if kind in ("V", "diode"):
                out[k] = TESTER_V if math.isinf(value) else value
                continue
            if kind == "Ω" and math.isinf(value):
                value = OPEN_AS_OHM
            floor = METER_FLOOR[kind]
            sign = -1.0 if value < 0 else 1.0
            out[k] = sign * math.log1p(abs(value) / floor) if math.isfinite(value) else math.nan
        return out

    def scaled(self, readings: Mapping[str, float]) -> tuple[NDArray[np.intp], Floats]:
        """Places and values of what was read. Raises KeyError for a strange one."""
        places = np.array([self._names[i] for i in readings], dtype=np.intp)
        full = np.full(len(self.readings), math.nan)
        for i, value in readings.items():
            full[self._names[i]] = value
        return places, self._scaled(full)[places]

    def _meter(self, values: Floats) -> Floats:
        """What the meter adds, in the scale of each reading; shape like ``values``."""
        out = np.empty_like(values)
        for k in range(values.shape[-1]):
            kind = self._kind(k)
            share = METER_SHARE[kind]
            if kind in ("V", "diode"):
                out[..., k] = np.hypot(share * np.abs(values[..., k]), METER_FLOOR[kind])
            else:
                # the share of a ratio, and the floor where the reading is about as small as it
                small = np.exp(-np.abs(values[..., k]))
                out[..., k] = np.hypot(share, small)
        return out

    def _spread(self) -> Floats:
        """How far healthy units spread, one standard deviation; shape (readings,)."""
        rng = np.random.default_rng(SEED)
        rows = []
        for _ in range(DRAWS):
            checkpoint()
            drawn = tuple(_drawn(e, rng) for e in self.unit.elements)
            rows.append(self._scaled(measure(self.unit, drawn, self.readings, self._near)))
        spread: Floats = np.nanstd(np.array(rows), axis=0)
        self._rows = np.array(rows)
        return np.where(np.isfinite(spread), spread, 0.0)

    def predicted(self) -> Predicted:
        """Brackets of every reading: the spread of parts and the meter's own."""
        both = np.hypot(self.sigma, self._meter(self.nominal))
        low = np.minimum(np.nanmin(self._rows, axis=0), self.nominal - 2 * both)
        high = np.maximum(np.nanmax(self._rows, axis=0), self.nominal + 2 * both)
        return Predicted(self.plain(self.nominal), self.plain(low), self.plain(high), both)

    def plain(self, scaled: Floats) -> Floats:
        """Back from the scale to volts, amperes and ohms; open ohms are infinite."""
        out = np.empty_like(scaled)
        for k, value in enumerate(scaled):
            kind = self._kind(k)
            if kind in ("V", "diode"):
                out[k] = math.inf if kind == "diode" and value > OPEN_V else value
                continue
            plain = math.copysign(METER_FLOOR[kind] * math.expm1(abs(value)), value)
            if kind == "Ω":
                plain = math.inf if plain > OPEN_AS_OHM / 5 else max(plain, 0.0)
            out[k] = plain
        return out

    def with_pairs(self, readings: Mapping[str, float]) -> Bench:
        """The same bench with pairs of the faults that explain most of these readings each."""
        places, read = self.scaled(readings)
        sigma = self._sigmas[:, places]
        z2 = np.minimum(((read[None, :] - self.values[:, places]) / sigma) ** 2, WORST_Z2)
        z2 = np.where(np.isfinite(z2), z2, WORST_Z2)
        # what each takes off the misfit of a healthy unit
        gain = (z2[0] - z2).sum(axis=1)
        best = [int(k) for k in np.argsort(-gain) if k != 0 and gain[k] > 0][:PAIRED]
        total = sum(f.prior for f in self.faults[1:])
        pairs = [
            both(self.faults[a], self.faults[b], total)
            for n, a in enumerate(best)
            for b in best[n + 1 :]
            if self.faults[a].part != self.faults[b].part
        ]
        made = copy(self)
        for cached in ("_sigmas", "_equals"):
            made.__dict__.pop(cached, None)
        rows = []
        for pair in pairs:
            checkpoint()
            changed = pair.change(self.unit.elements)
            rows.append(self._scaled(measure(self.unit, changed, self.readings, self._near)))
        if rows:
            made.faults = (*self.faults, *pairs)
            made.values = np.vstack([self.values, np.array(rows)])
        return made

    # --- ranking ---------------------------------------------------------------------------------

    @cached_property
    def _sigmas(self) -> Floats:
        """What a reading of each fault may be off by; shape (faults, readings)."""
        # parts that spread a healthy reading spread it as much, in its scale, with a fault
        sigma: Floats = np.hypot(self.sigma[None, :], self._meter(np.nan_to_num(self.values)))
        # a fault makes a tone hang on parts that it did not hang on before: by so much of their
        # spread as it moved the tone, and by no more than all of it
        tones = [k for k in range(len(self.readings)) if self._kind(k) == "tone"]
        moved = np.abs(np.nan_to_num(self.values[:, tones] - self.nominal[tones]))
        sigma[:, tones] = np.hypot(sigma[:, tones], SPREAD[Capacitor] * np.minimum(moved, 1.0))
        return sigma

    def beliefs(self, readings: Mapping[str, float]) -> Floats:
        """Share of the belief that each fault gets, shape (faults,)."""
        logs = np.log([f.prior for f in self.faults])
        if readings:
            places, read = self.scaled(readings)
            logs = logs + self._log_fit(places, read).sum(axis=1)
        logs -= logs.max()
        share: Floats = np.exp(logs)
        total: Floats = share / share.sum()
        return total

    def _log_fit(self, places: NDArray[np.intp], read: Floats) -> Floats:
        """Logarithm of how well each fault fits each reading, shape (faults, readings)."""
        sigma = self._sigmas[:, places]
        z = (read[None, :] - self.values[:, places]) / sigma
        fit = np.exp(-0.5 * np.minimum(z**2, 1400.0)) / sigma
        # a slip may show anything: spread over some decades or volts
        fit = np.where(np.isfinite(fit), fit, 0.0) * (1 - SLIP) + SLIP / 20.0
        logs: Floats = np.log(fit)
        return logs

    def rank(self, readings: Mapping[str, float]) -> Ranking:
        """Faults by how well each explains all readings, and what to read next."""
        belief = self.beliefs(readings)
        order = np.argsort(-belief, kind="stable")
        groups = self._equals
        explained = []
        for k in order[:40]:
            worst = self._worst(int(k), readings)
            same = tuple(self.faults[j].id for j in groups[k] if j != k)
            explained.append(Explained(self.faults[k], float(belief[k]), worst, same))
        return Ranking(
            tuple(explained),
            self._next(belief, groups, readings),
            self._suspicious(int(order[0]), readings),
        )

    @cached_property
    def _equals(self) -> list[list[int]]:
        """For each fault those that differ from it by less than a meter could tell, anywhere."""
        sigma = self._sigmas
        values = np.nan_to_num(self.values, nan=1e6)
        groups = []
        for k in range(len(self.faults)):
            away = np.abs(values - values[k]) / np.hypot(sigma, sigma[k])
            groups.append([int(j) for j in np.flatnonzero(away.max(axis=1) < 1.5)])
        return groups

    def _worst(self, k: int, readings: Mapping[str, float]) -> str:
        """The reading that a fault explains least."""
        if not readings:
            return ""
        places, read = self.scaled(readings)
        z = np.abs(read - self.values[k, places]) / self._sigmas[k, places]
        at = int(np.nanargmax(z)) if np.any(np.isfinite(z)) else 0
        return self.readings[places[at]].id if z[at] > 2 else ""

    def _suspicious(self, k: int, readings: Mapping[str, float]) -> bool:
        """Whether even the best explanation misses a reading by far."""
        if not readings:
            return False
        places, read = self.scaled(readings)
        z = np.abs(read - self.values[k, places]) / self._sigmas[k, places]
        return bool(np.nanmax(z) > SUSPICIOUS_Z)

    def _next(
        self, belief: Floats, groups: list[list[int]], readings: Mapping[str, float]
    ) -> Reading | None:
        """The reading with the most information a minute; None where nothing more is told apart."""
        alive = np.flatnonzero(belief > 1e-4)
        if alive.size < 2 or set(alive.tolist()) <= set(groups[int(np.argmax(belief))]):
            return None
        share = belief[alive] / belief[alive].sum()
        sigma = self._sigmas[alive]
        values = np.nan_to_num(self.values[alive], nan=1e6)
        best, most = None, 0.0
        for k, reading in enumerate(self.readings):
            if reading.id in readings:
                continue
            gain = _information(values[:, k], sigma[:, k], share) / reading.minutes
            if gain > most * (1 + 1e-9) and gain > 1e-3:
                best, most = reading, gain
        return best


def _information(values: Floats, sigma: Floats, share: Floats) -> float:
    """Bits that a reading is expected to tell: entropy of where it falls, in bins of its spread."""
    order = np.argsort(values)
    v, s, p = values[order], sigma[order], share[order]
    # neighbours closer than twice their spread fall together
    cuts = np.flatnonzero(np.diff(v) > 2.5 * np.maximum(s[1:], s[:-1])) + 1
    parts = np.array([chunk.sum() for chunk in np.split(p, cuts)])
    parts = parts[parts > 0]
    return float(-(parts * np.log2(parts)).sum())


def _healthy(faults: Sequence[Fault]) -> Fault:
    """A build that is right: as likely as all single faults together, before it is measured."""
    weight = sum(f.prior for f in faults) or 1.0
    return Weighed(HEALTHY, "nothing wrong", "dry", "", lambda elements: elements, weight)


def _drawn(element: Element, rng: np.random.Generator) -> Element:
    """A part as another one of its kind would be."""
    if element.name.startswith(JOINT):
        return element
    match element:
        case Resistor(ohm=ohm):
            return replace(element, ohm=ohm * math.exp(rng.normal(0, SPREAD[Resistor])))
        case Capacitor(farad=farad):
            return replace(element, farad=farad * math.exp(rng.normal(0, SPREAD[Capacitor])))
        case Inductor(henry=henry):
            return replace(element, henry=henry * math.exp(rng.normal(0, SPREAD[Inductor])))
        case VoltageSource(dc=dc):
            return replace(element, dc=dc * math.exp(rng.normal(0, SPREAD[VoltageSource])))
        case Bipolar(model=model):
            gain = math.exp(rng.normal(0, GAIN_SPREAD))
            return replace(element, model=replace(model, bf=model.bf * gain))
        case Jfet(model=model):
            gain = math.exp(rng.normal(0, GAIN_SPREAD / 2))
            return replace(element, model=replace(model, beta_a_per_v2=model.beta_a_per_v2 * gain))
    return element
