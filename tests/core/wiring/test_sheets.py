"""What a builder must find on the sheet, written down beforehand, and what must not be there.

Each build has the sentences that somebody with an iron in the hand needs: where a wire goes, what
must be bought, what is dangerous. The rows are soldered back into nets at the end: what was printed
must be what was solved.
"""

import json

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import PINS, contacts, landed, lead, mic, radio, station
from tests.core.wiring.printed import differences
from tests.core.wiring.walk import DATA_PINS, inputs, pair, sources
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.shopping import items_of
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.wiring import wiring_report
from tonleiter.core.report.worksheet import worksheets
from tonleiter.core.station.model import Station
from tonleiter.core.units.preferred import nearest
from tonleiter.core.units.quantity import FARAD, OHM, parse_quantity

LAPTOP = gear("line-source", "laptop", z_out_ohm=30)
ELECTRET = gear("electret-2-wire", "capsule")
LINE = gear("line-source", "player", full_scale_dbu=20)
PLUG_ONLY = (("tip", "microphone"), ("sleeve", "microphone-ground"))
KEY = {
    "id": "key",
    "name": "KEY",
    "shell": "phono",
    "contacts": contacts((("tip", "transmit"), ("sleeve", "transmit-ground"))),
}


def by_serial(way, **said):
    return station(
        LAPTOP,
        lead(),
        gear("data-socket", "data"),
        pins=DATA_PINS,
        shell="mini-din-6",
        purpose="data-weak",
        hands={"transmit": way},
        **said,
    )


def keyed_elsewhere():
    """The transmit contact is on another socket of the radio than the microphone."""
    made = station(mic(), lead(), radio(), pins=PLUG_ONLY, shell="jack-3.5").model_dump(mode="json")
    next(d for d in made["devices"] if d["ports"] == ["radio"])["connectors"].append(KEY)
    return Station.model_validate(made)


def unentered():
    """Nobody entered anything: three pieces on the shelf, and a chain."""
    made = station(mic(), lead(), radio()).model_dump(mode="json")
    for device in made["devices"]:
        device["connectors"] = []
    return Station.model_validate(made)


def text_of(of):
    """Everything that is printed, one line a thing."""
    lines = []
    for sheet in worksheets(verdict_of(of), "2026-03-14"):
        lines += [f"MEND {m}" for m in sheet.mends]
        lines += [f"ROW {r.start} > {r.end}: {r.carries}, {r.colour}" for r in sheet.rows]
        lines += [f"STEP {s.says} | {s.caution}" for s in sheet.steps]
        lines += [f"OHM {e.where}: {e.reads}" for e in sheet.ohms]
        lines += [f"VOLT {e.where}: {e.reads}" for e in sheet.dc]
        lines += [f"LEFT {line}" for line in sheet.left_over]
        lines += [f"PART {p.words()}" for p in sheet.parts]
    return "\n".join(lines)


