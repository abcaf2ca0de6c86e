"""Recordings: what is taken of them, in bounded memory, and what cannot be taken."""

import os
import tracemalloc

import numpy as np
import pytest
import soundfile

from tonleiter.core.sound.files import SPOKEN_S, SoundError, clipped_runs, read_sound, wav_bytes
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.own import own_voice
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, voice
from tonleiter.core.stop import StoppedError, stopping

RATE = 16_000


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
        (1e-5 * tone(2.0, 300.0, RATE).samples, "peaks"),
        (0.5 * np.ones(32_000), "silence"),
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
    read = read_sound(path)
    assert read.seconds == pytest.approx(2.0, abs=0.05)
    assert any("ends before its own header says" in r for r in read.remarks)


def test_a_wav_says_what_it_was_given(tmp_path):
    path = tmp_path / "made.wav"
    path.write_bytes(wav_bytes(Sound(0.3 * tone(1.2, 500.0).samples, RATE)))
    assert active_level(read_sound(path)).rms == pytest.approx(0.3, rel=0.01)


@pytest.mark.parametrize("suffix", ["flac", "ogg"])
def test_a_broken_off_flac_or_ogg_gives_what_there_is(tmp_path, suffix):
    path = tmp_path / f"cut.{suffix}"
    rng = np.random.default_rng(3)
    soundfile.write(path, 0.1 * rng.standard_normal(20 * RATE), RATE)
    assert read_sound(path).remarks == ()
    content = path.read_bytes()
    path.write_bytes(content[: len(content) // 2])
    read = read_sound(path)
    assert 4.0 < read.seconds < 12.0
    assert any("ends before its own header says" in r for r in read.remarks)


@pytest.fixture(scope="module")
def long_talk(tmp_path_factory):
    """Ten minutes in two channels: a quiet room, and from 4:00 on forty seconds of speech."""
    path = tmp_path_factory.mktemp("long") / "talk.flac"
    rng = np.random.default_rng(4)
    speech = voice("deep").samples
    speech = np.tile(speech, 1 + 40 * RATE // speech.size)[: 40 * RATE] * 0.05
    with soundfile.SoundFile(path, "w", RATE, 2, "PCM_16") as file:
        for minute in range(10):
            block = 1e-3 * rng.standard_normal((60 * RATE, 2))
            if minute == 4:
                block[: speech.size, 1] += speech
            file.write(block + 0.02)
    return path


@pytest.mark.long
def test_of_a_long_recording_the_stretch_with_the_most_speech_is_taken(long_talk):
    shares = []
    read = read_sound(long_talk, shares.append)
    assert read.seconds == pytest.approx(SPOKEN_S)
    # nothing but speech is in it: its level is that of the speech, 0.05
    assert active_level(read).rms == pytest.approx(0.05, rel=0.06)
    assert abs(read.samples.mean()) < 1e-3  # the constant is gone
    said = "; ".join(read.remarks)
    assert "10:00 min" in said
    assert "from 4:0" in said
    assert "constant of 2.0 %" in said
    assert "the second" in said
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)


@pytest.mark.long
def test_ten_minutes_cost_less_than_a_hundred_megabytes(long_talk):
    tracemalloc.start()
    own_voice(long_talk)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert most < 100e6


def test_reading_ends_when_nobody_waits_for_it(long_talk):
    asked = []

    def stopped():
        asked.append(1)
        return len(asked) > 3

    with stopping(stopped), pytest.raises(StoppedError):
        read_sound(long_talk)
    assert len(asked) == 4  # of some 150 blocks


def test_the_level_is_that_of_what_can_be_spoken_at_the_voices_rate(tmp_path):
    """A hiss at 15 kHz is gone at 16 kHz: the voice under it is set to one unit all the same."""
    path = tmp_path / "hiss.wav"
    speech = voice("high").at_rate(48_000).samples * 0.02
    hiss = 0.2 * tone(speech.size / 48_000, 15_000.0, 48_000).samples[: speech.size]
    soundfile.write(path, speech + hiss, 48_000, "PCM_24")
    made = own_voice(path)
    assert made.rate_hz == RATE
    assert active_level(made).rms == pytest.approx(1.0, rel=0.01)
    assert np.sqrt(np.mean(made.samples**2)) > 0.7


def test_three_hours_of_silence_are_refused_by_their_header(tmp_path):
    path = tmp_path / "night.flac"
    with soundfile.SoundFile(path, "w", 1000, 1, "PCM_16") as file:
        for _ in range(3):
            file.write(np.zeros(3_600_000, np.int16))
    with pytest.raises(SoundError, match=r"3\.0 hours; 1 s to 2 hours"):
        read_sound(path)


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="no named pipes here")
def test_what_is_no_file_is_not_waited_for(tmp_path):
    pipe = tmp_path / "pipe.wav"
    os.mkfifo(pipe)
    for wrong in (pipe, tmp_path):
        with pytest.raises(SoundError, match="it is no file"):
            read_sound(wrong)


def test_samples_that_are_no_numbers_are_refused(tmp_path):
    path = tmp_path / "nan.wav"
    made = 0.1 * tone(2.0, 300.0, RATE).samples
    made[20_000] = np.nan
    soundfile.write(path, made, RATE, "FLOAT")
    with pytest.raises(SoundError, match="no numbers"):
        read_sound(path)
