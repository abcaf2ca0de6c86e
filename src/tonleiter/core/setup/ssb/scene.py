"""Setting single sideband with a voice: what is sent, its guide, what listeners get of it."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.guide.schools import (
    ALC_WORDS,
    COMPRESSION_WORDS,
    PROCESSING_WORDS,
    TONE_WORDS,
    Offered,
)
from tonleiter.core.guide.step import Step
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.setup.ssb.base import SsbBase
from tonleiter.core.setup.ssb.findings import SPLATTER_DB, findings
from tonleiter.core.setup.ssb.steps import steps


class SsbScene(SsbBase):
    """Single sideband with a voice."""

    def own_steps(self) -> Iterator[Step]:
        """Distance, boxes outside, edges, gain, compression, tone, and the gain once more."""
        yield from steps(self)

    def own_findings(self) -> Iterator[Finding]:
        """Overload, splatter, the room, compressors in a row."""
        yield from super().own_findings()
        yield from findings(self)

    def listeners_get(self) -> str:
        """A clean signal, or what spoils it."""
        told, wide = self.result.judged, self.result.judged.width_hz / 1000
        alc = self.meter("alc")
        assert alc is not None and alc.danger_from is not None and alc.aim is not None
        if told.overloaded:
            return "The first stage of the set overloads: no knob of the radio helps."
        if alc.value >= alc.danger_from:
            return "The level control is pinned: it distorts."
        splatter = max(told.below_db, told.above_db)
        if splatter > SPLATTER_DB:
            return f"The neighbours hear it: {-splatter:.0f} dB under the signal beside it."
        if alc.value < alc.aim[0] - 1e-6:
            return f"The listeners get a quiet signal: {alc.says}."
        return f"The listeners get a clean signal, {wide:.1f} kHz wide."

    def off_says(self, step: Step) -> str:
        """As listeners or meters have it."""
        alc, reads = self.meter("alc"), self.result.alc_reads_db
        if step.meter == "alc" and alc is not None and alc.aim and alc.danger_from is not None:
            if reads < alc.aim[0]:
                return f"The ALC hardly moves: {alc.aim[0] - reads:.0f} dB are left lying"
            if reads >= alc.danger_from:
                return "The level control is pinned: that distorts"
            return f"The ALC works {reads - alc.aim[1]:.0f} dB harder than the aim"
        return {
            "compression": "Compression is not where the school has it",
            "tone": "The tone does not suit this voice yet",
            "edges": "The band's edges are those of the other sound",
        }.get(step.id, super().off_says(step))

    def offered(self) -> tuple[Offered, ...]:
        """The schools of single sideband."""
        panel = self.panel
        other = "3 to 5 dB" if panel.compression == "none" else "none"
        return (
            Offered("alc", "ALC aim", tuple(ALC_WORDS.items()), panel.alc, "the other aim"),
            Offered(
                "compression",
                "compression",
                tuple(COMPRESSION_WORDS.items()),
                panel.compression,
                other,
            ),
            Offered("tone", "tone", tuple(TONE_WORDS.items()), self.tone, "the other one"),
            Offered(
                "processing",
                "compressed by",
                tuple(PROCESSING_WORDS.items()),
                panel.processing,
                PROCESSING_WORDS["radio" if panel.processing == "outboard" else "outboard"],
                "way to compress as much",
            ),
        )
