"""The parts library: an entry for every kind, all of them generic, all of them solvable."""

import json
from importlib.resources import files
from pathlib import Path

import pytest

from tests.conftest import station_of
from tonleiter.app.widgets.schematic.layout import lay_out
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.net import Port, StageNet
from tonleiter.core.judge.assess import assess
from tonleiter.core.report.results import stage_results

LIBRARY = parts_library()
MIC = LIBRARY["stage-dynamic-300"]
RADIO = LIBRARY["valve-socket"]


def test_every_kind_has_an_entry():
    assert {type(g) for g in LIBRARY.values()} == set(KINDS.values())


def test_every_kind_has_its_line_among_the_sources():
    text = (Path(__file__).resolve().parents[3] / "docs/physics.md").read_text("utf-8")
    assert [kind for kind in KINDS if f"`{kind}`" not in text] == []


def test_ids_are_unique_over_all_files():
    raw = [
        entry["id"]
        for file in (files("tonleiter") / "library").iterdir()
        if file.name.endswith(".json")
        for entry in json.loads(file.read_text("utf-8"))
    ]
    assert len(raw) == len(set(raw)) == len(LIBRARY)


@pytest.mark.parametrize("id", sorted(LIBRARY))
def test_every_entry_works_in_a_chain_and_can_be_drawn_and_inspected(id):
    gear = LIBRARY[id]
    stages = {"microphone": (gear, RADIO), "between": (MIC, gear, RADIO), "input": (MIC, gear)}
    assessment = assess(station_of(*(g.model_dump(mode="json") for g in stages[gear.role])))
    index = [r.id for r in assessment.rows].index(id)
    assert stage_results(assessment, index)
    stage = assessment.solution.compiled.stages[index]
    net = StageNet(stage.id, stage.inlet, stage.outlet)
    gear.build(net)
    slots = lay_out(net).slots
    assert slots
    drawn = [s.inline.kind for s in slots if s.inline] + [p.kind for s in slots for p in s.hanging]
    assert drawn
    # whatever stands in the signal's way is drawn all the way to the outlet
    if gear.role == "between":
        assert any(s.inline for s in slots)


@pytest.mark.parametrize(
    "id, kinds",
    [
        ("u-pad-40db", {"resistor"}),
        ("phantom-box", {"capacitor"}),
        ("two-core-5m", {"resistor"}),
        ("l-pad-40db", set()),
    ],
)
def test_a_balanced_piece_is_drawn_with_both_legs(id, kinds):
    gear = LIBRARY[id]
    inlet = Port("in", "in-cold", "in-screen")
    net = StageNet(gear.id, inlet, gear.outlet(inlet))
    gear.build(net)
    assert {s.cold.kind for s in lay_out(net).slots if s.cold} == kinds
