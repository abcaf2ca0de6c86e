"""What of a log is looked at: days at their edges, names, words."""

from datetime import datetime, timedelta

import pytest

from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.looking import BEFORE_DAYS, EVER, Looked, until

NOW = datetime.fromisoformat("2031-09-01T12:30:10+02:00")


def entry(number, at, **of):
    return LogEntry(number=number, at=at, kind="note", **of)


OLD = entry(1, "2029-02-03T20:00+01:00", microphone="headset", radio="set", title="a hum at night")
EDGE = entry(2, "2031-08-02T00:00+02:00", microphone="desk", radio="set", title="Hum mended")
BEFORE = entry(3, "2031-08-01T23:59+02:00", microphone="desk", radio="mobile", title="quiet")
ALL = (OLD, BEFORE, EDGE)


def looked(**of):
    made = Looked(**of)
    return made, made.since(ALL, NOW)


def test_a_day_is_looked_at_from_its_first_minute():
    made, since = looked(since_days=30)
    assert since == datetime.fromisoformat("2031-08-02T00:00+02:00")
    assert made.of(ALL, since, None) == (EDGE,)


def test_everything_begins_a_little_before_the_first_entry():
    made, since = looked(since_days=EVER)
    assert made.of(ALL, since, None) == ALL
    assert timedelta(days=BEFORE_DAYS) <= OLD.when - since < timedelta(days=BEFORE_DAYS + 1)
    nothing_yet = Looked(since_days=EVER).since((), NOW)
    assert nothing_yet.date() < NOW.date(), "an empty line has some length"


@pytest.mark.parametrize(
    ("of", "wanted"),
    [({"radio": "set"}, (OLD, EDGE)), ({"microphone": "desk"}, (BEFORE, EDGE)),
     ({"radio": "set", "microphone": "desk"}, (EDGE,)), ({"radio": "nobody's"}, ())],
)  # fmt: skip
def test_only_what_is_of_a_radio_and_of_a_microphone(of, wanted):
    made, since = looked(since_days=EVER, **of)
    assert made.of(ALL, since, None) == wanted
    assert made.of_kept(ALL, since) == wanted


def test_numbers_that_have_the_words_are_all_that_is_left_of_entries():
    made, since = looked(since_days=EVER, find="hum")
    assert made.of(ALL, since, {2}) == (EDGE,)
    assert made.of(ALL, since, ()) == ()


def test_what_is_kept_elsewhere_is_found_by_its_title_all_words_of_it():
    made, since = looked(since_days=EVER, find="HUM")
    assert made.of_kept(ALL, since) == (OLD, EDGE)
    both, _ = looked(since_days=EVER, find="mended hum")
    assert both.of_kept(ALL, since) == (EDGE,)


def test_a_clock_that_was_ahead_is_still_on_the_line():
    ahead = entry(4, "2031-09-20T08:00+02:00")
    assert until(ALL, NOW).date() == NOW.date()
    assert until((*ALL, ahead), NOW) >= ahead.when
