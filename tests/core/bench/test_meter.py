"""Meter, diode tester, supply and scope of the bench, against arithmetic by hand."""

import math

import pytest

from tests.conftest import gear
from tests.core.prove.rates import kind
from tests.core.wiring.benches import landed, lead, mic, plain, radio, station
from tonleiter.core.bench.meter import MODES, fed, held, supplied
from tonleiter.core.bench.scope import Settings, flattens_at, traces
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof
from tonleiter.core.units.levels import dbu_from_volts

VT = 1.380649e-23 * 300.15 / 1.602176634e-19


def proof(*path, **said):
    return Proof(verdict_of(station(*path, **said)), 0)


@pytest.fixture(scope="module")
def preamp():
    return proof(mic(), lead(), kind("bipolar-preamp"), lead("out"), radio())


def node(of, part):
    return next(p.node for p in of.unit.points if part in p.says.split(", "))


def shown(of, mode, red, black="0", fault=None):
    unit = of.unit
    elements = fault.change(unit.elements) if fault else unit.elements
    return held(unit, elements, mode, red, black, unit.tone_v).value


# --- junctions -----------------------------------------------------------------------------------


def test_a_silicon_junction_shows_what_shockley_says(preamp):
    """A milliampere through Is = 1e-14 A: V = VT ln(I / Is), the current itself (3 V − V) / 2.2 kΩ.

    The collector's junction is alone with the base current; R1 to R4 take some microamperes.
    """
    volts = 0.65
    for _ in range(20):
        volts = VT * math.log((3 - volts) / 2200 / 1e-14)
    read = preamp.shown(None)
    # the junction shares its milliampere with the base's divider: a few mV less at most
    assert read["diode Q1.B Q1.C"] == pytest.approx(volts, abs=0.012)
    assert 0.55 < read["diode Q1.B Q1.E"] < 0.72
    assert math.isinf(read["diode Q1.C Q1.B"])


def test_a_shorted_junction_reads_next_to_nothing_both_ways(preamp):
    read = preamp.shown(preamp.fault("Q1-short-base-emitter"))
    assert read["diode Q1.B Q1.E"] < 1e-3
    assert read["diode Q1.E Q1.B"] < 1e-3
    assert preamp.shown(None)["diode Q1.E Q1.B"] > 2.5


def test_a_transistor_with_base_and_collector_changed_shows_it_without_power(preamp):
    """Red on the drawing's C finds a base there: it conducts towards the drawing's B and E."""
    turned = preamp.fault("Q1-turned-BCE")
    read = preamp.shown(turned)
    assert math.isinf(read["diode Q1.B Q1.C"])
    assert read["diode Q1.C Q1.B"] < 0.8


# --- contacts ------------------------------------------------------------------------------------


@pytest.mark.long
def test_a_free_contact_is_open_until_a_wire_lands_there(preamp):
    assert math.isinf(preamp.shown(None)["free radio.mic"])
    wrong = preamp.fault("moved-radio.mic-2-1")
    assert preamp.shown(wrong)["free radio.mic"] < 1
    names = {preamp.rank(preamp.shown(wrong)).explained[0].fault.id}
    assert "open-radio.mic.2" not in names


def test_contacts_joined_in_the_plug_are_joined_on_the_bench():
    joined = plain({"bridges": [{"end": "radio.mic", "contacts": ["4", "2"]}]})
    of = Proof(verdict_of(joined), 0)
    assert of.shown(None)["ohm radio.mic.4 radio.mic.2"] < 1
    # a tone has no way past it
    assert of.shown(None)["tone 1000"] < 0.1 * of.unit.tone_v


def test_a_wire_that_hands_moved_is_where_the_bench_finds_it():
    of = Proof(verdict_of(plain({"landings": landed(hot="8")})), 0)
    assert of.shown(None)["ohm mic.plug.1 radio.mic.8"] < 1


# --- bias ----------------------------------------------------------------------------------------


@pytest.mark.long
def test_a_capsule_plugged_in_takes_its_current_over_the_bias_resistor():
    """3 V through 2.2 kΩ: what the capsule draws is what is missing; dead it draws nothing."""
    feed = gear("bias-feed", "feed", supply_v=3, resistor_ohm=2200, coupling_f=1e-6)
    of = proof(gear("electret-2-wire", "mic", current_a=0.3e-3), feed, lead(), radio())
    loaded = of.shown(None)["dc plugged"]
    assert of.shown(None)["dc a"] == pytest.approx(3.0, rel=2e-3)
    assert (3 - loaded) / 2200 == pytest.approx(0.3e-3, rel=0.1)
    assert of.shown(of.fault("capsule-dead"))["dc plugged"] == pytest.approx(3.0, abs=0.02)
    assert of.shown(of.fault("capsule-short"))["dc plugged"] < 0.01
    assert of.rank(of.shown(of.fault("capsule-dead"))).explained[0].fault.id == "capsule-dead"


@pytest.mark.long
def test_an_input_without_its_bias_is_told_from_a_broken_wire():
    biased = radio(bias_v=8, bias_ohm=2200, z_in_ohm=1500)
    of = proof(gear("electret-2-wire", "mic"), lead(), biased)
    off = of.fault("bias-off")
    first = of.rank(of.shown(off)).explained[0]
    assert first.fault.id == "bias-off"
    assert "open-radio.mic.4" not in first.equals


# --- meter ---------------------------------------------------------------------------------------


