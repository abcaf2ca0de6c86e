"""The simulated single-sideband set: its curves, its power, what it spills, however it is fed."""

from dataclasses import replace

import numpy as np
import pytest

from tonleiter.core.radio.audible import IMPORTANCE, audible
from tonleiter.core.radio.knobs import WORKED_DB, Knobs, SetFigures, gain_db
from tonleiter.core.radio.measures import gaps_db, judged, understood
from tonleiter.core.radio.receivers import Path, heard, travelled
from tonleiter.core.radio.ssb import (
    AUDIO_HZ,
    ENDS_AT,
    OUT_HZ,
    STEP,
    STEP_S,
    SsbTransmitter,
    blocks,
    joined,
    power_stage,
    transmitted,
)
from tonleiter.core.signal.spectrum import delay_of, spectrum, width_hz
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, two_tones, voice

FIGURES = SetFigures.of_levels(-53.0, -20.0, power_w=20.0)
AS_IT_COMES = Knobs()
# a set that adds nothing of its own: where one thing is to be seen alone
PURE = replace(
    FIGURES, products_db=200.0, carrier_db=200.0, other_sideband_db=200.0, noise_db=200.0
)


def steady(hertz, over_db, seconds=2.0, knobs=AS_IT_COMES, figures=FIGURES):
    """A tone whose peaks stand so many decibels over what just reaches full power."""
    audio = tone(seconds, hertz, AUDIO_HZ).times(figures.unit_v / np.sqrt(2) * 10 ** (over_db / 20))
    return transmitted(figures, knobs, audio)


def spoken(knobs=AS_IT_COMES, by_db=0.0, figures=FIGURES, who="deep"):
    """Speech at the level that the socket wants."""
    level = figures.unit_v * 10 ** ((WORKED_DB - 14 + by_db) / 20)
    return transmitted(figures, knobs, voice(who).times(level))


# --- streaming -----------------------------------------------------------------------------------


@pytest.mark.parametrize("size", [STEP, 60, 480, 4800])
@pytest.mark.long
def test_live_blocks_and_a_whole_file_agree_sample_by_sample(size):
    knobs = Knobs(compression_db=6.0, bass_db=-3.0, treble_db=3.0)
    audio = voice("deep").at_rate(AUDIO_HZ).samples[: 40 * 480] * FIGURES.unit_v
    whole = joined(SsbTransmitter(FIGURES, knobs).send(b) for b in [audio])
    transmitter = SsbTransmitter(FIGURES, knobs)
    live = joined(transmitter.send(b) for b in blocks(audio, size))
    assert np.abs(live.z - whole.z).max() < 1e-12
    assert np.allclose(live.alc_db, whole.alc_db)


def test_knobs_that_are_turned_while_it_runs_take_hold():
    transmitter = SsbTransmitter(PURE, Knobs(gain=0.3))
    audio = tone(1.0, 1000.0, AUDIO_HZ).samples * FIGURES.unit_v / np.sqrt(2) * 0.5
    before = [transmitter.send(b) for b in blocks(audio)][-1].meters[0].mean_share
    transmitter.turn(Knobs(gain=0.4))
    after = [transmitter.send(b) for b in blocks(audio)][-1].meters[0].mean_share
    # a tenth of 40 dB
    assert 10 * np.log10(after / before) == pytest.approx(4.0, abs=0.1)
    transmitter.turn(Knobs(gain=0.4, high_hz=900.0))
    gone = [transmitter.send(b) for b in blocks(audio)][-1].meters[0].mean_share
    assert gone < 1e-4 * after


# --- level ---------------------------------------------------------------------------------------


def test_the_gain_is_even_in_decibels_over_its_range():
    assert [gain_db(FIGURES, g) for g in (0.0, 0.5, 0.75, 1.0)] == [-20, 0, 10, 20]
    assert gain_db(replace(FIGURES, fixed_gain=True), 1.0) == 0


