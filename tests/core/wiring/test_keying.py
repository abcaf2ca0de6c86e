"""Transmit switches: resistors that do their work in a solved circuit, parts, what is said."""

from typing import get_args

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import lead, mic, plain, radio, station
from tests.core.wiring.walk import DATA_PINS
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.devices import BipolarModel
from tonleiter.core.circuit.elements import Bipolar, Circuit, Resistor, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.drawing.traced import faults
from tonleiter.core.gear.net import Port, StageNet
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station.contact_facts import Standing
from tonleiter.core.station.wiring import TransmitWay
from tonleiter.core.units.preferred import between, mantissas
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity
from tonleiter.core.wiring.keying import LED_V, keying_of, second_switch

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


# --- what a serial port drives -------------------------------------------------------------------


def driven(way, port_v):
    """The keyer as it is built, a port at its line, a radio's line of 5 V behind 4.7 kΩ."""
    gear = keying_of(way, Standing(5.0, 4700.0, False), 5.0).gear
    net = StageNet("keyer", Port("port", "0"), Port("line", "0"))
    gear.build(net)
    return Circuit(
        (
            *net.elements,
            VoltageSource("port", "port", "0", dc=port_v),
            VoltageSource("pull", "pull", "0", dc=5.0),
            Resistor("pull_r", "pull", "line", 4700.0),
            Resistor("damp", "keyer:lit", "0", 1e12),
        )
    )


@pytest.mark.parametrize("way", ["serial-transistor", "serial-opto"])
def test_a_port_pulls_the_line_down_and_lets_it_go(way):
    """Saturated under 0.4 V, which every logic takes as low; let go within a tenth of its volts."""
    on, off = (solve_dc(System(driven(way, volts))) for volts in (5.0, -12.0))
    assert on.volts("line", "0") < 0.4
    assert off.volts("line", "0") > 4.5


def test_no_base_and_no_led_sees_the_port_s_negative_volts():
    """The diode holds them under a volt; a base breaks through at some 5 V."""
    for way, node in (("serial-transistor", "keyer:base"), ("serial-opto", "keyer:anode")):
        at = solve_dc(System(driven(way, -12.0)))
        assert -1.0 < at.volts(node, "0") < 0


def test_a_relay_pulls_in_and_its_coil_s_kick_is_caught():
    """12 V relays pull in at nine; its diode stands against the supply while it is held."""
    on, off = (solve_dc(System(driven("serial-relay", volts))) for volts in (5.0, -12.0))
    assert on.volts("keyer:rail", "keyer:foot") > 11.0
    assert abs(off.volts("keyer:rail", "keyer:foot")) < 0.1
    catch = next(e for e in driven("serial-relay", 5.0).elements if e.name == "keyer:catch")
    assert (catch.anode, catch.cathode) == ("keyer:foot", "keyer:rail")


@pytest.mark.parametrize("way", ["serial-transistor", "serial-opto", "serial-relay"])
def test_what_keys_is_drawn_as_it_was_built(way):
    data = gear("line-source", "laptop", supply="double-insulated")
    found = verdict_of(station(data, lead(), radio(), hands={"transmit": way}))
    assert found.build.keyer.symbols
    assert faults(found.build.keyer, {}, "port-ground") == []


# what is printed on usual ones of each way, or stands in their sheets: volts and amperes
RATED = {
    "foot-switch": (50, 1.0),
    "push-button": (50, 0.5),
    "toggle": (125, 1.0),
    "serial-relay": (125, 1.0),
    "serial-transistor": (40, 0.1),
    "serial-opto": (30, 0.02),
}


@pytest.mark.parametrize("way", RATED)
def test_a_line_is_keyed_by_what_bears_it(way):
    """A tenth over what it bears is a stop, a tenth under it is minded, two fifths are nothing."""
    volts, amperes = RATED[way]
    for share, severity in ((1.1, "stop"), (0.9, "mind"), (0.4, None)):
        for open_v, through_ohm in (
            (share * volts, volts / (0.05 * amperes)),
            (0.2 * volts, 0.2 * volts / (share * amperes)),
        ):
            said = {"_3": {"open_v": open_v, "through_ohm": through_ohm}}
            found = verdict_of(
                station(mic(), lead(), radio(), hands={"transmit": way}, said=said)
            ).findings
            told = [f.severity for f in found if f.code == "switch-too-weak"]
            assert told == ([severity] if severity else []), (way, share, open_v, through_ohm)


@pytest.mark.parametrize(("volts", "ohm"), [(5.0, 4700.0), (13.8, 1000.0), (-9.0, 2200.0)])
def test_a_switch_bears_twice_of_what_the_line_puts_on_it(volts, ohm):
    keying = keying_of("foot-switch", Standing(volts, ohm, usual=False), 5.0)
    assert keying.line_a == pytest.approx(abs(volts) / ohm)
    wants = f"bears {format_quantity(2 * abs(volts), VOLT, 2)}"
    wants += f" and {format_quantity(2 * abs(volts) / ohm, AMPERE, 2)}"
    assert keying.parts[0].note == wants
    (beside,) = second_switch("push-button", keying)
    assert beside.note == f"{wants}, beside the first"
    # nobody's switch is made for less than a volt and a milliampere
    faint = keying_of("foot-switch", Standing(0.1, 100e3, usual=False), 5.0)
    assert faint.parts[0].note == "bears 1 V and 1 mA"


@pytest.mark.parametrize("serial_v", [3.3, 5.0, 9.0, 12.0])
def test_a_relay_s_transistor_has_a_tenth_of_its_coil_s_current(serial_v):
    """12 V through 400 ohm are 30 mA, so 3 mA into the base, through a value that is sold."""
    keying = keying_of("serial-relay", Standing(12.0, 1000.0, usual=False), serial_v)
    assert keying.port_a >= 3e-3
    assert keying.resistor_ohm == pytest.approx((serial_v - 0.7) / keying.port_a)
    # the next larger one would give too little
    larger = between(keying.resistor_ohm * 1.01, keying.resistor_ohm * 1.3, "E12")[0]
    assert (serial_v - 0.7) / larger < 3e-3