# name: the build, what must be printed, what must not
BUILDS = {
    # half a foot switch keys nothing, or hangs a black wire on a microphone's cold
    "a foot switch on a radio of which no contact is known": (
        station(mic(), lead(), radio(), pins=PLUG_ONLY, shell="jack-3.5"),
        ["MEND Nobody entered which contact of MIC keys the radio"],
        ["ROW switch", "foot switch, momentary", "Wire the switch"],
    ),
    "nothing entered at all": (
        unentered(),
        ["MEND Nobody entered which contact keys the radio", "(assumed: nobody entered it)"],
        ["ROW switch", "foot switch, momentary"],
    ),
    "the transmit contact on a socket of its own": (
        keyed_elsewhere(),
        [
            "ROW switch 1 > radio, KEY tip: transmit, red",
            "ROW switch 2 > radio, KEY sleeve: transmit ground, black",
            "STEP phono to the radio, KEY: red (transmit) to tip, black (transmit ground)",
            "PART 1 × plug phono",
        ],
        ["MEND"],
    ),
    # legs, both plugs, the diode's side: R 5 − 0.7 V for 0.5 mA, the next lower of E12 is 8.2 kΩ
    "a serial port through a transistor": (
        by_serial("serial-transistor"),
        [
            "ROW Q1.C > data 3: transmit, red",
            "ROW Q1.E > data 2: transmit ground, black",
            "ROW port 7 > R1.1",
            "ROW port 5 > D1.A",
            "ROW R1.2 > D1.K",
            "ROW D1.K > Q1.B",
            "DE-9, female, to the computer's serial port: 7 (request to send)",
            "PART R1: 1 × resistor 8.2 kΩ",
            "PART Q1: 1 × transistor, small signal, NPN",
            "PART 1 × plug DE-9, female",
            "data sheet of what is in your hand",
            "It joins the computer's ground to the radio's",
        ],
        ["MEND", "ROW switch"],
    ),
    "a serial port through an opto-coupler": (
        by_serial("serial-opto"),
        [
            "ROW U1.C > data 3: transmit, red",
            "ROW D1.K > U1.A",
            "ROW D1.A > U1.K",
            "PART U1: 1 × opto-coupler",
        ],
        ["MEND", "Q1"],
    ),
    # its coil's diode towards the supply, the supply's minus on the transistor's emitter
    "a serial port through a relay": (
        by_serial("serial-relay"),
        [
            "ROW K1.13 > data 3: transmit, red",
            "ROW K1.14 > data 2: transmit ground, black",
            "ROW supply +12 V > D2.K",
            "ROW supply minus > port 5",
            "ROW D2.K > K1.A1",
            "ROW D2.A > K1.A2",
            "PART K1: 1 × relay, 12 V",
        ],
        ["MEND", "ROW switch"],
    ),
    "a push button beside a foot switch": (
        station(mic(), lead(), radio(), hands={"also": "push-button"}),
        [
            "ROW second switch 1 > switch 1",
            "ROW second switch 2 > switch 2",
            "push button, momentary",
        ],
        ["MEND"],
    ),
    # which half goes on the lead: panel sockets of threaded shells have pins, XLR outputs too
    "a balanced microphone on a threaded socket": (
        station(mic(output="balanced"), lead(form="two-core"), radio()),
        ["XLR, 3 contacts, female", "round, threaded, 8 contacts, female"],
        ["seen from the solder side: white (hot) to 4"],
    ),
    "a screen that is open at the box's side": (
        station(
            mic(output="balanced"),
            lead(form="two-core", screen="source-end"),
            gear("transformer", "coil"),
            lead("other"),
            radio(),
        ),
        [
            "ROW mic 1 > air: cut back, insulate: screen",
            "Join the case to the screen of the lead to the radio, at one point, and nowhere else",
        ],
        ["screen of the lead to the mic"],
    ),
    "a screen that is open at a plug": (
        station(
            mic(output="balanced"),
            lead(form="two-core", screen="source-end"),
            gear("mixer-strip", "mixer", input="balanced"),
            lead("other"),
            radio(),
        ),
        ["ROW mic 1 > air: cut back, insulate: screen"],
        ["ROW mic 1 > mixer", "bare braid (screen) to 1, white"],
    ),
    "solder between two contacts": (
        station(
            mic(),
            lead(),
            radio(),
            hands={"bridges": [{"end": "radio.mic", "contacts": ["2", "7"]}]},
        ),
        ["ROW radio 2 > radio 7: joined by solder"],
        [],
    ),
    "a serial port at a radio of which no contact is known": (
        station(
            LAPTOP,
            lead(),
            radio(),
            pins=PLUG_ONLY,
            shell="jack-3.5",
            hands={"transmit": "serial-opto"},
        ),
        ["MEND Nobody entered which contact of MIC keys the radio"],
        ["U1", "port 7"],
    ),
    # a soldered capsule is in the reading: 300 Ω of coil
    "a coil that hangs on its wires": (
        station(mic(), lead(), radio(), soldered=True),
        ["OHM mic 1 – mic 2: 300 Ω", "unplugged at the radio: ring it out"],
        ["the mic still out"],
    ),
    "a coil behind a plug": (
        station(mic(), lead(), radio()),
        ["OHM mic 1 – mic 2: open", "the mic still out", "Plug the mic in; measure the DC"],
        ["−0.00", "Batteries"],
    ),
    "a feed with a battery": (
        station(ELECTRET, gear("bias-feed", "feed", supply_v=9), lead(), radio()),
        ["Power off, batteries out", "STEP Batteries in"],
        [],
    ),
    # what nobody ties sings: pins of a package with two amplifiers, of which one is used
    "an op-amp of which half rests": (
        station(mic(), lead(), gear("opamp-preamp", "amp", package="dual"), lead("on"), radio()),
        [
            "ROW U1.6 > U1.7",
            "> U1.5: inside",
            "U1: solder its socket, put the chip in last; the 100 nF right at its supply pins",
            "PART U1: 1 × operational amplifier, dual package",
            "PART 1 × board and a socket 8 pins",
            "PART 1 × switch, slide for the battery",
            "The battery has a switch and goes in last, after the ohms",
        ],
        [],
    ),
    # capsule, battery, load and capacitor stand in its own case, plus of the battery to the capsule
    "a capsule of three wires": (
        station(gear("electret-3-wire", "cap"), lead(), radio()),
        [
            "ROW M1.+ > B1.+: in its case",
            "ROW M1.− > B1.−: in its case",
            "ROW M1.out > R1.1: in its case",
            "> cap 1: in its case",
            "PART M1: 1 × electret capsule 3 wires",
            "PART B1: 1 × battery, holder 1.5 V",
            "In the case of the cap, if you build it, as drawn: ",
        ],
        ["MEND"],
    ),
    "star-quad on a transformer": (
        station(
            mic(output="balanced"),
            lead(form="star-quad"),
            gear("transformer", "coil"),
            lead("on"),
            radio(),
        ),
        [
            "join opposite cores, two and two; one pair is hot, the other cold",
            "T1: number its leads as on the drawing with an ohmmeter",
        ],
        ["battery"],
    ),
    "a transistor": (
        station(mic(), lead(), gear("bipolar-preamp", "amp"), lead("on"), radio()),
        [
            "Q1: legs are named as on the drawing",
            "data sheet of what is in your hand",
            "Feet on the drawing all stand on its common line",
        ],
        ["socket, put the chip"],
    ),
    # 8 V with the coil in are 8 V with it out as well; two thirds of 16 V carry them
    "a blocking capacitor": (
        station(
            mic(),
            gear("capacitor", "cap", capacitance_f="6.8u", plus_side="output"),
            lead(),
            radio(bias_v=8, bias_ohm=1100),
        ),
        [
            "6.8 µF, 16 V: 8 V over it at most",
            "OHM mic 1 – radio 4: open, after a capacitor's kick",
        ],
        ["µF, 10 V"],
    ),
    # a mixer whose phantom supply can be switched on puts 48 V over what is before it
    "a capacitor before a mixer with phantom power": (
        station(
            mic(output="balanced"),
            lead(form="two-core"),
            gear("capacitor", "cap", capacitance_f="22u", plus_side="output"),
            gear("mixer-strip", "mixer", input="balanced"),
            lead("other"),
            radio(),
        ),
        ["100 V: 48 V over it at most"],
        [],
    ),
    "the transmit wire on the supply's contact": (
        station(mic(), lead(), radio(), hands={"landings": landed(transmit="6")}),
        ["MEND The transmit wire lies on contact 6: the switch shorts 8 V"],
        [],
    ),
    "an electret the wrong way round": (
        station(
            ELECTRET,
            lead(),
            radio(bias_v=5, bias_ohm=2200),
            hands={"landings": landed(hot="2", cold="4")},
        ),
        ["MEND The capsule is fed the wrong way round", "MEND Hot and cold have changed places"],
        [],
    ),
    "an electret that nothing feeds": (
        station(ELECTRET, lead(), radio()),
        ["MEND Behind the radio the capsule has no bias"],
        [],
    ),
    # the usual build for a plug that leads the bias out: no battery, a resistor, a capacitor
    # direct current where none may be
    "a ribbon on a biased contact": (
        station(gear("ribbon-microphone", "mic"), lead(), radio(bias_v=8, bias_ohm=1100)),
        ["MEND 8 V from the radio would sit on the ribbon's transformer of the mic"],
        [],
    ),
    "a coil on a biased contact": (
        station(mic(), lead(), radio(bias_v=8, bias_ohm=1100)),
        ["MEND 8 V from the radio would sit on the coil of the mic"],
        [],
    ),
    "a condenser without phantom power": (
        station(gear("phantom-condenser", "mic"), lead(form="two-core"), radio()),
        ["MEND The mic has no phantom power"],
        [],
    ),
    "too many volts over a capsule": (
        station(
            ELECTRET,
            gear("bias-feed", "feed", supply_v=24, resistor_ohm=1000),
            lead(),
            radio(),
        ),
        ["MEND Too many volts stand over the capsule", "50 V: 24 V over it at most"],
        [],
    ),
    "line level into a microphone socket": (
        station(LINE, lead(), radio(), hands={"transmit": "vox"}),
        ["MEND Line level goes into the microphone input of the radio"],
        ["ROW switch"],
    ),
    "a bridge amplifier with a leg on ground": (
        station(
            gear("loudspeaker-output", "speaker", output="bridged"),
            lead(),
            gear("line-input", "card"),
            pins=(("1", "data-in"), ("2", "data-ground")),
            shell="mini-din-6",
            purpose="data-weak",
        ),
        ["MEND A leg of the speaker is grounded: both must float"],
        ["ROW switch"],
    ),
    # plugs with fewer rings
    "a mono plug whose sleeve lies on the transmit ring": (
        station(
            mic(),
            lead(),
            radio(),
            pins=(("tip", "microphone"), ("ring", "transmit"), ("sleeve", "microphone-ground")),
            shell="jack-3.5",
            hands={"plugs": [{"end": "radio.mic", "shell": "jack-3.5-mono"}]},
        ),
        ["MEND The transmit line of the radio is held down", "ring and sleeve become one"],
        [],
    ),
    "a line that stands negative": (
        station(
            LAPTOP,
            lead(),
            radio(),
            hands={"transmit": "serial-transistor"},
            said={"_3": {"open_v": 12, "negative": True}},
        ),
        ["MEND This serial line cannot key this radio"],
        [],
    ),
    # hands
    "a live contact that was seen to": (
        station(mic(), lead(), radio(), hands={"insulated": ["radio.mic.6"]}),
        ["ROW mic 1 > radio 4: hot, white"],
        ["MEND"],
    ),
    "hot and cold changed": (
        station(mic(), lead(), radio(), hands={"landings": landed(hot="2", cold="4")}),
        ["MEND Hot and cold have changed places", "ROW mic 1 > radio 2: hot"],
        [],
    ),
    "a wire cut back": (
        station(mic(), lead(), radio(), hands={"landings": landed(hot=None)}),
        ["MEND The hot wire is soldered to nothing at the radio", "ROW mic 1 > air"],
        [],
    ),
    "solder on the transmit line": (
        station(
            mic(),
            lead(),
            radio(),
            hands={"bridges": [{"end": "radio.mic", "contacts": ["3", "7"]}]},
        ),
        ["MEND The transmit line of the radio is held down", "ROW radio 3 > radio 7"],
        [],
    ),
    "a switch in the microphone": (
        station(mic(), lead(), radio(), hands={"transmit": "microphone", "cores": 3}),
        ["PART 1 × switch, momentary, quiet", "3 cores and a screen", "ROW switch 1 > radio 3"],
        ["MEND"],
    ),
    "the switch back on the audio's ground": (
        station(mic(), lead(), radio(), hands={"switch_returns": "audio-ground"}),
        ["ROW switch 2 > mic 2: transmit ground, black"],
        ["MEND"],
    ),
    "the radio's own button": (
        station(mic(), lead(), radio(), hands={"transmit": "radio"}),
        ["ROW mic 1 > radio 4"],
        ["ROW switch", "foot switch", "Wire the switch"],
    ),
    # what is soldered between
    "a T-pad": (
        station(LINE, lead(), gear("t-pad", "pad"), lead("on"), radio(), hands={"transmit": "vox"}),
        ["PART R1, R3: 2 × resistor 560 Ω", "ROW R1.2 > R2.1", "ROW R2.1 > R3.1"],
        ["socket 8 pins", "battery"],
    ),
    "a balanced pad": (
        station(
            mic(output="balanced"),
            lead(form="two-core"),
            gear("u-pad", "pad"),
            lead("on", form="two-core"),
            gear("mixer-strip", "mixer", input="balanced"),
            lead("last"),
            radio(),
        ),
        [
            "ROW mic 1 > mixer, in 1: screen, bare braid",
            "ROW R3.1 > mixer, in 2: hot, white",
            "ROW R3.2 > mixer, in 3: cold, yellow",
            "PART R1, R2: 2 × resistor 4.7 kΩ",
        ],
        [],
    ),
    "a feed held by a Zener": (
        station(ELECTRET, gear("bias-feed", "feed", supply_v=12, filter="zener"), lead(), radio()),
        ["ROW R1.2 > D1.K", "ROW B1.− > D1.A", "PART D1: 1 × Zener diode 5.1 V"],
        ["MEND"],
    ),
    "a feed with a regulator": (
        station(
            ELECTRET, gear("bias-feed", "feed", supply_v=9, filter="regulator"), lead(), radio()
        ),
        ["PART U1: 1 × regulator, low dropout 5.1 V from 9 V", "ROW C1.1 > U1.in"],
        ["MEND", "socket 8 pins", "put the chip in last"],
    ),
    "a common-mode choke": (
        station(
            LINE,
            lead(),
            gear("common-mode-choke", "choke"),
            lead("on"),
            radio(),
            hands={"transmit": "vox"},
        ),
        ["ROW player tip > L1.1: hot", "ROW player sleeve > L1.3: cold", "ring core"],
        [],
    ),
    "an electret fed from the radio's own contact": (
        station(
            ELECTRET,
            lead(),
            gear("bias-feed", "feed", fed_by="radio-contact", resistor_ohm=10e3),
            radio(),
        ),
        [
            "ROW R1.1 > radio 6: bias, orange",
            "orange (bias) to 6",
            "PART R1: 1 × resistor 10 kΩ",
            "PART C1: 1 × electrolytic capacitor 10 µF, 16 V: 8 V over it at most",
            "Plus of C1 to hot",
        ],
        ["MEND", "battery", "Contact 6", "LEFT radio 6"],
    ),
    "a feed from a contact that the plug has not": (
        station(
            ELECTRET,
            lead(),
            gear("bias-feed", "feed", fed_by="radio-contact"),
            radio(),
            pins=tuple(p for p in PINS if p[1] != "bias"),
        ),
        ["MEND It is not known which contact carries the supply of the microphone"],
        ["orange"],
    ),
    "carbon without its current": (
        station(gear("carbon-microphone", "mic"), lead(), radio()),
        ["MEND"],
        [],
    ),
}


