"""What would explain a reading that does not fit, as an old hand would say it; written first."""

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import lead, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.explained import explained, part_of
from tonleiter.core.learn.reading import parse_reading
from tonleiter.core.learn.result import Range
from tonleiter.core.learn.suspects import suspects

STAGES = ("mic", "radio")
TABLE = [
    ("open=0.79", (7.5, 8.2), "misread by ten", "0.79 V where 8 V stand: the point slipped"),
    ("open=7.9m", (7.5, 8.2), "milli", "volts typed as millivolts"),
    ("open=0", (7.5, 8.2), "switched off", "many sets have a menu for it"),
    ("open=5", (7.5, 8.2), "still plugged in", "a load pulls it down"),
    ("volts@radio=0.01", (2.0, 3.0), "a short, or a winding", "a coil across the contact"),
    ("volts@radio=7.95", (2.0, 3.0), "nothing draws current", "as open: the capsule is not there"),
    ("volts@radio=1.2", (2.0, 3.0), "draws current", "something else hangs on it"),
    ("speech@radio=28 mV", (-41.0, -39.5), "peak to peak", "9 dB more is a scope's figure"),
    ("speech@radio=3 mV", (-41.0, -39.5), "spoken softer", "10 dB less is a shy voice"),
    ("speech@radio=100 mV", (-41.0, -39.5), "misread by ten", "20 dB is a decade"),
    ("gain@radio=38 dB", (31.0, 33.0), "without its load", "6 dB is an end left open"),
    ("gain@radio=-10 dB", (31.0, 33.0), "without power", "40 dB less than it should"),
    ("knob=95", (50.0, 60.0), "another gain", "the data socket has one too"),
    ("noise=20", (38.0, 42.0), "louder room", "a fan, a window"),
]


@pytest.mark.parametrize(("text", "ends", "says", "why"), TABLE)
def test_a_slip_is_named(text, ends, says, why):
    reading = parse_reading(text, STAGES)
    named = suspects(reading, Range(*ends), open_v=8.0)
    assert any(says in one for one in named), (why, named)


def test_nothing_is_said_of_a_decade_that_would_not_fit_either():
    reading = parse_reading("open=40", STAGES)
    assert not any("ten" in one for one in suspects(reading, Range(7.5, 8.2)))


@pytest.mark.long
def test_the_bench_names_a_fault_that_explains_volts_at_a_capsule():
    """Twenty millivolts at a capsule that wants volts: a short somewhere, and it is named."""
    of = station(
        gear("electret-2-wire", "mic"), lead(), radio(bias_v=8, bias_ohm=2200)
    )  # fmt: skip
    found = verdict_of(of)
    odd = parse_reading("volts@radio=0.02", ("mic", "lead", "radio"))
    assert part_of(found, odd) == 0
    named = explained(found, odd, ())
    assert named
    assert all("," not in one[:1] for one in named)


def test_where_the_knob_stands_the_bench_has_no_word():
    of = station(gear("dynamic-microphone", "mic", coil_ohm=300), lead(), radio())
    found = verdict_of(of)
    knob = parse_reading("knob=95", ("mic", "lead", "radio"))
    assert part_of(found, knob) is None
    assert explained(found, knob, ()) == ()
