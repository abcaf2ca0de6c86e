"""Setting FM voice and packet: deviation by meter, by ear on a second receiver, by the null."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.deviation import NULLS, PAIR_HZ, correction_db, pre_emphasis_db
from tonleiter.core.radio.fm import FM_HZ, NARROW_HZ, WIDE_HZ, FmKnobs, Modulated, modulated
from tonleiter.core.radio.receivers import line_db
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.setup.before import distance
from tonleiter.core.setup.gain import gain_move, gain_of, hundredths, turned
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import Control, Meter, Zone, held, knob
from tonleiter.core.setup.step import AIR, Move, Step
from tonleiter.core.sound.sound import Floats, Sound
from tonleiter.core.sound.through import response_at
from tonleiter.core.station.settings import KnobId, PanelState
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.units.quantity import VOLT, format_quantity

# what of a channel voice and data take at peaks; a voice works its limiter by so much
VOICE: Zone = (0.78, 0.985)
DATA: Zone = (0.6, 0.7)
LIMITER_DB: Zone = (2.0, 7.0)
# a system is narrow where its trimmer is set below this
NARROW_BELOW_HZ = 3000.0
PEAKS = 0.9995


@dataclass(frozen=True, eq=False)
class FmResult:
    """A whole recording sent: peak deviation, what the limiter cut, what is left of the carrier."""

    sent: Modulated
    peak_hz: float
    limited_db: float
    system_hz: float
    carrier_db: float


def knobs_of(case: OnAir, panel: PanelState) -> FmKnobs:
    """The simulated panel's knobs; a data path goes past pre-emphasis and limiter."""
    return FmKnobs(
        gain_of(panel) / 100.0,
        trimmer_hz(case, panel),
        flat=case.figures.fixed_gain,
    )


def trimmer_hz(case: OnAir, panel: PanelState) -> float:
    """Where the trimmer inside stands: as turned, or as the set's maker left it."""
    return knob(panel.knobs, "deviation", held("deviation", case.figures.deviation_hz))


def system_hz(case: OnAir, panel: PanelState) -> float:
    """The wide or the narrow system."""
    at = trimmer_hz(case, panel)
    return NARROW_HZ if at < NARROW_BELOW_HZ else WIDE_HZ