@pytest.mark.parametrize("name", BUILDS)
def test_a_builder_finds_what_is_needed_and_nothing_else(name):
    of, wanted, unwanted = BUILDS[name]
    text = text_of(of)
    missing = [w for w in wanted if w not in text]
    assert not missing, f"{missing} not in\n{text}"
    assert [u for u in unwanted if u in text] == [], text


def test_a_reversed_capsule_draws_more_and_gives_nothing():
    """Two junctions in a row hold some 1.3 V: (5 − 1.3) / 2200 = 1.7 mA."""
    of = BUILDS["an electret the wrong way round"][0]
    found = verdict_of(of)
    finding = next(f for f in found.findings if f.code == "electret-reversed")
    assert finding.evidence["dc_ma"] == pytest.approx(-(5 - 1.3) / 2.2, rel=0.05)
    right = verdict_of(station(ELECTRET, lead(), radio(bias_v=5, bias_ohm=2200)))
    lost = right.assessment.rows[-1].speech_dbu - found.assessment.rows[-1].speech_dbu
    assert lost > 40


# --- what is printed is what was solved ----------------------------------------------------------


@pytest.mark.table(keep=10)
@pytest.mark.parametrize("name", BUILDS)
def test_who_solders_the_printed_rows_gets_the_circuit_that_was_solved(name):
    assert list(differences(BUILDS[name][0])) == []


