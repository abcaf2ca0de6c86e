"""A tone and a whistle: frequency, harmonics, what is left."""

import numpy as np
import pytest

from tests.core.listen.signals import RATE, measured, spoken
from tonleiter.core.listen.tone import TERMS

T = np.arange(6 * RATE) / RATE


@pytest.mark.parametrize("second_db, third_db", [(-20, -30), (-45, -50), (-63, -63)])
@pytest.mark.parametrize("hertz", [440.0, 1003.7])
def test_harmonics_are_told_within_half_a_decibel(second_db, third_db, hertz):
    x = 0.3 * sum(
        10 ** (db / 20) * np.sin(2 * np.pi * k * hertz * T + k)
        for k, db in ((1, 0), (2, second_db), (3, third_db))
    )
    tone = measured(x).tone
    together = 10 * np.log10(10 ** (second_db / 10) + 10 ** (third_db / 10))
    assert tone.hertz == pytest.approx(hertz, abs=0.5)
    assert tone.thd_db == pytest.approx(together, abs=0.5)


def test_noise_beside_a_tone_counts_with_what_is_left_and_not_as_harmonics():
    rng = np.random.default_rng(4)
    x = 0.3 * np.sin(2 * np.pi * 1000 * T)
    x = x + rng.normal(0, 0.3 / np.sqrt(2) * 10 ** (-40 / 20), x.size)
    tone = measured(x).tone
    assert tone.thd_noise_db == pytest.approx(-40.0, abs=0.5)
    assert tone.thd_db < -55


def test_a_cut_sine_has_the_harmonics_of_its_series():
    """A square has all odd ones: 48.3 % by the series, less what lies over the band."""
    x = np.sign(np.sin(2 * np.pi * 200 * T)) * 0.4
    percent = measured(x).tone.thd_percent
    odd = np.sqrt(sum(1 / k**2 for k in range(3, int(0.98 * RATE / 2 / 200) + 1, 2)))
    assert percent == pytest.approx(100 * odd, rel=0.03)


def test_a_whistle_that_wavers_a_little_is_one():
    turns = 2 * np.pi * np.cumsum(1500 + 6 * np.sin(2 * np.pi * 5 * T)) / RATE
    tone = measured(0.2 * np.sin(turns)).tone
    assert tone.hertz == pytest.approx(1500, rel=0.01)
    assert tone.thd_db < -50


def test_speech_and_noise_are_no_tone():
    assert measured(spoken()).tone is None
    assert measured(np.random.default_rng(1).normal(0, 0.1, 5 * RATE)).tone is None


def test_side_lobes_of_the_window_lie_92_db_down():
    """Harris, Proc. IEEE 66, 1978, table 1: four terms, minimum; beyond the fourth bin."""
    n = 512
    turns = 2 * np.pi * np.arange(n) / n
    window = sum(c * np.cos(k * turns) for k, c in enumerate(TERMS))
    lobes = np.abs(np.fft.rfft(window, 64 * n))
    beyond = 20 * np.log10(lobes[4 * 64 :].max() / lobes[0])
    assert beyond == pytest.approx(-92.0, abs=0.5)
