"""The order of work, line by line: what an old hand would not leave out, and what has no place."""

import pytest

from tests.conftest import gear
from tests.core.prove.rates import kind
from tests.core.station.test_pinout import ALL, plugged
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.worksheet import worksheet
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.station.edits import change_chain
from tonleiter.core.station.model import Station


def steps(*path, **hands):
    return worksheet(verdict_of(station(*path, hands=hands)), 0, "2031-05-14").steps


def says(*path, **hands):
    return [s.says for s in steps(*path, **hands)]


def only(lines, word):
    (found,) = [line for line in lines if word in line]
    return found


PLAIN = (mic(), lead(), radio())
BATTERY = (mic(), lead(), kind("opamp-preamp"), lead("out"), radio())


def test_a_serial_line_is_wired_by_the_pins_of_its_plug():
    """Request to send is pin 7 of nine, ground is 5; a diode the other way round guards the LED."""
    lines = says(*PLAIN, transmit="serial-opto")
    port = only(lines, "DE-9")
    assert "7 (request to send) to R1.1" in port
    assert "5 (ground) to D1.A" in port
    drawn = only(lines, "The ring of a diode is its cathode")
    assert "D1.K to U1.A" in drawn and "D1.A to U1.K" in drawn


def test_a_foot_switch_has_no_port():
    lines = says(*PLAIN, transmit="foot-switch")
    assert not [line for line in lines if "DE-9" in line or "cathode" in line]
    plug = only(lines, "to the radio: ")
    assert "(transmit) to 3" in plug and "(transmit ground) to 7" in plug


@pytest.mark.parametrize("way", ["foot-switch", "serial-opto"])
def test_who_wires_the_switch_is_warned(way):
    assert next(s.caution for s in steps(*PLAIN, transmit=way) if "Wire the switch" in s.says)


def test_nothing_is_keyed_where_nothing_keys():
    assert not [line for line in says(*PLAIN, transmit="vox") if "Wire the switch" in line]


def test_batteries_are_out_for_ohms_and_in_last():
    lines = says(*BATTERY)
    ring = next(k for k, line in enumerate(lines) if "batteries out" in line)
    volts = next(k for k, line in enumerate(lines) if line.startswith("Batteries in"))
    assert ring < volts
    assert only(lines, "The battery has a switch")
    assert not [line for line in says(*PLAIN) if "atter" in line]


def test_the_source_stays_out_until_no_contact_stands_too_high():
    lines = says(*PLAIN)
    out = next(k for k, line in enumerate(lines) if "still out" in line)
    assert lines[out + 1].startswith("Plug the mic in")


@pytest.mark.parametrize(
    ("made", "word"),
    [
        ("opamp-preamp", "solder its socket, put the chip in last"),
        ("bipolar-preamp", "legs are named as on the drawing"),
        ("transformer", "number its leads as on the drawing with an ohmmeter"),
    ],
)
def test_what_could_be_taken_for_another_is_told_apart(made, word):
    path = (mic(), lead(), kind(made), lead("out"), radio())
    assert only(says(*path), word)
    assert not [line for line in says(*PLAIN) if word in line]


def test_capacitors_that_may_be_charged_are_warned_of_where_there_are_any():
    charged = next(s.caution for s in steps(*BATTERY) if s.says.startswith("Solder the parts"))
    assert charged == CAUTIONS["charged"]
    pad = (mic(), kind("l-pad"), lead(), radio())
    assert next(s.caution for s in steps(*pad) if s.says.startswith("Solder the parts")) == ""


def test_a_metal_case_is_joined_once_and_a_plastic_one_never():
    assert only(says(*BATTERY, box="metal", case_to="screen"), "at one point, and nowhere else")
    assert not [x for x in says(*BATTERY, box="plastic") if "Join the case" in x]
    assert not [x for x in says(*BATTERY, box="metal", case_to="nothing") if "Join the case" in x]


def test_star_quad_is_joined_crosswise():
    quad = lead(form="star-quad")
    assert only(says(mic(), quad, radio()), "join opposite cores, two and two")
    assert not [line for line in says(*PLAIN) if "opposite cores" in line]


def test_an_interface_that_hears_the_tone_still_wants_a_wire_to_key_by():
    """Followed literally: what is insulated never transmits."""
    made = plugged("rig", ["rig-in"], ALL, "round-8")
    assert made.chain().variant().wiring.transmit == "interface-vox"
    sheet = worksheet(verdict_of(made, "out"), 0, "2031-05-14")
    (key,) = [s for s in sheet.steps if "keys by an output of its own" in s.says]
    assert "to contact 3 of the rig, its return to 7" in key.says
    assert key.caution
    (left,) = [line for line in sheet.left_over if "rig 3" in line]
    assert "insulate" not in left and "key output" in left


def test_no_interface_no_word_of_its_output():
    made = plugged("rig", ["rig-in"], ALL, "round-8")
    chain = made.chain("out")
    wiring = chain.variant().wiring.but(transmit="vox")
    made = change_chain(made, "out", variants=(chain.variant().but(wiring=wiring),))
    sheet = worksheet(verdict_of(made, "out"), 0, "2031-05-14")
    assert not [s for s in sheet.steps if "keys by an output" in s.says]
    assert any("rig 3" in line and "insulate" in line for line in sheet.left_over)


def test_of_several_parts_only_the_one_that_ends_at_the_radio_is_told_of_its_key():
    data = plugged("rig", ["rig-in"], ALL, "round-8").model_dump(mode="json")
    data["gear"] += [gear("amplifier", "strip", expects="line"), lead("second")]
    chain = next(c for c in data["chains"] if c["id"] == "out")
    chain["variants"][0]["stages"][2:2] = [{"gear": "strip"}, {"gear": "second"}]
    found = verdict_of(Station.model_validate(data), "out")
    assert len(found.build.spans) == 2
    told = [
        any("keys by an output of its own" in s.says for s in worksheet(found, k, "").steps)
        for k in range(2)
    ]
    assert told == [False, True]
