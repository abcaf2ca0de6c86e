"""What Gear says of a piece by itself agrees with what the Ladder says of it in a chain."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.match.terms import usual_terms
from tonleiter.core.report.glance import glance


def said(lines, title):
    return float(next(x.value for x in lines if x.name == title).split()[0].replace("−", "-"))


@pytest.mark.parametrize("clip_dbu", [-30, -20, 0])
def test_the_room_of_an_input_is_the_ladders_headroom_at_the_top_of_its_window(clip_dbu):
    """A ceiling is a sine's RMS, 3 dB under its peaks; speech's stand 14 dB over its level."""
    mic = gear("dynamic-microphone", "mic")
    radio = gear("microphone-socket", "radio", wants_dbu=-53, clip_dbu=clip_dbu)
    of = station_of(mic, radio)
    lines = glance(of, of.gear_by_id["radio"], usual_terms(of))
    row = assess(of).rows[-1]
    top = row.gear.window().high_dbu
    in_chain = row.headroom_db - (top - row.speech_dbu)
    assert said(lines, "Room to its ceiling") == pytest.approx(in_chain, abs=0.51)
    assert in_chain == pytest.approx(clip_dbu + 3.01 - 14 - top, abs=0.05)


def test_a_microphone_that_bears_ten_decibels_more_has_ten_more_to_its_ceiling():
    """And what is clear of it is counted from where speech has its peaks, at the microphone."""
    clear = []
    for loudest in (120, 130):
        mic = gear("dynamic-microphone", "mic", max_spl_db=loudest)
        of = station_of(mic, gear("microphone-socket", "radio"))
        lines = glance(of, of.gear_by_id["mic"], usual_terms(of))
        clear.append(said(lines, "Clear of its ceiling"))
    assert clear[1] - clear[0] == pytest.approx(10, abs=1)
    # 94 dB SPL and some at 3 cm, peaks 14 dB over it: from 120 dB SPL, a sine's, little is left
    assert 0 < clear[0] < 25


def test_where_the_bass_of_a_ribbon_begins_is_its_transformer_s_corner():
    mic = gear("ribbon-microphone", "mic", bass_hz=60)
    of = station_of(mic, gear("microphone-socket", "radio"))
    lines = glance(of, of.gear_by_id["mic"], usual_terms(of))
    # into an open input its own corner is nearly all there is
    assert 30 < said(lines, "Bass from") < 90


@pytest.mark.parametrize(
    ("kind", "wants_first"), [("electret-2-wire", True), ("dynamic-microphone", False)]
)
def test_what_must_be_mended_before_anything_is_heard_is_said_first(kind, wants_first):
    """A capsule by itself is dead; fed it has a level, which is told too."""
    of = station_of(gear(kind, "mic"), gear("microphone-socket", "radio"))
    lines = glance(of, of.gear_by_id["mic"], usual_terms(of))
    assert (lines[0].name == "By itself") is wants_first
    assert any(x.name.startswith("Speech at ") for x in lines)
