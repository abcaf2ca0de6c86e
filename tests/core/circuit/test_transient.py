"""Circuits over time against closed forms, an independent integrator, and their own DC curves."""

import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.devices import thermal_voltage
from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Capacitor,
    Circuit,
    CircuitError,
    CurrentSource,
    Diode,
    DiodeModel,
    Inductor,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import solve_transient
from tonleiter.core.circuit.waves import Lines, Pulse, Sine

PEAK_SHARE = 1e-4


def over_time(*elements, step=1e-5, stop=1e-2, **more):
    return solve_transient(System(Circuit(elements)), step, stop, **more)


def agrees(found, by_hand):
    assert np.abs(found - by_hand).max() <= PEAK_SHARE * np.abs(by_hand).max()


def test_a_capacitor_charges_as_the_exponential_says():
    step = VoltageSource("v", "a", "0", wave=Pulse(0, 5, 1e-3))
    c = Capacitor("c", "b", "0", 1e-6)
    s = over_time(step, Resistor("r", "a", "b", 1e3), c, step=1e-4)
    agrees(s.volts("b"), np.where(s.t_s > 1e-3, 5 * (1 - np.exp(-(s.t_s - 1e-3) / 1e-3)), 0))


def test_a_coil_s_current_rises_as_the_exponential_says():
    step = VoltageSource("v", "a", "0", wave=Pulse(0, 1, 1e-3))
    coil = Inductor("l", "b", "0", 0.1)
    s = over_time(step, Resistor("r", "a", "b", 100), coil, step=1e-4)
    rises = 0.01 * (1 - np.exp(-(s.t_s - 1e-3) / 1e-3))
    agrees(s.branch_a("l"), np.where(s.t_s > 1e-3, rises, 0))


@pytest.mark.long
def test_a_tank_rings_for_ten_periods():
    """10 mH and 1 µF: ω = 10⁴/s; a step of 1 mA rings with 100 mV and loses nothing."""
    s = over_time(
        CurrentSource("i", "0", "a", wave=Pulse(0, 1e-3)),
        Inductor("l", "a", "0", 1e-2),
        Capacitor("c", "a", "0", 1e-6),
        step=1e-5,
        stop=6.3e-3,
        most_s=6e-7,
    )
    agrees(s.volts("a"), 0.1 * np.sin(1e4 * s.t_s))


def test_a_damped_tank_by_its_closed_form():
    """Series R L C: ω0 = 10⁴, damping 10³."""
    s = over_time(
        VoltageSource("v", "a", "0", wave=Pulse(0, 1)),
        Resistor("r", "a", "b", 20),
        Inductor("l", "b", "c", 1e-2),
        Capacitor("c", "c", "0", 1e-6),
        step=1e-5,
        stop=4e-3,
        most_s=1e-6,
    )
    w = math.sqrt(1e8 - 1e6)
    ring = np.cos(w * s.t_s) + 1e3 / w * np.sin(w * s.t_s)
    agrees(s.volts("c"), 1 - np.exp(-1e3 * s.t_s) * ring)


@pytest.mark.long
def test_a_sine_settles_to_its_phasor():
    s = over_time(
        VoltageSource("v", "a", "0", wave=Sine(0, 1, 1000)),
        Resistor("r", "a", "b", 1e3),
        Capacitor("c", "b", "0", 0.159155e-6),
        step=1e-5,
        stop=1.2e-2,
        start_s=1e-2,
        most_s=1e-6,
    )
    assert s.t_s[0] == pytest.approx(1e-2)
    lag = math.atan(2 * math.pi * 1000 * 1e3 * 0.159155e-6)
    agrees(s.volts("b"), math.cos(lag) * np.sin(2 * math.pi * 1000 * s.t_s - lag))


