"""Curves that explain a stage, against closed forms."""

import math

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.acoustics import cavity_compliance, end_corrected_m, hole_mass
from tonleiter.core.gear.microphones import DynamicMicrophone
from tonleiter.core.judge.assess import assess
from tonleiter.core.report.curves import case_response_db, stage_curves

MIC = gear("dynamic-microphone", "mic", coil_ohm=300, coil_h=1e-6)
RADIO = gear("microphone-socket", "radio", z_in_ohm=10e3)


def curves(*pieces, index):
    return {c.title: c for c in stage_curves(assess(station_of(*pieces)), index)}


def line(curve, name):
    return next(x for x in curve.lines if x.name == name)


def test_load_line_ends_at_the_open_volts_and_the_short_circuit_current():
    capsule = gear("electret-2-wire", "capsule")
    feed = gear("bias-feed", "feed", supply_v=3, resistor_ohm=2200)
    curve = curves(capsule, feed, RADIO, index=0)["Load line"]
    feed_line = line(curve, "feed")
    # the capsule's own leak of 10 Mohm is all that stands beside the feed
    assert feed_line.x[-1] == pytest.approx(3.0, rel=1e-3)
    assert feed_line.y[0] == pytest.approx(3.0 / 2.2, rel=1e-3)
    here = curve.marks[0]
    on_capsule = np.interp(here.x, line(curve, "capsule").x, line(curve, "capsule").y)
    assert here.y == pytest.approx(on_capsule, rel=0.01)
    assert here.y == pytest.approx(np.interp(here.x, feed_line.x, feed_line.y), rel=0.01)


def test_transfer_bends_at_the_threshold_by_the_ratio():
    box = gear("compressor", "box", gain_db=40, gain_high_db=60, threshold_dbu=-30, ratio=4)
    curve = curves(MIC, box, RADIO, index=1)["Out against in"]
    out = line(curve, "out")
    at = lambda dbu: float(np.interp(dbu, out.x, out.y))  # noqa: E731
    assert at(-40) == pytest.approx(-40, abs=0.01)
    assert at(-10) == pytest.approx(-30 + 20 / 4, abs=0.3)
    assert {m.name for m in curve.marks} == {"speech", "peaks"}


def test_a_compressor_takes_from_speech_and_peaks_what_its_curve_takes_between_the_two():
    """It follows peaks and lets go slowly: nothing is taken off less than at rest, nor more."""
    box = gear("compressor", "box", threshold_dbu=-50, ratio=4, expects="microphone", gain_db=10)
    curve = curves(MIC, box, RADIO, index=1)["Out against in"]
    out = line(curve, "out")
    marks = {m.name: m for m in curve.marks}
    least, most = (
        m.x - float(np.interp(m.x, out.x, out.y)) for m in (marks["speech"], marks["peaks"])
    )
    assert most > least + 5
    for mark in marks.values():
        assert least - 0.5 <= mark.x - mark.y <= most + 0.5
    assert marks["peaks"].x - marks["speech"].x == pytest.approx(14.0, abs=3.0)


def test_gain_curve_has_the_corner_of_its_capacitor():
    capacitor = gear("capacitor", "c", capacitance_f="100n")
    curve = curves(MIC, capacitor, RADIO | {"z_in_ohm": 1000}, index=1)["Gain against 1 kHz"]
    corner = 1 / (2 * math.pi * 100e-9 * 1300)
    exact = -10 * math.log10(1 + (corner / 200) ** 2) + 10 * math.log10(1 + (corner / 1000) ** 2)
    gain = line(curve, "gain")
    # joint against joint: the capacitor with its load alone, the source's 300 ohm stand before it
    load_only = 1 / (2 * math.pi * 100e-9 * 1000)
    lone = -10 * math.log10(1 + (load_only / 200) ** 2) + 10 * math.log10(
        1 + (load_only / 1e3) ** 2
    )
    found = float(np.interp(200, gain.x, gain.y))
    assert found == pytest.approx(lone, abs=0.15)
    assert abs(found - exact) > 0.3  # the two differ: the curve is the stage's own


def test_flat_stages_have_no_gain_curve():
    assert curves(MIC, gear("l-pad", "pad"), RADIO, index=1) == {}


def test_core_fills_at_half_the_level_an_octave_lower():
    curve = curves(MIC, gear("transformer", "coil", saturation_dbu=0), RADIO, index=1)
    full = line(curve["Core against peaks"], "core full")
    level = lambda f: float(np.interp(f, full.x, full.y))  # noqa: E731
    assert level(100) == pytest.approx(0.0, abs=0.05)
    assert level(100) - level(50) == pytest.approx(6.02, abs=0.1)


def test_housing_resonates_where_helmholtz_says():
    microphone = DynamicMicrophone.model_validate(
        MIC | {"housing": "in-case", "opening_mm": 6, "opening_long_mm": 1, "cavity_cm3": 2}
    )
    mass, volume = hole_mass(1e-3, 3e-3), cavity_compliance(2e-6)
    wanted = 1 / (2 * math.pi * math.sqrt(mass * volume))
    f_hz = np.geomspace(500, 8000, 800)
    response = case_response_db(microphone, f_hz)
    assert f_hz[response.argmax()] == pytest.approx(wanted, rel=0.03)
    assert end_corrected_m(1e-3, 3e-3) > 1e-3


def test_a_case_is_compared_with_a_wide_and_sealed_one():
    cased = MIC | {"housing": "in-case", "opening_mm": 1.2, "seal": "none"}
    curve = curves(cased, RADIO, index=0)["The case"]
    now, opened = line(curve, "as it is"), line(curve, "opened and sealed")
    at_2k7 = lambda x: float(np.interp(2700, x.x, x.y))  # noqa: E731
    assert at_2k7(opened) - at_2k7(now) > 6
    assert opened.ghost
