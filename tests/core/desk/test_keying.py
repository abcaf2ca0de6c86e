"""What keys a transmitter for what is sent: margin, delay and hang by their definitions."""

import numpy as np
import pytest

from tonleiter.core.desk.keying import BY_LINE, Switch, keyed_by_voice

RATE = 16_000


def tone(level_db, seconds=1.0, hertz=(1500.0,)):
    t = np.arange(round(seconds * RATE)) / RATE
    x = sum(np.sin(2 * np.pi * f * t + k) for k, f in enumerate(hertz))
    return x / np.sqrt(np.mean(x**2)) * 10 ** (level_db / 20)


@pytest.mark.parametrize("attack_s", [0.003, 0.01, 0.03])
@pytest.mark.parametrize("hang_s", [0.03, 0.25, 1.2])
def test_a_steady_tone_has_to_spare_what_it_lies_over_the_threshold(attack_s, hang_s):
    keyed = keyed_by_voice(tone(-20), RATE, Switch(-32, attack_s, hang_s))
    assert keyed.spare_db == pytest.approx(12, abs=0.3)
    assert keyed.tail_s == pytest.approx(hang_s, abs=0.005)
    # a detector of one time constant reaches a quarter of the level after 0.29 of it
    assert keyed.opens_after_s == pytest.approx(-attack_s * np.log(1 - 10 ** (-12 / 20)), abs=0.004)
    assert keyed.gaps == 0


@pytest.mark.parametrize("hertz", [(1500.0,), (1475.0, 1525.0), (1200.0,), (600.0, 660.0)])
@pytest.mark.parametrize("hang_s", [0.04, 0.5])
def test_what_is_to_spare_is_what_it_may_fall_until_it_lets_go(hertz, hang_s):
    """Turned down by a little less it keys all through; by a little more it does not."""
    switch = Switch(-35, 0.01, hang_s)
    spare = keyed_by_voice(tone(-20, hertz=hertz), RATE, switch).spare_db

    def through(down_db):
        keyed = keyed_by_voice(tone(-20 - down_db, hertz=hertz), RATE, switch)
        return keyed.keys and keyed.gaps == 0 and keyed.tail_s > 0.9 * hang_s - 0.025

    assert through(spare - 0.3)
    assert not through(spare + 0.3)


def test_pauses_within_what_is_sent_want_a_longer_hang():
    words = np.concatenate([tone(-20, 0.3), np.zeros(round(0.2 * RATE)), tone(-20, 0.3)])
    assert keyed_by_voice(words, RATE, Switch(-40, 0.01, 0.1)).gaps == 1
    assert keyed_by_voice(words, RATE, Switch(-40, 0.01, 0.3)).gaps == 0


def test_what_never_opens_loses_nothing_of_a_reply():
    keyed = keyed_by_voice(tone(-50), RATE, Switch(-40, 0.01, 0.5))
    assert not keyed.keys
    assert keyed.spare_db == pytest.approx(-10, abs=0.3)
    assert keyed.lost_s(0.1) == 0


def test_a_tail_loses_what_of_it_is_longer_than_the_answer_waits():
    keyed = keyed_by_voice(tone(-20), RATE, Switch(-40, 0.01, 0.6))
    assert keyed.lost_s(0.2) == pytest.approx(0.4, abs=0.005)
    assert keyed.lost_s(0.7) == 0
    assert BY_LINE.lost_s(0.0) == 0


@pytest.mark.parametrize("samples", [np.zeros(0), np.zeros(5), np.ones(3)])
def test_next_to_nothing_is_no_traceback(samples):
    keyed = keyed_by_voice(samples, RATE, Switch(-40, 0.01, 0.1))
    assert np.isfinite(keyed.spare_db)
