"""Crystal and piezo microphones: what an old hand reaches for first, by what they are plugged into.

A crystal is a capacitor of a nanofarad or so. Its bass ends where its reactance is the load's
resistance, so the load is everything: into hundreds of kilohms one resistor in series raises the
load and takes level that is to spare anyway; into kilohms no resistor leaves enough, and a follower
goes right behind the crystal, with a pad where the radio would then be driven too hard. Two
resistors before a radio load the crystal more than the radio did, and are never the answer.
"""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.solve.corners import corners_hz

PIEZO = gear("piezo-microphone", "piezo", leak_ohm=500e6)
LEAD = gear("cable", "lead", length_m=3)
RESISTOR, FOLLOWER = "in series before", "op-amp buffer of 2.2 MΩ right behind it"
# what a long chat on SSB wants
WANTED_HZ = 150
TWO_RESISTORS = "Ω and "

# ohms of the input, the finding, what is tried first, what is not to be offered at all
CASES = {
    "transistor set, 600 ohm: too little": (600, "under-window", FOLLOWER, RESISTOR),
    "transistor set, 600 ohm: no bass": (600, "bass-corner-high", FOLLOWER, RESISTOR),
    "line input, 10 kilohm": (10e3, "bass-corner-high", FOLLOWER, TWO_RESISTORS),
    "47 kilohm": (47e3, "bass-corner-high", RESISTOR, TWO_RESISTORS),
    "100 kilohm": (100e3, "bass-corner-high", RESISTOR, TWO_RESISTORS),
    "old set, 470 kilohm": (470e3, "bass-corner-high", RESISTOR, TWO_RESISTORS),
    "old set, 470 kilohm, driven too hard": (470e3, "over-ceiling", RESISTOR, TWO_RESISTORS),
    "grid, 1 megohm, driven too hard": (1e6, "over-ceiling", RESISTOR, TWO_RESISTORS),
}


def solved(ohm):
    return assess(station_of(PIEZO, LEAD, gear("microphone-socket", "radio", z_in_ohm=ohm)))


def bass_hz(assessment):
    return corners_hz(assessment.solution.f_hz, assessment.solution.gain_db())[0]


@pytest.mark.parametrize("case", CASES)
def test_what_is_tried_first(case):
    ohm, code, first, never = CASES[case]
    before = solved(ohm)
    (finding,) = (f for f in before.findings if f.code == code)
    offered = remedies(before, finding)
    assert first in offered[0].title, [r.title for r in offered]
    assert not any(never in r.title for r in offered)


@pytest.mark.parametrize("ohm", [600, 10e3, 47e3, 100e3, 470e3])
def test_followed_there_is_bass_and_a_level_that_the_radio_likes(ohm):
    """What stands first is done, and nothing of that kind is left, nor anything new."""
    before = solved(ohm)
    (finding,) = (f for f in before.findings if f.code == "bass-corner-high")
    after = assess(remedies(before, finding)[0].change(before.station))
    assert bass_hz(after) <= WANTED_HZ
    row = after.rows[-1]
    assert row.window.holds(row.speech_dbu)
    left = {f.code for f in after.findings if f.severity != "fine"}
    assert left <= {f.code for f in before.findings} - {"bass-corner-high", "under-window"}


@pytest.mark.parametrize("ohm", [470e3, 1e6])
def test_one_resistor_against_too_much_level_gives_bass_besides(ohm):
    """R + r against R: the corner falls by as much as the load grows."""
    before = solved(ohm)
    (finding,) = (f for f in before.findings if f.code == "over-ceiling")
    after = assess(remedies(before, finding)[0].change(before.station))
    assert after.rows[-1].headroom_db >= 3.0
    assert bass_hz(after) < 0.75 * (bass_hz(before) or 1e9)


def test_behind_a_stage_of_its_own_a_pad_is_two_resistors():
    """What stands before the pad then is a low impedance, and the crystal does not see the pad."""
    chain = station_of(PIEZO, LEAD, gear("valve-stage", "valve", grid_ohm=2.2e6),
                       gear("microphone-socket", "radio", z_in_ohm=100e3))  # fmt: skip
    before = assess(chain)
    (finding,) = (f for f in before.findings if f.code == "line-into-mic")
    assert TWO_RESISTORS in remedies(before, finding)[0].title


def test_a_stage_of_ones_own_gets_a_higher_input_before_anything_is_added():
    """47 kilohm right behind a crystal: the resistor is on the bench already."""
    amplifier = gear("opamp-preamp", "preamp", bias_ohm=47e3, feedback_ohm=100)
    radio = gear("microphone-socket", "radio", z_in_ohm=2000, wants_dbu=-35, clip_dbu=-10)
    station = station_of(PIEZO, LEAD, amplifier, radio)
    before = assess(station)
    (finding,) = (f for f in before.findings if f.code == "bass-corner-high")
    offered = remedies(before, finding)
    assert offered[0].title.startswith("Make the input resistor of the preamp")
    after = assess(offered[0].change(station))
    assert bass_hz(after) <= WANTED_HZ
    assert finding.key not in {f.key for f in after.findings}


