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


def test_a_loop_over_usb_is_called_so_though_nobody_entered_leads():
    """A laptop fed over USB and a radio fed over USB: what joins them is the computer's earth."""
    pc = gear("line-source", "laptop", supply="usb-computer")
    lead = gear("cable", "lead", length_m=2)
    radio = gear("data-socket", "radio", supply="usb-computer")
    found = assess(station_of(pc, lead, radio, purpose="data-weak"))
    (finding,) = [f for f in found.findings if f.code == "earth-loop"]
    assert finding.says.startswith("A loop over USB hums: the laptop and the radio hang on")


def test_a_level_that_is_hardly_off_is_not_said_to_be_nothing_off():
    """Three tenths of a decibel out of a gain's reach are not 0 dB."""
    for sensitivity in (0.30, 0.31, 0.32, 0.33, 0.34, 0.35):
        mic = gear("dynamic-microphone", "mic", sensitivity_mv_per_pa=sensitivity)
        found = assess(station_of(mic, gear("microphone-socket", "radio", wants_dbu=-47)))
        assert not any("0 dB off" in f.says for f in found.findings)
