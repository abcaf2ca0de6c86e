"""Builds from solved chains: nets by hand, leftovers, findings with twins that must not fire."""

import csv
import io
import json

import pytest
from pydantic import ValidationError

from tests.conftest import gear, station_of
from tests.core.wiring.benches import lead, radio, station
from tonleiter.cli import main
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import verdict_of as wired_up
from tonleiter.core.report.wiring import parts_csv
from tonleiter.core.station.devices import Connector, Contact
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import mirrored, turned
from tonleiter.core.station.refusal import one_line

LIBRARY = parts_library()
PINS = [
    ("1", "audio-out"),
    ("2", "microphone-ground"),
    ("3", "transmit"),
    ("4", "microphone"),
    ("6", "bias"),
    ("7", "transmit-ground"),
]


def contacts(pins):
    return [{"label": n, "role": r} for n, r in pins]


def wired(*path, pins=PINS, **connector):
    station = station_of(*path)
    data = station.model_dump(mode="json")
    for device in data["devices"]:
        if device["ports"] == ["radio"]:
            device["connectors"] = [
                {
                    "id": "mic",
                    "name": "MIC",
                    "shell": "round-8",
                    "ports": ["radio"],
                    "basis": "manual",
                    "contacts": contacts(pins),
                }
                | connector
            ]
    return Station.model_validate(data)


def built(station):
    found = wired_up(station)
    return found.build, found.of_wiring()


def net_with(build, contact):
    return next(n for n in build.nets if contact in n.contacts)


MIC = gear("dynamic-microphone", "mic")
BALANCED = gear("dynamic-microphone", "mic", output="balanced")
RADIO = gear("microphone-socket", "radio", z_in_ohm=600, bias_v=8, bias_ohm=1100)
CABLE = gear("cable", "lead", length_m=2, field_ut=0)


def test_a_plain_lead_joins_contact_to_contact():
    build, _ = built(wired(MIC, CABLE, RADIO))
    hot = net_with(build, "radio.mic.4")
    assert hot.contacts == ("mic.plug.1", "radio.mic.4")
    assert net_with(build, "radio.mic.2").contacts == ("mic.plug.2", "radio.mic.2")
    assert {(c.start, c.end, c.length_m) for c in build.conductors} == {
        ("mic.plug.1", "radio.mic.4", 2.0),
        ("mic.plug.2", "radio.mic.2", 2.0),
        ("switch.1", "radio.mic.3", None),
        ("switch.2", "radio.mic.7", None),
    }


def test_dc_of_a_net_is_that_of_the_circuit_by_hand():
    """8 V through 1100 Ω onto a coil of 300 Ω: 1.71 V on the microphone's net."""
    build, _ = built(wired(MIC, CABLE, RADIO))
    assert net_with(build, "radio.mic.4").dc_v == pytest.approx(8 * 300 / 1400, rel=2e-3)


def test_a_blocking_capacitor_parts_the_nets_with_its_plus_to_the_set():
    cap = gear("capacitor", "cap", capacitance_f="6.8u", plus_side="output")
    build, _ = built(wired(MIC, cap, CABLE, RADIO))
    assert "C1.+" in net_with(build, "radio.mic.4").contacts
    assert "C1.−" in net_with(build, "mic.plug.1").contacts
    assert [p.refs for p in build.parts if p.refs] == [("C1",)]


def test_a_balanced_microphone_into_an_unbalanced_plug_ties_cold_and_screen():
    lead = gear("cable", "lead", form="two-core", field_ut=0)
    build, _ = built(wired(BALANCED, lead, RADIO))
    ground = net_with(build, "radio.mic.2")
    assert set(ground.contacts) == {"mic.plug.1", "mic.plug.3", "radio.mic.2"}


def test_two_cores_from_an_unbalanced_source_have_their_screen_on_its_cold_contact():
    """Hot, cold and braid are three wires: two of them begin on the same contact."""
    lead = gear("cable", "lead", form="two-core", length_m=2, field_ut=0)
    build, _ = built(wired(MIC, lead, RADIO, pins=[*PINS, ("8", "screen")]))
    assert [(c.leg, c.start, c.end, c.colour) for c in build.conductors if c.length_m] == [
        ("hot", "mic.plug.1", "radio.mic.4", "white"),
        ("cold", "mic.plug.2", "radio.mic.2", "yellow"),
        ("screen", "mic.plug.2", "radio.mic.8", "bare braid"),
    ]


def test_a_set_whose_only_ground_is_its_screen_takes_the_cold_wire_there():
    build, found = built(wired(MIC, CABLE, RADIO, pins=[("1", "microphone"), ("2", "screen")]))
    assert net_with(build, "radio.mic.2").contacts == ("mic.plug.2", "radio.mic.2")
    assert "pinout-unknown" not in codes(found)


