"""What the inspector says of a stage: lines against sums done by hand, and when they are there."""

import math

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.report.results import pad_choices, stage_results, voice_results
from tonleiter.core.station import edits
from tonleiter.core.units.levels import dbu_from_volts, format_dbu, format_volts

MIC = gear("dynamic-microphone", "mic", sensitivity_mv_per_pa=2.0, coil_ohm=200, coil_h=1e-6)
RADIO = gear("microphone-socket", "radio", z_in_ohm=600, supply="battery")
PAD = gear("l-pad", "pad", series_ohm=900, shunt_ohm=100)
ELECTRET = gear("electret-2-wire", "electret", current_a="0.3m")
FEED = gear("bias-feed", "feed", supply_v=9, resistor_ohm=10e3)
BIASED = gear(
    "microphone-socket", "biased", z_in_ohm=600, bias_v=8, bias_ohm=2200, supply="battery"
)


def lines(assessment, index):
    """By name; the line below a level has no name of its own."""
    return {line.name: line.value for line in stage_results(assessment, index)}


def test_a_pad_between_200_and_600_ohm():
    found = assess(station_of(MIC, PAD, RADIO))
    at = lines(found, 1)
    # 100 ∥ 600 behind 900 and 200: 85.7 of 1185.7 against an open source on 985.7 of 1185.7
    lower = 100 * 600 / 700
    loss = dbu_from_volts(lower / (900 + lower)) - dbu_from_volts(1.0)
    assert at["Loss, loaded"] == f"{loss:.1f} dB".replace("-", "−")
    assert at["Seen by mic"] == "986 Ω"
    # looking back: 100 beside 1100
    assert at["Seen by radio"] == "91.7 Ω"
    level = found.rows[1].speech_dbu
    assert at["Speech"] == format_dbu(level)
    assert at[""] == format_volts(level)
    assert "Gain, loaded" not in at
    assert "DC on the line" not in at
    assert "From its battery" not in at


def test_a_gain_is_called_a_gain_and_the_radio_has_neither():
    box = gear("amplifier", "box", gain_db=20, gain_high_db=40, z_in_ohm=10e3, supply="battery")
    found = assess(station_of(MIC, box, RADIO))
    assert lines(found, 1)["Gain, loaded"].startswith("+")
    assert not {"Gain, loaded", "Loss, loaded"} & set(lines(found, 2))
    assert lines(found, 2)["Microphone gain at"] == found.rows[-1].knob.mark


def test_shares_of_noise_are_there_from_a_twentieth_of_a_percent():
    loud = assess(station_of(MIC, RADIO | {"ein_dbu": -70}))
    shares = loud.solution.noise_shares_at(1)
    assert lines(loud, 1)["Share of all noise"] == f"{shares['radio']:.1%}"
    quiet = assess(station_of(MIC, RADIO | {"ein_dbu": -150}))
    assert lines(quiet, 1)["Share of all noise"] == "below 0.1%"


def test_direct_current_is_shown_where_it_flows():
    found = assess(station_of(ELECTRET, FEED, RADIO))
    at = lines(found, 0)
    volts = found.rows[0].capsule_v
    assert float(at["Over the capsule"].split()[0]) == pytest.approx(volts, abs=0.01)
    # what the capsule draws comes through the feed's resistor: (9 V − it) / 10 kohm
    milliamps = (9 - volts) / 10
    assert float(at["DC current"].split()[0]) == pytest.approx(1000 * milliamps, rel=0.02)
    assert at["DC current"].endswith("µA")
    pin = assess(station_of(MIC | {"coil_ohm": 2000}, BIASED))
    # 8 V over 2.2 kohm and 2 kohm
    assert float(lines(pin, 0)["DC on the line"].split()[0]) == pytest.approx(8 * 2 / 4.2, rel=0.02)
    assert "Over the capsule" not in lines(pin, 0)


def test_a_dead_microphone_has_no_levels_but_its_direct_voltage():
    at = lines(assess(station_of(ELECTRET, RADIO)), 0)
    assert "Speech" not in at
    assert "Share of all noise" not in at
    assert at["Over the capsule"] == "0 V"


