"""Pieces that plans try, against the sums that somebody does on paper."""

import math

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.plan import pieces as make
from tonleiter.core.station.model import Drawer
from tonleiter.core.units import preferred

VALUES = make.Values(Drawer())
SOCKET = gear("microphone-socket", "socket")


def piece(fields):
    return (
        station_of(
            gear("dynamic-microphone", "mic"),
            SOCKET,
        ).gear[0]
        if fields is None
        else (station_of(fields, SOCKET).gear[0])
    )


def socket(**figures):
    return station_of(gear("dynamic-microphone", "mic"), SOCKET | figures).gear[1]


def value(piece_, field):
    return piece_.figure(field).value


def test_an_electrets_feeds_leave_it_what_it_needs():
    """From 3 V 1.5 V are left over the capsule, from 9 V 45 %; and 0.6 of that resistor."""
    electret = piece(gear("electret-2-wire", "electret", current_a="0.3m", needs_v=1.0))
    ways = list(make.power_for(electret, socket(), VALUES))
    ohms = [value(w, "resistor_ohm") for w in ways]
    exact = [1.5 / 0.3e-3, 0.6 * 1.5 / 0.3e-3, 0.55 * 9 / 0.3e-3, 0.6 * 0.55 * 9 / 0.3e-3]
    assert ohms == [preferred.nearest(x, "E12") for x in exact]
    assert [value(w, "supply_v") for w in ways] == [3, 3, 9, 9]
    assert {value(w, "coupling_f") for w in ways} == {4.7e-6}
    # one that needs more gets it; a thirsty one a resistor that is not below 470 ohm
    needy = piece(gear("electret-2-wire", "needy", current_a="0.3m", needs_v=2.0))
    first = next(iter(make.power_for(needy, socket(), VALUES)))
    assert value(first, "resistor_ohm") == preferred.nearest(0.7 / 0.3e-3, "E12")
    thirsty = piece(gear("electret-2-wire", "thirsty", current_a="5m", quoted_load_ohm=100))
    assert min(value(w, "resistor_ohm") for w in make.power_for(thirsty, socket(), VALUES)) == 470
    # a biased pin is tried first, by itself
    biased = socket(bias_v=8, bias_ohm=2200)
    assert next(iter(make.power_for(electret, biased, VALUES))) is None


def test_a_carbon_microphone_is_fed_between_too_little_and_too_much():
    carbon = piece(gear("carbon-microphone", "carbon", needs_a="10m", burns_a="40m", rest_ohm=80))
    ways = list(make.power_for(carbon, socket(), VALUES))
    # 20 mA are the middle in ratio: 4.5 V want 225 ohm in all, of which the granules are 80
    assert value(ways[0], "resistor_ohm") == preferred.nearest(4.5 / 20e-3 - 80, "E12")
    assert value(ways[1], "resistor_ohm") == preferred.nearest(1.5 * 4.5 / 20e-3 - 80, "E12")
    assert {value(w, "supply_v") for w in ways} == {4.5, 6.0, 9.0}
    assert {value(w, "coupling_f") for w in ways} == {10e-6}


def test_what_wants_nothing_and_what_wants_phantom_power():
    assert list(make.power_for(piece(None), socket(), VALUES)) == [None]
    condenser = piece(gear("phantom-condenser", "condenser"))
    assert [w.kind_id for w in make.power_for(condenser, socket(), VALUES)] == ["phantom-feed"]


@pytest.mark.parametrize("source, z", [(600, 600), (50, 150), (50e3, 10e3)])
def test_isolators_have_the_inductance_for_60_hz_and_a_larger_core(source, z):
    """Twice the impedance at 60 Hz; windings lose a tenth each; leakage matters at 25 kHz."""
    small, large = make.transformers(source, ())
    exact = 2 * z / (2 * math.pi * 60)
    assert value(small, "primary_h") == preferred.at_least(exact, "E6")
    assert value(large, "primary_h") == preferred.at_least(4 * exact, "E6")
    assert value(small, "leakage_h") == preferred.nearest(z / (2 * math.pi * 25e3), "E6")
    assert value(small, "primary_ohm") == preferred.nearest(0.09 * z, "E12")
    assert value(small, "secondary_ohm") == preferred.nearest(0.11 * z, "E12")
    # four times the inductance on a core that bears 12 dB more
    assert value(large, "saturation_dbu") - value(small, "saturation_dbu") == 12
    owned = (small,)
    assert next(iter(make.transformers(source, owned))) is small


