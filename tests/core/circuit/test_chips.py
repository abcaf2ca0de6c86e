"""Chips between their rails: what a sheet promises, and never more than the supply gives."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tonleiter.core.circuit.chips import OpAmpDevice, RegulatorDevice
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    Diode,
    DiodeModel,
    OpAmp,
    OpAmpModel,
    Regulator,
    RegulatorModel,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import solve_transient
from tonleiter.core.circuit.waves import Sine

CHIP = OpAmpModel(keeps_v=1.5, limit_a=25e-3, draws_a=2e-3)


def solved(*elements):
    return solve_dc(System(Circuit(elements)))


def amplifier(plus_v, *, supply_v=9.0, load_ohm=10e3, feedback_ohm=90e3, leg_ohm=10e3, wave=None):
    """Non-inverting, ten times, its feet on ground."""
    return (
        VoltageSource("supply", "rail", "0", dc=supply_v),
        VoltageSource("in", "plus", "0", dc=plus_v, wave=wave),
        OpAmp("chip", "plus", "minus", "pole", "out", "rail", "0", CHIP),
        Capacitor("pole_c", "pole", "0", 50e-12),
        Resistor("feedback", "out", "minus", feedback_ohm),
        Resistor("leg", "minus", "0", leg_ohm),
        Resistor("load", "out", "0", load_ohm),
    )


def test_inside_its_rails_it_is_what_its_resistors_say():
    op = solved(*amplifier(0.4))
    assert op.volts("out") == pytest.approx(4.0, rel=1e-3)
    # what the load and the feedback take comes out of the supply, over what it draws itself
    takes = 4.0 / 10e3 + 4.0 / 100e3
    assert -op.branch_a("supply") == pytest.approx(2e-3 + takes, rel=0.02)


@pytest.mark.parametrize(("plus_v", "out_v"), [(2.0, 7.5), (30.0, 7.5), (0.0, 1.5), (-3.0, 1.5)])
def test_beyond_them_it_stays_off_each_rail(plus_v, out_v):
    assert solved(*amplifier(plus_v)).volts("out") == pytest.approx(out_v, abs=0.12)


@pytest.mark.parametrize("load_ohm", [0.05, 50.0])
def test_a_shorted_output_gives_its_limit_and_no_more(load_ohm):
    op = solved(*amplifier(0.6, load_ohm=load_ohm))
    assert op.volts("out") / load_ohm == pytest.approx(25e-3, rel=0.05)
    assert -op.branch_a("supply") == pytest.approx(27e-3, rel=0.05)


@pytest.mark.parametrize("supply_v", [0.0, 1.0, 2.0])
def test_without_a_supply_it_is_dead(supply_v):
    op = solved(*amplifier(0.4, supply_v=supply_v))
    assert abs(op.volts("out")) < 0.1
    assert -op.branch_a("supply") < 0.2e-3


def test_a_supply_turned_round_runs_through_it():
    op = solved(
        *amplifier(0.0, supply_v=-9.0)[1:],
        VoltageSource("supply", "cell", "0", dc=-9.0),
        Resistor("inside", "cell", "rail", 2.0),
    )
    # a junction forward behind the block's own two ohm and its own ten
    assert op.branch_a("supply") > 0.3
    assert op.volts("rail") > -9.0


@pytest.mark.long
@settings(max_examples=150, deadline=None)
@given(
    st.floats(-200, 200),
    st.floats(0, 36),
    st.sampled_from([1e-2, 1e2, 1e4, 1e9]),
    st.sampled_from([1e-2, 1e3, 9e4, 1e9]),
    st.sampled_from([1e-2, 1e3, 1e4, 1e9]),
)
def test_nothing_driven_through_a_resistor_puts_a_pin_beyond_its_rails(v, supply, load, back, leg):
    """Whatever is put to the input behind 10 kΩ, whatever is open or shorted around it."""
    made = amplifier(0.0, supply_v=supply, load_ohm=load, feedback_ohm=back, leg_ohm=leg)
    drive = (VoltageSource("in", "gen", "0", dc=v), Resistor("r", "gen", "plus", 10e3))
    op = solved(*(e for e in made if e.name != "in"), *drive)
    for node in ("out", "minus"):
        assert -1.0 < op.volts(node) < supply + 1.0 + abs(v) / 100
    assert abs(op.branch_a("supply")) < 0.05


@pytest.mark.long
def test_overdriven_in_time_it_clips_at_its_rails():
    wave = Sine(0.45, 1.0, 1000.0)
    circuit = Circuit(amplifier(0.45, wave=wave))
    found = solve_transient(System(circuit), 1e-5, 3e-3)
    out = found.volts("out")
    assert out.max() == pytest.approx(7.5, abs=0.12)
    assert out.min() == pytest.approx(1.5, abs=0.12)
    # a sine of 10 V about 4.5 V spends three fifths of its time beyond 3 V
    flat = np.mean((out > 7.35) | (out < 1.65))
    assert flat == pytest.approx(1 - 2 * math.asin(0.3) / math.pi, abs=0.05)


@pytest.mark.parametrize(
    "device", [OpAmpDevice(CHIP, 1e-12), RegulatorDevice(RegulatorModel(), 1e-12)]
)
def test_slopes_are_those_of_the_currents(device):
    rng = np.random.default_rng(3)
    size = device.start().size
    for _ in range(200):
        at = rng.uniform(-12, 12, size) if rng.random() < 0.5 else device.start()
        at = at + rng.normal(0, 0.3, size)
        state = device.evaluate(at)
        assert abs(state.currents.sum()) < 1e-12
        for k in range(size):
            step = np.zeros(size)
            step[k] = 1e-6
            up, down = device.evaluate(at + step), device.evaluate(at - step)
            slope = (up.currents - down.currents) / 2e-6
            assert state.conductances[:, k] == pytest.approx(
                slope, abs=1e-6 + 1e-3 * abs(slope).max()
            )


# --- regulator, Zener ----------------------------------------------------------------------------

HOLDS = RegulatorModel(holds_v=5.0, headroom_v=0.3, limit_a=0.1, draws_a=1e-4)


def held(in_v, load_ohm=1e3, model=HOLDS):
    return solved(
        VoltageSource("in", "raw", "0", dc=in_v),
        Regulator("reg", "raw", "out", "0", model),
        Resistor("load", "out", "0", load_ohm),
    )


@pytest.mark.parametrize(("in_v", "out_v"), [(12.0, 5.0), (5.5, 5.0), (4.0, 3.7), (-9.0, 0.0)])
def test_a_regulator_holds_while_it_has_headroom(in_v, out_v):
    assert held(in_v).volts("out") == pytest.approx(out_v, abs=0.05)


def test_a_regulator_gives_its_limit_into_a_short_and_draws_its_own():
    assert held(12.0, 0.1).volts("out") / 0.1 == pytest.approx(0.1, rel=0.03)
    assert -held(12.0).branch_a("in") == pytest.approx(5e-3 + 1e-4, rel=0.02)


def test_a_regulator_passes_nothing_backwards():
    op = solved(
        VoltageSource("behind", "out", "0", dc=9.0),
        Regulator("reg", "raw", "out", "0", HOLDS),
        Resistor("before", "raw", "0", 1e3),
    )
    assert abs(op.volts("raw")) < 0.01


@pytest.mark.parametrize(("supply_v", "zener_v"), [(12.0, 5.1), (3.0, 3.0), (-12.0, -0.75)])
def test_a_zener_holds_its_volts_one_way_and_is_a_diode_the_other(supply_v, zener_v):
    op = solved(
        VoltageSource("in", "raw", "0", dc=supply_v),
        Resistor("r", "raw", "z", 10e3),
        Diode("z", "0", "z", replace(DiodeModel(), bv_v=5.1)),
    )
    assert op.volts("z") == pytest.approx(zener_v, abs=0.1)
