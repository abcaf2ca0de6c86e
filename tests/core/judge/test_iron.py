"""Cores that saturate, dividers of old sets: what is there is changed before more is added."""

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies


def titles(found, code, stage=None):
    (finding,) = [
        f for f in found.findings if f.code == code and (stage is None or f.stage == stage)
    ]
    return [r.title for r in remedies(found, finding)]


PC = gear("line-source", "pc", full_scale_dbu=6, below_full_db=-22)
CORE = gear("transformer", "core", saturation_dbu=-20)
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
SET = gear("microphone-socket", "radio")


def test_a_core_that_saturates_is_swapped_before_a_second_pad_is_thought_of():
    """Line level into a microphone transformer with a pad after it: another core, not more pads."""
    before = assess(station_of(PC, CORE, PAD, SET))
    assert before.rows[1].headroom_db < 0
    (finding,) = [f for f in before.findings if f.code == "over-ceiling" and f.stage == "core"]
    swap = remedies(before, finding)[0]
    assert "Swap the core for one that bears" in swap.title
    after = assess(swap.change(before.station))
    assert after.rows[1].headroom_db > 3
    assert not after.stops()


def test_a_larger_core_is_offered_before_a_pad():
    before = assess(station_of(PC, CORE, SET | {"wants_dbu": -20, "clip_dbu": 10}))
    offered = titles(before, "over-ceiling", "core")
    assert "Swap the core for one that bears" in offered[0]


def test_the_divider_of_an_old_set_is_changed_for_a_weak_microphone():
    """Made for a piezo, it takes 34 dB off a dynamic: two resistors come before a preamp."""
    old = gear("microphone-socket", "radio", z_in_ohm=100e3, wants_dbu=-50)
    divider = gear("input-divider", "divider", upper_ohm=220e3, lower_ohm=4700)
    before = assess(station_of(gear("dynamic-microphone", "mic"), divider, old))
    offered = titles(before, "under-window")
    assert offered[0].startswith("Change the divider to")
    assert any("preamp" in t for t in offered[1:])
    (finding,) = [f for f in before.findings if f.code == "under-window"]
    after = assess(remedies(before, finding)[0].change(before.station))
    assert after.rows[-1].window.low_dbu - 10 < after.rows[-1].speech_dbu
    # as it was built is as it stood: nobody had entered another way
    changed = after.rows[1].gear
    assert (changed.was_upper_ohm.value, changed.was_lower_ohm.value) == (220e3, 4700)
    assert ("As built", "220k / 4k7") in changed.remarks()
