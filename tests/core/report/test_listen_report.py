"""What is told of recordings as data: figures of known signals, gaps that say why, no NaN."""

import csv
import io
import json
import math

import numpy as np
import pytest

from tests.core.listen.signals import RATE, lines, measured, noise, spoken, times
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.measures import Told
from tonleiter.core.report.listen_report import (
    compare_report,
    csv_of,
    figures_of,
    measure_report,
    said,
)


@pytest.fixture(scope="module")
def tone():
    """A sine of half of full scale, a second harmonic of a hundredth of it."""
    t = times(2 * RATE)
    return measured(0.5 * np.sin(2 * math.pi * 1000 * t) + 0.005 * np.sin(2 * math.pi * 2000 * t))


@pytest.fixture(scope="module")
def voices():
    x = spoken() + noise(spoken().size, 55)
    return measured(x + lines(x.size, 50, ((1, 1.0), (2, 1.0)), 25)), measured(0.5 * x)


def test_a_tone_is_told_by_its_figures(tone):
    figures = measure_report("tone.wav", tone)["figures"]
    assert figures["peak_dbfs"]["value"] == pytest.approx(20 * math.log10(0.5), abs=0.1)
    assert figures["tone_hz"]["value"] == pytest.approx(1000, abs=2)
    assert figures["thd_db"]["value"] == pytest.approx(-40, abs=0.5)
    assert figures["thd_noise_db"]["value"] == pytest.approx(-40, abs=0.5)
    assert figures["cut_share"]["value"] == 0


def test_what_cannot_be_told_says_why(tone, voices):
    told = {key: told for _, key, _, told in figures_of(voices[0])}
    assert (told["tone_hz"].value, told["tone_hz"].why) == (None, "it is no tone")
    assert told["level_dbfs"].value is not None
    spoken_of = measure_report("tone.wav", tone)["figures"]["over_noise_db"]
    assert spoken_of["value"] is None
    assert spoken_of["why"]


def test_hum_is_told_by_its_lines(voices):
    hum = measure_report("hum.wav", voices[0])["hum"]
    assert hum["mains_hz"] == pytest.approx(50, abs=0.1)
    assert hum["mains_under_speech_db"] == pytest.approx(25, abs=1.5)
    assert [round(x["f_hz"]) for x in hum["lines"][:2]] == [50, 100]
    assert measure_report("clean.wav", voices[1])["hum"]["mains_under_speech_db"] is None


@pytest.mark.parametrize(
    ("told", "unit", "words"),
    [
        (Told(-12.34, 0.5), "dB", "−12.3 dB ± 0.5"),
        (Told(-12.34, 0.049), "dB", "−12.3 dB"),
        (Told(-12.34, 0.05), "dB", "−12.3 dB ± 0.1"),
        (Told(2699.6, 20.0), "Hz", "2700 Hz ± 20"),
        (Told(0.0025, 0.0), "", "0.2500%"),
        (Told(0.0, 0.0), "", "none"),
        (Told(None, 0.0, "nobody speaks"), "dB", "cannot be told: nobody speaks"),
    ],
)
def test_a_figure_in_words(told, unit, words):
    assert said(told, unit) == words


def test_a_table_has_a_line_each_and_keys_with_their_units(tone, voices):
    rows = [*csv.DictReader(io.StringIO(csv_of([("a, b.wav", tone), ("hum.wav", voices[0])])))]
    assert [row["file"] for row in rows] == ["a, b.wav", "hum.wav"]
    assert rows[0]["rate_hz"] == str(RATE)
    assert float(rows[0]["seconds"]) == pytest.approx(2)
    assert float(rows[0]["peak_dbfs"]) == pytest.approx(-6.02, abs=0.1)
    assert rows[0]["over_noise_db"] == "", "what cannot be told is left empty"
    assert "hum" in rows[1]["words"].split()
    assert None not in rows[0], "no more figures than keys"


def test_nothing_in_it_is_beyond_json(tone, voices):
    for m in (tone, *voices, measured(np.zeros(RATE))):
        json.dumps(measure_report("x.wav", m), allow_nan=False)


def test_two_are_told_by_what_went_and_what_came(voices):
    hummed, halved = voices
    told = compare_report("before.wav", "after.wav", Comparison(hummed, halved))
    json.dumps(told, allow_nan=False)
    assert (told["one"]["file"], told["other"]["file"]) == ("before.wav", "after.wav")
    assert told["same_words"]
    assert told["louder_db"] == pytest.approx(20 * math.log10(0.5), abs=0.3)
    assert told["late_s"] == pytest.approx(0, abs=0.02)
    assert "hum" in told["words_gone"]
    assert told["words_come"] == []
    assert len(told["spectrum"]["f_hz"]) == len(told["spectrum"]["by_db"])
    back = compare_report("after.wav", "before.wav", Comparison(halved, hummed))
    assert "hum" in back["words_come"]
    assert back["louder_db"] == pytest.approx(-told["louder_db"], abs=0.1)
