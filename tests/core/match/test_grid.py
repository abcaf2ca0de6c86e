"""The grid: everything against everything, kept current, and the sentence on top."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.match import grid as module
from tonleiter.core.match.grid import answer, inputs_of, solve_grid, sources_of
from tonleiter.core.match.pair import match_pair
from tonleiter.core.match.terms import usual_terms
from tonleiter.core.station import edits
from tonleiter.core.stop import StoppedError, stopping


def whole(station, terms, **options):
    *_, last = solve_grid(station, terms, **options)
    return last


@pytest.mark.long
def test_every_source_meets_every_input(demo):
    grid = whole(demo, usual_terms(demo))
    assert len(grid.pairs) == len(sources_of(demo)) * len(inputs_of(demo))
    assert {s for s, _ in grid.pairs} == {g.id for g in demo.gear if g.role == "microphone"}


@pytest.mark.long
def test_known_pairs_are_not_solved_again(demo, monkeypatch):
    terms = usual_terms(demo)
    known = whole(demo, terms).pairs
    del known["stage-dynamic", "hf-set"]
    solved = []

    def counting(*args):
        solved.append(args[1].id)
        return match_pair(*args)

    monkeypatch.setattr(module, "match_pair", counting)
    assert len(whole(demo, terms, known=known).pairs) == len(known) + 1
    assert solved == ["stage-dynamic"]


def test_it_can_be_stopped(demo):
    grid, enough = None, []
    with stopping(lambda: bool(enough)), pytest.raises(StoppedError):
        for grid in solve_grid(demo, usual_terms(demo)):
            if len(grid.pairs) == 2:
                enough.append(True)
    assert len(grid.pairs) == 2


def test_the_answer_names_the_best_and_says_why(demo):
    terms = usual_terms(demo)
    said = answer(whole(demo, terms), demo, "hf-set", terms)
    assert said.startswith("For a long chat on SSB the electret headset suits the 20 W HF set best")
    assert "dB over the noise" in said


@pytest.mark.long
def test_voices_come_before_players_for_speech_and_not_for_data(demo):
    terms = usual_terms(demo)
    grid = whole(demo, terms)
    assert not any(p.voice for p in grid.column("am-museum")[-3:])
    packet = usual_terms(demo, "packet")
    column = whole(demo, packet).column("fm-mobile", spoken=False)
    assert not column[0].voice
    assert {p.verdict for p in column if p.voice} == {"not-worth-it"}


def test_a_guest_that_would_suit_better_is_called_a_guest():
    poor = gear("dynamic-microphone", "poor", sensitivity_mv_per_pa=0.2)
    guest = gear("dynamic-microphone", "loud one", sensitivity_mv_per_pa=6) | {
        "id": "loud",
        "guest": True,
    }
    radio = gear("microphone-socket", "radio", z_in_ohm=10e3)
    station = station_of(poor, radio)
    station = edits.add_gear(station, type(station.gear[0]).model_validate(guest))
    terms = usual_terms(station)
    said = answer(whole(station, terms), station, "radio", terms)
    assert "loud one, a guest, would suit the radio better than the poor" in said


def test_nothing_suits_is_said_too(demo):
    terms = usual_terms(demo, "packet")
    station = station_of(gear("dynamic-microphone", "mic"), gear("data-socket", "data"))
    terms = usual_terms(station, "packet")
    said = answer(whole(station, terms), station, "data", terms)
    assert said == "Nothing here suits the data for packet on FM: a microphone carries no data."


@pytest.mark.parametrize("missing", ["microphone", "input"])
def test_an_empty_side_is_an_empty_grid(demo, missing):
    kept = tuple(g for g in demo.gear if g.role != missing)
    bare = demo.model_construct(**dict(demo) | {"gear": kept, "chains": (), "open_chain": None})
    grid = whole(bare, usual_terms(bare))
    assert grid.pairs == {}
    assert "are wanted" in answer(grid, bare, "hf-set", usual_terms(bare))
