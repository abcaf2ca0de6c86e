"""Kinds made of other kinds' circuits: tone controls, outputs of a radio, feeds with a filter."""

import math

import numpy as np
import pytest

from tests.conftest import station_of
from tests.core.gear.test_circuits import Bench, make
from tonleiter.core.gear.active import MicrophoneAmplifier
from tonleiter.core.gear.bias_feed import BiasFeed
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.desk_microphone import DeskMicrophone
from tonleiter.core.gear.more_pads import UPad
from tonleiter.core.gear.passives import Transformer
from tonleiter.core.gear.radio_outputs import LoudspeakerOutput
from tonleiter.core.gear.tone import GraphicEqualiser, MixerStrip
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.report.results import stage_results

MIC = {"id": "mic", "name": "mic", "kind": "dynamic-microphone"}
RADIO = {"id": "radio", "name": "radio", "kind": "microphone-socket", "z_in_ohm": 10e3}
COMPUTER = {"id": "computer", "name": "computer", "kind": "line-input", "supply": "safety-earth"}


def db(ratio):
    return 20 * math.log10(abs(ratio))


# --- tone -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("band, f_hz", [("at_250_db", 250.0), ("at_2k_db", 2000.0)])
def test_a_band_lifts_its_middle_and_leaves_two_octaves_away(band, f_hz):
    flat, lifted = make(GraphicEqualiser), make(GraphicEqualiser, **{band: 9})
    at = lambda gear, f: db(Bench(gear, 10, 100e3).gain(f))  # noqa: E731
    assert at(lifted, f_hz) - at(flat, f_hz) == pytest.approx(9.0, abs=0.05)
    # |1 + (g−1)/(1 + jQ(f/f0 − f0/f))| four times the middle frequency
    off = 1 + (10 ** (9 / 20) - 1) / (1 + 1j * math.sqrt(2) * (4 - 0.25))
    assert at(lifted, 4 * f_hz) - at(flat, 4 * f_hz) == pytest.approx(db(off), abs=0.05)


def test_shelves_of_a_strip_reach_their_gain_far_out():
    flat, warm = make(MixerStrip), make(MixerStrip, low_db=-12, high_db=6)
    gain = lambda gear, f: db(Bench(gear, 10, 100e3).gain(f))  # noqa: E731
    shelf = lambda g, ratio: db(1 + (10 ** (g / 20) - 1) / (1 + 1j * ratio))  # noqa: E731
    at = 30.0
    assert gain(warm, at) - gain(flat, at) == pytest.approx(shelf(-12, at / 100), abs=0.1)
    assert gain(warm, 20e3) - gain(flat, 20e3) == pytest.approx(shelf(6, -6e3 / 20e3), abs=0.1)


def test_a_fader_nearly_off_is_no_pad():
    """What its output stage adds does not fall with the fader; a pad takes noise down as well."""
    strip = {"id": "strip", "name": "strip", "kind": "mixer-strip", "gain_db": 50}
    pad = {"id": "pad", "name": "pad", "kind": "l-pad", "series_ohm": 10e3, "shunt_ohm": 100}
    by_fader = assess(station_of(MIC, strip | {"fader_db": -41.5}, RADIO)).rows[-1]
    by_pad = assess(station_of(MIC, strip, pad, RADIO)).rows[-1]
    assert by_fader.speech_dbu == pytest.approx(by_pad.speech_dbu, abs=2.0)
    # its residual in 2.9 of the 20 kHz it is quoted in adds to what comes from before
    residual_dbu = -88 + 10 * math.log10(2900 / 20_000)
    before = 10 ** (-by_pad.snr_db / 10)
    behind = 10 ** ((residual_dbu - by_fader.speech_in_band_dbu) / 10)
    assert by_fader.snr_db == pytest.approx(-10 * math.log10(before + behind), abs=0.3)
    assert by_pad.snr_db - by_fader.snr_db > 3


# --- pads -----------------------------------------------------------------------------------------


def test_u_pad_loses_by_both_legs():
    pad = make(UPad, leg_ohm=4.7e3, shunt_ohm=100)
    bench = Bench(pad, source_ohm=200, load_ohm=600)
    lower = 100 * 600 / 700
    # both grounds are one on the bench: the cold leg carries nothing
    assert db(bench.gain()) == pytest.approx(db(lower / (lower + 4.7e3 + 200)), abs=0.02)


