"""FM by Bessel's lines and the discriminator, AM by its sidebands; the deviation command."""

import json
import math

import numpy as np
import pytest
from scipy.special import jn_zeros, jv

from tonleiter.cli import main
from tonleiter.core.radio.am import AmKnobs, amplitude_modulated
from tonleiter.core.radio.deviation import (
    NULLS,
    carrier_db,
    correction_db,
    nulls_for,
    pre_emphasis_db,
    sidebands_db,
)
from tonleiter.core.radio.fm import FM_HZ, FmKnobs, FmTransmitter, Limiter, modulated
from tonleiter.core.radio.knobs import SetFigures
from tonleiter.core.radio.receivers import demodulated, discriminated
from tonleiter.core.radio.ssb import AUDIO_HZ, blocks
from tonleiter.core.signal.spectrum import line_db
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, voice

FIGURES = SetFigures.of_levels(-53.0, -20.0)
FLAT = FmKnobs(flat=True, deviation_hz=5000.0)


def toned(hertz, peak, knobs=FLAT, seconds=2.0):
    """A tone with so many units of peak."""
    made = tone(seconds, hertz, AUDIO_HZ).times(peak * FIGURES.unit_v / np.sqrt(2))
    return modulated(FIGURES, knobs, made)


def lines_db(sent, hertz, orders):
    z = sent.z[-FM_HZ:]
    return [line_db(z, n * hertz, FM_HZ) for n in orders]


@pytest.mark.parametrize("beta", [0.5, 1.0, 2.0, 3.0, 5.0, 8.0, 12.0, 15.0])
def test_carrier_and_sidebands_are_bessel_s(beta):
    """Lines that stand within 40 dB of the carrier, to 0.2 dB."""
    hertz = 300.0
    sent = toned(hertz, beta * hertz / 5000.0)
    orders = range(math.ceil(beta) + 2)
    for n, db in zip(orders, lines_db(sent, hertz, orders), strict=True):
        wanted = 20 * math.log10(max(abs(jv(n, beta)), 1e-9))
        if wanted > -40:
            assert db == pytest.approx(wanted, abs=0.2), n


@pytest.mark.parametrize("order", [1, 2, 3])
@pytest.mark.table(keep=3)
def test_the_carrier_s_null_is_at_the_deviation_that_is_computed(order):
    """Turn the level until the carrier is least: the deviation there is tone times β, to 1 %."""
    hertz = 500.0
    beta = NULLS[order - 1]
    best, least = 0.0, 0.0
    for share in np.linspace(0.97, 1.03, 25):
        sent = toned(hertz, share * beta * hertz / 5000.0, seconds=1.5)
        left = line_db(sent.z[-FM_HZ:], 0.0, FM_HZ)
        if left < least:
            best, least = np.abs(sent.deviation_hz[-FM_HZ:]).max(), left
    assert best == pytest.approx(beta * hertz, rel=0.01)
    assert least < -35


def test_nulls_are_the_zeros_of_j0():
    assert pytest.approx(list(jn_zeros(0, 5))) == list(NULLS)
    assert [n.tone_hz for n in nulls_for(3000.0)][:2] == pytest.approx([1247.5, 543.47], abs=0.05)
    assert correction_db(3000.0, 1500.0) == pytest.approx(6.02, abs=0.01)
    assert carrier_db(NULLS[0]) < -80
    assert sidebands_db(1.0)[0] == pytest.approx(20 * math.log10(0.44005), abs=0.01)


def test_pre_emphasis_lifts_the_upper_tone_of_a_pair_by_5_3_db():
    peaks = [np.abs(toned(f, 0.05, FmKnobs()).deviation_hz[-FM_HZ:]).max() for f in (1200, 2200)]
    assert 20 * math.log10(peaks[1] / peaks[0]) == pytest.approx(5.27, abs=0.3)
    assert pre_emphasis_db() == pytest.approx(5.27, abs=0.01)
    one = np.abs(toned(1000, 0.05, FmKnobs()).deviation_hz[-FM_HZ:]).max()
    assert one == pytest.approx(0.05 * 5000, rel=0.02)


def test_the_limiter_holds_deviation_whatever_comes():
    """Its filter may add at corners what a square wave's first harmonic is over it: 4 / π."""
    peaks = [np.abs(toned(1000, p, FmKnobs()).deviation_hz[-FM_HZ:]).max() for p in (1, 3, 10, 30)]
    assert peaks[0] == pytest.approx(5000, rel=0.03)
    assert max(peaks) < 5000 * 4 / math.pi * 1.05
    assert toned(1000, 2.0, FmKnobs()).limited_db == pytest.approx(6.0, abs=0.5)


@pytest.mark.parametrize(("held", "wanted"), [(0.5, 0.5), (-0.9, -0.9), (3.0, 1.0), (-3.0, -1.0)])
def test_what_stands_still_passes_the_limiter_as_it_is_or_at_its_end(held, wanted):
    made = Limiter()(np.full(8, held))
    assert made[1:] == pytest.approx(np.full(7, wanted))


def test_live_blocks_and_a_whole_file_agree():
    audio = voice("high").at_rate(AUDIO_HZ).samples[: 30 * 480] * FIGURES.unit_v
    whole = modulated(FIGURES, FmKnobs(), Sound(audio, AUDIO_HZ))
    transmitter = FmTransmitter(FIGURES, FmKnobs())
    live = np.concatenate([transmitter.send(b).z for b in blocks(audio, 60)])
    assert np.abs(live - whole.z).max() < 1e-9


