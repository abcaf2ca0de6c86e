"""Ways to an operating point when Newton's method does not find it from a cold start."""

import numpy as np
import pytest

from tonleiter.core.circuit import dc as module
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import (
    Circuit,
    CircuitError,
    Diode,
    Jfet,
    JfetModel,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.system import System

PAIR = """direct-coupled pair
V1 vcc 0 12
R1 vcc c1 10k
R2 e2 b1 100k
Q1 c1 b1 0 n
R3 vcc c2 2k2
Q2 c2 c1 e2 n
R4 e2 0 1k
.model n npn (is=1e-14 bf=250)
.op
"""


def cold(system):
    return [placed.device.start() for placed in system.devices]


@pytest.mark.parametrize("way", ["_gmin_stepping", "_source_stepping"])
def test_each_way_finds_the_same_operating_point(way):
    system = System(read_deck(PAIR).circuit)
    straight = solve_dc(system)
    found = getattr(module, way)(system, cold(system))
    assert found is not None
    np.testing.assert_allclose(found[0], straight.x, rtol=1e-6, atol=1e-9)


def test_where_newton_gives_up_another_way_is_gone(monkeypatch):
    system = System(read_deck(PAIR).circuit)
    wanted = solve_dc(system).x
    real, calls = module._newton, []

    def no_cold_start(system, x, junctions, scale, gmin):
        calls.append((scale, gmin))
        return (
            None
            if (scale, gmin) == (1.0, 0.0) and len(calls) == 1
            else real(system, x, junctions, scale, gmin)
        )

    monkeypatch.setattr(module, "_newton", no_cold_start)
    np.testing.assert_allclose(solve_dc(system).x, wanted, rtol=1e-6, atol=1e-9)
    assert calls[1] == (1.0, 1e-2)  # from a large leak downwards
    assert calls[-1] == (1.0, 0.0)  # and none at all in the end


def test_where_no_way_leads_anywhere_it_is_said(monkeypatch):
    monkeypatch.setattr(module, "_newton", lambda *_: None)
    with pytest.raises(CircuitError, match="operating point was not found"):
        solve_dc(System(read_deck(PAIR).circuit))


def drain_a(area):
    model = JfetModel(vto_v=-2.0, beta_a_per_v2=1e-3)
    circuit = Circuit(
        (
            VoltageSource("v", "d", "0", dc=10.0),
            Jfet("j", "d", "0", "s", model, area),
            Resistor("r", "s", "0", 1e-3),
        )
    )
    return -solve_dc(System(circuit)).branch_a("v")


def test_a_wider_transistor_carries_as_much_more():
    """Saturated with its gate at its source: I = area · β · VTO²."""
    assert drain_a(1.0) == pytest.approx(4e-3, rel=1e-3)
    assert drain_a(2.5) == pytest.approx(10e-3, rel=1e-3)


def test_a_large_system_with_devices_is_solved_sparsely_and_right():
    """350 diodes in parallel branches: each carries what one alone carries."""
    branches = [
        e
        for k in range(350)
        for e in (Resistor(f"r{k}", "a", f"d{k}", 1e3), Diode(f"x{k}", f"d{k}", "0"))
    ]
    source = VoltageSource("v", "a", "0", dc=5.0)
    one = solve_dc(System(Circuit((source, *branches[:2]))))
    many = solve_dc(System(Circuit((source, *branches))))
    assert many.system.size > module.DENSE_MOST
    for k in (0, 100, 349):
        assert many.volts(f"d{k}") == pytest.approx(one.volts("d0"), rel=1e-7)
    assert many.branch_a("v") == pytest.approx(350 * one.branch_a("v"), rel=1e-7)
