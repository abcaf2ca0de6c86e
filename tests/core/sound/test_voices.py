"""The voices that ship: their level, crest and spectrum; noise with a spectrum that is given."""

import numpy as np
import pytest

from tonleiter.core.gear.voice import a_weighting_db, speech_density_db
from tonleiter.core.sound.level import active_level, crest_db
from tonleiter.core.sound.voices import RATE_HZ, coloured, room_noise_pa, voice

VOICES = [(p, e) for p in ("deep", "high") for e in ("soft", "normal", "loud")]


@pytest.mark.parametrize(("pitch", "effort"), VOICES)
def test_level_and_crest_are_those_of_speech(pitch, effort):
    """P.56: one unit; peaks of unprocessed speech stand 12 to 15 dB over it."""
    made = voice(pitch, effort)
    assert active_level(made).level_db == pytest.approx(0.0, abs=0.05)
    assert 12.0 <= crest_db(made) <= 15.0
    assert made.rate_hz == RATE_HZ
    assert 8 < made.seconds < 17
    # who speaks also breathes
    assert 0.6 <= active_level(made).activity <= 0.75


@pytest.mark.parametrize(("pitch", "effort"), VOICES)
def test_the_spectrum_is_p_50_in_bands_of_a_third_octave(pitch, effort):
    """From above the gaps of the lowest harmonics to 6.3 kHz, within 2 dB of the long-term mean."""
    samples = voice(pitch, effort).samples
    power = np.abs(np.fft.rfft(samples)) ** 2
    f = np.fft.rfftfreq(samples.size, 1 / RATE_HZ)
    low = 250.0 if pitch == "deep" else 500.0
    centres = low * 2 ** (np.arange(0, 30) / 3)
    centres = centres[centres < 6300]
    off = []
    for c in centres:
        inside = (f >= c * 2 ** (-1 / 6)) & (f < c * 2 ** (1 / 6))
        wanted = np.sum(10 ** (speech_density_db(f[inside]) / 10))
        off.append(10 * np.log10(power[inside].sum() / wanted))
    off = np.array(off) - np.median(off)
    assert np.abs(off).max() < 2.0


def test_efforts_and_pitches_are_other_recordings():
    made = [voice(p, e).samples[20_000:20_400] for p, e in VOICES]
    for k, one in enumerate(made):
        for other in made[k + 1 :]:
            assert np.abs(one - other).max() > 0.05


def test_noise_has_the_density_it_was_given():
    n, rate = 64_000, 16_000
    f = np.fft.rfftfreq(n, 1 / rate)
    psd = np.where((f > 1000) & (f < 2000), 4e-6, 0.0)
    made = coloured(psd, n, rate, seed=2)
    assert np.mean(made**2) == pytest.approx(4e-6 * 1000, rel=0.05)
    assert np.array_equal(made, coloured(psd, n, rate, seed=2))


def test_room_noise_measures_its_dba():
    made = room_noise_pa(8.0, 48_000, 50.0)
    power = np.abs(np.fft.rfft(made)) ** 2 / made.size**2 * 2
    f = np.fft.rfftfreq(made.size, 1 / 48_000)
    weighted = power[1:] * 10 ** (a_weighting_db(f[1:]) / 10)
    assert 10 * np.log10(weighted.sum() / (20e-6) ** 2) == pytest.approx(50.0, abs=0.5)
