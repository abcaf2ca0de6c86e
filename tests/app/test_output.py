"""Sound out: what is handed to a device, through a stand-in for the extra that is not there."""

import sys

import numpy as np
import pytest

from tonleiter.app.audio.output import LOUDEST, SystemOutput, find_output, system_output
from tonleiter.core.sound.voices import tone


class Form:
    """An audio format of a device: 48 kHz, so many channels."""

    def __init__(self, channels):
        self.channels, self.sample = channels, None

    def setSampleFormat(self, sample):
        self.sample = sample

    def sampleRate(self):
        return 48_000

    def channelCount(self):
        return self.channels


class Device:
    def __init__(self, channels):
        self.channels = channels

    def preferredFormat(self):
        return Form(self.channels)


class Sink:
    """Keeps what it was started with."""

    made = []  # noqa: RUF012

    def __init__(self, device, form):
        self.device, self.form, self.data, self.stopped = device, form, None, False
        Sink.made.append(self)

    def start(self, buffer):
        self.data = np.frombuffer(bytes(buffer.data()), np.int16)

    def stop(self):
        self.stopped = True

    def state(self):
        return "stopped" if self.stopped else "active"

    def processedUSecs(self):
        return 250_000


class Multimedia:
    def __init__(self, channels):
        device = Device(channels)
        self.QMediaDevices = type("M", (), {"defaultAudioOutput": staticmethod(lambda: device)})
        self.QAudioSink = Sink
        self.QtAudio = type("A", (), {"State": type("S", (), {"ActiveState": "active"})})
        kinds = type("K", (), {"Int16": "int16"})
        self.QAudioFormat = type("F", (), {"SampleFormat": kinds})


@pytest.mark.parametrize("channels", [1, 2, 6])
def test_a_device_gets_its_own_rate_and_the_same_in_every_channel(channels):
    Sink.made.clear()
    output = SystemOutput(Multimedia(channels))
    output.play(tone(1.0, 1000.0, 12_000).times(0.3))
    (sink,) = Sink.made
    assert sink.form.sample == "int16"
    frames = sink.data.reshape(-1, channels).astype(float) / 32767
    assert len(frames) == 48_000
    assert np.all(frames == frames[:, :1])
    middle = frames[4800:-4800, 0]
    assert np.sqrt(np.mean(middle**2)) == pytest.approx(0.3 * LOUDEST, rel=1e-3)
    bins = np.abs(np.fft.rfft(middle))
    assert np.argmax(bins) * 48_000 / middle.size == pytest.approx(1000, abs=1)


def test_what_played_before_stops():
    Sink.made.clear()
    output = SystemOutput(Multimedia(2))
    output.play(tone(0.5, 500.0))
    output.play(tone(0.5, 700.0))
    assert [s.stopped for s in Sink.made] == [True, False]
    output.stop()
    assert Sink.made[1].stopped
    output.stop()


def test_what_is_too_loud_is_cut_and_not_turned_over():
    Sink.made.clear()
    SystemOutput(Multimedia(1)).play(tone(0.5, 500.0, 48_000).times(5))
    data = Sink.made[0].data
    assert np.abs(data).max() <= LOUDEST * 32767 + 1
    assert np.mean(np.abs(data) > 0.79 * 32767) > 0.7


def test_without_the_extra_there_is_no_output(monkeypatch):
    monkeypatch.setitem(sys.modules, "PySide6.QtMultimedia", None)
    assert system_output() is None
    assert find_output() is None


def test_it_begins_at_a_place_and_says_how_far_it_came():
    Sink.made.clear()
    output = SystemOutput(Multimedia(1))
    assert output.at_s() is None
    output.play(tone(2.0, 500.0, 48_000), from_s=1.5)
    assert Sink.made[0].data.size == 24_000
    # a quarter of a second was taken since
    assert output.at_s() == pytest.approx(1.75)
    output.stop()
    assert output.at_s() is None
