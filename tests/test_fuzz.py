"""A short run of every campaign; ``scripts/fuzz`` runs them long."""

import pytest
from fuzz.campaign import Bound, Tally, attempt
from fuzz.files import cards, pieces, records, stations
from fuzz.hands import hands
from fuzz.kills import disk, kills
from fuzz.listening import caused_recordings, clean_recordings, marred_recordings
from fuzz.more_files import boxes, over_time, readings, recordings
from fuzz.texts import texts
from fuzz.walk import around, check, kinds, walk
from fuzz.ways import ways
from fuzz.whys import whys

from tonleiter.core.guide import onair
from tonleiter.core.refused import RefusedError
from tonleiter.core.sound.voices import voice


@pytest.mark.parametrize(
    ("campaign", "count"),
    [
        (stations, 30),
        (pieces, 25),
        (records, 25),
        (cards, 30),
        (boxes, 25),
        (recordings, 10),
        (over_time, 10),
        (readings, 500),
        (clean_recordings, 8),
        (texts, 400),
        (walk, 10),
        (ways, 8),
        pytest.param(whys, 8, marks=pytest.mark.long),
        (kills, 8),
        (disk, 10),
    ],
)
def test_nothing_is_found(campaign, count, tmp_path):
    tally = campaign(3, Bound(count, 25.0), tmp_path)
    assert tally.tried >= min(count, 8)
    assert tally.faults.total() == 0, tally.said()


@pytest.mark.long
def test_what_was_done_to_a_recording_is_what_is_said_of_it(tmp_path):
    """Nine in ten, over fifteen ways to mar one: a click in the middle of a word is not found."""
    tally = marred_recordings(3, Bound(12, 60.0), tmp_path)
    assert tally.tried == 12
    assert tally.faults.total() <= 1, tally.said()


@pytest.mark.long
def test_the_cause_in_a_chain_is_named_of_a_recording_of_it(tmp_path, monkeypatch):
    """Some kinds; of hundreds one in a hundred is not named first. Four seconds are too few."""
    monkeypatch.setattr(onair, "voice", voice)
    tally = caused_recordings(3, Bound(6, 60.0), tmp_path)
    assert tally.tried == 6
    assert tally.faults.total() <= 1, tally.said()


def test_random_hands_find_nothing_but_slowness(tmp_path):
    tally = hands(5, Bound(60, 15.0), tmp_path)
    assert tally.tried >= 40
    # how long something takes is said by the campaign and judged by nobody here
    found = {f for f in tally.faults if not f.startswith("deaf")}
    assert not found, tally.said()


def test_every_kind_is_walked_and_its_plain_piece_stands_in_a_chain():
    pieces_of_all = kinds()
    assert len(pieces_of_all) > 30
    for piece in pieces_of_all:
        check(around(piece))


def test_a_fault_is_counted_and_a_refusal_is_not():
    tally = Tally("t")
    attempt(tally, lambda: 1 / 0, "example")
    assert tally.faults.total() == 1
    assert "ZeroDivisionError" in tally.said()

    def refuse():
        raise RefusedError("one line")

    attempt(tally, refuse, "example")
    assert (tally.refused, tally.faults.total()) == (1, 1)
