"""Levels, impedances, noise and DC of whole chains against sums done by hand."""

import math

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.voice import speech_pressure_pa
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.levels_report import levels_report
from tonleiter.core.solve.corners import corners_hz
from tonleiter.core.units.levels import dbu_from_volts

MIC = gear("dynamic-microphone", "mic", sensitivity_mv_per_pa=2.0, coil_ohm=200, coil_h=1e-6)
RADIO = gear("microphone-socket", "radio", z_in_ohm=600, ein_dbu=-150, supply="safety-earth")


def test_microphone_straight_into_a_radio():
    station = station_of(MIC, RADIO)
    mic, radio = assess(station).rows
    wanted = dbu_from_volts(2e-3 * speech_pressure_pa(25) * 600 / 800)
    # the radio's own coupling corner lies at 5 Hz: 0.01 dB at 100 Hz
    assert mic.speech_dbu == pytest.approx(wanted, abs=0.02)
    assert radio.speech_dbu == pytest.approx(wanted, abs=0.02)
    assert mic.peak_dbu - mic.speech_dbu == pytest.approx(14)
    assert mic.z_source_ohm == pytest.approx(200, rel=1e-3)
    assert mic.z_load_ohm == pytest.approx(600, rel=1e-3)
    assert radio.headroom_db == pytest.approx(radio.ceiling_dbu + 3.01 - radio.peak_dbu, abs=0.01)


def test_a_loaded_pad_in_a_chain():
    line = gear(
        "amplifier",
        "amp",
        gain_db=40,
        gain_high_db=60,
        z_in_ohm=10e3,
        z_out_ohm=120,
        expects="microphone",
        output_f=1.0,
        low_corner_hz=1,
        ein_dbu=-130,
    )
    pad = gear("l-pad", "pad", series_ohm=4700, shunt_ohm=47)
    rows = assess(station_of(MIC, line, pad, RADIO)).rows
    lower = 47 * 600 / 647
    # from the loaded amplifier to the loaded pad
    wanted = 20 * math.log10(lower / (4700 + lower))
    assert rows[2].gain_db == pytest.approx(wanted, abs=0.01)
    # looking back: the shunt beside series and source; 47 kohm bleeds the amplifier's output
    behind = 4700 + 120 * 47e3 / 47120
    assert rows[2].z_source_ohm == pytest.approx(47 * behind / (47 + behind), rel=1e-3)
    assert rows[1].z_load_ohm == pytest.approx(
        1 / (1 / (4700 + lower) + 1 / 47e3), rel=0.12
    )  # the bleed belongs to the amplifier's own side
    assert rows[1].z_load_ohm == pytest.approx(4700 + lower, rel=1e-3)


def test_speech_gains_add_up_to_the_level_at_the_radio(demo):
    rows = assess(demo).rows
    total = rows[0].speech_dbu + sum(r.gain_db for r in rows[1:])
    assert rows[-1].speech_dbu == pytest.approx(total, abs=1e-9)


@pytest.mark.parametrize("distance", [15, 60, 300])
def test_distance_moves_speech_but_not_the_room(demo_data, distance):
    from tonleiter.core.station.model import Station

    near = assess(Station.model_validate(demo_data))
    demo_data["chains"][0]["distance_mm"] = distance
    far = assess(Station.model_validate(demo_data))
    wanted = 20 * math.log10(speech_pressure_pa(distance) / speech_pressure_pa(30))
    assert far.rows[-1].speech_dbu - near.rows[-1].speech_dbu == pytest.approx(wanted)
    assert far.rows[-1].noise_dbu == pytest.approx(near.rows[-1].noise_dbu)


def test_noise_of_a_quiet_chain_in_a_silent_room_is_thermal():
    station = station_of(MIC, RADIO).model_copy(update={"room_noise_dba": _figure(0.0)})
    row = assess(station).rows[0]
    parallel = 200 * 600 / 800
    # the radio's input resistance is noiseless in the model; the coil's noise is divided by it
    wanted = math.sqrt(4 * 1.380649e-23 * 300.15 * 200 * 2400) * 600 / 800
    room = 2e-3 * 20e-6 * 600 / 800  # 0 dBA at the microphone, at most
    assert 10 ** (row.noise_dbu / 20) * math.sqrt(0.6) == pytest.approx(
        math.hypot(wanted, 0), rel=0.2 + room / wanted
    )
    assert parallel < 200


def _figure(value):
    from tonleiter.core.gear.figure import Figure

    return Figure(value=value)


def test_noise_shares_sum_to_one(demo):
    shares = assess(demo).solution.noise_shares_at(6)
    assert sum(shares.values()) == pytest.approx(1)
    assert shares["voice"] > 0.5  # in a furnished room the room is the loudest noise


