"""Compressors on speech: the stored envelope against runs sample by sample on other waveforms."""

import math

import numpy as np
import pytest

from tonleiter.core.gear.transfer import Compression
from tonleiter.core.solve.dynamics import plain

RATE = 8000.0
SECONDS = 16.0
QUICK, SLOW = (3e-3, 0.25), (10e-3, 0.5)


def waveform(seed):
    """Voiced noise under a random syllable train, phrases of about a second, pauses between.

    Nothing of it is shared with the stored envelope: random syllables, a carrier of filtered noise.
    """
    rng = np.random.default_rng(seed)
    count = int(RATE * SECONDS)
    t = np.arange(count) / RATE
    speaking = np.zeros(count, dtype=bool)
    level = np.full(count, -60.0)
    at = 0.0
    while at < SECONDS:
        end = at + rng.uniform(0.8, 1.4)
        syllable = at
        while syllable < end:
            long = rng.uniform(0.12, 0.3)
            inside = (t >= syllable) & (t < min(syllable + long, end))
            bump = 8 * np.sin(np.pi * np.clip((t[inside] - syllable) / long, 0, 1)) - 8
            level[inside] = np.maximum(level[inside], rng.normal(0.0, 3.0) + 1.2 * bump)
            syllable += 0.85 * long
        speaking[(t >= at) & (t < end)] = True
        at = end + rng.uniform(0.35, 0.6)
    carrier = np.fft.irfft(
        np.fft.rfft(rng.standard_normal(count))
        * (1 / (1 + (np.fft.rfftfreq(count, 1 / RATE) / 700) ** 2)),
        count,
    )
    wave = carrier / carrier.std() * 10 ** (level / 20)
    return wave / math.sqrt(np.mean(wave[speaking] ** 2)), speaking


def compressed(wave, threshold_db, ratio, attack_s, release_s):
    """A peak detector on the rectified wave, read as a sine's RMS; gain by the static curve."""
    up, down = (1 - math.exp(-1 / (RATE * s)) for s in (attack_s, release_s))
    reads, last = np.empty(len(wave)), 0.0
    for k, now in enumerate(np.abs(wave).tolist()):
        last += (up if now > last else down) * (now - last)
        reads[k] = last
    read_db = 20 * np.log10(np.maximum(reads / math.sqrt(2), 1e-9))
    return -np.maximum(read_db - threshold_db, 0.0) * (1 - 1 / ratio)


def measured(wave, gain_db, speaking):
    """Change of level, of crest, and of the noise between phrases, in dB."""
    after = wave * 10 ** (gain_db / 20)
    level = 10 * np.log10(np.mean(after[speaking] ** 2))

    def crest(x):
        x = np.abs(x[speaking])
        return 20 * np.log10(np.quantile(x, 0.9995) / math.sqrt(np.mean(x**2)))

    pause = 10 * np.log10(np.mean(10 ** (gain_db[~speaking] / 10)))
    return level, crest(after) - crest(wave), pause - level


WAVES = [waveform(seed) for seed in (1, 2)]


@pytest.mark.table(keep=3)
@pytest.mark.parametrize("ratio", [2.0, 4.0, 20.0])
@pytest.mark.parametrize("threshold", [-12.0, -6.0, 0.0])
@pytest.mark.parametrize("times", [QUICK, SLOW])
def test_one_compressor_within_2_db_of_a_run_in_time(ratio, threshold, times):
    runs = [measured(w, compressed(w, threshold, ratio, *times), s) for w, s in WAVES]
    level, crest, rise = np.mean(runs, axis=0)
    got = plain().through(Compression(threshold, ratio, None, 20.0, *times), 0.0, -60.0)
    assert got.speech_db == pytest.approx(level, abs=2.0)
    assert got.peak_db - got.speech_db == pytest.approx(crest, abs=2.0)
    assert got.pause_db - got.speech_db == pytest.approx(rise, abs=2.0)


def test_two_in_a_row_within_2_db_of_a_run_in_time():
    runs = []
    for wave, speaking in WAVES:
        one = compressed(wave, -8.0, 3.0, *QUICK)
        two = one + compressed(wave * 10 ** (one / 20), -12.0, 4.0, *SLOW)
        runs.append(measured(wave, two, speaking))
    level, crest, rise = np.mean(runs, axis=0)
    first = plain().through(Compression(-8.0, 3.0, None, 20.0, *QUICK), 0.0, -60.0)
    both = first.through(Compression(-12.0, 4.0, None, 20.0, *SLOW), 0.0, -60.0)
    assert both.speech_db == pytest.approx(level, abs=2.0)
    assert both.peak_db - both.speech_db == pytest.approx(crest, abs=2.0)
    assert both.pause_db - both.speech_db == pytest.approx(rise, abs=2.0)


def test_uncompressed_speech_is_left_alone():
    assert (plain().speech_db, plain().peak_db, plain().pause_db) == pytest.approx((0, 0, 0))
    loose = plain().through(Compression(30.0, 10.0, None, 20.0, *QUICK), 0.0, -60.0)
    assert (loose.speech_db, loose.peak_db) == pytest.approx((0, 0), abs=1e-9)


def test_the_crest_never_falls_under_a_sines():
    hard = plain()
    for _ in range(6):
        hard = hard.through(Compression(-40.0, 50.0, None, 20.0, 0.0, 0.0), 0.0, -90.0)
    assert 14.0 + hard.peak_db - hard.speech_db == pytest.approx(3.01, abs=0.01)


def test_a_slow_attack_lets_first_syllables_out():
    def over(attack):
        curve = Compression(-20.0, 20.0, None, 20.0, attack, 0.6)
        return plain().through(curve, 0.0, -60.0).overshoot_db

    assert over(1e-3) < 4.0
    assert over(40e-3) > over(10e-3) > over(1e-3)
    assert over(40e-3) > 8.0


def test_a_gate_that_stands_high_takes_soft_speech_for_a_pause():
    def closed(gate_db):
        curve = Compression(30.0, 1.0, gate_db, 20.0, *QUICK)
        return plain().through(curve, 0.0, -60.0)

    low, high = closed(-40.0), closed(-6.0)
    assert low.closed_share == pytest.approx(0.0, abs=0.02)
    assert low.pause_db < -3.0  # closes only once its detector has let go
    assert high.closed_share > 0.05
    assert high.speech_db < low.speech_db


def test_a_compressor_on_a_silent_source_says_nothing():
    assert plain().through(Compression(-20.0, 4.0), float("-inf"), -90.0) is plain()
    assert plain().through(Compression(-20.0, 4.0), -500.0, -90.0) is plain()
