"""Measures on signals whose truth is known, and what cannot be told."""

import math

import numpy as np
import pytest
from scipy.ndimage import uniform_filter1d

from tests.core.listen.signals import (
    ACTIVE,
    RATE,
    banded,
    lines,
    measured,
    noise,
    spoken,
    times,
)
from tonleiter.core.listen.words import heard
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound

MAINS = ((1, 0.6), (2, 0.8), (3, 0.5), (5, 0.3))
USB = tuple((k, 1.0) for k in range(1, 6))


def words(x):
    return {h.word for h in heard(measured(x))}


@pytest.mark.parametrize("pitch", ["deep", "high"])
@pytest.mark.parametrize("rate", [8_000, 16_000, 44_100, 48_000])
def test_the_level_is_that_of_the_standard_at_any_rate(pitch, rate):
    """Active speech level of 0.05 RMS: 26 dB under one, 23 under a full-scale sine."""
    x = spoken(pitch, rate)
    told = measured(x, rate).level
    assert told.value == pytest.approx(20 * math.log10(ACTIVE) + 3.01, abs=0.1)
    assert told.value == pytest.approx(active_level(Sound(x, rate)).level_db + 3.01, abs=0.1)


@pytest.mark.long
def test_silence_before_and_after_does_not_move_the_level():
    # a voice counts for 0.2 s more after its last word: twice, and it speaks long enough for that
    x = np.tile(spoken(), 2)
    longer = np.concatenate([np.zeros(5 * RATE), x, np.zeros(9 * RATE)])
    assert measured(longer).level.value == pytest.approx(measured(x).level.value, abs=0.1)


@pytest.mark.parametrize("under_db", [20, 35, 50])
def test_noise_between_words_is_what_was_put_there(under_db):
    x = spoken()
    made = measured(x + noise(x.size, under_db))
    assert made.over_noise.value == pytest.approx(under_db, abs=1.2)
    assert made.noise.value == pytest.approx(20 * math.log10(ACTIVE) + 3.01 - under_db, abs=1.2)


@pytest.mark.parametrize("mains", [50, 60])
@pytest.mark.parametrize("under_db", [25, 40, 55])
def test_lines_of_the_mains_are_found_and_told_apart(mains, under_db):
    x = spoken()
    hum = measured(x + noise(x.size, 62) + lines(x.size, mains, MAINS, under_db)).hum
    assert hum.mains_hz == mains
    assert hum.mains_under_db == pytest.approx(under_db, abs=0.6)
    assert not hum.comb


def test_usb_is_no_mains_and_mains_no_usb():
    x = spoken()
    hum = measured(x + noise(x.size, 62) + lines(x.size, 1000, USB, 42)).hum
    assert hum.comb_under_db == pytest.approx(42, abs=0.6)
    assert hum.mains_hz is None


@pytest.mark.table(keep=12)
@pytest.mark.parametrize("seed", range(60))
def test_mixtures_are_told_apart(seed):
    """Hum of either kind, USB, hiss and fan, alone and together, at levels that are heard."""
    rng = np.random.default_rng(seed)
    x = spoken("deep" if seed % 2 else "high")
    wanted, made = set(), x + noise(x.size, 64, seed)
    if rng.random() < 0.5:
        mains = int(rng.choice((50, 60)))
        made = made + lines(x.size, mains, MAINS, rng.uniform(22, 42), seed)
        wanted.add(mains)
    if rng.random() < 0.4:
        made = made + lines(x.size, 1000, USB, rng.uniform(28, 46), seed)
        wanted.add("usb")
    kind = rng.choice(("hiss", "fan", "none"))
    if kind != "none":
        made = made + noise(x.size, rng.uniform(14, 20), seed, fall=kind == "fan")
    measures = measured(made)
    found = {m for m in (measures.hum.mains_hz,) if m} | ({"usb"} if measures.hum.comb else set())
    if kind == "none":
        assert found == wanted
        assert not {"hiss", "noisy"} & {h.word for h in heard(measures)}
    else:
        # lines that drown in noise need not be found; none that is not there may be
        assert found <= wanted
        assert {"hiss": "hiss", "fan": "noisy"}[kind] in {h.word for h in heard(measures)}


