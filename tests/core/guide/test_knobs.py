"""A knob says the same of itself everywhere: whether it fits, where to, what is printed there."""

import pytest

from tonleiter.core.guide.cards import knob_title, meter_said
from tonleiter.core.guide.controls import (
    control,
    from_computer_db,
    in_school,
    read_knob,
    with_knobs,
)
from tonleiter.core.guide.meters import Meter, MeterError, Scale, accepted, read_meter
from tonleiter.core.guide.turning import Turn
from tonleiter.core.station.settings import PanelState


def knob(name="gain", value=50.0, aim=None, **more):
    return control(PanelState(knobs={name: value}), name, aim, **more)


@pytest.mark.parametrize(
    ("value", "fits"),
    [(39.0, False), (40.0, True), (45.0, True), (50.0, True), (51.0, False)],
)
def test_it_fits_from_one_end_of_its_aim_to_the_other(value, fits):
    assert knob(value=value, aim=(40.0, 50.0)).fits() is fits
    assert knob(value=value).fits(), "nobody minds"


def test_a_meter_fits_from_one_end_of_its_aim_to_the_other():
    scale = Scale("alc", 15.0)
    fits = [Meter(scale, v, "", (6.0, 9.0)).fits() for v in (5.9, 6.0, 7.0, 9.0, 9.1)]
    assert fits == [False, True, True, True, False]
    assert Meter(scale, 14.0, "").fits()
    assert [Meter(scale, v, "").share() for v in (-3.0, 0.0, 7.5, 15.0, 40.0)] == [0, 0, 0.5, 1, 1]


@pytest.mark.parametrize(
    ("aim", "to"),
    [
        ((40.0, 50.0), 45.0),
        # by whole steps, where one of them lies in the aim
        ((40.0, 41.2), 41.0),
        # and between them, where none does: a dial has no clicks
        ((40.2, 40.6), 40.4),
        # no further than its end
        ((98.0, 130.0), 100.0),
        ((-20.0, 4.0), 0.0),
    ],
)
def test_it_is_turned_to_the_middle_of_its_aim(aim, to):
    assert knob(value=20.0, aim=aim).target() == pytest.approx(to)


def test_it_is_stuck_only_where_it_would_have_to_go_on():
    assert knob(value=100.0, aim=(120.0, 140.0)).stuck()
    assert knob(value=0.0, aim=(-40.0, -20.0)).stuck()
    assert not knob(value=97.0, aim=(120.0, 140.0)).stuck()
    assert not knob(value=100.0, aim=(95.0, 105.0)).stuck()
    # half a step short of the end is a turn that can be made
    assert not knob("compression", 11.5, (14.0, 15.0)).stuck()
    assert knob("compression", 12.0, (14.0, 15.0)).stuck()


@pytest.mark.parametrize(
    ("text", "of", "value"),
    [
        ("half", "compression", 6.0),
        ("middle", "gain", 50.0),
        ("off", "compression", 0.0),
        ("full", "compression", 12.0),
        ("a third", "compression", 4.0),
        ("a quarter", "compression", 3.0),
        # of a scale that does not begin at nothing: 1.8 to 5 kHz
        ("a quarter", "high", 2600.0),
        ("full", "high", 5000.0),
        ("off", "bass", -10.0),
        ("2,8 kHz", "high", 2800.0),
        ("2600", "high", 2600.0),
        ("-3", "bass", -3.0),
        ("4.5 dB", "compression", 4.5),
        ("40 %", "power", 40.0),
    ],
)
def test_it_is_typed_as_people_say_it(text, of, value):
    assert read_knob(text, control(PanelState(), of)) == pytest.approx(value)


@pytest.mark.parametrize("marked_to", [9.0, 10.0, 60.0, 100.0])
def test_what_is_printed_and_where_it_stands_are_one_thing(marked_to):
    """60 of a hundred is 6 of ten and 36 of sixty; tenths are told where there are few marks."""
    gain = knob(value=60.0, marked_to=marked_to)
    assert gain.marked(60.0) == pytest.approx(0.6 * marked_to)
    assert gain.unmarked(gain.marked(60.0)) == pytest.approx(60.0)
    assert gain.said() == (f"{0.6 * marked_to:.1f}" if marked_to < 20 else f"{0.6 * marked_to:.0f}")
    assert read_knob(gain.said(), gain) == pytest.approx(60.0, abs=0.6)


