"""A set on single sideband: what it sends of a panel, its meters; what voices and modems share."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.scene import ON_THE_PANEL, Scene
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.once import cached_property
from tonleiter.core.radio.knobs import Knobs, SetFigures
from tonleiter.core.radio.measures import Judged, judged
from tonleiter.core.radio.receivers import Path, heard
from tonleiter.core.radio.ssb import AUDIO_HZ, OUT_HZ, Sent, SsbTransmitter, transmitted
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import Spectrum, spectrum
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.settings import KNOBS, MeterId, PanelState

FIRST_STAGE = declare("first-stage-overloads", ON_THE_PANEL)
# the way to a far receiver
FAR = Path(noise_db=-27.0, fades_db=8.0, neighbour_db=-30.0)
# of the envelope all but this share of the time is lower than what counts as its peaks
HIGHEST = 0.998
# a level control that takes less is seen to rest
RESTS_DB = 0.2
COMPRESSION_FULL_DB = KNOBS["compression"].high
# this set's filter ends below what an AM set's audio may have
HIGH = replace(KNOBS["high"], high=4000.0)


@dataclass(frozen=True, eq=False)
class SsbResult:
    """A whole recording sent with a panel as it stands."""

    sent: Sent
    judged: Judged
    peaks_db: float

    @property
    def alc_reads_db(self) -> float:
        """What the level control takes off; below zero by how much the peaks fall short of it."""
        taken = self.judged.alc_db
        return taken if taken > RESTS_DB else min(self.peaks_db, 0.0)


def knobs_of(panel: PanelState) -> Knobs:
    """The simulated panel's knobs."""
    outside = panel.processing == "outboard"
    return Knobs(
        gain=at(panel, "gain") / 100.0,
        compression_db=0.0 if outside else at(panel, "compression"),
        bass_db=at(panel, "bass"),
        treble_db=at(panel, "treble"),
        low_hz=at(panel, "low"),
        high_hz=HIGH.held(at(panel, "high")),
        power=at(panel, "power") / 100.0,
    )


def send_ssb(case: OnAir, panel: PanelState, volts: Floats) -> SsbResult:
    """Send volts at the radio's input with a panel."""
    knobs = knobs_of(panel)
    sent = transmitted(case.figures, knobs, Sound(volts, AUDIO_HZ))
    told = judged(sent, case.figures, knobs.high_hz)
    return SsbResult(sent, told, float(np.quantile(sent.envelope_db, HIGHEST)))


def scales_of(figures: SetFigures) -> dict[MeterId, Scale]:
    """The meters of a single-sideband set."""
    return {
        "alc": Scale("alc", figures.alc_full_db),
        "compression": Scale("compression", COMPRESSION_FULL_DB),
        "power": Scale("power", figures.power_w, "mean"),
    }


def power_meter(case: OnAir, told: Judged, scale: Scale) -> Meter:
    """Mean power with the peak beside it."""
    return Meter(scale, told.mean_w, f"{told.mean_w:.2g} W mean", peak=told.pep_w)


def power_control(
    case: OnAir, panel: PanelState, aim: Zone | None = None, title: str = "power"
) -> Control:
    """Drive, or the carrier."""
    return control(
        panel, "power", aim, f"of {case.figures.power_w:g} W", replace(KNOBS["power"], title=title)
    )


class LiveSsb:
    """A single-sideband set fed block by block."""

    def __init__(self, case: OnAir, panel: PanelState) -> None:
        self.rate_hz = OUT_HZ
        self.scales: Mapping[MeterId, Scale] = scales_of(case.figures)
        self._case = case
        self._set = SsbTransmitter(case.figures, knobs_of(panel))

    def turn(self, panel: PanelState) -> None:
        """Turn knobs while it runs."""
        self._set.turn(knobs_of(panel))

    def volts(self, panel: PanelState) -> Floats:
        """The voice."""
        return self._case.volts

    def send(self, audio: Floats) -> tuple[Mapping[MeterId, float], Complexes]:
        """A block."""
        sent = self._set.send(audio)
        meters = sent.meters[0]
        return {
            "alc": meters.alc_db,
            "compression": meters.compression_db,
            "power": meters.mean_share * self._case.figures.power_w,
        }, sent.z


class SidebandScene(Scene):
    """What a voice and a modem on single sideband have in common."""

    @cached_property
    @abstractmethod
    def result(self) -> SsbResult:
        """What is sent."""

    def neighbours(self) -> tuple[str, str]:
        """How far down they have it."""
        told = self.result.judged
        return (
            f"neighbour below: {-told.below_db:.0f} dB down",
            f"neighbour above: {-told.above_db:.0f} dB down",
        )

    @cached_property
    def spectrum(self) -> Spectrum:
        """What leaves the aerial socket."""
        return spectrum(self.result.sent.z, OUT_HZ, 1024)

    def audio(self, far: bool) -> Sound:
        """What a receiver hears."""
        return heard(self.result.sent.z, FAR if far else None)

    def own_findings(self) -> Iterator[Finding]:
        """A first stage that overloads."""
        told = self.result.judged
        if told.overloaded:
            yield self.finding(
                FIRST_STAGE,
                "stop",
                "first stage",
                "The first stage overloads before any knob",
                "it lies before the gain control: less must come in",
                {},
            )