@pytest.mark.parametrize("share", [1e-3, 5e-3, 3e-2])
@pytest.mark.parametrize("scale", [1.0, 0.2])
@pytest.mark.table(keep=4)
def test_cut_tops_are_found_also_when_scaled_down(share, scale):
    x = spoken()
    top = np.quantile(np.abs(x), 1 - share)
    told = measured(scale * np.clip(x, -top, top)).cut_share
    assert told.value == pytest.approx(share, rel=0.5)
    assert "distorted" in words(scale * np.clip(x, -top, top)) or share < 5e-4


@pytest.mark.parametrize("hertz", [60, 100, 400, 1000, 3000])
def test_a_round_top_is_no_cut(hertz):
    t = times(3 * RATE)
    assert measured(0.99 * np.sin(2 * np.pi * hertz * t)).survey.flat.count == 0


def test_loud_is_not_cut():
    assert measured(spoken() / np.abs(spoken()).max()).cut_share.value == 0


@pytest.mark.parametrize("low, high", [(300, 2700), (120, 3400), (500, 1900)])
def test_edges_are_where_the_band_is_six_decibels_down(low, high):
    x = spoken() + noise(spoken().size, 60)
    made = measured(banded(x, low, high, 12))
    assert made.edge(6, upper=True).value == pytest.approx(high, rel=0.06)
    assert made.edge(6, upper=False).value == pytest.approx(low, rel=0.08)


@pytest.mark.long
def test_words_follow_what_was_done_to_a_voice():
    x = spoken()
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    tilt = np.clip(np.log2(np.maximum(f, 50) / 1000), -3, 3)

    def through(db):
        return np.fft.irfft(np.fft.rfft(x) * 10 ** (db / 20), x.size)

    assert "muffled" in words(through(-9 * np.maximum(tilt, 0)))
    assert "thin" in words(through(6 * np.minimum(tilt, 0)))
    assert "bassy" in words(through(-5 * np.minimum(tilt, 0)))
    assert "harsh" in words(through(8 * np.maximum(tilt, 0)))
    assert words(x) == {"clear"}
    assert words(spoken("high")) == {"clear"}


def test_a_click_and_a_pop_are_found_where_they_are():
    x = spoken() + noise(spoken().size, 55)
    quiet = int(np.argmin(uniform_filter1d(np.abs(x), 9600)[4800:-4800])) + 4800
    clicked = x.copy()
    clicked[quiet : quiet + 60] += 0.3 * np.hanning(60)
    (event,) = measured(clicked).of("click")
    assert event.at_s == pytest.approx(quiet / RATE, abs=0.005)
    t = np.arange(round(0.08 * RATE)) / RATE
    popped = x.copy()
    puff = 0.5 * np.sin(np.pi * t / 0.08) * np.sin(2 * np.pi * 22 * t)
    popped[3 * RATE : 3 * RATE + t.size] += puff
    assert any(abs(e.at_s - 3.03) < 0.06 for e in measured(popped).of("pop"))
    assert measured(x).events == ()


def test_samples_that_were_lost_are_a_drop_out():
    x = spoken() + noise(spoken().size, 55)
    loud = int(np.argmax(uniform_filter1d(np.abs(x), 4800)[2400:-2400])) + 2400
    x = x.copy()
    x[loud : loud + 960] = 0
    (event,) = measured(x).of("drop-out")
    assert event.at_s == pytest.approx(loud / RATE, abs=0.003)
    assert event.lasts_s == pytest.approx(0.02, abs=0.003)


@pytest.mark.parametrize(
    "x, why",
    [
        (np.zeros(3 * RATE), "silent"),
        (1e-7 * np.ones(3 * RATE), "nearly silent"),
        (1e-6 * np.sin(times(3 * RATE)), "nearly silent"),
    ],
)
def test_of_silence_nothing_is_told_and_it_says_why(x, why):
    made = measured(x)
    for told in (made.level, made.noise, made.low, made.crest, made.edge(6, upper=True)):
        assert told.value is None
        assert why in told.why
    assert heard(made) == () or {h.word for h in heard(made)} <= {"clear"}


