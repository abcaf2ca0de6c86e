"""Linear circuits against closed forms, to 1e-9 relative."""

import numpy as np
import pytest

from tests.core.circuit.reference import ac, dc
from tonleiter.core.circuit.ac import impedance, linearise
from tonleiter.core.circuit.elements import (
    Capacitor,
    Cccs,
    Ccvs,
    Circuit,
    Coupling,
    CurrentSource,
    Inductor,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.onward import onwards, split_currents
from tonleiter.core.circuit.readings import read
from tonleiter.core.circuit.system import System

F = np.logspace(1, 5, 41)
W = 2 * np.pi * F
EXACT = 1e-9


def agrees(got, wanted):
    np.testing.assert_allclose(got, wanted, rtol=EXACT, atol=1e-15)


def test_divider():
    op = dc(
        VoltageSource("v", "in", "0", dc=12),
        Resistor("r1", "in", "out", 10e3),
        Resistor("r2", "out", "0", 4.7e3),
    )
    assert op.volts("out") == pytest.approx(12 * 4.7 / 14.7, rel=EXACT)
    assert op.branch_a("v") == pytest.approx(-12 / 14.7e3, rel=EXACT)


def test_current_source_drives_from_p_through_itself_to_n():
    op = dc(CurrentSource("i", "0", "out", dc=2e-3), Resistor("r", "out", "0", 1e3))
    assert op.volts("out") == pytest.approx(2.0, rel=EXACT)


def test_rc_low_pass_and_high_pass():
    r, c = 1e3, 100e-9
    source = VoltageSource("v", "in", "0", ac=1)
    low = ac(F, source, Resistor("r", "in", "out", r), Capacitor("c", "out", "0", c))["out"]
    agrees(low, 1 / (1 + 1j * W * r * c))
    high = ac(F, source, Capacitor("c", "in", "out", c), Resistor("r", "out", "0", r))["out"]
    agrees(high, 1j * W * r * c / (1 + 1j * W * r * c))


def test_series_resonance():
    r, henry, c = 50.0, 10e-3, 1e-6
    out = ac(
        F,
        VoltageSource("v", "in", "0", ac=1),
        Resistor("r", "in", "a", r),
        Inductor("l", "a", "out", henry),
        Capacitor("c", "out", "0", c),
    )["out"]
    agrees(out, 1 / (1 - W**2 * henry * c + 1j * W * r * c))


def test_inductor_is_a_short_at_dc():
    op = dc(
        VoltageSource("v", "in", "0", dc=1),
        Resistor("r", "in", "a", 100),
        Inductor("l", "a", "0", 1e-3),
    )
    assert op.branch_a("l") == pytest.approx(0.01, rel=EXACT)
    assert op.volts("a") == pytest.approx(0, abs=1e-12)


@pytest.mark.parametrize("k", [0.3, 0.98, -0.7])
def test_coupled_inductors(k):
    l1, l2, rs, rl = 2.0, 0.5, 600.0, 1000.0
    out = ac(
        F,
        VoltageSource("v", "in", "0", ac=1),
        Resistor("rs", "in", "p", rs),
        Inductor("l1", "p", "0", l1),
        Inductor("l2", "s", "0", l2),
        Coupling("k", "l1", "l2", k),
        Resistor("rl", "s", "0", rl),
    )["s"]
    m = k * np.sqrt(l1 * l2)
    s = 1j * W
    # mesh equations: (rs + s l1) i1 + s m i2 = 1;  s m i1 + (rl + s l2) i2 = 0;  v = -rl i2
    determinant = (rs + s * l1) * (rl + s * l2) - (s * m) ** 2
    agrees(out, rl * s * m / determinant)


def test_controlled_sources():
    base = (VoltageSource("v", "in", "0", dc=1, ac=1), Resistor("ri", "in", "0", 1e3))
    load = Resistor("rl", "out", "0", 500)
    assert dc(*base, Vcvs("e", "out", "0", "in", "0", -7), load).volts("out") == pytest.approx(-7)
    # a transconductance draws from its p node: an inverting stage
    assert dc(*base, Vccs("g", "out", "0", "in", "0", 2e-3), load).volts("out") == pytest.approx(-1)
    # the current through the 1 V source is −1 mA
    assert dc(*base, Cccs("f", "out", "0", "v", 4), load).volts("out") == pytest.approx(2.0)
    assert dc(*base, Ccvs("h", "out", "0", "v", 3e3), load).volts("out") == pytest.approx(-3.0)


def test_bridged_tee_by_node_equations():
    """A circuit with no shortcut, checked against its nodal matrix written by hand."""
    rs, r1, r2, rb, c, rl = 600.0, 1e3, 2.2e3, 4.7e3, 47e-9, 10e3
    x = ac(
        F,
        VoltageSource("v", "s", "0", ac=1),
        Resistor("rs", "s", "a", rs),
        Resistor("r1", "a", "m", r1),
        Resistor("r2", "m", "b", r2),
        Capacitor("c", "m", "0", c),
        Resistor("rb", "a", "b", rb),
        Resistor("rl", "b", "0", rl),
    )
    for i, w in enumerate(W):
        y = np.array(
            [
                [1 / rs + 1 / r1 + 1 / rb, -1 / r1, -1 / rb],
                [-1 / r1, 1 / r1 + 1 / r2 + 1j * w * c, -1 / r2],
                [-1 / rb, -1 / r2, 1 / r2 + 1 / rb + 1 / rl],
            ]
        )
        agrees([x["a"][i], x["m"][i], x["b"][i]], np.linalg.solve(y, [1 / rs, 0, 0]))


def test_driving_point_impedance():
    system = System(Circuit((Resistor("r", "a", "0", 1e3), Capacitor("c", "a", "0", 10e-9))))
    agrees(impedance(linearise(system), F, "a"), 1e3 / (1 + 1j * W * 1e3 * 10e-9))


def test_adjoint_and_direct_solution_agree():
    elements = (
        VoltageSource("v", "in", "0", ac=1),
        Resistor("r1", "in", "m", 1e3),
        Capacitor("c", "m", "0", 1e-8),
        Vccs("g", "out", "0", "m", "0", 1e-3),
        Resistor("r2", "out", "0", 2e3),
    )
    linear = linearise(System(Circuit(elements)))
    direct = ac(F, *elements)["out"]
    adjoint = linear.adjoint(F, linear.system.unit("out")[:, None])
    agrees(adjoint[:, linear.system.branch_row["v"], 0], direct)


def test_readings_by_name_are_what_a_divider_gives():
    """1 V over 1k and 3k; 1 A into the middle sees the two in parallel, whatever the frequency."""
    linear = linearise(
        System(
            Circuit(
                (
                    VoltageSource("v", "top", "0"),
                    Resistor("upper", "top", "mid", 1e3),
                    Resistor("lower", "mid", "0", 3e3),
                )
            )
        )
    )
    readings = read(linear, F, [("mid", "0"), ("top", "mid")])
    agrees(readings.from_source("v"), np.tile([0.75, 0.25], (len(F), 1)))
    agrees(readings.from_current("mid", "0"), np.tile([750.0, -750.0], (len(F), 1)))
    agrees(readings.from_current("0", "mid"), np.tile([-750.0, 750.0], (len(F), 1)))
    with pytest.raises(KeyError):
        readings.from_source("lower")


def test_what_goes_onwards_from_a_joint_splits_by_conductance():
    """Of 1 A into the joint, 1k before and 3k behind: a quarter goes on, 750 V stand there."""
    elements = (Resistor("before", "mid", "0", 1e3), Resistor("behind", "mid", "0", 3e3))
    linear = linearise(System(Circuit(elements)))
    rows = onwards(linear, np.array([0, 1]), ["mid"])
    ((v, i),) = split_currents(linear, 1000.0, [("mid", "0")], rows)
    assert v == pytest.approx(750.0)
    assert i == pytest.approx(0.25)
