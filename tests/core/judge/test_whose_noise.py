"""Whose noise it is: hum and hiss are a box's only where it makes the larger part."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.station import edits

MIC = gear("dynamic-microphone", "mic")


def chain(room, ein_dbu, radio_ein=-118.0):
    equaliser = gear("graphic-equaliser", "equaliser", ein_dbu=ein_dbu)
    radio = gear("microphone-socket", "radio", ein_dbu=radio_ein, wants_dbu=-58)
    station = station_of(MIC, equaliser, radio)
    return assess(edits.change_station(station, room_noise_dba=room))


CASES = {
    # a microphone straight into an equaliser that hisses: that is what is heard
    "a noisy box in a quiet room": (20.0, -75.0, -118.0, "hum and hiss", ""),
    # a generator beside it drowns the box
    "a quiet box in a loud room": (75.0, -110.0, -118.0, "", "the room"),
    # a deaf radio behind it is the noise
    "a radio that hisses more": (20.0, -110.0, -70.0, "", "the radio"),
}


@pytest.mark.parametrize("name", list(CASES))
def test_noise_is_said_of_who_makes_most_of_it(name):
    room, ein, radio_ein, says, proof = CASES[name]
    found = chain(room, ein, radio_ein)
    (finding,) = [f for f in found.findings if f.code == "mic-into-line"]
    assert ("hum and hiss" in finding.says) is bool(says)
    assert proof in finding.proof
    if proof:
        assert "hiss" not in finding.says
