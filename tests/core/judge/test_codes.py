"""Codes are declared once, with what they mean; others ask for the meaning and list no codes."""

import re
from pathlib import Path

import pytest

import tonleiter.core
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.findings.codes import declare, known, meaning

CORE = Path(tonleiter.core.__file__).parent


def test_every_finding_of_the_demo_has_a_declared_code(demo):
    for chain in demo.chains:
        for variant in chain.variants:
            for finding in assess(demo, chain.id, variant.id).findings:
                assert finding.code in known()


def test_a_code_is_declared_once_and_none_is_made_up():
    with pytest.raises(ValueError, match="twice"):
        declare(known()[0])
    with pytest.raises(KeyError):
        meaning("no-such-code")


def test_what_must_be_mended_first_says_how_it_is_called():
    for code in known():
        means = meaning(code)
        assert (means.first is None) == (means.first_words == "")


@pytest.mark.parametrize("room", ["match", "plan", "report"])
def test_no_other_room_lists_codes(room):
    """A bench hand's table: what each room does with a code follows from its meaning alone."""
    codes = "|".join(map(re.escape, known()))
    for file in (CORE / room).rglob("*.py"):
        assert not re.search(rf'"({codes})"', file.read_text("utf-8")), file


# what somebody at the bench would say of each, before anything is computed
@pytest.mark.parametrize(
    ("code", "judged"),
    [
        # no bias, no sound: nothing else can be judged before it lives
        ("electret-no-bias", {"silent": True, "first": "bias"}),
        ("no-phantom", {"silent": True, "first": "phantom"}),
        ("carbon-no-current", {"silent": True, "first": "current"}),
        # too much bias distorts, but there is a level to judge
        ("electret-overfed", {"silent": False, "first": "bias"}),
        # DC on a coil is blocked before anything is plugged in
        ("dc-through-winding", {"silent": False, "first": "block", "winding": True}),
        # one leg of a bridge on ground: isolate before switching on
        ("bridge-leg-grounded", {"first": "isolate"}),
        # these change what is heard, and may wait
        ("earth-loop", {"hum": True, "first": None}),
        ("bass-corner-high", {"bass": True, "first": None}),
        ("load-too-low", {"loaded": True, "first": None}),
        ("over-ceiling", {"level": True, "first": None}),
    ],
)
def test_codes_mean_what_they_do_at_the_bench(code, judged):
    for name, value in judged.items():
        assert getattr(meaning(code), name) == value
