"""What the ranges of figures do to the levels: many draws in one batched evaluation.

Every figure with a range, wherever it stands in the chain, is drawn evenly between its ends (in
ratio where the unit takes prefixes, so that 600..2400 has its middle at 1200). The seed is fixed:
the same station gives the same bands. The circuit is the same in every draw, so only the values in
its matrices are replaced, for all draws together; a chain with transistors is solved draw by draw.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.ac import BLOCK_BYTES, Complexes, Floats, Linear, linearise
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    Coupling,
    CurrentSource,
    Element,
    Inductor,
    Resistor,
    Vccs,
    VoltageSource,
)
from tonleiter.core.circuit.noise import injection_rows, noise_sources, spectra
from tonleiter.core.circuit.system import NoiseInjection, System
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.gear.voice import speech_pressure_pa, speech_weights
from tonleiter.core.solve.compiled import VOICE, PlacedStage
from tonleiter.core.solve.draws import SEED, Drawn, Uncertain, draws_of
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.solve.row import cascade_of, group_of_elements, placed_sources
from tonleiter.core.solve.solution import CASCADE_FROM, ChainSolution
from tonleiter.core.stop import checkpoint

DRAWS = 400
# a coarse grid serves: what is wanted is how levels move, added to the finely computed ones
POINTS = 14
CHUNK = 50
FEWEST_DRAWS = 40
LOW_SHARE, HIGH_SHARE = 0.05, 0.95


@dataclass(frozen=True)
class Spread:
    """Draws at each joint, shape (draws, joints): levels in dBu, DC in volts; and the figures."""

    speech_dbu: Floats
    noise_dbu: Floats
    dc_v: Floats
    figures: tuple[Uncertain, ...]

    def band_dbu(self, joint: int) -> tuple[float, float]:
        """Speech levels that nine draws in ten lie between."""
        return _band(self.speech_dbu[:, joint])

    def noise_band_dbu(self, joint: int) -> tuple[float, float]:
        """Noise levels that nine draws in ten lie between."""
        return _band(self.noise_dbu[:, joint])

    def dc_band_v(self, joint: int) -> tuple[float, float]:
        """DC volts that nine draws in ten lie between."""
        return _band(self.dc_v[:, joint])

    def matters_most(self, joint: int) -> Uncertain | None:
        """The figure that the level at a joint follows most closely; None if it follows none."""
        level = self.speech_dbu[:, joint]
        if np.ptp(level) < 1e-6:
            return None
        strength = [abs(rank_correlation(f.draws, level)) for f in self.figures]
        return self.figures[int(np.argmax(strength))]


def _band(draws: Floats) -> tuple[float, float]:
    low, high = np.quantile(draws, (LOW_SHARE, HIGH_SHARE))
    return float(low), float(high)


def rank_correlation(a: Floats, b: Floats) -> float:
    """Rank correlation (Spearman), ties sharing their rank: a figure need not act in proportion."""
    # imported when it is wanted: it costs as much as the rest of the start
    from scipy.stats import rankdata

    ranks_a, ranks_b = rankdata(a), rankdata(b)
    if np.ptp(ranks_a) == 0 or np.ptp(ranks_b) == 0:
        return 0.0
    return float(np.corrcoef(ranks_a, ranks_b)[0, 1])


def solve_spread(
    solution: ChainSolution, rows: tuple[StageLevels, ...], draws: int = DRAWS
) -> Spread | None:
    """Levels over many draws; None when every figure of the chain is without a range.

    A long chain takes its time for each draw, and gets fewer of them.
    """
    if solution.linear.system.size >= CASCADE_FROM:
        draws = max(FEWEST_DRAWS, draws * CASCADE_FROM // (4 * solution.linear.system.size))
    rng = np.random.default_rng(SEED)
    stages = solution.compiled.stages
    by_stage, figures = draws_of(stages, rng, draws)
    speech_db = np.zeros(draws)
    distance = solution.compiled.chain.distance_mm
    if distance.low is not None and distance.high is not None and solution.compiled.acoustic:
        values = rng.uniform(distance.low, distance.high, draws)
        pressure = np.array([speech_pressure_pa(float(v)) for v in values])
        speech_db = 20 * np.log10(pressure / speech_pressure_pa(distance.value))
        figures.append(Uncertain(VOICE, "distance_mm", "distance of the voice", values))
    if not figures:
        return None
    speech, noise, dc_v = _levels(solution, _built(stages, by_stage, draws), draws)
    # the nominal draw is the last one: levels are the fine ones plus how far each draw moves
    base_speech = np.array([r.speech_dbu for r in rows])
    base_noise = np.array([r.noise_dbu for r in rows])
    return Spread(
        base_speech + speech[:draws] - speech[draws] + speech_db[:, None],
        base_noise + noise[:draws] - noise[draws],
        dc_v[:draws],
        tuple(figures),
    )


def _built(
    stages: tuple[PlacedStage, ...],
    by_stage: dict[int, Drawn],
    draws: int,
) -> dict[int, list[list[Element]]]:
    """Elements of each uncertain stage for every draw and, last, for the nominal values."""
    built: dict[int, list[list[Element]]] = {}
    for k, fields in by_stage.items():
        checkpoint()
        stage = stages[k]
        built[k] = [
            _elements(stage, stage.gear.model_copy(
                update={field: Figure(value=float(values[d])) for field, _, values in fields}
            ))
            for d in range(draws)
        ]  # fmt: skip
        built[k].append(_elements(stage, stage.gear))
    return built


def _elements(stage: PlacedStage, gear: Gear) -> list[Element]:
    return stage.net(gear).elements


@dataclass(frozen=True)
class _Grid:
    """Frequencies of the draws, and what they weigh for speech and for noise."""

    f_hz: Floats
    speech: Floats
    noise: Floats


# power of speech and of noise, DC volts; shapes (draws, joints)
_Chunk = tuple[Floats, Floats, Floats]


def _levels(
    solution: ChainSolution, built: dict[int, list[list[Element]]], draws: int
) -> tuple[Floats, Floats, Floats]:
    """Speech and noise in dB re 1 V, DC in volts at each joint for each draw, nominal last."""
    f_hz = np.logspace(np.log10(110.0), np.log10(7500.0), POINTS)
    low, high = solution.compiled.chain.band_hz
    inside = (f_hz >= low * 0.8) & (f_hz <= high * 1.25)
    grid = _Grid(f_hz, speech_weights(f_hz), np.gradient(f_hz) * inside)
    system = solution.linear.system
    if system.size >= CASCADE_FROM:
        solve = _in_a_row
    elif system.devices or not _replaceable(built):
        solve = _draw_by_draw
    else:
        solve = _all_together
    chunks = list(solve(solution, built, draws + 1, grid))
    speech, noise, direct = (np.concatenate(parts) for parts in zip(*chunks, strict=True))
    tiny = 1e-40
    return 10 * np.log10(speech + tiny), 10 * np.log10(noise + tiny), direct


def _read(
    solution: ChainSolution, grid: _Grid, adjoint: Complexes, psd: Floats,
    sources: list[NoiseInjection],
) -> tuple[Floats, Floats]:  # fmt: skip
    """Powers of speech and noise from adjoints of shape (draws, frequencies, size, joints).

    ``psd`` has shape (draws, sources, frequencies).
    """
    system = solution.linear.system
    grounded = np.concatenate([adjoint, np.zeros_like(adjoint[:, :, :1])], axis=2)
    i, j = injection_rows(sources, system.size)
    speech = grid.speech @ np.abs(adjoint[:, :, system.branch_row[VOICE], :]) ** 2
    transfer = np.abs(grounded[:, :, i, :] - grounded[:, :, j, :]) ** 2
    return speech, np.einsum("dfsk,dsf,f->dk", transfer, psd, grid.noise)


def _reads(solution: ChainSolution) -> Floats:
    system = solution.linear.system
    stages = solution.compiled.stages
    return np.stack([system.unit(s.outlet.hot, s.outlet.cold) for s in stages], axis=1)


def _replaceable(built: dict[int, list[list[Element]]]) -> bool:
    """Whether the uncertain stages hold only elements whose values sit alone in their entries."""
    simple = Resistor | Capacitor | Inductor | Coupling | Vccs | CurrentSource | VoltageSource
    return all(isinstance(e, simple) for b in built.values() for e in b[-1])


def _all_together(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int, grid: _Grid
) -> Iterator[_Chunk]:
    """One batched solve per chunk of draws, matrices made from the nominal ones by replacement."""
    f_hz, reads = grid.f_hz, _reads(solution)
    system = solution.linear.system
    sources = noise_sources(solution.linear)
    base_psd = spectra([s.spectrum for s in sources], f_hz)
    source_of = {s.name: k for k, s in enumerate(sources)}
    stages = solution.compiled.stages
    G = np.repeat(system.G[None], count, axis=0)
    C = np.repeat(system.C[None], count, axis=0)
    scale = np.ones((count, len(sources)))
    b_dc = np.repeat(system.b_dc[None], count, axis=0)
    for k, lists in built.items():
        own = stages[k].elements
        ratios = _ratios(lists)
        for stamps, target, in_c in (
            (system.conductances, G, False),
            (system.capacitances, C, True),
        ):
            for entry in stamps:
                element = system.circuit.elements[entry.element]
                if entry.element in own and element.name in ratios and _varies(element, in_c):
                    target[:, entry.row, entry.column] += entry.value * (ratios[element.name] - 1.0)
        for place, element in enumerate(lists[-1]):
            if isinstance(element, VoltageSource):
                b_dc[:, system.branch_row[element.name]] = [_dc_v(drawn[place]) for drawn in lists]
            if element.name in source_of:
                scale[:, source_of[element.name]] = [
                    _noise_scale(element, drawn[place]) for drawn in lists
                ]
    last = system.size
    omega = 2 * np.pi * f_hz
    right = reads.astype(complex)
    chunk = max(1, min(CHUNK, BLOCK_BYTES // (16 * f_hz.size * last * (last + reads.shape[1]))))
    for start in range(0, count, chunk):
        checkpoint()
        part = slice(start, min(start + chunk, count))
        size = part.stop - part.start
        matrices = np.empty((size, f_hz.size, last, last), dtype=complex)
        matrices.real = G[part].transpose(0, 2, 1)[:, None]
        matrices.imag = omega[None, :, None, None] * C[part].transpose(0, 2, 1)[:, None]
        solved = np.linalg.solve(matrices, np.broadcast_to(right, (size, f_hz.size, *right.shape)))
        dc_x: Floats = np.asarray(np.linalg.solve(G[part], b_dc[part][:, :, None])[:, :, 0], float)
        psd = scale[part][:, :, None] * base_psd[None]
        yield (*_read(solution, grid, solved, psd, sources), dc_x @ reads)


def _ratios(lists: list[list[Element]]) -> dict[str, Floats]:
    """Each element's value over its nominal one, shape (draws,), for those that change at all."""
    values = [_values(elements) for elements in lists]
    ratios: dict[str, Floats] = {}
    for name, nominal in values[-1].items():
        ratio = np.array([v[name] for v in values]) / nominal if nominal else np.ones(len(values))
        if np.any(ratio != 1.0):
            ratios[name] = ratio
    return ratios


