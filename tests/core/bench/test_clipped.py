"""A tone that is cut off: what the meter shows is what the solution over time has."""

import math

import pytest

from tests.core.prove.rates import builds
from tonleiter.core.bench.clipped import left_of
from tonleiter.core.bench.meter import held
from tonleiter.core.bench.scope import traces


@pytest.mark.parametrize(
    ("swing", "up", "down", "share"),
    [
        (1.0, 2.0, 2.0, 1.0),
        (1.0, 1.0, 1.0, 1.0),
        # far over both ends it is a square of that height: its RMS over the sine's
        (1000.0, 1.0, 1.0, math.sqrt(2) / 1000),
        # one half gone: a half wave's RMS about its mean, √(1/4 − 1/π²) against 1/√2
        (1.0, 2.0, 0.0, math.sqrt(0.25 - 1 / math.pi**2) * math.sqrt(2)),
    ],
)
def test_of_a_cut_sine_so_much_is_left(swing, up, down, share):
    assert left_of(swing, up, down) == pytest.approx(share, rel=0.01)


def test_far_overdriven_the_meter_shows_what_the_scope_does():
    unit = builds()["one transistor"].unit
    tone = 60 * unit.tone_v
    by_scope = traces(unit, unit.elements, tone).rms_v(*unit.outlet)
    by_meter = held(unit, unit.elements, "ac", *unit.outlet, tone).value
    linear = held(unit, unit.elements, "ac", *unit.outlet, unit.tone_v).value * 60
    assert by_scope < 0.9 * linear
    assert by_meter == pytest.approx(by_scope, rel=0.15)


def test_an_op_amp_gives_no_more_than_its_rails_leave():
    """9 V less 1.5 V at each end: 3 V either way, as a square at most 3 V RMS; 454 V once stood."""
    unit = builds()["op-amp"].unit
    for over in (100, 1e4, 1e6):
        shown = held(unit, unit.elements, "ac", *unit.outlet, over * unit.tone_v).value
        assert 2.0 < shown <= 3.0
