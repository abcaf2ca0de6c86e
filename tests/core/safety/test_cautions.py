"""Each caution once, and who must be warned by what a thing is, never by its name."""

import pathlib
import re

import pytest

import tonleiter
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.worksheet import worksheets
from tonleiter.core.safety.cautions import CAUTIONS, caution
from tonleiter.core.station import boxes, edits

LETHAL = CAUTIONS["lethal-volts"]
SOURCES = sorted(pathlib.Path(tonleiter.__file__).parent.rglob("*.py"))


def cautions_on_paper(of):
    found = verdict_of(of)
    return [s.caution for sheet in worksheets(found, "2026-05-02") for s in sheet.steps]


def test_a_name_warns_of_nothing_and_hides_nothing():
    named = edits.change_gear(station(mic(), lead(), radio()), "radio", name="valve museum set")
    assert LETHAL not in cautions_on_paper(named)
    box = named.device_by_port["radio"].id
    lethal = boxes.change_device(named, box, inside="lethal-voltage")
    lethal = edits.change_gear(lethal, "radio", name="plain old set")
    assert LETHAL in cautions_on_paper(lethal)


def test_several_hazards_are_said_the_gravest_first():
    said = caution("eyes", "lethal-volts", "eyes")
    assert said.startswith(LETHAL)
    assert said.count(CAUTIONS["eyes"]) == 1
    assert caution() == ""


@pytest.mark.parametrize("hazard", list(CAUTIONS))
def test_no_other_room_words_a_caution_of_its_own(hazard):
    """The first words of each caution stand in one file of the whole program."""
    begins = re.escape(CAUTIONS[hazard][:24])
    holders = [p.name for p in SOURCES if re.search(begins, p.read_text("utf-8"))]
    assert holders == ["cautions.py"]
