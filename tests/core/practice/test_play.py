"""Belief, path, score and safety on a riddle made by hand, whose figures are known."""

import json
import math

import pytest

from tonleiter.core.practice.belief import Belief
from tonleiter.core.practice.look import KIND, OTHER_WORD, Look
from tonleiter.core.practice.play import Play, PlayError
from tonleiter.core.practice.results import (
    Result,
    Results,
    keep_results,
    read_results,
    result_of,
)
from tonleiter.core.practice.riddle import Cause, riddle_of
from tonleiter.core.station.disk import FileError

LOOKS = (
    Look("report", "report", "", 0.1, "set", said_by_others=True),
    Look("volts", "volts", "", 2.0, "prove", "V", 0.1, power=True),
    Look("ohms", "ohms", "", 4.0, "prove", "Ω", 0.1, relative=True, care=("power-off",)),
    Look("lamp", "lamp", "", 1.0, "set", care=("dummy-load",)),
)
CAUSES = tuple(Cause(c, c, c, "mend it", "set") for c in "abcd")
SHOWS = {
    "a": {"report": "hum, quiet", "volts": 5.0, "ohms": 100.0, "lamp": "dark"},
    "b": {"report": "quiet", "volts": 5.0, "ohms": math.inf, "lamp": "dark"},
    "c": {"report": "quiet", "volts": 0.0, "ohms": 100.0, "lamp": "dark"},
    "d": {"report": "thin", "volts": 5.0, "ohms": 100.0, "lamp": "on"},
}
RIGHT = {"report": "as always", "volts": 5.0, "ohms": 100.0, "lamp": "on"}


def riddle(true="b", shows=SHOWS, causes=CAUSES):
    return riddle_of(
        "build", 1, "a thing", LOOKS, causes, lambda c: RIGHT if c is None else shows[c.id],
        true, frozenset({"volts"}),
    )  # fmt: skip


def test_belief_is_bayes_rule():
    """Even priors; the word costs what another word costs, the figure its bell curve."""
    belief = Belief(LOOKS, [SHOWS[c] for c in "abcd"], [1, 1, 1, 1])
    share = belief.after({"lamp": "on"})
    assert share[3] == pytest.approx(1 / (1 + 3 * OTHER_WORD))
    share = belief.after({"volts": 4.9})
    assert share[0] == pytest.approx(share[1]) == pytest.approx(share[3])
    # 49 standard deviations off: what is left is the tail
    assert share[2] < 1e-3


def test_what_listeners_say_is_weighed_by_the_words_that_agree():
    look = LOOKS[0]
    assert look.likeness("quiet, hum", "hum, quiet") == 1.0
    assert look.likeness("quiet", "thin") == KIND
    assert KIND < look.likeness("quiet", "quiet, hum") < 1.0
    assert not look.tells("quiet", "thin"), "nobody is sure by hearsay"


def test_a_look_is_worth_the_bits_that_it_takes_away():
    belief = Belief(LOOKS, [SHOWS[c] for c in "abcd"], [1, 1, 1, 1])
    # one of four apart: 2 bits before, and log2 3 left in three cases of four
    wanted = 2 - 0.75 * math.log2(3)
    assert belief.worth(LOOKS[1], {}) == pytest.approx(wanted, abs=0.03)
    assert belief.worth(LOOKS[1], {"volts": 0.0}) < 0.05


def test_the_best_path_takes_what_tells_most_a_minute():
    path = riddle("c").best_path()
    assert path[0].id in ("lamp", "volts")
    assert "volts" in [x.id for x in path]


def test_a_cause_that_nothing_tells_from_the_true_one_is_left_out_and_mends_it():
    twin = {**SHOWS, "a": SHOWS["b"]}
    made = riddle("b", twin)
    assert "a" not in {c.id for c in made.causes}
    assert made.solved_by("a")


def test_a_riddle_is_played_safely_and_found():
    play = Play(riddle("b"))
    assert play.seen == {"report": "quiet"}
    play = play.care("dummy-load", True).look("lamp")
    play = play.care("power-off", True).look("ohms")
    assert play.unsafe == ()
    play = play.name("b")
    score = play.score()
    assert play.ended
    assert (score.result, score.safety) == (40, 20)
    assert score.minutes == 5.0