def test_what_is_too_short_or_has_no_pause_says_so():
    x = spoken()
    short = measured(x[RATE : 2 * RATE])
    assert "speech" in short.level.why or short.level.known
    loud = x[uniform_filter1d(np.abs(x), 4800) > 0.6 * ACTIVE]
    made = measured(loud)
    assert made.noise.value is None
    assert "between words" in made.noise.why


def test_a_low_rate_does_not_hold_the_treble():
    made = measured(spoken("deep", 8_000)[:: 2], 4_000)  # fmt: skip
    assert made.high.value is None
    assert "4000 Hz" in made.high.why


@pytest.mark.parametrize("what", ["tone", "noise", "filtered", "square"])
@pytest.mark.table(keep=3)
def test_what_does_not_rise_and_fall_is_no_speech_and_has_none_of_its_words(what):
    """A carrier, a hiss, an idle channel: no level of speech, no treble that is missing."""
    n = 5 * RATE
    hiss = np.random.default_rng(4).normal(0, 0.1, n)
    tone = 0.5 * np.sin(2 * np.pi * 1000 * times(n))
    made = {
        "tone": tone, "noise": hiss, "filtered": banded(hiss, 300, 2700), "square": np.sign(tone)
    }[what]  # fmt: skip
    told = measured(made)
    assert "rise and fall" in told.level.why
    assert told.high.value is None
    assert words(made) <= {"distorted"}


@pytest.mark.parametrize("rate", [96_000, 192_000])
def test_at_a_high_rate_a_clean_voice_is_not_cut_and_a_cut_one_is(rate):
    """Sixteen bits round a slow top to a flat one; that is no stage without room."""
    x = np.round(spoken("high", rate)[: 5 * rate] * 32768) / 32768
    assert measured(x, rate).cut_share.value == 0.0
    cut = np.clip(x, -0.15, 0.15)
    assert measured(cut, rate).cut_share.value > 1e-3


@pytest.mark.parametrize("under_db", [3, 6])
def test_noise_that_fills_every_pause_is_said_and_never_called_clear(under_db):
    x = spoken()
    said = words(x + noise(x.size, under_db))
    assert "clear" not in said
    assert said & {"hiss", "noisy"}


@pytest.mark.parametrize("pitch", ["deep", "high"])
@pytest.mark.parametrize("edge_hz", [2600, 2900])
@pytest.mark.table(keep=4)
def test_a_set_s_own_filter_is_no_muffled_voice_however_deep_it_cuts(pitch, edge_hz):
    x = spoken(pitch)[: 6 * RATE]
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    through = [
        np.fft.irfft(np.fft.rfft(x) * np.where(f > edge_hz, 10 ** (floor / 20), 1.0), x.size)
        for floor in (-30, -80)
    ]
    highs = [measured(y).high.value for y in through]
    assert max(highs) - min(highs) < 0.5, "what is gone is gone"
    assert all("muffled" not in words(y) for y in through)
    # a real loss of treble within the band is still one
    dull = np.fft.irfft(np.fft.rfft(through[1]) / (1 + (f / 1400) ** 4), x.size)
    assert "muffled" in words(dull)


@pytest.mark.parametrize("pitch", ["deep", "high"])
def test_noise_under_the_words_is_taken_off_the_tone_of_them(pitch):
    """A receiver's noise under the consonants fills up what a dull case has taken."""
    x = spoken(pitch)
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    dull = np.fft.irfft(np.fft.rfft(x) / np.sqrt(1 + (f / 900) ** 4), x.size)
    high = measured(dull).high.value
    hiss = noise(x.size, 15)
    assert measured(dull + hiss).high.value == pytest.approx(high, abs=2.0)
    assert "muffled" in words(dull + hiss)
    # of a right one nothing is taken that is its own
    assert measured(x + hiss).high.value == pytest.approx(measured(x).high.value, abs=0.5)


def test_a_narrow_filter_is_missing_treble():
    """A filter that ends before the consonants do is heard; one made for speech is not."""
    x = spoken()
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    narrow = np.fft.irfft(np.fft.rfft(x) * np.where(f > 1800, 1e-3, 1.0), x.size)
    assert "muffled" in words(narrow)
