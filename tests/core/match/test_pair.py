"""What a pair takes, against the solved circuit and sums done by hand."""

import math

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.match.pair import match_pair
from tonleiter.core.match.terms import Terms, lead_for, pair_station, usual_terms

DYNAMIC = gear("dynamic-microphone", "dynamic", coil_ohm=300)
ELECTRET = gear("electret-2-wire", "electret")
CARBON = gear("carbon-microphone", "carbon")
PIEZO = gear("piezo-microphone", "piezo", capacitance_f="1.5n")
CONDENSER = gear("phantom-condenser", "condenser")
PLAYER = gear("line-source", "player", z_out_ohm=100, supply="battery")
BRIDGE = gear("loudspeaker-output", "speaker", output="bridged")
PLAIN = gear("microphone-socket", "plain", z_in_ohm=600)
BIASED = gear("microphone-socket", "biased", z_in_ohm=600, bias_v=8, bias_ohm=1100)
OPEN = gear("microphone-socket", "open", z_in_ohm=100e3)
DATA = gear("data-socket", "data")
COMPUTER = gear("line-input", "computer", supply="safety-earth")


def pair(source, socket, purpose="ssb-chat"):
    station = station_of(source, socket, purpose=purpose)
    return match_pair(station, *station.gear, Terms(purpose, "op", 25.0))


def takes(found):
    return [t.what for t in found.takes]


@pytest.mark.parametrize(
    "source, socket, first",
    [
        (ELECTRET, PLAIN, "bias"),
        (CARBON, BIASED, "current"),
        (DYNAMIC, BIASED, "block"),
        (CONDENSER, PLAIN, "phantom"),
        (BRIDGE, COMPUTER, "isolate"),
        (PLAYER, PLAIN, "pad"),
        (DYNAMIC, OPEN | {"wants_dbu": -35, "gain_range_db": 14, "clip_dbu": -10}, "gain"),
    ],
)
def test_what_comes_first(source, socket, first):
    assert takes(pair(source, socket))[0] == first


def test_an_electret_on_a_biased_pin_is_plugged_in():
    found = pair(ELECTRET, BIASED | {"wants_dbu": -50, "clip_dbu": -20})
    assert found.verdict == "plug-in"
    assert found.words() == f"plug in, gain at {found.knob.mark}"


def test_the_pad_brings_the_level_to_the_middle_of_the_window():
    found = pair(PLAYER, PLAIN)
    pad = next(t for t in found.takes if t.what == "pad")
    # full scale 6.2 dBu, program 20 dB below it, 100 ohm and 0.2 ohm of lead into 600
    speech = 6.2 - 20 + 20 * math.log10(600 / 700.2)
    assert found.speech_dbu == pytest.approx(speech, abs=0.2)
    assert pad.db == pytest.approx(-53 - speech, abs=0.2)
    assert pad.words == f"needs a pad of {-pad.db:.0f} dB"
    assert found.verdict == "small-parts"


def test_bass_that_a_crystal_loses_is_named_by_its_corner():
    found = pair(PIEZO, PLAIN | {"z_in_ohm": 470e3})
    bass = next(t for t in found.takes if t.what == "buffer")
    # 1.5 nF and 240 pF of lead into 470 kohm: 1/(2πRC) with the lead beside the load
    corner = 1 / (2 * math.pi * 470e3 * (1.5e-9 + 0.24e-9))
    assert found.bass_corner_hz == pytest.approx(corner, rel=0.03)
    assert bass.words in ("loses bass below 190 Hz", "loses bass below 200 Hz")


def test_presence_of_a_crystal_into_a_low_load_by_its_corner():
    found = pair(PIEZO, PLAIN | {"z_in_ohm": 47e3})
    corner = 1 / (2 * math.pi * 47e3 * (1.5e-9 + 0.24e-9))
    rises = 10 * math.log10((1 + (corner / 500) ** 2) / (1 + (corner / 2000) ** 2))
    assert found.presence_db == pytest.approx(rises, abs=0.3)
    flat = pair(DYNAMIC | {"coil_h": 1e-6}, OPEN)
    assert flat.presence_db == pytest.approx(0.0, abs=0.1)


def test_data_is_aimed_below_the_middle_where_nothing_works_the_level_control():
    chat = pair(PLAYER, PLAIN)
    data = pair(PLAYER, PLAIN, purpose="data-weak")
    # two tones have smaller peaks than speech, and may run higher by as much
    peaks = 14.0 - 6.02
    assert data.takes[0].db - chat.takes[0].db == pytest.approx(-2.0 + peaks, abs=0.1)


def test_level_of_a_dead_microphone_is_judged_once_it_is_fed():
    found = pair(ELECTRET, OPEN)
    assert found.speech_dbu > -70
    assert found.snr_db > 30


def test_microphones_carry_no_data():
    found = pair(DYNAMIC, DATA, purpose="packet")
    assert found.verdict == "not-worth-it"
    assert "no data" in found.words()


def test_what_is_too_far_off_is_not_worth_it():
    deaf = OPEN | {"wants_dbu": 15, "gain_range_db": 14, "clip_dbu": 30}
    found = pair(DYNAMIC, deaf)
    assert found.verdict == "not-worth-it"
    assert "dB short" in found.words()


def test_a_pair_is_what_its_ladder_shows():
    station = station_of(DYNAMIC, OPEN)
    source, socket = station.gear
    terms = usual_terms(station)
    shown = assess(pair_station(station, (source, lead_for(source), socket), terms)).rows[-1]
    found = match_pair(station, source, socket, terms)
    assert found.speech_dbu == shown.speech_dbu
    assert found.snr_db == shown.snr_db


def test_a_source_with_two_legs_gets_a_lead_with_two_cores(demo):
    station = station_of(DYNAMIC | {"output": "balanced"}, OPEN)
    assert lead_for(station.gear[0]).form == "two-core"
    assert lead_for(demo.gear_by_id["stage-dynamic"]).form == "one-core"


def test_terms_come_from_the_open_chain_or_the_operator_asked_for(demo):
    assert usual_terms(demo) == Terms("ssb-chat", "deep-voice", 30.0)
    assert usual_terms(demo, "packet", "high-voice") == Terms("packet", "high-voice", 40.0)
    with pytest.raises(KeyError):
        usual_terms(demo, None, "nobody")
