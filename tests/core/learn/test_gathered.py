"""Readings from everywhere they are kept: each once, with why one does not count.

Written first, as an old hand would say it. A level meter half way tells where the knob is right; at
rest or pinned it tells only which way to turn. What was read of another build tells nothing of this
one. What is struck out stays on paper.
"""

import pytest

from tests.conftest import gear
from tests.core.learn.lessons import found, kept, plain, proved
from tests.core.wiring.benches import lead, radio, station
from tonleiter.core.learn.gathered import CHANGED, TWICE, lesson_of, typed_lines
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.reading import parse_reading
from tonleiter.core.learn.result import Range, ends_of
from tonleiter.core.station import edits
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.records import NO_RECORDS, strike_elsewhere


def lines_of(station, records=NO_RECORDS):
    return typed_lines(station, records, basis_of(station))


def with_meter(station, alc, gain, school="middle", of=None):
    """The own radio's level meter as typed, with its gain somewhere."""
    chain = station.chain()
    panel = chain.panel.but(
        knobs={"gain": gain},
        readings={"alc": alc},
        alc=school,
        read_of=basis_of(station).sound if of is None else of,
    )
    return edits.change_chain(station, chain.id, panel=panel)


def test_what_was_typed_counts_with_its_error_and_where_it_is_kept():
    of = plain()
    (line,) = lines_of(of, kept(of, ("speech", "radio", "1 mV")))
    assert (line.source, line.why_not, line.key) == ("typed", "", "read:r0")
    assert line.reading.value == pytest.approx(-60)


def test_the_same_twice_counts_once_and_of_another_chain_not_at_all():
    of = plain()
    records = kept(of, ("knob", None, "58"), ("knob", None, "58"))
    assert [line.why_not for line in lines_of(of, records)] == ["", TWICE]
    other = edits.change_gear(of, "mic", coil_ohm=600)
    assert [line.why_not for line in lines_of(other, records)] == [CHANGED, CHANGED]
    renamed = edits.change_gear(of, "mic", name="grandfather's")
    assert [line.why_not for line in lines_of(renamed, records)] == ["", TWICE]


@pytest.mark.parametrize(
    ("alc", "gain", "right", "why"),
    [
        # a scale of 15 dB, the aim of the middle school at its middle, 40 dB over 100 marks
        ("56 %", 50, 50, "in the middle of the aim: it stands right"),
        ("90 %", 50, 50 - 0.34 * 15 / 0.4, "over it: back by what is too much"),
        ("20 %", 50, 50 + 0.36 * 15 / 0.4, "under it: up"),
    ],
)
def test_a_level_meter_tells_where_the_knob_is_right(alc, gain, right, why):
    of = with_meter(plain(), alc, gain)
    (line,) = lines_of(of)
    assert (line.source, line.why_not) == ("own-radio", ""), why
    assert line.reading.value == pytest.approx(right, abs=0.2), why
    assert line.reading.sd > 2, "a meter read by eye"


@pytest.mark.parametrize(
    ("alc", "why"), [("nothing", "at rest"), ("pinned", "pinned"), ("4 bars of 3", "so many bars")]
)
def test_a_meter_at_an_end_tells_only_which_way_to_turn(alc, why):
    (line,) = lines_of(with_meter(plain(), alc, 50))
    assert line.reading is None
    assert why in line.why_not


def test_an_own_radio_s_meter_of_another_chain_does_not_count():
    (line,) = lines_of(with_meter(plain(), "half", 50, of="0123456789abcdef"))
    assert line.why_not == CHANGED
    (line,) = lines_of(with_meter(plain(), "half", 50, of=""))
    assert "nobody knows" in line.why_not


def test_what_another_space_keeps_is_struck_out_here_and_stays_there():
    of = with_meter(plain(), "half", 50)
    (line,) = lines_of(of, strike_elsewhere(NO_RECORDS, f"own:{of.chain().id}:alc", "misread"))
    assert (line.struck, line.why_not) == (False, "") or line.struck
    records = strike_elsewhere(NO_RECORDS, line.key, "misread")
    (line,) = lines_of(of, records)
    assert line.struck
    assert line.why_not == "struck out: misread"
    assert of.chain().panel.readings == {"alc": "half"}
    (line,) = lines_of(of, strike_elsewhere(records, line.key, None))
    assert line.why_not == ""


# --- of a bring-up -------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def bench():
    """A microphone whose coil is known by its kind only, on its own plug."""
    return station(gear("dynamic-microphone", "mic", coil_ohm="150..600"), lead(), radio())


