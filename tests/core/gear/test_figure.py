import math
from datetime import date

import pytest
from pydantic import ValidationError

from tonleiter.core.gear.active import AmplifierStage
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.figure import FARADS, LEVEL, OHMS, Figure
from tonleiter.core.gear.passives import LPad, Transformer
from tonleiter.core.gear.sockets import DataSocket, MicrophoneSocket
from tonleiter.core.station.model import Station
from tonleiter.core.station.refusal import one_line
from tonleiter.core.units.quantity import QuantityError


def pad(**figures):
    return LPad.model_validate({"id": "p", "name": "pad", **figures})


def test_numbers_texts_and_written_out_figures():
    assert pad(series_ohm=4700).series_ohm == Figure(value=4700)
    assert pad(series_ohm="4k7").series_ohm == Figure(value=4700)
    written = {"value": "4k7", "basis": "measured", "measured_on": "2026-03-14"}
    figure = pad(series_ohm=written).series_ohm
    assert figure.basis == "measured"
    assert figure.value == 4700


def test_tolerances_and_ranges():
    figure = pad(series_ohm="4k7 5%").series_ohm
    assert (figure.low, figure.high) == (pytest.approx(4465), pytest.approx(4935))
    spread = pad(series_ohm="600..2400").series_ohm
    assert (spread.low, spread.value, spread.high) == (600, pytest.approx(1200), 2400)


def test_plain_figures_are_saved_plain_and_others_whole():
    assert pad(series_ohm=4700).model_dump(mode="json")["series_ohm"] == 4700
    whole = pad(series_ohm={"value": 1, "basis": "manual"}).model_dump(mode="json")["series_ohm"]
    assert whole == {"value": 1, "basis": "manual"}
    assert pad(**pad(series_ohm="4k7 5%").model_dump(mode="json", include={"series_ohm"}))


@pytest.mark.parametrize(
    ("value", "words"),
    [
        ("4kk7", "“4kk7” is not a resistance; write it like 4k7"),
        (0, "at least 1 mΩ is wanted"),
        (-5, "at least 1 mΩ is wanted"),
        (True, "a resistance is wanted"),
        (None, "a resistance is wanted"),
        (float("nan"), "not a finite"),
        ("2k..1k", "from low to high"),
        ({"value": 5, "low": 6, "high": 7}, "low ≤ value ≤ high"),
    ],
)
def test_bad_figures_are_refused_in_words(value, words):
    with pytest.raises(ValidationError, match=words):
        pad(series_ohm=value)


def test_unknown_keys_are_refused():
    with pytest.raises(ValidationError, match="Extra inputs"):
        pad(serie_ohm=5)


def test_levels_may_be_typed_in_other_units():
    quantity = MicrophoneSocket.figures()["clip_dbu"][0]
    assert quantity.parse("-42 dBV").value == pytest.approx(-39.78, abs=0.01)
    assert quantity.parse("775 mV").value == pytest.approx(0, abs=0.01)
    with pytest.raises(QuantityError):
        quantity.parse("-20 dB")


@pytest.mark.parametrize(
    ("kind", "figures", "words"),
    [
        (AmplifierStage, {"gain_db": 30}, r"outside what this box can do; -10 to 10 dB"),
        (AmplifierStage, {"works_from_dbu": 10}, "works_from_dbu must be below works_to_dbu"),
        (MicrophoneSocket, {"bias_v": 5, "z_in_ohm": 3000}, "below bias_ohm"),
        (DataSocket, {"window_low_dbu": -4}, "below window_high_dbu"),
        (Transformer, {"leakage_h": 5}, "leakage_h must be below primary_h"),
    ],
)
def test_figures_that_contradict_each_other(kind, figures, words):
    with pytest.raises(ValidationError, match=words):
        kind.model_validate({"id": "x", "name": "x", **figures})


def test_values_are_frozen():
    with pytest.raises(ValidationError):
        pad().series_ohm = Figure(value=1)


def test_a_tolerance_is_printed_as_it_was_typed():
    ohms = LPad.figures()["series_ohm"][0]
    assert ohms.show(ohms.parse("4k7 5%")) == "4.7 kΩ ± 5 %"
    assert ohms.show(ohms.parse("600..2000")) == "600 Ω … 2 kΩ"
    assert ohms.parse("4k7").tolerance_percent is None


