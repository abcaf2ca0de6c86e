"""Active speech level after P.56 against arithmetic."""

import numpy as np
import pytest

from tonleiter.core.sound.level import active_by_milliseconds, active_level, crest_db
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, two_tones, voice, whistle

RATE = 16_000


def spurts(on_s=1.0, off_s=1.0, count=4, hertz=500.0):
    """A tone that comes and goes, RMS one while it is there."""
    one = tone(on_s, hertz, RATE).samples
    return np.concatenate([np.concatenate([one, np.zeros(round(off_s * RATE))])] * count)


def test_a_steady_tone_has_its_rms():
    assert active_level(tone(4.0, 440.0)).rms == pytest.approx(1.0, rel=5e-3)
    assert active_level(tone(4.0, 440.0)).activity == pytest.approx(1.0, abs=0.01)
    assert active_level(Sound(np.zeros(RATE), RATE)).rms == 0


def test_pauses_count_only_as_far_as_a_voice_hangs_on():
    """A second on, one off: of the pause the hang of 200 ms and the smoothing's tail are active."""
    found = active_level(Sound(spurts(), RATE))
    # power over 1.2 to 1.5 s of each 2 s
    assert -1.8 < found.level_db < -0.75
    assert 0.6 < found.activity < 0.75


@pytest.mark.parametrize("seconds", [0.5, 3.0, 20.0])
def test_silence_added_does_not_move_it(seconds):
    speech = voice("deep")
    longer = Sound(np.concatenate([speech.samples, np.zeros(round(seconds * RATE))]), RATE)
    assert active_level(longer).level_db == pytest.approx(active_level(speech).level_db, abs=0.1)
    assert active_level(longer).activity < active_level(speech).activity


def test_it_follows_the_samples_by_decibels():
    speech = voice("high", "soft")
    assert active_level(speech.times(0.1)).level_db == pytest.approx(-20.0, abs=0.05)


def test_it_does_not_hang_on_the_rate():
    speech = voice("high")
    assert active_level(speech.at_rate(48_000)).level_db == pytest.approx(0.0, abs=0.1)


def test_crests_of_known_signals():
    assert crest_db(tone(2.0, 1000.0)) == pytest.approx(3.01, abs=0.1)
    assert crest_db(two_tones(2.0, (700.0, 1900.0))) == pytest.approx(6.02, abs=0.15)
    assert crest_db(whistle()) == pytest.approx(3.0, abs=0.6)


@pytest.mark.parametrize("rate", [8_000, 12_000, 44_100])
@pytest.mark.parametrize("pitch", ["deep", "high"])
def test_by_milliseconds_the_level_is_the_same(pitch, rate):
    spoken = Sound(voice(pitch).at_rate(rate).samples, rate)
    by_steps, by_samples = active_by_milliseconds(spoken), active_level(spoken)
    assert by_steps.level_db == pytest.approx(by_samples.level_db, abs=0.01)
    assert by_steps.activity == pytest.approx(by_samples.activity, abs=0.01)


def test_of_silence_there_is_no_level_by_milliseconds_either():
    assert active_by_milliseconds(Sound(np.zeros(4800), 48_000)).rms == 0.0
    assert active_by_milliseconds(Sound(np.zeros(3), 48_000)).rms == 0.0