@pytest.mark.table(keep=12)
@pytest.mark.parametrize("source", sources(), ids=lambda g: g.id)
def test_every_source_on_every_input_is_printed_as_it_was_solved(source):
    wrong = []
    for target in inputs():
        of = pair(source, target)
        wrong += [f"{target.id}: {d}" for d in differences(of)]
        json.dumps(wiring_report(verdict_of(of)), allow_nan=False)
    assert wrong == []


def test_parts_of_the_library_can_be_bought():
    """Resistors and capacitors of E24; nobody stocks 490 Ω."""
    units = {"resistor": OHM, "capacitor": FARAD, "electrolytic capacitor": FARAD}
    for piece in parts_library().values():
        for item in items_of(piece, piece.built_alone()):
            if item.part.name in units:
                value = parse_quantity(item.part.value, units[item.part.name])
                assert value == pytest.approx(nearest(value, "E24"), rel=1e-3), piece.id


def test_the_first_remedy_of_a_dead_electret_is_the_contact_that_is_there():
    """8 V behind 470 Ω, 0.3 mA, half of it left over the capsule: some 13 kΩ, 10 kΩ at hand."""
    of = station(ELECTRET, lead(), radio())
    found = verdict_of(of)
    first, *others = found.remedies(found.stops()[0])
    assert first.title.startswith("Feed it from contact 6 of the radio through ")
    assert any("9 V" in r.title for r in others)
    after = verdict_of(first.change(of))
    assert after.stops() == ()
    capsule = next(f for f in after.findings if f.code == "electret-fed").evidence["capsule_v"]
    assert 3.0 < capsule < 6.0
    # as somebody reckons it: 8 V less what 0.3 mA leave over the resistors
    assert capsule == pytest.approx(8 - 0.3e-3 * (10e3 + 470), rel=0.05)


