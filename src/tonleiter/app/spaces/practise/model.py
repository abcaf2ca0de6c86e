"""What the Practise space plays: a riddle made behind the window, the play, what was played."""

from __future__ import annotations

import random
from collections.abc import Callable
from datetime import date
from pathlib import Path

from PySide6.QtCore import Signal

from tonleiter.app.audio.missing import why_silent
from tonleiter.app.audio.output import Output, find_output
from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.practice_file import usual_file
from tonleiter.core.practice.look import Care
from tonleiter.core.practice.missions import any_mission
from tonleiter.core.practice.play import Play, PlayError
from tonleiter.core.practice.results import (
    Result,
    Results,
    keep_results,
    read_results,
    result_of,
)
from tonleiter.core.practice.riddle import Family, Riddle
from tonleiter.core.station.basis import Basis
from tonleiter.core.station.disk import FileError

MOST_SEED = 2**31


class PractiseModel(Watched):
    """``changed``: another riddle, a move, results."""

    changed = Signal()

    def __init__(self, document: Document, jobs: Jobs, file: Path | None = None) -> None:
        super().__init__(document)
        self._riddle: Derived[Riddle] = self.derive(jobs, Wait.PAGE, self._made, False)
        self.play: Play | None = None
        self.family: Family | None = None
        self.last: Result | None = None
        self._file = file or usual_file()
        self._random = random.Random()
        self.results = Results()
        self._kept = True
        self._output: Output | None = None
        try:
            self.results = read_results(self._file)
        except (FileError, OSError) as error:
            # what is there is left as it is, and nothing is written over it
            self._kept, self.trouble_of_file = False, str(error)

    trouble_of_file = ""

    def rests_on(self, basis: Basis) -> bool:
        """A riddle is of no station of the user's."""
        return False

    @property
    def busy(self) -> bool:
        """Whether a riddle is being made."""
        return self._riddle.busy

    @property
    def trouble(self) -> str:
        """Why there is none."""
        return self._riddle.trouble

    def choose(self, family: Family | None) -> None:
        """What to play from now on; None: whatever was missed most."""
        self.family = family

    def another(self, seed: int | None = None) -> None:
        """A new riddle; one that is being played is put away and not counted."""
        self.silence()
        self.play = self.last = None
        family, number = self.family, self._random.randrange(MOST_SEED) if seed is None else seed
        chosen = family if family is not None else self._due()
        self._riddle.want(number, lambda _: any_mission(random.Random(number), chosen))
        self.changed.emit()

    def _due(self) -> Family | None:
        """What was missed most, every other time; else anything."""
        return self.results.next_family() if self._random.random() < 0.5 else None

    def _made(self) -> None:
        riddle = self._riddle.current
        if riddle is not None and (self.play is None or self.play.riddle is not riddle):
            self.play = Play(riddle)
        self.changed.emit()

    # --- what is heard ---------------------------------------------------------------------------

    @property
    def can_be_heard(self) -> bool:
        """Whether there is a recording, and something to play it."""
        has = self.play is not None and self.play.riddle.heard is not None
        return has and find_output() is not None

    def hear(self) -> None:
        """Play what a far receiver hears."""
        heard = self.play.riddle.heard if self.play is not None else None
        if heard is None:
            self.refused.emit("there is no recording of this one")
            return
        self._output = self._output or find_output()
        if self._output is None:
            self.refused.emit(why_silent())
            return
        self._output.play(heard)

    def silence(self) -> None:
        """Nothing plays any more."""
        if self._output is not None:
            self._output.stop()

    def leave(self) -> None:
        """Out of sight nothing plays."""
        super().leave()
        self.silence()

    # --- moves -----------------------------------------------------------------------------------

    def _move(self, move: Callable[[Play], Play]) -> None:
        if self.play is None:
            raise PlayError("there is nothing to play yet: take one")
        was_over = self.play.ended
        self.play = move(self.play)
        if self.play.ended and not was_over:
            self._end(self.play)
        self.changed.emit()

    def look(self, look_id: str) -> None:
        """Look at something."""
        self.attempt(lambda: self._move(lambda p: p.look(look_id)))

    def care(self, care: Care, on: bool) -> None:
        """See to something first."""
        self.attempt(lambda: self._move(lambda p: p.care(care, on)))

    def hint(self) -> None:
        """Ask what to look at next."""
        self.attempt(lambda: self._move(lambda p: p.hint()))

    def name(self, cause_id: str) -> None:
        """Say what it is."""
        self.attempt(lambda: self._move(lambda p: p.name(cause_id)))

    def give_up(self) -> None:
        """Be told."""
        self.attempt(lambda: self._move(lambda p: p.give_up()))

    def _end(self, play: Play) -> None:
        self.last = result_of(play, date.today().isoformat())
        self.results = self.results.plus(self.last)
        if self._kept:
            self.attempt(lambda: keep_results(self._file, self.results))