# --- figures from outside the world ---------------------------------------------------------------


@pytest.mark.parametrize(
    "raw",
    [
        "1n",
        "1e13",
        "1e155..1e200",
        "5e-324",
        10**400,
        -(10**400),
        False,
        True,
        {"value": False},
        {"value": 10**400},
        {"value": 5e-324},
        " " * 1000,
        "x" * 10_000,
        "4k7" + " " * 1000 + "x",
        float("nan"),
        float("inf"),
        {"value": 100, "low": 1e-9, "high": 1e3},
        "\ud800",
        None,
        [],
        "1e999",
    ],
)
def test_no_resistance_of_this_world(raw):
    with pytest.raises(ValidationError) as refusal:
        LPad.model_validate({"id": "p", "name": "p", "series_ohm": raw})
    message = refusal.value.errors()[0]["msg"]
    assert "\n" not in message
    assert len(message) < 400


@pytest.mark.parametrize("text", ["10000", "1e400", "-1e5", "301", "1e155..1e200"])
def test_no_level_of_this_world(text):
    with pytest.raises(QuantityError):
        LEVEL.parse(text)


def test_every_quantity_has_bounds_and_prints_them():
    for kind in KINDS.values():
        for quantity, _ in kind.figures().values():
            assert -1e13 < quantity.low < quantity.high < 1e13
            assert quantity.check(quantity.high) == quantity.high
            assert quantity.check(quantity.low) == quantity.low
            with pytest.raises(QuantityError) as refusal:
                quantity.check(quantity.high * 1.01 + 1)
            assert quantity.unit.symbol in str(refusal.value)


def test_the_middle_of_a_wide_range_is_inside_it():
    figure = OHMS.parse("1m..1T")
    assert figure.value == pytest.approx(math.sqrt(1e-3 * 1e12))
    assert LEVEL.parse("-100..20").value == pytest.approx(-40)


def test_pulling_stops_where_parts_end():
    assert FARADS.held(47.0, 1e-6) == 10e-3
    assert FARADS.held(1e-20, 1e-6) == 1e-12
    assert OHMS.held(1e15, 4700) == 100e6
    # what is larger already may stay and come down, and goes no further
    assert FARADS.held(2.0, 1.0) == 1.0
    assert FARADS.held(0.5, 1.0) == 0.5


def test_an_unknown_key_in_a_figure_names_the_figures_keys(demo_data):
    demo_data["gear"][0]["sensitivity_mv_per_pa"] = {"value": 1.5, "of": 3}
    with pytest.raises(ValidationError) as refusal:
        Station.model_validate(demo_data)
    line = one_line(refusal.value, demo_data)
    assert "unknown key “of”; known keys: value, low, high, basis, measured_on" in line


# --- where a figure comes from --------------------------------------------------------------------

DAY = date(2026, 3, 14)


@pytest.mark.parametrize(
    ("old", "choice", "basis", "on"),
    [
        ("typical", False, "manual", None),
        ("typical", True, "typical", None),
        ("manual", False, "manual", None),
        ("measured", False, "measured", DAY),
    ],
)
def test_what_is_typed_over_a_figure_comes_from_somewhere(old, choice, basis, on):
    before = Figure(
        value=1.0, basis=old, measured_on=date(2020, 1, 1) if old == "measured" else None
    )
    typed = Figure(value=2.0).typed_over(before, DAY, choice)
    assert (typed.value, typed.basis, typed.measured_on) == (2.0, basis, on)


def test_origins_go_round():
    figure = Figure(value=1.0)
    seen = []
    for _ in range(4):
        figure = figure.of_next_origin(DAY)
        seen.append((figure.basis, figure.measured_on))
    assert seen == [("manual", None), ("measured", DAY), ("typical", None), ("manual", None)]


def test_a_day_belongs_to_a_measured_figure_only():
    """What is written and read again is the same: a stray day is dropped when it is read."""
    stray = pad(series_ohm={"value": 300, "measured_on": "2026-03-14"}).series_ohm
    assert stray.measured_on is None
    measured = {"value": 300, "basis": "measured", "measured_on": "2026-03-14"}
    assert pad(series_ohm=measured).series_ohm.measured_on == date(2026, 3, 14)
