"""Hum over the station's grounds against sums done by hand: other boxes, leads that carry no sound.

Every case is drawn as its loop of resistors; the EMFs are those of the earths and of USB data.
"""

import math

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.earthing import COMB_V, EARTH_OHM
from tonleiter.core.gear.net import AIR, Chassis, Port, StageNet
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.judge.loop_words import loop_names
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.hum import EARTH_SHAPE
from tonleiter.core.solve.loops import closes_a_loop, hum_loops
from tonleiter.core.solve.solution import solve_chain
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import volts_from_dbu

SCREEN_OHM = 2 * 25e-3
COMB = math.sqrt(sum(1 / n**2 for n in range(1, 9)))
EARTH = math.sqrt(sum(a * a for a in EARTH_SHAPE))


def with_boxes(station, devices, links, **changes):
    data = station.model_dump(mode="json")
    named = {d["id"] for d in devices}
    data["devices"] = [d for d in data["devices"] if d["id"] not in named] + devices
    data["links"] = links
    return Station.model_validate(data | changes)


def link(link_id, a, b, kind="usb", **fields):
    return {"id": link_id, "name": link_id, "kind": kind, "a": a, "b": b} | fields


def box_and_radio(supply="lead", **more):
    """A USB box on a data lead to a radio; what each is fed by; no sound of its own hums."""
    return station_of(
        gear("line-source", "box", supply=supply, earth_emf_v=0, z_out_ohm=100, output_f=1.0),
        gear("cable", "lead", length_m=2, screen_mohm_per_m=25, field_ut=0),
        gear("data-socket", "radio", z_in_ohm=10e3, supply=supply),
        **more,
    )


def computer(supply="battery"):
    return {"id": "laptop", "name": "laptop", "kind": "computer", "supply": supply}


def usb_loop(**second):
    leads = [
        link("box-usb", "box", "laptop", ohm=0.1),
        link("radio-usb", "radio", "laptop", **{"ohm": 0.15} | second),
    ]
    return with_boxes(box_and_radio(), [computer()], leads)


def loops_of(station):
    solution = solve_chain(compile_chain(station))
    return hum_loops(solution.compiled, solution.linear), solution


def test_a_loop_of_two_usb_leads():
    """I = E/(R1 + R2 + Rs) of each lead's comb; its drop along the screen meets the signal."""
    loops, solution = loops_of(usb_loop())
    amps = COMB_V * COMB * math.sqrt(2) / (0.1 + 0.15 + SCREEN_OHM)
    assert loops[0].current_a == pytest.approx(amps, rel=1e-3)
    wanted = amps * SCREEN_OHM * 10e3 / (10e3 + 100.16)
    assert solution.hum.total_v[-1] == pytest.approx(wanted, rel=1e-3)
    assert loops[0].share == pytest.approx(1.0, abs=1e-6)
    assert loops[0].owners("link") in (("box-usb", "radio-usb"), ("radio-usb", "box-usb"))
    assert loops[0].owners("stage") == ("lead",)


def test_the_loop_is_named_by_its_leads():
    """In the order of the current, from the radio round to its other lead."""
    station = usb_loop()
    loops, solution = loops_of(station)
    names = loop_names(station, solution.compiled, loops[0])
    ways = ["radio", "lead", "box", "box-usb", "laptop", "radio-usb"]
    assert list(names) in (ways, [ways[0], *reversed(ways[1:])])


@pytest.mark.parametrize("change", [{"joins": "isolated"}, {"kind": "data", "joins": "one-end"}])
def test_an_open_lead_breaks_the_loop(change):
    assert closes_a_loop(compile_chain(usb_loop()))
    opened = usb_loop(**change)
    assert not closes_a_loop(compile_chain(opened))
    before, after = (loops_of(s)[1].hum.total_v[-1] for s in (usb_loop(), opened))
    assert after < 1e-4 * before


def test_a_ring_core_meets_the_comb_with_its_inductance():
    """Each line of the comb meets |R + jωL| instead of R."""
    cored = usb_loop(core="ring-core")
    ohm = 0.1 + 0.15 + SCREEN_OHM
    orders = np.arange(1, 9)
    lines = COMB_V / orders / np.abs(ohm + 2j * np.pi * 1000 * orders * 10e-3)
    wanted = math.sqrt(2 * float((lines**2).sum())) * SCREEN_OHM * 10e3 / (10e3 + 100.16)
    assert loops_of(cored)[1].hum.total_v[-1] == pytest.approx(wanted, rel=1e-3)