def test_a_changed_input_divider_names_the_way_back():
    divider = {
        "id": "divider",
        "name": "divider",
        "kind": "input-divider",
        "upper_ohm": 10e3,
        "lower_ohm": 10e3,
        "was_upper_ohm": "470k",
        "was_lower_ohm": "10k",
    }
    lines = {x.name: x.value for x in stage_results(assess(station_of(MIC, divider, RADIO)), 1)}
    assert lines["As built"] == "470k / 10k"
    assert lines["Against as built"] == f"+{db(0.5 / (10 / 480)):.1f} dB"


# --- outputs of a radio ---------------------------------------------------------------------------


def test_single_ended_loudspeaker_gives_its_volts():
    output = make(LoudspeakerOutput, full_dbu=10, below_full_db=-10)
    assert abs(Bench(output, load_ohm=8).gain()) == pytest.approx(0.7746 * 8 / 8.5, rel=1e-3)


def test_a_grounded_bridge_leg_is_a_stop_and_a_transformer_mends_it():
    bridge = {
        "id": "speaker",
        "name": "speaker socket",
        "kind": "loudspeaker-output",
        "output": "bridged",
        "below_full_db": -30,
        "supply": "safety-earth",
    }
    before = assess(station_of(bridge, COMPUTER))
    finding = next(f for f in before.findings if f.code == "bridge-leg-grounded")
    assert finding.severity == "stop"
    # half of 13.8 V through the leg, the radio's earth and the computer's: 0.25 + 0.2 + 0.2 ohm
    assert finding.evidence["dc_ma"] == pytest.approx(6.9 / 0.65 * 1e3, rel=0.02)
    after = assess(remedies(before, finding)[0].change(before.station))
    assert any(f.code == "bridge-floats" for f in after.findings)


# --- amplified desk microphone --------------------------------------------------------------------


def test_desk_microphone_stands_at_the_collector_voltage_its_feedback_sets():
    """Base from the collector: Vc = Vcc − (β+1) Ib Rc, Ib = (Vc − Vbe − Ve)/Rb."""
    bench = Bench(make(DeskMicrophone), load_ohm=10e3)
    vbe = bench.op.volts("g:base", "g:emitter")
    beta = DeskMicrophone.BETA
    base_a = (9 - vbe) / (1.5e6 + (beta + 1) * (10e3 + 470))
    wanted = 9 - (beta + 1) * base_a * 10e3
    # the model's Early effect raises β by some percent
    assert bench.op.volts("g:collector", "cold") == pytest.approx(wanted, rel=0.06)


def test_its_control_takes_level_and_clipping_down_together():
    rows = {
        turned: assess(
            station_of(
                {
                    "id": "desk",
                    "name": "desk",
                    "kind": "amplified-desk-microphone",
                    "turned_up": turned,
                },
                RADIO,
            )
        ).rows[0]
        for turned in (1.0, 0.1)
    }
    assert rows[1.0].speech_dbu - rows[0.1].speech_dbu > 12
    assert rows[1.0].ceiling_dbu - rows[0.1].ceiling_dbu == pytest.approx(20, abs=3)


@pytest.mark.parametrize("load_ohm, turned", [(600.0, 1.0), (600.0, 0.5), (50e3, 0.5)])
def test_its_ceiling_knows_what_hangs_on_its_control(load_ohm, turned):
    """The collector's current into its resistor beside the loaded track, and the wiper's share."""
    desk = {"id": "desk", "name": "desk", "kind": "amplified-desk-microphone", "turned_up": turned}
    bench = Bench(make(DeskMicrophone), load_ohm=10e3)
    stands = bench.op.volts("g:collector", "cold")
    amps = (9 - stands) / 10e3
    lower = 1 / (1 / (10e3 * turned) + 1 / load_ohm)
    upper = 10e3 * (1 - turned)
    into = 1 / (1 / 10e3 + 1 / (upper + lower))
    foot = bench.op.volts("g:emitter", "cold")
    swing = min(stands - foot - 0.3, amps * into) * lower / (upper + lower)
    row = assess(station_of(desk, {**RADIO, "z_in_ohm": load_ohm, "bias_v": 0})).rows[0]
    wanted = 20 * math.log10(swing / math.sqrt(2) / 0.7746)
    assert row.ceiling_dbu == pytest.approx(wanted, abs=0.2)


