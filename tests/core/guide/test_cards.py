"""Settings cards: what they say, when they go stale, how they are compared and exported."""

import csv
import io

import pytest

from tests.core.radios import DEMO, knobs
from tonleiter.core.guide.cards import (
    about,
    card_of,
    cards_csv,
    cards_json,
    differences,
    holds,
    settings_of,
    state_words,
)
from tonleiter.core.setup.modes import scene_of, settled
from tonleiter.core.station import boxes, edits
from tonleiter.core.station.files import read_station, save_station
from tonleiter.core.station.records import NO_RECORDS, drop_card, keep_card
from tonleiter.core.station.settings import KNOBS, PanelState

# --- cards ---------------------------------------------------------------------------------------


def test_a_card_says_everything_and_is_marked_when_the_chain_changes(hf, tmp_path):
    scene = settled(hf, PanelState())
    card = card_of(scene, NO_RECORDS, "2026-05-02", tone=scene.tone)
    assert set(card.knobs) == {c.id for c in scene.controls}
    assert card.meters["alc"] == pytest.approx(scene.meter("alc").value, abs=1e-3)
    said = dict(settings_of(card))
    assert said["ALC aim"] == "middle to two thirds"
    assert (card.radio, card.voice) == ("20 W HF set", "deep voice")
    assert dict(about(card))["distance"] == "3 cm, across"
    assert len(said) == len(settings_of(card)), "each figure once, under a name of its own"
    assert holds(card, DEMO)
    records = keep_card(NO_RECORDS, card)
    again = card_of(scene, records, "2026-05-02")
    assert again.id != card.id
    save_station(DEMO, tmp_path / "kept.station", records=records)
    assert read_station(tmp_path / "kept.station").records.cards == (card,)
    assert drop_card(records, card.id).cards == ()


# what a card of the demo's HF chain stands on, and what it does not
STANDS_ON = {
    "distance": (lambda s: edits.change_chain(s, "hf-chat", distance_mm=60), False),
    "angle": (lambda s: edits.change_chain(s, "hf-chat", speaks="into-it"), False),
    "gain range": (lambda s: edits.change_gear(s, "hf-set", gain_range_db=50), False),
    "marking": (lambda s: edits.change_gear(s, "hf-set", marked_to=10), False),
    "what its socket wants": (lambda s: edits.change_gear(s, "hf-set", wants_dbu=-50), False),
    "ALC scale": (
        lambda s: boxes.change_device(s, "hf-20w", transmitter={"alc_full_db": 9}),
        False,
    ),
    "power": (lambda s: boxes.change_device(s, "hf-20w", power_w=50), False),
    "mixer's gain": (lambda s: edits.change_gear(s, "desk-mixer", gain_db=41), False),
    "the room": (lambda s: edits.change_station(s, room_noise_dba=50), False),
    "voice": (
        lambda s: edits.change_station(
            s, operators=tuple(o.model_copy(update={"effort": "loud"}) for o in s.operators)
        ),
        False,
    ),
    "a name": (lambda s: edits.change_gear(s, "hf-set", name="the old set"), True),
    "where a figure is from": (
        lambda s: edits.change_gear(
            s,
            "hf-set",
            z_in_ohm={"value": s.gear_by_id["hf-set"].z_in_ohm.value, "basis": "manual"},
        ),
        True,
    ),
    "a knob": (lambda s: edits.change_chain(s, "hf-chat", panel=knobs(gain=3)), True),
    "another chain": (lambda s: edits.change_chain(s, "fm-headset", distance_mm=90), True),
    "another radio": (lambda s: edits.change_gear(s, "fm-mobile", wants_dbu=-40), True),
}


@pytest.mark.parametrize("what", list(STANDS_ON))
def test_a_card_goes_stale_with_what_it_stands_on_and_with_nothing_else(hf, what):
    card = card_of(scene_of(hf, PanelState()), NO_RECORDS, "2026-05-02")
    change, still = STANDS_ON[what]
    assert holds(card, change(DEMO)) is still


def test_a_card_of_an_older_version_says_that_nobody_knows(hf):
    card = card_of(scene_of(hf, PanelState()), NO_RECORDS, "2026-05-02").but(basis="")
    assert holds(card, DEMO) is None
    assert "nobody knows" in state_words(card, DEMO)


def test_cards_are_compared_and_exported(hf):
    one = card_of(settled(hf, PanelState()), NO_RECORDS, "2026-05-02")
    other = card_of(scene_of(hf, knobs(gain=40)), keep_card(NO_RECORDS, one), "2026-05-03", "low")
    told = {name for name, _, _ in differences(one, other)}
    assert {"microphone gain", "ALC, read"} <= told
    assert "microphone" not in told
    assert differences(one, one) == ()
    rows = list(csv.reader(io.StringIO(cards_csv([one, other]))))
    assert len(rows) == 3
    assert rows[1][0] == one.name
    assert rows[0].index("microphone gain") > 0
    assert len(set(rows[0])) == len(rows[0])
    data = cards_json([one])[0]
    assert data["knobs"]["gain"] == one.knobs["gain"]


@pytest.mark.parametrize("knob", list(KNOBS))
def test_no_knob_leaves_its_scale(knob):
    low, high = KNOBS[knob].low, KNOBS[knob].high
    assert KNOBS[knob].held(low - 1e3) == low
    assert KNOBS[knob].held(high + 1e3) == high
    with pytest.raises(ValueError, match="on its scale"):
        PanelState(knobs={knob: high + 1})
