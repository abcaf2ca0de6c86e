"""One circuit with many sets of values: only the values in its matrices are replaced.

For circuits without devices, whose operating point needs no search.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.ac import BLOCK_BYTES, Floats, Linear
from tonleiter.core.circuit.elements import (
    Capacitor,
    Coupling,
    CurrentSource,
    Element,
    Inductor,
    Resistor,
    Vccs,
    VoltageSource,
)
from tonleiter.core.circuit.noise import noise_sources, spectra
from tonleiter.core.circuit.readings import Pair, Readings, reading_vectors
from tonleiter.core.stop import checkpoint

CHUNK = 50
Versions = Mapping[int, Sequence[Element]]


@dataclass(frozen=True)
class Solved:
    """Some of the versions: readings with an axis of versions in front, and what DC comes to.

    ``psd`` has shape (versions, noise sources, frequencies), ``dc_v`` (versions, readings).
    """

    readings: Readings
    psd: Floats
    dc_v: Floats


def replaceable(elements: Sequence[Element]) -> bool:
    """Whether all of these sit with their values alone in their entries."""
    simple = Resistor | Capacitor | Inductor | Coupling | Vccs | CurrentSource | VoltageSource
    return all(isinstance(e, simple) for e in elements)


def solve_versions(
    linear: Linear, f_hz: Floats, pairs: Sequence[Pair], versions: Versions, count: int
) -> Iterator[Solved]:
    """Solve all versions of a circuit, some at a time, in order.

    ``versions`` has, by an element's place in the circuit, the element as it is in each of the
    ``count`` versions; the others stay as they are.
    """
    system = linear.system
    circuit = system.circuit.elements
    ratios = _ratios(circuit, versions, count)
    G = np.repeat(system.G[None], count, axis=0)
    C = np.repeat(system.C[None], count, axis=0)
    for stamps, target, in_c in ((system.conductances, G, False), (system.capacitances, C, True)):
        for entry in stamps:
            element = circuit[entry.element]
            if entry.element in ratios and _varies(element, in_c):
                ratio = ratios[entry.element]
                target[:, entry.row, entry.column] += entry.value * (ratio - 1.0)
    sources = noise_sources(linear)
    source_of = {s.name: k for k, s in enumerate(sources)}
    scale = np.ones((count, len(sources)))
    b_dc = np.repeat(system.b_dc[None], count, axis=0)
    for place, drawn in versions.items():
        element = circuit[place]
        if isinstance(element, VoltageSource):
            b_dc[:, system.branch_row[element.name]] = [_dc_v(e) for e in drawn]
        if element.name in source_of:
            scale[:, source_of[element.name]] = [_noise_scale(element, e) for e in drawn]
    psd = spectra([s.spectrum for s in sources], f_hz)
    reads = reading_vectors(system, pairs)
    yield from _solved(linear, f_hz, reads, (G, C, b_dc), scale[:, :, None] * psd[None])


def _solved(
    linear: Linear, f_hz: Floats, reads: Floats, arrays: tuple[Floats, Floats, Floats], psd: Floats
) -> Iterator[Solved]:
    """A chunk of versions at a time, as many as memory allows."""
    G, C, b_dc = arrays
    count, last = G.shape[0], G.shape[1]
    omega, right = 2 * np.pi * f_hz, reads.astype(complex)
    chunk = max(1, min(CHUNK, BLOCK_BYTES // (16 * f_hz.size * last * (last + reads.shape[1]))))
    for start in range(0, count, chunk):
        checkpoint()
        part = slice(start, min(start + chunk, count))
        size = part.stop - part.start
        matrices = np.empty((size, f_hz.size, last, last), dtype=complex)
        matrices.real = G[part].transpose(0, 2, 1)[:, None]
        matrices.imag = omega[None, :, None, None] * C[part].transpose(0, 2, 1)[:, None]
        y = np.linalg.solve(matrices, np.broadcast_to(right, (size, f_hz.size, *right.shape)))
        x: Floats = np.asarray(np.linalg.solve(G[part], b_dc[part][:, :, None])[:, :, 0], float)
        yield Solved(Readings(linear.system, f_hz, y), psd[part], x @ reads)


def _ratios(circuit: Sequence[Element], versions: Versions, count: int) -> dict[int, Floats]:
    """Each element's value over its present one, (versions,), by place, for those that change."""
    values: list[dict[str, float]] = []
    for k in range(count):
        values.append(_values([drawn[k] for drawn in versions.values()]))
    nominal = _values([circuit[place] for place in versions])
    ratios: dict[int, Floats] = {}
    for place in versions:
        name = circuit[place].name
        if not nominal.get(name):
            continue
        ratio = np.array([v[name] for v in values]) / nominal[name]
        if np.any(ratio != 1.0):
            ratios[place] = ratio
    return ratios


def _values(elements: Sequence[Element]) -> dict[str, float]:
    """The number that each element puts into the matrices."""
    henry = {e.name: e.henry for e in elements if isinstance(e, Inductor)}
    values: dict[str, float] = {}
    for element in elements:
        match element:
            case Resistor(name=name, ohm=ohm):
                values[name] = 1 / ohm
            case Capacitor(name=name, farad=farad):
                values[name] = farad
            case Inductor(name=name, henry=value):
                values[name] = value
            case Coupling(name=name, first=first, second=second, k=k):
                values[name] = k * (henry[first] * henry[second]) ** 0.5
            case Vccs(name=name, siemens=siemens):
                values[name] = siemens
    return values


def _varies(element: Element, in_c: bool) -> bool:
    """Whether a matrix entry of an element holds its value, and not the 1 of an incidence."""
    if isinstance(element, Inductor | Coupling):
        return in_c
    return isinstance(element, Resistor | Capacitor | Vccs)


def _noise_scale(nominal: Element, drawn: Element) -> float:
    if isinstance(nominal, Resistor) and isinstance(drawn, Resistor):
        return nominal.ohm / drawn.ohm
    sources = CurrentSource | VoltageSource
    if isinstance(nominal, sources) and isinstance(drawn, sources) and nominal.noise:
        return drawn.noise[0].at_1khz / nominal.noise[0].at_1khz
    return 1.0


def _dc_v(element: Element) -> float:
    assert isinstance(element, VoltageSource)
    return element.dc
