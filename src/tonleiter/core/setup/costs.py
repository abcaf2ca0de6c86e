"""What each school costs, measured: the guide followed in either, the results held side by side."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from tonleiter.core.guide.controls import in_school
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.schools import ALC, COMPRESSION_WORDS, TONE_WORDS
from tonleiter.core.radio.audible import audible
from tonleiter.core.radio.measures import TEST_PATH, understood
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.setup.modes import settled
from tonleiter.core.setup.ssb import SsbScene
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.settings import AlcSchool, CompressionSchool, PanelState, ToneSchool

LEAST_COST_DB = 0.2
# schools are compared on so much of the voice
COST_S = 5.0


@dataclass(frozen=True)
class Cost:
    """A school's result, measured: mean power, splatter, gaps, how well one is understood.

    ``understood`` compares envelopes with the voice's, ``audible`` what lies over the noise.
    """

    mean_w: float
    splatter_db: float
    gaps_db: float
    understood: float
    audible: float

    def against(self, other: Cost) -> str:
        """What it costs and gains against another."""
        power = 10 * float(np.log10(self.mean_w / other.mean_w))
        parts = []
        for value, gained, lost in (
            (power, "gains {} dB of average power", "costs {} dB of average power"),
            (
                other.splatter_db - self.splatter_db,
                "spares the neighbours {} dB",
                "costs {} dB of splatter",
            ),
            (self.gaps_db - other.gaps_db, "quiets pauses by {} dB", "lifts pauses by {} dB"),
        ):
            if abs(value) >= LEAST_COST_DB:
                parts.append((gained if value > 0 else lost).format(f"{abs(value):.1f}"))
        better = 100 * (self.understood - other.understood)
        if abs(better) >= 1:
            parts.append(f"is understood {abs(better):.0f} % {'better' if better > 0 else 'worse'}")
        more = 100 * (self.audible - other.audible)
        if abs(more) >= 1:
            parts.append(f"{abs(more):.0f} % {'more' if more > 0 else 'less'} of it over the noise")
        if min(abs(better), abs(more)) >= 1 and better * more < 0:
            # a bent envelope, and more of it to be heard: which counts depends on the noise
            parts.append("two measures disagree: on a crowded band what is over the noise counts")
        return ", ".join(parts) or "makes no difference here"


def cost_of(case: OnAir, panel: PanelState) -> Cost:
    """Of single sideband set right. Raises TypeError for another mode."""
    scene = settled(case, panel)
    if not isinstance(scene, SsbScene):
        raise TypeError("costs are told of single sideband only")
    told = scene.result.judged
    return Cost(
        told.mean_w,
        max(told.below_db, told.above_db),
        told.gaps_db,
        understood(scene.case.spoken, scene.result.sent.z),
        audible(scene.result.sent.z, TEST_PATH),
    )


def costs_of_schools(case: OnAir, panel: PanelState) -> dict[str, str]:
    """Each school of ALC, compression and tone, set right, against the one that is chosen."""
    n = round(COST_S * AUDIO_HZ)
    spoken = Sound(case.spoken.samples[: round(COST_S * case.spoken.rate_hz)], case.spoken.rate_hz)
    case = replace(case, volts=case.volts[:n], spoken=spoken)
    here = cost_of(case, panel)
    told = {}
    alc: AlcSchool
    for alc in ALC:
        if alc != panel.alc:
            there = cost_of(case, in_school(panel, alc=alc))
            told[f"alc:{panel.alc}"] = here.against(there)
            told[f"alc:{alc}"] = there.against(here)
    squeeze: CompressionSchool
    for squeeze in COMPRESSION_WORDS:
        if squeeze != panel.compression:
            there = cost_of(case, in_school(panel, compression=squeeze))
            told[f"compression:{squeeze}"] = there.against(here)
            if squeeze == "none":
                told[f"compression:{panel.compression}"] = here.against(there)
    chosen = SsbScene(case, panel).tone
    tone: ToneSchool
    for tone in TONE_WORDS:
        if tone != chosen:
            there = cost_of(case, in_school(panel, tone=tone))
            told[f"tone:{chosen}"] = here.against(there)
            told[f"tone:{tone}"] = there.against(here)
    return told
