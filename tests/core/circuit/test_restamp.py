"""Many sets of values at once come to what each comes to by itself."""

import numpy as np
import pytest

from tonleiter.core.circuit.ac import linearise
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import (
    Capacitor,
    Circuit,
    Coupling,
    CurrentSource,
    Diode,
    Inductor,
    PowerLaw,
    Resistor,
    Vccs,
    VoltageSource,
)
from tonleiter.core.circuit.noise import noise_sources
from tonleiter.core.circuit.readings import read
from tonleiter.core.circuit.restamp import replaceable, solve_versions
from tonleiter.core.circuit.system import System

F = np.array([50.0, 800.0, 9000.0])


def elements(ohm=1e3, farad=1e-6, henry=0.1, k=0.9, siemens=2e-3, volts=5.0, noise=1e-20):
    return (
        VoltageSource("v", "in", "0", dc=volts, ac=1.0),
        Resistor("r", "in", "a", ohm),
        Capacitor("c", "a", "0", farad),
        Inductor("l1", "a", "b", henry),
        Inductor("l2", "s", "0", 0.4),
        Coupling("k", "l1", "l2", k),
        Resistor("b_load", "b", "0", 2e3),
        Resistor("s_load", "s", "0", 4e3),
        Vccs("g", "0", "out", "s", "0", siemens),
        Resistor("out_load", "out", "0", 5e3),
        CurrentSource("n", "out", "0", noise=(PowerLaw(noise),)),
    )


def test_each_version_equals_a_circuit_built_with_its_values():
    """Every kind of value changes, also DC, also noise; the coupling follows its inductances."""
    sets = [
        {},
        {"ohm": 2e3, "henry": 0.2},
        {"farad": 3e-7, "k": 0.5, "noise": 4e-20},
        {"siemens": 5e-3, "volts": 9.0, "ohm": 700.0},
    ]
    drawn = [elements(**values) for values in sets]
    linear = linearise(System(Circuit(drawn[0])))
    pairs = [("out", "0"), ("a", "b")]
    versions = {place: [d[place] for d in drawn] for place in range(len(drawn[0]))}
    (solved,) = solve_versions(linear, F, pairs, versions, len(drawn))
    transfers = solved.readings.from_noise(noise_sources(linear))
    noise = np.einsum("vfsr,vsf->vfr", transfers, solved.psd)
    for k, one in enumerate(drawn):
        alone = linearise(System(Circuit(one)))
        readings = read(alone, F, pairs)
        np.testing.assert_allclose(
            solved.readings.from_source("v")[k], readings.from_source("v"), rtol=1e-9
        )
        np.testing.assert_allclose(
            noise[k], readings.noise(alone).psd_v2_per_hz.sum(axis=0), rtol=1e-9
        )
        op = solve_dc(System(Circuit(one)))
        np.testing.assert_allclose(solved.dc_v[k], [op.volts(*p) for p in pairs], atol=1e-12)
    assert solved.dc_v[3][1] == pytest.approx(0.0, abs=1e-9)  # a coil holds no DC


def test_devices_are_not_replaceable():
    assert replaceable(elements())
    assert not replaceable((*elements(), Diode("d", "a", "0")))
