"""One channel of the scope by itself: where a tone is cut, how large the tone in it is."""

import numpy as np
import pytest

from tonleiter.core.bench.scope import PERIODS, POINTS, Trace

TURN = 2 * np.pi * np.arange(PERIODS * POINTS + 1) / POINTS


def trace(volts):
    return Trace("out", np.asarray(volts, float), 0.0, 1.0)


@pytest.mark.parametrize(
    ("low", "high", "says"),
    [
        (-9.0, 9.0, ""),
        # a third of the way gone on one side: a good quarter of a period is flat there
        (-9.0, 0.6, "on top"),
        (-0.6, 9.0, "below"),
        (-0.6, 0.6, "on both sides"),
        # just touched: a sine itself is that flat at its top
        (-9.0, 0.98, ""),
    ],
)
def test_it_says_where_it_is_flat(low, high, says):
    assert trace(np.clip(np.sin(TURN), low, high)).flat == says


def test_of_nothing_it_says_nothing():
    assert trace(np.zeros(TURN.size)).flat == ""
    assert trace(np.zeros(TURN.size)).peak_to_peak_v == 0.0


def test_the_tone_is_its_first_harmonic():
    sine = trace(0.3 * np.sin(TURN + 0.4) + 2.0)
    assert sine.tone_v() == pytest.approx(0.3, rel=1e-6)
    assert sine.peak_to_peak_v == pytest.approx(0.6, rel=0.01)
    # a square of one volt has 4/π of it
    square = trace(np.sign(np.sin(TURN + 1e-3)))
    assert square.tone_v() == pytest.approx(4 / np.pi, rel=0.01)
    # and its second harmonic is none of it
    both = trace(0.3 * np.sin(TURN) + 0.5 * np.sin(2 * TURN))
    assert both.tone_v() == pytest.approx(0.3, rel=1e-6)
