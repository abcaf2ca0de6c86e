"""Setting single sideband: what is sent for a panel, its controls, meters and steps."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.knobs import WORKED_DB, Knobs, SetFigures
from tonleiter.core.radio.measures import Judged, judged
from tonleiter.core.radio.ssb import AUDIO_HZ, Sent, transmitted
from tonleiter.core.setup.before import distance, outboard
from tonleiter.core.setup.gain import gain_move, gain_of, hundredths, marked
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import Control, Meter, Zone, held, knob
from tonleiter.core.setup.schools import (
    ALC,
    COMPRESSION,
    COMPRESSION_WORDS,
    PINNED,
    TONE_WORDS,
    tone_aim,
    tone_school,
)
from tonleiter.core.setup.step import AIR, Move, Step
from tonleiter.core.sound.sound import Floats, Sound
from tonleiter.core.sound.voices import Pitch
from tonleiter.core.station.settings import KnobId, PanelState, ToneSchool
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.units.quantity import VOLT, format_quantity

USUAL: dict[KnobId, float] = {
    "gain": 50.0, "compression": 0.0, "bass": 0.0, "treble": 0.0, "low": 100.0, "high": 2900.0,
    "power": 100.0,
}  # fmt: skip

# of the envelope all but this share of the time is lower than what counts as its peaks
HIGHEST = 0.998
# so near to its zone a compressor's meter cannot be read as being off it
NEAR_DB = 0.25
# what a compressor's meter is seen to reach lies so far under the very highest peak
PEAKS_ROOM_DB = 2.5


@dataclass(frozen=True, eq=False)
class SsbResult:
    """A whole recording sent with a panel as it stands."""

    sent: Sent
    judged: Judged
    peaks_db: float

    @property
    def alc_db(self) -> float:
        """What the level control is seen to take off."""
        return self.judged.alc_db


def knobs_of(panel: PanelState, figures: SetFigures) -> Knobs:
    """The simulated panel's knobs."""
    at = {name: knob(panel.knobs, name, usual) for name, usual in USUAL.items()}
    outboard = panel.processing == "outboard"
    return Knobs(
        gain=at["gain"] / 100.0,
        compression_db=0.0 if outboard else at["compression"],
        bass_db=at["bass"],
        treble_db=at["treble"],
        low_hz=at["low"],
        high_hz=at["high"],
        power=at["power"] / 100.0,
    )


def send(case: OnAir, panel: PanelState, volts: Floats | None = None) -> SsbResult:
    """Send the case's voice with a panel."""
    knobs = knobs_of(panel, case.figures)
    sent = transmitted(case.figures, knobs, Sound(case.volts if volts is None else volts, AUDIO_HZ))
    told = judged(sent, case.figures, knobs.high_hz)
    return SsbResult(sent, told, float(np.quantile(sent.envelope_db, HIGHEST)))


# --- panel ---------------------------------------------------------------------------------------


def controls(case: OnAir, panel: PanelState, result: SsbResult | None) -> tuple[Control, ...]:
    """The panel's controls with their aims."""
    pitch = _pitch(case)
    aim = tone_aim(tone_of(case, panel), pitch)
    at = {name: knob(panel.knobs, name, usual) for name, usual in USUAL.items()}
    wanted = gain_aim(case, panel, result)
    gain_zone = None if wanted is None else _about(wanted[0], wanted[1], case)
    squeeze = compression_aim(panel, result)
    made = [
        Control("gain", "microphone gain", at["gain"], 0, 100, gain_zone),
        Control("compression", "compression", at["compression"], 0, 12, squeeze, step=0.5,
                note="off" if panel.processing == "outboard" else "dB at peaks"),
        Control("bass", "bass", at["bass"], -10, 10, aim.bass_db, step=0.5,
                note=f"{pitch} voice" if pitch != "middle" else "this voice"),
        Control("treble", "treble", at["treble"], -10, 10, aim.treble_db, step=0.5,
                note="1.8 kHz up"),
        Control("low", "low edge", at["low"], 50, 500, aim.low_hz, "Hz", 10.0,
                TONE_WORDS[tone_of(case, panel)]),
        Control("high", "high edge", at["high"], 1800, 4000, aim.high_hz, "Hz", 10.0,
                TONE_WORDS[tone_of(case, panel)]),
        Control("power", "power", at["power"], 1, 100, None, "%", 1.0,
                f"of {case.figures.power_w:g} W"),
    ]  # fmt: skip
    return tuple(made)


