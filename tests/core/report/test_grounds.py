"""The grounds around a chain, as they are shown: boxes, joins, loops and what those leave."""

import json
import math

import pytest

from tests.conftest import gear
from tests.core.judge.test_grounds_practice import (
    CABLE,
    CASES,
    audio_box,
    bench,
    box,
    data_radio,
    lead,
)
from tonleiter.core.judge.assess import assess
from tonleiter.core.report.grounds import grounds_of, grounds_report

IRON = gear("transformer", "iron", ratio=1)


def two_earths(*between, emf_v=1e-3, boxes=(), leads=()):
    """An audio box and a radio on two safety earths that are ``emf_v`` apart."""
    first = audio_box("safety-earth") | {"earth_emf_v": emf_v}
    return bench((first, *(between or (CABLE,)), data_radio("safety-earth")), boxes, leads)


def grounds(of):
    made = grounds_of(assess(of))
    json.dumps(grounds_report(made), allow_nan=False)
    return made


def test_a_lead_between_two_earths_closes_a_loop_of_metal():
    made = grounds(two_earths())
    assert [(b.id, b.in_chain, b.earthed) for b in made.boxes] == [
        ("audio-box", True, "earth"),
        ("radio", True, "earth"),
    ]
    (join,) = made.joins
    assert {join.a, join.b} == {"audio-box", "radio"}
    assert (join.of_chain, join.joins, join.name) == (True, "both-ends", "cable")
    (loop,) = made.loops
    assert loop.galvanic
    assert loop.keys == {join.key}
    assert loop.earths == {"audio-box", "radio"}
    assert loop.share == pytest.approx(1, abs=0.05), "nothing else hums"
    assert made.says.startswith("1 loop of metal goes through this chain; the worst leaves")
    assert made.says.endswith(f"leaves {loop.under_speech_db:.0f} dB under speech.")


def test_twice_the_volts_between_earths_are_twice_the_current_and_six_decibels():
    one, two = (grounds(two_earths(emf_v=v)).loops[0] for v in (1e-3, 2e-3))
    assert two.current_a == pytest.approx(2 * one.current_a, rel=0.01)
    assert two.left_dbu - one.left_dbu == pytest.approx(20 * math.log10(2), abs=0.1)
    assert one.under_speech_db - two.under_speech_db == pytest.approx(20 * math.log10(2), abs=0.1)


def test_a_transformer_parts_them():
    made = grounds(two_earths(CABLE, IRON))
    assert [j.joins for j in made.joins] == ["isolated"]
    assert not any(loop.galvanic for loop in made.loops)
    assert made.says == "No loop of metal goes through this chain."
    assert made.proves.startswith("In all −")


def test_what_stands_between_is_named_by_what_is_no_mere_conductor():
    """A pad passes the ground on and needs no name here, a transformer does."""
    pad = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=1e3)
    assert grounds(two_earths(CABLE, pad)).joins[0].name == "cable"
    assert grounds(two_earths(CABLE, IRON)).joins[0].name == "cable + iron"


def test_a_strap_beside_the_chain_is_a_join_of_its_own_and_takes_the_current():
    bare = grounds(two_earths()).loops[0]
    strap = lead("strap", "audio-box", "radio")
    made = grounds(two_earths(leads=(strap,)))
    assert [(j.of_chain, j.joins) for j in made.joins] == [
        (True, "both-ends"),
        (False, "both-ends"),
    ]
    assert made.joins[1].key == f"link:{strap['id']}"
    assert made.loops[0].left_dbu < bare.left_dbu - 3


def test_loops_through_a_computer_go_over_its_leads_and_the_worst_comes_first():
    of, *_ = CASES["radio and audio box on one computer's USB"]
    made = grounds(of)
    assert {b.id for b in made.boxes if not b.in_chain} == {"laptop"}
    over = made.loops[0].keys
    assert {key.partition(":")[0] for key in over} == {"chain", "link"}
    assert over <= {j.key for j in made.joins}
    left = [loop.left_dbu for loop in made.loops]
    assert left == sorted(left, reverse=True)
    count = sum(loop.galvanic for loop in made.loops)
    goes = "loop of metal goes" if count == 1 else "loops of metal go"
    assert made.says.startswith(f"{count} {goes} through this chain")


@pytest.mark.parametrize(
    ("supply", "earthed"),
    [
        ("safety-earth", "earth"),
        ("usb-computer", "earth"),
        ("double-insulated", "leakage"),
        ("battery", "none"),
    ],
)
def test_how_a_box_hangs_on_earth(supply, earthed):
    made = grounds(bench((audio_box(supply), CABLE, data_radio("safety-earth"))))
    assert next(b.earthed for b in made.boxes if b.id == "audio-box") == earthed


def test_on_batteries_nothing_drives_a_current():
    made = grounds(bench((audio_box("battery"), CABLE, data_radio("battery"))))
    assert (made.loops, made.says) == ((), "Nothing drives a current round the grounds.")
    assert made.proves == "Batteries all round, or no mains near."


def test_a_box_that_is_not_of_the_chain_comes_after_those_that_are():
    bond = lead("strap", "hub", "radio")
    made = grounds(two_earths(boxes=(box("hub", supply="safety-earth"),), leads=(bond,)))
    assert [(b.id, b.in_chain) for b in made.boxes][-1] == ("hub", False)
