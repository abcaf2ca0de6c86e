"""Pads of every shape: the loss that is asked for, against the solved circuit and closed forms."""

import math

import pytest

from tests.core.gear.test_circuits import Bench, make
from tonleiter.core.gear.more_pads import SeriesPad, TPad, TrimPot, UPad
from tonleiter.core.gear.pad_shapes import design_pad
from tonleiter.core.gear.passives import LPad

KINDS = {"l-pad": LPad, "t-pad": TPad, "u-pad": UPad, "series-pad": SeriesPad, "trim-pot": TrimPot}


def solved_loss_db(design, z_source, z_load):
    pad = make(KINDS[design.kind], **dict(design.values))
    if design.kind == "u-pad":
        # on a bench with both grounds one, only one leg works: measure it with the other doubled
        both_legs = 2 * design.value("leg_ohm")
        pad = make(LPad, series_ohm=both_legs, shunt_ohm=design.value("shunt_ohm"))
    bench = Bench(pad, source_ohm=z_source, load_ohm=z_load)
    return -20 * math.log10(abs(bench.gain()))


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("loss, z_source, z_load", [(40, 150, 600), (26, 600, 600), (30, 50, 10e3)])
def test_designs_give_the_loss_that_is_asked_for(kind, loss, z_source, z_load):
    designs = design_pad(kind, loss, z_source, z_load, "E24")
    assert designs
    # 5 % steps in two or three resistors leave a decibel at most
    assert designs[0].loss_db == pytest.approx(loss, abs=1.0)
    assert solved_loss_db(designs[0], z_source, z_load) == pytest.approx(
        designs[0].loss_db, abs=0.02
    )


def test_matched_t_of_equal_impedances_by_the_textbook():
    """600 ohm, 20 dB: R1 = 600·(10−1)/(10+1) = 490.9, R3 = 2·600·10/(100−1) = 121.2."""
    # from the open source a match itself takes 6.02 dB
    design = design_pad("t-pad", 26.02, 600, 600, "E96")[0]
    assert design.value("first_ohm") == pytest.approx(490.9, rel=0.02)
    assert design.value("second_ohm") == pytest.approx(490.9, rel=0.02)
    assert design.value("shunt_ohm") == pytest.approx(121.2, rel=0.02)


def test_a_t_pad_seen_from_either_side_is_its_impedance():
    design = design_pad("t-pad", 30, 150, 600, "E96")[0]
    first, shunt, second = (v for _, v in design.values)
    seen_by_source = first + shunt * (second + 600) / (shunt + second + 600)
    seen_by_load = second + shunt * (first + 150) / (shunt + first + 150)
    assert seen_by_source == pytest.approx(150, rel=0.03)
    assert seen_by_load == pytest.approx(600, rel=0.03)


@pytest.mark.parametrize("kind", ["series-pad", "t-pad"])
def test_a_loss_that_is_there_already_cannot_be_designed(kind):
    assert design_pad(kind, 5.0, 600, 600) == []


@pytest.mark.parametrize("kind", ["l-pad", "u-pad", "series-pad"])
def test_only_what_is_in_the_drawer(kind):
    drawer = [47.0, 100.0, 1e3, 4.7e3, 10e3, 47e3]
    for design in design_pad(kind, 34, 150, 600, drawer=drawer):
        assert {v for _, v in design.values} <= set(drawer)
