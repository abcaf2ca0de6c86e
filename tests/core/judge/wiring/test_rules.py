"""A build that must fire each rule, and a near twin that must not."""

import math

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import (
    IDS,
    codes,
    contacts,
    finding,
    landed,
    lead,
    mic,
    plain,
    radio,
    station,
)
from tonleiter.core.judge.findings.codes import known
from tonleiter.core.judge.verdict import RULES, verdict_of
from tonleiter.core.judge.wiring import leads, plugs, soldering, switching

RING = (("tip", "microphone"), ("ring", "bias"), ("sleeve", "microphone-ground"))
XLR_IN = {
    "id": "in",
    "name": "IN",
    "shell": "xlr-3",
    "basis": "manual",
    "contacts": contacts((("1", "screen"), ("2", "microphone"), ("3", "cold"))),
}
STRIP = gear("amplifier", "strip", input="balanced", supply="safety-earth", z_in_ohm=2400)
EARTHED = gear(
    "amplifier",
    "desk",
    expects="microphone",
    gain_db=20,
    gain_high_db=60,
    supply="safety-earth",
    earth_emf_v=0.02,
    z_out_ohm=100,
    output="balanced",
)


def bridge(*pair):
    return {"bridges": [{"end": "radio.mic", "contacts": list(pair)}]}


def plug(shell):
    return {"plugs": [{"end": "radio.mic", "shell": shell}]}


def jack(hands=None, pins=RING, shell="jack-3.5"):
    return station(mic(), lead(), radio(), pins=pins, shell=shell, hands=hands)


def line(hands, **said):
    """The radio's transmit line with figures of its own."""
    return station(mic(), lead(), radio(), hands=hands, said={"_3": said})


def from_desk(**figures):
    """A mixer with an earth of its own, two cores to a strip that has one too."""
    path = (
        mic(),
        lead(),
        EARTHED,
        lead("out", form="two-core", **figures),
        STRIP,
        lead("end"),
        radio(),
    )
    return station(*path, connectors={"strip": XLR_IN})


def balanced(hands=None, form="two-core", **figures):
    """A balanced microphone on a strip with a cold leg of its own."""
    path = (mic(output="balanced"), lead(form=form, **figures), STRIP, lead("out"), radio())
    return station(*path, hands=hands, connectors={"strip": XLR_IN})


def mirrored(roles):
    data = contacts(zip("123", roles, strict=True))
    return balanced_with({**XLR_IN, "contacts": data})


def balanced_with(connector):
    path = (mic(output="balanced"), lead(form="two-core"), STRIP, lead("out"), radio())
    return station(*path, connectors={"strip": connector})


def four(basis):
    pins = (
        ("tip", "audio-out"),
        ("ring 1", "free"),
        ("ring 2", "microphone-ground"),
        ("sleeve", "microphone"),
    )
    made = jack(pins=pins, shell="jack-3.5-four")
    data = made.model_dump(mode="json")
    data["devices"][1]["connectors"][0]["basis"] = basis
    return type(made).model_validate(data)


def piezo(length_m):
    return station(
        gear("piezo-microphone", "mic", capacitance_f=1e-9),
        lead(length_m=length_m),
        radio(z_in_ohm=1e6, wants_dbu=-30, clip_dbu=10),
    )


def boxed(**hands):
    return station(mic(), gear("l-pad", "pad"), lead(), radio(), hands=hands)


def quad(joined):
    return balanced(form="star-quad", quad=joined, field_ut=20)


DATA = gear("line-source", "laptop", supply="double-insulated")


def by_serial(way, serial_v=5, **said):
    return station(
        DATA, lead(), radio(), hands={"transmit": way, "serial_v": serial_v}, said={"_3": said}
    )


SUPPLY_USED = tuple(p for p in contacts() if p["role"] != "bias")

LINE = gear("line-source", "player", z_out_ohm=100, below_full_db=-60)
ENTERED = {
    "id": "out",
    "name": "OUT",
    "shell": "phono",
    "contacts": contacts((("tip", "audio-out"), ("sleeve", "audio-ground"))),
}

