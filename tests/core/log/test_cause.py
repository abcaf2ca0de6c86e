"""From a word to its cause: faults that an old hand hid, and how many answers it takes."""

import statistics

import pytest

from tests.conftest import mended_demo
from tonleiter.cli.main import main
from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.log.cause import SymptomError, search, symptom_in
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.report_words import KINDNESS
from tonleiter.core.log.usual import USUAL

# what was hidden: knobs on the panel, the last change, what a listener says, the cause
HIDDEN = (
    ({"treble": -5.0}, None, "muffled", "treble turned down"),
    ({"high": 2200.0}, None, "dull", "filter is narrow"),
    ({}, None, "like under a blanket", "foam or a small hole"),
    ({}, None, "woolly", "a long lead at a high source"),
    ({}, None, "hum", "a loop of two earths"),
    ({}, None, "humming", "a screen that is open"),
    ({}, None, "mains hum", "a transformer's field"),
    ({}, None, "a buzz", "a computer's USB"),
    ({}, None, "whine", "radio frequency"),
    ({"gain": 12.0}, None, "low audio", "gain stands low"),
    ({}, None, "faint", "a battery or a bias"),
    ({}, None, "quiet", "a level that does not fit"),
    ({}, None, "distorted", "radio frequency"),
    ({}, None, "breaking up", "a battery or a supply"),
    ({}, None, "thin", "a coupling capacitor"),
    ({"low": 320.0}, None, "no bass", "low edge stands high"),
    ({"compression": 11.0}, None, "squashed", "compression far up"),
    ({}, None, "crackling", "a cold joint"),
    ({}, None, "I hear myself", "a program that hears itself"),
    ({}, None, "boomy", "too close"),
    ({}, "other transformer", "harsh", "other transformer"),
    ({}, None, "shrill", "an empty case that rings"),
    ({}, None, "your fan is audible", "the room"),
    ({}, None, "dropouts", "a loose core"),
)


def until_first(made, truth):
    """Answers until the cause stands first; each answered truly."""
    for count in range(20):
        if truth in made.ranked[0][0].says:
            return count
        test = made.next_test
        made = made.answer(test.says, truth in test.says)
    raise AssertionError(f"{truth} never comes first")


@pytest.fixture(scope="module")
def chain():
    return verdict_of(mended_demo(), "hf-chat")


def begun(chain, knobs, changed, said):
    panel = with_knobs(mended_demo().chain("hf-chat").panel, knobs)
    entry = None
    if changed:
        entry = LogEntry(at="2031-05-14T20:15+02:00", kind="change", title=changed)
    return search(symptom_in(said), chain, panel, entry)


def test_the_median_of_answers_is_no_more_than_four(chain):
    counts = [until_first(begun(chain, *case[:3]), case[3]) for case in HIDDEN]
    assert statistics.median(counts) <= 2
    assert max(counts) <= 6
    # a knob that stands wrong, or what was changed last, stands first at once
    told = [n for n, case in zip(counts, HIDDEN, strict=True) if case[0] or case[1]]
    assert max(told) == 0


def test_a_confirmed_test_finds_it_and_a_denied_one_puts_it_back(chain):
    made = begun(chain, {}, None, "hum")
    yes = made.answer("a loop of two earths", yes=True)
    assert yes.found.says == "a loop of two earths"
    assert yes.headline() == "“hum” comes of this: a loop of two earths"
    no = made.answer("a loop of two earths", yes=False)
    assert no.ranked[0][0].says != "a loop of two earths"
    assert no.found is None
    for cause in made.causes:
        made = made.answer(cause.says, yes=False)
    assert made.headline().startswith("None of these was it")


def test_what_the_chain_is_known_for_stands_before_what_is_usual(demo):
    found = verdict_of(demo, "hf-chat", "as-wired")
    made = search("hum", found, demo.chain("hf-chat").panel)
    first, share = made.ranked[0]
    assert first.where in ("ladder", "wire")
    assert first.why != "usual"
    assert share > 0.3


def test_a_quick_test_comes_before_a_long_one_that_tells_no_more(chain):
    made = begun(chain, {}, None, "bassy")
    assert made.next_test.minutes == 1


def test_every_bad_word_has_causes_and_each_a_test_that_is_a_question():
    assert {w for w, kind in KINDNESS.items() if kind < 0} == set(USUAL)
    for causes in USUAL.values():
        for cause in causes:
            assert cause.test.endswith("?")
            assert cause.minutes <= 10


@pytest.mark.parametrize("text", ["", "59 plus", "clear and natural", "no hum at all", "$%&"])
def test_words_without_a_symptom_are_one_line(demo_folder, text, capsys):
    with pytest.raises(SymptomError):
        symptom_in(text)
    assert main(["cause", str(demo_folder), "--symptom", text]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_the_command_names_causes_tests_and_the_first_of_them(demo_folder, capsys):
    assert main(["cause", str(demo_folder), "--symptom", "a lot of hum"]) == 0
    said = capsys.readouterr().out
    assert "test, " in said
    assert said.splitlines()[-1].startswith("first: ")
