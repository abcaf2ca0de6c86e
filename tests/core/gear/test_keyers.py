"""Small things by hand: what keys from a serial port, a wiper in its circuit, ways to earth."""

import math

import pytest

from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import GROUND, Circuit, Resistor, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.earthing import way_to_earth
from tonleiter.core.gear.keyers import SerialOpto, SerialRelay, SerialTransistor
from tonleiter.core.gear.net import Port, StageNet
from tonleiter.core.gear.wiper import wiper_at, wiper_db, wiper_moved_db

PORT_OHM, LINE_V, LINE_OHM = 300.0, 8.0, 4700.0


def keyed(piece, port_v, line_ohm=LINE_OHM, apart=False):
    """A port drives it; the radio's line hangs on its volts behind a resistor."""
    outlet = Port("line", "far" if apart else GROUND)
    net = StageNet("k", Port("port", GROUND), outlet)
    piece.build(net)
    rest = [
        VoltageSource("v_port", "swing", GROUND, dc=port_v),
        Resistor("r_port", "swing", "port", PORT_OHM),
        VoltageSource("v_line", "supply", outlet.chassis, dc=LINE_V),
        Resistor("r_line", "supply", "line", line_ohm),
    ]
    if apart:
        # the radio's ground lies elsewhere, by an insulation only
        rest.append(Resistor("insulation", "far", GROUND, 1e9))
    return solve_dc(System(Circuit((*net.elements, *rest))))


@pytest.mark.parametrize("port_v", [5.0, 9.0, 12.0])
def test_a_transistor_pulls_the_line_down_and_its_base_takes_what_the_resistor_leaves(port_v):
    op = keyed(SerialTransistor(id="k", name="k"), port_v)
    assert 0.0 < op.volts("line") < 0.2
    assert 0.55 < op.volts("k:base") < 0.75
    base_a = (op.volts("port") - op.volts("k:base")) / 4700.0
    assert base_a == pytest.approx((port_v - op.volts("k:base")) / (PORT_OHM + 4700.0), rel=1e-3)


def test_let_go_the_port_s_negative_volts_end_at_a_diode():
    """A base that is driven 12 V backwards breaks through: the diode holds it at one drop."""
    op = keyed(SerialTransistor(id="k", name="k"), -12.0)
    assert -0.8 < op.volts("k:base") < -0.4
    assert op.volts("line") == pytest.approx(LINE_V, rel=1e-3)


def test_a_line_that_gives_much_is_not_pulled_down_by_a_starved_base():
    """A hundred times what a base gets is what a collector takes."""
    starved = SerialTransistor(id="k", name="k", base_ohm=1e6)
    op = keyed(starved, 5.0, line_ohm=1000.0)
    base_a = (5.0 - 0.6) / (1e6 + PORT_OHM)
    assert LINE_V - op.volts("line") == pytest.approx(100 * base_a * 1000.0, rel=0.05)


def test_an_opto_coupler_carries_half_of_its_led_s_current_and_joins_no_grounds():
    op = keyed(SerialOpto(id="k", name="k"), 5.0, apart=True)
    led_a = (op.volts("port") - op.volts("k:anode")) / 680.0
    assert led_a == pytest.approx((5.0 - op.volts("k:anode")) / (PORT_OHM + 680.0), rel=1e-3)
    assert 1.0 < op.volts("k:anode") < 1.35, "an infrared LED"
    # eight volts behind 4.7 kΩ ask for less than it carries: it is full on
    assert op.volts("line") - op.volts("far") < 0.3
    # behind 100 Ω they ask for more: half of the LED's current flows, and no more
    weak = keyed(SerialOpto(id="k", name="k"), 5.0, line_ohm=100.0, apart=True)
    flows_a = (LINE_V - (weak.volts("line") - weak.volts("far"))) / 100.0
    assert flows_a == pytest.approx(led_a / 2, rel=0.1)
    dark = keyed(SerialOpto(id="k", name="k"), -5.0, apart=True)
    assert dark.volts("line") - dark.volts("far") == pytest.approx(LINE_V, rel=1e-3)
    assert dark.volts("k:anode") > -0.8, "the LED bears no more than some volts backwards"


