"""The sentence that opens the Ladder: how the chain stands, in plain words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.units.levels import format_volts
from tonleiter.core.words import count_of, sentence, the


@dataclass(frozen=True)
class Headline:
    """One sentence that answers, and one that proves or warns."""

    says: str
    proves: str


def headline(assessment: Assessment, stops: Sequence[Finding] | None = None) -> Headline:
    """A sentence on the level at the radio, and one on the tightest place or what is wrong.

    ``stops`` are those of the whole verdict, where there is one; by default the chain's own.
    """
    radio = assessment.rows[-1]
    stops = assessment.stops() if stops is None else stops
    if radio.speech_dbu < SILENT_DBU:
        return Headline(
            f"{sentence(the(radio.name))} gets nothing: the microphone is dead.", must_mend(stops)
        )
    if dead := next((s for s in stops if meaning(s.code).silent), None):
        # what a microphone gives that is not fed as it must be is no level to set anything by
        return Headline(f"{dead.says}.", _until(stops))
    what = assessment.voice.signal.noun
    gets = f"{sentence(the(radio.name))} gets {format_volts(radio.speech_dbu)} of {what}"
    window = radio.window
    if radio.headroom_db is not None and radio.headroom_db < 0:
        place = f"{-radio.headroom_db:.0f} dB over what it can take."
    elif (
        window
        and not window.holds(radio.speech_dbu)
        and (radio.knob is not None and radio.knob.reaches)
    ):
        end = "top" if radio.speech_dbu < window.low_dbu else "bottom"
        place = f"its microphone gain will stand near its {end}, at {radio.knob.mark}."
    elif window and radio.speech_dbu < window.low_dbu:
        place = f"{window.low_dbu - radio.speech_dbu:.0f} dB below its window."
    elif window and radio.speech_dbu > window.high_dbu:
        place = f"{radio.speech_dbu - window.high_dbu:.0f} dB above its window."
    else:
        knob = f" at gain {radio.knob.mark}" if radio.knob else ""
        place = f"right in its window{knob}, {radio.snr_db:.0f} dB over the noise."
    return Headline(f"{gets}: {place}", must_mend(stops) if stops else _tightest(assessment))


def _until(stops: Sequence[Finding]) -> str:
    """What to make of the levels of a microphone that is not fed as it must be."""
    means = "No level at the radio means anything until that is mended"
    others = len(stops) - 1
    return (
        f"{means}; {count_of(others, 'other thing')} must be mended too." if others else f"{means}."
    )


def must_mend(stops: Sequence[Finding]) -> str:
    """What stands in the way, in one sentence; every space says it like this."""
    if len(stops) == 1:
        return f"One thing must be mended first. {stops[0].says}."
    if stops:
        return f"{len(stops)} things must be mended first; they stand below, with ways to do it."
    return "See below for the ways to mend it."


def _tightest(assessment: Assessment) -> str:
    known = [(r.headroom_db, r.name) for r in assessment.rows if r.headroom_db is not None]
    if not known:
        return "No stage in this chain has a ceiling that speech could reach."
    headroom, name = min(known)
    if headroom < 0:
        return f"Peaks are {-headroom:.0f} dB over the ceiling of {the(name)}."
    return (
        f"Peaks clear every ceiling by {headroom:.0f} dB or more; the tightest place"
        f" is {the(name)}."
    )