def test_a_computer_s_three_levels_are_one():
    panel = PanelState(knobs={"level": -6, "program": -3, "slider": -10.5})
    assert from_computer_db(panel) == pytest.approx(-19.5)
    assert from_computer_db(PanelState()) == 0.0


def test_turning_a_knob_leaves_the_others_and_ends_at_its_scale():
    panel = with_knobs(PanelState(knobs={"bass": 2, "gain": 30}), {"gain": 140.0})
    assert panel.knobs == {"bass": 2, "gain": 100.0}


def test_what_was_tried_for_one_sound_is_forgotten_with_another_only():
    tried = PanelState(tone="natural", shelves_db=(-4.0, 1.0))
    assert in_school(tried, tone="communicator").shelves_db is None
    assert in_school(tried, tone="natural").shelves_db == (-4.0, 1.0)
    assert in_school(tried, alc="barely").shelves_db == (-4.0, 1.0)
    assert in_school(tried, alc="barely").alc == "barely"


# --- meters in words ------------------------------------------------------------------------------

TEN = Scale("alc", 10.0)
COUNTS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


@pytest.mark.parametrize("count", range(11))
def test_bars_are_counted_in_words_and_figures(count):
    assert read_meter(f"{COUNTS[count]} bars", TEN) == pytest.approx(count)
    assert read_meter(f"{count} bars of ten", TEN) == pytest.approx(count)
    assert read_meter(f"{COUNTS[count]} leds of 20", TEN) == pytest.approx(count / 2)


@pytest.mark.parametrize(
    ("words", "share"),
    [
        (("half", "a half", "half way", "halfway", "middle", "half scale"), 0.5),
        (("a third", "third"), 1 / 3),
        (("two thirds",), 2 / 3),
        (("a quarter", "quarter"), 0.25),
        (("three quarters",), 0.75),
        (("not moving", "nothing", "none", "rests"), 0.0),
        (("pinned", "full", "end", "at the end"), 1.0),
    ],
)
def test_a_share_of_a_scale_in_words(words, share):
    assert [read_meter(word, TEN) for word in words] == pytest.approx([10 * share] * len(words))


def test_a_null_is_a_tone_that_somebody_can_hear_and_one_of_those_that_are_known():
    khz = Scale("deviation", 6.5)
    # the fifth at 14.9309
    assert read_meter("null 5 200", khz) == pytest.approx(2.98618, rel=1e-4)
    assert read_meter("null 20", khz) == pytest.approx(0.048096, rel=1e-3)
    for text in ("null 19", "null 0 500", "null 6 200", "null 20001", "null 1 2 3"):
        with pytest.raises(MeterError, match="no null"):
            read_meter(text, khz)


def test_twice_the_scale_is_taken_only_where_going_over_is_the_matter():
    for meter in ("deviation", "down", "up"):
        assert read_meter("19", Scale(meter, 10.0)) == 19.0
        with pytest.raises(MeterError, match="from 0 to 10"):
            read_meter("21", Scale(meter, 10.0))
    with pytest.raises(MeterError, match="from 0 to 10"):
        read_meter("10.1", TEN)


def test_a_field_says_what_it_takes():
    assert accepted(Scale("deviation", 6.5)).endswith("or a null as null 1247")
    assert "share" not in accepted(Scale("down", 130.0))
    assert accepted(TEN) == "0 to 10 dB, or a share of the scale as 40 % or half"


def test_figures_of_cards_have_the_digits_that_a_meter_shows():
    assert meter_said("deviation", 3.0) == "3.00 kHz"
    assert meter_said("alc", 9.96) == "10.0 dB"
    assert meter_said("alc", 10.4) == "10 dB"
    assert knob_title("gain") == "microphone gain"
    assert knob_title("high") == "high edge, Hz"


def test_a_move_back_says_which_way():
    assert Turn("gain", 60.0, 45.0).move == "Microphone gain down from 60 to 45"
    assert Turn("bass", -2.0, 1.5).move == "Bass up from −2 to +1.5 dB"