# --- chains that meet in one plug ----------------------------------------------------------------


def radio_with_both_ways():
    """A data plug that takes transmit audio, gives receive audio, and keys."""
    made = by_serial("serial-opto").model_dump(mode="json")
    made["gear"] += [
        gear("loudspeaker-output", "received", z_out_ohm=1000),
        gear("line-input", "card"),
        lead("back"),
    ]
    box = next(d for d in made["devices"] if "data" in d["ports"])
    box["ports"].append("received")
    box["connectors"][0]["ports"].append("received")
    heard = next(g for g in made["gear"] if g["id"] == "received")
    heard |= {"supply": box["supply"], "earth_emf_v": box["earth_emf_v"]}
    made["chains"].append(
        made["chains"][0]
        | {
            "id": "receive",
            "name": "receive",
            "variants": [
                {
                    "id": "v",
                    "name": "v",
                    "stages": [{"gear": "received"}, {"gear": "back"}, {"gear": "card"}],
                }
            ],
        }
    )
    return Station.model_validate(made)


def test_what_meets_in_one_plug_is_soldered_on_one_sheet():
    of = radio_with_both_ways()
    text = text_of(of)
    # DATA_PINS: 1 takes, 2 is ground, 3 keys, 4 gives
    assert "In the same plug, for receive: white (hot) to 4, bare braid (cold) to 2" in text
    assert "hot of receive" in text
    assert "LEFT data 4: in the same plug, for receive" in text
    assert text.count("PART 1 × plug mini-DIN, 6 contacts") == 1
    # from the other side it is the same plug
    sheets = worksheets(verdict_of(of, "receive"), "2026-03-14")
    steps = " ".join(s.says for s in sheets[0].steps)
    assert "In the same plug, for chain: white (hot) to 1" in steps


