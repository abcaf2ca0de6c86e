"""What a chain's solution rests on, and what it does not: one table for all who keep results."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.app.demo import shipped_demo
from tonleiter.core.judge.assess import assess
from tonleiter.core.station import boxes, edits, wirings
from tonleiter.core.station.basis import basis_of, chain_basis, stands
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState

DEMO = read_station(shipped_demo()).station
OF = ("hf-chat", "with-transformer")


def louder(station):
    return edits.change_station(
        station,
        operators=tuple(o.model_copy(update={"effort": "loud"}) for o in station.operators),
    )


def figure_from_the_manual(station):
    value = station.gear_by_id["hf-set"].z_in_ohm.value
    return edits.change_gear(
        station,
        "hf-set",
        z_in_ohm={"value": value, "basis": "measured", "measured_on": "2026-02-02"},
    )


# an edit; whether the basis is another one then, whether it sounds otherwise, is built otherwise
EDITS = {
    "a louder operator": (louder, True, True, False),
    "nearer": (lambda s: edits.change_chain(s, OF[0], distance_mm=15), True, True, False),
    "another purpose": (
        lambda s: edits.change_chain(s, OF[0], purpose="am-voice"),
        True,
        True,
        False,
    ),
    "a louder room": (lambda s: edits.change_station(s, room_noise_dba=60), True, True, False),
    "60 Hz mains": (lambda s: edits.change_station(s, mains_hz=60), True, True, False),
    "a socket's impedance": (
        lambda s: edits.change_gear(s, "hf-set", z_in_ohm=900),
        True,
        True,
        True,
    ),
    "a wire moved": (lambda s: wirings.land(s, *OF, "hf-20w.mic", "hot", "6"), True, True, True),
    "a wire's colour": (
        lambda s: wirings.dress(s, *OF, "isolator:hot", colour="green"),
        True,
        False,
        False,
    ),
    "a supply lead's resistance": (
        lambda s: boxes.change_link(s, "hf-supply", ohm=0.5),
        True,
        True,
        False,
    ),
    "a set's power": (lambda s: boxes.change_device(s, "hf-20w", power_w=5), True, True, True),
    "a name": (lambda s: edits.change_gear(s, "hf-set", name="old set"), True, False, False),
    "a note": (lambda s: edits.change_gear(s, "hf-set", notes="blue"), True, False, False),
    "the origin of a figure": (figure_from_the_manual, True, False, False),
    "the parts drawer": (
        lambda s: edits.change_station(s, drawer={"series": "E24"}),
        True,
        False,
        False,
    ),
    "a knob": (
        lambda s: edits.change_chain(s, OF[0], panel=PanelState(knobs={"gain": 7})),
        False,
        False,
        False,
    ),
    "another chain": (
        lambda s: edits.change_chain(s, "fm-headset", distance_mm=99),
        False,
        False,
        False,
    ),
    "a radio elsewhere": (
        lambda s: edits.change_gear(s, "fm-mobile", wants_dbu=-44),
        False,
        False,
        False,
    ),
    "which chain is open": (lambda s: edits.open_chain(s, "fm-headset"), False, False, False),
}


@pytest.mark.parametrize("what", list(EDITS))
def test_a_basis_changes_with_what_it_is_made_of(what):
    change, other, sounds, built = EDITS[what]
    before, after = basis_of(DEMO, *OF), basis_of(change(DEMO), *OF)
    assert (before != after) == other
    assert (before.sound != after.sound) == sounds
    assert (before.build != after.build) == built


@pytest.mark.parametrize("what", [w for w, (_, other, *_) in EDITS.items() if not other])
def test_what_is_no_part_of_a_basis_moves_no_level(what):
    """The proof of the table: the whole solution is the same where the basis is."""
    before, after = assess(DEMO, *OF), assess(EDITS[what][0](DEMO), *OF)
    assert [r.speech_dbu for r in before.rows] == [r.speech_dbu for r in after.rows]
    assert [r.hum_dbu for r in before.rows] == [r.hum_dbu for r in after.rows]


def test_a_chain_that_stays_plugged_in_is_part_of_the_others_that_share_a_box():
    both, single = (
        edits.change_chain(DEMO, "hf-weak-data", stays_plugged=s) for s in (True, False)
    )
    assert basis_of(both, *OF) != basis_of(single, *OF)
    moved = edits.change_gear(both, "usb-box-out", z_out_ohm=75)
    assert basis_of(moved, *OF) != basis_of(both, *OF)


def test_a_lead_far_away_that_joins_nothing_of_the_chain_is_no_part():
    chain = station_of(gear("dynamic-microphone", "mic"), gear("microphone-socket", "radio"))
    data = chain.model_dump(mode="json")
    data["devices"] += [{"id": "a", "name": "a"}, {"id": "b", "name": "b"}]
    alone = Station.model_validate(data)
    data["links"] = [{"id": "ab", "name": "ab", "kind": "usb", "a": "a", "b": "b"}]
    joined = Station.model_validate(data)
    assert basis_of(alone) == basis_of(joined)
    data["links"] = [{"id": "rb", "name": "rb", "kind": "usb", "a": "radio", "b": "b"}]
    assert basis_of(alone) != basis_of(Station.model_validate(data))


def test_a_station_without_chains_has_none():
    empty = edits.change_station(DEMO, chains=(), open_chain=None)
    assert chain_basis(empty) is None
    assert stands(empty, *OF) is None
    assert stands(DEMO, OF[0], "gone") is None
    assert stands(DEMO, *OF).id == OF[0]
