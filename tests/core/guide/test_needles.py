"""Needles of a live set: how they rise, fall and follow, on whatever scale they are."""

from itertools import pairwise

import numpy as np
import pytest

from tonleiter.core.guide.live import Live
from tonleiter.core.guide.meters import Scale
from tonleiter.core.radio.ssb import AUDIO_HZ, BLOCK
from tonleiter.core.station.settings import PanelState


class Stand:
    """A set whose meters show what is said beforehand, block by block."""

    rate_hz = AUDIO_HZ

    def __init__(self, shown, size=3 * BLOCK + 7):
        self.scales = {"alc": Scale("alc", 15.0), "power": Scale("power", 20.0, "mean")}
        self.shown, self.size, self.got, self.turned = list(shown), size, [], []

    def turn(self, panel):
        self.turned.append(panel)

    def volts(self, panel):
        return np.arange(self.size, dtype=float) * (1 if panel == PanelState() else -1)

    def send(self, audio):
        self.got.append(audio)
        now = self.shown.pop(0)
        return {"alc": now, "power": now}, np.zeros(BLOCK, dtype=complex)


def needles(*shown):
    live = Live(Stand(shown), PanelState())
    return [live.step().values for _ in shown]


def test_a_peak_is_shown_at_once_and_its_whole_scale_is_fallen_through_in_about_a_second():
    blocks = 20
    seen = [v["alc"] for v in needles(12.0, *[0.0] * blocks)]
    assert seen[0] == 12.0
    fallen = [a - b for a, b in pairwise(seen)]
    assert fallen == pytest.approx([fallen[0]] * blocks)
    assert 0.7 <= 15.0 / fallen[0] * BLOCK / AUDIO_HZ <= 1.5


def test_a_falling_needle_ends_at_rest_and_a_higher_peak_takes_it_up_again():
    seen = [v["alc"] for v in needles(1.0, *[0.0] * 40, 4.0, 3.99, 9.0)]
    assert seen[40] == 0.0
    assert min(seen) == 0.0
    assert seen[41] == 4.0
    assert 3.5 < seen[42] < 4.0
    assert seen[43] == 9.0


def test_a_mean_is_followed_and_comes_to_it_within_a_fraction_of_a_second():
    seen = [v["power"] for v in needles(*[10.0] * 40, *[2.0] * 40)]
    assert all(a < b for a, b in pairwise(seen[:20]))
    # each block closes the same share of what is left: neither a jump nor a crawl
    left = [10.0 - s for s in seen[:6]]
    assert [b / a for a, b in pairwise(left)] == pytest.approx([left[0] / 10.0] * 5)
    assert 0.4 < left[0] / 10.0 < 0.9
    half_a_second = round(0.5 * AUDIO_HZ / BLOCK)
    assert seen[half_a_second] == pytest.approx(10.0, rel=0.05)
    assert seen[40 + half_a_second] == pytest.approx(2.0, rel=0.05)


def test_the_voice_goes_round_without_a_gap():
    stand = Stand([0.0] * 5)
    live = Live(stand, PanelState())
    for _ in range(5):
        live.step()
    sent = np.concatenate(stand.got)
    assert sent.size == 5 * BLOCK
    assert np.array_equal(sent, np.arange(5 * BLOCK) % stand.size)


def test_a_turn_reaches_the_set_and_what_goes_round():
    stand = Stand([0.0] * 2)
    live = Live(stand, PanelState())
    live.step()
    other = PanelState(knobs={"gain": 3})
    live.turn(other)
    live.step()
    assert stand.turned == [other]
    assert stand.got[0].min() >= 0
    assert stand.got[1].max() <= 0