@pytest.mark.long
def test_a_diode_clipper_against_another_integrator():
    """Two diodes across a capacitor behind 1 kΩ: one equation, integrated by scipy."""
    is_a, vt, farad = 1e-14, thermal_voltage(300.15), 10e-9
    s = over_time(
        VoltageSource("v", "a", "0", wave=Sine(0, 5, 1000)),
        Resistor("r", "a", "b", 1e3),
        Diode("d1", "b", "0", DiodeModel(is_a)),
        Diode("d2", "0", "b", DiodeModel(is_a)),
        Capacitor("c", "b", "0", farad),
        step=1e-5,
        stop=2e-3,
    )

    def slope(t, v):
        amps = (5 * math.sin(2e3 * math.pi * t) - v) / 1e3 - 2 * is_a * np.sinh(v / vt)
        return amps / farad

    other = solve_ivp(slope, (0, 2e-3), [0.0], "Radau", s.t_s, rtol=1e-9, atol=1e-12, max_step=2e-6)
    agrees(s.volts("b"), other.y[0])
    assert 0.6 < s.volts("b").max() < 0.75


def test_a_common_emitter_stage_follows_its_dc_curve_into_clipping():
    """Without capacitors every instant is an operating point: off, linear, saturated."""

    def stage(source):
        return (
            VoltageSource("vcc", "cc", "0", dc=9),
            Resistor("rc", "cc", "c", 4.7e3),
            Resistor("re", "e", "0", 470),
            Resistor("rb", "in", "b", 1e3),
            Bipolar("q", "c", "b", "e", BipolarModel(bf=150)),
            source,
        )

    ramp = Lines(((0.0, 0.0), (1e-3, 3.0)))
    s = over_time(*stage(VoltageSource("vin", "in", "0", wave=ramp)), step=2e-5, stop=1e-3)
    volts = s.volts("c")
    assert volts[0] == pytest.approx(9, abs=1e-3)
    assert volts.min() < 1.2
    for k in range(0, len(s.t_s), 7):
        source = VoltageSource("vin", "in", "0", dc=ramp.at(s.t_s[k]))
        by_dc = solve_dc(System(Circuit(stage(source)))).volts("c")
        assert volts[k] == pytest.approx(by_dc, abs=9e-4)


@pytest.mark.long
def test_a_transistor_amplifies_small_tones_as_the_small_signal_does():
    """A tone of a millivolt through a coupled stage: the fundamental is that of the AC solution."""
    cards = """stage
    vcc cc 0 9
    vin in 0 ac 1 sin(0 1m 1k)
    c1 in b 1u
    r1 cc b 100k
    r2 b 0 22k
    q1 c b e small
    rc cc c 4.7k
    re e 0 1k
    .model small npn (bf=150)
    .ac lin 1 1k 1k
    .tran 10u 24m 20m 10u
    .end"""
    results = run_deck(read_deck(cards))
    v = np.array(results["tran"]["nodes"]["c"])
    t = np.array(results["tran"]["t_s"])
    turns = np.exp(-2j * math.pi * 1000 * t[:-1])
    swing = abs(2 * np.mean((v[:-1] - v[:-1].mean()) * turns))
    c = results["ac"]["nodes"]["c"]
    assert swing == pytest.approx(1e-3 * abs(complex(c["re"][0], c["im"][0])), rel=2e-3)


def test_edges_and_periods_of_a_pulse():
    wave = Pulse(0, 2, 1.0, 0.1, 0.2, 0.5, 2.0)
    assert [wave.at(t) for t in (0.5, 1.05, 1.3, 1.7, 1.9, 3.3)] == pytest.approx(
        [0, 1, 2, 1, 0, 2]
    )
    assert wave.breaks(2.5) == pytest.approx([1.0, 1.1, 1.6, 1.8])


@pytest.mark.parametrize(
    ("step", "stop", "start"), [(0, 1, 0), (2, 1, 0), (0.1, 1, 1), (1e-9, 1, 0)]
)
def test_times_that_make_no_sense_are_refused(step, stop, start):
    system = System(Circuit((VoltageSource("v", "a", "0", dc=1), Resistor("r", "a", "0", 1))))
    with pytest.raises(CircuitError):
        solve_transient(system, step, stop, start)
