"""Two recordings: aligned, what changed, in words; blind trials by arithmetic."""

import math

import numpy as np
import pytest

from tests.core.listen.signals import RATE, banded, lines, measured, noise, spoken
from tonleiter.core.listen.blind import MOST_TRIALS, TrialError, Trials, luck, preferred
from tonleiter.core.listen.compare import Comparison, fine_shift


def compared(one, other):
    return Comparison(measured(one), measured(other))


@pytest.mark.parametrize("late_s", [0.0, 0.31, 1.7, -0.9])
@pytest.mark.table(keep=4)
def test_the_same_words_lie_on_each_other(late_s):
    x = spoken() + noise(spoken().size, 45)
    n = round(abs(late_s) * RATE)
    gap = noise(n, 45, seed=5)
    other = np.concatenate([gap, x]) if late_s >= 0 else x[n:]
    made = compared(x, 0.3 * banded(other, 300, 2700)).aligned
    assert made.same_words
    assert made.late_s == pytest.approx(late_s, abs=0.011)


@pytest.mark.parametrize("late", [0, 7, 480.25, -333.5])
def test_to_a_tenth_of_a_millisecond_by_the_waves(late):
    x = banded(spoken(), 200, 3000)
    n = x.size + RATE
    f = np.fft.rfftfreq(n)
    other = np.fft.irfft(np.fft.rfft(x, n) * np.exp(-2j * np.pi * f * late), n)[: x.size]
    found = fine_shift(x, other, RATE, round(late / RATE, 2), 0.02)
    assert found == pytest.approx(late / RATE, abs=1e-5)


def test_other_words_are_told():
    x = spoken()
    assert not compared(x, spoken("high")[::-1].copy()).aligned.same_words


@pytest.mark.long
def test_what_changed_is_said_with_its_figures():
    x = spoken() + noise(spoken().size, 55)
    hum = x + lines(x.size, 50, ((1, 1.0), (2, 1.0)), 30)
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    dull = np.fft.irfft(np.fft.rfft(x) / (1 + (f / 900) ** 3), x.size)
    made = compared(hum, 0.5 * dull)
    text = made.headline()
    assert "no longer hum" in text
    assert "muffled" in text
    assert made.louder_db < -6
    by = {c.title: c for c in made.changes}
    assert by["Treble"].clear
    assert by["Treble"].by.value < -8


def test_nothing_is_claimed_of_the_same_recording_with_other_noise():
    x = spoken()
    made = compared(x + noise(x.size, 45, 1), x + noise(x.size, 45, 2))
    assert not any(c.clear for c in made.changes)
    assert "no difference" in made.headline()


def test_levels_aligned_the_spectra_differ_by_what_was_done():
    x = spoken()
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    louder = np.fft.irfft(np.fft.rfft(x) * np.where((f > 1400) & (f < 2900), 10 ** (6 / 20), 1.0),
                          x.size)  # fmt: skip
    freq, by = compared(x, louder).spectrum_db
    inside, below = (freq > 1600) & (freq < 2500), (freq > 200) & (freq < 900)
    assert by[inside].mean() - by[below].mean() == pytest.approx(6, abs=0.3)


def test_silence_cannot_be_compared():
    text = compared(spoken(), np.zeros(3 * RATE)).headline()
    assert text == "They cannot be compared: it is silent."


# --- blind trials --------------------------------------------------------------------------------


def test_luck_is_the_binomials_tail():
    assert luck(0, 0) == 1.0
    assert luck(5, 5) == pytest.approx(1 / 32)
    assert luck(6, 7) == pytest.approx(8 / 128)
    assert luck(7, 10) == pytest.approx(sum(math.comb(10, k) for k in (7, 8, 9, 10)) / 1024)


def test_who_hears_it_settles_it_and_who_does_not_is_told():
    trials = Trials.begun()
    for _ in range(5):
        trials = trials.answer(trials.x)
    assert trials.settled
    assert trials.more is None
    assert "a difference is heard" in trials.said()
    other = Trials.begun()
    other = other.answer("A" if other.x == "B" else "B")
    assert not other.settled
    # one wrong: eight in all are wanted, 7 of 8 is 3.5 %
    assert other.more == 7
    assert "luck alone" in other.said()


def test_the_order_is_nowhere_to_be_seen_and_another_each_time():
    trials = Trials.begun()
    assert repr(trials) == "Trials(0 answers)"
    orders = {tuple(_of(Trials.begun())) for _ in range(6)}
    assert len(orders) == 6


def _of(trials):
    while len(trials.given) < 20:
        yield trials.x
        trials = trials.answer("A")


def test_after_the_last_one_nothing_is_answered():
    trials = Trials.begun()
    for _ in range(MOST_TRIALS):
        trials = trials.answer("A")
    with pytest.raises(TrialError):
        trials.answer("A")
    with pytest.raises(TrialError):
        _ = trials.x


def test_preferences_of_several_with_their_interval():
    """Wilson's interval for 8 of 10: 0.490 to 0.943."""
    share, low, high = preferred(2, 8)
    assert share == 0.8
    assert low == pytest.approx(0.490, abs=0.001)
    assert high == pytest.approx(0.943, abs=0.001)
    assert preferred(0, 0) == (0.5, 0.0, 1.0)
