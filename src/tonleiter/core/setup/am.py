"""Setting AM: modulation at peaks, negative ones first."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar

from tonleiter.core.guide.before import distance, outboard
from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.gain import gain, hundredths, level_step
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import ON_THE_PANEL, LiveSet, Scene
from tonleiter.core.guide.step import AIR, Move, Step, turn
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.once import cached_property
from tonleiter.core.radio.am import AmKnobs, AmSent, AmTransmitter, amplitude_modulated
from tonleiter.core.radio.receivers import demodulated, travelled
from tonleiter.core.radio.ssb import AUDIO_HZ, OUT_HZ
from tonleiter.core.setup.sideband import FAR, power_control
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import Spectrum, spectrum
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.settings import KNOBS, MeterId, PanelState

CUT_OFF = declare("carrier-cut-off", ON_THE_PANEL)
# in per cent: how deep the lowest peak goes, where the audio ends
AIM: Zone = (80.0, 95.0)
ENDS_HZ: Zone = (3000.0, 4500.0)
HIGH = replace(KNOBS["high"], title="audio ends at", usual=4000.0, step=50.0)
# from so much on it is worth turning wires over
UNEVEN = 25.0
FULL, FULL_SHARE, UP_FROM = 130.0, 50.0, 125.0
BAND_HZ = (-4500.0, 4500.0)


@dataclass(frozen=True, eq=False)
class AmResult:
    """A whole recording sent: its highest and lowest peak in per cent, as the needle shows them."""

    sent: AmSent

    @property
    def up(self) -> float:
        """Highest positive peak."""
        return 100 * self.sent.up

    @property
    def down(self) -> float:
        """Lowest negative one, as a positive figure."""
        return 100 * self.sent.down


def knobs_of(panel: PanelState) -> AmKnobs:
    """The simulated panel's knobs."""
    return AmKnobs(at(panel, "gain") / 100.0, at(panel, "high", HIGH), at(panel, "power") / 100.0)


def scales_of() -> dict[MeterId, Scale]:
    """The meters of an AM set."""
    return {
        "down": Scale("down", FULL),
        "up": Scale("up", FULL),
        "sidebands": Scale("sidebands", FULL_SHARE, "mean"),
    }