def _about(gain: float, half: float, case: OnAir) -> Zone:
    return held("gain", gain - half), held("gain", gain + half)


def alc_zone(case: OnAir, panel: PanelState) -> Zone:
    """The level control's aim in decibels."""
    low, high = ALC[panel.alc]
    return low * case.figures.alc_full_db, high * case.figures.alc_full_db


def gain_aim(
    case: OnAir, panel: PanelState, result: SsbResult | None
) -> tuple[float, float] | None:
    """Where the gain should stand, and half the width of that, in hundredths; None if unknown.

    A decibel of gain is a decibel at the level control, the compressor on or off.
    """
    if result is None:
        return None
    low, high = alc_zone(case, panel)
    by_db = (low + high) / 2 - alc_reading(result)
    wanted = held("gain", gain_of(panel) + hundredths(case, by_db))
    return wanted, hundredths(case, (high - low) / 2) * 0.9


def alc_reading(result: SsbResult) -> float:
    """What the level control takes off; below zero by how much the peaks fall short of it."""
    return result.alc_db if result.alc_db > 0.2 else min(result.peaks_db, 0.0)


def compression_aim(panel: PanelState, result: SsbResult | None) -> Zone:
    """Where the compressor's knob should stand for its meter to read what the school says."""
    low, high = COMPRESSION[panel.compression]
    if panel.processing == "outboard" or high == 0:
        return 0.0, 0.0
    at = knob(panel.knobs, "compression", 0.0)
    if result is None or at < 0.5:
        return low, high
    off = at - result.judged.compression_db
    near = NEAR_DB
    return held("compression", low + off - near), held("compression", high + off + near)


def meters(case: OnAir, panel: PanelState, result: SsbResult) -> tuple[Meter, ...]:
    """What the set's meters show for a voice."""
    full = case.figures.alc_full_db
    judged_ = result.judged
    low, high = alc_zone(case, panel)
    reads = alc_reading(result)
    short = low - reads
    says = (f"{short:.0f} dB short" if short > 0.5 else f"{reads - high:.0f} dB too much"
            if reads - high > 0.5 else f"{max(reads, 0.0):.0f} dB")  # fmt: skip
    squeeze = COMPRESSION[panel.compression]
    return (
        Meter("alc", "ALC", max(reads, 0.0), full, (low, high), PINNED * full, says),
        Meter("compression", "compression", judged_.compression_db, 12.0,
              None if panel.processing == "outboard" else squeeze, None,
              f"{judged_.compression_db:.0f} dB"),
        Meter("power", "power", judged_.mean_w, case.figures.power_w, None, None,
              f"{judged_.mean_w:.2g} W mean", "W", judged_.pep_w),
    )  # fmt: skip


# --- steps ---------------------------------------------------------------------------------------


def steps(
    case: OnAir, panel: PanelState, result: SsbResult, own: Mapping[str, float] | None = None
) -> Iterator[Step]:
    """The guide; ``own`` has readings of an own radio by meter, in that meter's unit."""
    yield distance(case)
    yield from outboard(case)
    yield _edges(case, panel)
    yield _gain("gain", "Microphone gain", case, panel, result, own)
    yield _compression(case, panel, result, own)
    yield _tone(case, panel)
    if knob(panel.knobs, "compression", 0.0) > 0 or panel.knobs.get("bass"):
        yield _gain("again", "Check the gain again", case, panel, result, own)
    else:
        yield Step("again", "Check the gain again", "", "after the rest", None)