def test_a_voltmeter_loads_what_it_is_held_to():
    """10 MΩ of its own beside 100 kΩ: one per cent less."""
    feed = gear("bias-feed", "feed", supply_v=9, resistor_ohm=100e3, coupling_f=1e-6)
    of = proof(mic(), feed, lead(), radio())
    read = shown(of, "dc", of.unit.points[0].node)
    assert read == pytest.approx(9 * 10e6 / 10.1e6, rel=2e-3)


def test_every_range_on_one_resistor():
    of = proof(mic(), gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100), lead(), radio())
    out, common = of.unit.outlet
    assert shown(of, "ohms", out, common) == pytest.approx(100, rel=5e-3)
    assert held(of.unit, of.unit.elements, "beeper", out, common, 1).remark == "silent"
    # 3 V behind 2.2 kΩ over 100 Ω
    assert shown(of, "diode", out, common) == pytest.approx(3 * 100 / 2300, rel=0.01)
    assert shown(of, "ac", out, common) == pytest.approx(of.shown(None)["tone 1000"], rel=1e-6)
    assert shown(of, "dc", out, common) == 0
    assert math.isnan(shown(of, "current", out, common))
    assert set(MODES) == {"dc", "ac", "ohms", "diode", "beeper", "current"}


def test_current_in_the_supply_s_lead_drops_a_little(preamp):
    """Ten ohms carry a milliampere: ten millivolts less for the stage."""
    draws = preamp.shown(None)["supply"]
    assert shown(preamp, "current", "0") == pytest.approx(draws * (9 - 10 * draws) / 9, rel=3e-3)


def test_a_supply_at_its_limit_gives_no_more(preamp):
    unit = preamp.unit
    healthy = supplied(unit, unit.elements, 9, 20e-3)
    assert not healthy.limited
    assert healthy.amps == pytest.approx(preamp.shown(None)["supply"], rel=1e-6)
    shorted = preamp.fault("Q1-short-collector-emitter").change(unit.elements)
    # through R3 and R4: 9 V over 5.7 kΩ, and the divider
    full = supplied(unit, shorted, 9, 20e-3)
    assert full.amps == pytest.approx(9 / 5700 + 9 / 122e3, rel=0.05)
    held_down = supplied(unit, shorted, 9, 1e-3)
    assert held_down.limited
    assert held_down.amps == pytest.approx(1e-3, rel=0.01)
    assert held_down.volts == pytest.approx(9 * 1e-3 / full.amps, rel=0.02)
    assert fed(unit, unit.elements, 4.5) != unit.elements


def test_nothing_to_feed_is_said():
    of = proof(mic(), lead(), radio())
    with pytest.raises(CircuitError, match="no supply"):
        supplied(of.unit, of.unit.elements, 9, 1)


# --- scope ---------------------------------------------------------------------------------------


@pytest.mark.long
def test_it_flattens_where_the_load_line_ends(preamp):
    """The output runs into the transistor's cut-off: R3 drives the load up no further.

    A sine A cut on one side at c A has lost (θ − c sin θ) / π of its first harmonic, c = cos θ:
    half a decibel at c = 0.79. What is left is 0.944 A.
    """
    unit = preamp.unit
    found = flattens_at(unit, unit.elements)
    load = next(e.ohm for e in unit.bench if e.name == "bench:load")
    rests = preamp.shown(None)[next(f"dc {p.letter}" for p in unit.points if "Q1.C" in p.says)]
    cut = (9 - rests) * load / (load + 4700)
    assert found.out_v * math.sqrt(2) == pytest.approx(0.944 * cut / 0.79, rel=0.08)
    gain_db = dbu_from_volts(preamp.shown(None)["tone 1000"]) - dbu_from_volts(
        preamp.shown(None)["tone in"]
    )
    read_db = dbu_from_volts(found.out_v) - dbu_from_volts(found.in_v)
    assert gain_db - 0.75 < read_db < gain_db - 0.2


@pytest.mark.long
def test_what_is_linear_never_flattens_and_what_is_broken_says_nothing(preamp):
    pad = proof(mic(), kind("l-pad"), lead(), radio())
    assert flattens_at(pad.unit, pad.unit.elements) is None
    silent = preamp.fault("Q1-open-base").change(preamp.unit.elements)
    found = flattens_at(preamp.unit, silent)
    assert found is None or found.out_v == 0 or found.out_v < 1e-3


def test_the_trigger_begins_a_screen_where_it_is_told(preamp):
    seen = traces(preamp.unit, preamp.unit.elements)
    for channel in ("out", "in"):
        trace = seen.out if channel == "out" else seen.into
        rising = seen.triggered(Settings(trigger=channel))
        falling = seen.triggered(Settings(trigger=channel, falling=True))
        assert trace.volts[rising] <= 0 < trace.volts[rising + 2]
        assert trace.volts[falling] >= 0 > trace.volts[falling + 2]
        # half a period apart, within a point of the sixty
        assert abs(abs(rising - falling) - 30) <= 1
    assert seen.division_v("out", Settings(out_division_v=0.5)) == 0.5
    assert seen.division_v("out", Settings()) == seen.out.division_v


def test_a_meter_on_a_bent_tone_shows_its_rms(preamp):
    """Small, both ways agree; the transient's own nodes are there."""
    unit = preamp.unit
    seen = traces(unit, unit.elements)
    assert seen.rms_v(*unit.outlet) == pytest.approx(preamp.shown(None)["tone 1000"], rel=0.01)
