"""Proving as data, and its sentences: brackets, hidden faults, what to do next."""

import json
import math
from types import SimpleNamespace

import pytest

from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof
from tonleiter.core.prove.say import headline, next_says, remedy
from tonleiter.core.report.proving import OPEN, faults_report, proof_report


@pytest.fixture(scope="module")
def proof():
    return Proof(verdict_of(station(mic(), lead(), radio())), 0)


@pytest.fixture(scope="module")
def cut(proof):
    """What a lead reads whose hot core is cut."""
    return next(f.id for f in proof.bench.faults[1:] if f.kind in ("open", "broken"))


def told(*args):
    report = proof_report(*args)
    json.dumps(report, allow_nan=False)
    return report


def test_of_a_right_build_each_value_lies_between_its_brackets(proof):
    rows = told(proof, None, None)["readings"]
    assert len({row["id"] for row in rows}) == len(rows) == len(proof.readings)
    for row in rows:
        values = [math.inf if row[k] == OPEN else row[k] for k in ("low", "value", "high")]
        assert None in values or values == sorted(values), row
    assert OPEN in [row["value"] for row in rows], "two conductors do not touch"
    assert all(row["says"] and row["unit"] for row in rows)


def test_a_hidden_fault_shows_and_is_named_by_its_readings(proof, cut):
    rows = told(proof, None, cut)["readings"]
    right = {row["id"]: row["value"] for row in told(proof, None, None)["readings"]}
    assert {row["id"] for row in rows if row["value"] != right[row["id"]]}
    read = {k: v for k, v in proof.shown(proof.fault(cut)).items() if not math.isnan(v)}
    report = told(proof, read, None)
    first = report["faults"][0]
    assert cut in (first["id"], *first["equals"])
    assert report["right"] < 0.01
    assert report["headline"].endswith(".")
    assert "Move the lead and press on each joint" in report["remedy"]


def test_as_predicted_is_said_and_nothing_is_to_be_done(proof):
    read = {r.id: float(v) for r, v in zip(proof.readings, proof.predicted.nominal, strict=True)}
    report = told(proof, {k: v for k, v in read.items() if not math.isnan(v)}, None)
    assert report["right"] > 0.5
    assert report["headline"].endswith("as predicted.")
    assert report["remedy"] == ""


def test_each_fault_that_can_be_hidden_says_whether_it_can_be_told(proof):
    faults = faults_report(proof)["faults"]
    untold = set(proof.bench.untold())
    assert len(faults) == len(proof.bench.faults) - 1
    assert {f["id"] for f in faults if not f["told"]} == untold


# --- sentences -----------------------------------------------------------------------------------


def ranking(says="right", short="", read=3, kind="open", together=0.6, worst=()):
    fault = SimpleNamespace(says="C1 is open", kind=kind)
    first = SimpleNamespace(fault=fault, worst=worst)
    return SimpleNamespace(
        says=says, short=short, read=read, groups=lambda _least: ((together, first),)
    )


@pytest.mark.parametrize(
    ("says", "off", "wanted"),
    [
        ("nothing read", 0, "Nothing is read yet: begin with your eyes, then ring it out."),
        ("fault", 1, "1 reading disagrees: most likely C1 is open."),
        ("fault", 2, "2 readings disagree: most likely C1 is open."),
        (
            "fault",
            0,
            "Each reading is in its bracket, together they are not: most likely C1 is open.",
        ),
        (
            "unsure",
            1,
            "1 reading disagrees: perhaps C1 is open (60%). The next reading tells more.",
        ),
        ("unsure", 0, "Not clear yet: perhaps C1 is open (60%). The next reading tells more."),
        ("right", 0, "3 readings are as predicted."),
        (
            "right",
            1,
            "1 reading at the edge of what parts and meter allow: taken together they fit a right"
            " build.",
        ),
    ],
)
def test_what_it_comes_to(says, off, wanted):
    assert headline(ranking(says), off) == wanted


def test_the_odd_one_is_named_where_it_is_known():
    assert headline(ranking("strange"), 2, "C of Q1").endswith("read the odd one again: C of Q1.")
    assert headline(ranking("strange"), 2).endswith("read the odd one again.")


@pytest.mark.parametrize(
    ("short", "begins"), [("ohms", "Do not power it"), ("current", "Switch the supply off")]
)
def test_a_short_comes_before_everything(short, begins):
    said = ranking("fault", short)
    assert headline(said, 3).startswith(begins)
    assert "likeliest: C1 is open" in remedy(said)
    assert "likeliest" not in remedy(ranking("fault", short, worst=("dc A",)))


@pytest.mark.parametrize(
    ("says", "kind", "moves"),
    [
        ("fault", "dry", True),
        ("unsure", "broken", True),
        ("fault", "value", False),
        ("right", "open", False),
    ],
)
def test_only_what_comes_and_goes_is_moved(says, kind, moves):
    assert remedy(ranking(says, kind=kind)).startswith("Move the lead") is moves


def test_what_to_read_next_says_why():
    ohms = SimpleNamespace(says="A to B", first=True)
    volts = SimpleNamespace(says="volts at C", first=False)
    assert next_says(ohms, "") == "Read next: A to B; before there is power."
    assert next_says(volts, "Red on C.") == "Read next: volts at C; it tells most. Red on C."
