"""The parts library: an entry for every kind, all of them generic, all of them solvable."""

import json
from importlib.resources import files
from pathlib import Path

import pytest

from tests.conftest import station_of
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.drawing.traced import loose_ends
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.library import parts_library
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
    sheet = draw_stage(gear, stage.net(), stage.inlet)
    assert sheet.symbols
    assert loose_ends(sheet) == []
