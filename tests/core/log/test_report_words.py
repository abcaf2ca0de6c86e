"""What somebody says on the air, and the words of it: written down before anything was matched."""

import pytest

from tonleiter.core.listen.words import RULES
from tonleiter.core.log.report_words import KINDNESS, found_in, kindness

SAID = (
    ("muffled, a bit quiet", {"muffled", "quiet"}),
    ("Loud and clear!", {"clear"}),
    ("you are 59, very natural audio", {"clear"}),
    ("no hum any more, but a little thin", {"thin"}),
    ("without hum now", set()),
    ("the hum is gone", set()),
    ("sounds like under a blanket", {"muffled"}),
    ("some splatter 3 kHz up", {"too wide"}),
    ("rough, breaking up on peaks", {"distorted"}),
    ("nice warm audio", {"good", "warm"}),
    ("I hear myself with a delay", {"echo"}),
    ("too loud", {"loud"}),
    ("not muffled at all, crisp", {"crisp"}),
    ("bathroom", {"echo"}),
    ("no, not muffled; rather thin", {"thin"}),
    ("not boxy but harsh", {"harsh"}),
    ("boomy and no highs", {"bassy", "muffled"}),
    ("you are off the frequency by 40 Hz", {"off frequency"}),
    ("your fan is audible", {"noisy"}),
    ("human voice, fantastic", set()),
    ("", set()),
)


@pytest.mark.parametrize("text, words", SAID)
def test_what_is_said_is_found_and_what_is_denied_is_not(text, words):
    assert set(found_in(text)) == words


def test_every_word_that_listen_says_is_a_word_of_reports():
    said = {rule.says.replace("buzz of USB", "buzz").replace("a fan or a room", "noisy")
            .replace("an echo", "echo").replace("cut", "distorted") for rule in RULES}  # fmt: skip
    assert said <= set(KINDNESS)


def test_a_report_is_as_kind_as_its_worst_word_or_else_its_best():
    assert kindness(("clear", "hum")) == -2
    assert kindness(("warm", "clear")) == 2
    assert kindness(("quiet",)) == -1
    assert kindness(()) is None