def _edges(case: OnAir, panel: PanelState) -> Step:
    aim = tone_aim(tone_of(case, panel), _pitch(case))
    low = knob(panel.knobs, "low", USUAL["low"])
    high = knob(panel.knobs, "high", USUAL["high"])
    shown = f"{low:.0f} to {high:.0f} Hz"
    fits = aim.low_hz[0] <= low <= aim.low_hz[1] and aim.high_hz[0] <= high <= aim.high_hz[1]
    says = f"Set what is sent for a {TONE_WORDS[tone_of(case, panel)]} sound."
    if fits:
        return Step("edges", "Band edges", says, shown, None, "low")
    to_low, to_high = sum(aim.low_hz) / 2, sum(aim.high_hz) / 2
    to_low, to_high = round(to_low, -1), round(to_high, -1)
    natural = tone_of(case, panel) == "natural"
    why = ("warmth below costs nobody anything while the band is quiet" if natural
           else "power that nobody needs to understand you is left out")  # fmt: skip
    move = Move(f"To {to_low:.0f} and {to_high:.0f} Hz.", why, {"low": to_low, "high": to_high})
    return Step("edges", "Band edges", says, shown, move, "low")


def _gain(
    name: str, title: str, case: OnAir, panel: PanelState, result: SsbResult,
    own: Mapping[str, float] | None,
) -> Step:  # fmt: skip
    full = case.figures.alc_full_db
    low, high = alc_zone(case, panel)
    reads = alc_reading(result)
    if own is not None:
        if "alc" not in own:
            return Step(name, title, _SPEAK, "read your ALC meter",
                        Move("Type what your ALC meter shows, in per cent of its scale.",
                             "the next move is reckoned from that"), "gain", "alc",
                        _nothing(case), AIR)  # fmt: skip
        reads = own["alc"]
    now = gain_of(panel)
    shown = f"ALC {min(max(reads, 0) / full, 1):.0%} of its scale"
    if low - 1e-6 <= reads <= high + 1e-6:
        return Step(name, title, _SPEAK, shown, None, "gain", "alc", _nothing(case), AIR)
    by_db = (low + high) / 2 - reads
    if own is not None and reads <= 0:
        # nothing to reckon from: where the ladder expects it, at least six decibels up
        by_db = max(6.0, _expected(case, panel) - now * case.figures.gain_range_db / 100)
    edge = (f"the aim starts at {low / full:.0%}" if reads < low
            else f"the aim ends at {high / full:.0%}")  # fmt: skip
    reached = ("the meter is pinned" if reads >= full else
               f"the meter reaches {max(reads, 0) / full:.0%} on your words")  # fmt: skip
    why = f"It stands at {marked(case, now)}; {reached}, {edge}."
    move = gain_move(case, panel, by_db, why)
    return Step(name, title, _SPEAK, shown, move, "gain", "alc", _nothing(case), AIR)


_SPEAK = ("Say “la-bo-ra-to-ry” as you would in a chat, and turn until the ALC stands between the"
          " brackets.")  # fmt: skip


def _expected(case: OnAir, panel: PanelState) -> float:
    """Where the ladder expects the gain, in dB from its beginning, for the aim."""
    row = case.assessment.rows[-1]
    turn = row.knob.turn if row.knob is not None else 0.5
    return turn * case.figures.gain_range_db


def _nothing(case: OnAir) -> str:
    volts = format_quantity(volts_from_dbu(case.assessment.rows[-2].speech_dbu), VOLT, 2)
    return ("If it does not move: the capsule may be turned away, or the chain gives less than it"
            f" should; the Ladder expects {volts} here.")  # fmt: skip


