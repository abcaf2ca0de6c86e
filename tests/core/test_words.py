import pytest

from tonleiter.core.refused import RefusedError
from tonleiter.core.words import cut, one_line, quoted, visible


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