def test_compression_and_hum_have_their_lines():
    squeeze = gear(
        "compressor",
        "box",
        expects="microphone",
        gain_db=50,
        gain_high_db=60,
        z_in_ohm=2400,
        threshold_dbu=-30,
        ratio=6,
        supply="safety-earth",
        earth_emf_v=5e-3,
    )
    found = assess(station_of(MIC, squeeze, PAD, RADIO | {"supply": "safety-earth"}))
    at, row = lines(found, 1), found.rows[1]
    assert at["Speech squeezed"] == f"{row.speech_squeezed_db:.1f} dB"
    assert at["Peaks squeezed"] == f"{row.peaks_squeezed_db:.1f} dB"
    under = found.rows[-1].speech_dbu - found.rows[-1].hum_dbu
    assert lines(found, 3)["Hum under speech"] == f"{under:.0f} dB"
    assert "Peaks squeezed" not in lines(found, 2)


def test_what_a_battery_gives_is_what_the_circuit_draws():
    stage = gear("bipolar-preamp", "stage")
    found = assess(station_of(MIC, stage, RADIO))
    drawn = lines(found, 1)["From its battery"]
    # the divider: 9 V over 122 kohm; the transistor: 9 · 22/122 V less a junction, over 1 kohm
    about_ma = 9 / 122 + (9 * 22 / 122 - 0.65)
    assert float(drawn.split()[0]) == pytest.approx(1000 * about_ma, rel=0.08)
    assert drawn.endswith("µA")
    opamp = assess(station_of(MIC, gear("opamp-preamp", "op", draws_a="4m"), RADIO))
    assert float(lines(opamp, 1)["From its battery"].split()[0]) == pytest.approx(
        4.0 + 9 / 20,
        rel=0.02,  # and what the two halves of its divider draw
    )


def test_voice_and_room():
    station = station_of(MIC, RADIO, distance_mm=25)
    found = {line.name: line.value for line in voice_results(assess(station))}
    # ITU-T P.64: 89.3 dB SPL at 25 mm, peaks 14 dB higher
    assert found["Speech"] == "89.3 dB SPL"
    assert found["Peaks"] == "103.3 dB SPL"
    assert found["Distance"] == "2.5 cm"
    louder = assess(edits.change_station(station, room_noise_dba=50))
    over = {line.name: line.value for line in voice_results(louder)}["Speech over room"]
    assert over == "39.3 dB"
    player = gear("line-source", "player")
    assert [x.name for x in voice_results(assess(station_of(player, RADIO)))] == ["Voice"]


def test_pads_are_offered_for_pads_that_pass_sound_only():
    hot = gear("line-source", "player", full_scale_dbu=6)
    found = assess(station_of(hot, PAD, RADIO))
    designs = pad_choices(found, 1)
    assert 0 < len(designs) <= 3
    # each brings the radio to what it wants, as far as preferred values go
    for design in designs:
        station = found.station
        for field, value in design.values:
            station = edits.set_value(station, "c", "v", 1, field, value)
        assert assess(station).rows[-1].speech_dbu == pytest.approx(-53, abs=1.5)
    assert pad_choices(found, 2) == []
    assert pad_choices(assess(station_of(ELECTRET, PAD, RADIO)), 1) == []


def test_a_stages_own_band_is_from_joint_to_joint():
    """100 nF into 2 kohm, whatever the microphone's 200 ohm before it; the pad has none."""
    small = gear("capacitor", "small", capacitance_f="100n")
    found = assess(station_of(MIC, small, PAD | {"series_ohm": 1910}, RADIO))
    # behind it 1910 ohm and 100 ∥ 600, 1996 ohm in all: 797 Hz, from the level at 3 kHz, which has
    # lost 0.3 dB itself: half of that power is reached at 797 / √(2 (1 + (797/3000)²) − 1) = 746 Hz
    own = 1 / (2 * math.pi * 100e-9 * 1996)
    corner = own / math.sqrt(2 * (1 + (own / 3000) ** 2) - 1)
    start, _, stop = lines(found, 1)["Its own band"].partition(" … ")
    assert float(start.split()[0]) == pytest.approx(corner, rel=0.02)
    assert stop == "beyond 20 kHz"
    assert "Its own band" not in lines(found, 2)
    assert "Its own band" not in lines(assess(station_of(ELECTRET, small, RADIO)), 1)
