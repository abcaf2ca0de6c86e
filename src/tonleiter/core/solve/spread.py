"""What the ranges of figures do to the levels: many draws in one batched evaluation.

Every figure with a range, wherever it stands in the chain, is drawn evenly between its ends (in
ratio where the unit takes prefixes, so that 600..2400 has its middle at 1200). The seed is fixed:
the same station gives the same bands. The circuit is the same in every draw, so only the values in
its matrices are replaced, for all draws together; a chain with transistors is solved draw by draw.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from tonleiter.core.circuit.ac import Floats, Linear, linearise
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import Circuit, Element
from tonleiter.core.circuit.noise import noise_sources, spectra
from tonleiter.core.circuit.readings import Readings, read
from tonleiter.core.circuit.restamp import replaceable, solve_versions
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
    ranks_a, ranks_b = _ranks(a), _ranks(b)
    if np.ptp(ranks_a) == 0 or np.ptp(ranks_b) == 0:
        return 0.0
    return float(np.corrcoef(ranks_a, ranks_b)[0, 1])


def _ranks(values: Floats) -> Floats:
    """Ranks from one on; equal values have the mean of theirs. Shape (n,)."""
    _, place, count = np.unique(values, return_inverse=True, return_counts=True)
    last = np.cumsum(count)
    made: Floats = (last - (count - 1) / 2)[place]
    return made


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
    speech, noise, dc_v = levels_over(solution, rows, by_stage, draws)
    return Spread(speech + speech_db[:, None], noise, dc_v, tuple(figures))


def levels_over(
    solution: ChainSolution, rows: tuple[StageLevels, ...], by_stage: dict[int, Drawn], draws: int
) -> tuple[Floats, Floats, Floats]:
    """Speech and noise in dBu, DC in volts at each joint for given draws; shape (draws, joints)."""
    built = _built(solution.compiled.stages, by_stage, draws)
    speech, noise, dc_v = _levels(solution, built, draws)
    # the nominal draw is the last one: levels are the fine ones plus how far each draw moves
    base_speech = np.array([r.speech_dbu for r in rows])
    base_noise = np.array([r.noise_dbu for r in rows])
    return (
        base_speech + speech[:draws] - speech[draws],
        base_noise + noise[:draws] - noise[draws],
        dc_v[:draws],
    )


def _built(
    stages: tuple[PlacedStage, ...],
    by_stage: dict[int, Drawn],
    draws: int,
) -> dict[int, list[list[Element]]]:
    """Elements of each uncertain stage for every draw and, last, for the nominal values."""
    built: dict[int, list[list[Element]]] = {}
    for k, fields in by_stage.items():
        stage = stages[k]
        built[k] = [_drawn_elements(stage, fields, d) for d in range(draws)]
        built[k].append(_elements(stage, stage.gear))
    return built


def _drawn_elements(stage: PlacedStage, fields: Drawn, d: int) -> list[Element]:
    # asked at each draw: all draws of a stage take a worker up to 150 ms
    checkpoint()
    update = {field: Figure(value=float(values[d])) for field, _, values in fields}
    return _elements(stage, stage.gear.model_copy(update=update))


def _elements(stage: PlacedStage, gear: Gear) -> list[Element]:
    return [*stage.joints, *stage.net(gear).elements]


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
    low, high = solution.compiled.chain.band
    inside = (f_hz >= low * 0.8) & (f_hz <= high * 1.25)
    grid = _Grid(f_hz, speech_weights(f_hz), np.gradient(f_hz) * inside)
    system = solution.linear.system
    if system.size >= CASCADE_FROM:
        solve = _in_a_row
    elif system.devices or not all(replaceable(b[-1]) for b in built.values()):
        solve = _draw_by_draw
    else:
        solve = _all_together
    chunks = list(solve(solution, built, draws + 1, grid))
    speech, noise, direct = (np.concatenate(parts) for parts in zip(*chunks, strict=True))
    tiny = 1e-40
    return 10 * np.log10(speech + tiny), 10 * np.log10(noise + tiny), direct


def _powers(
    grid: _Grid, readings: Readings, psd: Floats, sources: list[NoiseInjection]
) -> tuple[Floats, Floats]:
    """Powers of speech and noise from readings of many versions, shape (draws, joints).

    ``psd`` has shape (draws, sources, frequencies).
    """
    speech = grid.speech @ np.abs(readings.from_source(VOICE)) ** 2
    return speech, np.einsum("dfsk,dsf,f->dk", readings.from_noise(sources), psd, grid.noise)


def _all_together(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int, grid: _Grid
) -> Iterator[_Chunk]:
    """One batched solve per chunk of draws, matrices made from the nominal ones by replacement."""
    sources = noise_sources(solution.linear)
    versions = {
        place: [lists[d][k] for d in range(count)]
        for stage, lists in built.items()
        for k, place in enumerate(sorted(solution.compiled.stages[stage].elements))
    }
    for part in solve_versions(solution.linear, grid.f_hz, solution.joints(), versions, count):
        yield (*_powers(grid, part.readings, part.psd, sources), part.dc_v)


def _drawn_systems(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int
) -> Iterator[tuple[Linear, OperatingPoint]]:
    """The chain with the values of each draw, at its own operating point."""
    circuit = solution.linear.system.circuit
    places = {k: sorted(solution.compiled.stages[k].elements) for k in built}
    near = solution.op.junctions()
    for d in range(count):
        checkpoint()
        elements = list(circuit.elements)
        for k, lists in built.items():
            for place, element in zip(places[k], lists[d], strict=True):
                elements[place] = element
        system = System(Circuit(tuple(elements), circuit.temperature_k, circuit.gmin_s))
        # a draw is much like the chain as it stands
        op = solve_dc(system, near)
        yield linearise(system, op), op


def _draw_by_draw(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int, grid: _Grid
) -> Iterator[_Chunk]:
    """Solve each draw from its DC on: transistors find another operating point each time."""
    joints = solution.joints()
    for linear, op in _drawn_systems(solution, built, count):
        sources = noise_sources(linear)
        psd = spectra([s.spectrum for s in sources], grid.f_hz)
        one = read(linear, grid.f_hz, joints)
        speech, noise = _powers(grid, replace(one, y=one.y[None]), psd[None], sources)
        yield speech, noise, np.array([[op.volts(p, n) for p, n in joints]])


def _in_a_row(
    solution: ChainSolution, built: dict[int, list[list[Element]]], count: int, grid: _Grid
) -> Iterator[_Chunk]:
    """Each draw of a long chain, stage by stage."""
    stages = solution.compiled.stages
    # every draw has the same elements in the same places
    groups = group_of_elements(stages, solution.linear.system)
    for linear, op in _drawn_systems(solution, built, count):
        cascade = cascade_of(stages, linear, groups)
        solved = cascade.solve(grid.f_hz, VOICE, placed_sources(linear, groups))
        joints = [solved.at(k) for k in range(len(stages))]
        speech = [float(grid.speech @ np.abs(j.response) ** 2) for j in joints]
        noise = [float(grid.noise @ j.noise) for j in joints]
        direct = [op.volts(p, n) for p, n in solution.joints()]
        yield np.array([speech]), np.array([noise]), np.array([direct])
