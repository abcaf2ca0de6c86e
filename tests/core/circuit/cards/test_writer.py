"""What is written reads back as the same circuit, and means the same to a solver."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tonleiter.core.circuit.ac import linearise
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.circuit.cards.writer import write_deck
from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Capacitor,
    Cccs,
    Ccvs,
    Circuit,
    Coupling,
    CurrentSource,
    Diode,
    DiodeModel,
    Inductor,
    Jfet,
    JfetModel,
    PowerLaw,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.noise import noise_shares
from tonleiter.core.circuit.system import System

nodes = st.sampled_from(["0", "a", "b", "c", "n1"])
values = st.floats(1e-12, 1e9)
pairs = st.tuples(nodes, nodes).filter(lambda p: p[0] != p[1])


@st.composite
def circuits(draw):
    """Random circuits of every kind of element, in the reader's own naming."""
    elements = [VoltageSource("v0", "a", "0", dc=draw(values), ac=complex(draw(values), 1.0))]
    for k in range(draw(st.integers(1, 6))):
        p, n = draw(pairs)
        cp, cn = draw(pairs)
        value = draw(values)
        elements.append(
            draw(
                st.sampled_from(
                    [
                        Resistor(f"r{k}", p, n, value),
                        Capacitor(f"c{k}", p, n, value),
                        Inductor(f"l{k}", p, n, value),
                        CurrentSource(f"i{k}", p, n, dc=value),
                        Vcvs(f"e{k}", p, n, cp, cn, value),
                        Vccs(f"g{k}", p, n, cp, cn, -value),
                        Cccs(f"f{k}", p, n, "v0", value),
                        Ccvs(f"h{k}", p, n, "v0", value),
                        Diode(f"d{k}", p, n, DiodeModel(is_a=value, n=1.5), 2.0),
                        Bipolar(f"q{k}", p, n, cp, BipolarModel(polarity=-1, vaf_v=value)),
                        Jfet(f"j{k}", p, n, cp, JfetModel(vto_v=-value, lambda_per_v=0.01)),
                    ]
                )
            )
        )
    elements += [Inductor("lx", "a", "0", 1.0), Inductor("ly", "b", "0", 2.0)]
    elements.append(Coupling("kx", "lx", "ly", draw(st.floats(-1, 1))))
    return Circuit(tuple(elements), temperature_k=300.15, title="any")


@settings(max_examples=60)
@given(circuits())
def test_round_trip_is_exact(circuit):
    again = read_deck(write_deck(circuit)).circuit
    assert len(again.elements) == len(circuit.elements)
    for before, after in zip(circuit.elements, again.elements, strict=True):
        if isinstance(before, VoltageSource):
            # a phasor goes through magnitude and degrees
            assert after.ac == pytest.approx(before.ac, rel=1e-12)
            assert (after.name, after.dc) == (before.name, before.dc)
        else:
            assert after == before


def test_gear_names_become_card_names():
    circuit = Circuit(
        (
            VoltageSource("desk mixer:supply", "n:1", "0", dc=2),
            Resistor("pad:series", "n:1", "0", 5.0),
        )
    )
    text = write_deck(circuit, [".op"])
    assert run_deck(read_deck(text))["op"]["n_1"] == pytest.approx(2)


def test_noise_densities_are_written_as_what_makes_them():
    circuit = Circuit(
        (
            Resistor("r", "a", "0", 1e3, noisy=False),
            CurrentSource("i", "0", "a", noise=(PowerLaw(4e-24),)),
            VoltageSource("v", "b", "a", noise=(PowerLaw(9e-18),)),
            Resistor("rb", "b", "0", 1e9, noisy=False),
        )
    )
    f = np.array([1e3])

    def density(c):
        linear = linearise(System(c))
        adjoint = linear.adjoint(f, linear.system.unit("b")[:, None])
        return noise_shares(linear, f, adjoint).density_v_per_rthz[0, 0]

    assert density(circuit) == pytest.approx(np.sqrt(4e-24 * 1e6 + 9e-18), rel=1e-5)
    assert density(read_deck(write_deck(circuit)).circuit) == pytest.approx(density(circuit))


def test_flicker_is_named_where_it_cannot_be_written():
    source = VoltageSource("v", "a", "0", noise=(PowerLaw(1e-18, 1.0),))
    text = write_deck(Circuit((source, Resistor("r", "a", "0", 1))))
    assert "* v: density" in text
    assert "exponent 1.0" in text