def test_two_microphones_for_one_contact_have_a_plug_each():
    made = station(mic(), lead(), radio()).model_dump(mode="json")
    made["gear"].append(gear("dynamic-microphone", "second"))
    stages = [{"gear": "second"}, {"gear": "radio"}]
    made["chains"].append(
        made["chains"][0]
        | {"id": "other", "name": "other", "variants": [{"id": "v", "name": "v", "stages": stages}]}
    )
    assert "In the same plug" not in text_of(Station.model_validate(made))


def headset_with_phones():
    """Microphone and phones in one lead, from the headset's plug to the radio's."""
    made = station(
        mic(), lead(), radio(), connectors={"mic": HEADSET}, hands={"transmit": "vox"}
    ).model_dump(mode="json")
    made["gear"] += [
        gear("loudspeaker-output", "speaker", z_out_ohm=10),
        gear("line-input", "phones", z_in_ohm=32),
    ]
    for box, port in (("mic", "phones"), ("radio", "speaker")):
        device = next(d for d in made["devices"] if d["ports"] == [box])
        device["ports"].append(port)
        device["connectors"][0]["ports"].append(port)
        said = next(g for g in made["gear"] if g["id"] == port)
        said["supply"] = device["supply"]
        if port == "speaker":
            said["earth_emf_v"] = device["earth_emf_v"]
    stages = [{"gear": "speaker"}, {"gear": "lead"}, {"gear": "phones"}]
    made["chains"].append(
        made["chains"][0]
        | {
            "id": "heard",
            "name": "heard",
            "variants": [{"id": "v", "name": "v", "stages": stages}],
        }
    )
    return Station.model_validate(made)