CASES = {
    plugs.CONNECTOR_ASSUMED: (
        station(LINE, lead(), radio(), hands={"transmit": "vox"}),
        station(LINE, lead(), radio(), hands={"transmit": "vox"}, connectors={"player": ENTERED}),
    ),
    soldering.HOT_COLD_SWAPPED: (plain({"landings": landed(hot="2", cold="4")}), plain()),
    soldering.AUDIO_TRANSMIT_SWAPPED: (
        plain({"landings": landed(hot="3", transmit="4")}),
        plain({"landings": landed(hot="3")}),
    ),
    # a lone capacitor in the line keeps the supply up: nothing flows
    soldering.SUPPLY_ON_WIRE: (
        plain({"landings": landed(hot="6")}),
        plain({"landings": landed(hot="8")}),
    ),
    soldering.TRANSMIT_HELD: (plain(bridge("3", "7")), plain(bridge("2", "7"))),
    soldering.WRONG_CONTACT: (
        plain({"landings": landed(hot="1")}),
        plain({"landings": landed(cold="7")}),
    ),
    soldering.WIRE_IN_AIR: (
        plain({"landings": landed(cold=None)}),
        plain({"landings": landed(cold="7")}),
    ),
    soldering.CONTACTS_JOINED: (plain(bridge("4", "2")), plain(bridge("2", "7"))),
    plugs.PINOUT_UNKNOWN: (station(mic(), lead(), radio(), pins=(("1", "audio-out"),)), plain()),
    plugs.PINOUT_MIRRORED: (
        mirrored(("microphone", "screen", "cold")),
        mirrored(("screen", "cold", "microphone")),
    ),
    plugs.SUPPLY_FREE: (plain(), plain({"insulated": ["radio.mic.6"]})),
    plugs.RING_SHORTED: (jack(plug("jack-3.5-mono")), jack(plug("jack-3.5"))),
    plugs.PLUG_DOES_NOT_FIT: (jack(plug("phono")), jack(plug("jack-3.5-mono"))),
    plugs.FOUR_POLE_ORDER: (four("typical"), four("measured")),
    switching.SWITCH_TOO_WEAK: (
        line({"transmit": "foot-switch"}, open_v=48, through_ohm=1000),
        line({"transmit": "foot-switch"}, open_v=12, through_ohm=1000),
    ),
    switching.SERIAL_CANNOT_KEY: (
        by_serial("serial-transistor", open_v=12, negative=True),
        by_serial("serial-opto", open_v=5, negative=True),
    ),
    switching.SWITCH_LATCHES: (plain({"transmit": "toggle"}), plain({"transmit": "push-button"})),
    switching.SWITCH_BESIDE_CAPSULE: (
        plain({"transmit": "microphone", "switch_place": "beside-capsule", "cores": 3}),
        plain({"transmit": "microphone", "switch_place": "away", "cores": 3}),
    ),
    switching.AUDIO_RETURN_SHARED: (
        plain({"transmit": "microphone", "switch_returns": "audio-ground", "cores": 3}),
        plain(),
    ),
    switching.TRANSMIT_UNKNOWN: (
        station(mic(), lead(), radio(), pins=(("2", "microphone-ground"), ("4", "microphone"))),
        plain(),
    ),
    leads.SCREEN_BOTH_ENDS: (from_desk(), from_desk(screen="source-end")),
    leads.SCREEN_NOWHERE: (
        balanced(
            {"landings": [{"end": "strip.in", "leg": "screen", "contact": None}]}, screen="load-end"
        ),
        balanced(screen="load-end"),
    ),
    leads.SCREEN_ONCE: (balanced(screen="load-end"), balanced()),
    leads.TOO_FEW_CORES: (
        plain({"transmit": "microphone"}),
        plain({"transmit": "microphone", "cores": 3}),
    ),
    leads.QUAD_SIDE_BY_SIDE: (quad("side-by-side"), quad("crosswise")),
    leads.CABLE_TOO_LONG: (piezo(15), piezo(0.4)),
    leads.CASE_FLOATS: (boxed(case_to="nothing"), boxed(case_to="nothing", box="plastic")),
}


@pytest.mark.parametrize("code", CASES)
def test_a_rule_fires_on_its_case_and_not_on_the_twin(code):
    fires, twin = CASES[code]
    assert code in codes(fires, "fine")
    assert code not in codes(twin, "fine")


def test_no_rule_of_wiring_is_without_a_case():
    declared = {
        value
        for module in (soldering, plugs, switching, leads)
        for name, value in vars(module).items()
        if name.isupper() and isinstance(value, str) and value in known()
    }
    assert declared == set(CASES)
    assert len(RULES) <= len(declared)


# what somebody has to look up is mended by no edit
LOOKED_UP = (leads.SCREEN_ONCE, plugs.PINOUT_UNKNOWN, plugs.CONNECTOR_ASSUMED)
MENDED = [c for c in CASES if c not in LOOKED_UP]


