"""Tone advised for a voice and a purpose: settings tried through the simulated transceiver.

One knob after the other is turned to where what a far receiver hears is best by the school's own
measure: what lies over band noise (the index of ANSI S3.5) for who must be understood, nearness to
average speech (ITU-T P.50) for who is listened to with pleasure. Splatter costs in both. The drive
is brought back to the same reading of the level control after each turn, as a hand would.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np

from tonleiter.core.guide.controls import Zone, at, in_school, with_knobs
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.schools import COMPRESSION, TONE_WORDS, tone_aim
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import survey_sound
from tonleiter.core.radio.audible import audible
from tonleiter.core.radio.measures import TEST_PATH
from tonleiter.core.radio.receivers import heard
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.setup.distance import DistanceAdvice
from tonleiter.core.setup.sideband import SsbResult, send_ssb
from tonleiter.core.setup.ssb.findings import SPLATTER_DB
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.settings import (
    KNOBS,
    CompressionSchool,
    KnobId,
    PanelState,
    ToneSchool,
)
from tonleiter.core.stop import checkpoint
from tonleiter.core.units.levels import signed

# so much of the voice is sent each time
SENT_S = 5.0
# what is tried of the shelves; edges and compression lie where the schools of Set have them
SHELVES: tuple[tuple[KnobId, tuple[float, ...]], ...] = (
    ("bass", (-6.0, -4.0, -2.0, 0.0, 2.0, 4.0, 6.0)),
    ("treble", (-4.0, -2.0, 0.0, 2.0, 4.0, 6.0, 8.0)),
)
TURNED: tuple[KnobId, ...] = ("low", "high", "bass", "treble", "compression")
ROUNDS = 2
# a little under what neighbours hear, and what each decibel over it costs; what compression costs
# who wants to sound as he is; a decibel of tone that gains nothing is not turned
CLEAN_DB = SPLATTER_DB - 2.0
SPLATTER_COSTS, SQUEEZE_COSTS, TURN_COSTS = 1.0, 0.15, 0.02
# a communicator's voice still is one: no further from average speech than this without cost
LIKENESS_DB, LIKENESS_COSTS = 4.0, 1.0
# what gains less is left where it stands: decibels, or hundredths
WORTH: dict[ToneSchool, float] = {"natural": 0.15, "communicator": 0.5}
BAND_HZ = (300.0, 2500.0)
# drive is brought back to within so much
DRIVE_DB, DRIVES = 0.3, 3


@dataclass(frozen=True, eq=False)
class Tried:
    """A setting and what a far receiver makes of it. ``unlike_db`` is the distance to speech."""

    panel: PanelState
    audible: float
    unlike_db: float
    splatter_db: float
    result: SsbResult

    def score(self, school: ToneSchool) -> float:
        """More is better; decibels for one school, hundredths for the other."""
        panel = self.panel
        costs = SPLATTER_COSTS * max(self.splatter_db - CLEAN_DB, 0.0)
        costs += TURN_COSTS * (abs(at(panel, "bass")) + abs(at(panel, "treble")))
        if school == "natural":
            return -self.unlike_db - SQUEEZE_COSTS * at(panel, "compression") - costs
        return 100 * self.audible - LIKENESS_COSTS * max(self.unlike_db - LIKENESS_DB, 0.0) - costs


@dataclass(frozen=True, eq=False)
class Advice:
    """What is advised to one school, beside what stands now; ``count`` settings were tried.

    ``distance`` is where to stand, once that was looked at.
    """

    school: ToneSchool
    before: Tried
    best: Tried
    count: int
    distance: DistanceAdvice | None = None

    @property
    def moves(self) -> tuple[tuple[KnobId, float, float], ...]:
        """Knobs that are turned: which, from where, to where."""
        was, now = self.before.panel, self.best.panel
        return tuple((k, at(was, k), at(now, k)) for k in TURNED if at(was, k) != at(now, k))

    def says(self) -> str:
        """What to set."""
        if not self.moves:
            return f"For a {TONE_WORDS[self.school]} sound nothing is better than what stands."
        turned = [
            f"{KNOBS[k].title} {signed(to, 0, plus=KNOBS[k].signed)} {KNOBS[k].unit}".strip()
            for k, _, to in self.moves
        ]
        return f"For a {TONE_WORDS[self.school]} sound: {', '.join(turned)}; then the gain anew."

    def proves(self) -> str:
        """What it does, measured."""
        was, now = self.before, self.best
        return (
            f"over band noise {100 * was.audible:.0f} → {100 * now.audible:.0f} % (ANSI S3.5);"
            f" {was.unlike_db:.1f} → {now.unlike_db:.1f} dB from average speech (P.50);"
            f" neighbours {-was.splatter_db:.0f} → {-now.splatter_db:.0f} dB down;"
            f" {self.count} settings tried"
        )


def advise(case: OnAir, panel: PanelState, school: ToneSchool) -> Iterator[Advice]:
    """Search for one school: the best so far again and again, at last the best. StoppedError."""
    n = round(SENT_S * AUDIO_HZ)
    case = replace(case, volts=case.volts[:n])
    panel = in_school(panel, tone=school)
    before = _tried(case, panel, None)
    drive = before.result.alc_reads_db
    # the school itself says where edges belong; within them it is tried
    best, count = _tried(case, _in_zone(case, panel, school), drive), 2
    for _ in range(ROUNDS):
        start = best
        for knob in _knobs(case, panel, school):
            for turn in knob:
                checkpoint()
                made = _tried(case, turn(best.panel), drive)
                count += 1
                if made.score(school) > best.score(school) + WORTH[school]:
                    best = made
                yield Advice(school, before, best, count)
        if best is start:
            break
    if best.panel != before.panel:
        shelves = (at(best.panel, "bass"), at(best.panel, "treble"))
        best = replace(best, panel=best.panel.but(shelves_db=shelves))
    yield Advice(school, before, best, count)


def _edges(case: OnAir, school: ToneSchool) -> tuple[tuple[KnobId, Zone], ...]:
    aim = tone_aim(school, case.pitch)
    return ("low", aim.low_hz), ("high", aim.high_hz)


def _in_zone(case: OnAir, panel: PanelState, school: ToneSchool) -> PanelState:
    """A panel whose edges lie where the school has them; one that has them so is left alone."""
    for knob, (low, high) in _edges(case, school):
        value = at(panel, knob)
        if not low <= value <= high:
            panel = with_knobs(panel, {knob: min(max(value, low), high)})
    return panel


Turn = Callable[[PanelState], PanelState]


def _knobs(case: OnAir, panel: PanelState, school: ToneSchool) -> list[list[Turn]]:
    """What is tried, knob after knob, in the order in which a hand turns them."""

    def to(knob: KnobId, value: float) -> Turn:
        return lambda p: with_knobs(p, {knob: value})

    def squeezed(how: CompressionSchool) -> Turn:
        middle = sum(COMPRESSION[how]) / 2
        return lambda p: with_knobs(in_school(p, compression=how), {"compression": middle})

    edges = _edges(case, school)
    made = [[to(knob, v) for v in (low, (low + high) / 2, high)] for knob, (low, high) in edges]
    made += [[to(knob, v) for v in values] for knob, values in SHELVES]
    if panel.processing != "outboard":
        made.append([squeezed(how) for how in COMPRESSION])
    return made


def _tried(case: OnAir, panel: PanelState, drive_db: float | None) -> Tried:
    """One setting, driven to a reading of the level control where one is given."""
    volts = case.volts
    result = send_ssb(case, panel, volts)
    for _ in range(DRIVES):
        off = 0.0 if drive_db is None else result.alc_reads_db - drive_db
        if abs(off) <= DRIVE_DB:
            break
        volts = volts * 10 ** (-off / 20)
        result = send_ssb(case, panel, volts)
    told = result.judged
    return Tried(
        panel,
        audible(result.sent.z, TEST_PATH),
        unlike_db(heard(result.sent.z)),
        max(told.below_db, told.above_db),
        result,
    )


def unlike_db(sound: Sound) -> float:
    """How far a long-term spectrum is from that of average speech within a channel, RMS in dB."""
    m = Measures(survey_sound(sound))
    inside = (m.centres >= BAND_HZ[0]) & (m.centres <= BAND_HZ[1])
    off = m.against_speech_db[inside]
    return float(np.sqrt(np.mean((off - off.mean()) ** 2))) if off.size else 0.0
