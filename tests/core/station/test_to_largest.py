"""A station of version 7 whose program stood over its largest level: as loud as it was, once."""

import json

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import read_station


def opened(folder, below, full=None, stage_sets=None, version=7):
    source = gear("line-source", "deck", below_full_db=-20)
    data = station_of(source, gear("microphone-socket", "radio")).model_dump(mode="json")
    data["version"] = version
    data.pop("instruments", None)
    data["gear"][0]["below_full_db"] = below
    if full is not None:
        data["gear"][0]["full_scale_dbu"] = full
    if stage_sets is not None:
        data["chains"][0]["variants"][0]["stages"][0]["set"] = stage_sets
    folder.mkdir()
    (folder / "station.json").write_text(json.dumps(data), "utf-8")
    return read_station(folder).station


@pytest.mark.parametrize(
    ("below", "full", "loud", "largest"),
    [
        (-6, 2, -4, 2),
        (5, 2, 7, 7),
        ("5 dB", "2 dBu", 7, 7),
        ({"value": 1, "low": -1, "high": 3, "basis": "measured"}, 2, 3, 5),
        (0, 2, 2, 2),
    ],
)
def test_it_is_as_loud_as_it_was_and_its_largest_level_no_less(
    tmp_path, below, full, loud, largest
):
    source = opened(tmp_path / "old.station", below, full).gear_by_id["deck"]
    assert source.full_scale_dbu.value == pytest.approx(largest)
    assert source.full_scale_dbu.value + source.below_full_db.value == pytest.approx(loud)
    assert (source.below_full_db.high or source.below_full_db.value) <= 0


def test_where_nothing_is_written_the_usual_largest_level_is_raised(tmp_path):
    source = opened(tmp_path / "old.station", 4).gear_by_id["deck"]
    assert source.full_scale_dbu.value == pytest.approx(6.2 + 4)


def test_a_stage_sets_it_no_louder_than_its_largest(tmp_path):
    made = opened(tmp_path / "old.station", -6, 2, {"below_full_db": 3})
    assert made.placed(made.chain().variant().stages[0]).below_full_db.value == 0


@pytest.mark.parametrize("below", ["x", None, True, [], 1e308])
def test_what_is_no_figure_is_refused_by_name(tmp_path, below):
    with pytest.raises(FileError, match=r"deck|below_full_db"):
        opened(tmp_path / "old.station", below)


def test_over_its_largest_level_is_refused_from_now_on(tmp_path):
    with pytest.raises(FileError, match="too much"):
        opened(tmp_path / "new.station", 3, version=8)
