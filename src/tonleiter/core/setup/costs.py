"""What each school costs, measured: the guide followed in either, the results held side by side."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from tonleiter.core.gear.transfer import Compression
from tonleiter.core.guide.controls import in_school
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.schools import ALC, COMPRESSION, COMPRESSION_WORDS, TONE_WORDS
from tonleiter.core.radio.audible import audible
from tonleiter.core.radio.measures import AGAIN, TEST_PATH, understood
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.setup.modes import settled
from tonleiter.core.setup.ssb.scene import SsbScene
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.through import compressed_db
from tonleiter.core.station.settings import AlcSchool, CompressionSchool, PanelState, ToneSchool
from tonleiter.core.units.levels import dbu_from_volts

LEAST_COST_DB = 0.2
# a usual box: its ratio, how fast it comes and goes, how far its threshold is looked for
BOX_RATIO, BOX_ATTACK_S, BOX_FALLS_S, BOX_REACH_DB, BISECTIONS = 4.0, 0.005, 0.15, 60.0, 12
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
    """Each school, set right, against the one that is chosen; outboard against the radio's own."""
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
    return told | _outboard(case, panel)


def _outboard(case: OnAir, panel: PanelState) -> dict[str, str]:
    """The radio's own compressor against a usual box before it, both by as much at peaks.

    Nothing where nothing is compressed, or where a box stands in the chain already: what the chain
    would be without it nobody has entered.
    """
    low, high = COMPRESSION[panel.compression]
    boxed = any(r.gear.compression() is not None for r in case.assessment.rows[:-1])
    if high == 0 or boxed or case.figures.fixed_gain:
        return {}
    own = cost_of(case, in_school(panel, processing="radio"))
    made = replace(case, volts=behind_a_box(case.volts, (low + high) / 2))
    box = cost_of(made, in_school(panel, processing="outboard"))
    return {"processing:radio": own.against(box), "processing:outboard": box.against(own)}


def behind_a_box(volts: Floats, by_db: float) -> Floats:
    """Volts behind a usual compressor whose threshold takes so much off at peaks; shape (n,).

    Its meter shows what is reached again and again, as the radio's does.
    """

    def gain_db(threshold_dbu: float) -> Floats:
        curve = Compression(threshold_dbu, BOX_RATIO, attack_s=BOX_ATTACK_S, release_s=BOX_FALLS_S)
        return compressed_db(volts, AUDIO_HZ, curve)

    top = dbu_from_volts(float(np.abs(volts).max()))
    low, high = top - BOX_REACH_DB, top
    for _ in range(BISECTIONS):
        middle = (low + high) / 2
        taken = float(np.quantile(-gain_db(middle), AGAIN))
        low, high = (middle, high) if taken > by_db else (low, middle)
    made: Floats = volts * 10 ** (gain_db((low + high) / 2) / 20)
    return made
