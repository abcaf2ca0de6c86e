"""Two sounds at one volume: aligned by their active level, or as far apart as they arrived."""

import numpy as np
import pytest

from tonleiter.core.sound.beside import GAP_S, audible, beside
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import voice


def test_aligned_they_have_one_active_level_and_otherwise_their_own_distance():
    before, now = voice("high").times(0.02), voice("deep").times(0.1)
    alike = beside(before, now, aligned=True)
    apart = beside(before, now, aligned=False)

    def of(pair):
        return active_level(pair.before).level_db - active_level(pair.now).level_db

    assert of(alike) == pytest.approx(0.0, abs=0.05)
    # a fifth is 14 dB
    assert of(apart) == pytest.approx(-13.98, abs=0.1)
    assert alike.before_louder_db == apart.before_louder_db == pytest.approx(-13.98, abs=0.1)
    for pair in (alike, apart):
        assert max(np.abs(s.samples).max() for s in (pair.before, pair.now)) <= 1.0


def test_neither_is_cut_by_bringing_them_to_one_level():
    """A voice with high peaks decides over both: it is the distance that must stay."""
    before = voice("deep")
    now = voice("deep").times(1.0)  # a copy
    now.samples[now.samples.size // 2] = 60.0
    pair = beside(before, now, aligned=True)
    assert np.abs(pair.now.samples).max() == pytest.approx(1.0)


def test_in_turn_is_the_one_then_the_other():
    before, now = voice("high"), voice("deep")
    made = beside(before, now, aligned=True).in_turn()
    assert made.seconds == pytest.approx(before.seconds + GAP_S + now.seconds, abs=1e-3)


def test_noise_of_a_dead_microphone_stays_quiet():
    rng = np.random.default_rng(1)
    made = audible(voice("deep").times(0))
    assert np.abs(made.samples).max() == 0
    quiet = Sound(1e-3 * rng.standard_normal(50_000), 12_000)
    # 1/1000 of full power comes up by 14 at most
    assert np.abs(audible(quiet).samples).max() < 0.1
