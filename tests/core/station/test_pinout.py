"""Which contact carries what, where a plug has several of a kind: as it is soldered by hand."""

import pytest

from tests.conftest import gear
from tests.core.desks import looped
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import end_of

# a box with its output and its line input on one plug
JACK = {
    "tip": "audio-out",
    "ring 1": "microphone",
    "ring 2": "audio-ground",
    "sleeve": "microphone-ground",
}
# a radio's plug with everything on it
ALL = {
    "1": "microphone",
    "2": "microphone-ground",
    "3": "transmit",
    "4": "audio-out",
    "5": "audio-ground",
    "6": "data-in",
    "7": "data-ground",
    "8": "data-out",
}


def plugged(box, ports, contacts, shell):
    """A desk's station with one plug for these sockets of a box."""
    data = looped().model_dump(mode="json")
    for device in data["devices"]:
        if device["id"] == box:
            device["connectors"] = [
                {
                    "id": "all",
                    "name": "ALL",
                    "shell": shell,
                    "ports": ports,
                    "contacts": [{"label": k, "role": r} for k, r in contacts.items()],
                }
            ]
    return Station.model_validate(data)


def lands(station, piece, side="plug"):
    end = end_of(station, station.gear_by_id[piece], False, side)
    assert not end.guessed
    legs = ("hot", "cold", "transmit-ground")
    return [None if (c := end.contact_of(leg)) is None else c.label for leg in legs]


def test_an_input_beside_an_output_takes_the_contact_that_is_its_own():
    """The other one is the box's output: two outputs would meet there."""
    both = plugged("box", ["box-out", "box-in"], JACK, "jack-3.5-four")
    assert lands(both, "box-out")[:2] == ["tip", "ring 2"]
    assert lands(both, "box-in")[:2] == ["ring 1", "sleeve"]


def test_what_is_only_listened_to_has_its_contact_called_by_what_the_radio_gives():
    phones = {"tip": "audio-out", "sleeve": "audio-ground"}
    alone = plugged("box", ["box-in"], phones, "jack-3.5-mono")
    assert lands(alone, "box-in")[:2] == ["tip", "sleeve"]


@pytest.mark.parametrize(("piece", "hot", "ground"), [("rig-in", "6", "7"), ("rig-ear", "4", "5")])
def test_each_sound_of_a_plug_with_everything_comes_back_by_its_own_ground(piece, hot, ground):
    rig = plugged("rig", ["rig-in", "rig-ear"], ALL, "round-8")
    assert lands(rig, piece)[:2] == [hot, ground]


def test_a_microphone_takes_the_microphone_s_contacts_of_it():
    data = plugged("rig", ["rig-in", "rig-ear"], ALL, "round-8").model_dump(mode="json")
    spoken = gear("microphone-socket", "spoken", supply="lead")
    data["gear"].append(spoken)
    rig = next(d for d in data["devices"] if d["id"] == "rig")
    rig["ports"].append("spoken")
    rig["connectors"][0]["ports"].append("spoken")
    station = Station.model_validate(data)
    assert lands(station, "spoken") == ["1", "2", "2"]


@pytest.mark.parametrize(
    ("contacts", "wanted"),
    [
        # balanced: hot, cold and a ground of its own
        ({"1": "microphone", "2": "cold", "3": "microphone-ground", "4": "transmit"}, "3"),
        ({"1": "microphone", "2": "cold", "3": "screen", "4": "transmit"}, "3"),
        ({"1": "microphone", "2": "cold", "3": "transmit-ground", "4": "transmit"}, "3"),
        ({"1": "microphone", "2": "cold", "3": "free", "4": "transmit"}, "2"),
    ],
)
def test_the_switch_never_comes_back_by_the_cold_wire_where_there_is_a_ground(contacts, wanted):
    rig = plugged("rig", ["rig-in"], contacts, "round-4")
    assert lands(rig, "rig-in")[2] == wanted
