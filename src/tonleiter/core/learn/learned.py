"""What readings teach of a chain: figures before and after, what does not fit, what is next."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.learn.odd import left_out
from tonleiter.core.learn.offered import EFFORT, error_of, offered
from tonleiter.core.learn.predict import Drawing, Model
from tonleiter.core.learn.reading import Reading, ReadingError, words_of
from tonleiter.core.learn.result import (
    Learned,
    Next,
    Odd,
    QuestionId,
    Range,
    Stop,
    Taught,
    ends_of,
)
from tonleiter.core.learn.smoother import follows, smoothed, step
from tonleiter.core.learn.suspects import suspects
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.solve.draws import SEED
from tonleiter.core.solve.spread import HIGH_SHARE, LOW_SHARE
from tonleiter.core.station.instruments import INSTRUMENTS, InstrumentId

# a chain with transistors is solved draw by draw
DRAWS, FEWER, TRAIL_SEED = 200, 110, 11
# what shrinks the doubt by less is not proposed
LEAST_WORTH = 0.02
# a bring-up is read for its own sake: of what it teaches the minutes are none
PROVED_MINUTES = 0.5


def learn(
    of: Assessment | Model,
    readings: Sequence[Reading],
    draws: int | None = None,
    question: QuestionId | None = None,
    owned: Collection[InstrumentId] = tuple(INSTRUMENTS),
) -> Learned:
    """Take readings into account, all at once. Deterministic. Raises ReadingError, StoppedError.

    ``question`` is what one wants to know; by default where the gain control stands, if there is
    one. ``owned`` are the instruments with which something is read next.
    """
    model = Model.of(of) if isinstance(of, Assessment) else of
    if not model.parameters:
        raise ReadingError("every figure of this chain is known: there is nothing to learn")
    if draws is None:
        draws = FEWER if model.assessment.solution.linear.system.devices else DRAWS
    z0 = model.valid(np.random.default_rng(SEED).normal(size=(draws, len(model.parameters))))
    before = model.drawn(z0)
    told = before.reads(readings)
    odd = left_out(told, readings)
    kept = [k for k in range(len(readings)) if k not in odd]
    used = [readings[k] for k in kept]

    def forward(z: Floats) -> Floats:
        return model.reads(model.valid(z), used)

    values, sds = np.array([r.value for r in used]), np.array([r.sd for r in used])
    z1 = model.valid(smoothed(z0, forward, values, sds, first=told[:, kept]))
    after = model.drawn(z1) if used else before
    told_after = after.reads(readings)
    question = question or usual_question(model)
    one, two = _asked(before, question), _asked(after, question)
    return Learned(
        question=question,
        before=_range(one),
        after=_range(two),
        figures=tuple(_taught(model, z0, z1, told[:, kept])),
        odd=tuple(_odd(model, readings[k], told_after[:, k], not used) for k in odd),
        next_=_next(after, two, used, owned),
        readings=tuple(readings),
        trail=tuple(_trail(model, readings, odd, one, told, _range(two))),
        draws={(_piece(model, p.stage), p.field): p.values(z1[:, j])
               for j, p in enumerate(model.parameters)},
        middle=_middle(model, z1),
        minutes=sum(_minutes(r) for r in used),
        marked_to=_marked_to(model),
    )  # fmt: skip


def _marked_to(model: Model) -> float:
    socket = model.socket
    return socket.marked_to.value if isinstance(socket, MicrophoneSocket) else 100.0


def usual_question(model: Model) -> QuestionId:
    """Where the gain control stands, where there is one."""
    return "knob" if isinstance(model.socket, MicrophoneSocket) else "level"


def _asked(drawing: Drawing, question: QuestionId) -> Floats:
    """What each draw answers. Raises ReadingError where this chain has nothing of the kind."""
    if question == "knob":
        return drawing.knob()
    if question == "room":
        return drawing.headroom_db()
    if question == "noise":
        return drawing.over_noise_db()
    return drawing.level_dbu()


def _piece(model: Model, stage: int) -> str:
    return model.assessment.solution.compiled.stages[stage].id


def words_at(model: Model, reading: Reading) -> str:
    """What a reading is of, with the name of the piece."""
    if reading.words:
        return reading.words
    stages = model.assessment.solution.compiled.stages
    return words_of(
        reading.kind, next((s.gear.name for s in stages if s.id == reading.stage), None)
    )


def _minutes(reading: Reading) -> float:
    effort = EFFORT.get(reading.kind)
    return PROVED_MINUTES if effort is None else effort.minutes


def _range(draws: Floats) -> Range:
    low, high = np.quantile(draws, (LOW_SHARE, HIGH_SHARE))
    return Range(float(low), float(high))


def _middle(model: Model, z: Floats) -> dict[tuple[str, str], float]:
    """The middle of all draws together, as a chain could be."""
    middle = model.valid(z.mean(axis=0)[None])
    return {
        (_piece(model, p.stage), p.field): float(p.values(middle[0, j]))
        for j, p in enumerate(model.parameters)
    }


def _odd(model: Model, reading: Reading, told: Floats, alone: bool) -> Odd:
    expected = _range(told)
    bench = model.benches.get(reading.part) if reading.kind == "proved" else None
    ends = (
        ends_of(reading, expected, _marked_to(model))
        if bench is None
        else (bench.says(reading.token, expected.low), bench.says(reading.token, expected.high))
    )
    socket = model.socket
    open_v = getattr(socket, "bias_v", None)
    return Odd(
        reading,
        words_at(model, reading),
        expected,
        ends,
        alone,
        suspects(reading, expected, None if open_v is None else open_v.value),
    )


def _taught(model: Model, z0: Floats, z1: Floats, told: Floats) -> list[Taught]:
    """Each figure before and after; a reading tells of it that it follows by more than chance."""
    many = follows(z0, told).sum(axis=1)
    return [
        Taught(
            _piece(model, p.stage),
            p,
            _range(p.values(z0[:, j])),
            _range(p.values(z1[:, j])),
            int(many[j]),
        )
        for j, p in enumerate(model.parameters)
    ]


def _trail(
    model: Model,
    readings: Sequence[Reading],
    odd: Collection[int],
    asked: Floats,
    told: Floats,
    last: Range,
) -> list[Stop]:
    """What was asked after each reading, in their order: in one step each, the last one as learned.

    Learning anew for each would take as many times as long, and shows the same.
    """
    stops: list[Stop] = []
    taken: list[int] = []
    count = len(readings) - len(odd)
    for k, reading in enumerate(readings):
        if k in odd:
            stops.append(Stop(reading, words_at(model, reading), None))
            continue
        taken.append(k)
        after = last
        if len(taken) < count:
            read = np.array([readings[n].value for n in taken])
            sds = np.array([readings[n].sd for n in taken])
            rng = np.random.default_rng(TRAIL_SEED)
            moved = step(asked[:, None], told[:, taken], read, sds, rng)
            after = _range(asked + moved[:, 0])
        stops.append(Stop(reading, words_at(model, reading), after))
    return stops


def _next(
    drawing: Drawing, asked: Floats, used: Sequence[Reading], owned: Collection[InstrumentId]
) -> tuple[Next, ...]:
    """Readings that the chain offers and nobody took, the most worth for its minutes first."""
    stages = [s.id for s in drawing.model.assessment.solution.compiled.stages]
    taken = {r.place for r in used}
    made = []
    for kind, stage in offered(stages, owned):
        asks = Reading(kind, stage, 0.0, 1.0, "")
        if asks.place in taken:
            continue
        try:
            told = drawing.reads([asks])[:, 0]
        except ReadingError:
            continue
        error = error_of(kind, float(np.abs(told).mean()))
        if kind == "knob":
            error *= _marked_to(drawing.model) / 100.0
        shrinks = _shrinks(asked, told, error)
        if shrinks > LEAST_WORTH:
            effort = EFFORT[kind]
            made.append(Next(kind, stage, shrinks, effort.minutes, effort.words))
    return tuple(sorted(made, key=lambda n: -n.worth))


def _shrinks(asked: Floats, told: Floats, sd: float) -> float:
    """By which share a reading shrinks the spread of an answer, as far as they hang together."""
    spread = float(asked.var())
    if spread <= 0 or told.std() <= 0:
        return 0.0
    both = float(np.cov(asked, told)[0, 1])
    left = max(spread - both**2 / (float(told.var()) + sd**2), 0.0)
    return 1 - float(np.sqrt(left / spread))
