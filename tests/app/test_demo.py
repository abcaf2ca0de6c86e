"""The user's copy of the demo station."""

import stat

from tonleiter.app.demo import data_folder, demo_copy, shipped_demo
from tonleiter.core.station.edits import change_chain
from tonleiter.core.station.files import read_station, save_station


def test_the_copy_keeps_what_was_saved_in_it(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    copy = demo_copy()
    assert copy.is_relative_to(data_folder())
    assert read_station(copy).station == read_station(shipped_demo()).station
    edited = change_chain(read_station(copy).station, "hf-chat", distance_mm=77)
    save_station(edited, copy)
    assert read_station(demo_copy()).station == edited


def test_a_fresh_copy_sets_the_old_one_aside(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    copy = demo_copy()
    edited = change_chain(read_station(copy).station, "hf-chat", distance_mm=77)
    save_station(edited, copy)
    assert demo_copy(fresh=True) == copy
    assert read_station(copy).station == read_station(shipped_demo()).station
    kept = [p for p in copy.parent.iterdir() if p != copy]
    assert read_station(kept[0]).station == edited


def test_the_copy_of_a_read_only_original_is_writable(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert (demo_copy() / "station.json").stat().st_mode & stat.S_IWUSR
