"""What readings teach of the open chain: kept ones, what they come to, what is taken of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import cast

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.spaces.no_chain import refuses
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.learn.explained import explained, part_of
from tonleiter.core.learn.gathered import (
    Gathered,
    Lesson,
    lesson_of,
    marked_to,
    typed_lines,
    words_at_line,
)
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.reading import AT_STAGES, Kind, brief, reading_of
from tonleiter.core.learn.result import QUESTIONS, Learned, Odd, QuestionId, Taught
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.instruments import InstrumentId
from tonleiter.core.station.kept_reading import KeptReading, ReadingKind
from tonleiter.core.station.records import drop_reading, keep_reading, strike_elsewhere

MOST_WORDS = 40


@dataclass(frozen=True)
class Answer:
    """A lesson, and what it comes to."""

    lesson: Lesson
    learned: Learned


class LearningModel(Watched):
    """``changed``: a reading, or what they come to; ``prove_wanted``: the bench is asked for.

    ``question`` is what one wants to know.
    """

    changed = Signal()
    prove_wanted = Signal()

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts
        self._question: QuestionId | None = None
        self._answer: Derived[Answer] = self.derive(jobs, Wait.PAGE, self._answered)
        self._explained: Derived[dict[str, tuple[str, ...]]] = self.derive(
            jobs, Wait.LATER, self.changed.emit
        )

    @property
    def learned(self) -> Learned | None:
        """What they come to, as far as it is known of the chain as it stands."""
        answer = self._answer.current
        return None if answer is None else answer.learned

    @property
    def trouble(self) -> str:
        """Why there is nothing."""
        if not self.station.chains:
            return refuses("learn of")
        return self._answer.trouble

    @property
    def busy(self) -> bool:
        """Whether it is being worked out."""
        return self._answer.busy

    @property
    def question(self) -> QuestionId:
        """What is asked of the open chain."""
        questions = self.questions()
        return self._question if self._question in questions else questions[0]

    def questions(self) -> tuple[QuestionId, ...]:
        """What may be asked: of a knob only where there is one."""
        basis = basis_of(self.station) if self.station.chains else None
        knob = basis is not None and isinstance(basis.stages[-1], MicrophoneSocket)
        return tuple(q for q in QUESTIONS if knob or q != "knob")

    def ask(self, question: QuestionId) -> None:
        """Something else is wanted to be known."""
        self._question = question
        self._follow()

    def stages(self) -> tuple[tuple[str, str], ...]:
        """Names and ids of stages that have an input to be read at."""
        if not self.station.chains:
            return ()
        placed = [self.station.placed(s) for s in self.station.chain().variant().stages]
        return tuple((g.name, g.id) for g in placed[1:])

    def name(self, stage: str | None) -> str | None:
        """What a stage is called."""
        return {i: n for n, i in self.stages()}.get(stage or "", stage)

    def lines(self) -> tuple[Gathered, ...]:
        """Readings of the open chain, each with why it does not count, if it does not."""
        if not self.station.chains:
            return ()
        answer = self._answer.current
        if answer is not None:
            return answer.lesson.lines
        return typed_lines(self.station, self.records, basis_of(self.station))

    def words(self, line: Gathered) -> str:
        """What a line is of."""
        return words_at_line(line, self.name(line.stage))

    def brief(self, line: Gathered) -> str:
        """The same in few words."""
        if line.words:
            return line.words
        return brief(cast(Kind, line.kind), self.name(line.stage))

    def suspects(self, odd: Odd) -> tuple[str, ...]:
        """What would explain a reading: slips of hands, then faults of the build."""
        known = self._explained.current or {}
        return (*odd.suspects, *known.get(odd.reading.key, ()))

    def asks_prove(self, odd: Odd) -> bool:
        """Whether the bench has a word on it."""
        answer = self._answer.current
        basis = basis_of(self.station)
        found = self._verdicts.known(basis)
        return answer is not None and found is not None and part_of(found, odd.reading) is not None

    def rests_on(self, basis: Basis) -> bool:
        """Whether it is of this chain."""
        return self.station.chains != () and basis == basis_of(self.station)

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains:
            self._answer.nothing()
            self._explained.nothing()
            self.changed.emit()
            return
        station, records, verdicts = self.station, self.records, self._verdicts
        basis, question = basis_of(station), self.question
        asked = (
            basis,
            question,
            station.instruments,
            records.readings,
            records.struck,
            tuple(p for p in records.proved if p.chain == basis.chain),
            station.chain().panel.readings,
            station.chain().panel.knobs,
        )

        def compute(_: object) -> Answer:
            lesson = lesson_of(station, records, verdicts.of(station, basis))
            return Answer(
                lesson,
                learn(lesson.model, lesson.counted, None, question, station.instruments),
            )

        self._answer.want(asked, compute)
        self.changed.emit()

    def _answered(self) -> None:
        """Once it is known what does not fit, the bench is asked what would explain it."""
        answer = self._answer.current
        if answer is None or not answer.learned.odd:
            self._explained.nothing()
        else:
            station, verdicts = self.station, self._verdicts
            basis, lesson = basis_of(station), answer.lesson
            odd = [o.reading for o in answer.learned.odd]

            def compute(_: object) -> dict[str, tuple[str, ...]]:
                found = verdicts.held_or_made(station, basis.chain)
                return {o.key: explained(found, o, lesson.counted) for o in odd}

            self._explained.want((basis, tuple(odd), lesson.counted), compute)
        self.changed.emit()

    # --- hands -----------------------------------------------------------------------------------

    def add(self, kind: ReadingKind, stage: str | None, typed: str) -> bool:
        """Keep a reading of the open chain as it stands; whether it was taken."""
        if not self.station.chains:
            self.refused.emit(self.trouble)
            return False
        basis = basis_of(self.station)
        ids = tuple(g.id for g in basis.stages)
        # what stands in the list of stages is of no reading of the radio itself
        at = stage if kind in AT_STAGES else None

        def take() -> None:
            read = reading_of(kind, at, typed.strip()[:MOST_WORDS], ids, marked_to=marked_to(basis))
            made = KeptReading(
                id=edits.fresh_id(
                    {r.id for r in self.records.readings}, f"{kind} {typed}"[:MOST_WORDS]
                ),
                chain_id=basis.chain, variant_id=basis.variant, basis=basis.sound, kind=kind,
                stage=read.stage, typed=read.typed, day=date.today().isoformat(),
            )  # fmt: skip
            self.note("reading kept", lambda r: keep_reading(r, made))

        return self.attempt(take)

    def _kept(self, line: Gathered) -> KeptReading | None:
        return next((r for r in self.records.readings if f"read:{r.id}" == line.key), None)

    def strike(self, line: Gathered, why: str | None) -> None:
        """Strike one out with a reason, or let it count again."""
        reason = None if why is None else (why.strip() or "no reason given")[:80]
        kept = self._kept(line)

        def take() -> None:
            self.note(
                "reading struck out" if why is not None else "reading counts again",
                lambda r: (
                    strike_elsewhere(r, line.key, reason)
                    if kept is None
                    else keep_reading(r, kept.but(struck=reason))
                ),
            )

        self.attempt(take)

    def may_forget(self, line: Gathered) -> bool:
        """Whether it was typed for this: what another space keeps is forgotten there."""
        return self._kept(line) is not None

    def forget(self, line: Gathered) -> None:
        """As if it had never been read."""
        kept = self._kept(line)
        if kept is not None:
            self.note("reading forgotten", lambda r: drop_reading(r, kept.id))

    def take_as_measured(self, taught: Taught) -> None:
        """What was learned of a figure, into the figure, as one step to be undone."""
        field, stage = taught.parameter.field, taught.stage
        figure = taught.as_measured(date.today())
        self.attempt(
            lambda: self.edit(
                f"{field} as learned", lambda s: edits.change_gear(s, stage, **{field: figure})
            )
        )

    def own(self, instruments: tuple[InstrumentId, ...]) -> None:
        """What somebody owns to read with."""
        self.attempt(
            lambda: self.edit(
                "instruments", lambda s: edits.change_station(s, instruments=instruments)
            )
        )

    def reckon(self, learned: bool) -> None:
        """Whether Ladder, Match and Set reckon with what was learned."""
        as_ = "learned" if learned else "typed"
        if self.records.reckoned != as_:
            self.note(f"reckon as {as_}", lambda r: r.but(reckoned=as_))
