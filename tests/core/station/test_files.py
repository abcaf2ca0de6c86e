"""Saving and loading; everything that is refused is refused in one line and loses nothing."""

import errno
import json
import os
import re
from pathlib import Path
from typing import get_args

import jsonschema
import pytest

from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.edits import change_chain
from tonleiter.core.station.files import read_station, save_station, to_json
from tonleiter.core.station.migrate import MIGRATIONS
from tonleiter.core.station.model import VERSION, Station
from tonleiter.core.station.records import Records
from tonleiter.core.station.schema import records_schema, station_schema


def write(folder: Path, data) -> Path:
    text = data if isinstance(data, str) else json.dumps(data)
    (folder / "station.json").write_text(text, "utf-8")
    return folder


def contents(folder: Path) -> dict[Path, bytes]:
    return {p: p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def refusal(folder: Path) -> str:
    before = contents(folder)
    with pytest.raises(FileError) as error:
        read_station(folder)
    assert contents(folder) == before
    line = str(error.value)
    assert "\n" not in line
    return line


def test_saved_and_read_again_it_is_the_same(demo, tmp_path):
    edited = change_chain(demo, "hf-chat", distance_mm="45 mm")
    save_station(edited, tmp_path / "new.station")
    assert read_station(tmp_path / "new.station").station == edited


def test_the_file_itself_may_be_named(demo_folder, demo):
    assert read_station(demo_folder / "station.json").station == demo


def test_no_station_there(tmp_path):
    assert "there is no station here" in refusal(tmp_path / "nowhere")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("{", "line 1, column 2: not JSON"),
        ('{\n "format": "tonleiter-station",\n oops\n}', "line 3"),
        ("[]", "a JSON object"),
        ('{"format": NaN}', "NaN is not a number that JSON knows"),
        ("[" * 100_000, "not JSON"),
        ("{}", "“format” must be"),
    ],
)
def test_not_a_station_at_all(tmp_path, text, words):
    assert words in refusal(write(tmp_path, text))


def test_not_text(tmp_path):
    (tmp_path / "station.json").write_bytes(b'{"title": "\xff\xfe"}')
    assert "byte 11 is not UTF-8" in refusal(tmp_path)


def test_newer_version_is_left_untouched(demo_data, demo_folder):
    demo_data["version"] = VERSION + 1
    line = refusal(write(demo_folder, demo_data))
    assert f"newer Tonleiter (version {VERSION + 1}" in line
    assert "left untouched" in line


@pytest.mark.parametrize("version", ["1", True, None, -3, 1.5])
def test_a_version_that_is_none(demo_data, demo_folder, version):
    demo_data["version"] = version
    assert "“version” must be a whole number" in refusal(write(demo_folder, demo_data))


def spoil(data, path, value):
    *parents, last = path
    for part in parents:
        data = data[part]
    if value is None:
        del data[last]
    else:
        data[last] = value


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        (("colour",), "red", "unknown key “colour”; known keys: format, version, title"),
        (("gear", 5, "serie_ohm"), 5, "gear 6 “pad”: unknown key “serie_ohm”; known keys: id"),
        (("gear", 5, "series_ohm"), "4kk7", "gear 6 “pad” series_ohm: “4kk7” is not a resistance"),
        (("gear", 5, "series_ohm"), [], "gear 6 “pad” series_ohm: [] is not an object"),
        (("gear", 5, "kind"), "y-pad", "no kind of gear called “y-pad”; known: dynamic-microphone"),
        (("gear", 5, "kind"), None, "gear 6 “pad”: “kind” is missing"),
        (("gear", 5, "name"), None, "gear 6 “pad”: “name” is missing"),
        (("gear", 5, "id"), "Pad 1", "is not an id; small letters"),
        (("gear", 5, "id"), "cable-5m", "gear: “cable-5m” is there twice"),
        (("gear",), {}, "gear: {} is not a list"),
        (("gear", 5), "pad", "gear 6"),
        (("title",), 5, "title: 5 is not a text"),
        (("mains_hz",), 55, "mains_hz: 55 is not one of 50 or 60"),
        (("operators",), [], "operators: at least 1 wanted"),
        (("operators", 0, "effort"), "mumbling", "is not one of 'soft'"),
        (("chains", 0, "operator"), "nobody", "there is no operator called “nobody”; known: deep"),
        (("chains", 0, "shown"), "zzz", "there is no variant called “zzz”"),
        (("chains", 0, "band_hz"), [300], "two frequencies from 20 to 20000"),
        (("chains", 0, "distance_mm"), 0, "at least 1 mm is wanted"),
        (("open_chain",), "x", "there is no chain called “x”"),
        (
            ("chains", 0, "variants", 0, "stages", 3, "gear"),
            "pad-9",
            "chain hf-chat, variant as-wired, stage 4: there is no gear called “pad-9”; known:",
        ),
        (
            ("chains", 0, "variants", 0, "stages", 3, "set"),
            {"series_ohm": "zz"},
            "stage 4: series_ohm: “zz” is not a resistance",
        ),
        (
            ("chains", 0, "variants", 0, "stages", 0, "gear"),
            "pad",
            "stage 1: a L-pad cannot stand there",
        ),
    ],
)
def test_what_is_wrong_and_where(demo_data, demo_folder, path, value, words):
    spoil(demo_data, path, value)
    assert words in refusal(write(demo_folder, demo_data))


