"""What a fix does, in words: to level, hum, bass and treble, and what it brings with it."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.judge.findings.model import Finding, Fix
from tonleiter.core.solve.levels import SILENT_DBU, StageLevels
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.units.levels import format_dbu, signed
from tonleiter.core.units.quantity import HERTZ, format_quantity

STAYS_WITHIN_DB = 0.5
# hum this far under speech is not worth a word
HEARD_ABOVE_DB = 70.0
MIDDLE_HZ, TREBLE_HZ = (500.0, 1000.0), 2700.0
TREBLE_FROM_DB, NOISE_FROM_DB, TILTS_FROM_HZ = 2.0, 2.0, 250.0
# nobody hears noise that lies so much lower than is wanted
SPARE_DB = 15.0


class Judged(Protocol):
    """A solved and judged variant."""

    @property
    def solution(self) -> ChainSolution: ...  # noqa: D102
    @property
    def rows(self) -> tuple[StageLevels, ...]: ...  # noqa: D102
    @property
    def findings(self) -> tuple[Finding, ...]: ...  # noqa: D102
    @property
    def corners_hz(self) -> tuple[float | None, float | None]: ...  # noqa: D102


def treble_db(of: Judged) -> float:
    """Response at 2.7 kHz against 500 Hz to 1 kHz."""
    f_hz, gain = of.solution.f_hz, of.solution.gain_db()
    top, low, high = np.interp([TREBLE_HZ, *MIDDLE_HZ], f_hz, gain)
    return float(top - (low + high) / 2)


def effect(before: Judged, after: Judged, fix: Fix, partly: bool = False) -> str:
    """Why, then what changes, then what it leaves."""
    parts = [fix.why] if fix.why else []
    was, now = before.rows[-1].speech_dbu, after.rows[-1].speech_dbu
    if now < SILENT_DBU:
        return "; ".join([*parts, "the microphone still gives nothing"])
    if partly:
        parts.append("goes part of the way")
    parts.append(_level(was, now, after.solution.compiled.signal.noun))
    knob = after.rows[-1].knob
    if knob is not None and knob.reaches and abs(now - was) >= STAYS_WITHIN_DB:
        parts.append(f"microphone gain at about {knob.mark}")
    hum_was, hum_now = before.rows[-1].hum_dbu, after.rows[-1].hum_dbu
    heard = hum_was is not None and hum_was > was - HEARD_ABOVE_DB and was >= SILENT_DBU
    if heard and hum_was is not None and hum_now is not None and abs(hum_now - hum_was) >= 3:
        parts.append(f"hum {format_dbu(hum_was, 0)} → {format_dbu(hum_now, 0)}")
    clearer = after.rows[-1].snr_db - before.rows[-1].snr_db
    wanted = after.solution.compiled.chain.purpose_facts.snr_at_least_db
    matters = min(r.rows[-1].snr_db for r in (before, after)) < wanted + SPARE_DB
    if was >= SILENT_DBU and abs(clearer) >= NOISE_FROM_DB and matters:
        parts.append(f"{abs(clearer):.0f} dB {'further' if clearer > 0 else 'less'} over the noise")
    old, new = before.corners_hz[0], after.corners_hz[0]
    moved = new is not None and (old is None or abs(new - old) > 0.05 * old)
    if moved and new is not None:
        parts.append(f"bass from {format_quantity(new, HERTZ, 2)}")
    # bass that comes back up to the middle tilts the whole, and takes no treble
    tilts = moved and max(old or 0.0, new or 0.0) > TILTS_FROM_HZ
    brighter = _brighter_db(before, after)
    if was >= SILENT_DBU and abs(brighter) >= TREBLE_FROM_DB and not tilts:
        parts.append(f"treble {signed(brighter, 0, plus=True)} dB at 2.7 kHz")
    known = {f.code for f in before.findings}
    arisen = {f.code for f in after.findings if f.severity != "fine"} - known
    if arisen:
        parts.append(f"then see: {', '.join(sorted(arisen)).replace('-', ' ')}")
    return "; ".join(parts)


def _brighter_db(before: Judged, after: Judged) -> float:
    """Treble won: where only the microphone's case was changed, at 2.7 kHz itself.

    Elsewhere level comes and goes with a remedy, and treble is what it is against the middle.
    """
    old, new = (j.rows[0].gear for j in (before, after))
    same = [r.gear for r in before.rows[1:]] == [r.gear for r in after.rows[1:]]
    if not (isinstance(old, SpokenInto) and isinstance(new, SpokenInto) and same and old != new):
        return treble_db(after) - treble_db(before)
    was, now = (
        float(np.interp(TREBLE_HZ, j.solution.f_hz, j.solution.gain_db())) for j in (before, after)
    )
    return now - was


def _level(was: float, now: float, noun: str) -> str:
    if was < SILENT_DBU:
        return f"{noun} at the radio {format_dbu(now)}"
    if abs(now - was) >= STAYS_WITHIN_DB:
        return f"{noun} at the radio {format_dbu(was)} → {format_dbu(now)}"
    return f"{noun} stays at {format_dbu(now)}"
