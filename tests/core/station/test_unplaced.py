"""Stations without a place: only what is ours, and only what is slight, is ever deleted."""

import pytest

from tonleiter.core.station.begin import begun
from tonleiter.core.station.files import read_station
from tonleiter.core.station.unplaced import give_up, is_unplaced, put_unplaced, unplaced


@pytest.fixture(autouse=True)
def home(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


def test_what_is_put_is_found_and_given_up():
    first, second = put_unplaced(begun()), put_unplaced(begun())
    assert set(unplaced()) == {first, second}
    assert read_station(first).station == begun()
    assert give_up(first)
    assert unplaced() == (second,)
    assert give_up(second)
    assert not second.parent.exists()


def test_what_somebody_put_somewhere_is_never_given_up(tmp_path, demo_folder):
    assert not is_unplaced(demo_folder)
    assert not give_up(demo_folder, whole=True)
    assert (demo_folder / "station.json").exists()


@pytest.mark.parametrize("name", ["log.sqlite", "recordings", "photos", "station.autosave-1.json"])
def test_work_that_lies_with_it_keeps_it(name):
    folder = put_unplaced(begun())
    (folder / name).mkdir()
    assert not give_up(folder)
    assert folder in unplaced()
    assert give_up(folder, whole=True)


def test_giving_up_what_is_gone_already_is_no_trouble():
    folder = put_unplaced(begun())
    assert give_up(folder)
    assert not give_up(folder)
