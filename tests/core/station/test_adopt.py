"""Paths become chains and variants; gear comes and goes without breaking what uses it."""

import pytest

from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.assess import assess
from tonleiter.core.match.terms import lead_for, usual_terms
from tonleiter.core.plan.search import plan
from tonleiter.core.station import edits
from tonleiter.core.station.adopt import adopt_path

LIBRARY = parts_library()


def adopt(station, pieces, name="plan", purpose="fm-voice"):
    return adopt_path(station, pieces, name, purpose, "high-voice", 40.0)


def straight(demo, source="stage-dynamic", socket="fm-mobile"):
    by_id = demo.gear_by_id
    return (by_id[source], lead_for(by_id[source]), by_id[socket])


def test_a_new_pair_becomes_a_chain_that_is_open(demo):
    station = adopt(demo, straight(demo))
    chain = station.chain()
    assert chain.name == "stage dynamic on the FM mobile"
    assert chain.purpose == "fm-voice"
    assert [s.gear for s in chain.variant().stages][::2] == ["stage-dynamic", "fm-mobile"]
    assert len(station.gear) == len(demo.gear) + 1  # the lead


def test_a_second_path_of_the_same_pair_is_a_variant_with_the_first_as_ghost(demo):
    first = adopt(demo, straight(demo), "straight in")
    before = first.chain()
    source, lead, socket = straight(demo)
    pad = LIBRARY["l-pad-40db"]
    second = adopt(first, (source, lead, pad, socket), "with a pad")
    chain = second.chain()
    assert chain.id == before.id
    assert len(chain.variants) == 2
    assert chain.ghost == before.shown
    assert chain.variant().name == "with a pad"


def test_the_same_path_is_not_added_twice(demo):
    source, _, socket = straight(demo)
    once = adopt(demo, (source, socket))
    twice = adopt(once, (source, socket))
    assert len(twice.chain().variants) == 1


def test_an_owned_box_set_otherwise_is_set_at_its_stage_only(demo):
    source, lead, socket = straight(demo)
    louder = demo.gear_by_id["desk-mixer"].with_values({"gain_db": 31})
    station = adopt(demo, (source, lead, louder, socket))
    assert station.gear_by_id["desk-mixer"].gain_db.value == 44
    assert station.chain().variant().stages[2].set["gain_db"] == 31


@pytest.mark.long
def test_a_plan_is_adopted_as_it_was_computed(demo):
    terms = usual_terms(demo, "ssb-chat")
    best = plan(demo, "logging-laptop", "hf-set", terms, "simple").best[0]
    station = adopt_path(
        demo, best.pieces, best.title(), terms.purpose, terms.operator, terms.distance_mm
    )
    after = assess(station)
    planned = best.assessment.rows[-1]
    assert after.rows[-1].speech_dbu == pytest.approx(planned.speech_dbu, abs=0.05)
    assert after.rows[-1].snr_db == pytest.approx(planned.snr_db, abs=0.05)


# --- the shelf ------------------------------------------------------------------------------------


def test_gear_is_added_under_a_fresh_id(demo):
    copy = demo.gear_by_id["stage-dynamic"]
    station = edits.add_gear(demo, copy)
    assert station.gear[-1].id == "stage-dynamic-2"


def test_uses_are_named_as_people_would(demo):
    assert edits.uses_of(demo, "pad") == (
        "HF, evening round, as wired",
        "HF, evening round, with transformer",
    )
    assert edits.uses_of(demo, "equaliser") == ()


def test_removing_a_part_leaves_its_chains_without_it(demo):
    station = edits.remove_gear(demo, "isolator")
    stages = station.chain("hf-chat").variant("with-transformer").stages
    assert "isolator" not in [s.gear for s in stages]
    assert "isolator" not in station.gear_by_id


def test_removing_an_end_takes_the_variants_that_need_it(demo):
    station = edits.remove_gear(demo, "piezo-desk")
    assert [v.id for v in station.chain("am-museum-day").variants] == ["handset"]
    assert station.chain("am-museum-day").shown == "handset"
    assert station.chain("am-museum-day").ghost is None
    assert "am-driver" not in [c.id for c in station.chains]


def test_removing_the_open_chains_only_source_opens_no_missing_chain(demo):
    station = edits.remove_gear(demo, "hf-set")
    assert station.open_chain is None
    assert station.chain().id in [c.id for c in station.chains]
