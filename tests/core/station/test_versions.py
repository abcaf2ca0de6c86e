"""A station of every version that was ever written: opened, kept, migrated, solved, saved again.

The files are the demo station as each version shipped it, the last one before the next version.
"""

import json
import shutil
from pathlib import Path

import pytest

from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import read_station, save_station
from tonleiter.core.station.model import VERSION

FOLDER = Path(__file__).resolve().parents[2] / "data" / "versions"
VERSIONS = sorted(int(p.stem) for p in FOLDER.iterdir())


def test_there_is_one_of_each():
    """Whoever raises the version puts the last file of the one before here."""
    assert list(range(1, VERSION + 1)) == VERSIONS


@pytest.mark.parametrize("version", VERSIONS)
@pytest.mark.table(keep=4)
def test_it_opens_is_kept_and_is_as_good_as_new(version, tmp_path):
    folder = tmp_path / "old.station"
    shutil.copytree(FOLDER / f"{version}.station", folder)
    before = (folder / "station.json").read_bytes()
    opened = read_station(folder)
    assert opened.station.version == VERSION
    # what lay there is kept beside it, byte for byte, unless it was of this version
    if version < VERSION:
        assert opened.backup is not None
        assert opened.backup.read_bytes() == before
    else:
        assert opened.backup is None
    assert (folder / "station.json").read_bytes() == before
    # every chain of it can be solved, and nothing is lost on the way out and in
    for chain in opened.station.chains:
        assert verdict_of(opened.station, chain.id).assessment.rows
    saved = save_station(opened.station, folder, opened.fingerprint, records=opened.records)
    assert read_station(folder).station == opened.station == saved.station
    names = [g["name"] for g in json.loads(before)["gear"]]
    assert [g.name for g in opened.station.gear][: len(names)] == names


def test_a_newer_one_is_refused_in_one_line_and_left_alone(tmp_path):
    folder = tmp_path / "new.station"
    shutil.copytree(FOLDER / f"{VERSION}.station", folder)
    data = json.loads((folder / "station.json").read_text("utf-8"))
    (folder / "station.json").write_text(json.dumps(data | {"version": VERSION + 1}), "utf-8")
    before = (folder / "station.json").read_bytes()
    with pytest.raises(FileError) as refused:
        read_station(folder)
    assert "\n" not in str(refused.value)
    assert f"version {VERSION + 1}" in str(refused.value)
    assert (folder / "station.json").read_bytes() == before
    assert len(list(folder.iterdir())) == len(list((FOLDER / f"{VERSION}.station").iterdir()))
