"""A voice through solved chains: what the ladder says and what the signal measures agree."""

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.app.demo import shipped_demo
from tonleiter.core.judge.assess import assess
from tonleiter.core.sound.level import active_level, crest_db
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.through import response_at, through
from tonleiter.core.sound.voices import tone, two_tones, voice
from tonleiter.core.station.files import read_station
from tonleiter.core.units.levels import dbu_from_volts

DEMO = read_station(shipped_demo()).station
CHAINS = [(c.id, v.id) for c in DEMO.chains for v in c.variants]


def rms_dbu(samples):
    return dbu_from_volts(float(np.sqrt(np.mean(samples**2))))


@pytest.mark.parametrize(("chain", "variant"), CHAINS)
def test_the_ladder_and_the_signal_agree_within_half_a_decibel(chain, variant):
    found = assess(DEMO, chain, variant)
    kept = DEMO.chain(chain)
    who = DEMO.operator(kept.operator)
    spoken = kept.purpose_facts.spoken
    made = voice(who.pitch, who.effort) if spoken else two_tones(4.0, (700.0, 1900.0))
    arrived = through(found.solution, found.rows, made)
    row = found.rows[-1]
    level = dbu_from_volts(active_level(arrived.voice).rms)
    assert level == pytest.approx(row.speech_dbu, abs=0.5)


def mic(**more):
    return gear("dynamic-microphone", "mic", coil_ohm=300, **more)


def radio(**more):
    return gear("microphone-socket", "radio", **({"z_in_ohm": 600} | more))


def lead(name="lead"):
    return gear("cable", name, length_m=2, field_ut=0)


def boosted(gain_db, **more):
    """A preamp with as much gain as it is told."""
    return gear(
        "amplifier",
        "amp",
        expects="microphone",
        z_in_ohm=2000,
        ein_dbu=-125,
        gain_db=gain_db,
        gain_low_db=0,
        gain_high_db=80,
        **more,
    )


def squeezer(**more):
    return gear("compressor", "box", **more)


@pytest.mark.parametrize("ratio", [2.0, 4.0, 10.0])
def test_a_compressor_before_the_radio_does_what_the_ladder_says(ratio):
    """Level and crest fall as the ladder says, to 2.5 dB.

    Its stored envelope stands for speech in general; this voice pauses less than most, so that a
    slow release holds it down longer.
    """
    of = station_of(
        mic(),
        lead(),
        boosted(45),
        squeezer(ratio=ratio, threshold_dbu=-25),
        lead("out"),
        radio(clip_dbu=20),
    )
    found = assess(of)
    assert found.rows[3].speech_squeezed_db > 1
    arrived = through(found.solution, found.rows, voice("deep"))
    level = dbu_from_volts(active_level(arrived.voice).rms)
    assert level == pytest.approx(found.rows[-1].speech_dbu, abs=2.5)
    # held down, but not lifted: without it the same voice is louder
    without = assess(station_of(mic(), lead(), boosted(45), lead("out"), radio(clip_dbu=20)))
    plain = through(without.solution, without.rows, voice("deep")).voice
    assert active_level(plain).level_db > active_level(arrived.voice).level_db + 1


def test_a_tone_comes_out_by_the_response_at_its_frequency():
    found = assess(station_of(mic(), lead(), radio()))
    for hertz in (200.0, 1000.0, 3500.0):
        arrived = through(found.solution, found.rows, tone(2.0, hertz))
        middle = arrived.voice.samples[8000:24_000]
        size = abs(response_at(found.solution, np.array([hertz]), -1)[0])
        wanted = size * found.solution.compiled.speech_pa
        assert np.sqrt(np.mean(middle**2)) == pytest.approx(wanted, rel=0.01)


def test_a_ceiling_that_is_met_cuts_peaks():
    """Some decibels too much for a preamp's end: peaks are held there, the level falls by less."""
    of = station_of(mic(), boosted(60, clip_dbu=6), lead(), radio(clip_dbu=40))
    found = assess(of)
    assert found.rows[1].headroom_db < -3
    arrived = through(found.solution, found.rows, voice("deep"))
    # from there to the radio nothing is lost but in a short lead
    response = np.abs(found.solution.response)
    passed_db = float(np.median(20 * np.log10(response[:, -1] / response[:, 1])))
    peak_dbu = dbu_from_volts(np.abs(arrived.voice.samples).max())
    # what is cut has corners, and a lead rounds them with a little ringing
    assert peak_dbu == pytest.approx(found.rows[1].clips_at_dbu + passed_db, abs=1.0)
    assert crest_db(arrived.voice) < crest_db(voice("deep")) - 3


def test_noise_and_hum_have_the_levels_that_were_solved():
    found = assess(DEMO, "hf-chat", "as-wired")
    arrived = through(found.solution, found.rows, voice("deep"))
    assert rms_dbu(arrived.hum) == pytest.approx(found.rows[-1].hum_dbu, abs=0.1)
    low, high = found.solution.compiled.chain.band
    power = np.abs(np.fft.rfft(arrived.noise)) ** 2
    f = np.fft.rfftfreq(arrived.noise.size, 1 / arrived.voice.rate_hz)
    inside = 2 * power[(f >= low) & (f <= high)].sum() / arrived.noise.size**2
    assert dbu_from_volts(float(np.sqrt(inside))) == pytest.approx(
        found.rows[-1].noise_dbu, abs=0.5
    )
    both = arrived.all()
    assert np.allclose(both.samples, arrived.voice.samples + arrived.noise + arrived.hum)


def test_breath_thumps_only_into_a_bare_capsule():
    """Below 60 Hz: speaking into it there is far more than across it."""

    def bottom(speaks):
        of = station_of(
            gear("electret-2-wire", "mic", over_it="nothing"),
            radio(bias_v=8, bias_ohm=2200, z_in_ohm=1500),
            speaks=speaks,
        )
        found = assess(of)
        made = through(found.solution, found.rows, voice("deep")).voice
        power = np.abs(np.fft.rfft(made.samples)) ** 2
        f = np.fft.rfftfreq(made.samples.size, 1 / made.rate_hz)
        return power[(f > 5) & (f < 60)].sum() / power.sum()

    assert bottom("into-it") > 20 * bottom("across-it")


def test_the_same_voice_gives_the_same_samples():
    found = assess(DEMO, "fm-headset")
    one, other = (through(found.solution, found.rows, voice("high")).all() for _ in range(2))
    assert isinstance(one, Sound)
    assert np.array_equal(one.samples, other.samples)
