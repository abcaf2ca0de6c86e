"""Controls turned in their circuit: what was asked for is what is measured after it."""

import math

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.wiper import wiper_at, wiper_db
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.findings.adjusting import turn
from tonleiter.core.judge.findings.case import Case

LINE = gear("line-source", "pc", full_scale_dbu=6, below_full_db=-20, z_out_ohm=600)


def desk(at):
    return gear("amplified-desk-microphone", "desk", turned_up=at)


def pot(at, track=10e3):
    return gear("trim-pot", "pot", track_ohm=track, turned_up=at)


def radio(ohm):
    return gear("microphone-socket", "radio", z_in_ohm=ohm, clip_dbu=0)


# half the turn into a low load is far more than 6 dB: 10 kΩ at the middle into 600 Ω is −25 dB
CASES = {
    "a volume at its end, 3 dB less, into 600 Ω": ((desk(1.0), radio(600)), 0, -3.0),
    "a volume at its end, 3 dB less, into 50 kΩ": ((desk(1.0), radio(50e3)), 0, -3.0),
    "a volume at half, 4 dB more, into 600 Ω": ((desk(0.5), radio(600)), 0, 4.0),
    "a pot at a tenth, 6 dB more, into 600 Ω": ((LINE, pot(0.1), radio(600)), 1, 6.0),
    "a pot at a half, 6 dB less, into 2 kΩ": ((LINE, pot(0.5), radio(2000)), 1, -6.0),
    "a small pot behind 600 Ω": ((LINE, pot(0.3, 1e3), radio(600)), 1, -5.0),
}


@pytest.mark.parametrize("name", list(CASES))
def test_a_control_is_turned_to_where_the_circuit_gives_it(name):
    pieces, stage, by_db = CASES[name]
    before = assess(station_of(*pieces))
    fix = turn(Case(before.station, before.solution, before.rows), stage, by_db)
    after = assess(fix.apply(before.station))
    moved = after.rows[-1].speech_dbu - before.rows[-1].speech_dbu
    # a wiper is set to the hundredth, near its lower end a decibel of that
    assert moved == pytest.approx(by_db, abs=0.6)


def test_it_goes_to_its_end_where_that_is_not_enough_and_says_so():
    before = assess(station_of(desk(0.8), radio(600)))
    fix = turn(Case(before.station, before.solution, before.rows), 0, 40.0)
    after = assess(fix.apply(before.station))
    assert after.rows[0].gear.turned_up.value == 1.0
    assert fix.why == "near the end of its control"


@pytest.mark.parametrize("load", [200.0, 10e3, math.inf])
def test_a_wiper_is_a_divider(load):
    """10 kΩ at the middle behind 1 kΩ, by hand."""
    lower = 5e3 if math.isinf(load) else 5e3 * load / (5e3 + load)
    by_hand = 20 * math.log10(lower / (1e3 + 5e3 + lower))
    assert wiper_db(0.5, 10e3, 1e3, load) == pytest.approx(by_hand)
    there = wiper_at(0.5, -3.0, 10e3, 1e3, load)
    assert wiper_db(there, 10e3, 1e3, load) - by_hand == pytest.approx(-3.0, abs=0.3)
