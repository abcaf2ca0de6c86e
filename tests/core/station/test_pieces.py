"""Single pieces as files: traded, refused, never half written."""

import json

import pytest

from tonleiter.core.gear.library import parts_library
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.pieces import piece_text, read_piece, save_piece

LIBRARY = parts_library()


@pytest.mark.parametrize("id", ["stage-dynamic-300", "own-emitter-stage", "hf-socket-biased"])
def test_what_is_saved_is_read_again(tmp_path, id):
    file = tmp_path / "one.piece.json"
    save_piece(LIBRARY[id], file)
    assert read_piece(file) == LIBRARY[id]


@pytest.mark.parametrize(
    "change, said",
    [
        (lambda d: d | {"format": "other"}, "“format” must be “tonleiter-piece”"),
        (lambda d: d | {"version": 99}, "newer Tonleiter (version 99"),
        (lambda d: d | {"version": "x"}, "“version” must be a whole number"),
        (lambda d: d | {"colour": 1}, "unknown key “colour”"),
        (lambda d: d | {"piece": d["piece"] | {"coil_ohm": "4kk7"}}, "4kk7"),
        (lambda d: d | {"piece": d["piece"] | {"wheels": 4}}, "wheels"),
        (lambda d: d | {"piece": None}, "piece"),
    ],
)
def test_what_is_no_piece_is_refused_in_one_line(tmp_path, change, said):
    file = tmp_path / "bad.json"
    good = json.loads(piece_text(LIBRARY["stage-dynamic-300"]))
    file.write_text(json.dumps(change(good)), "utf-8")
    if said == "piece":
        said = str(file)
    with pytest.raises(FileError) as refusal:
        read_piece(file)
    assert said in str(refusal.value)
    assert "\n" not in str(refusal.value)


def test_what_is_no_json_names_line_and_column(tmp_path):
    file = tmp_path / "bad.json"
    file.write_text("{\n nonsense", "utf-8")
    with pytest.raises(FileError, match="line 2, column 2"):
        read_piece(file)


def test_no_such_file(tmp_path):
    with pytest.raises(FileError, match="cannot be read"):
        read_piece(tmp_path / "none.json")


def test_an_unwritable_folder_is_said(tmp_path):
    with pytest.raises(FileError, match="cannot be saved"):
        save_piece(LIBRARY["stage-dynamic-300"], tmp_path / "missing" / "one.json")


def test_a_piece_of_an_older_version_is_read(tmp_path):
    file = tmp_path / "old.piece.json"
    data = json.loads(piece_text(LIBRARY["bridged-loudspeaker-socket"]))
    data["version"] = 2
    data["piece"]["supply"] = "safety earth"
    file.write_text(json.dumps(data), "utf-8")
    assert read_piece(file) == LIBRARY["bridged-loudspeaker-socket"]
