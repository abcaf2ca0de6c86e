"""Zones of the schools mean what their words say, on the meters they are read on."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.guide.onair import on_air
from tonleiter.core.guide.schools import ALC, COMPRESSION, COMPRESSION_WORDS
from tonleiter.core.station.settings import KNOBS

FULL_DB = KNOBS["compression"].high


@pytest.mark.parametrize(
    ("school", "db"), [("third", FULL_DB / 3), ("half", FULL_DB / 2), ("three-to-five", 4.0)]
)
def test_a_share_of_the_compressor_s_scale_lies_in_the_middle_of_its_zone(school, db):
    low, high = COMPRESSION[school]
    assert (low + high) / 2 == pytest.approx(db)
    # a needle that moves is read to half a decibel or so
    assert 1.0 <= high - low <= 2.0


def test_three_to_five_is_three_to_five_and_none_is_none():
    assert COMPRESSION["three-to-five"] == (3.0, 5.0)
    assert COMPRESSION_WORDS["three-to-five"] == "3 to 5 dB"
    assert COMPRESSION["none"] == (0.0, 0.0)


def test_level_control_that_barely_moves_ends_where_the_other_school_has_not_begun():
    assert 0 < ALC["barely"][0] < ALC["barely"][1] <= 0.25
    assert ALC["middle"][0] < 0.5
    assert ALC["middle"][1] == pytest.approx(2 / 3, abs=0.01)


@pytest.mark.parametrize(
    ("power", "is_asked"),
    [
        (None, True),
        ({"value": 20, "basis": "typical"}, True),
        ({"value": 20, "basis": "manual"}, False),
    ],
)
def test_a_power_that_nobody_found_is_said_to_be_typical(power, is_asked):
    of = station_of(gear("dynamic-microphone", "mic"), gear("microphone-socket", "set"))
    box = {
        "id": "box",
        "name": "the set",
        "kind": "radio",
        "supply": "safety-earth",
        "ports": ["set"],
    }
    if power is not None:
        box["power_w"] = power
    with_box = type(of).model_validate(of.model_dump() | {"devices": [box]})
    said = on_air(with_box).typical
    assert any("its power" in words for words in said) == is_asked, said
