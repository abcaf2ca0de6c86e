"""A loop measured on signals whose gain, noise, delay and holes are known."""

import numpy as np
import pytest

from tonleiter.core.desk.probe import (
    SWEEP_HZ,
    Clocked,
    NothingCameBackError,
    SamplesLostError,
    measured,
    probe,
)

RATE = 48_000


def back(gain_db, delay_s, noise_dbfs=None, level_dbfs=-20.0, rate=RATE):
    """The probe, later by a part of a sample as well, with noise of its own."""
    sent = probe(rate, level_dbfs)
    n = sent.size + rate
    f = np.fft.rfftfreq(n, 1 / rate)
    late = np.fft.irfft(np.fft.rfft(sent, n) * np.exp(-2j * np.pi * f * delay_s), n)
    came = late * 10 ** (gain_db / 20)
    if noise_dbfs is not None:
        rng = np.random.default_rng(3)
        came = came + rng.normal(0, 10 ** (noise_dbfs / 20) / np.sqrt(2), n)
    return came


@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000])
@pytest.mark.parametrize("gain_db, delay_s", [(0.0, 0.0), (-31.7, 0.0123456), (6.0, 0.4)])
def test_gain_and_delay_are_found(rate, gain_db, delay_s):
    made = measured(back(gain_db, delay_s, rate=rate), rate, -20.0)
    assert made.gain_db == pytest.approx(gain_db, abs=0.02)
    assert made.delay_s == pytest.approx(delay_s, abs=0.0005)
    assert not made.at_full_scale


def test_noise_is_told_and_does_not_count_as_level():
    made = measured(back(-20.0, 0.05, noise_dbfs=-55.0), RATE, -20.0)
    assert made.noise_dbfs == pytest.approx(-55.0, abs=0.3)
    assert made.gain_db == pytest.approx(-20.0, abs=0.1)
    assert made.delay_s == pytest.approx(0.05, abs=0.001)


def test_a_lead_turned_round_is_measured_as_well():
    assert measured(-back(-6.0, 0.03), RATE, -20.0).delay_s == pytest.approx(0.03, abs=0.001)


def test_what_is_cut_is_told():
    assert measured(np.clip(back(25.0, 0.01), -1, 1), RATE, -20.0).at_full_scale


def test_lost_samples_are_no_level():
    came = back(0.0, 0.05)
    hole = round(1.6 * RATE)
    with pytest.raises(SamplesLostError, match="lost"):
        measured(np.concatenate([came[:hole], came[hole + 1234 :]]), RATE, -20.0)


@pytest.mark.parametrize("hole_s", [0.004, 0.012, 0.1])
def test_a_hole_of_whole_turns_leaves_the_phase_and_is_no_level(hole_s):
    """A server that had nothing to play puts silence there, by whole milliseconds."""
    came = back(0.0, 0.05)
    hole = round(1.6 * RATE)
    came[hole : hole + round(hole_s * RATE)] = 0.0
    with pytest.raises(SamplesLostError, match="lost"):
        measured(came, RATE, -20.0)


@pytest.mark.parametrize("noise", [0.0, 1e-5])
def test_a_tone_that_did_not_come_while_its_sweep_did_is_no_level(noise):
    """A server that stops after the sweep: silence has no holes, and no level."""
    came = back(0.0, 0.05) + np.random.default_rng(1).normal(0, noise, back(0.0, 0.05).size)
    came[round(0.9 * RATE) : round(2.3 * RATE)] *= 1e-6
    with pytest.raises(SamplesLostError, match="lost"):
        measured(came, RATE, -20.0)


@pytest.mark.table(keep=2)
@pytest.mark.parametrize("noise_dbfs", [-60.0, -40.0, -30.0, -26.0])
def test_noise_is_no_hole(noise_dbfs):
    for seed in range(20):
        rng = np.random.default_rng(seed)
        sent = back(0.0, 0.03)
        came = sent + rng.normal(0, 10 ** (noise_dbfs / 20) / np.sqrt(2), sent.size)
        # the fit's own spread: the tone's 0.8 s let noise in over some 2 Hz of 24 kHz
        assert measured(came, RATE, -20.0).gain_db == pytest.approx(0.0, abs=0.12)


def test_clocks_that_drift_are_no_lost_samples():
    """Two crystals 100 millionths apart: the phase goes evenly."""
    came = back(0.0, 0.05)
    at = np.arange(came.size - 50) * (1 + 1e-4)
    made = measured(np.interp(at, np.arange(came.size), came), RATE, -20.0)
    assert made.gain_db == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize(
    "came",
    [
        np.zeros(4 * RATE),
        np.random.default_rng(1).normal(0, 0.1, 4 * RATE),
        np.zeros(10),
        np.full(4 * RATE, np.nan),
        probe(RATE, -20.0)[: RATE],
    ],
)  # fmt: skip
def test_where_nothing_comes_back_it_is_said(came):
    with pytest.raises(NothingCameBackError):
        measured(came, RATE, -20.0)


def test_streams_that_began_apart_are_put_on_one_clock():
    """Sending began at 10 s; recording at 9.4 s, and what came was 70 ms on its way."""
    came = np.concatenate([np.zeros(round(0.6 * RATE)), back(0.0, 0.07)])
    sent_at = Clocked((0, 10 * RATE), (10.0, 20.0))
    came_at = Clocked((0, 10 * RATE), (9.4, 19.4))
    assert measured(came, RATE, -20.0, sent_at, came_at).delay_s == pytest.approx(0.07, abs=1e-3)


@pytest.mark.parametrize("part", [0.0, 0.25, 0.5, 0.8])
def test_the_delay_is_found_between_samples(part):
    """A parabola through the highest three of a peak errs by hundredths of a sample."""
    made = measured(back(0.0, (2400 + part) / RATE), RATE, -20.0)
    assert made.delay_s * RATE == pytest.approx(2400 + part, abs=0.1)


def test_the_sweep_stays_within_speech_and_covers_it_evenly():
    """A chirp's power lies between its ends, the same in each part that has no tone in it."""
    sent = probe(RATE, -20.0)
    power = np.abs(np.fft.rfft(sent)) ** 2
    f = np.fft.rfftfreq(sent.size, 1 / RATE)
    low, high = SWEEP_HZ
    assert power[(f > low - 100) & (f < high + 100)].sum() > 0.98 * power.sum()
    parts = [power[(f >= a) & (f < a + 300)].mean() for a in (600, 1150, 1600, 2100)]
    assert max(parts) < 1.5 * min(parts)