def test_bias_current_through_a_coil_by_ohms_law():
    radio = RADIO | {"bias_v": 8, "bias_ohm": 2000, "z_in_ohm": 600}
    mic, _ = assess(station_of(MIC, radio)).rows
    # earth and screen resistances are in the same loop, below an ohm
    assert abs(mic.dc_a) == pytest.approx(8 / 2200, rel=2e-3)
    assert mic.dc_v == pytest.approx(8 * 200 / 2200, rel=2e-3)


def test_electret_on_a_biased_radio_by_its_load_line():
    electret = gear("electret-2-wire", "headset", current_a=0.3e-3, quoted_supply_v=3)
    radio = RADIO | {"bias_v": 5, "bias_ohm": 4700, "z_in_ohm": 2000}
    mic, _ = assess(station_of(electret, radio)).rows
    # saturated: Vd = 5 − R·I0·(1 + λ Vd)/(1 + λ Vq), Vq = 3 − 0.3 mA · 2.2 k = 2.34 V
    i0, lam = 0.3e-3 / (1 + 0.02 * 2.34), 0.02
    wanted = (5 - 4700 * i0) / (1 + 4700 * i0 * lam)
    assert mic.capsule_v == pytest.approx(wanted, rel=2e-3)


def test_blocking_capacitor_puts_a_corner_into_the_response():
    cap = gear("capacitor", "cap", capacitance_f="1u")
    assessment = assess(station_of(MIC, cap, RADIO))
    corner = 1 / (2 * math.pi * 1e-6 * 800)
    assert assessment.corners_hz[0] == pytest.approx(corner, rel=0.02)
    assert assess(station_of(MIC, RADIO)).corners_hz[0] is None


def test_corners_of_a_known_response():
    f = np.logspace(math.log10(20), math.log10(20_000), 400)
    h = 1j * f / 200 / (1 + 1j * f / 200) / (1 + 1j * f / 6000)
    low, high = corners_hz(f, 20 * np.log10(np.abs(h)))
    # |h|² of two first-order corners peaks at their geometric mean; half of it solves a quadratic
    # in f²: with a = 200², b = 6000², half power where (f² + a)(f² + b) = 2 f² (√a + √b)²
    a, b = 200.0**2, 6000.0**2
    p = a + b - 2 * (200 + 6000) ** 2
    wanted = [math.sqrt((-p + s * math.sqrt(p * p - 4 * a * b)) / 2) for s in (-1, 1)]
    assert [low, high] == pytest.approx(wanted, rel=5e-3)


def test_report_has_the_promised_keys_and_is_plain_data(demo):
    import json

    report = levels_report(verdict_of(demo))
    json.dumps(report, allow_nan=False)
    promised = {
        "id",
        "name",
        "kind",
        "gain_db",
        "speech_dbu",
        "peak_dbu",
        "noise_dbu",
        "hum_dbu",
        "ceiling_dbu",
        "headroom_db",
        "snr_db",
        "z_source_ohm",
        "z_load_ohm",
        "dc_v",
        "dc_ma",
    }
    for stage in report["stages"]:
        assert promised <= set(stage)
    assert report["stages"][0]["id"] == "voice"
    assert len(report["response"]["f_hz"]) == len(report["response"]["gain_db"]) == 200
    for finding in report["findings"]:
        wanted = {"code", "severity", "stage", "says", "evidence", "remedies"}
        assert wanted <= set(finding)


@pytest.mark.long
def test_a_dead_microphone_reports_finite_or_null(demo):
    import json

    from tonleiter.core.station.edits import swap_gear

    dead = swap_gear(demo, "hf-chat", "with-transformer", 0, "electret-headset")
    json.dumps(levels_report(verdict_of(dead)), allow_nan=False)


@pytest.mark.parametrize(
    "lead_nf, loss_db",
    [
        # 300 Ω with its coil of 10 Ω at 1 kHz, and 600 Ω: 20 log10 of |900 + 10j| over 600
        (0.0, 20 * math.log10(abs(900 + 10j) / 600)),
        # a lead of 0.4 µF is −398 Ω at 1 kHz, across the 600 Ω
        (400.0, None),
    ],
)
def test_what_a_load_takes_is_of_both_as_they_are(lead_nf, loss_db):
    """|(Zs + Zl) / Zl| of complex impedances: a resistor and a capacitor do not add up."""
    coil_h = 10 / (2 * math.pi * 1000)
    mic = MIC | {"coil_ohm": 300, "coil_h": coil_h}
    lead = gear("cable", "lead", length_m=10, capacitance_pf_per_m=max(lead_nf, 1e-2) * 100,
                core_mohm_per_m=1e-3, screen_mohm_per_m=1e-3)  # fmt: skip
    if loss_db is None:
        zl = 1 / (1 / 600 + 2j * math.pi * 1000 * lead_nf * 1e-9)
        loss_db = 20 * math.log10(abs((300 + 10j + zl) / zl))
    joint = assess(station_of(mic, lead, RADIO)).solution.impedances[0]
    assert joint.loading_loss_db == pytest.approx(loss_db, abs=0.05)
    assert joint.is_resistive == (lead_nf == 0.0)
