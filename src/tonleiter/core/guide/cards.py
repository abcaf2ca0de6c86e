"""Settings cards: made of a scene, put into words, compared, as JSON and CSV.

A card holds figures and tokens; every word on it is made here, from what knobs and meters are
called and the schools' words, so that a card of last year reads like one of today.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from tonleiter.core.guide.controls import Control
from tonleiter.core.guide.meters import read_meters
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.schools import ALC_WORDS, COMPRESSION_WORDS, PROCESSING_WORDS, TONE_WORDS
from tonleiter.core.station.basis import basis_of, stands
from tonleiter.core.station.card import Schools, SettingsCard
from tonleiter.core.station.edits import fresh_id
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PURPOSES
from tonleiter.core.station.records import Records
from tonleiter.core.station.settings import KNOBS, METERS, KnobId, MeterId, ToneSchool

Line = tuple[str, str]


def card_of(
    scene: Scene,
    records: Records,
    day: str,
    name: str = "",
    own: bool = False,
    tone: ToneSchool | None = None,
) -> SettingsCard:
    """A card of a panel as it stands, with an id that the records have not yet.

    With an ``own`` radio it says what was read there; what was not read is not said.
    """
    case = scene.case
    basis, panel = case.basis, scene.panel
    title = (name or f"{basis.chain_name}, {basis.operator.name}")[:80]
    voice = scene.mode == "ssb"
    return SettingsCard(
        id=fresh_id({c.id for c in records.cards}, title),
        name=title,
        day=day,
        chain_id=basis.chain,
        variant_id=basis.variant,
        basis=basis.sound,
        chain=basis.chain_name,
        variant=basis.variant_name,
        radio=case.radio,
        microphone=case.assessment.rows[0].name,
        voice=basis.operator.name,
        purpose=basis.purpose,
        distance_mm=basis.distance_mm,
        speaks=basis.speaks,
        marked_to=case.figures.marked_to,
        knobs={c.id: c.value for c in scene.controls},
        meters=read_meters(scene.meters, scene.panel.readings)
        if own
        else {m.id: round(m.value, 3) for m in scene.meters},
        schools=Schools(
            alc=panel.alc,
            compression=panel.compression,
            tone=tone or panel.tone,
            processing=panel.processing,
        )
        if voice
        else Schools(),
    )


def holds(card: SettingsCard, station: Station) -> bool | None:
    """Whether the chain is still as it was when a card was made; None where nobody can say.

    Every card of the station can be asked, not only those of the open chain.
    """
    if not card.basis:
        return None
    variant = card.variant_id
    if variant is None or stands(station, card.chain_id, variant) is None:
        return False
    return basis_of(station, card.chain_id, variant).sound == card.basis


def state_words(card: SettingsCard, station: Station) -> str:
    """What is to be said of a card's age; empty for one that holds."""
    held = holds(card, station)
    if held is None:
        return "It is of an older version: nobody knows whether the chain was changed since."
    return "" if held else "The chain was changed since this card was made."


# --- in words ------------------------------------------------------------------------------------


def knob_said(card: SettingsCard, knob: KnobId) -> str:
    """A knob's figure as it is printed on the radio."""
    face = replace(KNOBS[knob], unit="")
    marked = card.marked_to if knob == "gain" else 100.0
    return Control(knob, face, card.knobs[knob], marked_to=marked).said()


def knob_title(knob: KnobId) -> str:
    """A knob with the unit of its figure."""
    face = KNOBS[knob]
    return f"{face.title}, {face.unit}" if face.unit else face.title


def meter_said(meter: MeterId, value: float) -> str:
    """A meter's figure with its unit."""
    digits = 2 if METERS[meter].unit == "kHz" else 1 if value < 10 else 0
    return f"{value:.{digits}f} {METERS[meter].unit}"


def meter_title(meter: MeterId) -> str:
    """A meter, told from the knob of the same name."""
    return f"{METERS[meter].title}, read"


def about(card: SettingsCard) -> tuple[Line, ...]:
    """What a card was made with."""
    lines = [("radio", card.radio), ("microphone", card.microphone), ("voice", card.voice)]
    if card.distance_mm is not None:
        tail = f", {card.speaks.removesuffix('-it')}" if card.speaks else ""
        lines.append(("distance", f"{card.distance_mm / 10:g} cm{tail}"))
    lines.append(("variant", card.variant))
    if card.purpose is not None:
        lines.append(("purpose", PURPOSES[card.purpose].title))
    return tuple(lines)


def schools_of(card: SettingsCard) -> tuple[Line, ...]:
    """The schools that it was set by."""
    s = card.schools
    found = (
        ("ALC aim", s.alc and ALC_WORDS[s.alc]),
        ("tone", s.tone and TONE_WORDS[s.tone]),
        ("compression aim", s.compression and COMPRESSION_WORDS[s.compression]),
        ("compressed by", s.processing and PROCESSING_WORDS[s.processing]),
    )
    return tuple((title, words) for title, words in found if words)


def settings_of(card: SettingsCard) -> tuple[Line, ...]:
    """Knobs, meters and schools, each once."""
    knobs = [(knob_title(k), knob_said(card, k)) for k in KNOBS if k in card.knobs]
    meters = [(meter_title(m), meter_said(m, card.meters[m])) for m in METERS if m in card.meters]
    return (*knobs, *meters, *card.said.items(), *schools_of(card))


def differences(one: SettingsCard, other: SettingsCard) -> tuple[tuple[str, str, str], ...]:
    """What stands otherwise on two cards: its name, and what either says."""
    a, b = (dict((*about(c), *settings_of(c))) for c in (one, other))
    return tuple(
        (title, a.get(title, "–"), b.get(title, "–"))
        for title in dict.fromkeys((*a, *b))
        if a.get(title) != b.get(title)
    )


def cards_json(cards: Iterable[SettingsCard]) -> list[dict[str, Any]]:
    """As plain data."""
    return [c.model_dump(mode="json", exclude_none=True) for c in cards]


def cards_csv(cards: Iterable[SettingsCard]) -> str:
    """A line for each card, a column for each knob and meter that any of them has."""
    every = list(cards)
    told = [
        dict((("name", c.name), ("day", c.day), ("chain", c.chain), *about(c), *settings_of(c)))
        for c in every
    ]
    columns = list(dict.fromkeys(title for one in told for title in one))
    file = io.StringIO()
    out = csv.writer(file, lineterminator="\n")
    out.writerow(columns)
    out.writerows([one.get(title, "") for title in columns] for one in told)
    return file.getvalue()
