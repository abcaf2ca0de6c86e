"""Recursive filters against the library's own, whole and in blocks of any size."""

import numpy as np
import pytest

from tonleiter.core.signal.recursive import one_pole, recursive


@pytest.mark.parametrize("order", [1, 2, 3])
@pytest.mark.parametrize("block", [1, 2, 3, 7, 480, 5000])
def test_it_is_the_difference_equation_whatever_the_blocks(order, block):
    from scipy.signal import (
        butter,
        lfilter,
    )  # read when it is wanted

    b, a = butter(order, 0.1)
    x = np.random.default_rng(order).standard_normal(5000)[: max(20 * block, 100)]
    b, a = 2 * b, 2 * a  # a0 need not be one
    made, state = [], np.zeros(order)
    for k in range(0, x.size, block):
        y, state = recursive(b, a, x[k : k + block], state)
        made.append(y)
    wanted, last = lfilter(b, a, x, zi=np.zeros(order))
    assert np.concatenate(made) == pytest.approx(wanted, abs=1e-12)
    assert state == pytest.approx(last, abs=1e-12)


def test_nothing_in_is_nothing_out_and_the_state_stays():
    y, state = recursive(np.ones(3), np.array([1.0, 0.1, 0.2]), np.zeros(0), np.array([0.5, 0.2]))
    assert y.size == 0
    assert list(state) == [0.5, 0.2]


def test_one_pole_rises_as_an_exponential():
    """After n samples of one it has come to 1 − keepsⁿ."""
    made = one_pole(np.ones(300), 0.98)
    assert made == pytest.approx(1 - 0.98 ** np.arange(1, 301))
