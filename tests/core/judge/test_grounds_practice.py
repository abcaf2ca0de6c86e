"""Loops as they are met at stations: what somebody with thirty years at the bench says of each.

Written down before it was compared. For each: what it is, what is tried, and what nobody does.
"""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station.model import Station

NEVER = ("safety earth of", "lift the earth", "cut the earth pin")


def box(box_id, kind="other", supply="lead", **fields):
    return {"id": box_id, "name": box_id, "kind": kind, "supply": supply} | fields


def lead(kind, a, b, **fields):
    name = f"{kind} {a} {b}"
    return {"id": name.replace(" ", "-"), "name": name, "kind": kind, "a": a, "b": b} | fields


def bench(path, boxes=(), leads=(), **chain):
    station = station_of(*path, **chain)
    data = station.model_dump(mode="json")
    named = {b["id"] for b in boxes}
    data["devices"] = [d for d in data["devices"] if d["id"] not in named] + list(boxes)
    data["links"] = list(leads)
    return Station.model_validate(data)


CABLE = gear("cable", "cable", length_m=2, field_ut=0)
MIC = gear("dynamic-microphone", "mic")


def audio_box(supply="lead"):
    return gear("line-source", "audio-box", supply=supply, earth_emf_v=0, below_full_db=-30)


def data_radio(supply="lead"):
    return gear("data-socket", "radio", supply=supply)


def mixer(**fields):
    base = {
        "expects": "microphone",
        "gain_db": 40,
        "gain_high_db": 60,
        "z_in_ohm": 2400,
        "ein_dbu": -126,
        "earth_emf_v": 2e-3,
        "supply": "safety-earth",
        "ripple_dbu": -120,
    }
    return gear("amplifier", "mixer", **(base | fields))


PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
MIC_RADIO = gear("microphone-socket", "radio", z_in_ohm=600, wants_dbu=-58, supply="lead")
SUPPLY = box("supply", "supply", "safety-earth")
LAPTOP = box("laptop", "computer", "double-insulated", earth_emf_v=1e-3)

CASES = {
    # both hang on the computer: the buzz is its USB, and the loop needs no earth at all
    "radio and audio box on one computer's USB": (
        bench(
            (audio_box(), CABLE, data_radio()),
            (LAPTOP,),
            (lead("usb", "audio-box", "laptop"), lead("usb", "radio", "laptop")),
        ),
        "earth-loop",
        "buzzes",
        ("USB isolator", "isolating transformer"),
    ),
    # the radio's supply and the laptop's are both earthed: take one of them off, that costs nothing
    "earthed laptop, earthed supply": (
        bench(
            (audio_box(), CABLE, data_radio()),
            (box("laptop", "computer", "safety-earth", earth_emf_v=5e-3), SUPPLY),
            (lead("usb", "audio-box", "laptop"), lead("supply", "supply", "radio")),
        ),
        "earth-loop",
        "both earthed",
        ("battery", "USB isolator", "isolating transformer"),
    ),
    # the classic of studio and shack: a transformer, whatever hangs on the radio besides
    "earthed mixer, radio on an earthed supply": (
        bench(
            (MIC, mixer(), PAD, CABLE, MIC_RADIO), (SUPPLY,), (lead("supply", "supply", "radio"),)
        ),
        "earth-loop",
        "both earthed",
        ("isolating transformer",),
    ),
    # another outlet, another earth: first all into one outlet
    "mixer on an outlet far away": (
        bench(
            (MIC, mixer(earth_emf_v=20e-3), PAD, CABLE, MIC_RADIO),
            (SUPPLY,),
            (lead("supply", "supply", "radio"),),
        ),
        "earth-loop",
        "both earthed",
        ("outlet", "isolating transformer"),
    ),
    # the rod at the mast is an earth of its own: it is bonded, the coax is left alone
    "an earth rod at the mast": (
        bench(
            (MIC, mixer(earth_emf_v=0), PAD, CABLE, MIC_RADIO),
            (box("mast", "other", "safety-earth", earth_emf_v=20e-3),),
            (lead("coax", "radio", "mast"),),
        ),
        "earth-loop",
        "both earthed",
        ("strap", "isolating transformer"),
    ),
    # nothing earthed on the microphone's side: earths elsewhere do not matter to it
    "a hand microphone on a radio among loops": (
        bench(
            (MIC, MIC_RADIO),
            (SUPPLY, LAPTOP, box("mast", "other", "safety-earth", earth_emf_v=20e-3)),
            (
                lead("supply", "supply", "radio"),
                lead("usb", "radio", "laptop"),
                lead("coax", "radio", "mast"),
            ),
        ),
        None,
        "",
        (),
    ),
    # two boxes screwed into one rack and joined by a lead: a loop so small that nothing drives it
    "mixer and radio in one rack on one supply": (
        bench(
            (MIC, mixer(supply="lead", earth_emf_v=0), PAD, CABLE, MIC_RADIO),
            (SUPPLY,),
            (lead("supply", "supply", "radio"), lead("screws", "mixer", "radio", ohm=0.005)),
        ),
        None,
        "",
        (),
    ),
    # a microphone of two outputs: its USB closes a loop through the screen of its audio lead
    "a microphone on the mixer and on USB": (
        bench(
            (
                gear("phantom-condenser", "mic"),
                gear("cable", "mic-lead", form="two-core", field_ut=0),
                mixer(input="balanced", phantom="on", gain_db=30, earth_emf_v=0),
                PAD,
                CABLE,
                MIC_RADIO,
            ),
            (LAPTOP, SUPPLY),
            (
                lead("usb", "mic", "laptop"),
                lead("usb", "radio", "laptop"),
                lead("supply", "supply", "radio"),
            ),
        ),
        "earth-loop",
        "buzzes",
        ("isolating transformer", "USB isolator"),
    ),
}


