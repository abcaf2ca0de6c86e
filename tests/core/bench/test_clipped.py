"""A tone that is cut off: what the meter shows is what the solution over time has."""

import math

import numpy as np
import pytest

from tests.core.prove.rates import builds
from tonleiter.core.bench.clipped import left_of, tone_left
from tonleiter.core.bench.meter import held
from tonleiter.core.bench.scope import traces
from tonleiter.core.circuit.ac import linearise
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Capacitor,
    Circuit,
    Jfet,
    JfetModel,
    OpAmp,
    OpAmpModel,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System


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


@pytest.mark.long
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


def left_by_hand(peak_v, up_v, down_v):
    """The RMS about its mean of a finely sampled sine that is cut, over the sine's."""
    turn = np.sin(np.linspace(0, 2 * np.pi, 20_000, endpoint=False))
    return np.std(np.clip(peak_v * turn, -down_v, up_v)) / (peak_v / math.sqrt(2))


def left_at(peak_v, node, *elements):
    """Share of a tone of such a peak at a node, in a circuit whose source has one volt of it."""
    system = System(Circuit(elements))
    op = solve_dc(system)
    x = linearise(system, op).solve(np.array([1000.0]), system.b_ac[:, None])[0, :, 0]
    peak_now = abs(x[system.node_row[node]]) * math.sqrt(2)
    return tone_left(op, x * peak_v / peak_now), op


@pytest.mark.parametrize("peak_v", [1.8, 2.6, 4.5, 40.0])
def test_a_chip_that_rests_low_is_cut_below_first(peak_v):
    """At 3.5 V between 1.5 and 7.5: two volts down, four up."""
    chip = OpAmpModel(keeps_v=1.5, limit_a=25e-3, draws_a=2e-3)
    left, op = left_at(
        peak_v,
        "out",
        VoltageSource("supply", "rail", "0", dc=9.0),
        VoltageSource("in", "plus", "0", dc=0.35, ac=1.0),
        OpAmp("chip", "plus", "minus", "pole", "out", "rail", "0", chip),
        Capacitor("pole_c", "pole", "0", 50e-12),
        Resistor("feedback", "out", "minus", 90e3),
        Resistor("leg", "minus", "0", 10e3),
    )
    assert op.volts("out") == pytest.approx(3.5, rel=1e-3)
    assert left == pytest.approx(left_by_hand(peak_v, 4.0, 2.0), rel=0.02)


@pytest.mark.parametrize("peak_v", [1.5, 2.0, 2.8])
def test_into_a_heavy_load_a_chip_s_current_ends_before_its_rails_do(peak_v):
    """Ten milliamperes into 180 ohm behind a capacitor: 1.8 V, where the rails leave three."""
    chip = OpAmpModel(keeps_v=1.5, limit_a=10e-3, draws_a=2e-3)
    left, _ = left_at(
        peak_v,
        "out",
        VoltageSource("supply", "rail", "0", dc=9.0),
        VoltageSource("in", "plus", "0", dc=4.5, ac=1.0),
        OpAmp("chip", "plus", "out", "pole", "out", "rail", "0", chip),
        Capacitor("pole_c", "pole", "0", 50e-12),
        Capacitor("couples", "out", "load", 1e-2),
        Resistor("load", "load", "0", 180.0),
    )
    assert left == pytest.approx(left_by_hand(peak_v, 1.8, 1.8), rel=0.03)


@pytest.mark.parametrize("peak_v", [2.0, 3.4, 4.6, 20.0])
@pytest.mark.parametrize("bias_v", [0.615, 0.64])
def test_a_collector_goes_up_to_the_supply_and_down_to_the_emitter(peak_v, bias_v):
    left, op = left_at(
        peak_v,
        "c",
        VoltageSource("supply", "rail", "0", dc=9.0),
        VoltageSource("in", "b", "0", dc=bias_v, ac=1.0),
        Resistor("r", "rail", "c", 4700.0),
        Bipolar("q", "c", "b", "0", BipolarModel(is_a=2e-14, bf=200.0)),
    )
    rests_v = op.volts("c")
    assert 1.0 < rests_v < 8.5
    assert left == pytest.approx(left_by_hand(peak_v, 9.0 - rests_v, rests_v - 0.1), rel=0.02)


@pytest.mark.parametrize("peak_v", [1.0, 2.5, 6.0])
def test_a_drain_stops_where_the_channel_opens(peak_v):
    """Under its pinch-off of two volts a FET at zero bias is a resistor, and follows no more."""
    left, op = left_at(
        peak_v,
        "d",
        VoltageSource("supply", "rail", "0", dc=9.0),
        VoltageSource("in", "g", "0", dc=0.0, ac=1.0),
        Resistor("r", "rail", "d", 3300.0),
        Jfet("j", "d", "g", "0", JfetModel(vto_v=-2.0, beta_a_per_v2=3e-4)),
    )
    rests_v = op.volts("d")
    # 1.2 mA through 3.3 kΩ
    assert rests_v == pytest.approx(9.0 - 3.96, abs=0.1)
    assert left == pytest.approx(left_by_hand(peak_v, 9.0 - rests_v, rests_v - 2.0), rel=0.02)
