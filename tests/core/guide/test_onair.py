"""What a radio is taken to be: by its socket, by its box, or typical where nobody said."""

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tests.core.radios import knobs
from tonleiter.core.guide.onair import on_air
from tonleiter.core.setup.modes import scene_of

MIC = gear("dynamic-microphone", "mic")
SET = gear("microphone-socket", "set", gain_range_db=46, marked_to=10, compressor_ratio=1.0)


def boxed(of, **facts):
    box = {"id": "box", "name": "the set", "kind": "radio", "supply": "safety-earth"}
    return type(of).model_validate(
        of.model_dump() | {"devices": [box | {"ports": ["set"]} | facts]}
    )


def test_a_set_without_a_box_is_typical_and_one_with_it_is_what_was_entered():
    of = station_of(MIC, SET)
    plain = on_air(of).figures
    assert plain.power_w == 100.0
    box = on_air(
        boxed(of, power_w=25, transmitter={"alc_full_db": 9, "deviation_hz": 2500})
    ).figures
    assert (box.power_w, box.alc_full_db, box.deviation_hz) == (25.0, 9.0, 2500.0)
    assert plain.alc_full_db != 9.0
    assert on_air(boxed(of)).radio == "the set"
    assert on_air(of).radio == "set"


def test_a_set_is_what_its_socket_says():
    figures = on_air(station_of(MIC, SET)).figures
    assert (figures.gain_range_db, figures.marked_to) == (46.0, 10.0)
    # a compressor that compresses nothing is none: something is left of it
    assert figures.compressor_ratio == pytest.approx(1.5)
    assert not figures.fixed_gain
    fixed = on_air(station_of(MIC, gear("data-socket", "set"))).figures
    assert fixed.fixed_gain


@pytest.mark.parametrize(("effort", "by_db"), [("soft", -6.0), ("normal", 0.0), ("loud", 12.0)])
def test_somebody_louder_moves_the_level_by_what_is_reckoned_with(effort, by_db):
    """Soft −6, loud +12 dB against a normal voice, at the radio as at the lips."""
    of = station_of(MIC, SET)
    usual, now = on_air(of), on_air(of, effort=effort)
    rms = [float(np.sqrt(np.mean(np.square(case.volts)))) for case in (usual, now)]
    assert 20 * np.log10(rms[1] / rms[0]) == pytest.approx(by_db, abs=1.5)


@pytest.mark.parametrize("at_end", [100.0, 0.0])
def test_what_stands_before_a_knob_at_its_end_brings_it_back_to_where_it_is_worked(at_end):
    """Not only by what is wanted: nothing would be left for a word that is less loud, or louder."""
    strip = gear(
        "amplifier", "strip", expects="microphone", gain_db=10 if at_end else 42, gain_low_db=0,
        gain_high_db=70, z_in_ohm=2400, z_out_ohm=120, clip_dbu=20,
    )  # fmt: skip
    radio = SET | {"gain_range_db": 20, "wants_dbu": -30, "clip_dbu": 6}
    of, panel = station_of(MIC, strip, radio), knobs(gain=at_end)
    scene = scene_of(on_air(of), panel)
    move = next(s for s in scene.steps if s.id == "gain").move
    assert " end" in move.says
    after = scene_of(on_air(move.fix.apply(of)), panel)
    turned = next(s for s in after.steps if s.id == "gain").move.knobs["gain"]
    assert 30.0 < turned < 85.0
