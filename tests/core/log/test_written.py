"""What somebody types becomes an entry, or is refused in a line that says what is wanted."""

import pytest

from tests.conftest import mended_demo
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.written import accepted, note, purchase, refusal, report, undone


@pytest.fixture(scope="module")
def station():
    return mended_demo()


def test_a_report_is_of_the_chain_that_is_open(station):
    made = report(station, " muffled, but 100 % copy ", "qk 0 abc", "40 m", "59")
    assert (made.who, made.band, made.readability, made.strength) == ("QK0ABC", "40 m", 5, 9)
    assert made.text == "muffled, but 100 % copy"
    assert "muffled" in made.words
    assert made.chain == station.chain().name
    assert made.microphone == station.gear_by_id[station.chain().variant().stages[0].gear].name


def test_nobody_has_to_say_who_it_was_nor_how_strong(station):
    made = report(station, "crisp", " ", "", "")
    assert (made.who, made.band, made.signal) == (None, None, "")


@pytest.mark.parametrize(
    ("of", "wanted"),
    [
        (("x", "a§b", "", ""), "call sign"),
        (("x", "", "the band of the old light ships", ""), "16 characters"),
        (("x", "", "", "loud"), "as 59"),
        (("x", "", "", "99"), "readability 1 to 5"),
        (("x" * 4001, "", "", ""), "up to 4000"),
    ],
)
def test_what_is_no_report_is_refused_in_one_line(station, of, wanted):
    with pytest.raises(ValueError) as refused:
        report(station, *of)
    said = refusal(refused.value)
    assert wanted in said
    assert "\n" not in said


def test_a_note_has_tags_and_a_way_back(station):
    made = note(station, "change", " pad in ", " for the loud voice ", "#pad, evening", " out; in ")
    assert (made.title, made.text) == ("pad in", "for the loud voice")
    assert made.tags == ("pad", "evening")
    assert made.steps_back == ("out", "in")
    assert made.chain_id == station.chain().id


def test_what_is_undone_is_of_the_same_chain_and_says_what_it_was():
    was = LogEntry(at="2031-05-11T20:00+02:00", kind="change", title="opening drilled",
                   chain_id="chat", chain="chat", microphone="headset", radio="set")  # fmt: skip
    made = undone(was)
    assert made.title == "undone: opening drilled"
    assert (made.chain_id, made.microphone, made.radio) == ("chat", "headset", "set")
    assert len(undone(was.but(title="x" * 400)).title) <= 400


def test_parts_that_were_bought_are_listed():
    made = purchase(("2 × 10 kΩ", "1 µF"))
    assert made.kind == "purchase"
    assert "2 × 10 kΩ" in made.title
    assert made.text.split("; ") == ["2 × 10 kΩ", "1 µF"]
    assert len(purchase(("a" * 90,) * 9).title) <= 400


def test_what_was_offered_keeps_what_changed_and_takes_other_words():
    offered = LogEntry(at="2031-05-11T20:00+02:00", kind="change", title="bass from 0 to +2",
                       changed=("bass from 0 to +2",))  # fmt: skip
    made = accepted(offered, " more bass for a high voice ", "bass to 0")
    assert (made.title, made.way_back) == ("more bass for a high voice", "bass to 0")
    assert made.changed == offered.changed
    assert made.at != offered.at
    assert accepted(offered, "  ", "").title == offered.title
