"""What makes one pair better than another, one key at a time, and the answers both ways."""

import math
from dataclasses import replace

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.base import Knob
from tonleiter.core.match.grid import (
    answer,
    answer_for_source,
    ranked,
    solve_grid,
    suits,
)
from tonleiter.core.match.pair import VERDICTS, Pair, Take, match_pair
from tonleiter.core.match.terms import Terms, usual_terms
from tonleiter.core.station import edits

PLAIN = Pair(
    source="a",
    input="i",
    verdict="plug-in",
    takes=(),
    solves=1,
    voice=True,
    speech_dbu=-53.0,
    window_low_dbu=-67.0,
    window_high_dbu=-41.0,
    aim_dbu=-53.0,
    snr_db=45.0,
    hum_under_db=90.0,
    bass_corner_hz=None,
    presence_db=0.0,
    bass_wanted_hz=150.0,
    knob=Knob(0.5, 100.0),
)
FIXED = replace(PLAIN, knob=None)


def key(pair, **change):
    return suits(replace(pair, **change))


def takes(*whats):
    return tuple(Take(w, w, None) for w in whats)


@pytest.mark.parametrize(
    "better, worse, why",
    [
        ({}, {"verdict": "small-parts", "snr_db": 90.0}, "parts, however quiet"),
        ({"verdict": "small-parts"}, {"verdict": "active-part"}, "a supply"),
        ({"takes": takes("turn")}, {"takes": takes("pad")}, "a control is no part"),
        ({"takes": takes("block")}, {"takes": takes("block", "load")}, "two things"),
        ({"takes": takes("isolate")}, {"takes": takes("buffer")}, "a transformer is passive"),
        ({"takes": takes("bias")}, {"takes": takes("phantom")}, "48 V are more to build"),
        ({"takes": (Take("gain", "", 12.0),)}, {"takes": (Take("gain", "", 30.0),)}, "more gain"),
        ({"snr_db": 50.0}, {"snr_db": 40.0}, "noise"),
        ({}, {"bass_corner_hz": 400.0}, "thin"),
        ({}, {"presence_db": -9.0}, "muffled"),
        ({}, {"presence_db": 9.0}, "shrill"),
        ({"speech_dbu": -51.0}, {"speech_dbu": -43.0}, "nearer the middle"),
        ({}, {"speech_dbu": None}, "silent"),
    ],
)
def test_what_makes_a_pair_better(better, worse, why):
    assert key(PLAIN, **better) < key(PLAIN, **worse), why


def test_a_gain_control_makes_level_count_little_and_a_fixed_input_much():
    def off(pair):
        return key(pair, speech_dbu=-63.0)[-1] - key(pair)[-1]

    assert off(FIXED) == pytest.approx(10.0)
    assert off(PLAIN) == pytest.approx(1.0)


def test_a_thin_quiet_microphone_does_not_beat_a_full_one_by_a_little_less_noise():
    thin = {"snr_db": 48.0, "bass_corner_hz": 450.0, "presence_db": 6.0}
    assert key(PLAIN) < key(PLAIN, **thin)


def test_for_speech_voices_come_before_players_and_for_data_not():
    player = replace(PLAIN, source="player", voice=False, snr_db=80.0)
    assert [p.source for p in ranked([player, PLAIN], spoken=True)] == ["a", "player"]
    assert [p.source for p in ranked([player, PLAIN], spoken=False)] == ["player", "a"]


def test_verdicts_stand_in_the_order_of_their_trouble():
    keys = [key(PLAIN, verdict=v) for v in VERDICTS]
    assert keys == sorted(keys)


# --- answers both ways ----------------------------------------------------------------------------

DYNAMIC = gear("dynamic-microphone", "dynamic", coil_ohm=300)
SET = gear("microphone-socket", "set", z_in_ohm=2000)
BIASED = gear("microphone-socket", "biased", z_in_ohm=600, bias_v=8, bias_ohm=1100)


def solved(*pieces):
    station = station_of(pieces[0], pieces[-1])
    for piece in pieces[1:-1]:
        station = edits.add_gear(station, station_of(pieces[0], piece).gear[-1])
    terms = usual_terms(station)
    *_, grid = solve_grid(station, terms)
    return grid, station, terms


def test_a_microphone_is_told_its_radio_and_where_the_gain_will_stand():
    grid, station, terms = solved(DYNAMIC, BIASED, SET)
    said = answer_for_source(grid, "dynamic", terms)
    assert said.startswith("The dynamic goes best with the set: plug in, gain at ")
    assert "dB over the noise" in said
    assert "gain at " in answer(grid, station, "set", terms)


def test_a_guest_radio_is_called_one():
    grid, _, terms = solved(DYNAMIC, BIASED, SET | {"guest": True})
    assert "the set (a guest): plug in" in answer_for_source(grid, "dynamic", terms)


def test_a_microphone_that_nothing_takes_is_told_so():
    data = gear("data-socket", "data")
    station = station_of(DYNAMIC, data, purpose="packet")
    terms = Terms("packet", "op", 30.0)
    *_, grid = solve_grid(station, terms)
    assert answer_for_source(grid, "dynamic", terms) == (
        "No input here suits the dynamic: a microphone carries no data."
    )
    assert answer_for_source(grid, "nobody", terms) == ""


