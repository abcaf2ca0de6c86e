"""The sentence that opens a chain, against what somebody at the bench would say of it first."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.headline import headline


def figure(value):
    return {"value": value}


HANDSET = gear("carbon-microphone", "handset")
PLAIN = gear("microphone-socket", "set", bias_v=figure(0.0))
ELECTRET_PIN = gear("microphone-socket", "set", bias_v=figure(5.0), bias_ohm=figure(2200.0))
CURRENT = gear("bias-feed", "feed", supply_v=figure(6.0), resistor_ohm=figure(220.0))

# who speaks into what: what must be said first, and what must not be said at all
SAID = {
    "granules on a pin without volts: no current, no sound": (
        (HANDSET, PLAIN), "The set gets nothing", "right in its window"
    ),
    # 5 V through 2.2 kΩ and 80 Ω are 2.2 mA of the 10 mA it needs: a whisper, not a level
    "granules on an electret's pin: it scratches": (
        (HANDSET, ELECTRET_PIN), "The handset gets too little current", "no sound"
    ),
    # 6 V through 220 Ω and 80 Ω are 20 mA: twice what it needs
    "granules with a current of their own: a level": (
        (HANDSET, CURRENT, PLAIN), "The set gets", "too little current"
    ),
    "an electret on a pin without volts is dead": (
        (gear("electret-2-wire", "capsule"), PLAIN), "The set gets nothing", "window"
    ),
    "a dynamic needs nothing": (
        (gear("dynamic-microphone", "stage-mic"), PLAIN), "The set gets", "means anything"
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", SAID)
def test_what_is_said_first(case):
    pieces, first, never = SAID[case]
    found = verdict_of(station_of(*pieces))
    made = headline(found.assessment, found.stops())
    assert made.says.startswith(first)
    assert never not in f"{made.says} {made.proves}"


def test_a_level_that_means_nothing_is_not_told_and_other_stops_are_counted():
    found = verdict_of(station_of(HANDSET, ELECTRET_PIN))
    stops = found.stops()
    made = headline(found.assessment, stops)
    assert " mV" not in made.says
    assert "means anything until that is mended" in made.proves
    assert (f"{len(stops) - 1} other thing" in made.proves) == (len(stops) > 1)
