"""Records beside the station: kept, undone, migrated; wild ones refused by name."""

import json

import pytest

from tonleiter.core.station.autosave import found_autosaves, write_autosave
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import present_fingerprint, read_station, save_station
from tonleiter.core.station.history import History
from tonleiter.core.station.migrate import migrate
from tonleiter.core.station.model import VERSION
from tonleiter.core.station.proved import Proved
from tonleiter.core.station.records import NO_RECORDS, Records, drop_card, keep_card, note_proved
from tonleiter.core.station.to_records import RECORDS_KEY

CARD = {
    "id": "c", "name": "c", "day": "2026-05-01", "chain_id": "hf-chat", "chain": "HF",
    "variant": "v", "radio": "r", "microphone": "m", "voice": "x", "knobs": {"gain": 40},
}  # fmt: skip


def proved(**more):
    fields = {"chain": "hf-chat", "variant": "as-wired", "day": "2026-05-01"} | more
    return Proved.model_validate(fields)


def one():
    records = note_proved(NO_RECORDS, proved(readings={"dc A": "1.5"}))
    return keep_card(records, Records.model_validate({"cards": [CARD]}).cards[0])


def test_a_station_without_records_has_no_file_for_them(demo, tmp_path):
    save_station(demo, tmp_path / "s.station")
    assert [p.name for p in (tmp_path / "s.station").iterdir()] == ["station.json"]


def test_they_are_written_read_and_taken_back(demo, tmp_path):
    folder = tmp_path / "s.station"
    opened = save_station(demo, folder, records=one())
    assert read_station(folder).records == one()
    assert read_station(folder).fingerprint == opened.fingerprint
    again = drop_card(one(), "c")
    save_station(demo, folder, opened.fingerprint, records=again)
    assert read_station(folder).records == again
    save_station(demo, folder, present_fingerprint(folder), records=NO_RECORDS)
    assert read_station(folder).records == NO_RECORDS


def test_a_part_has_one_record_and_a_newer_one_takes_its_place():
    records = note_proved(one(), proved(readings={"dc A": "1.4"}))
    assert len(records.proved) == 1
    assert records.proved_of("hf-chat", "as-wired", 0).readings == {"dc A": "1.4"}
    assert len(note_proved(records, proved(part=1)).proved) == 2
    assert records.proved_of("hf-chat", "other", 0) is None


def test_what_somebody_else_noted_is_noticed_and_kept(demo, tmp_path):
    folder = tmp_path / "s.station"
    opened = save_station(demo, folder, records=one())
    theirs = json.loads((folder / "records.json").read_text("utf-8"))
    theirs["cards"][0]["name"] = "theirs"
    (folder / "records.json").write_text(json.dumps(theirs), "utf-8")
    assert present_fingerprint(folder) != opened.fingerprint
    kept = save_station(demo, folder, opened.fingerprint, records=one())
    assert len(kept.kept) == 1
    assert "theirs" in kept.kept[0].read_text("utf-8")


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ({"format": "other"}, "these are no records"),
        ({"version": 9}, "written by a newer Tonleiter"),
        ({"colour": 1}, "unknown key “colour”"),
        ({"cards": [CARD | {"knobs": {"gain": 400}}]}, "on its scale"),
        ({"cards": [CARD | {"knobs": {"loudness": 4}}]}, "is not one of"),
        ({"cards": [CARD, CARD]}, "twice"),
        ({"proved": [{"chain": "a", "variant": "b", "day": "yesterday"}]}, "day"),
        ({"proved": [{"chain": "a", "variant": "b", "day": "2026-01-01", "note": 1}]}, "note"),
    ],
)
def test_a_bad_file_is_one_line_with_its_name_and_nothing_is_touched(demo, tmp_path, spoil, says):
    folder = tmp_path / "s.station"
    save_station(demo, folder, records=one())
    data = json.loads((folder / "records.json").read_text("utf-8")) | spoil
    text = json.dumps(data)
    (folder / "records.json").write_text(text, "utf-8")
    with pytest.raises(FileError) as caught:
        read_station(folder)
    assert "records.json" in str(caught.value)
    assert says in str(caught.value)
    assert "\n" not in str(caught.value)
    assert (folder / "records.json").read_text("utf-8") == text


@pytest.mark.parametrize("bad", ["NaN", "Infinity", "1e999"])
def test_what_is_not_finite_gets_into_no_record(demo, tmp_path, bad):
    folder = tmp_path / "s.station"
    save_station(demo, folder, records=one())
    text = (folder / "records.json").read_text("utf-8").replace('"gain": 40.0', f'"gain": {bad}')
    (folder / "records.json").write_text(text, "utf-8")
    with pytest.raises(FileError, match=r"records\.json"):
        read_station(folder)


