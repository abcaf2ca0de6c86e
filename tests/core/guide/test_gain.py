"""What is turned where a gain stands at its end, and never so that it stands at the other."""

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tests.core.radios import knobs
from tonleiter.core.guide.onair import DATA_APART_HZ, data_tones, on_air
from tonleiter.core.setup.modes import scene_of


def line(pad, **radio):
    """A mixer's strip through a pad into a microphone socket."""
    return station_of(
        gear("line-source", "deck", full_scale_dbu=6, below_full_db=-20),
        gear("l-pad", "pad", **pad),
        gear("microphone-socket", "radio", **radio),
    )


def gain_step(station, panel):
    scene = scene_of(on_air(station), panel)
    return scene, next(s for s in scene.steps if s.id == "gain")


def test_a_pad_whose_whole_loss_the_knob_cannot_take_back_is_changed():
    """60 dB out of 20 dB of range: out with it would pin the meter."""
    of = line({"series_ohm": 47e3, "shunt_ohm": 68}, gain_range_db=20, wants_dbu=-53)
    scene, step = gain_step(of, knobs(gain=100))
    assert "at its end" in step.move.says
    assert "Change the L-pad" in step.move.says
    after, step = gain_step(step.move.fix.apply(of), scene.panel)
    # the knob goes back to the upper middle, and is right there
    to = step.move.knobs["gain"]
    assert 50 < to < 80
    _, done = gain_step(after.case.assessment.station, knobs(gain=to))
    assert done.move is None


def test_too_much_is_taken_off_before_a_knob_that_is_shut():
    of = line({"series_ohm": 3300, "shunt_ohm": 470}, clip_dbu=0, gain_range_db=20, wants_dbu=-60)
    scene, step = gain_step(of, knobs(gain=0))
    assert "at its end" in step.move.says
    assert step.move.fix is not None
    _, after = gain_step(step.move.fix.apply(of), scene.panel)
    assert after.move is None or after.move.knobs["gain"] > 20


def test_nothing_that_can_be_turned_is_said_with_how_much_is_wanted():
    of = station_of(
        gear("dynamic-microphone", "mic", sensitivity_mv_per_pa=0.2),
        gear("microphone-socket", "radio", wants_dbu=-40, gain_range_db=20),
    )
    scene, step = gain_step(of, knobs(gain=100))
    assert step.move.at_end
    assert step.move.fix is None
    wanted = sum(scene.alc_zone) / 2 - scene.result.alc_reads_db
    assert f"{wanted:.0f} dB more are wanted" in step.move.says
    # with nothing to compress, the compressor is not asked for either
    squeeze = next(s for s in scene.steps if s.id == "compression")
    assert squeeze.move is None
    assert squeeze.shown == "its level comes first"


def test_a_knob_that_has_way_left_is_turned_and_nothing_else():
    of = line({"series_ohm": 10e3, "shunt_ohm": 47})
    _, step = gain_step(of, knobs(gain=20))
    assert set(step.move.knobs) == {"gain"}
    assert step.move.fix is None
    assert step.move.says.startswith("Up ")


def test_too_loud_on_a_fixed_socket_is_mended_before_anything_is_asked_of_the_compressor():
    """The box before it is loud: less compression would hide that, and be wrong once it is not."""
    of = station_of(
        gear("dynamic-microphone", "mic"),
        gear(
            "amplifier", "amp", expects="microphone", gain_db=46, gain_low_db=46,
            gain_high_db=46, z_in_ohm=2000,
        ),
        gear("data-socket", "radio"),
    )  # fmt: skip
    scene, step = gain_step(of, knobs(compression=12.0))
    assert scene.result.alc_reads_db > scene.alc_zone[1]
    assert step.move is not None
    squeeze = next(s for s in scene.steps if s.id == "compression")
    assert squeeze.move is None
    assert squeeze.shown == "its level comes first"


def test_tones_of_a_data_mode_stand_on_both_sides_of_its_frequency():
    x = data_tones(1500.0)
    power = np.abs(np.fft.rfft(x.samples * np.hanning(x.samples.size))) ** 2
    f = np.fft.rfftfreq(x.samples.size, 1 / x.rate_hz)
    low = f[np.argmax(np.where(f < 1500, power, 0))]
    high = f[np.argmax(np.where(f > 1500, power, 0))]
    assert (low + high) / 2 == pytest.approx(1500, abs=1.0)
    assert high - low == pytest.approx(DATA_APART_HZ, abs=2.0)
    assert power[f < 1500].sum() == pytest.approx(power[f > 1500].sum(), rel=0.02)
