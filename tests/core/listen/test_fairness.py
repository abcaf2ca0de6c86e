"""What makes a comparison unfair, as somebody who does it often would say."""

import pytest

from tonleiter.core.listen.blind import Preferences
from tonleiter.core.listen.fairness import unfair
from tonleiter.core.station.recording import Recording

WHOLE = Recording(
    id="a", name="before", file="a.flac", sha256="0" * 64, seconds=9.0, rate_hz=48_000,
    day="2031-05-06", taken="second-receiver", chain="evening round", voice="deep voice",
    distance_mm=50.0, power_w=20.0,
)  # fmt: skip


def test_the_same_way_distance_power_and_voice_are_fair():
    assert list(unfair(WHOLE, WHOLE.but(id="b", distance_mm=55.0, power_w=18.0))) == []


@pytest.mark.parametrize(
    "change, says",
    [
        ({"taken": "friend"}, "another way"),
        ({"distance_mm": 100.0}, "another distance: 50 and 100 mm"),
        ({"power_w": 5.0}, "another power: 20 and 5 W"),
        ({"voice": "high voice"}, "another voice"),
        ({"taken": None}, "of B nobody said how it was recorded"),
        ({"power_w": None}, "of B nobody said at which power"),
    ],
)
def test_what_differs_besides_is_said(change, says):
    (line,) = unfair(WHOLE, WHOLE.but(**change))
    assert line.startswith(says)


def test_of_a_bare_file_nobody_said_anything():
    assert list(unfair(None, WHOLE)) == ["of A nobody said anything"]


def test_votes_are_counted_for_what_was_heard_whatever_came_first():
    votes, firsts = Preferences.begun(), set()
    for _ in range(40):
        firsts.add(votes.heard(second=False))
        votes = votes.vote("Ada", second=votes.heard(second=True) == "A")
    assert firsts == {"A", "B"}, "the order is drawn anew"
    assert votes.counts == (40, 0)
    assert repr(votes) == "Preferences(40 votes)", "the order stands nowhere"
    assert "0 of 40 votes of 1 listener for B" in votes.said()


@pytest.mark.parametrize(
    "for_a, for_b, luck", [(0, 12, False), (12, 0, False), (6, 6, True), (5, 8, True)]
)
def test_votes_for_either_side_are_luck_only_where_half_may_be_true(for_a, for_b, luck):
    """Twelve to none are no luck, whichever of both is liked."""
    votes = (("one", "A"),) * for_a + (("one", "B"),) * for_b
    said = Preferences(votes).said()
    assert ("luck" in said) == luck, said
    assert said.startswith(f"{for_b} of {for_a + for_b} votes of 1 listener for B")
