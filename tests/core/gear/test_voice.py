import math

import numpy as np
import pytest

from tonleiter.core.circuit.noise import band_power, spectra
from tonleiter.core.gear.voice import (
    a_weighting_db,
    distance_for_mm,
    nearer_db,
    room_spectrum,
    speech_density_db,
    speech_pressure_pa,
    speech_weights,
    white_self_noise_pa2_per_hz,
)

GRID = np.logspace(math.log10(20), math.log10(20_000), 200)


def test_reference_voice_of_itu_t_p64():
    assert speech_pressure_pa(25) == pytest.approx(10 ** (-4.7 / 20))
    assert 20 * math.log10(speech_pressure_pa(25) / 20e-6) == pytest.approx(89.3, abs=0.03)


def test_level_falls_from_a_point_behind_the_lips():
    assert speech_pressure_pa(60) == pytest.approx(speech_pressure_pa(25) / 2)
    nearer = 20 * math.log10(speech_pressure_pa(250) / speech_pressure_pa(500))
    assert nearer == pytest.approx(6.0, abs=0.2)  # far away, halving gains nearly 6 dB


def test_coming_closer_by_the_same_law():
    # 90 mm and 25 mm from the lips are 100 mm and 35 mm from where the voice comes from
    assert nearer_db(90, 25) == pytest.approx(20 * math.log10(100 / 35))
    assert distance_for_mm(90, 20 * math.log10(2)) == pytest.approx(40)
    moved = speech_pressure_pa(distance_for_mm(300, 7.0)) / speech_pressure_pa(300)
    assert 20 * math.log10(moved) == pytest.approx(7.0)


@pytest.mark.parametrize(("effort", "db"), [("soft", -6), ("raised", 6), ("loud", 12)])
def test_vocal_effort(effort, db):
    ratio = speech_pressure_pa(25, effort) / speech_pressure_pa(25)
    assert 20 * math.log10(ratio) == pytest.approx(db)


@pytest.mark.parametrize(
    ("f_hz", "db"),
    # IEC 61672-1 table 3, at the exact frequencies 10^(n/10) that its nominal ones stand for
    [(31.623, -39.4), (100, -19.1), (251.19, -8.6), (1000, 0.0), (1995.3, 1.2), (7943.3, -1.1)],
)
def test_a_weighting(f_hz, db):
    assert float(a_weighting_db(np.array([f_hz]))[0]) == pytest.approx(db, abs=0.1)


def test_speech_spectrum_peaks_at_a_few_hundred_hertz_and_falls_towards_the_top():
    density = speech_density_db(np.array([100.0, 400.0, 1000.0, 4000.0, 8000.0]))
    assert density[1] > density[0] > density[3] > density[4]
    # Byrne et al. 1994: the long-term spectrum falls by some 25 to 30 dB from 500 Hz to 6.3 kHz
    fall = np.diff(speech_density_db(np.array([6300.0, 500.0])))[0]
    assert 20 < fall < 40


def test_speech_weights_sum_to_one_inside_the_band():
    weights = speech_weights(GRID)
    assert weights.sum() == pytest.approx(1)
    assert weights[GRID < 100].max() == 0
    assert weights[GRID > 8000].max() == 0


@pytest.mark.parametrize("dba", [35, 50, 65])
def test_room_noise_measures_what_it_says(dba):
    f = np.logspace(math.log10(20), math.log10(20_000), 3000)
    psd = spectra([room_spectrum(dba)], f)[0] * 10 ** (a_weighting_db(f) / 10)
    measured = 10 * math.log10(float(band_power(psd, f)) / (20e-6) ** 2)
    assert measured == pytest.approx(dba, abs=0.05)


def test_room_noise_falls_five_decibels_an_octave():
    psd = spectra([room_spectrum(40)], np.array([500.0, 1000.0]))[0]
    assert 10 * math.log10(psd[0] / psd[1]) == pytest.approx(5.0)


def test_white_self_noise_measures_what_it_says():
    f = np.logspace(math.log10(20), math.log10(20_000), 3000)
    psd = white_self_noise_pa2_per_hz(30) * 10 ** (a_weighting_db(f) / 10)
    assert 10 * math.log10(float(band_power(psd, f)) / 4e-10) == pytest.approx(30, abs=0.05)
