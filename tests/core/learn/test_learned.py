"""What readings teach, as an old hand would say it of a headset and a radio nobody knows.

Written first. Volts open tell the bias and nothing of the microphone. The knob tells what lies
between voice and meter, all together. A misread range of ten is the odd one out, not the others.
What is read next is the knob where the knob is asked for, and it halves the doubt or better.
"""

import dataclasses
import json
import re

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tests.core.wiring.benches import lead, radio, station
from tonleiter.cli.main import main
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.learned import DRAWS, learn
from tonleiter.core.learn.predict import Model
from tonleiter.core.learn.reading import Reading, ReadingError, parse_reading
from tonleiter.core.station.files import save_station

SEED = 99


@pytest.fixture(scope="module")
def typed():
    """A dynamic microphone and a radio with volts on its contact, behind a blocking capacitor."""
    return station(
        gear("dynamic-microphone", "mic", coil_ohm=300, sensitivity_mv_per_pa="1..3"),
        lead(), gear("capacitor", "block", capacitance_f="10u"), radio(wants_dbu="-60..-48"),
    )  # fmt: skip


@pytest.fixture(scope="module")
def assessment(typed):
    return verdict_of(typed).assessment


def stages(assessment):
    return tuple(s.id for s in assessment.solution.compiled.stages)


def taken(assessment, *texts):
    return learn(assessment, [parse_reading(t, stages(assessment)) for t in texts], 120)


@pytest.mark.long
def test_without_a_reading_there_is_the_band_and_what_to_read(assessment):
    made = taken(assessment)
    assert made.before == made.after
    assert made.before.wide > 20, "marks of a hundred"
    assert "no reading says more yet" in made.headline()
    assert (made.next_[0].kind, made.odd) == ("knob", ())
    assert not any(f.told for f in made.figures)


@pytest.mark.long
def test_where_the_knob_stands_tells_of_what_lies_between_voice_and_meter(assessment):
    before = taken(assessment)
    at = 0.5 * (before.before.low + before.before.high)
    made = taken(assessment, f"knob={at:.0f}")
    assert made.after.wide < 0.4 * made.before.wide
    assert made.after.low <= at <= made.after.high
    assert f"between {made.after.low:.0f} and {made.after.high:.0f}" in made.headline()
    told = {f.parameter.field for f in made.figures if f.told}
    assert told <= {"sensitivity_mv_per_pa", "wants_dbu", "gain_range_db"}
    assert told


def test_a_range_that_was_typed_is_never_left(assessment):
    made = taken(assessment, "knob=2", "speech@radio=20mV")
    for figure in made.figures:
        low, high = figure.parameter.figure.low, figure.parameter.figure.high
        if low is not None:
            assert low <= figure.after.low <= figure.after.high <= high


@pytest.mark.long
def test_one_more_reading_is_the_same_as_all_of_them_anew(assessment):
    one = taken(assessment, "knob=50", "speech@radio=1mV")
    again = taken(assessment, "knob=50", "speech@radio=1mV")
    assert one.after == again.after
    # in another order: the same but for chance
    turned = taken(assessment, "speech@radio=1mV", "knob=50")
    assert turned.after.low == pytest.approx(one.after.low, abs=0.1 * one.before.wide)


def hidden(assessment, seed):
    """A unit of the chain with what it would read."""
    model = Model.of(assessment)
    z = model.valid(np.random.default_rng(seed).normal(size=(1, len(model.parameters))))
    return model.drawn(z)


def read_of(assessment, unit, rng, wrong=None):
    """Readings of a unit, each off by its meter; one of them wrong by a factor of ten."""
    made = []
    for text in ("knob=50", "speech@radio=1mV", "speech@block=1mV"):
        plain = parse_reading(text, stages(assessment))
        value = float(unit.reads([plain])[0, 0]) + plain.sd * rng.normal()
        if wrong == plain.kind:
            value += 20.0
        made.append(dataclasses.replace(plain, value=value))
    return made


@pytest.mark.long
def test_nine_in_ten_ranges_hold_the_truth(assessment):
    """A sample of ten; `scripts/fuzz taught` takes hundreds."""
    rng = np.random.default_rng(SEED)
    held = 0
    for seed in range(10):
        unit = hidden(assessment, 1000 + seed)
        made = learn(assessment, read_of(assessment, unit, rng)[:1], 120)
        truth = float(unit.knob()[0])
        held += made.after.low <= truth <= made.after.high
    assert held >= 7, "of ten at nine in ten, fewer once in eighty times"