def test_two_leads_between_the_same_two_boxes_share_the_current():
    """A strap of 5 mΩ beside the USB lead of 150 mΩ carries most of it; the drop falls."""
    leads = [
        link("box-usb", "box", "laptop", ohm=0.1),
        link("radio-usb", "radio", "laptop", ohm=0.15),
        link("strap", "radio", "laptop", "strap", ohm=0.005),
    ]
    strapped = with_boxes(box_and_radio(), [computer()], leads)
    both = 1 / (1 / 0.15 + 1 / 0.005)
    # two EMFs: one in its own lead, one divided by the lead and the strap beside it
    first = COMB_V / (0.1 + both + SCREEN_OHM)
    second = COMB_V / 0.15 * both / (0.1 + both + SCREEN_OHM)
    wanted = math.hypot(first, second) * COMB * SCREEN_OHM * 10e3 / (10e3 + 100.16)
    assert loops_of(strapped)[1].hum.total_v[-1] == pytest.approx(wanted, rel=1e-3)


def test_an_earth_far_along_the_leads():
    """The laptop's own safety earth with 4 mV in it, through USB, screen and the radio's supply."""
    supply = {"id": "psu", "name": "supply", "kind": "supply", "supply": "safety-earth"}
    laptop = computer("safety-earth") | {"earth_emf_v": 4e-3}
    leads = [
        link("box-usb", "box", "laptop", "data", ohm=0.1),
        link("feed", "psu", "radio", "supply", ohm=0.02),
    ]
    station = with_boxes(box_and_radio(), [supply, laptop], leads)
    loops, solution = loops_of(station)
    amps = 4e-3 * EARTH / (2 * EARTH_OHM + 0.1 + 0.02 + SCREEN_OHM)
    assert loops[0].current_a == pytest.approx(amps, rel=2e-3)
    assert set(loops[0].owners("earth")) == {"psu", "laptop"}
    names = loop_names(station, solution.compiled, loops[0])
    assert names[0] == "radio"
    assert {"the safety earth", "feed", "box-usb", "lead"} <= set(names)


def test_what_no_lead_reaches_cannot_hum():
    far = {"id": "fridge", "name": "fridge", "supply": "safety-earth", "earth_emf_v": 1.0}
    alone = with_boxes(box_and_radio(), [far, computer()], [link("x", "fridge", "laptop")])
    assert loops_of(alone)[1].hum.total_v[-1] == 0.0


def test_two_sockets_of_one_box_are_one_chassis():
    """A radio's own loudspeaker back into its own input: one earth, and no loop between the two."""
    station = station_of(
        gear("loudspeaker-output", "out", supply="safety-earth", earth_emf_v=10e-3),
        gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100),
        gear("cable", "lead", length_m=2, screen_mohm_per_m=25, field_ut=0),
        gear("data-socket", "in", supply="safety-earth"),
    )
    apart = solve_chain(compile_chain(station)).hum.total_v[-1]
    data = station.model_dump(mode="json")
    data["devices"] = [
        {
            "id": "radio",
            "name": "radio",
            "kind": "radio",
            "supply": "safety-earth",
            "earth_emf_v": 10e-3,
            "ports": ["out", "in"],
        }
    ]
    joined = Station.model_validate(data)
    assert len(joined.devices) == 1
    assert solve_chain(compile_chain(joined)).hum.total_v[-1] < 1e-3 * apart


def test_the_finding_names_the_loop_and_its_remedies_act_on_the_lead():
    before = assess(usb_loop())
    finding = next(f for f in before.findings if f.code == "earth-loop")
    assert "box-usb" in finding.says
    assert "→ laptop →" in finding.proof
    titles = {r.title: r for r in remedies(before, finding)}
    assert any("USB isolator" in t for t in titles)
    assert not any("safety earth" in t.lower() for t in titles)
    isolator = next(r for t, r in titles.items() if "USB isolator" in t)
    after = isolator.change(before.station)
    assert {x.joins for x in after.links} == {"both-ends", "isolated"}
    assert not closes_a_loop(compile_chain(after))


