"""Elimination of what no frequency changes gives the same answer as the full system."""

import numpy as np
import pytest

from tests.core.circuit.reference import ac
from tonleiter.app.demo import shipped_demo
from tonleiter.core.circuit.elements import Capacitor, Resistor, VoltageSource
from tonleiter.core.circuit.reduce import reduce
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import solve_chain
from tonleiter.core.station.files import read_station

F_HZ = np.logspace(1, 4, 25)


def full(G, C, f_hz, b):
    return np.stack([np.linalg.solve(G + 2j * np.pi * f * C, b) for f in f_hz])


@pytest.mark.parametrize("chain", ["hf-chat", "fm-headset", "am-museum-day"])
def test_demo_chains_agree_with_one_dense_solve_per_frequency(chain):
    linear = solve_chain(compile_chain(read_station(shipped_demo()).station, chain)).linear
    b = np.eye(linear.system.size)
    assert reduce(linear.G, linear.C, b) is not None
    got, wanted = linear.solve(F_HZ, b), full(linear.G, linear.C, F_HZ, b)
    scale = np.abs(wanted).max(axis=(0, 2))[None, :, None]
    assert np.all(np.abs(got - wanted) <= 1e-9 * scale)


def test_ladder_of_resistors_with_one_capacitor_keeps_its_closed_form():
    elements = [VoltageSource("v", "n0", "0", ac=1.0)]
    elements += [Resistor(f"r{k}", f"n{k}", f"n{k + 1}", 100.0) for k in range(10)]
    elements.append(Capacitor("c", "n10", "0", 1e-6))
    nodes = ac(F_HZ, *elements)
    wanted = 1 / (1 + 2j * np.pi * F_HZ * 1000.0 * 1e-6)
    np.testing.assert_allclose(nodes["n10"], wanted, rtol=1e-9)


def test_a_nearly_singular_block_is_left_alone():
    """Two nodes tied by a milliohm, with a picosiemens to the rest: no digits to spare."""
    tight, loose = 1e3, 1e-12
    G = np.array([[tight + loose, -tight, 0.0], [-tight, tight, 0.0], [0.0, 0.0, 1.0]])
    C = np.diag([0.0, 0.0, 1e-6])
    assert reduce(G, C, np.eye(3)) is None
