"""Before the radio: lips, boxes at their own level, the way down; said only where it is wanted."""

import math

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.guide.before import distance, outboard
from tonleiter.core.guide.onair import on_air
from tonleiter.core.station import edits

DYNAMIC = gear("dynamic-microphone", "mic")
SET = gear("microphone-socket", "radio")


def at_lips(**chain):
    of = edits.change_chain(station_of(DYNAMIC, SET), "c", **chain)
    step = distance(on_air(of))
    after = None if step.move is None else distance(on_air(step.move.fix.apply(of)))
    return step, after


@pytest.mark.parametrize(
    ("mm", "speaks", "words"),
    [
        (14.0, "across-it", "Back off"),
        (15.0, "across-it", ""),
        (30.0, "across-it", ""),
        (60.0, "across-it", ""),
        (61.0, "across-it", "Come closer"),
        (200.0, "into-it", "Come closer"),
        (30.0, "into-it", "Turn it aside"),
    ],
)
def test_lips_belong_at_two_or_three_fingers_and_across(mm, speaks, words):
    step, after = at_lips(distance_mm=mm, speaks=speaks)
    assert (step.move.says if step.move else "").startswith(words)
    assert (step.move is None) == (words == "")
    assert f"{mm / 10:g} cm" in step.shown
    assert ("across" in step.shown) == (speaks == "across-it")
    if after is not None:
        # what is asked next, if anything, is another thing
        assert after.move is None or after.move.says != step.move.says


@pytest.mark.parametrize(
    ("figures", "mm", "words", "then_mm"),
    [
        ({"pattern": "directional"}, 25.0, "Back off to about 6 cm.", 60),
        ({"pattern": "directional"}, 30.0, "", None),
        ({"pattern": "directional"}, 100.0, "", None),
        ({"pattern": "directional"}, 125.0, "Come closer: to about 6 cm.", 60),
        # its holes are taped: it hears all round
        ({"pattern": "directional", "rear": "blocked"}, 25.0, "", None),
        ({"pattern": "noise-cancelling"}, 10.0, "", None),
        ({"pattern": "noise-cancelling"}, 20.0, "", None),
        ({"pattern": "noise-cancelling"}, 30.0, "Come closer: to about 1 cm.", 10),
    ],
)
def test_where_lips_belong_is_a_matter_of_what_the_capsule_hears(figures, mm, words, then_mm):
    """A directional one booms near by, one that cancels noise hears only what touches it."""
    of = station_of(DYNAMIC | figures, SET, distance_mm=mm, speaks="across-it")
    step = distance(on_air(of))
    assert (step.move.says if step.move else "") == words
    if then_mm is not None:
        after = step.move.fix.apply(of)
        assert after.chain().distance_mm.value == then_mm
        assert distance(on_air(after)).move is None


def test_how_much_speech_rises_over_the_room_by_coming_closer():
    """As 1/r from 10 mm behind the lips: 190 + 10 to 30 + 10 mm is 14 dB."""
    step, _ = at_lips(distance_mm=190.0)
    assert f"{20 * math.log10(200 / 40):.0f} dB over the room" in step.move.why


def test_a_line_has_no_lips():
    of = station_of(gear("line-source", "deck"), SET | {"wants_dbu": -20, "clip_dbu": 10})
    step = distance(on_air(of))
    assert step.move is None
    assert step.shown == "a line, no microphone"


STRIP = gear(
    "amplifier", "strip", expects="microphone", gain_db=30, gain_low_db=0, gain_high_db=60,
    z_in_ohm=2000, z_out_ohm=120, clip_dbu=20, ein_dbu=-125,
)  # fmt: skip
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=150)


def box_steps(*pieces):
    return {s.id: s for s in outboard(on_air(station_of(DYNAMIC, *pieces)))}


def test_without_a_box_nothing_is_asked_of_one():
    assert box_steps(PAD, SET) == {}


def test_a_box_without_room_for_peaks_is_turned_down_until_it_has_four_decibels():
    steps = box_steps(STRIP | {"gain_db": 60, "clip_dbu": 12}, PAD, SET)
    move = steps["box-strip"].move
    assert move is not None
    assert move.says.startswith("Down ")
    assert "no room for peaks" in move.why
    of = station_of(DYNAMIC, STRIP | {"gain_db": 60, "clip_dbu": 12}, PAD, SET)
    after = on_air(move.fix.apply(of)).assessment.rows[1]
    assert after.headroom_db == pytest.approx(4.0, abs=0.6)


def test_a_box_that_stands_low_is_turned_up_only_where_its_noise_is_heard():
    """30 dB under its end and more; with a quiet input nobody hears that, with a noisy one all."""
    quiet = box_steps(STRIP | {"gain_db": 10}, SET)["box-strip"]
    assert quiet.move is None
    assert "its own noise is not heard" in quiet.shown
    noisy = box_steps(STRIP | {"gain_db": 10, "ein_dbu": -95}, SET)["box-strip"]
    assert noisy.move is not None
    assert noisy.move.says.startswith("Up ")
    assert "adds its own noise" in noisy.move.why


def test_the_way_down_is_asked_for_by_what_is_off_at_the_socket():
    low = {"wants_dbu": -55, "gain_range_db": 30}
    pieces = (STRIP | {"gain_db": 48}, PAD | {"shunt_ohm": 1500}, SET | low)
    hot = box_steps(*pieces)["pad"]
    row = on_air(station_of(DYNAMIC, *pieces)).assessment.rows[-1]
    over_db = row.speech_dbu - row.window.high_dbu
    assert over_db > 3
    assert hot.move.says == f"{over_db:.0f} dB less at its socket."
    right = box_steps(STRIP, PAD, SET)["pad"]
    assert right.move is None