def test_long_chains_take_the_same_grounds():
    """Solved stage by stage, the network around the chain leaves what it leaves in one matrix."""
    import tonleiter.core.solve.solution as module

    station = usb_loop()
    dense = solve_chain(compile_chain(station))
    kept, module.CASCADE_FROM = module.CASCADE_FROM, 1
    try:
        rows = solve_chain(compile_chain(station))
    finally:
        module.CASCADE_FROM = kept
    assert rows.hum.at_end_v == pytest.approx(dense.hum.at_end_v, rel=1e-6, abs=1e-15)
    assert rows.hum.total_v[-1] == pytest.approx(dense.hum.total_v[-1], rel=1e-6)


# --- chains that are plugged at the same time ----------------------------------------------------


def two_chains(**second):
    """One microphone on two radios: its own lead to each."""
    mic = gear("dynamic-microphone", "mic", coil_ohm=600)
    near, far = (
        gear("microphone-socket", "near", z_in_ohm=600),
        gear("microphone-socket", "far", z_in_ohm=600, supply="battery"),
    )
    station = station_of(mic, near)
    data = station.model_dump(mode="json")
    data["gear"].append(far)
    other = {**data["chains"][0], "id": "d", "name": "other", **second}
    other["variants"] = [{"id": "v", "name": "v", "stages": [{"gear": "mic"}, {"gear": "far"}]}]
    data["chains"].append(other)
    return Station.model_validate(data)


def test_a_second_radio_on_the_same_microphone_loads_it():
    """600 Ω behind 600 Ω gives a half; two such loads, a third: 3.5 dB less."""
    apart = assess(two_chains()).rows[-1].speech_dbu
    together = assess(two_chains(stays_plugged=True)).rows[-1].speech_dbu
    assert apart - together == pytest.approx(20 * math.log10(1.5), abs=0.05)


def test_a_chain_into_the_same_socket_is_not_plugged_at_once(demo):
    before = assess(demo, "am-museum-day", "piezo").rows[-1].speech_dbu
    data = demo.model_dump(mode="json")
    for chain in data["chains"]:
        chain["stays_plugged"] = chain["id"] == "am-driver"
    after = assess(Station.model_validate(data), "am-museum-day", "piezo").rows[-1].speech_dbu
    # the piezo microphone feeds the driver too: its half megohm is a load
    assert after < before
    data["chains"][2]["variants"][0]["stages"] = [{"gear": "piezo-desk"}, {"gear": "museum-grid"}]
    same = assess(Station.model_validate(data), "am-driver", "wide")
    assert same.rows[-1].speech_dbu == pytest.approx(
        assess(demo, "am-driver", "wide").rows[-1].speech_dbu
    )


def test_nobody_speaks_into_what_stays_plugged():
    """Another microphone on the same radio's other socket adds nothing to the voice."""
    station = station_of(
        gear("dynamic-microphone", "mic"),
        gear("microphone-socket", "radio"),
    )
    data = station.model_dump(mode="json")
    data["gear"] += [
        gear("line-source", "player", supply="battery"),
        gear("data-socket", "data", supply="safety-earth"),
    ]
    data["devices"] = [
        {
            "id": "set",
            "name": "set",
            "kind": "radio",
            "supply": "safety-earth",
            "ports": ["radio", "data"],
        }
    ]
    data["chains"].append(
        {
            **data["chains"][0],
            "id": "d",
            "name": "data",
            "stays_plugged": True,
            "variants": [
                {"id": "v", "name": "v", "stages": [{"gear": "player"}, {"gear": "data"}]}
            ],
        }
    )
    both = Station.model_validate(data)
    assert len(compile_chain(both, "c").beside) == 2
    alone = assess(station).rows[-1].speech_dbu
    assert assess(both, "c").rows[-1].speech_dbu == pytest.approx(alone, abs=1e-6)


# --- what has a chassis ---------------------------------------------------------------------------


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_what_is_a_socket_of_a_box_has_a_chassis(kind):
    fields = {"cards": "a divider\nR1 in out 1k\nR2 out 0 1k\n"} if kind == "own-circuit" else {}
    piece = KINDS[kind](id="x", name="x", **fields)
    inlet = Port(AIR, "0") if piece.role == "microphone" else Port("in", "cold")
    net = StageNet("x", inlet, piece.outlet(inlet))
    piece.build(net)
    assert any(isinstance(m, Chassis) for m in net.marks) == (piece.device is not None)


def test_hum_level_of_a_row_is_the_sum_of_its_sources():
    after = assess(usb_loop())
    parts = math.sqrt(sum(v * v for v in after.solution.hum.at_end_v.values()))
    assert volts_from_dbu(after.rows[-1].hum_dbu) == pytest.approx(parts, rel=1e-9)