def send(case: OnAir, panel: PanelState, volts: Floats | None = None) -> FmResult:
    """Send the case's voice or tone with a panel."""
    audio = _audio(case, panel) if volts is None else volts
    sent = modulated(case.figures, knobs_of(case, panel), Sound(audio, AUDIO_HZ))
    settled = np.abs(sent.deviation_hz[sent.deviation_hz.size // 10 :])
    # whole turns of any tone of 5 Hz and its multiples
    turns = sent.z[-FM_HZ // 5 * (sent.z.size // (FM_HZ // 5) - 1) :]
    return FmResult(
        sent, float(np.quantile(settled, PEAKS)), sent.limited_db, system_hz(case, panel),
        line_db(turns, 0.0, FM_HZ),
    )  # fmt: skip


def _audio(case: OnAir, panel: PanelState) -> Floats:
    """The voice, or the tone that is chosen, by the way that the data takes."""
    return tone_volts(case, panel) if case.mode == "packet" else case.volts


def tone_volts(case: OnAir, panel: PanelState) -> Floats:
    """The chosen tone at the radio's input, the computer turned as it is; shape (n,)."""
    hertz = knob(panel.knobs, "tone", PAIR_HZ[0])
    rms = float(np.sqrt(np.mean(case.volts**2))) * 10 ** (knob(panel.knobs, "level", 0.0) / 20)
    solution = case.assessment.solution
    there, usual = np.abs(response_at(solution, np.array([hertz, PAIR_HZ[0]]), -1))
    t = np.arange(case.volts.size) / AUDIO_HZ
    made: Floats = np.sqrt(2) * rms * there / max(usual, 1e-30) * np.sin(2 * np.pi * hertz * t)
    return made


def zone_hz(case: OnAir, panel: PanelState) -> Zone:
    """Where peaks should deviate to."""
    low, high = DATA if case.mode == "packet" else VOICE
    system = system_hz(case, panel)
    return low * system, high * system


def controls(case: OnAir, panel: PanelState, result: FmResult | None) -> tuple[Control, ...]:
    """Gain and the trimmer inside; from a computer its level."""
    at = gain_of(panel)
    trimmer = trimmer_hz(case, panel)
    made = []
    if case.mode == "packet":
        level = knob(panel.knobs, "level", 0.0)
        zone = _level_zone(case, panel, result)
        hertz = knob(panel.knobs, "tone", PAIR_HZ[0])
        made.append(Control("tone", "tone", hertz, 300, 2700, None, "Hz", 5.0, "one at a time"))
        made.append(Control("level", "level from the computer", level, -40, 0, zone, "dB", 0.5,
                            "against now"))  # fmt: skip
    if not case.figures.fixed_gain:
        aim = None if result is None else _gain_zone(case, panel, result)
        made.append(Control("gain", "microphone gain", at, 0, 100, aim))
    made.append(Control("deviation", "deviation trimmer", trimmer, 500, 6000, None, "Hz", 50.0,
                        "inside the set"))  # fmt: skip
    return tuple(made)


def _level_zone(case: OnAir, panel: PanelState, result: FmResult | None) -> Zone | None:
    if result is None or result.peak_hz < 1:
        return None
    at = knob(panel.knobs, "level", 0.0)
    low, high = (at + correction_db(z, result.peak_hz) for z in zone_hz(case, panel))
    return held("level", low), held("level", high)


def _gain_zone(case: OnAir, panel: PanelState, result: FmResult) -> Zone:
    reads = _limiter_db(result)
    low, high = (gain_of(panel) + hundredths(case, z - reads) for z in LIMITER_DB)
    return held("gain", low), held("gain", high)


def _limiter_db(result: FmResult) -> float:
    """By how much peaks stand over the limiter; below zero by how much they stay under."""
    if result.limited_db > 0:
        return result.limited_db
    return correction_db(max(result.peak_hz, 1.0), result.system_hz)


def meters(case: OnAir, panel: PanelState, result: FmResult) -> tuple[Meter, ...]:
    """Deviation, and what the limiter takes."""
    low, high = zone_hz(case, panel)
    system = result.system_hz
    made = [Meter("deviation", "deviation at peaks", result.peak_hz / 1000, 1.3 * system / 1000,
                  (low / 1000, high / 1000), system / 1000, f"{result.peak_hz / 1000:.2f} kHz",
                  "kHz")]  # fmt: skip
    if case.mode == "packet":
        lost = -result.carrier_db
        made.append(Meter("carrier", "carrier is down by", min(lost, 60.0), 60.0, None, None,
                          f"{lost:.0f} dB"))  # fmt: skip
    if case.mode == "fm":
        made.append(Meter("limiter", "limiter", max(_limiter_db(result), 0.0), 15.0, LIMITER_DB,
                          12.0, f"{max(_limiter_db(result), 0.0):.0f} dB"))  # fmt: skip
    return tuple(made)


def steps(
    case: OnAir, panel: PanelState, result: FmResult, own: Mapping[str, float] | None = None
) -> Iterator[Step]:
    """The guide for voice, or for packet."""
    if case.mode == "fm":
        yield distance(case)
        yield _limiter(case, panel, result, own)
        yield _deviation(case, panel, result, own)
        yield _by_ear(case, panel, result)
        return
    yield Step("path", "One tone, through the path of the data",
               "Send one tone, never the pair: the pair's peaks add, and a meter shows neither.",
               f"{PAIR_HZ[0]:.0f} Hz", None)  # fmt: skip
    yield _level(case, panel, result, own)
    yield _null(case, panel, result)
    yield _pair(case)


def _limiter(
    case: OnAir, panel: PanelState, result: FmResult, own: Mapping[str, float] | None
) -> Step:
    says = "Speak as usual; raise the gain until it gets no louder on a second receiver, no more."
    reads = _limiter_db(result)
    if own is not None:
        return Step("limiter", "Microphone gain", says, "by ear", None, "gain", "limiter",
                    _nothing(case), AIR)  # fmt: skip
    low, high = LIMITER_DB
    shown = f"{reads:.0f} dB over the limiter" if reads > 0 else f"{-reads:.0f} dB under it"
    if low <= reads <= high:
        return Step("limiter", "Microphone gain", says, shown, None, "gain", "limiter",
                    _nothing(case), AIR)  # fmt: skip
    why = ("quiet words stay quiet: noise is what they hear of you" if reads < low
           else "loud words are cut flat: harsh, and the room comes up")  # fmt: skip
    move = gain_move(case, panel, (low + high) / 2 - reads, why)
    return Step("limiter", "Microphone gain", says, shown, move, "gain", "limiter",
                _nothing(case), AIR)  # fmt: skip


def _nothing(case: OnAir) -> str:
    volts = format_quantity(volts_from_dbu(case.assessment.rows[-2].speech_dbu), VOLT, 2)
    return (
        f"If nothing moves: the chain gives less than it should; the Ladder expects {volts} here."
    )


def _deviation(
    case: OnAir, panel: PanelState, result: FmResult, own: Mapping[str, float] | None
) -> Step:
    low, high = zone_hz(case, panel)
    says = "Read the deviation of peaks; where it is wrong the trimmer inside the set is turned."
    peak = result.peak_hz if own is None else own.get("deviation", 0.0) * 1000
    if own is not None and peak <= 0:
        move = Move("Type what a deviation meter shows, in kHz.",
                    "or find the null with a tone, and type what that comes to")  # fmt: skip
        return Step("deviation", "Deviation", says, "read it", move, "deviation", "deviation")
    shown = f"{peak / 1000:.2f} kHz"
    if low <= peak <= high:
        return Step("deviation", "Deviation", says, shown, None, "deviation", "deviation")
    now = trimmer_hz(case, panel)
    to = held("deviation", round(now * (low + high) / 2 / peak, -1))
    by = correction_db((low + high) / 2, peak)
    move = Move(f"{by:+.1f} dB at the trimmer: to {to / 1000:.2f} kHz.".replace("-", "−"),
                f"peaks reach {shown}, {low / 1000:.1f} to {high / 1000:.1f} kHz are wanted",
                {"deviation": to})  # fmt: skip
    return Step("deviation", "Deviation", says, shown, move, "deviation", "deviation",
                caution="Opening a set is work for who may do it; unplug it first.")  # fmt: skip


def _by_ear(case: OnAir, panel: PanelState, result: FmResult) -> Step:
    """Where the ear's edge would be on this set, against the target."""
    at = trimmer_hz(case, panel)
    # where it gets no louder peaks reach what the limiter's filter makes of its edge
    edge = max(result.peak_hz, at) if result.limited_db > 0 else at
    off = correction_db(edge, result.system_hz)
    says = ("By ear: raise until it gets no louder, come back to that edge. The edge is this set's"
            " limiter, wherever somebody put it.")  # fmt: skip
    shown = f"the edge is at {edge / 1000:.1f} kHz"
    if abs(off) > 0.7:
        shown += f", {off:+.1f} dB off {result.system_hz / 1000:g} kHz"
    return Step("ear", "The same by ear", says, shown.replace("-", "−"), None)


def _level(
    case: OnAir, panel: PanelState, result: FmResult, own: Mapping[str, float] | None
) -> Step:
    low, high = zone_hz(case, panel)
    says = f"Turn the computer's level until a tone of {PAIR_HZ[0]:.0f} Hz deviates by enough."
    peak = result.peak_hz if own is None else own.get("deviation", 0.0) * 1000
    if own is not None and peak <= 0:
        move = Move("Type the deviation that you found, in kHz.", "by meter or by the null")
        return Step("level", "Level", says, "read it", move, "level", "deviation", caution=AIR)
    shown = f"{peak / 1000:.2f} kHz"
    if low <= peak <= high:
        return Step("level", "Level", says, shown, None, "level", "deviation", caution=AIR)
    by = correction_db((low + high) / 2, max(peak, 1.0))
    now = knob(panel.knobs, "level", 0.0)
    to = held("level", round(2 * (now + by)) / 2)
    if now + by > 0.3 and to - now < 0.5:
        up: dict[KnobId, float] = (
            {} if case.figures.fixed_gain else {"gain": turned(case, panel, by)}
        )
        move = Move(f"{by:.0f} dB more than the computer has: at the radio's gain.",
                    "the computer stands at its end", up)  # fmt: skip
        return Step("level", "Level", says, shown, move, "gain", "deviation", caution=AIR)
    word = "Up" if by > 0 else "Down"
    move = Move(f"{word} {abs(to - now):.1f} dB at the computer.",
                f"it deviates by {shown}, {low / 1000:.1f} to {high / 1000:.1f} kHz are wanted",
                {"level": to})  # fmt: skip
    return Step("level", "Level", says, shown, move, "level", "deviation",
                "If it does not move, the radio listens at another socket.", AIR)  # fmt: skip


def _null(case: OnAir, panel: PanelState, result: FmResult) -> Step:
    low, high = zone_hz(case, panel)
    target = (low + high) / 2
    wanted = target / NULLS[0]
    hertz = knob(panel.knobs, "tone", PAIR_HZ[0])
    says = (f"The same without a meter: with a tone of {wanted:.0f} Hz raise the level until the"
            f" carrier vanishes on a narrow analyser: {target / 1000:.2f} kHz.")  # fmt: skip
    shown = f"carrier {-result.carrier_db:.0f} dB down at β {result.peak_hz / hertz:.2f}"
    return Step("null", "The carrier's null", says, shown, None, "tone", "carrier")


def _pair(case: OnAir) -> Step:
    flat = case.figures.fixed_gain
    more = pre_emphasis_db()
    says = ("This path is flat: both tones deviate alike." if flat else
            f"Behind pre-emphasis {PAIR_HZ[1]:.0f} Hz deviates {more:.1f} dB further than"
            f" {PAIR_HZ[0]:.0f} Hz: set the upper one.")  # fmt: skip
    return Step("pair", "Both tones of the pair", says, "alike" if flat else f"{more:.1f} dB", None)