def one(source, socket, purpose="ssb-chat"):
    station = station_of(source, socket, purpose=purpose)
    return match_pair(station, *station.gear, Terms(purpose, "op", 30.0))


def test_ranges_of_figures_show_as_a_range_of_the_gain():
    found = one(DYNAMIC | {"sensitivity_mv_per_pa": "1..2.5"}, SET)
    low, high = found.knob_ends
    # 8 dB of sensitivity are a fifth of a range of 40 dB
    assert high.turn - low.turn == pytest.approx(0.2, abs=0.03)
    assert f"gain at {low.mark} to {high.mark}" in found.words()
    assert found.may == ()
    assert one(DYNAMIC, SET).knob_ends is None


def test_ranges_that_cross_the_end_of_the_gain_control_show_as_a_range_of_verdicts():
    deaf = SET | {"wants_dbu": -44, "clip_dbu": -15}
    found = one(DYNAMIC | {"sensitivity_mv_per_pa": "0.5..2.5"}, deaf)
    assert found.verdict == "plug-in"
    assert any(words.startswith("needs +") for words in found.may)
    assert "or, by its ranges, needs +" in found.words()


def test_a_player_is_turned_down_before_a_pad_is_built():
    player = gear("line-source", "player", full_scale_dbu=6, below_full_db=-6)
    data = gear("data-socket", "data")
    found = one(player, data, "packet")
    (take,) = found.takes
    assert take.what == "turn"
    # 6 − 6 dBu against a middle of −20 dBu less 1 dB: the level is brought there by its control
    assert take.db == pytest.approx(-21.0, abs=0.3)
    assert take.words == "turn it down by 21 dB"
    assert found.verdict == "plug-in"
    # into a microphone socket that would be nearly shut: a pad
    assert one(player, SET).takes[0].what == "pad"


def test_from_far_away_one_comes_closer_before_anything_is_built():
    station = station_of(DYNAMIC | {"sensitivity_mv_per_pa": 1.2}, SET)
    far = match_pair(station, *station.gear, Terms("ssb-chat", "op", 300.0))
    (take,) = far.takes
    # 1/r from 10 mm behind the lips: 310 mm to 35 mm are 18.9 dB, the most that coming closer gives
    most = 20 * math.log10(310 / 35)
    missing = far.window_low_dbu - far.speech_dbu
    assert take.db == pytest.approx(min(missing + 4, most), abs=0.01)
    near = round((310 / 10 ** (take.db / 20) - 10) / 5) * 5
    assert take.words == f"speak closer, at {near / 10:g} cm"
    assert far.verdict == "plug-in"
    # where that is not enough, gain is
    deaf = station_of(DYNAMIC | {"sensitivity_mv_per_pa": 0.2}, SET)
    short = match_pair(deaf, *deaf.gear, Terms("ssb-chat", "op", 300.0))
    assert [t.what for t in short.takes] == ["gain"]


def test_to_a_directional_one_nobody_is_sent_nearer_than_it_booms():
    """Six centimetres, as on the ladder: 310 mm to 70 mm behind the lips are 12.9 dB."""
    quiet = DYNAMIC | {"sensitivity_mv_per_pa": 0.9, "pattern": "directional"}
    station = station_of(quiet, SET)
    found = match_pair(station, *station.gear, Terms("ssb-chat", "op", 300.0))
    moves = [t for t in found.takes if t.what == "move"]
    assert all(float(t.words.split()[-2]) >= 6 for t in moves)
    assert all(t.db <= 20 * math.log10(310 / 70) + 0.01 for t in moves)
    near = DYNAMIC | {"sensitivity_mv_per_pa": 2.0, "pattern": "directional"}
    station = station_of(near, SET)
    (take,) = match_pair(station, *station.gear, Terms("ssb-chat", "op", 300.0)).takes
    assert take.what == "move"


def test_effort_is_counted_in_evenings():
    """Half an evening for the stage, and one more for every 12 dB."""
    assert key(PLAIN, takes=(Take("gain", "", 24.0),))[1] == pytest.approx(2.5)
    each = {"turn": 0.1, "block": 0.5, "bias": 1.0, "buffer": 1.5, "phantom": 2.0}
    for what, evenings in each.items():
        assert key(PLAIN, takes=takes(what))[1] == pytest.approx(evenings)
    assert key(PLAIN, takes=takes(*each))[1] == pytest.approx(sum(each.values()))


@pytest.mark.parametrize("full, verdict", [(20.0, "small-parts"), (24.0, "not-worth-it")])
def test_what_is_tens_of_decibels_too_hot_is_not_worth_a_pad(full, verdict):
    """A level of 22 dBu is 75 dB over what the set wants: beyond that nobody begins."""
    loud = gear("line-source", "loud", full_scale_dbu=full, below_full_db=0, signal="tone")
    assert one(loud, SET | {"wants_dbu": -64}).verdict == verdict


@pytest.mark.parametrize("headroom, has_pad", [(-0.5, True), (1.0, False)])
def test_a_clipped_first_stage_wants_a_pad_even_where_the_gain_control_reaches(headroom, has_pad):
    level = one(DYNAMIC, SET).speech_dbu
    socket = SET | {"clip_dbu": level + 14 - 3.01 + headroom, "wants_dbu": level - 2}
    assert ("pad" in [t.what for t in one(DYNAMIC, socket).takes]) == has_pad