class LiveAm:
    """An AM set fed block by block."""

    def __init__(self, case: OnAir, panel: PanelState) -> None:
        self.rate_hz = OUT_HZ
        self.scales: Mapping[MeterId, Scale] = scales_of()
        self._case = case
        self._set = AmTransmitter(case.figures, knobs_of(panel))

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        self._set.turn(knobs_of(panel))

    def volts(self, panel: PanelState) -> Floats:
        """The voice."""
        return self._case.volts

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block."""
        made = self._set.send(audio)
        return {
            "down": 100 * made.down,
            "up": 100 * made.up,
            "sidebands": 100 * made.sideband_share,
        }, made.z


class AmScene(Scene):
    """AM with a voice."""

    mode: ClassVar[ModeId] = "am"
    title: ClassVar[str] = "AM voice"

    @cached_property
    def result(self) -> AmResult:
        """The voice, sent."""
        sound = Sound(self.case.volts, AUDIO_HZ)
        return AmResult(amplitude_modulated(self.case.figures, knobs_of(self.panel), sound))

    @classmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The same set, fed block by block."""
        return LiveAm(case, panel)

    @property
    def down(self) -> float | None:
        """How deep negative peaks go, in per cent; of an own radio once it was read."""
        return self.reads("down", self.result.down)

    @cached_property
    def meters(self) -> tuple[Meter, ...]:
        """Modulation both ways, and what of the power carries the voice."""
        scales, share = scales_of(), 100 * self.result.sent.sideband_share
        return (
            Meter(scales["down"], self.result.down, f"−{self.result.down:.0f} %", AIM, 100.0),
            Meter(scales["up"], self.result.up, f"+{self.result.up:.0f} %", None, UP_FROM),
            Meter(scales["sidebands"], share, f"{share:.1f} %"),
        )

    @cached_property
    def controls(self) -> tuple[Control, ...]:
        """Gain, where the audio ends, the carrier."""
        down = self.down
        zone = None if down is None or down <= 0 else (_db(AIM[0] / down), _db(AIM[1] / down))
        level = gain(self.case, self.panel, 0.0, zone)
        return (
            *(() if level is None else (level,)),
            control(self.panel, "high", ENDS_HZ, "by the band", HIGH),
            power_control(self.case, self.panel, title="carrier"),
        )

    def own_steps(self) -> Iterator[Step]:
        """Distance, modulation, the audio's end, which side goes up, where the power is."""
        yield distance(self.case)
        yield from outboard(self.case)
        yield self._modulation()
        ends = self.control("high")
        assert ends is not None
        yield turn(
            "ends",
            "Where the audio ends",
            "Wide enough to be clear, no wider than the channel.",
            (ends,),
            "consonants lie up to 4 kHz, neighbours above",
        )
        says = (
            "A voice goes further one way than the other: turning the microphone's two wires"
            " over puts the longer side up, where there is room."
        )
        uneven = self.result.down - self.result.up
        shown = f"−{self.result.down:.0f} % and +{self.result.up:.0f} %"
        move = (
            Move(
                "Turn the microphone's wires over: its long side goes down.",
                f"the carrier is cut {uneven:.0f} % before positive peaks reach as far",
            )
            if uneven > UNEVEN
            else None
        )
        yield Step("sides", "Which side goes up", says, shown, move)
        share = self.result.sent.sideband_share
        yield Step(
            "power",
            "Power where the voice is",
            "Full modulation by a tone puts half the carrier's power into the sidebands;"
            " speech far less.",
            f"{100 * share:.1f} % of the carrier",
            None,
        )

    def _modulation(self) -> Step:
        says = "Speak as usual; look at the negative peaks: at −100 % the carrier is gone."
        low, high = AIM
        down, knob = self.down, self.control("gain")
        if down is None:
            move = Move(
                "Type how far negative peaks go, in per cent.", "by a scope or a meter", asks=True
            )
            return Step(
                "modulation",
                "Modulation",
                says,
                "read it",
                move,
                ("gain",) if knob is not None else (),
                "down",
                caution=AIR,
            )
        shown = f"−{down:.0f} %"
        by_db = 0.0 if low <= down <= high else _db((low + high) / 2 / max(down, 0.1))
        why = (
            f"they reach {shown}, {low:.0f} to {high:.0f} % are wanted"
            if down < 100
            else f"at {shown} the carrier is cut off: that splatters"
        )
        lost = self.lost("down", knob, hundredths(self.case), 100.0)
        return level_step(
            self.case, "modulation", "Modulation", says, knob, by_db, why, shown, "down", AIR, lost
        )

    def listeners_get(self) -> str:
        """Cut off, too quiet, or a full signal."""
        down = self.result.down
        if down > 100:
            return f"The carrier is cut off: negative peaks want −{down:.0f} %."
        if down < AIM[0]:
            return f"Too quiet: negative peaks reach −{down:.0f} %."
        return f"The listeners get a full signal, −{down:.0f} % at peaks."

    @cached_property
    def spectrum(self) -> Spectrum:
        """What leaves the aerial socket."""
        return spectrum(self.result.sent.z, OUT_HZ, 1024)

    def audio(self, far: bool) -> Sound:
        """What a receiver hears."""
        z = self.result.sent.z
        return demodulated(travelled(z, FAR, BAND_HZ) if far else z)

    def own_findings(self) -> Iterator[Finding]:
        """A carrier that is cut off."""
        if self.result.down > 100:
            yield self.finding(
                CUT_OFF,
                "stop",
                "modulation",
                "Negative peaks cut the carrier off",
                f"−{self.result.down:.0f} % wanted: that splatters",
                {"down_percent": self.result.down},
                self.fix_now(),
            )


def _db(ratio: float) -> float:
    return 20 * math.log10(ratio)