def test_what_is_done_unsafely_named_wrongly_and_asked_for_costs():
    play = Play(riddle("b")).hint()
    assert play.hinted in ("lamp", "volts", "ohms")
    play = play.look("ohms").look("lamp")
    assert play.unsafe == ("ohms", "lamp")
    play = play.name("d").name("c").name("b")
    score = play.score()
    assert score.result == 40 - 2 * 12
    assert score.safety == 20 - 2 * 7
    assert score.total == score.result + score.path + score.safety
    calm = Play(riddle("b")).care("power-off", True).look("ohms").name("b").score()
    assert calm.total > score.total


def test_volts_want_power_and_nothing_is_looked_at_twice_or_after_the_end():
    play = Play(riddle("c")).care("power-off", True)
    with pytest.raises(PlayError, match="power is off"):
        play.look("volts")
    play = play.care("power-off", False).look("volts")
    with pytest.raises(PlayError, match="already"):
        play.look("volts")
    with pytest.raises(PlayError, match="none of what"):
        play.name("z")
    over = play.name("c")
    for move in (lambda: over.look("lamp"), over.hint, over.give_up, lambda: over.name("a")):
        with pytest.raises(PlayError, match="over"):
            move()
    with pytest.raises(PlayError, match="as it was"):
        play.name("a").name("a")


def test_a_guess_has_no_path_and_giving_up_has_nothing():
    assert Play(riddle("b")).name("b").score().path == 0
    given = Play(riddle("b")).give_up().score()
    assert given.total == 0


def test_nothing_of_what_is_hidden_is_in_how_a_riddle_looks():
    made = riddle("b")
    assert "true=" not in repr(made)
    assert "true=" not in repr(Play(made))


# --- results -------------------------------------------------------------------------------------


def played(score, family="voice", kind="hum", **of):
    return Result(day="2026-03-14", family=family, kind=kind, seed=1, score=score, minutes=5,
                  best_minutes=4, **of)  # fmt: skip


def test_results_are_kept_and_read(tmp_path):
    file = tmp_path / "deep" / "practice.json"
    results = Results().plus(result_of(Play(riddle("b")).name("b"), "2026-03-14"))
    keep_results(file, results)
    assert read_results(file) == results
    assert read_results(tmp_path / "none.json") == Results()


@pytest.mark.parametrize(
    "text", ["", "{", "[]", '{"played": 3}', '{"format": "other"}', "9" * 5000]
)
def test_a_file_that_is_none_of_ours_is_refused_in_one_line_and_stays(tmp_path, text):
    file = tmp_path / "practice.json"
    file.write_text(text)
    with pytest.raises(FileError) as caught:
        read_results(file)
    assert "\n" not in str(caught.value)
    assert file.read_text() == text


def test_the_trend_and_what_to_play_next():
    results = Results(played=tuple(played(s) for s in (20, 30, 40, 50, 60)))
    assert results.trend is None
    for s in (60, 70, 80, 90, 100):
        results = results.plus(played(s))
    assert results.trend == pytest.approx(80 - 40)
    # what was never played comes first, then what went worst
    assert results.next_family() == "computer"
    results = results.plus(played(10, "computer")).plus(played(50, "build"))
    assert results.next_family() == "computer"


def test_what_was_missed_is_to_be_looked_at_again_until_it_is_found():
    results = Results(played=(played(10, kind="hum", given_up=True), played(90, kind="bias")))
    assert results.missed() == ("hum",)
    assert results.plus(played(90, kind="hum")).missed() == ()


def test_json_on_disk_has_no_more_than_its_schema(tmp_path):
    file = tmp_path / "p.json"
    keep_results(file, Results(played=(played(55),)))
    data = json.loads(file.read_text())
    assert data["format"] == "tonleiter-practice"
    with pytest.raises(FileError):
        file.write_text(json.dumps({**data, "colour": 1}))
        read_results(file)
