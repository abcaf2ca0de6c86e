"""The transmit line at the plug: what is said of it, what it reads, and what drives it."""

from dataclasses import replace

import numpy as np
import pytest

from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.bench.measure import measure
from tonleiter.core.bench.transmit import KEYER, PORT_OHM, SWITCH_CONTACT
from tonleiter.core.circuit.elements import Resistor
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof


def bench_of(way, **hands):
    """The unit of a plain lead keyed in some way, and its readings of the line."""
    made = station(mic(), lead(), radio(), hands={"transmit": way, **hands})
    of = Proof(verdict_of(made), 0)
    return of.unit, {r.id: r for r in of.readings if r.id.startswith("transmit")}


def read(unit, readings, change=lambda e: e):
    """What the bench shows of the line, with some element changed."""
    shown = measure(unit, [change(e) for e in unit.elements], tuple(readings.values()))
    return dict(zip(readings, shown, strict=True))


@pytest.mark.parametrize(
    ("way", "released", "pressed"),
    [
        ("foot-switch", "3 to 7, the switch let go", "3 to 7, the switch held down"),
        ("toggle", "3 to 7, the switch off", "3 to 7, the switch on"),
        ("serial-relay", "3 to 7, the port's line off", "3 to 7, the port's line on"),
        (
            "serial-opto",
            "3 to 7, 5 V there through 4.7 kΩ, the port's line off",
            "3 to 7, 5 V there through 4.7 kΩ, the port's line on",
        ),
    ],
)
def test_it_says_where_and_with_what_held(way, released, pressed):
    unit, readings = bench_of(way)
    assert readings["transmit released"].says == f"radio: {released}"
    assert readings["transmit pressed"].says == f"radio: {pressed}"
    # the current of a port is read where a port drives something
    assert ("transmit drive" in readings) == way.startswith("serial")
    # what has no power is rung out with the rest, before anything is switched on
    assert readings["transmit pressed"].step == ("dc" if way.startswith("serial") else "ring")
    assert unit.transmit.line_ohm == pytest.approx(4700.0)


def test_a_switch_that_borrows_the_audio_s_ground_is_read_against_that():
    unit, readings = bench_of("push-button", switch_returns="audio-ground")
    assert [c.label for c in unit.transmit.contacts] == ["3", "2"]
    assert "3 to 2" in readings["transmit pressed"].says


@pytest.mark.parametrize("returns", ["own-wire", "audio-ground"])
def test_a_contact_that_welded_is_closed_when_it_is_let_go(returns):
    unit, readings = bench_of("foot-switch", switch_returns=returns)
    right = read(unit, readings)
    assert np.isinf(right["transmit released"])
    assert right["transmit pressed"] < 1.0

    def welded(element):
        return replace(element, ohm=0.05) if element.name == SWITCH_CONTACT else element

    assert read(unit, readings, welded)["transmit released"] < 1.0


def base_ohm(unit):
    """The resistor that the port drives through."""
    return next(
        e for e in unit.transmit.elements if isinstance(e, Resistor) and "port-line" in (e.p, e.n)
    )


@pytest.mark.parametrize(
    ("way", "drop_v", "within"),
    # a base and an emitter; the diode in an opto-coupler shows more than one of silicon does
    [("serial-transistor", 0.66, 0.03), ("serial-relay", 0.72, 0.04), ("serial-opto", 1.2, 0.06)],
)
def test_a_port_drives_what_its_five_volts_and_a_resistor_give(way, drop_v, within):
    unit, readings = bench_of(way)
    by_hand = (unit.transmit.port_v - drop_v) / (PORT_OHM + base_ohm(unit).ohm)
    assert read(unit, readings)["transmit drive"] == pytest.approx(by_hand, rel=within)


def test_a_line_is_pulled_down_and_let_up_again():
    unit, readings = bench_of("serial-transistor")
    shown = read(unit, readings)
    assert shown["transmit released"] == pytest.approx(unit.transmit.line_v, rel=1e-3)
    assert shown["transmit pressed"] < 0.2
    # the port swings both ways: wired to a base alone, off is five volts the other way
    off = {e.name: e for e in unit.transmit.port(pressed=False)}
    assert off["bench:port"].dc == -unit.transmit.port_v


def test_a_relay_whose_coil_gets_too_little_stays_open():
    unit, readings = bench_of("serial-relay")
    drives = base_ohm(unit)
    assert read(unit, readings)["transmit pressed"] < 1.0

    def starved(element):
        return replace(element, ohm=drives.ohm * 1000) if element == drives else element

    shown = read(unit, readings, starved)
    assert np.isinf(shown["transmit pressed"])
    assert shown["transmit drive"] < 1e-5


def test_a_relay_holds_at_six_tenths_of_its_volts_and_not_below():
    """A resistor in its coil's lead leaves it so much: by divider."""
    unit, readings = bench_of("serial-relay")
    coil = next(e for e in unit.transmit.elements if e.name == f"{KEYER}coil")
    for share, holds in ((0.75, True), (0.5, False)):

        def spoiled(element, share=share):
            # the rail stays: what the coil loses stands over a resistor before it
            if element.name != coil.name:
                return [element]
            there = replace(element, n=f"{element.n}-behind")
            lost = coil.ohm * (1 - share) / share
            return [there, Resistor("lost", there.n, element.n, lost, noisy=False)]

        elements = [made for e in unit.elements for made in spoiled(e)]
        shown = measure(unit, elements, tuple(readings.values()))
        pressed = dict(zip(readings, shown, strict=True))["transmit pressed"]
        assert np.isfinite(pressed) == holds, share