@pytest.mark.long
def test_a_range_of_ten_misread_is_found_and_a_right_one_is_not_accused(assessment):
    rng = np.random.default_rng(SEED)
    found = accused = 0
    for seed in range(4):
        unit = hidden(assessment, 2000 + seed)
        right = learn(assessment, read_of(assessment, unit, rng), 120)
        accused += bool(right.odd)
        readings = read_of(assessment, unit, rng)
        readings[1] = dataclasses.replace(readings[1], value=readings[1].value + 40.0)
        made = learn(assessment, readings, 120)
        found += [o.reading for o in made.odd] == [readings[1]]
    assert found >= 3
    assert accused <= 1


@pytest.mark.parametrize("text, says", [
    ("volts=2", "a stage is wanted"), ("volts@nowhere=2", "a stage is wanted"), ("knob=", "wanted"),
    ("knob=about half", "0 to 100"), ("knob=nan", "0 to 100"),
    ("speech@radio=0", "more than nothing"),
    ("ohms=5", "is wanted"), ("open@radio=5", "without a stage"), ("volts@radio=2 kg", "kg"),
])  # fmt: skip
def test_what_is_no_reading_is_refused_in_one_line(assessment, text, says):
    with pytest.raises(ReadingError, match=says) as refused:
        parse_reading(text, stages(assessment))
    assert "\n" not in str(refused.value)


def test_of_the_first_stage_nothing_is_read_at_its_input(assessment):
    with pytest.raises(ReadingError, match="nothing is read"):
        learn(assessment, [Reading("volts", "mic", 1.0, 0.1, "1")], 20)


@pytest.mark.long
def test_by_the_command(typed, tmp_path, capsys):
    folder = tmp_path / "s.station"
    save_station(typed, folder)
    assert main(["learn", str(folder), "--read", "knob=50", "--json"]) == 0
    made = json.loads(capsys.readouterr().out)
    assert made["after"][1] - made["after"][0] < made["before"][1] - made["before"][0]
    assert main(["learn", str(folder), "--read", "knob=50"]) == 0
    assert "the knob will stand between" in capsys.readouterr().out
    assert main(["learn", str(folder), "--read", "nonsense"]) == 2
    assert capsys.readouterr().err.count("\n") == 1
    assert DRAWS >= 200


def test_one_alone_that_the_figures_do_not_allow_fits_nothing(assessment):
    """Volts on a contact that was entered without any: the reading, or the figure, is wrong."""
    made = taken(assessment, "open=7.9")
    (odd,) = made.odd
    assert odd.alone
    assert "by the figures it is 0 V to 0 V" in odd.says()
    assert made.headline().startswith("One reading, and it fits no figure: the knob will stand")
    assert made.proves().endswith("One reading does not fit the figures.")
    assert made.after == made.before


def test_of_a_chain_that_does_not_sound_nothing_is_learned_and_it_is_said():
    """Carbon without current: no knob of any radio tells anything."""
    silent = verdict_of(station_of(gear("carbon-microphone", "mic"), lead(), radio())).assessment
    with pytest.raises(ReadingError, match="nothing sounds"):
        learn(silent, [], 40)


@pytest.mark.parametrize(
    ("wants", "says"),
    [
        ("-102..-97", "The knob will not do: it is shut, and less is wanted"),
        ("-25..-20", "The knob will not do: its scale ends at 100, and more is wanted"),
        ("-47..-40", "and its end, 100, which may not do"),
        ("-85..-80", "between its start, which may not do, and"),
    ],
)
def test_no_knob_is_said_to_stand_where_its_scale_does_not_reach(wants, says):
    of = station(
        gear("dynamic-microphone", "mic", coil_ohm=300, sensitivity_mv_per_pa="1.4..1.6"),
        lead(), radio(wants_dbu=wants),
    )  # fmt: skip
    made = learn(verdict_of(of).assessment, [], 100)
    assert says in made.headline()
    assert not re.search(r"\d{3,} and|−\d", made.headline())


@pytest.mark.parametrize(
    ("clip", "says"),
    [
        ("-75..-74.9", "dB over the nearest ceiling: they are clipped"),
        ("-48.1..-48", "peaks may be clipped"),
        ("-20..-19.9", "dB under the nearest ceiling"),
    ],
)
def test_room_is_never_less_than_none(clip, says):
    of = station(gear("dynamic-microphone", "mic", coil_ohm=300), lead(), radio(clip_dbu=clip))
    made = learn(verdict_of(of).assessment, [], 100, "room")
    assert says.lower() in made.headline().lower()
    assert "−" not in made.headline()


@pytest.mark.long
def test_what_was_typed_is_told_no_further_than_the_scale_either():
    of = station(
        gear("dynamic-microphone", "mic", coil_ohm=300), lead(), radio(wants_dbu="-85..-80")
    )
    stages = ("mic", "lead", "radio")
    made = learn(verdict_of(of).assessment, [parse_reading("knob=5", stages)], 100)
    assert "As typed it was between its start and" in made.proves()
    assert "−" not in made.proves()