def test_a_tone_that_just_reaches_full_power_does():
    sent = steady(1000.0, 0.0, figures=PURE)
    level = np.abs(sent.z[OUT_HZ // 2 :])
    rounded = 1 / (1 + ENDS_AT**-8) ** (1 / 8)
    assert level.mean() == pytest.approx(rounded, rel=1e-3)
    assert sent.alc_db[-1] < 0.1


@pytest.mark.parametrize("over_db", [1.0, 4.0, 8.0, 14.0])
def test_the_level_control_takes_off_what_is_too_much(over_db):
    """Its static curve: everything over full power, within half a decibel."""
    sent = steady(1000.0, over_db)
    assert sent.alc_db[-1] == pytest.approx(over_db, abs=0.5)
    settled = np.abs(sent.z[-OUT_HZ // 2 :])
    assert 20 * np.log10(settled.mean()) == pytest.approx(-0.4, abs=0.5)


def test_the_level_control_s_attack_and_release_are_its_figures():
    figures = replace(FIGURES, alc_attack_s=0.02, alc_hang_s=0.15, alc_release_db_per_s=40.0)
    loud = tone(0.5, 1000.0, AUDIO_HZ).samples * 10 ** (10 / 20)
    quiet = tone(1.0, 1000.0, AUDIO_HZ).samples * 0.1
    both = np.concatenate([loud, quiet]) * figures.unit_v / np.sqrt(2)
    sent = transmitted(figures, Knobs(), Sound(both, AUDIO_HZ))
    reads = sent.alc_db
    began = int(np.argmax(reads > 0.05))
    risen = int(np.argmax(reads >= (1 - np.exp(-1)) * 10.0))
    assert (risen - began) * STEP_S == pytest.approx(0.02, rel=0.15)
    ended = int(np.flatnonzero(reads >= reads.max() - 0.01)[-1])
    later = reads[ended] - reads[ended + round(0.1 / STEP_S)]
    assert later == pytest.approx(4.0, rel=0.1)
    # it hung: the loud part ends at 0.5 s, the filter is 21 ms late
    assert ended * STEP_S == pytest.approx(0.5 + 0.021 + 0.15, abs=0.02)


@pytest.mark.parametrize("knob_db", [3.0, 6.0, 10.0])
@pytest.mark.parametrize("over_db", [0.0, 5.0, 9.0])
def test_the_compressor_s_static_curve(knob_db, over_db):
    """Over T = 5 − c / (1 − 1/r) dB it takes (1 − 1/r) of what is over; peaks come out as they went
    in, by its make-up."""
    sent = steady(1000.0, over_db, knobs=Knobs(compression_db=knob_db), seconds=3.0)
    squeeze = 1 - 1 / FIGURES.compressor_ratio
    wanted = max(0.0, (over_db - (WORKED_DB - knob_db / squeeze)) * squeeze)
    assert sent.compressed_db[-1] == pytest.approx(wanted, abs=0.5)
    assert sent.envelope_db[-1] == pytest.approx(over_db, abs=0.5)


def test_bass_and_treble_do_what_is_written_on_them():
    for knob, hertz, still in (("bass_db", 150.0, 2500.0), ("treble_db", 2700.0, 200.0)):
        plain, turned = (
            {f: np.abs(steady(f, -20.0, knobs=k).z[-OUT_HZ // 2 :]).mean() for f in (hertz, still)}
            for k in (Knobs(), Knobs(**{knob: 6.0}))
        )
        assert 20 * np.log10(turned[hertz] / plain[hertz]) > 3.5
        assert abs(20 * np.log10(turned[still] / plain[still])) < 0.7


def test_what_overloads_the_first_stage_is_said_and_cut():
    figures = SetFigures.of_levels(-53.0, -50.0)
    sent = steady(1000.0, 12.0, figures=figures, knobs=Knobs(gain=0.2))
    assert any(m.overloaded for m in sent.meters)
    clean = steady(1000.0, 0.0, figures=SetFigures.of_levels(-53.0, -20.0))
    assert not any(m.overloaded for m in clean.meters)


# --- power and width -----------------------------------------------------------------------------


@pytest.mark.table(keep=2)
@pytest.mark.parametrize("gain", [0.3, 0.5, 0.7, 1.0])
@pytest.mark.parametrize("compression", [0.0, 12.0])
def test_peak_power_is_never_over_what_the_soft_knee_says(gain, compression):
    sent = spoken(Knobs(gain=gain, compression_db=compression))
    assert np.abs(sent.z).max() < ENDS_AT
    told = judged(sent, FIGURES, 2900.0)
    assert told.pep_w < 20.0 * ENDS_AT**2
    half = spoken(Knobs(gain=gain, compression_db=compression, power=0.5))
    assert judged(half, FIGURES, 2900.0).pep_w == pytest.approx(told.pep_w / 2, rel=1e-6)


def test_mean_power_two_ways():
    """By the samples and by adding up the spectrum (Parseval), within 0.3 dB."""
    sent = spoken(Knobs(gain=0.6, compression_db=4.0))
    by_samples = float(np.mean(np.abs(sent.z) ** 2))
    assert 10 * np.log10(spectrum(sent.z, OUT_HZ, 2048).power.sum() / by_samples) == pytest.approx(
        0.0, abs=0.3
    )


def test_out_of_band_energy_two_ways():
    """By bins of a spectrum, and by a filter in front of a power meter, within 0.3 dB."""
    sent = spoken(Knobs(gain=0.9))
    bins = spectrum(sent.z, OUT_HZ, 4096)
    whole = np.fft.fft(sent.z)
    f = np.fft.fftfreq(sent.z.size, 1 / OUT_HZ)
    for low, high in ((-3000.0, -300.0), (3300.0, 6000.0)):
        inside = (f >= low) & (f < high)
        through = np.fft.ifft(np.where(inside, whole, 0))
        direct = float(np.mean(np.abs(through) ** 2))
        assert 10 * np.log10(bins.within(low, high) / direct) == pytest.approx(0.0, abs=0.3)


def test_two_tones_into_the_power_stage_leave_third_order_products():
    """Far below its end a stage adds next to nothing; at its end products of 2 f1 − f2 stand up."""
    t = np.arange(OUT_HZ) / OUT_HZ
    pair = np.exp(2j * np.pi * 700 * t) + np.exp(2j * np.pi * 1900 * t)

    def product_db(size):
        bins = np.abs(np.fft.fft(power_stage(size / 2 * pair)))
        return 20 * np.log10(bins[-500] / bins[700])

    assert product_db(0.3) < -70
    assert -45 < product_db(1.0) < -20


def test_more_drive_splatters_more_and_gaps_come_up():
    mild, hard = (judged(spoken(Knobs(gain=g), figures=PURE), PURE, 2900.0) for g in (0.45, 0.85))
    assert hard.below_db > mild.below_db + 1.5
    assert hard.gaps_db < mild.gaps_db
    assert hard.mean_w > mild.mean_w


def test_the_width_is_that_of_the_band_that_is_set():
    noise = np.random.default_rng(3).standard_normal(AUDIO_HZ * 6) * FIGURES.unit_v * 0.1
    for low, high in ((300.0, 2700.0), (100.0, 2900.0)):
        sent = transmitted(FIGURES, Knobs(low_hz=low, high_hz=high), Sound(noise, AUDIO_HZ))
        assert width_hz(spectrum(sent.z, OUT_HZ, 2048)) == pytest.approx(
            0.99 * (high - low), rel=0.02
        )


# --- receivers -----------------------------------------------------------------------------------


def test_a_receiver_beside_it_hears_what_was_said():
    audio = tone(2.0, 1000.0, AUDIO_HZ).times(FIGURES.unit_v / np.sqrt(2) * 0.3)
    made = heard(transmitted(FIGURES, Knobs(), audio).z)
    middle = made.samples[AUDIO_HZ // 2 : -AUDIO_HZ // 4]
    assert made.rate_hz == AUDIO_HZ
    assert np.abs(middle).max() == pytest.approx(0.3, rel=0.02)


def test_a_path_has_the_noise_and_the_fading_it_was_given():
    z = np.full(OUT_HZ * 8, 0.5 + 0j)
    quiet = travelled(z, Path(noise_db=-20.0), (150.0, 2850.0)) - z
    f = np.fft.fftfreq(quiet.size, 1 / OUT_HZ)
    inside = np.fft.ifft(np.where((f > 150) & (f < 2850), np.fft.fft(quiet), 0))
    assert 10 * np.log10(np.mean(np.abs(inside) ** 2)) == pytest.approx(-20.0, abs=0.3)
    faded = np.abs(travelled(z, Path(noise_db=-200.0, fades_db=12.0), (150.0, 2850.0)))
    assert 20 * np.log10(faded.max() / faded.min()) == pytest.approx(12.0, abs=1.5)


@pytest.mark.long
def test_one_is_understood_better_with_less_noise():
    said = voice("deep")
    sent = transmitted(FIGURES, Knobs(), said.times(FIGURES.unit_v * 0.3))
    scores = [understood(said, sent.z, Path(noise_db=n)) for n in (-5.0, -17.0, -40.0)]
    assert scores[0] < scores[1] < scores[2]
    assert scores[2] > 0.85
    assert scores == [understood(said, sent.z, Path(noise_db=n)) for n in (-5.0, -17.0, -40.0)]


def test_a_delay_is_found():
    x = np.random.default_rng(4).standard_normal(4000)
    assert delay_of(x, np.concatenate([np.zeros(137), x]), 2000) == 137


def test_gaps_are_measured_against_speech():
    speech = voice("deep").at_rate(AUDIO_HZ)
    noisy = Sound(
        speech.samples + 0.1 * np.random.default_rng(5).standard_normal(speech.samples.size),
        AUDIO_HZ,
    )
    assert gaps_db(noisy) == pytest.approx(20.0, abs=1.5)
    assert gaps_db(two_tones(2.0, (700.0, 1900.0), AUDIO_HZ)) < 1.0


# --- what a real set adds ------------------------------------------------------------------------


def lines(z, *hertz):
    """Levels of single frequencies in decibels against full power, from one second of a signal."""
    z = z[OUT_HZ // 2 : OUT_HZ // 2 + OUT_HZ]
    size = np.abs(np.fft.fft(z * np.hanning(z.size))) / z.size * 2
    return [20 * np.log10(size[h % z.size]) for h in hertz]


@pytest.mark.parametrize(("drive_db", "under", "within"), [(0.0, 30.0, 2.5), (-6.0, 42.0, 1.5)])
def test_third_order_products_lie_as_far_under_pep_as_a_real_stage_s(drive_db, under, within):
    """30 dB at full drive, two for one below: at −6 dB 42 under its own peak."""
    pair = two_tones(2.0, (700, 1900)).at_rate(AUDIO_HZ)
    peak = np.abs(pair.samples).max()
    sent = transmitted(FIGURES, Knobs(), pair.times(FIGURES.unit_v / peak * 10 ** (drive_db / 20)))
    below, above = lines(sent.z, -500, 3100)
    pep = 20 * np.log10(np.abs(sent.z).max())
    assert pep - below == pytest.approx(under, abs=within)
    assert pep - above == pytest.approx(under, abs=within)


def test_carrier_other_sideband_and_noise_are_where_the_figures_say():
    figures = replace(
        FIGURES, carrier_db=40.0, other_sideband_db=45.0, noise_db=60.0, products_db=200.0
    )
    sent = steady(1000, -3.0, figures=figures)
    carrier, other, own = lines(sent.z, 0, -1000, 1000)
    assert carrier == pytest.approx(-40, abs=0.5)
    assert own - other == pytest.approx(45, abs=0.5)
    silent = transmitted(figures, Knobs(), Sound(np.zeros(AUDIO_HZ), AUDIO_HZ))
    noise = silent.z - silent.z.mean()
    in_3khz = 10 * np.log10((np.abs(noise) ** 2).mean() * 3000 / OUT_HZ)
    assert in_3khz == pytest.approx(-60, abs=0.3)


def test_clipping_the_sideband_gains_more_than_bringing_down_the_audio():
    """10 dB of either, at the same peaks: some 5 dB of average power against some 1.7."""
    plain = np.abs(spoken().z) ** 2
    gained = {}
    for rf in (False, True):
        figures = replace(FIGURES, clips_rf=rf)
        sent = np.abs(spoken(Knobs(compression_db=10.0), figures=figures).z) ** 2
        gained[rf] = 10 * np.log10(sent.mean() / plain.mean())
        assert 10 * np.log10(sent.max() / plain.max()) < 0.3
    assert gained[True] == pytest.approx(5.0, abs=0.7)
    assert gained[False] == pytest.approx(1.7, abs=0.5)


def test_a_clipper_s_meter_shows_what_it_takes_off_and_spills_nothing():
    figures = replace(FIGURES, clips_rf=True)
    sent = spoken(Knobs(compression_db=10.0), figures=figures)
    assert judged(sent, figures, 2900).compression_db == pytest.approx(10.0, abs=2.0)
    told = judged(sent, figures, 2900)
    assert told.above_db < -25
    assert width_hz(spectrum(sent.z, OUT_HZ, 2048)) < 2900


def test_a_steady_tone_is_compressed_too():
    """At the usual level of speech's peaks the compressor takes off what its knob says."""
    sent = steady(1000, WORKED_DB, knobs=Knobs(compression_db=8.0))
    assert sent.compressed_db[-100:].mean() == pytest.approx(8.0, abs=0.3)


# --- audibility in bands -------------------------------------------------------------------------


def test_importances_add_up_to_one():
    assert sum(share for _, share in IMPORTANCE) == pytest.approx(1.0, abs=1e-3)


def test_audibility_by_hand_for_noise_shaped_speech():
    """Noise of one density against noise of another: every band stands as far over it.

    At 0 dB half of each band's 30 dB is over the noise; the receiver lets through some of them.
    """
    rng = np.random.default_rng(4)
    n = 4 * OUT_HZ
    white = (rng.standard_normal(n) + 1j * rng.standard_normal(n)) / np.sqrt(2)
    # as much power in the receiver's band as the path's noise has there
    white *= np.sqrt(OUT_HZ / 2700)
    passed = sum(s for f, s in IMPORTANCE if f < 2600) + 0.0844 * (2850 - 2806) / 730
    for over_db, share in ((0.0, 0.5), (6.0, 0.7), (-12.0, 0.1)):
        index = audible(white * 10 ** ((over_db - 20) / 20), Path(noise_db=-20.0))
        assert index == pytest.approx(share * passed, abs=0.045)


@pytest.mark.long
def test_compression_brings_more_over_the_noise_of_a_crowded_band():
    figures = replace(FIGURES, clips_rf=True)
    plain, pressed = (spoken(Knobs(compression_db=c), figures=figures).z for c in (0.0, 10.0))
    crowded = Path(noise_db=-17.0)
    assert audible(pressed, crowded) > audible(plain, crowded) + 0.05
    assert audible(plain, Path(noise_db=-60.0)) == pytest.approx(
        audible(pressed, Path(noise_db=-60.0)), abs=0.06
    )


def test_the_table_of_bands_is_the_published_one():
    """Thirds of an octave from 160 Hz to 8 kHz, by their nominal middles; they carry all of it."""
    middles = [hz for hz, _ in IMPORTANCE]
    assert (middles[0], middles[-1], len(middles)) == (160, 8000, 18)
    exact = 1000 * 10 ** (np.arange(-8, 10) / 10)
    assert middles == pytest.approx(exact, rel=0.015)
    assert sum(share for _, share in IMPORTANCE) == pytest.approx(1.0, abs=1e-4)


def test_a_panel_as_it_comes_changes_nothing_of_the_voice():
    knobs = Knobs()
    assert (knobs.compression_db, knobs.bass_db, knobs.treble_db) == (0, 0, 0)
    assert (knobs.gain, knobs.power) == (0.5, 1)