@pytest.mark.parametrize("case", CASES)
def test_what_is_said_and_tried(case):
    station, code, words, wanted = CASES[case]
    found = assess(station)
    hums = [f for f in found.findings if f.code in ("earth-loop", "leakage-hum", "field-hum")]
    if code is None:
        assert hums == []
        return
    assert [f.code for f in hums] == [code], [(f.code, f.says) for f in found.findings]
    assert words in hums[0].says, hums[0].says
    offered = [r.title for r in remedies(found, hums[0])]
    assert any(w in offered[0] for w in wanted), offered
    for title in offered:
        assert not any(bad in title.lower() for bad in NEVER)
        assert "screen of the coax" not in title
    assert "Never lift a safety earth" in hums[0].caution


def test_a_microphone_with_two_outputs_is_one_chassis():
    """What its USB joins is what its three-pin plug stands on."""
    station, *_ = CASES["a microphone on the mixer and on USB"]
    found = assess(station)
    assert found.rows[-1].hum_dbu is not None
    isolated = station.model_dump(mode="json")
    for link in isolated["links"]:
        if link["kind"] == "usb":
            link["joins"] = "isolated"
    quiet = assess(Station.model_validate(isolated))
    assert quiet.rows[-1].hum_dbu < found.rows[-1].hum_dbu - 20


@pytest.mark.parametrize("chain", ["hf-weak-data", "hf-receive"])
def test_the_way_round_a_loop_names_each_thing_once(demo, chain):
    """Two boxes, a lead of sound and two of USB: a lead is one lead, whatever joint is in it."""
    (loop,) = (f for f in verdict_of(demo, chain).findings if f.code == "earth-loop")
    way = loop.proof.partition("the way round: ")[2].split(" → ")
    assert len(way) == len(set(way)) == 6
    assert sum("USB lead" in name for name in way) == 2


def test_a_balanced_pad_between_unbalanced_boxes_is_built_anew_with_one_leg():
    """Its second resistor stands in the ground return: ground currents drop across it.

    An old hand builds an L-pad there, of the same loss, before buying an isolator. Where both legs
    arrive it is left alone.
    """
    pad = gear("u-pad", "u-pad", leg_ohm=4700, shunt_ohm=100)
    of_usb = gear("line-source", "dongle", supply="usb-computer", below_full_db=-24)
    radio = gear("microphone-socket", "radio", z_in_ohm=200)
    station = bench((of_usb, CABLE, pad, radio), distance_mm=30)
    found = assess(station)
    hums = [f for f in found.findings if f.code in ("earth-loop", "leakage-hum")]
    first = remedies(found, hums[0])[0]
    assert "L-pad" in first.title
    assert "ground return" in first.effect
    after = assess(first.change(station))
    assert "u-pad" not in [r.gear.kind for r in after.rows]
    assert after.rows[-1].speech_dbu == pytest.approx(found.rows[-1].speech_dbu, abs=1.0)
    assert after.rows[-1].hum_dbu < found.rows[-1].hum_dbu - 10

    balanced = mixer(output="balanced", gain_db=30)
    both = bench((MIC, CABLE, balanced, pad, radio))
    titles = [r.title for f in assess(both).findings for r in remedies(assess(both), f)]
    assert not any("in the place of the u pad" in t for t in titles), titles


@pytest.mark.parametrize(
    ("as_it_is", "tried"),
    [
        # thin braid: a heavier one; one core: a second one, its screen open at one end
        ({}, {"a heavy braid", "two cores"}),
        ({"screen_mohm_per_m": 5}, {"two cores"}),
        # the second core is there: its screen is opened
        ({"form": "two-core"}, {"a heavy braid", "Open the screen"}),
        # and open it is already
        ({"form": "two-core", "screen": "source-end", "screen_mohm_per_m": 5}, set()),
    ],
)
def test_of_a_lead_only_what_it_has_not_is_tried(as_it_is, tried):
    """Two boxes on the safety earth, joined by it: no field is about, so no star-quad either."""
    between = CABLE | {"id": "between"} | as_it_is
    path = (MIC, mixer(earth_emf_v=0.2, gain_db=50), between, PAD, data_radio("safety-earth"))
    loop = next(f for f in assess(bench(path)).findings if f.code == "earth-loop")
    titles = [x.title for x in loop.fixes]
    words = ("a heavy braid", "two cores", "Open the screen", "star-quad")
    assert {w for w in words if any(w in t for t in titles)} == tried