def test_undo_brings_back_a_station_with_its_records(demo):
    history = History.start(demo).push(demo, "card", None, one())
    assert history.present.records == one()
    assert history.undo().present.records == NO_RECORDS
    edited = history.push(demo.but(title="other"), "title")
    assert edited.present.records == one()
    assert history.push(demo, "nothing", None, one()) is history


def test_unsaved_records_are_kept_like_unsaved_edits(demo, demo_folder):
    file = write_autosave(demo, demo_folder, one())
    data = json.loads(file.read_text("utf-8"))
    data["by"]["pid"] = 2**22 - 7
    file.write_text(json.dumps(data), "utf-8")
    (found,) = found_autosaves(demo_folder, demo, NO_RECORDS)
    assert found.records == one()
    assert found_autosaves(demo_folder, demo, one()) == []


# --- from version 5 ------------------------------------------------------------------------------

OLD_CARD = {
    "id": "old", "name": "old", "day": "2025-05-01", "chain": "HF", "variant": "v",
    "purpose": "a long chat on SSB", "radio": "20 W HF set", "microphone": "m", "voice": "deep",
    "distance": "3 cm, across", "knobs": {"gain": 40.0, "compression": 3.5},
    "meters": {"ALC": "8 dB", "power": "12 W mean", "compression": "4 dB", "ALC2": "odd"},
    "schools": {"ALC": "barely moving", "tone": "natural", "compression": "3 to 5 dB"},
    "chain_id": "hf-chat", "made_with": "0123456789abcdef",
}  # fmt: skip
OLD_PROVED = {
    "part": 1, "day": "2025-06-01", "build": "fedcba9876543210", "readings": {"dc A": "1.5"},
    "seen": ["look: strain relief holds the sheath, not the wires",
             "look: C1: plus towards hot behind the cap",
             "look: the 20 W HF set's plug counted from the right face",
             "listen: no hum, no buzz", "look: something nobody knows"],
    "left_out": ["tone"],
}  # fmt: skip


def old_demo(demo_data):
    data = json.loads(json.dumps(demo_data)) | {"version": 5, "cards": [OLD_CARD]}
    data["chains"][0]["variants"][0]["proved"] = [OLD_PROVED]
    return data


def test_readings_and_cards_of_version_5_become_tokens(demo_data, demo_folder):
    (demo_folder / "records.json").unlink()  # there were none in those days
    (demo_folder / "station.json").write_text(json.dumps(old_demo(demo_data)), "utf-8")
    opened = read_station(demo_folder)
    assert opened.station.version == VERSION
    assert json.loads(opened.backup.read_text("utf-8"))["cards"] == [OLD_CARD]
    (card,) = opened.records.cards
    assert card.purpose == "ssb-chat"
    assert (card.distance_mm, card.speaks) == (30, "across-it")
    assert card.meters == {"alc": 8, "power": 12, "compression": 4}
    assert card.said == {"ALC2": "odd"}
    assert (card.schools.alc, card.schools.compression) == ("barely", "three-to-five")
    # nobody knows of which chain it was: the old fingerprint was of something else
    assert card.basis == ""
    (kept,) = opened.records.proved
    assert kept.of == ("hf-chat", demo_data["chains"][0]["variants"][0]["id"], 1)
    assert kept.readings == {"dc A": "1.5"}
    assert kept.seen == (
        "look:strain-relief", "look:plus:C1", "look:face:hf-20w", "listen:no-hum",
        "look: something nobody knows",
    )  # fmt: skip
    assert kept.left_out == ("tone",)
    assert kept.basis == ""


def test_who_must_be_warned_is_brought_over_from_names(demo_data):
    data = old_demo(demo_data)
    for device in data["devices"]:
        device.pop("inside", None)
    moved = migrate(data, VERSION)
    inside = {d["id"]: d.get("inside") for d in moved["devices"]}
    assert inside["museum-transmitter"] == "lethal-voltage"
    assert inside["hf-20w"] is None
    assert RECORDS_KEY in moved


@pytest.mark.parametrize(
    "wild",
    [
        {"cards": 7}, {"cards": ["x"]}, {"chains": None}, {"chains": [3]}, {"devices": "no"},
        {"chains": [{"variants": 4}]}, {"chains": [{"variants": [{"proved": {"a": 1}}]}]},
        {"cards": [{"meters": {"ALC": None}, "schools": None, "distance": 4}]}, {"gear": 3},
    ],
)  # fmt: skip
def test_a_wild_file_of_version_5_is_refused_in_one_line(demo_data, demo_folder, wild):
    (demo_folder / "records.json").unlink()
    text = json.dumps(old_demo(demo_data) | wild)
    (demo_folder / "station.json").write_text(text, "utf-8")
    with pytest.raises(FileError) as caught:
        read_station(demo_folder)
    assert "\n" not in str(caught.value)
    assert (demo_folder / "station.json").read_text("utf-8") == text
