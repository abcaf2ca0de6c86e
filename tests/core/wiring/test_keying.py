"""Transmit switches: resistors that do their work in a solved circuit, parts, what is said."""

from typing import get_args

import pytest

from tests.core.wiring.benches import plain, station
from tests.core.wiring.walk import DATA_PINS
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.devices import BipolarModel
from tonleiter.core.circuit.elements import Bipolar, Circuit, Resistor, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station.contact_facts import Standing
from tonleiter.core.station.wiring import TransmitWay
from tonleiter.core.units.preferred import mantissas
from tonleiter.core.wiring.keying import LED_V, keying_of

LINES = [
    Standing(5, 4700, usual=True),
    Standing(5, 1000, usual=False),
    Standing(12, 2200, usual=False),
    Standing(13.8, 330, usual=False),
]


@pytest.mark.parametrize("line", LINES, ids=lambda s: f"{s.volts} V, {s.ohm} Ω")
@pytest.mark.parametrize("serial_v", [3.3, 5, 9])
@pytest.mark.parametrize("beta", [40, 100, 300])
def test_a_transistor_by_its_base_resistor_saturates(line, serial_v, beta):
    """On any small transistor the line is pulled under 0.3 V, and rests at its open volts."""
    made = keying_of("serial-transistor", line, serial_v)
    if made.resistor_ohm is None:
        pytest.skip("the port is too weak for this line, and that is said")

    def left(port_v):
        circuit = Circuit(
            (
                VoltageSource("line", "rail", "0", dc=line.volts),
                Resistor("pull", "rail", "c", line.ohm, False),
                VoltageSource("port", "p", "0", dc=port_v),
                Resistor("base", "p", "b", made.resistor_ohm, False),
                Bipolar("q", "c", "b", "0", BipolarModel(is_a=1e-14, bf=beta)),
            )
        )
        return solve_dc(System(circuit)).volts("c", "0")

    assert left(serial_v) < 0.3
    assert left(0.0) == pytest.approx(line.volts, rel=1e-2)


def test_an_opto_coupler_has_current_to_spare():
    """5 V behind 4.7 kΩ sink 1.06 mA; half of the LED's current must still do it when it is old."""
    made = keying_of("serial-opto", LINES[0], 5.0)
    led_a = (5.0 - LED_V) / made.resistor_ohm
    assert led_a * 0.5 / 2 >= 5 / 4700
    assert led_a <= 10e-3
    mantissa = float(f"{made.resistor_ohm:e}".partition("e")[0])
    assert any(mantissa == pytest.approx(m) for m in mantissas("E12"))


@pytest.mark.parametrize(
    ("way", "volts", "serial_v"),
    [
        ("serial-transistor", -12, 5),  # a positive port pulls no negative line
        ("serial-opto", 5, 1.0),  # an LED does not light on a volt
        ("serial-transistor", 5, 0.5),
    ],
)
def test_what_a_port_cannot_do_has_no_resistor(way, volts, serial_v):
    assert keying_of(way, Standing(volts, 4700, usual=False), serial_v).resistor_ohm is None


def test_an_opto_coupler_on_a_negative_line_is_turned_round():
    says = " ".join(keying_of("serial-opto", Standing(-5, 4700, usual=False), 5).cautions)
    assert "emitter to the line" in says
    assert "collector to the line" in " ".join(keying_of("serial-opto", LINES[0], 5).cautions)


@pytest.mark.parametrize("way", get_args(TransmitWay))
def test_every_way_says_what_keys_it_by_accident_and_its_cautions(way):
    made = keying_of(way, LINES[0], 5.0)
    assert made.by_accident
    assert any("ummy load" in c for c in made.cautions)
    assert made.wired == (way not in ("radio", "vox", "interface-vox"))
    assert bool(made.parts or made.gear) == made.wired


@pytest.mark.parametrize("way", ["foot-switch", "push-button", "toggle", "microphone"])
def test_a_wired_switch_has_its_wires_and_parts_in_the_build(way):
    build = verdict_of(plain({"transmit": way, "cores": 3})).build
    assert [c.end for c in build.conductors if c.key.startswith("switch:")] == [
        "radio.mic.3",
        "radio.mic.7",
    ]
    assert any("switch" in p.name or "button" in p.name for p in build.parts)


@pytest.mark.parametrize("way", ["vox", "radio", "interface-vox"])
def test_other_ways_leave_the_line_alone(way):
    build = verdict_of(plain({"transmit": way})).build
    assert not [c for c in build.conductors if c.key.startswith("switch:")]
    assert any(x.contact == "radio.mic.3" for x in build.leftovers)


def test_a_computer_keys_by_an_opto_coupler_and_a_battery_box_by_the_voice():
    def way(supply):
        source = {"id": "s", "name": "s", "kind": "line-source", "supply": supply}
        data = {"id": "d", "name": "d", "kind": "data-socket"}
        return verdict_of(
            station(source, data, pins=DATA_PINS, shell="mini-din-6", purpose="data-weak")
        ).build.keying.way

    assert way("double-insulated") == "serial-opto"
    assert way("battery") == "vox"
