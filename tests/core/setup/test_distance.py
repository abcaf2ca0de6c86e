"""How far from the microphone, as an old hand says it.

Written first. In a quiet room nobody who is understood is moved. In a loud one: lips to it. A
directional capsule booms nearer than five centimetres: further off. One made to cancel noise hears
only what touches it. A line source has no lips.
"""

import pytest

from tonleiter.app.demo import shipped_demo
from tonleiter.core.setup.distance import advise_distance
from tonleiter.core.station import edits
from tonleiter.core.station.files import read_station

CHAT = "hf-chat"


def chat(mm=30.0, room=38.0, **mic):
    station = edits.change_chain(read_station(shipped_demo()).station, CHAT, shown="as-wired")
    station = edits.change_chain(station, CHAT, distance_mm=mm)
    station = edits.change_station(station, room_noise_dba=room)
    return edits.change_gear(station, "stage-dynamic", **mic) if mic else station


@pytest.mark.parametrize("school", ["natural", "communicator"])
@pytest.mark.parametrize("mm", [25.0, 30.0, 40.0])
@pytest.mark.long
def test_what_is_right_is_left_alone(school, mm):
    made = advise_distance(chat(mm), school)
    assert not made.moves
    assert made.says().startswith("The distance is right")


@pytest.mark.parametrize("school", ["natural", "communicator"])
def test_in_a_loud_room_lips_to_it_and_it_is_said_that_this_is_not_enough(school):
    made = advise_distance(chat(80.0, room=60.0), school)
    assert made.best.distance_mm <= 20
    assert not made.enough
    assert made.says().startswith("Nearer: 1.5 cm instead of 8")
    assert "the room is loud" in made.says()


def test_far_off_in_a_quiet_room_one_comes_as_near_as_it_takes():
    made = advise_distance(chat(150.0, room=38.0), "natural")
    assert 40 <= made.best.distance_mm <= 80, "further is more like the voice"
    nearer = advise_distance(chat(150.0, room=38.0), "communicator")
    assert nearer.best.distance_mm < made.best.distance_mm
    assert nearer.best.over_noise_db >= 37


@pytest.mark.parametrize("school", ["natural", "communicator"])
def test_a_directional_capsule_booms_near_by(school):
    made = advise_distance(chat(20.0, pattern="directional"), school)
    assert made.best.distance_mm >= 50 or not made.best.bad
    assert made.says().startswith("Further off")


@pytest.mark.parametrize("school", ["natural", "communicator"])
def test_one_that_cancels_noise_is_touched(school):
    made = advise_distance(chat(100.0, room=62.0, pattern="noise-cancelling"), school)
    assert made.best.distance_mm <= 20


@pytest.mark.long
def test_a_louder_room_never_sends_one_further_off():
    where = [
        advise_distance(chat(150.0, room=room), "natural").best.distance_mm
        for room in (30.0, 40.0, 50.0, 60.0)
    ]
    assert where == sorted(where, reverse=True)


def test_a_computer_has_no_lips(demo):
    assert advise_distance(edits.open_chain(demo, "hf-weak-data"), "natural") is None
