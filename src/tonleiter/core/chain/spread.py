"""What the ranges of figures do to the levels: many draws in one batched evaluation.

Every figure with a range, wherever it stands in the chain, is drawn evenly between its ends (in
ratio where the unit takes prefixes, so that 600..2400 has its middle at 1200). The seed is fixed:
the same station gives the same bands. The circuit is the same in every draw, so only the values in
its matrices are replaced, for all draws together; a chain with transistors is solved draw by draw.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tonleiter.core.chain.compiled import VOICE, PlacedStage
from tonleiter.core.chain.levels import StageLevels
from tonleiter.core.chain.solution import ChainSolution
from tonleiter.core.circuit.ac import Complexes, Floats, linearise
from tonleiter.core.circuit.dc import solve_dc
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
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.gear.voice import speech_pressure_pa, speech_weights

DRAWS = 400
SEED = 1926
# a coarse grid serves: what is wanted is how levels move, added to the finely computed ones
POINTS = 14
CHUNK = 50
LOW_SHARE, HIGH_SHARE = 0.05, 0.95


@dataclass(frozen=True)
class Uncertain:
    """A figure with a range: where it stands, what it is called, and its draws, shape (draws,)."""

    stage: str
    field: str
    label: str
    draws: Floats


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
    """Rank correlation (Spearman): a figure need not act in proportion to matter."""
    ranks_a, ranks_b = a.argsort().argsort(), b.argsort().argsort()
    if np.ptp(a) == 0:
        return 0.0
    return float(np.corrcoef(ranks_a, ranks_b)[0, 1])


def solve_spread(
    solution: ChainSolution, rows: tuple[StageLevels, ...], draws: int = DRAWS
) -> Spread | None:
    """Levels over many draws; None when every figure of the chain is without a range."""
    rng = np.random.default_rng(SEED)
    stages = solution.compiled.stages
    by_stage: dict[int, list[tuple[str, Quantity, Floats]]] = {}
    figures: list[Uncertain] = []
    for k, stage in enumerate(stages):
        for field, (quantity, info) in stage.gear.figures().items():
            figure = stage.gear.figure(field)
            if figure.low is None or figure.high is None or figure.high <= figure.low:
                continue
            values = _draw(rng, quantity, figure, draws)
            by_stage.setdefault(k, []).append((field, quantity, values))
            label = f"{info.title or field} of the {stage.gear.name}"
            figures.append(Uncertain(stage.id, field, label, values))
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


def _draw(rng: np.random.Generator, quantity: Quantity, figure: Figure, draws: int) -> Floats:
    low, high = figure.low, figure.high
    assert low is not None
    assert high is not None
    if quantity.unit.prefixed and low > 0:
        return np.asarray(np.exp(rng.uniform(np.log(low), np.log(high), draws)))
    return rng.uniform(low, high, draws)


def _built(
    stages: tuple[PlacedStage, ...],
    by_stage: dict[int, list[tuple[str, Quantity, Floats]]],
    draws: int,
) -> dict[int, list[list[Element]]]:
    """Elements of each uncertain stage for every draw and, last, for the nominal values."""
    built: dict[int, list[list[Element]]] = {}
    for k, fields in by_stage.items():
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


def _levels(
    solution: ChainSolution, built: dict[int, list[list[Element]]], draws: int
) -> tuple[Floats, Floats, Floats]:
    """Speech and noise in dB re 1 V, DC in volts at each joint for each draw, nominal last."""
    f_hz = np.logspace(np.log10(110.0), np.log10(7500.0), POINTS)
    low, high = solution.compiled.chain.band_hz
    weights = speech_weights(f_hz)
    noise_weights = np.gradient(f_hz) * ((f_hz >= low * 0.8) & (f_hz <= high * 1.25))
    system = solution.linear.system
    stages = solution.compiled.stages
    reads = np.stack([system.unit(s.outlet.hot, s.outlet.cold) for s in stages], axis=1)
    voice = system.branch_row[VOICE]
    solve = _draw_by_draw if system.devices or not _replaceable(built) else _all_together
    speech, noise, direct = [], [], []
    for adjoint, psd, injected, dc_x in solve(solution, built, draws + 1, f_hz, reads):
        speech.append(weights @ np.abs(adjoint[:, :, voice, :]) ** 2)
        transfer = np.abs(adjoint[:, :, injected[0], :] - adjoint[:, :, injected[1], :]) ** 2
        power = np.einsum("dfsk,dsf,f->dk", transfer, psd, noise_weights)
        noise.append(power)
        direct.append(dc_x @ reads)
    tiny = 1e-40
    return (
        10 * np.log10(np.concatenate(speech) + tiny),
        10 * np.log10(np.concatenate(noise) + tiny),
        np.concatenate(direct),
    )


# adjoint solutions, noise densities, rows of the noise sources, DC solutions of some draws
_Chunk = tuple[Complexes, Floats, tuple[list[int], list[int]], Floats]


def _replaceable(built: dict[int, list[list[Element]]]) -> bool:
    """Whether the uncertain stages hold only elements whose values sit alone in their entries."""
    simple = Resistor | Capacitor | Inductor | Coupling | Vccs | CurrentSource | VoltageSource
    return all(isinstance(e, simple) for b in built.values() for e in b[-1])


def _all_together(
    solution: ChainSolution,
    built: dict[int, list[list[Element]]],
    count: int,
    f_hz: Floats,
    reads: Floats,
) -> list[_Chunk]:
    """One batched solve per chunk of draws, matrices made from the nominal ones by replacement."""
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
    injected = injection_rows(sources, last)
    chunks: list[_Chunk] = []
    omega = 2 * np.pi * f_hz
    right = reads.astype(complex)
    for start in range(0, count, CHUNK):
        part = slice(start, min(start + CHUNK, count))
        size = part.stop - part.start
        matrices = np.empty((size, f_hz.size, last, last), dtype=complex)
        matrices.real = G[part].transpose(0, 2, 1)[:, None]
        matrices.imag = omega[None, :, None, None] * C[part].transpose(0, 2, 1)[:, None]
        solved = np.linalg.solve(matrices, np.broadcast_to(right, (size, f_hz.size, *right.shape)))
        grounded = np.concatenate([solved, np.zeros((size, f_hz.size, 1, reads.shape[1]))], axis=2)
        dc_x: Floats = np.asarray(np.linalg.solve(G[part], b_dc[part][:, :, None])[:, :, 0], float)
        chunks.append((grounded, scale[part][:, :, None] * base_psd[None], injected, dc_x))
    return chunks


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


def _draw_by_draw(
    solution: ChainSolution,
    built: dict[int, list[list[Element]]],
    count: int,
    f_hz: Floats,
    reads: Floats,
) -> list[_Chunk]:
    """Solve each draw from its DC on: transistors find another operating point each time."""
    circuit = solution.linear.system.circuit
    stages = solution.compiled.stages
    chunks: list[_Chunk] = []
    for d in range(count):
        elements = list(circuit.elements)
        for k, lists in built.items():
            for place, element in zip(sorted(stages[k].elements), lists[d], strict=True):
                elements[place] = element
        system = System(Circuit(tuple(elements), circuit.temperature_k, circuit.gmin_s))
        op = solve_dc(system)
        linear = linearise(system, op)
        adjoint = linear.adjoint(f_hz, reads)
        grounded = np.concatenate([adjoint, np.zeros((f_hz.size, 1, reads.shape[1]))], axis=1)
        sources = noise_sources(linear)
        psd = spectra([s.spectrum for s in sources], f_hz)
        last = system.size
        injected = injection_rows(sources, last)
        chunks.append((grounded[None], psd[None], injected, op.x[None]))
    return chunks
