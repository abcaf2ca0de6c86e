"""What a history says: histories typed in, and what an old hand reads in them."""

from datetime import datetime

from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.telling import blamed, headline, lanes_of, sayings

NOW = datetime.fromisoformat("2031-09-01T12:00+02:00")


def entry(day, kind="report", words=(), microphone="headset", **of):
    at = f"2031-{day}T20:00+02:00"
    return LogEntry(at=at, kind=kind, words=words, microphone=microphone, **of)


def told(*entries):
    return sayings(lanes_of(entries), NOW)


DRILLED = entry("05-11", "change", title="opening drilled")
BETTER = (
    entry("01-20", words=("muffled",)), entry("03-08", words=("muffled", "quiet")), DRILLED,
    entry("05-20", words=("clear",)), entry("06-23", words=("crisp",)),
)  # fmt: skip


def test_reports_that_got_kinder_after_a_change_say_so():
    made = told(*BETTER)
    assert made[0].says == "Reports went from “muffled” to “clear” after “opening drilled” in May"
    assert made[0].grave == "fine"
    assert DRILLED in made[0].about
    assert headline(BETTER, made) == f"{made[0].says}."


def test_what_got_worse_stands_before_what_got_better():
    made = told(*BETTER, entry("08-01", "change", title="treble from +1 to +3"),
                entry("08-10", words=("harsh",)))  # fmt: skip
    assert made[0].grave == "mind"
    assert made[0].says == "“Harsh” came after “treble from +1 to +3” in August"


def test_what_was_there_before_is_not_blamed_on_a_change():
    same = (entry("05-01", words=("hum",)), DRILLED, entry("05-20", words=("hum",)))
    assert not any("came after" in s.says or "went from" in s.says for s in told(*same))
    (lane,) = lanes_of(same)
    assert blamed(same[-1], lane) is None


def test_the_last_change_before_it_began_is_suspected():
    change = entry("07-01", "change", title="other supply")
    many = (entry("06-01", words=("clear",)), DRILLED.but(at="2031-06-10T20:00+02:00"), change,
            entry("07-10", words=("hum",)))  # fmt: skip
    (lane,) = lanes_of(many)
    assert blamed(many[-1], lane) == change


def test_one_kind_report_alone_says_nothing_of_a_change():
    made = told(DRILLED, entry("05-20", words=("clear",)))
    assert not any("went from" in s.says for s in made)


def test_a_microphone_nobody_heard_for_long_and_one_that_is_well():
    made = told(
        entry("03-01", words=("loud",), microphone="handset"),
        *(entry(f"08-0{k}", words=("clear",), microphone="dynamic") for k in range(1, 6)),
    )
    by_lane = {s.lane: s.says for s in made}
    assert by_lane["dynamic"] == "Five kind reports in a row"
    assert any(s.says == "No report of the handset for 6 months" for s in made)


def test_each_microphone_has_its_lane_and_its_own_changes():
    made = told(
        entry("01-01", words=("hum",), microphone="dynamic"), DRILLED,
        entry("06-01", words=("clear",), microphone="dynamic"),
    )  # fmt: skip
    assert not any("drilled" in s.says for s in made)


def test_an_empty_log_says_what_to_do():
    assert "press N" in headline((), ())