def test_a_relay_s_coil_gets_its_twelve_volts_and_its_contact_is_its_own():
    op = keyed(SerialRelay(id="k", name="k"), 5.0)
    coil_v = op.volts("k:rail", "k:foot")
    assert coil_v > 11.5
    # let go nothing flows in the coil; the contact is closed by the bench, not by the circuit
    off = keyed(SerialRelay(id="k", name="k"), -5.0)
    assert abs(off.volts("k:rail", "k:foot")) < 0.01
    for made in (op, off):
        assert made.volts("line") == pytest.approx(LINE_V, rel=1e-3)


def test_the_list_has_an_isolating_part_that_bears_what_it_must():
    net = StageNet("k", Port("port", GROUND), Port("line", "far"))
    SerialRelay(id="k", name="k", coil_ohm=330, bears="30 V, 0.5 A").build(net)
    (relay,) = net.wholes
    assert {"k:coil", "k:contact"} == relay.elements
    assert relay.part.name == "relay, 12 V"
    assert "330 Ω or more" in relay.part.note and relay.part.note.endswith("30 V, 0.5 A")
    # with nothing known of the line the note ends where its words do
    bare = StageNet("k", Port("port", GROUND), Port("line", "far"))
    SerialRelay(id="k", name="k").build(bare)
    assert bare.wholes[0].part.note.endswith("contact that closes")


# --- a potentiometer in its circuit --------------------------------------------------------------


@pytest.mark.parametrize(
    ("share", "z_source", "z_load", "db"),
    [
        (0.5, 0.0, math.inf, -6.02),
        # 5 kΩ beside 2.2 kΩ are 1528 Ω; behind 5 kΩ of track
        (0.5, 0.0, 2200.0, 20 * math.log10(1527.8 / 6527.8)),
        # a source of 10 kΩ more
        (0.5, 10e3, 2200.0, 20 * math.log10(1527.8 / 16527.8)),
        # a tenth: 1 kΩ beside 1 kΩ, behind 9 kΩ
        (0.1, 0.0, 1000.0, 20 * math.log10(500 / 9500)),
        # its track does not end in nothing
        (0.0, 0.0, math.inf, -60.0),
        (-3.0, 0.0, math.inf, -60.0),
        (1.0, 0.0, math.inf, 20 * math.log10(0.999)),
        (7.0, 0.0, math.inf, 20 * math.log10(0.999)),
    ],
)
def test_a_wiper_divides_with_what_stands_round_it(share, z_source, z_load, db):
    assert wiper_db(share, 10e3, z_source, z_load) == pytest.approx(db, abs=0.01)


@pytest.mark.parametrize("z_load", [math.inf, 10e3, 600.0])
@pytest.mark.parametrize(("now", "up_db"), [(0.3, 3.0), (0.5, -9.0), (0.8, -20.0), (0.2, 6.0)])
def test_a_wiper_is_set_for_decibels_to_a_hundredth_of_its_turn(z_load, now, up_db):
    at = wiper_at(now, up_db, 10e3, 300.0, z_load)
    assert at == pytest.approx(round(at, 2))
    less, more = (wiper_moved_db(now, at + by, 10e3, 300.0, z_load) for by in (-0.0101, 0.0101))
    assert less < up_db < more


def test_a_wiper_ends_where_its_track_does():
    assert wiper_at(0.9, 40.0, 10e3, 0.0, math.inf) == 1.0
    assert wiper_at(0.5, -90.0, 10e3, 0.0, math.inf) == 0.01


# --- the way to earth ----------------------------------------------------------------------------


def test_an_earthed_supply_has_a_lead_and_the_outlet_s_volts():
    way = way_to_earth("case", "safety-earth", 0.03)
    assert (way.ohm, way.farad) == (0.2, 0.0)
    assert (way.path.mains_v, way.path.comb_v) == (0.03, 0.0)
    # a computer's USB brings the same earth, and a comb of its own
    assert way_to_earth("case", "usb-computer", 0.03).path.comb_v == 3e-3


def test_two_wires_leak_at_half_the_mains_and_a_battery_does_not():
    plug = way_to_earth("case", "double-insulated")
    assert plug.path.mains_v == 115.0
    # 230 V, 50 Hz through a nanofarad: some 36 µA in a meter to earth
    assert 2 * math.pi * 50 * plug.farad * 115 == pytest.approx(36e-6, rel=0.02)
    for supply in ("battery", "lead"):
        alone = way_to_earth("case", supply)
        assert alone.path is None
        assert alone.farad == pytest.approx(plug.farad / 10)
        assert alone.ohm > 10e6
