"""The two answers of a first evening: what somebody at the bench says to each pair, written first.

Rows: what is spoken into, where it goes, what it takes, and why.
"""

import pytest

from tonleiter.core.gear.beginnings import GOES, SPEAKS, beginning
from tonleiter.core.match.pair import match_pair
from tonleiter.core.match.terms import usual_terms
from tonleiter.core.station.begin import UNNAMED, begun, named

FIRST_WORDS = [
    # a capsule lives on the volts of the pin; where nobody knows of any, both are said
    ("electret", "radio", "plug in", ("needs bias",)),
    ("electret", "radio-biased", "plug in", ()),
    ("electret", "radio-plain", "needs bias", ()),
    ("electret", "valve", "needs bias", ()),
    ("electret", "data", "needs bias", ()),
    # a moving coil on a pin that may carry volts: the coil is kept off them, whatever the set is
    ("dynamic-xlr", "radio", "must be blocked", ()),
    ("dynamic", "radio-biased", "must be blocked", ()),
    ("ribbon", "radio-biased", "must be blocked", ()),
    ("unknown", "radio", "must be blocked", ()),
    ("dynamic", "radio-plain", "plug in", ()),
    # a millivolt on an input that wants tens or hundreds of them
    ("dynamic", "data", "needs +", ()),
    ("dynamic", "valve", "needs +", ()),
    ("ribbon", "line", "needs +", ()),
    # its own preamp is enough, and made for sockets without volts and with them
    ("amplified", "radio", "plug in", ()),
    ("amplified", "radio-plain", "plug in", ()),
    # a crystal is a small capacitor: 600 ohm leave it nothing of the voice, a grid most of it
    ("piezo", "radio-plain", "loses bass below 2", ()),
    ("piezo", "valve", "loses bass", ()),
    # carbon is nothing without its current, and loud with it
    ("carbon", "radio", "needs current", ()),
    ("carbon", "valve", "needs current", ()),
    ("studio", "radio", "needs phantom power", ()),
    ("studio", "line", "needs phantom power", ()),
    # a line on a microphone input
    ("computer", "radio", "needs a pad", ()),
    ("mixer", "radio-plain", "needs a pad", ()),
    # a line on something made for lines: turn it down, build nothing
    ("computer", "data", "turn it down", ()),
    ("computer", "line", "plug in", ()),
    ("usb", "data", "turn it down", ()),
]


def judged(speaks, goes):
    station = begun(beginning(SPEAKS, speaks), beginning(GOES, goes))
    source, socket = station.gear
    return match_pair(station, source, socket, usual_terms(station))


@pytest.mark.parametrize(("speaks", "goes", "takes", "may"), FIRST_WORDS)
def test_a_pair_of_answers_is_judged_as_at_the_bench(speaks, goes, takes, may):
    pair = judged(speaks, goes)
    said = pair.words().partition("; or, by its ranges, ")[0]
    assert takes in said
    assert pair.may == may


@pytest.mark.long
def test_no_gain_is_past_the_end_of_its_scale():
    for speaks in SPEAKS:
        for goes in GOES:
            pair = judged(speaks.token, goes.token)
            for knob in pair.knob_ends or ():
                assert 0 <= knob.turn <= 1, (speaks.token, goes.token)


def test_every_answer_gives_a_piece_of_its_role_with_words_of_its_own():
    for among, role in ((SPEAKS, "microphone"), (GOES, "input")):
        assert len({one.words for one in among}) == len(among)
        for one in among:
            assert one.piece("x").role == role


def test_a_station_is_named_once():
    station = begun()
    assert station.title == UNNAMED
    assert named(station, "hut-on-the_hill").title == "hut on the hill"
    assert named(station, " - ").title == UNNAMED
    assert named(station, "x" * 200).title == "x" * 80
    assert named(named(station, "a"), "b").title == "a"
