"""What an ohmmeter finds on a build, against the resistances that stand there."""

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import landed, lead, mic, plain, radio, station
from tonleiter.core.bench.ohms import Ohmmeter, resistances, unpowered
from tonleiter.core.bench.unit import unit_of
from tonleiter.core.circuit.elements import Circuit, Resistor, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.judge.verdict import verdict_of


def reading(of, one, other):
    found = verdict_of(of)
    meter = Ohmmeter(unit_of(found, len(found.build.spans) - 1))
    return meter.between(one, other)


HOT, COLD, PLUG, GROUND = "mic.plug.1", "mic.plug.2", "radio.mic.4", "radio.mic.2"


def test_a_plain_lead_joins_what_it_should_and_nothing_else():
    assert reading(plain(), HOT, PLUG).words() == "beeps, under 1 Ω"
    assert reading(plain(), COLD, GROUND).words() == "beeps, under 1 Ω"
    assert reading(plain(), HOT, COLD).words() == "open"


def test_a_pad_by_hand():
    """10 kΩ in series, 100 Ω across the plug's end."""
    of = station(mic(), gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100), lead(), radio())
    assert reading(of, PLUG, GROUND).ohm == pytest.approx(100, rel=5e-3)
    assert reading(of, HOT, COLD).ohm == pytest.approx(10100, rel=5e-3)
    assert reading(of, HOT, PLUG).ohm == pytest.approx(10e3, rel=5e-3)


def test_windings_ring_by_their_copper_and_do_not_join():
    coil = gear("transformer", "coil", primary_ohm=58, secondary_ohm=66)
    of = station(mic(), coil, lead(), radio())
    assert reading(of, HOT, COLD).ohm == pytest.approx(58, rel=5e-3)
    assert reading(of, PLUG, GROUND).ohm == pytest.approx(66, rel=5e-3)
    assert reading(of, HOT, PLUG).ohm is None


def test_a_capacitor_kicks_and_is_open():
    cap = gear("capacitor", "cap", capacitance_f=2.2e-6, plus_side="output")
    found = reading(station(mic(), cap, lead(), radio()), HOT, PLUG)
    assert found.ohm is None
    assert found.words() == "open, after a capacitor's kick"


def test_a_battery_is_taken_out_before_anybody_rings():
    feed = gear("bias-feed", "feed", supply_v=9, resistor_ohm=4700, coupling_f=1e-6)
    found = reading(station(gear("electret-2-wire", "mic"), feed, lead(), radio()), HOT, COLD)
    assert found.ohm is None or found.ohm > 4000


def test_solder_between_contacts_and_a_wire_moved_are_found():
    joined = plain({"bridges": [{"end": "radio.mic", "contacts": ["4", "2"]}]})
    assert reading(joined, HOT, COLD).ohm < 1
    moved = plain({"landings": landed(hot="8")})
    assert reading(moved, HOT, "radio.mic.8").ohm < 1
    with pytest.raises(KeyError):
        reading(moved, HOT, PLUG)


def test_batteries_and_what_is_plugged_in_are_not_there():
    """Out come every source of volts, and what is plugged into the build, whatever it is."""
    elements = (
        VoltageSource("battery", "plus", "0", dc=9.0),
        Resistor("r", "plus", "0", 1e3),
        Resistor("of-the-radio", "plus", "0", 1e3),
        VoltageSource("of-the-radio-too", "x", "0", dc=5.0),
    )
    plugged = {"of-the-radio", "of-the-radio-too"}
    assert unpowered(elements, plugged) == {1}
    assert unpowered(elements) == {1, 2}
    system = System(Circuit(elements))
    ohm = resistances(system, unpowered(elements, plugged), ("plus", "0"))
    # nine volts would be a short to an ohmmeter
    assert ohm[0, 1] == pytest.approx(1000.0, rel=1e-3)
    assert resistances(system, unpowered(elements), ("plus", "0"))[0, 1] == pytest.approx(500.0)
    held = resistances(system, frozenset(), ("plus", "0"), closed=("plus", "0"))
    assert held[0, 1] < 1.0
