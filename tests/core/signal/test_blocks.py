"""Filters, shelves and detectors against closed forms, and however the blocks are cut."""

import math

import numpy as np
import pytest

from tonleiter.core.signal.arrays import decibels, quick_size
from tonleiter.core.signal.detectors import Detector, Glide, Times
from tonleiter.core.signal.filters import Biquad, Fir, band_taps, low_taps, shelf

RATE = 12_000.0


def in_pieces(block, x, sizes):
    out, at = [], 0
    while at < x.size:
        size = sizes[len(out) % len(sizes)]
        out.append(block(x[at : at + size]))
        at += size
    return np.concatenate(out)


@pytest.mark.parametrize("up", [1, 2, 4])
@pytest.mark.parametrize("sizes", [(480,), (12, 960, 36), (7, 501), (5000,), (9000, 3, 4000)])
def test_a_filter_in_blocks_is_the_convolution(up, sizes):
    """A second at once goes through longer transforms than a block does."""
    rng = np.random.default_rng(1)
    x = rng.standard_normal(sum(sizes) if sum(sizes) > 5000 else 5000)
    taps = band_taps(300, 2700, RATE * up, 257)
    made = in_pieces(Fir(taps, 480, up), x, sizes)
    stuffed = np.zeros(x.size * up)
    stuffed[::up] = x
    wanted = np.convolve(stuffed, taps * up)[: stuffed.size]
    assert np.abs(made - wanted).max() < 1e-12


def test_one_sideband_passes_and_the_other_does_not():
    taps = band_taps(100, 2900, 24_000, 1025)
    spectrum = np.abs(np.fft.fft(taps, 24_000))
    assert decibels(spectrum[[300, 1500, 2700]]) == pytest.approx([0, 0, 0], abs=0.05)
    assert decibels(spectrum[[100, 2900]]) == pytest.approx([-6.02, -6.02], abs=0.1)
    assert decibels(spectrum[[-300, -1500, 0, 3000]]).max() < -60


def test_a_low_pass_is_half_at_its_edge():
    spectrum = np.abs(np.fft.fft(low_taps(3000, 12_000, 193), 12_000))
    assert spectrum[3000] == pytest.approx(0.5, abs=0.01)
    assert spectrum[100] == pytest.approx(1.0, abs=1e-3)
    assert decibels(spectrum[[3400, 5000]]).max() < -60


@pytest.mark.parametrize("gain_db", [-9.0, -3.0, 0.0, 6.0])
@pytest.mark.parametrize("high", [False, True])
def test_a_shelf_has_its_gain_at_one_end_and_none_at_the_other(gain_db, high):
    b, a = shelf(gain_db, 800.0, RATE, high)
    f = np.array([5.0, 5900.0])
    z = np.exp(-2j * np.pi * f / RATE)
    gains = decibels(np.abs(np.polyval(b[::-1], z) / np.polyval(a[::-1], z)))
    wanted = [0.0, gain_db] if high else [gain_db, 0.0]
    assert gains == pytest.approx(wanted, abs=0.1)
    # at its corner |H|² = (1 + v²) / 2, or one over that
    z = np.exp(-2j * np.pi * 800.0 / RATE)
    middle = decibels(np.abs(np.atleast_1d(np.polyval(b[::-1], z) / np.polyval(a[::-1], z))))
    v = 10 ** (abs(gain_db) / 20)
    wanted = 10 * math.log10((1 + v * v) / 2) * (1 if gain_db >= 0 else -1)
    assert middle[0] == pytest.approx(wanted, abs=0.05)


def test_a_biquad_carries_its_state_over():
    x = np.random.default_rng(2).standard_normal(3000)
    whole = Biquad(*shelf(6, 300, RATE, False))(x)
    assert np.allclose(in_pieces(Biquad(*shelf(6, 300, RATE, False)), x, (7, 480, 12)), whole)


def test_a_detector_rises_with_its_time_constant_hangs_and_falls_evenly():
    step = 1e-3
    follower = Detector(step, Times(0.02, hang_s=0.1, falls_per_s=30.0))
    up = follower(np.full(200, 10.0))
    # after one time constant 63 %
    assert up[19] == pytest.approx(10 * (1 - math.exp(-1)), rel=0.02)
    assert up[-1] == pytest.approx(10.0, rel=1e-3)
    down = follower(np.zeros(500))
    assert down[98] == pytest.approx(up[-1])
    # 30 dB a second: 0.2 s after the hang it has lost 6
    assert up[-1] - down[99 + 200] == pytest.approx(6.0, rel=0.02)


def test_a_gain_glides_from_step_to_step():
    made = Glide(4)(np.array([0.0, -20.0]))
    assert made[:4] == pytest.approx(1.0)
    assert decibels(made[4:]) == pytest.approx([-5, -10, -15, -20])


@pytest.mark.parametrize("n", [1, 2, 7, 97, 1025, 48_001, 104_729])
def test_a_quick_size_is_the_next_product_of_small_primes(n):
    size = quick_size(n)
    rest = size
    for prime in (2, 3, 5):
        while rest % prime == 0:
            rest //= prime
    assert rest == 1 and size >= n

    def small(k):
        for prime in (2, 3, 5):
            while k % prime == 0:
                k //= prime
        return k == 1

    assert not any(small(k) for k in range(n, size))
