"""Steps of single sideband: distance, boxes, edges, gain, compression, tone, the gain again."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.guide.before import distance, outboard
from tonleiter.core.guide.controls import Control, at
from tonleiter.core.guide.gain import hundredths, level_step
from tonleiter.core.guide.schools import (
    COMPRESSION,
    COMPRESSION_WORDS,
    TONE_WORDS,
)
from tonleiter.core.guide.step import AIR, Move, Step, turn
from tonleiter.core.setup.ssb.base import SsbBase

_SPEAK = (
    "Say “la-bo-ra-to-ry” as you would in a chat, and turn until the ALC stands between the"
    " brackets."
)


def steps(scene: SsbBase) -> Iterator[Step]:
    """Distance, boxes outside, edges, gain, compression, tone, and the gain once more."""
    yield distance(scene.case)
    yield from outboard(scene.case)
    yield _edges(scene)
    yield _gain(scene, "gain", "Microphone gain")
    yield _compression(scene)
    yield _tone(scene)
    if at(scene.panel, "compression") > 0 or at(scene.panel, "bass") != 0:
        yield _gain(scene, "again", "Check the gain again")
    else:
        yield Step("again", "Check the gain again", "", "after the rest", None)


def _knobs(scene: SsbBase, *names: str) -> tuple[Control, ...]:
    return tuple(c for c in scene.controls if c.id in names)


def _edges(scene: SsbBase) -> Step:
    low, high = _knobs(scene, "low", "high")
    natural = scene.tone == "natural"
    why = (
        "warmth below costs nobody anything while the band is quiet"
        if natural
        else "power that nobody needs to understand you is left out"
    )
    return turn(
        "edges",
        "Band edges",
        f"Set what is sent for a {TONE_WORDS[scene.tone]} sound.",
        (low, high),
        why,
        f"{low.value:.0f} to {high.value:.0f} Hz",
        move_says=f"To {low.target():.0f} and {high.target():.0f} Hz.",
    )


def _gain(scene: SsbBase, name: str, title: str) -> Step:
    knob, reads = scene.control("gain"), scene.reads("alc", scene.result.alc_reads_db)
    full = scene.case.figures.alc_full_db
    if reads is None:
        return Step(
            name,
            title,
            _SPEAK,
            "read your ALC meter",
            Move(
                "Type what your ALC meter shows, in per cent of its scale.",
                "the next move is reckoned from that",
                asks=True,
            ),
            ("gain",) if knob is not None else (),
            "alc",
            caution=AIR,
        )
    low, high = scene.alc_zone
    share = min(max(reads, 0) / full, 1)
    fits = low - 1e-6 <= reads <= high + 1e-6
    reading = reads if scene.alc_reading is None else scene.alc_reading
    edge = (
        f"the aim starts at {low / full:.0%}"
        if reads < low
        else f"the aim ends at {high / full:.0%}"
    )
    reached = (
        "the meter is pinned" if reads >= full else f"the meter reaches {share:.0%} on your words"
    )
    stands = f"It stands at {knob.said()}; " if knob is not None else ""
    return level_step(
        scene.case,
        name,
        title,
        _SPEAK,
        knob,
        0.0 if fits else (low + high) / 2 - reading,
        f"{stands}{reached}, {edge}.",
        f"ALC {share:.0%} of its scale",
        "alc",
        AIR,
        scene.lost("alc", knob, hundredths(scene.case), full),
    )


def _compression(scene: SsbBase) -> Step:
    (knob,) = _knobs(scene, "compression")
    title, panel = "Compression", scene.panel
    outside = panel.processing == "outboard" or scene.compresses_before
    low, high = COMPRESSION[panel.compression]
    if outside or high == 0:
        shown = "off" if knob.value > 0 else "outside" if outside else "none"
        why = (
            "two in a row are the commonest cause of ugly signals"
            if outside
            else "pauses stay quiet, ears stay fresh"
        )
        said = (
            "Off: the box before the radio compresses already."
            if outside
            else "Off, for a long chat."
        )
        return turn(
            "compression",
            title,
            "",
            (knob,),
            why,
            knob.said() if knob.value > 0 else shown,
            "compression",
            move_says=said,
        )
    says = f"Turn until its meter shows {COMPRESSION_WORDS[panel.compression]} at peaks."
    reads = scene.reads("compression", scene.result.judged.compression_db)
    if reads is None:
        return Step(
            "compression",
            title,
            says,
            "read its meter",
            Move(
                "Type what your compression meter shows, in dB.",
                "it may lie behind a switch",
                asks=True,
            ),
            ("compression",),
            "compression",
        )
    waits = "its level comes first" if scene.level_held else ""
    return turn(
        "compression",
        title,
        says,
        (knob,),
        f"It reads {reads:.0f} dB, the aim is {low:.0f} to {high:.0f}.",
        waits or f"{reads:.0f} dB at peaks",
        "compression",
        "If its meter does not move, the gain before it is too low.",
    )


def _tone(scene: SsbBase) -> Step:
    bass, treble = _knobs(scene, "bass", "treble")
    says = {
        "deep": "A deep voice wants less bass and a little treble.",
        "high": "A high voice wants some bass and less treble.",
        "middle": "A voice in the middle wants little.",
    }[scene.case.pitch]
    if scene.panel.shelves_db is not None:
        says = "Bass and treble as they were found by trying for this voice."
    shown = f"bass {bass.value:+.0f}, treble {treble.value:+.0f}"
    return turn(
        "tone",
        "Tone for this voice",
        says,
        (bass, treble),
        says,
        shown.replace("-", "−").replace("+0", "0"),
    )
