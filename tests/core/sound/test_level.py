"""Active speech level after P.56 against arithmetic; recordings that cannot be taken."""

import numpy as np
import pytest
import soundfile

from tonleiter.core.sound.files import SoundError, clipped_runs, read_sound, wav_bytes
from tonleiter.core.sound.level import active_level, crest_db
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


# --- files ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(("suffix", "rate"), [("wav", 8000), ("flac", 44_100), ("ogg", 48_000)])
def test_recordings_of_any_rate_and_kind_are_read(tmp_path, suffix, rate):
    path = tmp_path / f"voice.{suffix}"
    made = tone(2.0, 300.0, rate).samples * 0.1
    soundfile.write(path, made, rate)
    read = read_sound(path)
    assert read.rate_hz == rate
    assert read.seconds == pytest.approx(2.0, abs=0.02)
    assert active_level(read).rms == pytest.approx(0.1, rel=0.02)
    assert read.remarks == ()


def test_of_two_channels_the_louder_one_is_taken_and_that_is_said(tmp_path):
    path = tmp_path / "two.wav"
    one = tone(1.5, 300.0, RATE).samples * 0.01
    soundfile.write(path, np.stack([one, 20 * one], axis=1), RATE)
    read = read_sound(path)
    assert active_level(read).rms == pytest.approx(0.2, rel=0.02)
    assert "the second" in read.remarks[0]


def test_clipping_is_said(tmp_path):
    path = tmp_path / "hot.wav"
    soundfile.write(path, np.clip(3 * tone(1.5, 300.0, RATE).samples, -1, 1), RATE)
    assert any("clipped" in r for r in read_sound(path).remarks)
    assert clipped_runs(0.5 * tone(1.0, 300.0).samples) == 0


@pytest.mark.parametrize(
    ("samples", "says"),
    [
        (np.zeros(32_000), "silence"),
        (1e-5 * np.ones(32_000), "peaks"),
        (0.5 * np.ones(2000), "lasts"),
    ],
)
def test_what_cannot_be_judged_is_one_line(tmp_path, samples, says):
    path = tmp_path / "bad.wav"
    soundfile.write(path, samples, RATE, "FLOAT")
    with pytest.raises(SoundError) as caught:
        read_sound(path)
    assert says in str(caught.value)
    assert str(path) in str(caught.value)
    assert "\n" not in str(caught.value)


def test_no_sound_at_all_is_one_line(tmp_path):
    path = tmp_path / "note.wav"
    path.write_text("not a sound")
    for wrong in (path, tmp_path / "gone.wav"):
        with pytest.raises(SoundError) as caught:
            read_sound(wrong)
        assert "WAV, FLAC or OGG" in str(caught.value)
        assert "\n" not in str(caught.value)


def test_a_truncated_wav_gives_what_there_is(tmp_path):
    path = tmp_path / "cut.wav"
    content = wav_bytes(Sound(0.3 * tone(3.0, 500.0).samples, RATE))
    path.write_bytes(content[: len(content) * 2 // 3])
    assert read_sound(path).seconds == pytest.approx(2.0, abs=0.05)


def test_a_wav_says_what_it_was_given(tmp_path):
    path = tmp_path / "made.wav"
    path.write_bytes(wav_bytes(Sound(0.3 * tone(1.2, 500.0).samples, RATE)))
    assert active_level(read_sound(path)).rms == pytest.approx(0.3, rel=0.01)
