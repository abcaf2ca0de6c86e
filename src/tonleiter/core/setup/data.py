"""Setting weak-signal data on single sideband: no level control at work, nothing that bends."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from tonleiter.core.setup.gain import gain_of, turned
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import Control, Meter, Zone, held, knob
from tonleiter.core.setup.ssb import USUAL, SsbResult
from tonleiter.core.setup.ssb import send as send_ssb
from tonleiter.core.setup.step import AIR, Move, Step
from tonleiter.core.sound.sound import Floats
from tonleiter.core.station.settings import KnobId, PanelState

# peaks in dB under where the level control begins; one decibel over it is heard by neighbours
AIM: Zone = (-3.0, -0.5)
# from this tone on its third harmonic and its second fall outside of what is sent
CLEAN_FROM_HZ, SENT_TO_HZ = 1500.0, 2900.0
USUAL_TONE_HZ = 1500.0


def send(case: OnAir, panel: PanelState, volts: Floats | None = None) -> SsbResult:
    """Send the case's tones with a panel."""
    return send_ssb(case, panel, volts_of(case, panel) if volts is None else volts)


def volts_of(case: OnAir, panel: PanelState) -> Floats:
    """The tones at the radio's input, the computer turned as it is; shape (n,)."""
    return case.louder(knob(panel.knobs, "level", 0.0))


def controls(case: OnAir, panel: PanelState, result: SsbResult | None) -> tuple[Control, ...]:
    """The computer's level, the tone, and what must be off."""
    level = knob(panel.knobs, "level", 0.0)
    aim = None
    if result is not None:
        low, high = (held("level", level + z - result.peaks_db) for z in AIM)
        aim = (low, high)
    made = [Control("level", "level from the computer", level, -40, 0, aim, "dB", 0.5,
                    "against now"),
            Control("tone", "transmit tone", knob(panel.knobs, "tone", USUAL_TONE_HZ), 300, 2700,
                    (CLEAN_FROM_HZ, 2300.0), "Hz", 10.0, "where its harmonics go")]  # fmt: skip
    if not case.figures.fixed_gain:
        made.append(Control("gain", "microphone gain", gain_of(panel), 0, 100, None))
    made += [
        Control("compression", "compression", knob(panel.knobs, "compression", 0.0), 0, 12,
                (0.0, 0.0), step=0.5, note="off"),
        Control("power", "power", knob(panel.knobs, "power", USUAL["power"]), 1, 100, (20, 60), "%",
                1.0, f"of {case.figures.power_w:g} W"),
    ]  # fmt: skip
    return tuple(made)


def meters(case: OnAir, panel: PanelState, result: SsbResult) -> tuple[Meter, ...]:
    """The level control, which must rest, and the power."""
    full = case.figures.alc_full_db
    reads = max(result.alc_db, 0.0)
    short = -result.peaks_db
    says = f"{reads:.0f} dB: too much" if reads > 0.3 else f"rests, {max(short, 0):.0f} dB under"
    return (
        Meter("alc", "ALC", reads, full, (0.0, 0.02 * full), 0.1 * full, says),
        Meter("power", "power", result.judged.mean_w, case.figures.power_w, None, None,
              f"{result.judged.mean_w:.2g} W mean", "W", result.judged.pep_w),
    )  # fmt: skip


def steps(
    case: OnAir, panel: PanelState, result: SsbResult, own: Mapping[str, float] | None = None
) -> Iterator[Step]:
    """The guide."""
    yield _off(panel)
    yield _tone(panel)
    yield _level(case, panel, result, own)
    yield _power(panel, case)
    yield Step("receive", "Receive level",
               "Raise the radio's fixed output until the display is busy; nothing near full scale.",
               "noise some 30 dB over the converter's own", None)  # fmt: skip


def _off(panel: PanelState) -> Step:
    says = "No compressor, no tone control: a modem wants what it sent."
    off: dict[KnobId, float] = {}
    for name in ("compression", "bass", "treble"):
        if abs(knob(panel.knobs, name, 0.0)) > 0.01:  # type: ignore[arg-type]
            off[name] = 0.0  # type: ignore[index]
    if not off:
        return Step("off", "Nothing that bends", says, "off", None)
    move = Move(f"{', '.join(off).capitalize()}: to 0.", "each of them makes tones of its own",
                off)  # fmt: skip
    return Step("off", "Nothing that bends", says, "something is on", move, "compression")


def _tone(panel: PanelState) -> Step:
    at = knob(panel.knobs, "tone", USUAL_TONE_HZ)
    says = "Set the tone where twice and three times of it fall outside of what is sent."
    shown = f"{at:.0f} Hz; twice is {2 * at:.0f}"
    if at >= CLEAN_FROM_HZ:
        return Step("tone", "Transmit tone", says, shown, None, "tone")
    move = Move(f"To {USUAL_TONE_HZ:.0f} Hz; the radio's dial goes down by as much.",
                f"twice {at:.0f} Hz is sent as well, below {SENT_TO_HZ:.0f}",
                {"tone": USUAL_TONE_HZ})  # fmt: skip
    return Step("tone", "Transmit tone", says, shown, move, "tone")


def _level(
    case: OnAir, panel: PanelState, result: SsbResult, own: Mapping[str, float] | None
) -> Step:
    says = "Turn the computer's level up until the ALC just moves, then down until it rests."
    low, high = AIM
    peaks = result.peaks_db
    if own is not None:
        if "alc" not in own:
            move = Move("Type what your ALC meter shows, in per cent.", "0 where it rests")
            return Step("level", "Level", says, "read your ALC", move, "level", "alc", caution=AIR)
        peaks = own["alc"] if own["alc"] > 0 else (low + high) / 2
    shown = f"{peaks:.0f} dB over" if peaks > 0 else f"{-peaks:.0f} dB under the ALC"
    if low <= peaks <= high:
        return Step("level", "Level", says, shown, None, "level", "alc", caution=AIR)
    now = knob(panel.knobs, "level", 0.0)
    to = held("level", round(2 * (now + (low + high) / 2 - peaks)) / 2)
    if abs(to - now) < 0.5:
        move = Move("The computer stands at its end: plug in where the radio takes more level.",
                    "the chain gives too little; see the Ladder (3)")  # fmt: skip
        if not case.figures.fixed_gain:
            to_gain = turned(case, panel, (low + high) / 2 - peaks)
            move = Move(f"The radio's gain to about {to_gain:.0f}.", "the computer is at its end",
                        {"gain": to_gain})  # fmt: skip
        return Step("level", "Level", says, shown, move, "level", "alc", caution=AIR)
    word = "Up" if to > now else "Down"
    why = "the ALC bends what a modem made straight" if peaks > 0 else "power is left lying"
    move = Move(f"{word} {abs(to - now):.1f} dB at the computer.", why, {"level": to})
    return Step("level", "Level", says, shown, move, "level", "alc",
                "If nothing moves, the program sends to another device.", AIR)  # fmt: skip


def _power(panel: PanelState, case: OnAir) -> Step:
    at = knob(panel.knobs, "power", USUAL["power"])
    says = "Data is all power, all the time: a set made for speech gets hot."
    shown = f"{at:.0f} % of {case.figures.power_w:g} W"
    if at <= 60:
        return Step("power", "Drive", says, shown, None, "power")
    move = Move("To half.", "a set made for speech gets hot, and far stations do not notice",
                {"power": 50.0})  # fmt: skip
    return Step("power", "Drive", says, shown, move, "power")
