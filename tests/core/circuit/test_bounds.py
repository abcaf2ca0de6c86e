"""Transients and searches that could run away: each ends, in a result or in one clear line."""

import math

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.core.circuit import dc
from tonleiter.core.circuit.cards.lines import CardError
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    CircuitError,
    CurrentSource,
    Inductor,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import solve_transient
from tonleiter.core.circuit.waves import Exponential, Pulse, Sine
from tonleiter.core.judge.assess import assess

LOW_PASS = "R1 a b 1k\nC1 b 0 1u\n"


def over_time(source, times):
    return run_deck(read_deck(f"x\nV1 a 0 {source}\n{LOW_PASS}.tran {times}\n"))["tran"]


@pytest.mark.parametrize(
    ("source", "times", "says"),
    [
        ("PULSE(0 5 0 1u 1u 1m -1m)", "1u 5m", "not below 0"),
        ("PULSE(0 5 0 1u 1u 1m 1p)", "1u 5m", "more than 100000 edges"),
        ("SIN(0 1 1k 0 -1e6)", "1u 5m", "grows beyond"),
        ("SIN(0 1 1k)", "10u 1m 0 1e-12", "more than 500000 steps"),
        ("SIN(0 1 1k)", "1p 1", "points"),
        ("SIN(0 1 1k) PULSE(0 1)", "1u 1m", "one waveform"),
        ("SIN(0 1 1k)", "10u 1m uic", "uic is not computed"),
        ("EXP(0 1 0 0)", "1u 1m", "above 0"),
    ],
)
def test_what_would_run_away_is_one_line(source, times, says):
    with pytest.raises((CardError, CircuitError)) as caught:
        over_time(source, times)
    assert says in str(caught.value)
    assert "\n" not in str(caught.value)


def test_initial_conditions_are_refused_by_name():
    with pytest.raises(CardError, match=r"\.ic is not computed"):
        read_deck(f"x\nV1 a 0 1\n{LOW_PASS}.ic v(b)=2\n.tran 1u 1m\n")


@pytest.mark.parametrize(
    ("source", "times", "count"),
    [
        ("SIN(0 1 1k)", "0.01m 1m", 101),
        # an edge a millionth of a step beside an instant that is told
        ("PULSE(0 1 0.30000001m 1n 1n)", "0.01m 1m", 101),
        # a period of nothing is none
        ("PULSE(0 5 0 1u 1u 1m 0)", "1u 5m", 5001),
        ("SIN(0 1 1k)", "0.3m 1m", 4),
    ],
)
def test_the_grid_is_the_one_that_was_asked_for(source, times, count):
    told = np.array(over_time(source, times)["t_s"])
    assert len(told) == count
    steps = np.diff(told)
    assert steps == pytest.approx(steps[0], rel=1e-9)


@pytest.mark.long
def test_a_tank_that_loses_nothing_keeps_its_swing():
    """10 mH and 1 µF from 1 mA: 100 mV, and under 10⁻⁴ a period less, without a step being set."""
    tank = System(
        Circuit(
            (
                CurrentSource("i", "0", "a", wave=Pulse(0, 1e-3)),
                Inductor("l", "a", "0", 1e-2),
                Capacitor("c", "a", "0", 1e-6),
            )
        )
    )
    period = 2 * math.pi * 1e-4
    volts = solve_transient(tank, 1e-5, 40 * period).volts("a")
    last = np.abs(volts[-80:]).max()
    assert abs(last / 0.1 - 1) / 40 < 1e-4


@pytest.mark.long
def test_a_pair_that_switches_with_stray_capacitances_runs():
    """The other base climbs from −8.3 V towards 9 V and stops at 0.65: RC ln(17.3/8.35)."""
    found = run_deck(
        read_deck(
            "astable\nV1 vcc 0 9\nR1 vcc c1 1k\nR2 vcc b2 47k\nR3 vcc b1 47k\nR4 vcc c2 1k\n"
            "C1 c1 b2 1n\nC2 c2 b1 1n\nQ1 c1 b1 0 n\nQ2 c2 b2 0 n\nC3 c1 0 20p\nC4 c2 0 20p\n"
            "C5 b1 0 20p\nC6 b2 0 20p\nI1 0 b1 PULSE(0 100u 1u 10n 10n 2u)\n"
            ".model n npn (is=1e-14 bf=200)\n.tran 0.2u 62u\n"
        )
    )["tran"]
    c1 = np.array(found["nodes"]["c1"])
    down = np.flatnonzero((c1[1:] < 4.5) & (c1[:-1] >= 4.5))[0]
    up = down + np.flatnonzero(c1[down + 1 :] > 4.5)[0]
    by_hand = 47e3 * 1e-9 * math.log(17.3 / 8.35)
    assert 0.2e-6 * (up - down) == pytest.approx(by_hand, rel=0.08)