def test_a_step_up_is_wound_for_its_source():
    made = make.step_up(10, 200)
    assert value(made, "primary_h") == preferred.at_least(3 * 200 / (2 * math.pi * 60), "E6")
    assert value(made, "leakage_h") == preferred.nearest(200 / (2 * math.pi * 40e3), "E6")
    assert value(made, "secondary_ohm") == preferred.nearest(0.08 * 200 * 100, "E12")
    assert value(made, "ratio") == 10


@pytest.mark.parametrize("source, bias", [(200, 47e3), (20e3, 220e3), (1e6, 2.2e6)])
def test_an_op_amp_stage_for_a_gain_and_a_source(source, bias):
    """Gain is 1 + Rf/1 kohm; its input ten times the source, bass from 15 Hz."""
    made = next(iter(make.preamps(source, VALUES)))(40.0)
    assert value(made, "feedback_ohm") == preferred.nearest(99e3, "E12")
    assert value(made, "ground_ohm") == 1e3
    assert value(made, "bias_ohm") == preferred.nearest(bias, "E12")
    exact = 1 / (2 * math.pi * 15 * max(10 * source, 47e3))
    assert value(made, "input_f") == preferred.at_least(exact, "E6")
    flat = next(iter(make.preamps(source, VALUES)))(0.0)
    assert value(flat, "feedback_ohm") == 100


def test_transistor_stages_are_tried_with_little_gain_and_with_much():
    _, *others = make.preamps(300, VALUES)
    made = [m(20.0) for m in others]
    assert [(g.kind_id, getattr(g, "emitter", getattr(g, "source", ""))) for g in made] == [
        ("bipolar-preamp", "not-bypassed"),
        ("bipolar-preamp", "bypassed"),
        ("jfet-preamp", "not-bypassed"),
        ("jfet-preamp", "bypassed"),
    ]


def test_neighbours_are_three_places_either_way_and_nothing_that_is_fixed():
    pad = station_of(gear("dynamic-microphone", "mic"), gear("l-pad", "pad"), SOCKET).gear[1]
    around = list(make.neighbours(pad, VALUES))
    series = sorted({value(g, "series_ohm") for g in around})
    assert series == [preferred.step(10e3, n, "E12") for n in (-3, -2, -1, 0, 1, 2, 3)]
    assert all(g.name.startswith("L-pad ") for g in around)
    pot = station_of(gear("dynamic-microphone", "mic"), gear("trim-pot", "pot"), SOCKET).gear[1]
    assert {value(g, "track_ohm") for g in make.neighbours(pot, VALUES)} == {10e3}


def test_a_gain_is_tried_a_decibel_to_either_side_and_a_pot_by_a_tenth_and_a_quarter():
    """What the hand does: nothing else of the piece moves with it."""
    amplifier, pot = station_of(
        gear("dynamic-microphone", "mic"), gear("amplifier", "amplifier", gain_db=6),
        gear("trim-pot", "pot", turned_up=0.4), SOCKET,
    ).gear[1:3]  # fmt: skip
    assert sorted(value(g, "gain_db") for g in make.neighbours(amplifier, VALUES)) == [5, 7]
    # a control goes no further than its ends
    full = amplifier.with_values({"gain_db": 10})
    assert [value(g, "gain_db") for g in make.neighbours(full, VALUES)] == [9]
    places = [value(g, "turned_up") for g in make.neighbours(pot, VALUES)]
    assert places == pytest.approx([0.32, 0.36, 0.44, 0.5])
    assert max(
        value(g, "turned_up") for g in make.neighbours(pot.with_values({"turned_up": 0.9}), VALUES)
    ) < 1.0  # fmt: skip


def test_even_a_little_bias_of_the_input_is_tried_before_a_battery():
    """A capsule of some tenths of a volt is rare; whether it is enough is the circuit's to say."""
    electret = piece(gear("electret-2-wire", "electret", current_a="0.1m", needs_v=0.5))
    weak = socket(bias_v=0.9, bias_ohm=1000)
    assert next(iter(make.power_for(electret, weak, VALUES))) is None
    assert None not in list(make.power_for(electret, socket(), VALUES))


def test_a_drawer_gives_what_lies_in_it():
    drawer = Drawer.model_validate({"resistors": ["100", "1k", "47k"], "capacitors": ["1u", "10u"]})
    values = make.Values(drawer)
    assert values.ohm(400) == 1e3  # nearer in ratio than 100
    assert values.ohm(300) == 100
    assert values.farad(2e-6) == 10e-6
    assert values.farad(50e-6) == 10e-6  # the biggest there is
