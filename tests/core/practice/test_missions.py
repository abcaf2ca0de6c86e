"""Missions from seeds: solvable by looking, each of another station, the same again from a seed."""

import random

import pytest

from tests.core.practice.walk import solver, told_at_last
from tonleiter.core.practice import build, computer, voice
from tonleiter.core.practice.missions import any_mission, mission
from tonleiter.core.practice.riddle import REPORT


@pytest.mark.table(keep=12)
@pytest.mark.parametrize(
    "family, seed",
    [("build", 5), ("voice", 1), ("build", 2), ("build", 3), ("computer", 4), ("build", 6),
     ("voice", 7), ("build", 8), ("computer", 9)],
)  # fmt: skip
def test_a_scripted_solver_finds_it(family, seed):
    riddle = mission(family, seed)
    assert told_at_last(riddle), "all looks together tell it"
    play = solver(riddle)
    assert play.ended and not play.given_up
    assert len(play.wrong) <= 2
    assert not play.unsafe
    assert play.score().total >= 60 - 12 * len(play.wrong)


@pytest.mark.parametrize("seed", [1, 4])
def test_the_same_seed_is_the_same_mission(seed):
    one, two = mission("build", seed), mission("build", seed)
    assert (one.true, one.report, dict(one.shows[one.true])) == (
        two.true, two.report, dict(two.shows[two.true]),
    )  # fmt: skip
    other = mission("build", seed + 1)
    assert (other.about, other.true) != (one.about, one.true)


def kinds(module, seeds):
    """The kinds that stations of some seeds can have, without solving them."""
    found = set()
    for seed in seeds:
        rng = random.Random(f"{module.__name__} {seed}")
        _, station = module.base(rng)
        found |= {w.cause.kind for w in module.wrongs(station, rng)}
    return found


@pytest.mark.long
def test_there_are_at_least_twenty_kinds_from_easy_to_hard():
    of_voice, of_computer = kinds(voice, range(40)), kinds(computer, range(6))
    assert len(of_voice) >= 15
    assert len(of_computer) >= 14
    assert {"bias-missing", "second-bias", "earth-loop", "pad-missing", "two-compressors",
            "tone-reversed", "hole-missed", "small-capacitor", "limiter-moved",
            "far-and-loud"} <= of_voice  # fmt: skip
    assert {"default-taken", "both-tones", "long-tail", "other-system", "listens"} <= of_computer
    levels = {w.cause.level for w in voice.wrongs(voice.base(random.Random(1))[1],
                                                  random.Random(1))}  # fmt: skip
    assert levels == {1, 2, 3}


@pytest.mark.parametrize("kind", ["dry", "mirrored", "switch", "bridge"])
def test_a_kind_that_hands_make_can_be_asked_for(kind):
    for seed in range(40):
        riddle = build.make(seed, kind)
        if riddle is not None and riddle.cause.kind == kind:
            assert told_at_last(riddle)
            return
    raise AssertionError("no seed gives it")


@pytest.mark.long
def test_what_is_shown_is_computed_of_the_station_with_the_cause_in_it():
    """A bias that is gone: no volts at the open pin, where there were some."""
    for seed in range(30):
        rng = random.Random(f"voice {seed}")
        _, station = voice.base(rng)
        if station.gear_by_id["radio"].bias_on_pin_v() > 0:
            break
    riddle = voice.make(seed, "bias-missing")
    assert riddle is not None
    assert riddle.sees("open-dc") == 0
    assert riddle.right["open-dc"] == station.gear_by_id["radio"].bias_on_pin_v()
    assert riddle.sees(REPORT) == "nothing to be heard of your voice"
    assert riddle.heard is not None


def test_some_mission_comes_whatever_is_asked():
    riddle = any_mission(random.Random(3), "build")
    assert riddle.family == "build"
    assert len(riddle.causes) > 3
