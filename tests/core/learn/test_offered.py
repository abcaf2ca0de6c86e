"""What to read next goes by what one has, and by what one wants to know; written first.

Without a meter nothing but the radio's own tells. A generator makes decibels readable, however loud
anybody speaks. Of the noise a recording tells.
"""

import numpy as np
import pytest

from tests.conftest import gear
from tests.core.wiring.benches import lead, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.offered import EFFORT, offered
from tonleiter.core.learn.predict import Model
from tonleiter.core.learn.reading import ReadingError, parse_reading
from tonleiter.core.station.instruments import INSTRUMENTS

ALL = tuple(INSTRUMENTS)
STAGES = ("mic", "lead", "pad", "radio")


@pytest.fixture(scope="module")
def model():
    """A pad of which little is known, and a set whose noise nobody knows but its ceiling."""
    of = station(
        gear("dynamic-microphone", "mic", coil_ohm=300),
        lead(),
        gear("l-pad", "pad", series_ohm="1k..10k", shunt_ohm="200..1000"),
        radio(clip_dbu="-30..-29.9", ein_dbu="-135..-100"),
    )
    return Model.of(verdict_of(of).assessment)


@pytest.mark.parametrize(
    ("owned", "kinds"),
    [
        ((), {"knob"}),
        (("multimeter",), {"open", "volts", "speech", "knob"}),
        (("scope",), {"open", "volts", "speech", "knob"}),
        (("generator",), {"knob"}),
        (("generator", "scope"), {"open", "volts", "speech", "gain", "knob"}),
        (("second-receiver",), {"knob", "noise"}),
        (ALL, set(EFFORT)),
    ],
)
def test_what_one_has_decides_what_is_proposed(owned, kinds):
    assert {kind for kind, _ in offered(("mic", "lead", "radio"), owned)} == kinds


def test_of_a_tone_s_gain_the_first_joint_is_the_one_it_is_held_against():
    places = {s for kind, s in offered(("mic", "lead", "amp", "radio"), ALL) if kind == "gain"}
    assert places == {"amp", "radio"}


def test_for_the_room_that_peaks_have_a_level_is_read(model):
    made = learn(model, [], 100, "room", ALL)
    assert made.next_[0].kind in ("speech", "gain")


@pytest.mark.long
def test_for_the_noise_a_recording_is_made(model):
    made = learn(model, [], 200, "noise", ALL)
    assert made.next_[0].kind == "noise"
    middle = 0.5 * (made.before.low + made.before.high)
    read = parse_reading(f"noise={middle:.0f} dB", STAGES)
    after = learn(model, [read], 200, "noise", ALL)
    assert after.after.wide < 0.8 * made.before.wide
    assert after.after.low < middle < after.after.high


@pytest.mark.long
def test_a_tone_tells_the_loss_whoever_speaks(model):
    before = learn(model, [], 200, "level", ALL)
    nominal = model.drawn(np.zeros((1, len(model.parameters))))
    says = float(nominal.reads([parse_reading("gain@radio=0 dB", STAGES)])[0, 0])
    read = parse_reading(f"gain@radio={says + 3:.1f} dB", STAGES)
    made = learn(model, [read], 200, "level", ALL)
    told = {(f.stage, f.parameter.field) for f in made.figures if f.told}
    assert {stage for stage, _ in told} <= {"pad", "radio"}, "of the microphone it says nothing"
    was = 0.5 * (before.before.low + before.before.high)
    assert 0.5 * (made.after.low + made.after.high) > was + 1


def test_a_question_that_the_chain_has_no_answer_to_is_refused(model):
    data = station(gear("line-source", "pc"), gear("data-socket", "radio"), purpose="packet")
    with pytest.raises(ReadingError, match="no gain control"):
        learn(verdict_of(data).assessment, [], 40, "knob")