HEADSET = {
    "id": "plug",
    "name": "plug",
    "shell": "jack-3.5-four",
    "contacts": contacts(
        (
            ("tip", "audio-out"),
            ("ring 1", "free"),
            ("ring 2", "microphone-ground"),
            ("sleeve", "microphone"),
        )
    ),
}


def test_phones_run_in_the_lead_of_their_microphone():
    """PINS: contact 1 gives receive audio. One lead of two cores: one speaks, one is heard."""
    text = text_of(headset_with_phones())
    assert "In the same plug and lead, for heard: " in text
    assert text.count("ROW radio 1 > mic tip: hot of heard") == 1
    assert text.count("PART 1 × screened lead") == 1
    assert "2 cores and a screen" in text
    assert text.count("× plug round, threaded") == 1


def test_one_box_for_two_radios_switches_every_conductor():
    """PINS on one radio, 2 and 4 changed on the other: four poles, so that no ground is joined."""
    made = station(mic(), lead(), radio()).model_dump(mode="json")
    made["gear"].append(radio() | {"id": "second", "name": "second"})
    box = next(d for d in made["devices"] if d["ports"] == ["radio"])
    pins = {"2": "4", "4": "2"}
    turned = [
        c | {"label": pins.get(c["label"], c["label"])} for c in box["connectors"][0]["contacts"]
    ]
    plug = box["connectors"][0] | {"ports": ["second"], "contacts": turned}
    made["devices"].append(
        box | {"id": "second", "name": "second", "ports": ["second"], "connectors": [plug]}
    )
    stages = [{"gear": "mic"}, {"gear": "lead"}, {"gear": "second"}]
    made["chains"].append(
        made["chains"][0]
        | {"id": "other", "name": "other", "variants": [{"id": "v", "name": "v", "stages": stages}]}
    )
    of = Station.model_validate(made)
    (box,) = worksheets(verdict_of(of), "2026-03-14")[-1].selectors
    assert box.poles == (
        "Pole 1, hot: middle from the mic, one way to the radio 4, the other to the second 2.",
        "Pole 2, cold: middle from the mic, one way to the radio 2, the other to the second 4.",
        "Pole 3, transmit: middle from the switch, one way to the radio 3,"
        " the other to the second 3.",
        "Pole 4, transmit ground: middle from the switch, one way to the radio 7,"
        " the other to the second 7.",
    )
    assert "4 poles, 2 ways" in box.part


def test_an_assumed_plug_says_so_on_the_drawing():
    sheet = worksheets(verdict_of(unentered()), "2026-03-14")[0]
    assert sheet.score.left.title().endswith(", assumed")
    assert sheet.score.right.title() == "6.35 mm jack, TS, assumed"
    entered = worksheets(verdict_of(station(mic(), lead(), radio())), "2026-03-14")[0]
    assert "assumed" not in entered.score.right.title()