# --- feeds ----------------------------------------------------------------------------------------


def supply_noise_at_output(**feed):
    bench = Bench(make(BiasFeed, supply_v=12, supply_noise_v=1.0, **feed), 2.2e3, 10e3)
    return bench.noise_density(1000.0)


def test_a_second_rc_takes_the_supplys_noise_down_by_its_corner():
    bare = supply_noise_at_output(resistor_ohm=4400)
    filtered = supply_noise_at_output(
        resistor_ohm=2200, filter="second-rc", filter_ohm=2200, filter_f=47e-6
    )
    # the loaded corner: C against the filter resistor beside the feed resistor into its load
    beside = 1 / (1 / 2200 + 1 / (2200 + 2200 * 10e3 / 12.2e3))
    corner = 1 / (2 * math.pi * 47e-6 * beside)
    assert db(bare / filtered) == pytest.approx(db(1000 / corner), abs=0.5)


@pytest.mark.parametrize(
    "feed, volts", [({"filter": "zener"}, 5.1), ({"filter": "regulator"}, 5.1), ({}, 12.0)]
)
def test_what_holds_the_feed(feed, volts):
    gear = make(BiasFeed, supply_v=12, **feed)
    assert gear.open_v() == volts
    bench = Bench(gear, load_ohm=100e3, source_ohm=1e9)
    assert bench.op.volts("in") == pytest.approx(volts, rel=0.03)


# --- level-dependent ------------------------------------------------------------------------------


def test_resistors_set_ratio_and_gate():
    chip = make(
        MicrophoneAmplifier,
        ratio_ohm=60e3,
        ohm_per_ratio=20e3,
        gate="on",
        gate_ohm=10e3,
        gain_low_db=0,
        gain_high_db=60,
        gain_db=30,
    )
    assert chip.ratio_to_1() == 4
    assert chip.compression().gate_dbu == pytest.approx(-50 - 20 + 30)


def test_peaks_that_were_clipped_stay_clipped():
    box = {"id": "box", "name": "box", "kind": "amplifier", "gain_db": 10, "clip_dbu": -50}
    rows = assess(station_of(MIC, box, RADIO)).rows
    assert rows[1].headroom_db < 0
    assert rows[2].peak_dbu == pytest.approx(rows[1].clips_at_dbu, abs=0.2)


def test_a_soft_ceiling_halves_what_rises_into_it():
    box = {"id": "box", "name": "box", "kind": "amplifier", "gain_db": 10, "clip_dbu": -35}
    hard, soft = (assess(station_of(MIC, box | {"clips": c}, RADIO)).rows for c in ("hard", "soft"))
    # peaks as a sine that reaches as high, since the ceiling is one
    into = hard[1].peak_dbu - 3.01 - (-35 - 6)
    assert into > 1  # the test means something
    assert hard[1].peak_dbu - soft[1].peak_dbu == pytest.approx(into / 2, abs=0.1)


def test_a_core_takes_twice_the_volts_an_octave_up():
    core = make(Transformer, saturation_dbu=2)
    assert core.input_ceiling_dbu(100) == pytest.approx(2)
    assert core.input_ceiling_dbu(200) == pytest.approx(2 + 6.02, abs=0.01)


def test_white_noise_of_the_residual_is_what_it_says():
    closed = make(MixerStrip, fader_db=-100, residual_dbu=-80)
    density = Bench(closed, 10, 100e3).noise_density(1000.0)
    volts = density * math.sqrt(20e3)
    assert 20 * np.log10(volts / 0.7746) == pytest.approx(-80, abs=0.3)


@pytest.mark.parametrize(
    ("ratio", "gate", "works"),
    [(1.0, "off", False), (1.0, "on", True), (4.0, "off", True), (4.0, "on", True)],
)
def test_a_compressor_at_one_to_one_without_its_gate_does_nothing(ratio, gate, works):
    box = KINDS["compressor"](id="box", name="box", ratio={"value": ratio}, gate=gate)
    made = box.compression()
    assert (made is not None) == works
    if made is not None:
        assert (made.gate_dbu is not None) == (gate == "on")
