"""Settings cards: what is written on one, how two differ, as JSON and CSV."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from typing import Any

from tonleiter.core.setup.scene import Scene
from tonleiter.core.setup.schools import ALC_WORDS, COMPRESSION_WORDS, TONE_WORDS
from tonleiter.core.setup.ssb import tone_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KnobId, SettingsCard

KNOB_WORDS: dict[KnobId, str] = {
    "gain": "microphone gain", "compression": "compression", "bass": "bass", "treble": "treble",
    "low": "low edge, Hz", "high": "high edge, Hz", "power": "power, %",
    "deviation": "deviation, Hz", "level": "computer's level, dB", "tone": "transmit tone, Hz",
}  # fmt: skip


def card_of(
    scene: Scene, station: Station, day: str, name: str = "", own: bool = False
) -> SettingsCard:
    """A card of a panel as it stands, with an id that the station has not yet.

    With an ``own`` radio it says what was read there; what was not read is not said.
    """
    compiled = scene.case.assessment.solution.compiled
    chain, variant = compiled.chain, compiled.variant
    operator = station.operator(chain.operator)
    title = name or f"{chain.name}, {operator.name}"
    base = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:40] or "card"
    taken = {c.id for c in station.cards}
    made, count = base, 2
    while made in taken:
        made, count = f"{base}-{count}", count + 1
    panel = scene.panel
    schools = {}
    if scene.case.mode == "ssb":
        schools = {"ALC": ALC_WORDS[panel.alc], "tone": TONE_WORDS[tone_of(scene.case, panel)],
                   "compression": COMPRESSION_WORDS[panel.compression]}  # fmt: skip
    distance = f"{chain.distance_mm.value / 10:g} cm, {chain.speaks.removesuffix('-it')}"
    return SettingsCard(
        id=made, name=title, day=day, chain=chain.name, variant=variant.name,
        purpose=chain.purpose_facts.title, radio=scene.case.radio,
        microphone=scene.case.assessment.rows[0].name, voice=operator.name,
        distance=distance,
        knobs={c.id: c.value for c in scene.controls},
        meters=_meters(scene, own), schools=schools, chain_id=chain.id,
        made_with=scene.case.fingerprint,
    )  # fmt: skip


def _meters(scene: Scene, own: bool) -> dict[str, str]:
    if not own:
        return {m.title: m.says for m in scene.meters}
    read = scene.panel.readings
    return {m.title: read[m.id] for m in scene.meters if m.id in read}


def is_of(card: SettingsCard, scene: Scene) -> bool:
    """Whether a card was made with the chain as it is now."""
    return card.made_with == scene.case.fingerprint


def differences(one: SettingsCard, other: SettingsCard) -> tuple[tuple[str, str, str], ...]:
    """What stands otherwise on two cards: its name, and what either says."""
    found = []
    for field, title in (("radio", "radio"), ("microphone", "microphone"), ("voice", "voice"),
                         ("distance", "distance"), ("variant", "variant"),
                         ("purpose", "purpose")):  # fmt: skip
        a, b = getattr(one, field), getattr(other, field)
        if a != b:
            found.append((title, a, b))
    knobs: KnobId
    for knobs in KNOB_WORDS:
        a, b = one.knobs.get(knobs), other.knobs.get(knobs)
        if a != b:
            found.append((KNOB_WORDS[knobs], _figure(a), _figure(b)))
    for meter in dict.fromkeys((*one.meters, *other.meters)):
        a, b = one.meters.get(meter, "–"), other.meters.get(meter, "–")
        if a != b:
            found.append((meter, a, b))
    return tuple(found)


def _figure(value: float | None) -> str:
    return "–" if value is None else f"{value:g}".replace("-", "−")


def cards_json(cards: Iterable[SettingsCard]) -> list[dict[str, Any]]:
    """As plain data."""
    return [c.model_dump(mode="json", exclude_none=True) for c in cards]


def cards_csv(cards: Iterable[SettingsCard]) -> str:
    """A line for each card, a column for each knob and meter that any of them has."""
    every = list(cards)
    meters = list(dict.fromkeys(m for c in every for m in c.meters))
    knobs = [k for k in KNOB_WORDS if any(k in c.knobs for c in every)]
    file = io.StringIO()
    out = csv.writer(file, lineterminator="\n")
    out.writerow(["name", "day", "radio", "microphone", "voice", "distance", "purpose", "chain",
                  "variant", *(KNOB_WORDS[k] for k in knobs), *meters])  # fmt: skip
    for c in every:
        out.writerow([c.name, c.day, c.radio, c.microphone, c.voice, c.distance, c.purpose, c.chain,
                      c.variant, *(f"{c.knobs[k]:g}" if k in c.knobs else "" for k in knobs),
                      *(c.meters.get(m, "") for m in meters)])  # fmt: skip
    return file.getvalue()
