"""Meters and knobs as people write them; what cannot be is refused in one line."""

import pytest

from tonleiter.core.guide.controls import KnobError, control, driven, read_knob
from tonleiter.core.guide.meters import MeterError, Scale, read_meter
from tonleiter.core.guide.step import turn
from tonleiter.core.station.settings import PanelState

ALC, KHZ, DOWN = Scale("alc", 15.0), Scale("deviation", 6.5), Scale("down", 130.0)


@pytest.mark.parametrize(
    ("text", "scale", "value"),
    [
        ("6", ALC, 6.0), ("6,5", ALC, 6.5), ("6 dB", ALC, 6.0), ("40 %", ALC, 6.0),
        ("60%", ALC, 9.0), ("half", ALC, 7.5), ("a third", ALC, 5.0), ("Two thirds", ALC, 10.0),
        ("two bars of ten", ALC, 3.0), ("3 bars of 5", ALC, 9.0), ("one bar", ALC, 1.5),
        ("pinned", ALC, 15.0), ("not moving", ALC, 0.0), (" 1. ", ALC, 1.0), (".5", ALC, 0.5),
        ("4.5 kHz", KHZ, 4.5), ("4500 Hz", KHZ, 4.5), ("3.1", KHZ, 3.1), ("50 %", KHZ, 3.25),
        # over the system's edge: the reading that matters most
        ("7.2 kHz", KHZ, 7.2),
        # 1247 Hz at the first null: 2.4048 × 1247 Hz; 543 Hz at the second: 5.5201 × 543
        ("null 1247", KHZ, 2.99883), ("null 2 543", KHZ, 2.99740), ("null 1247 Hz", KHZ, 2.99883),
        ("88 %", DOWN, 88.0), ("−88 %", DOWN, 88.0), ("-88", DOWN, 88.0),
    ],
)  # fmt: skip
def test_a_reading_is_taken_as_it_is_written(text, scale, value):
    assert read_meter(text, scale) == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize("scale", [ALC, KHZ, DOWN])
@pytest.mark.parametrize(
    "text",
    [
        "", "loud", "nan", "inf", "-inf", "1e308", "1e999", "9" * 400, "--4", "null", "null nan",
        "null inf", "null 1e308", "null 9 500", "null 2 -543", "five bars of two", "x bars",
        "0 bars of 0", "4 V", "4 kHz kHz", "½ of it", "\u0000", "4\n5",
    ],
)  # fmt: skip
def test_what_is_no_reading_is_one_line(text, scale):
    with pytest.raises(MeterError) as caught:
        read_meter(text, scale)
    assert "\n" not in str(caught.value)
    assert len(str(caught.value)) < 400


@pytest.mark.parametrize("text", ["-3", "16", "200 %"])
def test_what_lies_beyond_an_alc_scale_is_refused(text):
    with pytest.raises(MeterError, match="scale"):
        read_meter(text, ALC)


GAIN = control(PanelState(), "gain", marked_to=10)


@pytest.mark.parametrize(
    ("text", "knob", "value"),
    [
        # the radio's own marking: 7 of 10 is 70 of a hundred
        ("7", GAIN, 70.0), ("6,5", GAIN, 65.0), ("half", GAIN, 50.0),
        ("4,5 kHz", control(PanelState(), "high"), 4500.0),
        ("2900", control(PanelState(), "high"), 2900.0),
        ("2k7", control(PanelState(), "high"), 2700.0),
        ("−3 dB", control(PanelState(), "bass"), -3.0),
    ],
)  # fmt: skip
def test_a_knob_is_typed_in_its_own_marking(text, knob, value):
    assert read_knob(text, knob) == pytest.approx(value)


@pytest.mark.parametrize("text", ["11", "-1", "nan", "inf", "loud", "1e400", ""])
def test_what_no_knob_shows_is_refused(text):
    with pytest.raises(KnobError) as caught:
        read_knob(text, GAIN)
    assert "0.0 to 10.0 is on the scale" in str(caught.value)


def test_figures_are_printed_as_the_radio_has_them():
    assert control(PanelState(knobs={"gain": 64}), "gain").said() == "64"
    assert control(PanelState(knobs={"gain": 64}), "gain", marked_to=10).said() == "6.4"
    assert control(PanelState(knobs={"bass": 2}), "bass").said() == "+2.0 dB"
    assert control(PanelState(knobs={"level": -12}), "level").said() == "−12.0 dB"


@pytest.mark.parametrize("reading", [-4.0, 6.0, 8.4, 10.05, 19.0])
def test_a_driven_knob_fits_just_when_its_meter_does(reading):
    """Two and a half hundredths a decibel; the meter's zone is 6.75 to 10.05 dB."""
    zone = (6.75, 10.05)
    knob = driven(control(PanelState(), "gain"), reading, zone, 2.5)
    assert knob.fits() == (zone[0] <= reading <= zone[1])
    if not knob.fits():
        after = reading + (knob.target() - knob.value) / 2.5
        assert zone[0] <= after <= zone[1]


def test_a_knob_whose_aim_lies_beyond_its_end_is_stuck_there_and_says_so():
    top = control(PanelState(knobs={"gain": 100}), "gain").with_aim((120.0, 140.0))
    assert top.stuck()
    assert not top.fits()
    assert top.bracket == (100.0, 100.0)
    step = turn("g", "Gain", "", (top,), "why")
    assert step.move.at_end
    assert not step.move.can_be_made
    below = control(PanelState(knobs={"gain": 60}), "gain").with_aim((120.0, 140.0))
    assert not below.stuck()
    assert turn("g", "Gain", "", (below,), "why").move.knobs == {"gain": 100.0}