def test_waves_by_hand():
    wave = Exponential(1.0, 3.0, 1e-3, 2e-3, 5e-3, 1e-3)
    assert wave.at(0.5e-3) == 1.0
    assert wave.at(3e-3) == pytest.approx(1 + 2 * (1 - math.exp(-1)))
    fallen = 1 + 2 * (1 - math.exp(-2.5)) - 2 * (1 - math.exp(-1))
    assert wave.at(6e-3) == pytest.approx(fallen)
    assert Sine(0, 1, 1e3, damping_per_s=-1e3).trouble(1e-3) == ""
    # what is not computed rests at what it begins with
    other = read_deck("x\nV1 a 0 SFFM(2 1 1k 5 100)\nR1 a 0 1k\n.op\n")
    assert run_deck(other)["op"]["a"] == pytest.approx(2.0)
    assert isinstance(
        read_deck("x\nV1 a 0 SINE(0 1 1k)\nR1 a 0 1k\n").circuit.elements[0].wave, Sine
    )


def test_an_inductor_s_and_a_source_s_values_are_bounded_together():
    """Points times unknowns fit into memory."""
    many = [Resistor(f"r{k}", f"n{k}", f"n{k + 1}", 1.0) for k in range(200)]
    system = System(
        Circuit(
            (
                VoltageSource("v", "n0", "0", wave=Sine(0, 1, 1e3)),
                *many,
                Resistor("end", "n200", "0", 1.0),
            )
        )
    )
    with pytest.raises(CircuitError, match="points"):
        solve_transient(system, 1e-6, 1.0)


RUNS_ON = (
    "runs on\nV1 a 0 SIN(0 1 1meg)\nR1 a b 1k\nC1 b 0 1n\nD1 b 0 d\n.model d d (is=1e-14)\n"
    ".tran 20n 1.9m 0 5n\n"
)


def test_work_that_takes_too_long_gives_what_there_is_and_says_so():
    found = run_deck(read_deck(RUNS_ON), seconds=0.3)["tran"]
    t_s = np.array(found["t_s"])
    assert 10 < t_s.size < 90_000
    assert np.diff(t_s) == pytest.approx(20e-9, rel=1e-6)
    assert "after 0.3 s of work it had come to" in found["cut_short"]
    # what was computed is what a whole run begins with
    whole = run_deck(read_deck(RUNS_ON.replace("1.9m 0 5n", "200n 0 5n")))["tran"]
    n = len(whole["t_s"])
    assert found["nodes"]["b"][:n] == pytest.approx(whole["nodes"]["b"], abs=1e-6)
    assert "cut_short" not in whole


def test_nothing_before_its_start_is_one_line():
    with pytest.raises(CircuitError, match=r"after 0\.2 s of work"):
        run_deck(read_deck(RUNS_ON.replace("1.9m 0 5n", "1.9m 1.8m 5n")), seconds=0.2)


@pytest.mark.long
def test_a_chip_at_fifty_kilovolts_is_refused_after_so_many_tries(monkeypatch):
    """It would take a minute; nothing that is built needs a tenth of them."""
    tries = []
    newton = dc._newton
    monkeypatch.setattr(dc, "_newton", lambda *told: tries.append(1) or newton(*told))

    def amplified(volts):
        tries.clear()
        chip = gear("opamp-preamp", "chip", supply_v=volts)
        mic, rig = gear("dynamic-microphone", "mic"), gear("microphone-socket", "rig")
        return assess(station_of(mic, chip, rig))

    with pytest.raises(CircuitError, match="operating point"):
        amplified(50e3)
    assert len(tries) < 200
    amplified(30.0)
    assert len(tries) < 60
