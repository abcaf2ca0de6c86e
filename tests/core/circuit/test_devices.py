"""DC of diode, bipolar and JFET stages against independent root finders, to 1e-6."""

import math

import numpy as np
import pytest
from scipy.optimize import brentq

from tests.core.circuit.reference import VT, ac, dc
from tonleiter.core.circuit.devices import (
    BipolarDevice,
    DiodeDevice,
    JfetDevice,
    limit_junction,
)
from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Capacitor,
    Diode,
    DiodeModel,
    Jfet,
    JfetModel,
    Resistor,
    VoltageSource,
)

TO = 1e-6


@pytest.mark.parametrize("supply", [-20.0, 0.3, 1.0, 5.0, 400.0])
@pytest.mark.parametrize("rs", [0.0, 12.0])
def test_diode_with_series_resistance(supply, rs):
    model = DiodeModel(is_a=2e-14, n=1.7, rs_ohm=rs)
    op = dc(
        VoltageSource("v", "in", "0", dc=supply),
        Resistor("r", "in", "a", 1e3),
        Diode("d", "a", "0", model),
    )

    def mismatch(vj):
        i = 2e-14 * math.expm1(vj / (1.7 * VT)) + 1e-12 * vj
        return supply - i * (1e3 + rs) - vj

    vj = brentq(mismatch, min(supply, 0) - 1, min(max(supply, 0.1), 1.6), xtol=1e-15, rtol=1e-14)
    i = (supply - vj) / (1e3 + rs)
    assert op.volts("a") == pytest.approx(supply - 1e3 * i, rel=TO, abs=1e-9)


def bipolar_currents(vbe, vbc, m):
    icc, iec = m.is_a * math.expm1(vbe / (m.nf * VT)), m.is_a * math.expm1(vbc / (m.nr * VT))
    ic = (icc - iec) * (1 - vbc / m.vaf_v) - iec / m.br - 1e-12 * vbc
    ib = icc / m.bf + iec / m.br + 1e-12 * (vbe + vbc)
    return ic, ib


@pytest.mark.parametrize("rc", [1e3, 4.7e3, 47e3])  # active, near saturation, deep saturation
@pytest.mark.parametrize("polarity", [1, -1])
def test_common_emitter_stage(rc, polarity):
    m = BipolarModel(polarity=polarity, is_a=1e-14, bf=180, br=3, vaf_v=80)
    s = polarity
    op = dc(
        VoltageSource("vcc", "vcc", "0", dc=12 * s),
        Resistor("r1", "vcc", "b", 47e3),
        Resistor("r2", "b", "0", 10e3),
        Resistor("rc", "vcc", "c", rc),
        Resistor("re", "e", "0", 1e3),
        Bipolar("q", "c", "b", "e", m),
    )

    def nodes(vbe, vbc):
        ic, ib = bipolar_currents(vbe, vbc, m)
        ve = (ic + ib) * 1e3
        return ve + vbe, ve + vbe - vbc, ve, ic, ib

    def collector_for(vbe):
        """Base-collector volts at which the collector's node sum is zero."""

        def mismatch(vbc):
            _, vc, _, ic, _ = nodes(vbe, vbc)
            return (12 - vc) / rc - ic

        return brentq(mismatch, -15, 0.75, xtol=1e-15, rtol=1e-14)

    def base_mismatch(vbe):
        vb, _, _, _, ib = nodes(vbe, collector_for(vbe))
        return (12 - vb) / 47e3 - vb / 10e3 - ib

    vbe = brentq(base_mismatch, 0.4, 0.72, xtol=1e-15, rtol=1e-14)
    wanted = nodes(vbe, collector_for(vbe))[:3]
    got = [s * op.volts(n) for n in ("b", "c", "e")]
    assert got == pytest.approx(wanted, rel=TO)


@pytest.mark.parametrize("rd", [2.2e3, 22e3])  # saturated channel, triode
@pytest.mark.parametrize("polarity", [1, -1])
def test_jfet_stage_with_source_resistor(rd, polarity):
    beta, vto, lam, rs = 0.9e-3, -1.8, 0.015, 680.0
    s = polarity
    model = JfetModel(polarity=polarity, vto_v=vto, beta_a_per_v2=beta, lambda_per_v=lam)
    op = dc(
        VoltageSource("vdd", "vdd", "0", dc=9 * s),
        Resistor("rd", "vdd", "d", rd),
        Resistor("rs", "s", "0", rs),
        VoltageSource("vg", "g", "0", dc=0),
        Jfet("j", "d", "g", "s", model),
    )

    def channel(vgs, vds):
        over = vgs - vto
        if over <= 0:
            return 0.0
        if over <= vds:
            return beta * over**2 * (1 + lam * vds)
        return beta * vds * (2 * over - vds) * (1 + lam * vds)

    def mismatch(i):
        vs, vd = i * rs, 9 - i * rd
        return channel(-vs, vd - vs) - i

    i = brentq(mismatch, 0, 9 / (rd + rs), xtol=1e-18, rtol=1e-14)
    assert s * op.volts("s") == pytest.approx(i * rs, rel=TO)
    assert s * op.volts("d") == pytest.approx(9 - i * rd, rel=TO)


