"""A copy to give away: with everything, or without anybody in it."""

import json
import zipfile

import pytest

from tonleiter.core.log.backup import BackupError
from tonleiter.core.log.give_away import give_away, nobody_in, unpacked
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import read_station

NOTE = "borrowed from Jana"


@pytest.fixture
def noted(demo):
    people = tuple(o.but(name=f"Jana {k}") for k, o in enumerate(demo.operators))
    return demo.but(
        operators=people, gear=(demo.gear[0].model_copy(update={"notes": NOTE}), *demo.gear[1:])
    )


@pytest.fixture(autouse=True)
def data_elsewhere(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


def test_nobody_is_in_it_and_everything_else_is(noted):
    bare = nobody_in(noted)
    assert [o.name for o in bare.operators] == [
        f"operator {k}" for k in range(1, len(noted.operators) + 1)
    ]
    text = json.dumps(bare.model_dump(mode="json"))
    assert "Jana" not in text
    assert not {o.id for o in noted.operators} & {o.id for o in bare.operators}
    assert [g.model_copy(update={"notes": ""}) for g in noted.gear] == list(bare.gear)
    for was, chain in zip(noted.chains, bare.chains, strict=True):
        k = [o.id for o in noted.operators].index(was.operator)
        assert chain.operator == bare.operators[k].id, "it is the same person who speaks"


def test_without_people_voices_and_readings_stay_at_home(noted, demo_folder, tmp_path):
    records = read_station(demo_folder).records
    file = tmp_path / "gift.zip"
    names = give_away(noted, records, demo_folder, file, without_people=True)
    assert [n.rpartition("/")[2] for n in names] == ["station.json"]
    with zipfile.ZipFile(file) as zipped:
        assert not any(b"Jana" in zipped.read(n) for n in zipped.namelist())


def test_with_everything_it_is_the_station_and_its_records(noted, demo_folder, tmp_path):
    records = read_station(demo_folder).records
    file = tmp_path / "gift.zip"
    give_away(noted, records, demo_folder, file, without_people=False)
    there = read_station(unpacked(file))
    assert there.station == noted
    assert there.records.cards == records.cards
    assert there.records.readings == records.readings


def test_the_same_file_leads_to_the_same_folder_and_another_to_another(
    noted, demo_folder, tmp_path
):
    one, other = tmp_path / "one.zip", tmp_path / "other.zip"
    records = read_station(demo_folder).records
    give_away(noted, records, demo_folder, one, without_people=True)
    give_away(noted.but(title="Attic"), records, demo_folder, other, without_people=True)
    first = unpacked(one)
    assert unpacked(one) == first
    assert unpacked(other) != first


def test_a_file_that_is_not_there_and_a_place_that_is_none_are_said(noted, demo_folder, tmp_path):
    with pytest.raises(FileError, match=r"gone\.zip: cannot be read"):
        unpacked(tmp_path / "gone.zip")
    records = read_station(demo_folder).records
    nowhere = tmp_path / "no" / "folder" / "gift.zip"
    with pytest.raises(BackupError, match=r"gift\.zip"):
        give_away(noted, records, demo_folder, nowhere, without_people=True)
