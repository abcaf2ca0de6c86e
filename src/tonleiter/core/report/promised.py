"""As the chain predicted? What a chain promises of a recording, beside what the recording shows.

The chain knows response, noise and hum at the radio's socket; what the transmitter and the path do
to them is left to the side of the recording, and a difference within that is none.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.listen.measures import HIGH, LOW, MIDDLE, Measures, Told
from tonleiter.core.report.circumstances import PLAIN, Circumstances

# what transmitter, receiver and room may change before the chain is doubted, in dB
BASS_MAY_DB, TREBLE_MAY_DB, HUM_MAY_DB, NOISE_MAY_DB = 5.0, 5.0, 6.0, 6.0


@dataclass(frozen=True)
class Promise:
    """One figure: what the chain gives, what the recording shows, what may lie between them.

    ``hint`` says which figure in Gear it speaks against; empty where they agree.
    """

    title: str
    unit: str
    promised: float
    shown: Told
    may: float
    hint: str = ""

    @property
    def agrees(self) -> bool | None:
        """Whether they do; None where the recording cannot tell."""
        if self.shown.value is None:
            return None
        return abs(self.shown.value - self.promised) <= self.may + 2 * self.shown.sure


def promises(verdict: Verdict, m: Measures, given: Circumstances = PLAIN) -> tuple[Promise, ...]:
    """What a chain promises of a recording of it.

    Of balance nothing where the radio's own tone is set; of noise nothing where a band's is in it.
    """
    solution, row = verdict.assessment.solution, verdict.assessment.rows[-1]
    f, gain = solution.f_hz, solution.gain_db()
    made: list[Promise] = []
    if not given.toned:
        near = "a coupling capacitor, or how near the lips are"
        made.append(_balance("Bass", LOW, f, gain, m.low, BASS_MAY_DB, near))
        case = "the housing before the capsule, or a long lead at a high source"
        made.append(_balance("Treble", HIGH, f, gain, m.high, TREBLE_MAY_DB, case))
    if given.by_air:
        return tuple(p for p in made if math.isfinite(p.promised))
    if row.hum_dbu is not None:
        under = row.speech_dbu - row.hum_dbu
        hum = m.hum.mains_under_db
        told = Told(None, 0.0, m.hum.why or "no line is heard") if hum is None else Told(hum, 0.5)
        hint = "what joins the earths: a lead, a supply that nobody entered"
        made.append(Promise("Hum under speech", "dB", under, told, HUM_MAY_DB, hint))
    noise = row.speech_in_band_dbu - row.noise_dbu
    hint = "the room, a gain before it, or the capsule's own noise"
    made.append(Promise("Speech over noise", "dB", noise, m.over_noise, NOISE_MAY_DB, hint))
    return tuple(p for p in made if math.isfinite(p.promised))


def _balance(
    title: str,
    band: tuple[float, float],
    f: np.ndarray,
    gain: np.ndarray,
    shown: Told,
    may: float,
    hint: str,
) -> Promise:
    """Response in a band against the middle, in dB."""

    def mean(part: tuple[float, float]) -> float:
        inside = (f >= part[0]) & (f < part[1])
        return float(gain[inside].mean()) if inside.any() else math.nan

    return Promise(title, "dB", mean(band) - mean(MIDDLE), shown, may, hint)


def said(made: tuple[Promise, ...]) -> str:
    """What it comes to, in one or two sentences."""
    off = [p for p in made if p.agrees is False]
    known = [p for p in made if p.agrees is not None]
    if not known:
        return "The recording tells nothing that the chain promises."
    if not off:
        names = ", ".join(p.title.lower() for p in known)
        return f"It shows what the chain promises ({names})."
    p = off[0]
    assert p.shown.value is not None
    more = p.shown.value - p.promised
    return (
        f"{p.title}: the chain promises {p.promised:.0f} {p.unit}, the recording shows"
        f" {p.shown.value:.0f}, {abs(more):.0f} {'more' if more > 0 else 'less'}. Look at {p.hint}."
    ).replace(" -", " −")