def test_ohms_of_a_bring_up_tell_the_coil(bench):
    """A voltmeter's ohms through the microphone by itself are its coil, to the meter's class."""
    lesson = lesson_of(bench, proved(bench, {"coil": "330"}), found(bench))
    (line,) = lesson.lines
    assert (line.source, line.why_not) == ("prove", "")
    made = learn(lesson.model, lesson.counted, 200)
    (taught,) = (f for f in made.figures if (f.stage, f.parameter.field) == ("mic", "coil_ohm"))
    assert taught.told
    assert taught.after.low < 330 < taught.after.high
    assert taught.after.high / taught.after.low < 1.3, "a factor of four before"


@pytest.mark.long
def test_a_bring_up_that_no_figure_allows_is_the_odd_one(bench):
    records = kept(bench, ("knob", None, "60"), records=proved(bench, {"coil": "47"}))
    lesson = lesson_of(bench, records, found(bench))
    made = learn(lesson.model, lesson.counted, 120)
    (odd,) = made.odd
    assert odd.reading.token == "coil"
    assert "Ω" in odd.why()


def test_of_a_build_that_was_changed_nothing_counts(bench):
    records = proved(bench, {"coil": "330"}, basis="0123456789abcdef")
    (line,) = lesson_of(bench, records, found(bench)).lines
    assert line.why_not == CHANGED


def test_a_reading_of_no_such_contact_is_left_alone(bench):
    lesson = lesson_of(bench, proved(bench, {"ohm nowhere.1 no.2": "12"}), found(bench))
    assert lesson.lines == ()


# --- a knob's scale ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("typed", "marks"), [("half", 5), ("60 %", 6), ("6,5", 6.5), ("a third", 10 / 3), ("0", 0)]
)
def test_a_scale_that_ends_at_ten_is_read_in_its_own_marks(typed, marks):
    of = plain(marked_to=10)
    (line,) = lines_of(of, kept(of, ("knob", None, typed)))
    assert line.reading.value == pytest.approx(marks)
    assert line.reading.sd == pytest.approx(0.2)


@pytest.mark.parametrize("typed", ["11", "−1", "half way up", "101 %", "nan", "1e308", "2 o'clock"])
def test_what_stands_on_no_scale_is_kept_and_not_counted(typed):
    of = plain(marked_to=10)
    (line,) = lines_of(of, kept(of, ("knob", None, typed)))
    assert line.reading is None
    assert "0 to 10" in line.why_not


def test_on_a_scale_of_ten_the_answer_comes_in_tenths_and_a_reading_is_worth_as_much():
    of, other = plain(marked_to=10), plain()
    made = learn(lesson_of(of, kept(of, ("knob", None, "5,5")), found(of)).model, [], 100)
    hundred = learn(lesson_of(other, NO_RECORDS, found(other)).model, [], 100)
    assert made.next_[0].shrinks == pytest.approx(hundred.next_[0].shrinks, abs=0.02)
    assert made.before.high == pytest.approx(hundred.before.high / 10, rel=0.01)
    assert f"{made.before.low:.1f}" in made.headline()


def test_what_is_said_beside_what_is_kept_counts_once():
    of = plain()
    lesson = lesson_of(of, kept(of, ("knob", None, "58")), found(of))
    again = parse_reading("knob=58", ("mic", "lead", "radio"))
    other = parse_reading("speech@radio=1 mV", ("mic", "lead", "radio"))
    more = lesson.with_read([again, other, other])
    assert [line.why_not for line in more.lines] == ["", TWICE, "", TWICE]
    assert len(more.counted) == 2


@pytest.mark.parametrize(
    ("marked_to", "ends"), [(10, ("4.2", "5.6")), (100, ("4", "6")), (20, ("4.2", "5.6"))]
)
def test_what_a_knob_was_expected_at_is_told_in_the_marks_of_its_scale(marked_to, ends):
    knob = parse_reading("knob=1", ("mic", "radio"), marked_to)
    assert ends_of(knob, Range(4.2, 5.6), marked_to) == ends


def test_the_same_written_otherwise_is_the_same():
    of = plain()
    records = kept(of, ("knob", None, "58"), ("knob", None, "58,0"), ("speech", "radio", "1 mV"),
                   ("speech", "radio", "0.001 V"))  # fmt: skip
    assert [line.why_not for line in lines_of(of, records)] == ["", TWICE, "", TWICE]


@pytest.mark.parametrize(
    ("typed", "db_v"), [("-57.8 dBu", -60.0), ("-60 dBV", -60.0), ("1 mV", -60.0), ("−60 dBV", -60)]
)
def test_speech_is_read_in_volts_or_as_a_level(typed, db_v):
    (line,) = lines_of(plain(), kept(plain(), ("speech", "radio", typed)))
    assert line.reading.value == pytest.approx(db_v, abs=0.05)
