"""Setting AM: modulation at peaks, negative ones first."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.am import AmKnobs, AmSent, amplitude_modulated
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.setup.before import distance
from tonleiter.core.setup.gain import gain_move, gain_of, hundredths
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import Control, Meter, Zone, held, knob
from tonleiter.core.setup.step import AIR, Move, Step
from tonleiter.core.sound.sound import Floats, Sound
from tonleiter.core.station.settings import KnobId, PanelState

USUAL: dict[KnobId, float] = {"high": 4000.0, "power": 100.0}
AIM: Zone = (0.8, 0.97)
PEAKS = 0.9998
# from so much on it is worth turning wires over
UNEVEN = 0.25
VALVES = "Lethal voltage inside, also after switch-off: qualified people only."


@dataclass(frozen=True, eq=False)
class AmResult:
    """A whole recording sent: peaks up and down, 1 for 100 %."""

    sent: AmSent
    up: float
    down: float


def knobs_of(panel: PanelState) -> AmKnobs:
    """The simulated panel's knobs."""
    return AmKnobs(
        gain_of(panel) / 100.0,
        knob(panel.knobs, "high", USUAL["high"]),
        knob(panel.knobs, "power", USUAL["power"]) / 100.0,
    )


def send(case: OnAir, panel: PanelState, volts: Floats | None = None) -> AmResult:
    """Send the case's voice with a panel."""
    audio = case.volts if volts is None else volts
    sent = amplitude_modulated(case.figures, knobs_of(panel), Sound(audio, AUDIO_HZ))
    m = sent.modulation
    return AmResult(sent, float(np.quantile(m, PEAKS)), float(-np.quantile(m, 1 - PEAKS)))


def controls(case: OnAir, panel: PanelState, result: AmResult | None) -> tuple[Control, ...]:
    """Gain, where the audio ends, the carrier."""
    at = gain_of(panel)
    aim = None
    if result is not None and result.down > 0:
        aim = tuple(
            held("gain", at + hundredths(case, 20 * float(np.log10(z / result.down)))) for z in AIM
        )
    high = knob(panel.knobs, "high", USUAL["high"])
    return (
        Control("gain", "microphone gain", at, 0, 100, aim),  # type: ignore[arg-type]
        Control("high", "audio ends at", high, 1800, 5000, (3000, 4500), "Hz", 50.0),
        Control("power", "carrier", knob(panel.knobs, "power", USUAL["power"]), 1, 100, None, "%",
                1.0, f"of {case.figures.power_w:g} W"),
    )  # fmt: skip


def meters(case: OnAir, panel: PanelState, result: AmResult) -> tuple[Meter, ...]:
    """Modulation both ways, and what of the power carries the voice."""
    share = result.sent.sideband_share
    low, high = AIM
    return (
        Meter("down", "negative peaks", 100 * result.down, 130.0, (100 * low, 100 * high), 100.0,
              f"−{100 * result.down:.0f} %", "%"),
        Meter("up", "positive peaks", 100 * result.up, 130.0, None, 125.0,
              f"+{100 * result.up:.0f} %", "%"),
        Meter("sidebands", "sidebands to carrier", 100 * share, 50.0, None, None,
              f"{100 * share:.1f} %", "%"),
    )  # fmt: skip


def steps(
    case: OnAir, panel: PanelState, result: AmResult, own: Mapping[str, float] | None = None
) -> Iterator[Step]:
    """The guide."""
    yield distance(case)
    yield _modulation(case, panel, result, own)
    says = ("A voice goes further one way than the other: turning the microphone's two wires over"
            " puts the longer side up, where there is room.")  # fmt: skip
    uneven = result.down - result.up
    shown = f"−{100 * result.down:.0f} % and +{100 * result.up:.0f} %"
    move = (Move("Turn the microphone's wires over: its long side goes down.",
                 f"the carrier is cut {100 * uneven:.0f} % before positive peaks reach as far")
            if uneven > UNEVEN else None)  # fmt: skip
    yield Step("sides", "Which side goes up", says, shown, move)
    share = result.sent.sideband_share
    yield Step("power", "Power where the voice is",
               "Full modulation by a tone puts half the carrier's power into the sidebands;"
               " speech far less.", f"{100 * share:.1f} % of the carrier", None,
               caution=VALVES)  # fmt: skip


def _modulation(
    case: OnAir, panel: PanelState, result: AmResult, own: Mapping[str, float] | None
) -> Step:
    says = "Speak as usual; look at the negative peaks: at −100 % the carrier is gone."
    low, high = AIM
    down = result.down if own is None else own.get("down", 0.0) / 100
    if own is not None and down <= 0:
        move = Move("Type how far negative peaks go, in per cent.", "by a scope or a meter")
        return Step("modulation", "Modulation", says, "read it", move, "gain", "down", caution=AIR)
    shown = f"−{100 * down:.0f} %"
    if low <= down <= high:
        return Step("modulation", "Modulation", says, shown, None, "gain", "down", caution=AIR)
    by_db = 20 * float(np.log10((low + high) / 2 / max(down, 1e-3)))
    why = (f"they reach {shown}, {100 * low:.0f} to {100 * high:.0f} % are wanted"
           if down < low else f"at {shown} the carrier is cut off: that splatters")  # fmt: skip
    move = gain_move(case, panel, by_db, why)
    return Step("modulation", "Modulation", says, shown, move, "gain", "down",
                "If it does not move, look at the chain on the Ladder (3).", AIR)  # fmt: skip
