"""The tones as a sound file, read back with another reader and measured."""

import io
import json
import wave

import numpy as np
import pytest

from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.cli import main
from tonleiter.core.bench.reading import TONES_HZ
from tonleiter.core.bench.tone import GAP_S, RATE_HZ, TONE_S, tones_wav
from tonleiter.core.station.files import save_station


def samples():
    with wave.open(io.BytesIO(tones_wav())) as file:
        assert (file.getnchannels(), file.getsampwidth(), file.getframerate()) == (1, 2, RATE_HZ)
        return np.frombuffer(file.readframes(file.getnframes()), "<i2") / 32768


def test_each_tone_stands_alone_at_its_frequency():
    heard, long = samples(), round((TONE_S + GAP_S) * RATE_HZ)
    assert heard.size == long * len(TONES_HZ)
    for k, hertz in enumerate(TONES_HZ):
        second = heard[k * long + RATE_HZ : k * long + 2 * RATE_HZ]
        spectrum = np.abs(np.fft.rfft(second))
        # bins of one hertz
        assert int(np.argmax(spectrum)) == hertz
        # what 16 bits leave besides, 4.8 dB below a full sine's 98 dB, less the 12 dB of head room
        spectrum[int(hertz)] = 0
        assert np.sqrt((spectrum**2).sum()) < 10 ** (-80 / 20) * np.abs(np.fft.rfft(second)).max()


def test_no_tone_clips_or_clicks():
    heard = samples()
    assert abs(20 * np.log10(np.abs(heard).max()) + 12) < 0.05
    # the steepest that a sine of the highest frequency can be, and rounding
    steepest = 10 ** (-12 / 20) * 2 * np.pi * max(TONES_HZ) / RATE_HZ
    assert np.abs(np.diff(heard)).max() <= steepest + 2 / 32768


@pytest.mark.long
def test_the_command_writes_them_and_says_where_it_cannot(tmp_path, capsys):
    folder = tmp_path / "bench.station"
    save_station(station(mic(), lead(), radio()), folder)
    file = tmp_path / "tones.wav"
    assert main(["prove", str(folder), "--tones", str(file), "--json"]) == 0
    assert file.read_bytes() == tones_wav()
    tones = [
        r["id"] for r in json.loads(capsys.readouterr().out)["readings"] if r["step"] == "tone"
    ]
    assert tones == [*(f"tone {hertz:g}" for hertz in TONES_HZ), "tone in"]
    assert main(["prove", str(folder), "--tones", str(tmp_path / "no" / "tones.wav")]) == 2
    told = capsys.readouterr().err.strip()
    assert "tones.wav" in told
    assert "\n" not in told
