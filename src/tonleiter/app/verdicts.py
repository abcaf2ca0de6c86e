"""The verdicts of a session: whoever asks for one that is known, or being made, gets that one."""

from __future__ import annotations

import threading

from tonleiter.app import turns
from tonleiter.core.judge.certainty import Doubts, doubts_of
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.model import Station

# a chain, its ghost, what was before an edit and what an undo brings back
MOST = 6
# what is doubtful takes seconds of draws: of as many chains as a station has on a busy evening
MOST_DOUBTED = 24


class _Asked:
    """A basis that somebody asked about; its lock is held while the verdict is made."""

    def __init__(self, basis: Basis) -> None:
        self.basis, self.lock = basis, threading.Lock()
        self.verdict: Verdict | None = None


class Verdicts:
    """Asked from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._asked: list[_Asked] = []
        self._doubted: list[tuple[Basis, Doubts | None]] = []

    def known(self, basis: Basis) -> Verdict | None:
        """The verdict, if it was made already: for who must not hold others up by making it.

        A job that rests while others are waited for may hold no lock that they wait at.
        """
        with self._lock:
            return next((a.verdict for a in self._asked if a.basis == basis), None)

    def held_or_made(self, station: Station, chain: str) -> Verdict:
        """The verdict on a chain for work that nobody waits for: made beside, where none is known.

        Raises CircuitError, StoppedError.
        """
        return self.known(basis_of(station, chain)) or verdict_of(station, chain)

    def of(self, station: Station, basis: Basis) -> Verdict:
        """The verdict on a basis of a station. Raises CircuitError, StoppedError."""
        with self._lock:
            asked = next((a for a in self._asked if a.basis == basis), None)
            if asked is None:
                asked = _Asked(basis)
                self._asked = [*self._asked, asked][-MOST:]
        if not asked.lock.acquire(blocking=False):
            with turns.waiting():
                asked.lock.acquire()
        try:
            if asked.verdict is None:
                asked.verdict = verdict_of(station, basis.chain, basis.variant)
            return asked.verdict
        finally:
            asked.lock.release()

    def doubts_of(self, found: Verdict) -> Doubts | None:
        """What of a verdict is doubtful, worked out once; None where all of it is certain."""
        assessment = found.assessment
        basis = basis_of(assessment.station, assessment.solution.compiled.chain.id)
        with self._lock:
            for known, made in self._doubted:
                if known == basis:
                    return made
        doubts = doubts_of(assessment)
        with self._lock:
            self._doubted = [*self._doubted, (basis, doubts)][-MOST_DOUBTED:]
        return doubts
