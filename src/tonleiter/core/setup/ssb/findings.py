"""What is wrong with a voice on single sideband: splatter, the room, compressors in a row."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.guide.scene import ON_THE_PANEL
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.lips import nearer_mm
from tonleiter.core.judge.findings.model import TURN, Finding, Fix
from tonleiter.core.radio.measures import Judged
from tonleiter.core.setup.ssb.base import SsbBase
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station

SPLATTERS = declare("neighbours-hear-it", ON_THE_PANEL)
ROOM_UP = declare("room-between-words", ON_THE_PANEL)
TWICE = declare("compressed-twice", ON_THE_PANEL)
ONCE = declare("one-compressor", ON_THE_PANEL)
# splatter that a neighbour hears, gaps that listeners hear, against the signal itself
SPLATTER_DB, GAPS_DB = -30.0, 24.0
# of the room, where one speaks from as near as one should
AS_NEAR = "one speaks as near as one should: less compression, or a quieter room, is left"


def findings(scene: SsbBase) -> Iterator[Finding]:
    """Splatter, the room, compressors in a row."""
    told = scene.result.judged
    splatter = max(told.below_db, told.above_db)
    if splatter > SPLATTER_DB:
        yield scene.finding(
            SPLATTERS,
            "mind",
            "neighbours",
            f"A neighbour hears you {-splatter:.0f} dB under the signal itself",
            "the level control lets syllables through to the power stage"
            if scene.result.alc_reads_db > scene.alc_zone[1]
            else "products of its own power stage: less drive makes fewer",
            {"below_db": told.below_db, "above_db": told.above_db},
        )
    if told.gaps_db < GAPS_DB:
        yield _between_words(scene, told)
    if scene.compresses_before and told.compression_db > 1:
        off = scene.turned(
            "Turn the radio's own off", {"compression": 0.0}, "the one outside stays"
        )
        yield scene.finding(
            TWICE,
            "mind",
            "compressors",
            "Two compressors work in a row",
            "one before the radio, one in it: the usual cause of ugly signals",
            {"compression_db": told.compression_db},
            (off,),
        )
    if not scene.compresses_before:
        proof = "nothing before it does" if told.compression_db > 1 else "and it is off or at rest"
        yield scene.finding(
            ONCE,
            "fine",
            "one compressor",
            "Only the radio compresses",
            proof,
            {"compression_db": told.compression_db},
        )


def _between_words(scene: SsbBase, told: Judged) -> Finding:
    """What comes up between words: hum or the room, by which the solution has more of."""
    radio = scene.case.assessment.rows[-1]
    hums = radio.hum_dbu is not None and radio.hum_dbu > radio.noise_dbu
    up = told.compression_db
    why = f"compression lifts it {up:.0f} dB; " if up > 1 else ""
    nearer = () if hums else _closer(scene)
    what, helps = (
        ("hum", "the Ladder (3) says which loop makes it")
        if hums
        else ("the room", "halving the distance gains up to 6 dB" if nearer else AS_NEAR)
    )
    return scene.finding(
        ROOM_UP,
        "mind",
        "hum" if hums else "room",
        f"Between words {what} comes up to {told.gaps_db:.0f} dB under speech",
        f"{why}{helps}",
        {"gaps_db": told.gaps_db},
        nearer,
    )


def _closer(scene: SsbBase) -> tuple[Fix, ...]:
    mm, chain_id = scene.case.basis.distance_mm, scene.case.basis.chain
    nearer = nearer_mm(mm, round(mm / 2), scene.case.assessment.rows[0].gear)
    if nearer is None:
        return ()

    def closer(station: Station) -> Station:
        return edits.change_chain(station, chain_id, distance_mm=nearer)

    return (Fix(f"See it from {nearer:g} mm", closer, "speech rises, the room does not", TURN),)
