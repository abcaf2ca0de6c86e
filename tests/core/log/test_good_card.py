"""Which card today is held against: the day before it got worse, as an old hand would say."""

import pytest

from tests.conftest import mended_demo
from tonleiter.core.guide.cards import card_of
from tonleiter.core.guide.onair import on_air
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.good_card import good_card
from tonleiter.core.log.telling import Saying
from tonleiter.core.setup.modes import scene_of
from tonleiter.core.station import edits
from tonleiter.core.station.records import NO_RECORDS


@pytest.fixture(scope="module")
def station():
    return edits.open_chain(mended_demo(), "hf-chat")


@pytest.fixture(scope="module")
def cards(station):
    made = card_of(scene_of(on_air(station), station.chain().panel), NO_RECORDS, "2031-05-14")
    days = ("2031-03-01", "2031-05-14", "2031-07-01")
    own = tuple(made.but(id=f"c{k}", day=day) for k, day in enumerate(days))
    return (*own, made.but(id="other", chain_id="museum", day="2031-08-01"))


def worse(station, day, lane=None):
    microphone = station.gear_by_id[station.chain().variant().stages[0].gear].name
    report = LogEntry(at=f"{day}T20:00+02:00", kind="report", words=("muffled",))
    return (Saying("mind", "it got worse", "", lane or microphone, (report,), "muffled"),)


@pytest.mark.parametrize(
    ("day", "wanted"),
    [("2031-06-20", "2031-05-14"), ("2031-05-14", "2031-05-14"), ("2031-05-13", "2031-03-01"),
     ("2031-01-01", "2031-07-01")],
)  # fmt: skip
def test_the_last_card_before_it_got_worse(station, cards, day, wanted):
    """Where none is so old the newest has to do."""
    records = NO_RECORDS.but(cards=cards)
    assert good_card(station, records, worse(station, day)).day == wanted


def test_another_microphones_trouble_does_not_count(station, cards):
    records = NO_RECORDS.but(cards=cards)
    said = worse(station, "2031-05-20", lane="a microphone of the museum")
    assert good_card(station, records, said).day == "2031-07-01"
    assert good_card(station, records, ()).day == "2031-07-01"


def test_whoever_asks_for_a_card_gets_it_while_it_is_there(station, cards):
    records = NO_RECORDS.but(cards=cards)
    said = worse(station, "2031-06-20")
    assert good_card(station, records, said, "other").id == "other"
    assert good_card(station, records, said, "gone").day == "2031-05-14"


def test_without_a_card_or_a_chain_there_is_none(station, cards):
    assert good_card(station, NO_RECORDS, ()) is None
    empty = station.but(chains=(), open_chain=None)
    assert good_card(empty, NO_RECORDS.but(cards=cards), (), "c0") is None