def test_a_discriminator_gives_back_what_was_said_flat():
    """Pre-emphasis and de-emphasis cancel: tones of one level come out alike, to a decibel."""
    sizes = []
    for hertz in (500.0, 1000.0, 2000.0, 2700.0):
        heard = discriminated(toned(hertz, 0.1, FmKnobs()).z, 5000.0)
        sizes.append(np.sqrt(2) * np.std(heard.samples[AUDIO_HZ // 2 : -AUDIO_HZ // 4]))
    assert 20 * np.log10(np.array(sizes) / 0.1) == pytest.approx([0] * 4, abs=1.0)


def test_noise_of_a_weak_signal_is_heard():
    z = toned(1000, 0.3, FmKnobs()).z
    clear, noisy = (discriminated(z, 5000.0, n).samples[6000:18_000] for n in (-40.0, -8.0))
    f = np.fft.rfftfreq(12_000, 1 / AUDIO_HZ)
    away = (np.abs(f - 1000) > 50) & (f > 200) & (f < 3000)
    power = [(np.abs(np.fft.rfft(x)) ** 2)[away].sum() for x in (clear, noisy)]
    assert 10 * np.log10(power[1] / power[0]) > 20


# --- AM ------------------------------------------------------------------------------------------


def am(peak, seconds=1.0, hertz=1000.0):
    made = tone(seconds, hertz, AUDIO_HZ).times(peak * FIGURES.unit_v / np.sqrt(2))
    return amplitude_modulated(FIGURES, AmKnobs(), made)


@pytest.mark.parametrize("depth", [0.3, 0.8, 1.0])
def test_sidebands_have_half_the_square_of_the_depth(depth):
    sent = am(depth)
    assert sent.up == pytest.approx(depth, rel=0.02)
    assert sent.down == pytest.approx(depth, rel=0.02)
    settled = sent.z[4800:-4800]
    power = np.mean(np.abs(settled) ** 2) / abs(np.mean(settled)) ** 2 - 1
    assert power == pytest.approx(depth**2 / 2, rel=0.02)


def test_past_full_modulation_the_carrier_is_gone_and_it_splatters():
    def spilt(depth):
        z = am(depth).z[4800:-4800]
        bins = np.abs(np.fft.fft(z * np.hanning(z.size))) ** 2
        f = np.fft.fftfreq(z.size, 1 / 24_000)
        return bins[np.abs(f) > 1500].sum() / bins.sum()

    assert np.abs(am(1.4).z).min() == 0
    assert spilt(1.4) > 1e3 * spilt(0.9)


def test_an_envelope_detector_hears_the_depth():
    heard = demodulated(am(0.5).z).samples[3000:-3000]
    assert heard.max() == pytest.approx(0.5, rel=0.02)


# --- the command ---------------------------------------------------------------------------------


def run(capsys, *words):
    code = main(["deviation", *words])
    return code, capsys.readouterr()


def test_the_command_prints_nulls_and_lines(capsys):
    code, out = run(capsys, "--target", "3k", "--tone", "1200", "--json")
    report = json.loads(out.out)
    assert code == 0
    assert report["beta"] == pytest.approx(2.5)
    assert report["carrier_db"] == pytest.approx(20 * math.log10(abs(jv(0, 2.5))), abs=0.01)
    assert report["nulls"][0]["tone_hz"] == pytest.approx(1247.5, abs=0.1)
    assert len(report["nulls"]) == len(report["null_deviation_hz"]) == 5
    assert report["correction_db"][0] == pytest.approx(20 * math.log10(3000 / 2885.8), abs=0.01)
    code, out = run(capsys, "--target", "2000", "--narrow")
    assert code == 0
    assert "831.7" in out.out
    assert "tone_hz" not in json.loads(run(capsys, "--target", "2000", "--json")[1].out)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("--target", "3000", "--narrow"), "100 to 2500 Hz"),
        (("--target", "loud"), "not a frequency"),
        (("--target", "3000", "--tone", "5"), "20 to 20000 Hz"),
        (("--target", "-3"), "--target"),
    ],
)
def test_what_cannot_be_is_one_line(capsys, words, says):
    try:
        code, out = run(capsys, *words)
        err = out.err
    except SystemExit as stopped:
        code, err = stopped.code, capsys.readouterr().err
    assert code == 2
    assert says in err


def test_a_loud_high_tone_does_not_fold_back_into_its_band():
    """2.5 kHz, 28 dB into the limiter: a square's harmonics lie at 7.5 kHz and up, and go.

    At 12 kHz its fifth would come back as 500 Hz, 14 dB under the tone.
    """
    loud = tone(1.0, 2500, AUDIO_HZ).times(FIGURES.unit_v / np.sqrt(2) * 10)
    deviation = modulated(FIGURES, FmKnobs(), loud).deviation_hz[FM_HZ // 4 : 3 * FM_HZ // 4]
    size = np.abs(np.fft.rfft(deviation * np.hanning(deviation.size)))
    f = np.fft.rfftfreq(deviation.size, 1 / FM_HZ)
    own = np.abs(f - 2500) < 50
    assert 20 * np.log10(size[~own].max() / size[own].max()) < -55