def test_unwritable_folder(demo, tmp_path, monkeypatch):
    def denied(*args, **kwargs):
        raise PermissionError(errno.EACCES, "denied")

    monkeypatch.setattr(os, "open", denied)
    with pytest.raises(FileError, match="no permission; nothing there was changed"):
        save_station(demo, tmp_path)


def test_a_file_where_the_folder_should_be(demo, tmp_path):
    (tmp_path / "x").write_text("mine")
    with pytest.raises(FileError, match="cannot be saved"):
        save_station(demo, tmp_path / "x")
    assert (tmp_path / "x").read_text() == "mine"


@pytest.mark.parametrize("at", ["fsync", "replace"])
def test_full_disk_leaves_the_old_file_and_no_rest(demo, demo_folder, monkeypatch, at):
    before = (demo_folder / "station.json").read_bytes()
    names = sorted(p.name for p in demo_folder.iterdir())

    def full(*args, **kwargs):
        raise OSError(errno.ENOSPC, "No space left on device")

    if at == "fsync":
        monkeypatch.setattr(os, "fsync", full)
    else:
        monkeypatch.setattr(Path, "replace", full)
    with pytest.raises(FileError, match="the disk is full"):
        save_station(change_chain(demo, "hf-chat", distance_mm=99), demo_folder)
    assert (demo_folder / "station.json").read_bytes() == before
    assert sorted(p.name for p in demo_folder.iterdir()) == names


def test_what_somebody_else_saved_meanwhile_is_kept(demo, demo_folder):
    opened = read_station(demo_folder)
    theirs = (demo_folder / "station.json").read_text("utf-8").replace("evening", "morning")
    (demo_folder / "station.json").write_text(theirs, "utf-8")
    saved = save_station(demo, demo_folder, opened.fingerprint)
    (kept,) = (p for p in saved.kept if p.name.startswith("station"))
    assert kept.read_text("utf-8") == theirs
    assert read_station(demo_folder).station == demo


def test_older_versions_are_backed_up_then_migrated(demo_data, demo_folder):
    """A made-up version 0 called the title a name."""
    old = dict(demo_data, version=0)
    old["name"] = old.pop("title")
    write(demo_folder, old)

    def from_0(data):
        return {("title" if k == "name" else k): v for k, v in data.items()}

    opened = read_station(demo_folder, migrations=MIGRATIONS | {0: from_0})
    assert opened.station.title == demo_data["title"]
    assert opened.backup is not None
    assert json.loads(opened.backup.read_text("utf-8")) == old
    # a second opening finds the backup there and does not overwrite it
    opened.backup.write_text("first", "utf-8")
    read_station(demo_folder, migrations=MIGRATIONS | {0: from_0})
    assert opened.backup.read_text("utf-8") == "first"


