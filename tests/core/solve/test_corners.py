"""Corners of a response: first order, shelves, resonances."""

import numpy as np
import pytest

from tonleiter.core.solve.corners import corners_hz

F = np.geomspace(20, 20_000, 400)


def high_pass(corner, order=1):
    return -10 * np.log10(1 + (corner / F) ** (2 * order))


def low_pass(corner):
    return -10 * np.log10(1 + (F / corner) ** 2)


@pytest.mark.parametrize("corner", [45.0, 150.0, 240.0])
def test_first_order_corners_below_speech(corner):
    low, high = corners_hz(F, high_pass(corner))
    # by 3 kHz the response has risen to within a fraction of a decibel of its end
    assert low == pytest.approx(corner, rel=0.03)
    assert high is None


def test_both_ends_at_once():
    low, high = corners_hz(F, high_pass(80, order=2) + low_pass(9000))
    assert low == pytest.approx(80, rel=0.05)
    assert high == pytest.approx(9000, rel=0.05)


def test_flat_has_none():
    assert corners_hz(F, np.zeros_like(F)) == (None, None)


@pytest.mark.parametrize("depth", [4.0, 9.0])
def test_a_shelf_is_no_corner(depth):
    down = 10 ** (-depth / 20)
    s = 1j * F / 2000
    shelf = 20 * np.log10(np.abs((s + down) / (s + 1)))
    assert corners_hz(F, shelf)[0] is None


def test_a_resonance_is_no_corner_and_hides_none():
    q, f0 = 4.0, 2000.0
    ratio = F / f0
    peak = -20 * np.log10(np.abs(1 - ratio**2 + 1j * ratio / q))
    rising = np.where(f0 > F, peak, 12.0)
    low, _ = corners_hz(F, rising + high_pass(100))
    assert low == pytest.approx(100, rel=0.15)


def test_a_shelf_above_a_real_corner_leaves_the_corner():
    s = 1j * F / 2500
    shelf = 20 * np.log10(np.abs((s + 0.6) / (s + 1)))
    low, _ = corners_hz(F, shelf + high_pass(50))
    # the level it is taken from lies two octaves below the shelf, a decibel down the real slope
    assert low == pytest.approx(50, rel=0.25)
