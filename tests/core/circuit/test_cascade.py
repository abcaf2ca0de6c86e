"""Stage by stage against one matrix for all, and against closed forms."""

import math

import numpy as np
import pytest

from tonleiter.core.circuit.ac import impedance, linearise
from tonleiter.core.circuit.cascade import Cascade
from tonleiter.core.circuit.devices import BOLTZMANN
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    CircuitError,
    Coupling,
    Inductor,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.noise import noise_shares, noise_sources
from tonleiter.core.circuit.system import System

F = np.array([30.0, 300.0, 3000.0])


def build(groups, outs):
    """Groups of elements and the hot node behind each; cold is ground."""
    elements = tuple(e for group in groups for e in group)
    of = np.concatenate([np.full(len(g), k) for k, g in enumerate(groups)]).astype(np.intp)
    linear = linearise(System(Circuit(elements)))
    joints = [(n, "0") for n in outs]
    place = {e.name: k for k, e in enumerate(elements)}
    sources = [(int(of[place[s.name]]), s) for s in noise_sources(linear)]
    return linear, Cascade(linear.system, linear.g_entries, of, joints), sources


def ladder(sections, r=1000.0, c=10e-9):
    groups = [[VoltageSource("v", "n0", "0", ac=1.0), Resistor("r0", "n0", "n1", r)]]
    outs = ["n1"]
    for k in range(1, sections):
        groups.append(
            [Capacitor(f"c{k}", f"n{k}", "0", c), Resistor(f"r{k}", f"n{k}", f"n{k + 1}", r)]
        )
        outs.append(f"n{k + 1}")
    groups[-1].append(Capacitor("c_end", outs[-1], "0", c))
    return groups, outs


def test_response_and_noise_equal_the_dense_solution_at_every_joint():
    groups, outs = ladder(12)
    linear, cascade, sources = build(groups, outs)
    system = linear.system
    reads = np.stack([system.unit(n) for n in outs], axis=1)
    adjoint = linear.adjoint(F, reads)
    noise = noise_shares(linear, F, adjoint).psd_v2_per_hz.sum(axis=0)
    solved = cascade.solve(F, "v", sources)
    for k in range(len(outs)):
        joint = solved.at(k)
        np.testing.assert_allclose(
            joint.response, adjoint[:, system.branch_row["v"], k], rtol=1e-10
        )
        np.testing.assert_allclose(joint.noise, noise[:, k], rtol=1e-10)
        np.testing.assert_allclose(joint.z, impedance(linear, F, outs[k]), rtol=1e-10)
        np.testing.assert_allclose(solved.adjoint(k), adjoint[:, :, k], rtol=1e-9, atol=1e-14)


def test_noise_of_a_resistor_under_a_capacitor_is_the_closed_form():
    r, c = 10e3, 1e-9
    _, cascade, sources = build(
        [
            [VoltageSource("v", "a", "0", ac=1.0), Resistor("r", "a", "b", r)],
            [Capacitor("c", "b", "0", c)],
        ],
        ["b", "b"],
    )
    joint = cascade.solve(F, "v", sources).at(0)
    w = 2 * math.pi * F
    np.testing.assert_allclose(joint.response, 1 / (1 + 1j * w * r * c), rtol=1e-12)
    density = 4 * BOLTZMANN * 300.15 * r / (1 + (w * r * c) ** 2)
    np.testing.assert_allclose(joint.noise, density, rtol=1e-12)


def test_a_test_current_splits_as_the_impedances_do():
    groups = [
        [VoltageSource("v", "a", "0", ac=1.0), Resistor("rs", "a", "b", 600.0)],
        [Resistor("rl", "b", "0", 1800.0)],
    ]
    _, cascade, _ = build(groups, ["b", "b"])
    joint = cascade.solve(F, "v").at(0)
    assert joint.z[0] == pytest.approx(450.0)
    assert joint.onwards[0] == pytest.approx(0.25)


def test_sources_and_windings_between_kept_nodes_find_their_pivot_later():
    """A transformer, an ideal amplifier: their branch currents have no pivot in their own stage."""
    groups = [
        [VoltageSource("v", "a", "0", ac=1.0), Resistor("rs", "a", "p", 50.0)],
        [
            Inductor("l1", "p", "0", 1.0),
            Inductor("l2", "s", "0", 4.0),
            Coupling("k", "l1", "l2", 0.999),
        ],
        [Vcvs("e", "o", "0", "s", "0", 3.0)],
        [Resistor("ro", "o", "q", 100.0), Vccs("g", "q", "0", "o", "0", 1e-3)],
        [Resistor("rl", "q", "0", 1e3)],
    ]
    outs = ["p", "s", "o", "q", "q"]
    linear, cascade, sources = build(groups, outs)
    system = linear.system
    reads = np.stack([system.unit(n) for n in outs], axis=1)
    dense = linear.adjoint(F, reads)[:, system.branch_row["v"], :]
    solved = cascade.solve(F, "v", sources)
    for k in range(len(outs)):
        np.testing.assert_allclose(solved.at(k).response, dense[:, k], rtol=1e-9)


def test_a_node_that_nothing_determines_is_refused():
    groups = [
        [VoltageSource("v", "a", "0", ac=1.0), Resistor("r", "a", "b", 1e3)],
        [Vccs("g", "x", "0", "b", "0", 1e-3), Resistor("rl", "b", "0", 1e3)],
    ]
    _, cascade, _ = build(groups, ["b", "b"])
    with pytest.raises(CircuitError, match="no single solution"):
        cascade.solve(F, "v").at(1)


def test_large_systems_are_solved_sparsely_and_alike():
    """400 sections of a resistive ladder: the closed form is a chain of dividers."""
    groups = [[VoltageSource("v", "n0", "0", 1.0, 1.0)]]
    for k in range(400):
        groups.append(
            [Resistor(f"r{k}", f"n{k}", f"n{k + 1}", 1e3), Resistor(f"s{k}", f"n{k + 1}", "0", 1e3)]
        )
    groups.append([Resistor("end", "n400", "0", 1e3 * (math.sqrt(5) - 1) / 2)])
    elements = tuple(e for g in groups for e in g)
    linear = linearise(System(Circuit(elements)))
    x = linear.solve(np.array([1000.0]), linear.system.b_ac[:, None])[0, :, 0]
    # ended in its own impedance every section divides by the golden ratio squared
    golden = (1 + math.sqrt(5)) / 2
    for k in (1, 7, 20):
        assert x[linear.system.row(f"n{k}")].real == pytest.approx(golden ** (-2 * k), rel=1e-9)