def test_version_1_is_brought_up_to_date(demo_data, demo_folder):
    old = dict(demo_data, version=1)
    del old["drawer"]
    write(demo_folder, old)
    opened = read_station(demo_folder)
    assert opened.station.drawer.series == "E12"
    assert opened.station.version == VERSION
    assert json.loads(opened.backup.read_text("utf-8"))["version"] == 1


def test_words_of_version_2_become_tokens(demo_data, demo_folder):
    """In pieces and in what a stage sets; names and notes with the same words stay."""
    old = {k: v for k, v in demo_data.items() if k not in ("devices", "links")} | {"version": 2}
    words = {
        "safety-earth": "safety earth",
        "double-insulated": "double insulated",
        "lead": "computer on USB",
    }
    for piece in old["gear"]:
        if "supply" in piece:
            piece["supply"] = words.get(piece["supply"], piece["supply"])
    old["gear"][0] |= {"name": "all round", "notes": "safety earth", "pattern": "all round"}
    stage = old["chains"][0]["variants"][0]["stages"][1]
    stage["set"] = {"form": "two cores", "screen": "source end"}
    write(demo_folder, old)
    station = read_station(demo_folder).station
    first = station.gear[0]
    assert (first.name, first.notes, first.pattern) == ("all round", "safety earth", "all-round")
    assert {g.supply for g in station.gear if hasattr(g, "supply")} >= {
        "safety-earth",
        "double-insulated",
        "usb-computer",
    }
    lead = station.placed(station.chains[0].variants[0].stages[1])
    assert (lead.form, lead.screen) == ("two-core", "source-end")


def test_every_choice_is_a_token_with_a_label():
    """Tokens stand in files: lower case and hyphens; what people read has none."""
    tokens = {
        token
        for kind in KINDS.values()
        for name, info in kind.model_fields.items()
        if name != "kind"
        for token in get_args(info.annotation)
        if isinstance(token, str)
    }
    assert len(tokens) > 30
    assert [t for t in tokens if not re.fullmatch(r"[a-z0-9]+(-[a-z0-9]+)*", t)] == []
    assert label_of("usb-computer") == "computer on USB"
    assert label_of("safety-earth") == "safety earth"


DAMAGE = (
    {"gear": 3},
    {"gear": [4]},
    {"chains": [{"variants": 1}]},
    {"chains": "x"},
    {"gear": [{"supply": ["safety earth"]}]},
)


@pytest.mark.parametrize("damage", DAMAGE)
def test_damaged_files_of_version_2_are_refused_in_one_line(demo_data, demo_folder, damage):
    line = refusal(write(demo_folder, dict(demo_data, version=2) | damage))
    assert "\n" not in line
    assert next(iter(damage)) in line


def test_a_drawer_is_read_as_people_write_it(demo_data, demo_folder):
    demo_data["drawer"] = {"resistors": ["4k7", "100"], "capacitors": ["1u"]}
    write(demo_folder, demo_data)
    drawer = read_station(demo_folder).station.drawer
    assert drawer.ohms() == [4700, 100]
    assert drawer.farads() == [1e-6]
    demo_data["drawer"]["resistors"] = ["4kk7"]
    assert "4kk7" in refusal(write(demo_folder, demo_data))


def test_too_old_to_migrate(demo_data, demo_folder):
    write(demo_folder, dict(demo_data, version=0))
    assert "left untouched" in refusal(demo_folder)


@pytest.mark.long
def test_schema_in_docs_is_current_and_accepts_the_demo(demo_data):
    root = Path(__file__).resolve().parents[3]
    shipped = json.loads((root / "docs/formats/station.schema.json").read_text("utf-8"))
    assert shipped == station_schema()
    jsonschema.validate(demo_data, shipped)
    noted = json.loads((root / "docs/formats/records.schema.json").read_text("utf-8"))
    assert noted == records_schema()
    jsonschema.validate(json.loads(to_json(Records())), noted)
    demo_data["gear"][5]["series_ohm"] = -4
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(demo_data, shipped)


def test_the_demo_holds_only_made_up_calls(demo_data):
    assert "Hochtal" in demo_data["title"]
    assert Station.model_validate(demo_data).mains_hz == 50
