"""Unsaved work beside the station, and what differs, in words."""

import json
import os
from pathlib import Path

import pytest

from tonleiter.core.station.autosave import (
    found_autosaves,
    set_aside,
    sweep_own,
    write_autosave,
)
from tonleiter.core.station.compare import differences
from tonleiter.core.station.edits import (
    add_gear,
    change_chain,
    change_gear,
    change_station,
    remove_gear,
)


def by_a_dead_process(monkeypatch, station, folder, pid=4_000_000):
    monkeypatch.setattr(os, "getpid", lambda: pid)
    file = write_autosave(station, folder)
    monkeypatch.undo()
    return file


def test_what_a_dead_process_left_is_found_newest_first(demo, demo_folder, monkeypatch):
    first = by_a_dead_process(monkeypatch, change_station(demo, title="first"), demo_folder)
    data = json.loads(first.read_text("utf-8"))
    first.write_text(json.dumps(data | {"kept_at": "2026-01-01T10:00:00"}), "utf-8")
    by_a_dead_process(monkeypatch, change_station(demo, title="second"), demo_folder, 4_000_001)
    assert [a.station.title for a in found_autosaves(demo_folder, demo)] == ["second", "first"]


def test_what_holds_nothing_new_is_swept(demo, demo_folder, monkeypatch):
    file = by_a_dead_process(monkeypatch, demo, demo_folder)
    assert found_autosaves(demo_folder, demo) == []
    assert not file.exists()


def test_the_work_of_an_application_that_runs_is_its_own(demo, demo_folder, monkeypatch):
    file = by_a_dead_process(monkeypatch, change_station(demo, title="x"), demo_folder)
    data = json.loads(file.read_text("utf-8"))
    data["by"] |= {"pid": os.getppid(), "started": _started(os.getppid())}
    file.write_text(json.dumps(data), "utf-8")
    assert found_autosaves(demo_folder) == []
    # the same number, but another process by now
    data["by"]["started"] = "1"
    file.write_text(json.dumps(data), "utf-8")
    assert len(found_autosaves(demo_folder)) == 1


def _started(pid):
    return Path(f"/proc/{pid}/stat").read_text("ascii").rpartition(")")[2].split()[19]


@pytest.mark.parametrize("spoil", [b"", b"{", b"[]", b'{"format": "tonleiter-autosave"}', b"\xff"])
def test_what_cannot_be_read_is_set_aside_whole(demo, demo_folder, monkeypatch, spoil):
    file = by_a_dead_process(monkeypatch, change_station(demo, title="x"), demo_folder)
    file.write_bytes(spoil)
    assert found_autosaves(demo_folder, demo) == []
    (aside,) = set_aside(demo_folder)
    assert aside.read_bytes() == spoil
    assert not file.exists()
    assert set_aside(demo_folder) == []


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("2026-01-01T10:00:00", "2026-01-02T10:00:00+01:00"),
        ("2026-01-01T10:00:00Z", "2026-01-02T10:00:00"),
    ],
)
def test_one_with_a_zone_and_one_without_are_both_taken(demo, demo_folder, monkeypatch, one, other):
    for number, (when, title) in enumerate(((one, "old"), (other, "new"))):
        changed = change_station(demo, title=title)
        file = by_a_dead_process(monkeypatch, changed, demo_folder, 4_000_000 + number)
        data = json.loads(file.read_text("utf-8"))
        file.write_text(json.dumps(data | {"kept_at": when}), "utf-8")
    assert [a.station.title for a in found_autosaves(demo_folder, demo)] == ["new", "old"]


def test_what_another_application_may_be_writing_is_left_alone(demo, demo_folder, monkeypatch):
    changed = change_station(demo, title="x")
    file = by_a_dead_process(monkeypatch, changed, demo_folder, os.getppid())
    file.write_bytes(b"{")
    assert set_aside(demo_folder) == []
    assert file.exists()


def test_sweeping_takes_only_ones_own(demo, demo_folder, monkeypatch):
    theirs = by_a_dead_process(monkeypatch, change_station(demo, title="x"), demo_folder)
    mine = write_autosave(demo, demo_folder)
    sweep_own(demo_folder)
    assert theirs.exists()
    assert not mine.exists()


def test_differences_are_said_in_the_words_of_the_fields(demo):
    pad = demo.gear_by_id["pad"]
    assert differences(demo, demo) == []
    said = differences(demo, change_gear(demo, "pad", series_ohm=4700.0))
    assert said == [f"{pad.name}: Series 4.7 kΩ"]
    assert differences(demo, remove_gear(demo, "equaliser"))[0].endswith("removed")
    assert "added" in differences(demo, add_gear(demo, pad))[0]
    assert differences(demo, change_station(demo, title="x")) == ["title"]
    moved = change_chain(demo, "hf-chat", distance_mm=99.0)
    assert differences(demo, moved) == [f"chain “{demo.chain('hf-chat').name}”: distance"]


def test_many_differences_are_counted(demo):
    changed = demo
    for piece in demo.gear[:9]:
        changed = change_gear(changed, piece.id, notes="seen")
    said = differences(demo, changed)
    assert len(said) == 5
    assert said[-1] == "5 more"