def test_a_transformer_keeps_the_grounds_apart():
    coil = gear("transformer", "coil")
    build, _ = built(wired(MIC, coil, CABLE, RADIO))
    assert net_with(build, "T1.1") != net_with(build, "T1.3")
    assert net_with(build, "T1.4").contacts == ("T1.4", "radio.mic.2")


SOLDERED = sorted(
    {g.kind_id for g in LIBRARY.values() if g.role == "between" and not g.bought_whole}
)


@pytest.mark.parametrize("kind", SOLDERED)
def test_every_part_of_the_circuit_has_its_pins_in_the_build(kind):
    """Each part of the list stands in nets with every pin, and no pin stands in two."""
    piece = next(g for g in LIBRARY.values() if g.kind_id == kind)
    build, _ = built(wired(MIC, piece.model_dump(mode="json"), CABLE, RADIO))
    pins = [c for n in build.nets for c in n.contacts]
    assert len(pins) == len(set(pins))
    placed = {c.split(".")[0] for c in pins if c.count(".") == 1}
    assert placed == {ref for p in build.parts for ref in p.refs}


# --- findings, each with a twin that must not fire -----------------------------------------------


def codes(findings):
    return {f.code for f in findings}


def test_a_supply_that_nothing_uses_is_insulated():
    _, found = built(wired(MIC, CABLE, RADIO))
    assert "supply-contact-free" in codes(found)
    _, twin = built(wired(MIC, CABLE, RADIO, pins=[p for p in PINS if p[1] != "bias"]))
    assert "supply-contact-free" not in codes(twin)


def test_a_plug_without_a_pinout_cannot_be_soldered():
    _, found = built(wired(MIC, CABLE, RADIO, pins=[("1", "audio-out")]))
    assert "pinout-unknown" in codes(found)
    _, twin = built(wired(MIC, CABLE, RADIO))
    assert "pinout-unknown" not in codes(twin)


XLR = (("1", "screen"), ("2", "microphone"), ("3", "cold"))


def xlr(pins, **fields):
    return Connector(
        id="a",
        name="A",
        shell="xlr-3",
        contacts=tuple(Contact(label=n, role=r) for n, r in pins),
        **fields,
    )


def test_a_pinout_read_from_the_solder_side_is_known_by_its_mirror():
    right = xlr(XLR)
    wrong = xlr((("2", "screen"), ("1", "microphone"), ("3", "cold")))
    assert mirrored(wrong, [right]) is right
    assert turned(wrong).contacts == tuple(
        sorted(
            xlr((("1", "screen"), ("2", "microphone"), ("3", "cold"))).contacts,
            key=lambda c: [w.label for w in wrong.contacts].index(c.label),
        )
    )
    other = xlr((("1", "screen"), ("3", "microphone"), ("2", "cold")))
    assert mirrored(other, [right]) is None
    assert mirrored(right, [right]) is None


def test_turning_over_a_pinout_that_names_few_contacts_loses_none():
    few = xlr((("1", "screen"), ("3", "cold")))
    assert {c.label: c.role for c in turned(few).contacts if c.role != "unknown"} == {
        "2": "screen",
        "3": "cold",
    }


def test_a_mirrored_pinout_is_said_and_turned_over_in_one_press():
    station = wired(
        MIC, CABLE, RADIO, pins=[("2", "screen"), ("1", "microphone"), ("3", "cold")], shell="xlr-3"
    )
    data = station.model_dump(mode="json")
    known = {"id": "a", "name": "A", "shell": "xlr-3", "basis": "manual", "contacts": contacts(XLR)}
    data["devices"].append({"id": "other", "name": "other", "connectors": [known]})
    station = Station.model_validate(data)
    _, found = built(station)
    finding = next(f for f in found if f.code == "pinout-mirrored")
    assert finding.severity == "stop"
    _, after = built(finding.fixes[0].apply(station))
    assert "pinout-mirrored" not in codes(after)