def test_a_resistor_that_keeps_a_crystal_its_bass_is_not_taken_out_for_level():
    """Nor made smaller: in circles. The radio is weak: a stage comes behind it."""
    pad = gear("series-pad", "pad", series_ohm=2.2e6)
    radio = gear("microphone-socket", "radio", z_in_ohm=100e3, wants_dbu=-30, gain_range_db=20)
    before = assess(station_of(PIEZO, LEAD, pad, radio))
    (finding,) = (f for f in before.findings if f.code == "under-window")
    titles = [r.title for r in remedies(before, finding)]
    assert not any("pad" in t or "series resistor" in t for t in titles), titles


def test_nor_for_noise():
    """The input hisses over what is left of it: the resistor stays all the same."""
    pad = gear("series-pad", "pad", series_ohm=2.2e6)
    hissing = gear("microphone-socket", "radio", z_in_ohm=100e3, ein_dbu=-90)
    before = assess(station_of(PIEZO, LEAD, pad, hissing))
    (finding,) = (f for f in before.findings if f.code == "noise-heard")
    assert not any("Leave the pad out" in r.title for r in remedies(before, finding))


# what stands between a crystal and its radio, the radio's volts, and what an old hand says of them:
# it passes no current, so the few volts of a microphone contact do nothing to it; a salt crystal is
# kept away from tens of volts, and not by a capacitor alone, which leaks more than it does; a feed
# that somebody put in for it is of no use and loads it besides
VOLTS = {
    "bias for an electret, 8 V": ((), {"bias_v": 8, "z_in_ohm": 600}, "fine"),
    "no bias": ((), {"z_in_ohm": 600}, None),
    "8 V behind a capacitor": (
        (gear("capacitor", "c", leakage_ohm=100e6),),
        {"bias_v": 8, "z_in_ohm": 600},
        "fine",
    ),
    "an old set's 60 V": ((), {"bias_v": 60, "bias_ohm": 220e3, "z_in_ohm": 100e3}, "mind"),
}


@pytest.mark.parametrize("case", VOLTS)
def test_volts_on_a_crystal(case):
    between, radio, severity = VOLTS[case]
    before = assess(station_of(PIEZO, LEAD, *between, gear("microphone-socket", "radio", **radio)))
    found = [f for f in before.findings if f.code == "volts-on-crystal"]
    assert [f.severity for f in found] == ([severity] if severity else [])
    for finding in found:
        # nothing flows, or what two leaks let through: all of it stands there, or their share
        share = 500 / (500 + 100) if between else 1.0
        assert finding.evidence["dc_v"] == pytest.approx(share * radio["bias_v"], rel=0.01)
        offered = remedies(before, finding)
        assert bool(offered) == (severity == "mind")
        for remedy in offered:
            after = assess(remedy.change(before.station))
            assert "volts-on-crystal" not in {f.code for f in after.findings}


def test_of_a_feed_that_a_crystal_does_not_want_only_that_is_said():
    feed = gear("bias-feed", "feed", supply_v=9, resistor_ohm=10e3)
    found = assess(station_of(PIEZO, feed, gear("microphone-socket", "radio", z_in_ohm=100e3)))
    codes = {f.code for f in found.findings}
    assert "needless-bias-feed" in codes
    assert "volts-on-crystal" not in codes


# a crystal at a desk with its phantom power on: an old hand walks to the desk first, and only where
# something else in the chain lives on it does he solder
DESKS = {
    "nothing else lives on it": ((), "Switch off the phantom power of the desk"),
    "a lead between": ((LEAD,), "Switch off the phantom power of the desk"),
}


@pytest.mark.parametrize("case", DESKS)
def test_at_a_desk_phantom_power_is_switched_off_first(case):
    between, first = DESKS[case]
    desk = gear("mixer-strip", "desk", gain_db=30, phantom="on", input="balanced")
    radio = gear("microphone-socket", "radio")
    before = assess(station_of(PIEZO, *between, desk, radio))
    (finding,) = (f for f in before.findings if f.code == "volts-on-crystal")
    offered = remedies(before, finding)
    assert offered[0].title == first
    after = assess(offered[0].change(before.station))
    assert "volts-on-crystal" not in {f.code for f in after.findings}
    assert after.solution.op.volts(*outlet(after)) == pytest.approx(0, abs=0.01)
    # nothing else was touched
    assert [r.gear.id for r in after.rows] == [r.gear.id for r in before.rows]


def outlet(assessment):
    out = assessment.solution.compiled.stages[0].outlet
    return out.hot, out.cold
