import pytest

from tonleiter.core.refused import RefusedError
from tonleiter.core.words import cut, one_line, quoted, the, the_all, visible


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        ("4kk7", "“4kk7”"),
        ("a\nb\tc", "“a\\nb\\tc”"),
        ("\x1b[31mred", "“\\x1b[31mred”"),
        ("\u202egnol", "“\\u202egnol”"),
        ("\ud800", "“\\ud800”"),
        (True, "“True”"),
        ("Ωµ−“é”", "“Ωµ−“é””"),
    ],
)
def test_whatever_is_quoted_is_one_line_that_no_screen_obeys(value, shown):
    assert quoted(value) == shown
    quoted(value).encode("utf-8")


def test_long_things_are_cut():
    assert len(quoted("x" * 10_000)) == 62
    assert quoted(10**5000) == "“a number of thousands of digits”"
    assert cut("abcdef", 4) == "abc…"
    assert cut("abcd", 4) == "abcd"


def test_a_refusal_is_one_line_whatever_it_quotes():
    message = str(RefusedError("first\nsecond " + "y" * 5000))
    assert "\n" not in message
    assert len(message) <= 600
    assert one_line("plain") == visible("plain") == "plain"


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("desk mixer", "the desk mixer"),
        ("20 W HF set", "the 20 W HF set"),
        ("my mixer", "my mixer"),
        ("My mixer", "my mixer"),
        ("The neighbour’s old set", "the neighbour’s old set"),
        ("a lead", "a lead"),
        ("Anna’s microphone", "Anna’s microphone"),
        ("operator's stool", "the operator's stool"),
        # no article of their own, though they begin like one
        ("theatre microphone", "the theatre microphone"),
        ("A", "the A"),
        ("amplifier", "the amplifier"),
    ],
)
def test_a_name_has_one_article(name, said):
    assert the(name) == said


def test_of_several_each_has_its_own():
    assert the_all(["desk mixer", "my lead", "The old set"]) == (
        "the desk mixer and my lead and the old set"
    )
