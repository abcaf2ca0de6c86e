"""What readings teach of the open chain: kept ones, what they come to, what is taken of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.learn.learned import Learned, Taught, learn
from tonleiter.core.learn.reading import AT_STAGES, Kind, ReadingError, reading_of, taken
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.kept_reading import KeptReading
from tonleiter.core.station.records import drop_reading, keep_reading


@dataclass(frozen=True)
class Line:
    """A kept reading, and why it does not count; empty where it does."""

    kept: KeptReading
    why_not: str


class LearningModel(Watched):
    """``changed``: a reading, or what they come to."""

    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts
        self._learned: Derived[Learned] = self.derive(jobs, Wait.PAGE, self.changed.emit)

    @property
    def learned(self) -> Learned | None:
        """What they come to, as far as it is known of the chain as it stands."""
        return self._learned.current

    @property
    def trouble(self) -> str:
        """Why there is nothing."""
        if not self.station.chains:
            return "there is no chain yet: make one on the Ladder (3)"
        return self._learned.trouble

    @property
    def busy(self) -> bool:
        """Whether it is being worked out."""
        return self._learned.busy

    def stages(self) -> tuple[tuple[str, str], ...]:
        """Names and ids of stages that have an input to be read at."""
        if not self.station.chains:
            return ()
        placed = [self.station.placed(s) for s in self.station.chain().variant().stages]
        return tuple((g.name, g.id) for g in placed[1:])

    def lines(self) -> tuple[Line, ...]:
        """Readings of the open chain, each with why it does not count, if it does not."""
        if not self.station.chains:
            return ()
        basis = basis_of(self.station)
        made: list[Line] = []
        counted: set[tuple[str, str | None, str]] = set()
        for r in self.records.readings:
            if r.chain_id != basis.chain or r.variant_id != basis.variant:
                continue
            why, same = self._why_not(r, basis), (r.kind, r.stage, r.typed)
            if not why and same in counted:
                why = "the same was read before: it counts once"
            if not why:
                counted.add(same)
            made.append(Line(r, why))
        return tuple(made)

    def _why_not(self, kept: KeptReading, basis: Basis) -> str:
        if kept.struck is not None:
            return f"struck out: {kept.struck}"
        if kept.basis and kept.basis != basis.sound:
            return "the chain was changed since"
        try:
            taken(kept, tuple(g.id for g in basis.stages))
        except ReadingError as error:
            return str(error)
        return ""

    def rests_on(self, basis: Basis) -> bool:
        """Whether it is of this chain."""
        return self.station.chains != () and basis == basis_of(self.station)

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains:
            self._learned.nothing()
            self.changed.emit()
            return
        station, basis, verdicts = self.station, basis_of(self.station), self._verdicts
        ids = tuple(g.id for g in basis.stages)
        readings = [taken(line.kept, ids) for line in self.lines() if not line.why_not]
        asked = (basis, tuple(readings))
        self._learned.want(asked, lambda _: learn(verdicts.of(station, basis).assessment, asked[1]))
        self.changed.emit()

    # --- hands -----------------------------------------------------------------------------------

    def add(self, kind: Kind, stage: str | None, typed: str) -> bool:
        """Keep a reading of the open chain as it stands; whether it was taken."""
        if not self.station.chains:
            self.refused.emit(self.trouble)
            return False
        basis = basis_of(self.station)
        ids = tuple(g.id for g in basis.stages)
        # what stands in the list of stages is of no reading of the radio itself
        at = stage if kind in AT_STAGES else None

        def take() -> None:
            read = reading_of(kind, at, typed.strip()[:40], ids)
            made = KeptReading(
                id=edits.fresh_id({r.id for r in self.records.readings}, f"{kind} {typed}"[:40]),
                chain_id=basis.chain, variant_id=basis.variant, basis=basis.sound, kind=kind,
                stage=read.stage, typed=read.typed, day=date.today().isoformat(),
            )  # fmt: skip
            self.note("reading kept", lambda r: keep_reading(r, made))

        return self.attempt(take)

    def strike(self, kept: KeptReading, why: str | None) -> None:
        """Strike one out with a reason, or let it count again."""
        reason = None if why is None else (why.strip() or "no reason given")[:80]
        made = kept.but(struck=reason)
        self.note("reading struck out", lambda r: keep_reading(r, made))

    def forget(self, kept: KeptReading) -> None:
        """As if it had never been read."""
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
