"""Off frequency, an echo, a compressor that pumps: made, then told; and not where they are not."""

import random

import numpy as np
import pytest
from fuzz.listening import MARRED, clean

from tests.core.listen.signals import measured


def shifted(x, rate, by_hz):
    """Every frequency moved by so much: one sideband, its carrier put back wrong."""
    spectrum = np.fft.fft(x)
    spectrum[x.size // 2 :] = 0.0
    turned = np.fft.ifft(2 * spectrum) * np.exp(2j * np.pi * by_hz * np.arange(x.size) / rate)
    return turned.real


@pytest.mark.table(keep=3)
@pytest.mark.parametrize("by_hz", [-30, 0, 25])
@pytest.mark.parametrize("seed", [1, 2, 5, 8])
def test_a_sideband_off_by_some_hertz_is_told_within_ten(by_hz, seed):
    x, rate, _ = clean(random.Random(seed))
    assert measured(shifted(x, rate, by_hz), rate).off_hz.value == pytest.approx(by_hz, abs=10)


def test_where_no_pitch_is_to_be_seen_none_is_told():
    rng = np.random.default_rng(3)
    # noise that comes and goes as speech does, without any pitch
    steps = np.repeat(rng.choice((0.01, 0.1, 0.3), 60), 4_000)
    made = measured(steps * rng.normal(0, 0.3, steps.size), 24_000).off_hz
    assert made.value is None
    assert "pitch" in made.why


@pytest.mark.parametrize("late_s", [0.07, 0.15, 0.31])
def test_an_echo_is_found_with_its_delay(late_s):
    x, rate, _ = clean(random.Random(4))
    late = round(late_s * rate)
    again = x.copy()
    again[late:] += 0.6 * x[:-late]
    made = measured(again, rate)
    assert made.echo_s == pytest.approx(late_s, abs=0.003)
    assert made.echo.value > 0.14
    assert measured(x, rate).echo.value < 0.14


def test_what_a_compressor_lets_up_between_words_is_told_in_decibels():
    rng = random.Random(6)
    x, rate, _ = clean(rng)
    assert measured(x, rate).rise.value < 5
    assert measured(MARRED["pumping"](x, rate, rng), rate).rise.value > 9