@pytest.mark.parametrize("order", [(0, 1), (1, 0)])
def test_a_box_s_output_is_known_by_its_word_or_by_the_order(order):
    """The output entered first is the output, once its connector says so."""
    strip = gear("amplifier", "strip", expects="microphone", gain_db=20, gain_high_db=60)
    station = wired(MIC, strip, CABLE, RADIO)
    plugs = [
        {
            "id": i,
            "name": i.upper(),
            "shell": s,
            "ports": ["strip"],
            "basis": "manual",
            "way": i,
            "contacts": contacts([("tip", r), ("sleeve", "audio-ground")]),
        }
        for i, s, r in (("in", "jack-3.5", "microphone"), ("out", "jack-6.35", "audio-out"))
    ]
    data = station.model_dump(mode="json")
    box = next(d for d in data["devices"] if d["ports"] == ["strip"])
    box["connectors"] = [plugs[k] for k in order]
    build, _ = built(Station.model_validate(data))
    assert net_with(build, "radio.mic.4").contacts == ("strip.out.tip", "radio.mic.4")
    assert net_with(build, "strip.in.tip").contacts == ("mic.plug.1", "strip.in.tip")


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ({"contacts": contacts([("4", "microphone"), ("4", "cold")])}, "“4” is there twice"),
        ({"contacts": contacts([("9", "microphone")])}, "there is no contact called “9”; known: 1"),
        ({"contacts": contacts([("1", "loud")])}, "“loud” is not one of"),
        ({"shell": "round-9"}, "“round-9” is not one of"),
        ({"read_on": "yesterday"}, "yesterday"),
    ],
)
def test_a_bad_pinout_is_one_line(spoil, says):
    with pytest.raises(ValidationError) as caught:
        wired(MIC, CABLE, RADIO, **spoil)
    line = one_line(caught.value, None)
    assert "\n" not in line
    if says != "yesterday":
        assert says in line


# --- the command ---------------------------------------------------------------------------------


def test_the_command_prints_nets_parts_and_findings(capsys, demo_folder, tmp_path):
    file = tmp_path / "parts.csv"
    assert main(["wiring", str(demo_folder), "--json", "--parts", str(file)]) == 0
    report = json.loads(capsys.readouterr().out)
    assert {"nets", "conductors", "parts", "findings", "left_over"} <= set(report)
    hot = next(n for n in report["nets"] if "hf-20w.microphone.4" in n["contacts"])
    assert hot["dc_v"] == pytest.approx(0.45, abs=0.05)
    rows = list(csv.reader(io.StringIO(file.read_bytes().decode())))
    assert rows[0] == ["refs", "count", "name", "value", "rating", "in the drawer"]
    assert ["R1", "1", "resistor", "10 kΩ"] in [r[:4] for r in rows]
    assert main(["wiring", str(demo_folder)]) == 0
    out = capsys.readouterr().out
    assert "not used: hf-20w.microphone.6 (bias)" in out
    assert main(["wiring", str(demo_folder), "--chain", "nothing"]) == 2
    assert "there is no chain called" in capsys.readouterr().err


def test_a_parts_list_ends_its_lines_as_the_standard_says(demo):
    parts = wired_up(demo).build.parts
    assert parts_csv(parts, demo.drawer).count("\r\n") == len(parts) + 1


def legs(built):
    """Of each wire of the sound: its leg, and the contacts that it goes to."""
    return [
        (c.leg, str(c.start).removeprefix("mic.plug."), str(c.end).rpartition(".")[2])
        for c in built.conductors
        if c.leg in ("hot", "cold", "screen", "link")
    ]


def test_without_a_lead_one_wire_serves_cold_and_screen_where_both_are_one():
    """A balanced microphone hung on an unbalanced set: its shell is joined to pin 3 in the plug."""
    held = gear("dynamic-microphone", "mic", output="balanced")
    straight = wired_up(station(held, radio())).build
    assert legs(straight) == [("hot", "2", "4"), ("cold", "3", "2"), ("link", "1", "3")]
    over = wired_up(station(held, lead(form="two-core"), radio())).build
    assert legs(over) == [("hot", "2", "4"), ("cold", "3", "2"), ("screen", "1", "2")]
    # behind a transformer of its own the screen ends in air
    iron = wired_up(station(held, gear("transformer", "iron"), lead("out"), radio())).build
    assert legs(iron)[:3] == [("hot", "2", "1"), ("cold", "3", "2"), ("screen", "1", "None")]


STRIP_IN = {
    "id": "in",
    "name": "MIC IN",
    "shell": "xlr-3",
    "basis": "manual",
    "contacts": contacts((("1", "screen"), ("2", "microphone"), ("3", "cold"))),
}


@pytest.mark.parametrize(
    ("screen", "start", "end"),
    [("both-ends", "1", "1"), ("source-end", "1", "None"), ("load-end", "None", "1")],
)
def test_a_screen_ends_in_air_where_it_is_not_joined_and_nothing_else_does(screen, start, end):
    held = gear("dynamic-microphone", "mic", output="balanced")
    strip = gear("amplifier", "strip", input="balanced")
    plugs = {"strip": STRIP_IN | {"ports": ["strip"]}}
    path = (held, lead(form="two-core", screen=screen), strip, lead("out"), radio())
    joined = legs(wired_up(station(*path, connectors=plugs)).build)
    assert joined[:3] == [("hot", "2", "2"), ("cold", "3", "3"), ("screen", start, end)]