def test_jfet_with_drain_and_source_exchanged():
    """A JFET is symmetric: turned round, it draws the same current."""
    model = JfetModel(vto_v=-1.0, beta_a_per_v2=1e-3, lambda_per_v=0.02)
    supply = VoltageSource("v", "vdd", "0", dc=5)
    right = dc(supply, Resistor("r", "vdd", "d", 100.0), Jfet("j", "d", "0", "0", model))
    turned = dc(supply, Resistor("r", "vdd", "d", 100.0), Jfet("j", "0", "0", "d", model))
    assert right.volts("d") == pytest.approx(turned.volts("d"), rel=1e-9)


def test_hard_start_settles():
    """Two diodes against each other at a high voltage, and a string of ten."""
    d = DiodeModel(is_a=1e-15)
    string = [Diode(f"d{k}", f"n{k}", f"n{k + 1}" if k < 9 else "0", d) for k in range(10)]
    op = dc(VoltageSource("v", "in", "0", dc=100), Resistor("r", "in", "n0", 10e3), *string)
    each = op.volts("n0") / 10
    i = 1e-15 * math.expm1(each / VT) + 1e-12 * each
    assert (100 - op.volts("n0")) / 10e3 == pytest.approx(i, rel=1e-6)


@pytest.mark.parametrize(
    ("device", "at"),
    [
        (DiodeDevice(DiodeModel(is_a=1e-14), 1, 300.15, 1e-12), [0.55]),
        (DiodeDevice(DiodeModel(is_a=1e-14), 2, 300.15, 1e-12), [-3.0]),
        (BipolarDevice(BipolarModel(vaf_v=50), 1, 300.15, 1e-12), [0.68, -4.0]),
        (BipolarDevice(BipolarModel(vaf_v=50), 1, 300.15, 1e-12), [0.7, 0.6]),
        (BipolarDevice(BipolarModel(polarity=-1, vaf_v=50), 1, 300.15, 1e-12), [0.66, -1.0]),
        (JfetDevice(JfetModel(lambda_per_v=0.02), 1, 300.15, 1e-12), [-0.5, -5.0]),
        (JfetDevice(JfetModel(lambda_per_v=0.02), 1, 300.15, 1e-12), [-0.2, -0.4]),
        (JfetDevice(JfetModel(lambda_per_v=0.02), 1, 300.15, 1e-12), [-4.0, -0.3]),
        (JfetDevice(JfetModel(polarity=-1), 1, 300.15, 1e-12), [-0.5, -3.0]),
    ],
)
def test_derivatives_match_finite_differences(device, at):
    junctions = np.array(at)
    state = device.evaluate(junctions)
    terminals = device.terminals(junctions)
    for column in range(len(terminals)):
        step = np.zeros(len(terminals))
        step[column] = 1e-6
        up = device.evaluate(device.junctions(terminals + step)).currents
        down = device.evaluate(device.junctions(terminals - step)).currents
        slope = (up - down) / 2e-6
        np.testing.assert_allclose(state.conductances[:, column], slope, rtol=1e-4, atol=1e-11)


@pytest.mark.parametrize("polarity", [1, -1])
def test_terminal_currents_sum_to_zero(polarity):
    device = BipolarDevice(BipolarModel(polarity=polarity), 1, 300.15, 1e-12)
    assert abs(device.evaluate(np.array([0.7, -2.0])).currents.sum()) < 1e-15


def test_junction_limiting_tames_a_large_step_only():
    assert limit_junction(0.61, 0.60, VT, 0.6) == 0.61
    assert 0.6 < limit_junction(5.0, 0.60, VT, 0.6) < 0.8
    assert limit_junction(-3.0, 0.6, VT, 0.6) == -3.0


def test_common_emitter_gain_is_gm_times_load():
    """Bypassed emitter: gain = −(gm − go)(Rc ∥ ro); the Early term follows base minus collector."""
    m = BipolarModel(is_a=1e-14, bf=200, vaf_v=100)
    elements = (
        VoltageSource("vcc", "vcc", "0", dc=12),
        VoltageSource("vin", "in", "0", ac=1),
        Capacitor("cin", "in", "b", 1e-3),
        Resistor("r1", "vcc", "b", 47e3),
        Resistor("r2", "b", "0", 10e3),
        Resistor("rc", "vcc", "c", 4.7e3),
        Resistor("re", "e", "0", 1e3),
        Capacitor("ce", "e", "0", 1.0),
        Bipolar("q", "c", "b", "e", m),
    )
    op = dc(*elements)
    ic = (12 - op.volts("c")) / 4.7e3
    # first-order Gummel–Poon: gm = Ic/VT up to the 1e-10 of the reverse junction
    vbe, vbc = op.volts("b", "e"), op.volts("b", "c")
    gm = 1e-14 * math.exp(vbe / VT) / VT * (1 - vbc / 100)
    ro = 100 / (1e-14 * math.exp(vbe / VT))
    gain = ac([1e4], *elements)["c"][0]
    assert gm == pytest.approx(ic / VT, rel=1e-5)
    assert abs(gain) == pytest.approx((gm - 1 / ro) * 4.7e3 * ro / (4.7e3 + ro), rel=1e-5)
    assert gain.real < 0
