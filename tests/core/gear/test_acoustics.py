"""Housings and patterns against their closed forms."""

import math

import numpy as np
import pytest

from tests.conftest import station_of
from tonleiter.core.circuit.ac import linearise
from tonleiter.core.circuit.elements import Circuit, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.acoustics import end_corrected_m, hole_mass, slit_mass, slit_resistance
from tonleiter.core.gear.microphones import DynamicMicrophone, ElectretMicrophone
from tonleiter.core.gear.net import AIR, Port, StageNet
from tonleiter.core.judge.assess import assess, remedies

F_HZ = np.geomspace(50, 15e3, 2000)
SOCKET = {"id": "radio", "name": "radio", "kind": "microphone-socket", "z_in_ohm": 10e3}


def way_in(distance_mm=25.0, **fields):
    """Magnitude of the pressure at the diaphragm over that in the air, at F_HZ."""
    mic = DynamicMicrophone.model_validate({"id": "m", "name": "m", **fields})
    net = StageNet("m", Port(AIR, "0"), Port("out", "0"), distance_mm / 1000)
    node = mic.heard(net)
    system = System(Circuit((VoltageSource("v", AIR, "0", ac=1.0), *net.elements)))
    x = linearise(system).solve(F_HZ, system.b_ac[:, None])[:, :, 0]
    return np.abs(x[:, system.row(node)])


def case(**fields):
    return way_in(housing="in-case", **fields)


def test_without_a_housing_nothing_is_added():
    assert np.all(way_in() == 1.0)


def test_opening_and_cavity_resonate_where_helmholtz_says():
    """f = c/2π √(A/(l'V)) (Rayleigh, Theory of Sound, §303)."""
    gain = case(opening_mm=3, opening_long_mm=2, cavity_cm3=0.5)
    area, length = math.pi * 1.5e-3**2, end_corrected_m(2e-3, 1.5e-3)
    wanted = 343 / (2 * math.pi) * math.sqrt(area / (length * 0.5e-6))
    assert F_HZ[np.argmax(gain)] == pytest.approx(wanted, rel=0.01)
    assert gain[0] == pytest.approx(1.0, abs=0.01)


def test_a_tube_before_the_capsule_resonates_at_a_quarter_wave():
    gain = case(opening_mm=20, opening_long_mm=0, capsule_mm=9.7, cavity_cm3=0.01, recess_mm=25)
    quarter = 343 / (4 * 0.025)
    # the hole's own mass lengthens the tube a little
    assert 0.8 * quarter < F_HZ[np.argmax(gain)] < quarter


def test_a_slit_into_the_body_takes_the_bass_and_more():
    sealed, open_ = case(opening_mm=1.5), case(opening_mm=1.5, seal="none", body_cm3=60)
    at_2k = np.searchsorted(F_HZ, 2000)
    assert 20 * math.log10(open_[at_2k] / sealed[at_2k]) < -6


@pytest.mark.parametrize(
    "field, bad, good",
    [
        ("over_it", "foam", "nothing"),
        ("offset_mm", 6.0, 0.0),
        ("opening_mm", 1.0, 4.0),
    ],
)
def test_what_muffles_loses_treble(field, bad, good):
    at_3k = np.searchsorted(F_HZ, 3000)
    usual = {"opening_mm": 1.5, "cavity_cm3": 0.3}
    assert case(**usual | {field: bad})[at_3k] < case(**usual | {field: good})[at_3k]


def test_hole_mass_is_density_times_length_over_area():
    assert hole_mass(5e-3, 1e-3) == pytest.approx(
        1.2 * (5e-3 + 16e-3 / (3 * math.pi)) / (math.pi * 1e-6)
    )


def test_proximity_lifts_the_bass_of_a_directional_type():
    """|1 + ½ c/(jωr) …| over its own bass cut: (s + c/2r)/(s + 2π 50)."""
    s = 2j * math.pi * F_HZ
    for distance_mm in (15.0, 300.0):
        r = distance_mm / 1000 + 0.010
        wanted = np.abs((s + 0.5 * 343 / r) / (s + 2 * math.pi * 50))
        np.testing.assert_allclose(way_in(distance_mm, pattern="directional"), wanted, rtol=1e-9)


def test_a_noise_cancelling_type_is_flat_at_the_lips_and_thin_further_off():
    near, far = way_in(10.0, pattern="noise-cancelling"), way_in(100.0, pattern="noise-cancelling")
    np.testing.assert_allclose(near, 1.0, rtol=1e-9)
    assert far[0] == pytest.approx(20 / 110, rel=0.05)


def levels(**mic):
    gear = {"id": "mic", "name": "mic", "kind": "dynamic-microphone", **mic}
    rows = assess(station_of(gear, SOCKET, distance_mm=10)).rows
    return rows[-1]


def test_the_room_falls_by_what_the_pattern_rejects():
    quiet = {"max_spl_db": 140}
    open_ = levels(**quiet)
    cardioid = levels(pattern="directional", **quiet)
    assert open_.snr_db < cardioid.snr_db
    cancelling = levels(pattern="noise-cancelling", rejects_db=10)
    blocked = levels(pattern="noise-cancelling", rejects_db=10, rear="blocked")
    assert cancelling.snr_db - blocked.snr_db > 6
    assert blocked.snr_db == pytest.approx(open_.snr_db, abs=0.05)


def test_drilling_and_sealing_is_offered_tried_and_mends():
    capsule = {
        "id": "mic",
        "name": "capsule in a case",
        "kind": "electret-2-wire",
        "housing": "in-case",
        "opening_mm": 1.0,
        "opening_long_mm": 3,
        "seal": "none",
    }
    feed = {"id": "feed", "name": "feed", "kind": "bias-feed"}
    before = assess(station_of(capsule, feed, SOCKET))
    finding = next(f for f in before.findings if f.code.startswith("housing"))
    assert finding.code == "housing-muffles"
    assert "Eye protection" in finding.caution
    offered = remedies(before, finding)
    assert offered
    after = assess(offered[0].change(before.station))
    assert any(f.code == "housing-clear" for f in after.findings)
    assert after.rows[-1].speech_dbu > before.rows[-1].speech_dbu + 3


def test_an_electret_hears_through_its_case_too():
    mic = ElectretMicrophone.model_validate(
        {"id": "m", "name": "m", "housing": "in-case", "opening_mm": 2}
    )
    assert "opening_mm" not in mic.idle_fields()
    assert "opening_mm" in mic.with_values({"housing": "none"}).idle_fields()


def test_a_slit_resists_by_the_cube_of_its_height_and_by_its_width():
    """Flow between two plates: 12 μ l / (w h³) (Poiseuille; Beranek, Acoustics, ch. 5)."""
    plain = slit_resistance(1e-4, 1e-2)
    assert slit_resistance(0.5e-4, 1e-2) == pytest.approx(8 * plain)
    assert slit_resistance(1e-4, 2e-2) == pytest.approx(plain / 2)
    # 12 · 1.8e-5 Pa·s · l / (1e-2 m · 1e-12 m³), with l of some millimetres
    assert 1e7 < plain < 1e9
    assert slit_mass(1e-4, 2e-2) == pytest.approx(slit_mass(2e-4, 1e-2))
