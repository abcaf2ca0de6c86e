"""Loudness and true peak against the published cases of EBU Tech 3341, in one channel."""

import numpy as np
import pytest

from tests.core.listen.signals import measured

# the cases have two channels alike: one alone is half the power
ALONE = 3.01


def tone(parts, rate, hertz=1000.0):
    """Levels in dBFS, each for so many seconds, of a tone that goes on."""
    sizes = np.concatenate([np.full(round(s * rate), 10 ** (db / 20)) for db, s in parts])
    return sizes * np.sin(2 * np.pi * hertz * np.arange(sizes.size) / rate)


CASES = (
    ("1", ((-23, 20),), -23.0),
    ("2", ((-33, 20),), -33.0),
    ("3", ((-36, 10), (-23, 60), (-36, 10)), -23.0),
    ("4", ((-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)), -23.0),
    ("5", ((-26, 20), (-20, 20.1), (-26, 20)), -23.0),
)


@pytest.mark.table(keep=6)
@pytest.mark.parametrize("name, parts, lufs", CASES)
def test_the_gates_are_those_of_the_recommendation(name, parts, lufs):
    made = measured(tone(parts, 48_000), 48_000).loudness
    assert made.value == pytest.approx(lufs - ALONE, abs=0.1)


@pytest.mark.parametrize("rate", [8_000, 11_025, 44_100, 96_000, 192_000])
def test_any_rate_is_weighted_alike(rate):
    made = measured(tone(((-23, 6),), rate, 997.0), rate).loudness
    assert made.value == pytest.approx(-23.0 - ALONE, abs=0.1)


@pytest.mark.parametrize(
    "share, turn, size, dbtp",
    [(4, 0.0, 0.5, -6.0), (4, 45.0, 0.5, -6.0), (6, 60.0, 0.5, -6.0), (8, 67.5, 0.5, -6.0),
     (4, 45.0, 1.41, 3.0)],
)  # fmt: skip
def test_what_lies_between_samples_is_seen(share, turn, size, dbtp):
    """Cases 15 to 19: a sine at a part of the rate, whose samples miss its top."""
    x = size * np.sin(2 * np.pi * np.arange(48_000 * 3) / share + np.deg2rad(turn))
    assert measured(x, 48_000).true_peak.value == pytest.approx(dbtp, abs=0.3)


def test_what_no_gate_lets_through_is_told_to_be_so():
    made = measured(tone(((-71, 5),), 48_000), 48_000).loudness
    assert made.value is None
    assert made.why