@pytest.mark.table(keep=3)
@pytest.mark.parametrize("code", MENDED)
def test_a_remedy_that_is_offered_was_tried_and_leaves_the_finding_behind(code):
    found = verdict_of(CASES[code][0])
    remedies = found.remedies(finding(CASES[code][0], code))
    assert remedies
    for remedy in remedies:
        after = verdict_of(remedy.change(CASES[code][0]), *IDS)
        left = {f.code for f in after.findings if f.severity != "fine"}
        assert code not in left, remedy.title
        stops = {f.key for f in found.findings if f.severity == "stop"}
        assert {f.key for f in after.findings if f.severity == "stop"} <= stops


def test_a_wire_put_back_is_as_it_was():
    of = plain({"landings": landed(hot="2", cold="4")})
    found = verdict_of(of)
    swap = next(f for f in found.findings if f.code == soldering.HOT_COLD_SWAPPED)
    assert found.remedies(swap)[0].change(of) == plain()


def test_a_wire_is_put_back_though_the_chain_has_a_stop_of_its_own():
    """The right contact is the right contact: what else is wrong there is said with it."""
    hands = {"landings": landed(hot="6")}
    of = station(mic(), lead(), radio(bias_v=8, bias_ohm=1100), hands=hands)
    found = verdict_of(of)
    (remedy,) = found.remedies(finding(of, soldering.SUPPLY_ON_WIRE))
    assert remedy.change(of).chain().variant().wiring.landings == ()
    assert "then see: dc through winding" in remedy.effect


@pytest.mark.parametrize(("shape", "severity"), [("balanced", "mind"), ("unbalanced", "stop")])
def test_turned_polarity_is_small_and_a_hot_screen_is_not(shape, severity):
    """In a balanced input a turned pair is turned polarity; else the braid is hot."""
    if shape == "balanced":
        swap = (("hot", "3"), ("cold", "2"))
        of = balanced(
            {"landings": [{"end": "strip.in", "leg": leg, "contact": to} for leg, to in swap]}
        )
    else:
        of = plain({"landings": landed(hot="2", cold="4")})
    assert finding(of, soldering.HOT_COLD_SWAPPED).severity == severity


@pytest.mark.parametrize(("open_v", "severity"), [(40, "mind"), (60, "stop")])
def test_a_switch_near_its_rating_is_minded_and_over_it_stopped(open_v, severity):
    """A foot switch bears 50 V: a relay's 40 V are within it, 60 V are not."""
    of = line({"transmit": "foot-switch"}, open_v=open_v, through_ohm=800)
    assert finding(of, switching.SWITCH_TOO_WEAK).severity == severity


def test_a_supply_that_holds_is_said_to_hold():
    """An electret on the supply's contact draws little: nothing burns, and nothing is heard."""
    electret = gear("electret-2-wire", "mic")
    of = station(electret, lead(), radio(), hands={"landings": landed(hot="6")})
    assert "the supply holds" in finding(of, soldering.SUPPLY_ON_WIRE).proof
    assert (
        "the regulator goes"
        in finding(CASES[soldering.SUPPLY_ON_WIRE][0], soldering.SUPPLY_ON_WIRE).proof
    )


def test_hum_of_a_screen_is_said_before_and_after():
    found = finding(from_desk(), leads.SCREEN_BOTH_ENDS)
    assert found.evidence["hum_opened_dbu"] < found.evidence["hum_dbu"] - 6
    assert "dB under speech" in found.proof or "dB over speech" in found.proof


def test_what_concerns_the_sound_is_said_of_the_chain():
    wrong = verdict_of(plain({"landings": landed(hot="6")})).found("chain")
    assert {f.code for f in wrong if f.place} == {soldering.SUPPLY_ON_WIRE}
    # what only the iron minds is not
    assert not [f for f in verdict_of(plain()).found("chain") if f.place]


@pytest.mark.parametrize("code", ["pinout-mirrored", "screen-both-ends", "quad-side-by-side"])
@pytest.mark.table(keep=3)
def test_what_a_remedy_promises_is_what_stands_once_it_is_done(code):
    """Tried at the contacts, where the verdict is judged: a joint more or less is some decibels."""
    before = verdict_of(CASES[code][0])
    heard = [f for f in before.findings if not f.place and f.severity != "fine"]
    promised = [r for f in heard for r in before.remedies(f)]
    assert len(promised) >= 2
    for remedy in promised:
        row = verdict_of(remedy.change(before.assessment.station)).assessment.rows[-1]
        hum_db = -math.inf if row.hum_dbu is None else row.hum_dbu - row.speech_dbu
        assert hum_db == pytest.approx(remedy.leaves_hum_db, abs=0.01)
