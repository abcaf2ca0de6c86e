"""Circuits without a solution say which node or element is at fault."""

import numpy as np
import pytest

from tests.core.circuit.reference import ac, dc
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    CircuitError,
    Coupling,
    Inductor,
    Resistor,
    Vccs,
    VoltageSource,
)
from tonleiter.core.circuit.system import System

SOURCE = VoltageSource("v", "in", "0", dc=1, ac=1)
LOAD = Resistor("r", "in", "0", 1e3)


def test_a_node_behind_a_capacitor_floats():
    with pytest.raises(CircuitError, match="node far floats"):
        dc(SOURCE, LOAD, Capacitor("c", "in", "far", 1e-6))


def test_an_island_is_named():
    with pytest.raises(CircuitError, match="nodes x, y float"):
        dc(SOURCE, LOAD, Resistor("r2", "x", "y", 100))


def test_a_node_only_listened_to_floats():
    with pytest.raises(CircuitError, match="node ear floats"):
        dc(SOURCE, LOAD, Vccs("g", "in", "0", "ear", "0", 1e-3))


def test_a_capacitor_joined_node_is_no_trouble_for_ac():
    out = ac(
        [1e3], SOURCE, LOAD, Capacitor("c", "in", "far", 1e-6), Capacitor("d", "far", "0", 1e-6)
    )
    assert out["far"][0] == pytest.approx(0.5)


def test_a_loop_of_sources_is_named():
    with pytest.raises(CircuitError, match="loop of voltage sources"):
        dc(SOURCE, VoltageSource("w", "in", "0", dc=2), LOAD)


def test_a_coil_across_a_source_is_named():
    with pytest.raises(CircuitError, match="loop of voltage sources or coils"):
        dc(SOURCE, Inductor("l", "in", "0", 1e-3))


def test_ungrounded():
    with pytest.raises(CircuitError, match="ground"):
        System(Circuit((Resistor("r", "a", "b", 1),)))


@pytest.mark.parametrize(
    ("element", "words"),
    [
        (Resistor("rx", "in", "0", 0), "rx needs a resistance"),
        (Resistor("rx", "in", "0", float("nan")), "rx needs a resistance"),
        (Capacitor("cx", "in", "0", -1e-9), "cx needs a capacitance"),
        (Inductor("lx", "in", "0", 0), "lx needs an inductance"),
        (Coupling("kx", "l1", "l2", 0.5), "kx needs an inductor called l1"),
    ],
)
def test_impossible_values(element, words):
    with pytest.raises(CircuitError, match=words):
        System(Circuit((SOURCE, LOAD, element)))


def test_two_elements_of_one_name():
    with pytest.raises(CircuitError, match="two elements are called r"):
        System(Circuit((SOURCE, LOAD, Resistor("r", "in", "0", 2))))


def test_an_unknown_node_is_refused():
    with pytest.raises(CircuitError, match="no node nowhere"):
        System(Circuit((SOURCE, LOAD))).unit("nowhere")


def test_an_infinite_value_reaches_no_solution_silently():
    with pytest.raises(CircuitError):
        dc(VoltageSource("v", "in", "0", dc=float("inf")), LOAD)
    assert np.isfinite(dc(SOURCE, LOAD).x).all()