def _values(elements: list[Element]) -> dict[str, float]:
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


def _drawn_systems(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int
) -> Iterator[tuple[Linear, OperatingPoint]]:
    """The chain with the values of each draw, at its own operating point."""
    circuit = solution.linear.system.circuit
    places = {k: sorted(solution.compiled.stages[k].elements) for k in built}
    for d in range(count):
        checkpoint()
        elements = list(circuit.elements)
        for k, lists in built.items():
            for place, element in zip(places[k], lists[d], strict=True):
                elements[place] = element
        system = System(Circuit(tuple(elements), circuit.temperature_k, circuit.gmin_s))
        op = solve_dc(system)
        yield linearise(system, op), op


def _draw_by_draw(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int, grid: _Grid
) -> Iterator[_Chunk]:
    """Solve each draw from its DC on: transistors find another operating point each time."""
    reads = _reads(solution)
    for linear, op in _drawn_systems(solution, built, count):
        sources = noise_sources(linear)
        psd = spectra([s.spectrum for s in sources], grid.f_hz)
        adjoint = linear.adjoint(grid.f_hz, reads)
        yield (*_read(solution, grid, adjoint[None], psd[None], sources), (op.x @ reads)[None])


def _in_a_row(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int, grid: _Grid
) -> Iterator[_Chunk]:
    """Each draw of a long chain, stage by stage."""
    stages = solution.compiled.stages
    # every draw has the same elements in the same places
    groups = group_of_elements(stages, solution.linear.system)
    for linear, op in _drawn_systems(solution, built, count):
        cascade = cascade_of(stages, linear, groups)
        driven = (linear.system.branch_row[VOICE], 0)
        solved = cascade.solve(grid.f_hz, driven, placed_sources(linear, groups))
        joints = [solved.at(k) for k in range(len(stages))]
        speech = [float(grid.speech @ np.abs(j.response) ** 2) for j in joints]
        noise = [float(grid.noise @ j.noise) for j in joints]
        direct = [op.volts(s.outlet.hot, s.outlet.cold) for s in stages]
        yield np.array([speech]), np.array([noise]), np.array([direct])
