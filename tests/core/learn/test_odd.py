"""Which readings do not fit, against conditional normals by hand."""

import numpy as np
import pytest

from tonleiter.core.learn.odd import STRANGE, _off, left_out
from tonleiter.core.learn.reading import Reading

SIZE = 40_000


def read(*values, sd=0.5):
    return [Reading("knob", None, v, sd, str(v)) for v in values]


def alike(rng, count, apart=0.0):
    """Readings of one thing: they differ by their errors, and by a little of their own."""
    one = rng.normal(size=(SIZE, 1))
    return np.hstack([one] * count) + apart * rng.normal(size=(SIZE, count))


def test_off_is_the_conditional_normal_s():
    """Two readings of one standard normal thing with errors of a half.

    Given the second reads b, the first is b/1.25 on average, with variance 1.25 − 1/1.25.
    """
    told = alike(np.random.default_rng(1), 2)
    off = _off(told, np.array([2.0, 1.0]), np.array([0.5, 0.5]))
    by_hand = (2.0 - 1.0 / 1.25) / np.sqrt(1.25 - 1 / 1.25)
    assert off[0] == pytest.approx(by_hand, rel=0.03)


def test_the_one_among_four_that_the_others_contradict_is_left_out():
    told = alike(np.random.default_rng(2), 4)
    assert left_out(told, read(0.3, 0.1, 3.5, -0.2)) == (2,)


def test_two_that_do_not_fit_are_both_left_out_and_three_are_nobody_s_fault():
    told = alike(np.random.default_rng(3), 7)
    assert set(left_out(told, read(0.1, 4.0, 0.3, -4.0, 0.0, 0.2, -0.1))) == {1, 3}
    scattered = read(0.1, 5.0, -5.0, 9.0, -9.0, 0.2, 0.0)
    assert left_out(told, scattered) == ()


@pytest.mark.long
def test_right_ones_are_accused_as_seldom_as_is_meant():
    """Readings that are right, in sets of six: one set in thirty is suspected, no more."""
    rng = np.random.default_rng(4)
    told = alike(rng, 6, apart=0.3)
    accused = 0
    for k in range(600):
        values = told[k] + 0.5 * rng.normal(size=6)
        accused += bool(left_out(told, read(*values)))
    assert accused / 600 < 1.8 * STRANGE


@pytest.mark.long
def test_off_by_five_errors_it_is_found_where_the_others_tell_it():
    rng = np.random.default_rng(5)
    told = alike(rng, 6)
    found = 0
    for k in range(300):
        values = told[k] + 0.5 * rng.normal(size=6)
        at = k % 6
        values[at] += 5 * 0.5 * rng.choice((-1, 1))
        found += left_out(told, read(*values)) == (at,)
    assert found / 300 > 0.9


def test_one_alone_is_held_against_the_figures_and_they_may_be_wrong():
    told = alike(np.random.default_rng(6), 1)
    assert left_out(told, read(2.6)) == ()
    assert left_out(told, read(5.0)) == (0,)