def _compression(
    case: OnAir, panel: PanelState, result: SsbResult, own: Mapping[str, float] | None
) -> Step:
    title = "Compression"
    at = knob(panel.knobs, "compression", 0.0)
    low, high = COMPRESSION[panel.compression]
    if panel.processing == "outboard":
        if at > 0:
            move = Move("Off: the box before the radio compresses already.",
                        "two in a row are the commonest cause of ugly signals",
                        {"compression": 0.0})  # fmt: skip
            return Step("compression", title, "", f"{at:.1f} dB", move, "compression")
        return Step("compression", title, "", "outboard", None, "compression")
    if high == 0:
        if at > 0:
            move = Move("Off, for a long chat.", "pauses stay quiet, ears stay fresh",
                        {"compression": 0.0})  # fmt: skip
            return Step(
                "compression", title, "", f"{at:.1f} dB", move, "compression", "compression"
            )
        return Step("compression", title, "", "none", None, "compression", "compression")
    reads = result.judged.compression_db if own is None else own.get("compression", -1.0)
    says = f"Turn until its meter shows {COMPRESSION_WORDS[panel.compression]} at peaks."
    if own is not None and reads < 0:
        move = Move("Type what your compression meter shows, in dB.", "it may lie behind a switch")
        return Step(
            "compression", title, says, "read its meter", move, "compression", "compression"
        )
    shown = f"{reads:.0f} dB at peaks"
    if at > 0 and low - NEAR_DB <= reads <= high + NEAR_DB:
        return Step("compression", title, says, shown, None, "compression", "compression")
    to = (low + high) / 2
    if at > 0.4:
        to += at - reads
    elif own is None:
        # its threshold lies where usual speech works the level control: peaks below it need more
        to += max(0.0, PEAKS_ROOM_DB + WORKED_DB - result.peaks_db)
    to = held("compression", round(2 * to) / 2)
    why = f"It reads {reads:.0f} dB, the aim is {low:.0f} to {high:.0f}."
    move = Move(f"To {to:.1f}.".replace(".0.", "."), why, {"compression": to})
    return Step("compression", title, says, shown, move, "compression", "compression",
                "If its meter does not move, the gain before it is too low.")  # fmt: skip


def _tone(case: OnAir, panel: PanelState) -> Step:
    pitch = _pitch(case)
    aim = tone_aim(tone_of(case, panel), pitch)
    bass = knob(panel.knobs, "bass", 0.0)
    treble = knob(panel.knobs, "treble", 0.0)
    shown = f"bass {bass:+.0f}, treble {treble:+.0f}".replace("-", "−").replace("+0", "0")
    fits = (aim.bass_db[0] <= bass <= aim.bass_db[1]
            and aim.treble_db[0] <= treble <= aim.treble_db[1])  # fmt: skip
    says = {"deep": "A deep voice wants less bass and a little treble.",
            "high": "A high voice wants some bass and less treble.",
            "middle": "A voice in the middle wants little."}[pitch]  # fmt: skip
    if fits:
        return Step("tone", "Tone for this voice", says, shown, None, "bass")
    to_bass, to_treble = sum(aim.bass_db) / 2, sum(aim.treble_db) / 2
    move = Move(f"Bass {to_bass:+.0f}, treble {to_treble:+.0f}.".replace("-", "−"), says,
                {"bass": to_bass, "treble": to_treble})  # fmt: skip
    return Step("tone", "Tone for this voice", says, shown, move, "bass")


def tone_of(case: OnAir, panel: PanelState) -> ToneSchool:
    """The school of tone that holds."""
    return tone_school(panel, case.assessment.solution.compiled.chain.purpose)


def _pitch(case: OnAir) -> Pitch:
    station = case.assessment.station
    return station.operator(case.assessment.solution.compiled.chain.operator).pitch


def with_knobs(panel: PanelState, knobs: Mapping[KnobId, float]) -> PanelState:
    """Knobs turned to where a move puts them."""
    kept = {k: held(k, v) for k, v in knobs.items()}
    return PanelState.model_validate(
        {**{n: getattr(panel, n) for n in PanelState.model_fields},
         "knobs": {**panel.knobs, **kept}}
    )  # fmt: skip


def in_school(panel: PanelState, **schools: str) -> PanelState:
    """Another school."""
    return PanelState.model_validate(
        {**{n: getattr(panel, n) for n in PanelState.model_fields}, **schools}
    )
