"""The search: skeletons are solved, then filled with pads, gain and capacitors, and solved again.

Deterministic: what is tried follows from the station alone, in a fixed order.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from pydantic import ValidationError

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.more_pads import InputDivider
from tonleiter.core.gear.pad_shapes import SHAPES, design_pad
from tonleiter.core.gear.turning import turned
from tonleiter.core.judge.assess import Assessment, assess
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.match.pair import nearly_shut
from tonleiter.core.match.terms import Terms, lead_for, pair_station
from tonleiter.core.plan import pieces as make
from tonleiter.core.plan.candidate import Candidate, judge_candidate
from tonleiter.core.plan.distinct import distinct
from tonleiter.core.plan.styles import STYLES, Style, StyleId
from tonleiter.core.plan.weights import HEADROOM_DB
from tonleiter.core.refused import RefusedError
from tonleiter.core.solve.solution import DRAFT_POINTS, POINTS
from tonleiter.core.station.fed import bias_of
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.units import preferred

OFFERED = 4
FINALISTS = 12
DESIGNS_OF_A_SHAPE = 5
MOST_SOLVES = 600
FINER: preferred.Series = "E24"
REFINED, ROUNDS = 10, 3
# values that cost as good as the same are left as they were designed
WORTH_MOVING = 0.05
GAIN_FROM_DB, PAD_FROM_DB = 2.0, 1.5
STEP_UPS = (2.0, 3.0, 4.0, 5.0, 7.0, 10.0, 15.0)
LINE_DBU = -7.8
MOST_GAIN_DB = 70.0


@dataclass(frozen=True)
class Progress:
    """What is known so far: how many candidates were solved, and the best, best first."""

    solved: int
    best: tuple[Candidate, ...]
    finished: bool = False


def plan(station: Station, source_id: str, input_id: str, terms: Terms, style: StyleId) -> Progress:
    """Run a search to its end. Raises KeyError for gear that does not exist."""
    last = Progress(0, ())
    for progress in search(station, source_id, input_id, terms, style):
        last = progress
    return last


def search(
    station: Station,
    source_id: str,
    input_id: str,
    terms: Terms,
    style: StyleId,
) -> Iterator[Progress]:
    """Yield progress after each skeleton; the last one is ``finished`` and solved finely."""
    return _Search(station, source_id, input_id, terms, STYLES[style]).run()


class _Search:
    def __init__(
        self,
        station: Station,
        source_id: str,
        input_id: str,
        terms: Terms,
        style: Style,
    ) -> None:
        self._station, self._terms, self._style = station, terms, style
        self._source, self._socket = station.gear_by_id[source_id], station.gear_by_id[input_id]
        self._values = make.Values(station.drawer)
        self._aim_db = terms.facts.aim_db
        self._tail = _tail(station, self._socket)
        self._owned = frozenset(g.id for g in station.gear)
        self._known: dict[tuple[object, ...], Candidate | None] = {}
        self._solved = 0

    def run(self) -> Iterator[Progress]:
        """All skeletons: power, then gain, then isolation."""
        for power in self._powers():
            whole = tuple(g for g in (self._source, lead_for(self._source), power) if g)
            head = self._unclipped(whole)
            plain = self._try(head)
            yield self._progress()
            if plain is None:
                continue
            self._turn(head, plain)
            self._change_divider(head)
            for amplifier in self._amplifiers(head, plain):
                steps_up = amplifier is not None and amplifier(20.0).isolates
                for isolator in self._isolators(plain):
                    if steps_up and isolator is not None:
                        continue  # a step-up parts the grounds as well
                    if self._solved >= MOST_SOLVES:
                        yield self._finish()
                        return
                    self._fill(head, amplifier, isolator)
                    yield self._progress()
        for _ in range(ROUNDS):
            for candidate in self._ranked()[:REFINED]:
                if self._solved >= MOST_SOLVES:
                    break
                self._refine(candidate)
                yield self._progress()
        yield self._finish()

    def _refine(self, candidate: Candidate) -> None:
        """Move each value of each new piece a place or two, and keep what is better."""
        for k, gear in enumerate(candidate.pieces[:-1]):
            if k < 2 or gear.id in self._owned:
                continue
            for other in make.neighbours(gear, self._values):
                pieces = candidate.pieces
                self._solve((*pieces[:k], other, *pieces[k + 1 :]))

    # --- what to try -----------------------------------------------------------------------------

    def _powers(self) -> Iterator[Gear | None]:
        """Feeds that are owned first: they cost nothing."""
        given = bias_of(self._station, self._socket)
        ways = list(make.power_for(self._source, self._socket, self._values, given))
        feeds = {g.feeds for g in ways if g is not None}
        yield from (g for g in self._mine() if g.feeds == "bias" and g.feeds in feeds)
        yield from ways

    def _mine(self) -> Iterator[Gear]:
        """What is owned."""
        return (g for g in self._station.gear if not g.guest)

    def _isolators(self, plain: Candidate) -> Iterator[Gear | None]:
        owned = self._isolators_at_hand()
        if not self._style.wants_isolation:
            yield None
        found = list(make.transformers(plain.assessment.rows[-2].z_source_ohm, owned))
        if self._style.wants_isolation:
            yield from found
        else:
            yield from found[: 1 if self._source.acoustic else 2]

    def _amplifiers(self, head: tuple[Gear, ...], plain: Candidate) -> Iterator[make.Maker | None]:
        """Nothing, a step-up, or a preamp, as far as the plain pair asks for one."""
        z = plain.assessment.rows[-2].z_source_ohm
        if self._style.wants_outboard:
            boxes = tuple(g for g in self._mine() if g.is_box)
            yield from make.outboard(boxes, z)
            return
        yield None
        thin = any(meaning(f.code).bass for f in plain.assessment.findings)
        loaded = any(meaning(f.code).loaded for f in plain.assessment.findings)
        short = plain.figures.off_middle_db < -GAIN_FROM_DB
        if not (short or thin or (loaded and self._source.acoustic)):
            return
        yield from make.preamps(z, self._values)
        if short and not thin:
            wanted = 10 ** (-plain.figures.off_middle_db / 20)
            near = sorted(STEP_UPS, key=lambda r: abs(math.log(r / wanted)))[:3]
            for ratio in sorted(near):
                yield lambda _, ratio=ratio: make.step_up(ratio, z)  # type: ignore[misc]

    def _fill(
        self,
        head: tuple[Gear, ...],
        amplifier: make.Maker | None,
        isolator: Gear | None,
    ) -> None:
        """A skeleton with its gain set, then with pads of every shape where it is too hot."""
        if amplifier is None:
            self._with_pads(head, isolator)
            return

        def maker(gain_db: float) -> Gear:
            made = amplifier(gain_db)
            return made if made.id in self._owned else self._values.at_hand(made)

        first = self._try((*head, maker(20.0)), isolator)
        if first is None:
            return
        gear = first.pieces[len(head)]
        if gear.gain_is_chosen:
            wanted = self._gain_for(first, gear)
            gear = maker(wanted)
            self._try((*head, gear), isolator)
        self._with_pads((*head, gear), isolator)

    def _gain_for(self, first: Candidate, gear: Gear) -> float:
        """Gain that lands in the middle of the window; a box at line level works at its own."""
        row = next(r for r in first.assessment.rows if r.gear is gear or r.id == gear.id)
        if self._style.wants_outboard:
            window = row.window
            gain_db = 20.0 + (window.middle_dbu if window else LINE_DBU) - row.speech_dbu
        else:
            gain_db = 20.0 - first.figures.off_middle_db + self._aim_db
        # a silent path asks for hundreds of decibels
        return min(max(gain_db, -MOST_GAIN_DB), MOST_GAIN_DB)

    def _with_pads(self, head: tuple[Gear, ...], isolator: Gear | None) -> None:
        """Pads before and after the isolator."""
        first = self._try(head, isolator)
        if first is None:
            return
        for shape in SHAPES:
            for behind in (False, True) if isolator else (False,):
                self._pads_of(head, isolator, shape, behind, first)

    def _pads_of(
        self,
        head: tuple[Gear, ...],
        isolator: Gear | None,
        shape: str,
        behind: bool,
        first: Candidate,
    ) -> None:
        excess = first.figures.off_middle_db - self._aim_db
        joint = len(head) - 1 + (1 if behind else 0)
        for _ in range(2):
            z = first.assessment.solution.impedances[joint]
            if excess < PAD_FROM_DB or z.load_ohm <= 0 or not math.isfinite(z.load_ohm):
                return
            drawer = self._values.drawer
            loss_db = excess + z.loading_loss_db
            all_series = (drawer.series,) if drawer.ohms() else (drawer.series, FINER)
            designs = [
                d
                for series in all_series
                for d in design_pad(
                    shape, loss_db, z.source_ohm, z.load_ohm, series, drawer.ohms()
                )[:DESIGNS_OF_A_SHAPE]
            ]
            found = None
            for design in designs:
                pad = make.pad_gear(design)
                solved = (
                    self._try((*head, pad), isolator)
                    if not behind
                    else (self._try(head, isolator, (pad,)))
                )
                found = found or solved
            if found is None or abs(found.figures.off_middle_db - self._aim_db) < 1.0:
                return
            # neighbours saw another impedance than reckoned: aim once more by what is left
            excess += found.figures.off_middle_db - self._aim_db

    def _turn(self, head: tuple[Gear, ...], plain: Candidate) -> None:
        """The source's own control, twice: the second time from where the first one got."""
        source, off = head[0], plain.figures.off_middle_db
        for _ in range(2):
            around = plain.assessment.solution.around(0)
            moved = _turned(source, self._aim_db - off, around) if math.isfinite(off) else None
            if moved is None:
                return
            source = moved
            for isolator in (
                None,
                *make.transformers(
                    plain.assessment.rows[-2].z_source_ohm, self._isolators_at_hand()
                ),
            ):
                solved = self._try((source, *head[1:]), isolator)
                if isolator is None and solved is not None:
                    off = solved.figures.off_middle_db

    def _unclipped(self, head: tuple[Gear, ...]) -> tuple[Gear, ...]:
        """The path with a source that clips by itself turned down until it does not."""
        plain = self._try(head)
        headroom = plain.assessment.rows[0].headroom_db if plain else None
        if plain is None or headroom is None or headroom >= HEADROOM_DB:
            return head
        around = plain.assessment.solution.around(0)
        moved = _turned(head[0], headroom - HEADROOM_DB, around)
        return head if moved is None else (moved, *head[1:])

    def _isolators_at_hand(self) -> tuple[Gear, ...]:
        return tuple(
            g for g in self._mine() if g.isolates and 0.5 <= g.figure("ratio").value <= 2.0
        )

    def _change_divider(self, head: tuple[Gear, ...]) -> None:
        """Two resistors inside an old radio, where it has such a divider and may be changed."""
        divider = self._tail[0]
        if self._style.nothing_cut or not isinstance(divider, InputDivider):
            return
        plain = self._try(head)
        if plain is None:
            return
        for of_whole in (1.0, 1 / 3, 0.1):
            fields = divider.changed_by(
                -plain.figures.off_middle_db, self._values.ohm, of_whole=of_whole
            )
            named = {"id": f"{divider.id}-changed", "name": f"{divider.name}, changed"}
            changed = divider.model_copy(update=named | fields)
            self._try(head, tail=(changed, *self._tail[1:]))

    # --- trying ----------------------------------------------------------------------------------

    def _try(
        self,
        head: tuple[Gear, ...],
        isolator: Gear | None = None,
        behind: tuple[Gear, ...] = (),
        tail: tuple[Gear, ...] | None = None,
    ) -> Candidate | None:
        """Solve a path; where bias stands on a winding, with blocking capacitors instead."""
        body = (*head, *((isolator,) if isolator else ()), *behind)
        end = tail or self._tail
        plain = self._solve((*body, *end))
        if plain is None or not any(meaning(f.code).winding for f in plain.assessment.stops()):
            return plain
        best: Candidate | None = None
        for corner in self._corners():
            z = plain.assessment.solution.impedances[len(body) - 1]
            farad = 1 / (2 * math.pi * corner * (z.source_ohm + z.load_ohm))
            block = make.blocker(self._values.farad(farad))
            solved = self._solve((*body, block, *end))
            if solved is not None and (best is None or solved.cost < best.cost):
                best = solved
        # the joints before the capacitor are the same ones
        return best or plain

    def _corners(self) -> tuple[float, ...]:
        limit = self._terms.facts.bass_corner_at_most_hz
        deep = self._station.operator(self._terms.operator).pitch == "deep"
        return (limit / 4, limit / 1.25) if deep and self._terms.facts.spoken else (limit / 4,)

    def _solve(self, path: tuple[Gear, ...], points: int = DRAFT_POINTS) -> Candidate | None:
        path = self._turned_round(path)
        key = (points, *((g.id, g.name, tuple(_plain(g))) for g in path))
        if key in self._known:
            return self._known[key]
        checkpoint()
        candidate: Candidate | None = None
        if len({g.id for g in path}) == len(path):
            try:
                solved: Assessment = assess(
                    pair_station(self._station, path, self._terms), points=points
                )
                candidate = judge_candidate(
                    path, self._owned, solved, self._terms.facts, self._style
                )
            except (ValidationError, RefusedError):
                candidate = None
            self._solved += 1
        self._known[key] = candidate
        return candidate

    def _turned_round(self, path: tuple[Gear, ...]) -> tuple[Gear, ...]:
        """The last capacitor that is made has its plus side towards the volts on the pin."""
        last = next((k for k in range(len(path) - 2, 0, -1) if not path[k].lead), 0)
        gear = path[last]
        if gear.id in self._owned or gear.output_turned_by is None:
            return path
        if self._socket.bias_on_pin_v() <= _inside_v(gear):
            return path
        other = gear.model_copy(update={gear.output_turned_by: "outside"})
        return (*path[:last], other, *path[last + 1 :])

    # --- results ---------------------------------------------------------------------------------

    def _progress(self, finished: bool = False) -> Progress:
        best = distinct(self._ranked(), self._style)
        return Progress(self._solved, tuple(best[:OFFERED]), finished)

    def _ranked(self) -> list[Candidate]:
        """The best of each topology, nothing with a stop or short of the style."""
        best: dict[tuple[str, ...], Candidate] = {}
        for candidate in self._known.values():
            if candidate is None or candidate.stops or candidate.short_of_style:
                continue
            kept = best.get(candidate.topology)
            if kept is None or candidate.cost < kept.cost - WORTH_MOVING:
                best[candidate.topology] = candidate
        return sorted(best.values(), key=lambda c: c.cost)

    def _finish(self) -> Progress:
        """The finalists on the full grid of frequencies."""
        fine = [self._solve(c.pieces, POINTS) for c in self._ranked()[:FINALISTS]]
        solved = sorted((c for c in fine if c and not c.stops), key=lambda c: c.cost)
        kept = distinct(solved, self._style)
        return Progress(self._solved, tuple(kept[:OFFERED]), finished=True)


def _turned(source: Gear, by_db: float, around: tuple[float, float]) -> Gear | None:
    """A source with its own control moved; None where it has none, or would be nearly shut.

    ``around`` are the ohms before it and behind it.
    """
    to = turned(source, by_db, *around)
    return None if to is None or nearly_shut(to.gear) else to.gear


def _inside_v(gear: Gear) -> float:
    """About where the inner side of an output capacitor stands: half the supply."""
    return gear.figure("supply_v").value / 2 if "supply_v" in gear.figures() else 0.0


def _plain(gear: Gear) -> Iterator[object]:
    """Figures that tell two pieces of one name apart."""
    for field in gear.choices:
        value = getattr(gear, field)
        yield getattr(value, "value", value)


def _tail(station: Station, socket: Gear) -> tuple[Gear, ...]:
    """The input, with the divider that stands before it in some chain of the station."""
    for chain in station.chains:
        for variant in chain.variants:
            if variant.stages[-1].gear != socket.id or len(variant.stages) < 3:
                continue
            before = station.placed(variant.stages[-2])
            if before.cut_into_radio:
                return before, socket
    return (socket,)
