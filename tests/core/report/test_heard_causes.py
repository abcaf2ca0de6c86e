"""What a finding sounds like: a bench hand's table, written before anything was computed."""

from typing import get_args

import pytest

from tonleiter.core.judge.findings.codes import Sounds, known, meaning
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.listen.words import Word
from tonleiter.core.report.heard_causes import of_chain


@pytest.mark.parametrize(
    ("code", "sounds", "never"),
    [
        # too much anywhere is cut, and nobody calls that quiet
        ("over-ceiling", "distorted", "quiet"),
        ("line-into-mic", "distorted", "quiet"),
        ("over-window", "distorted", "quiet"),
        # a capsule with too much current runs out of room
        ("electret-overfed", "distorted", "quiet"),
        # too little is quiet, and is not cut
        ("under-window", "quiet", "distorted"),
        ("mic-into-line", "quiet", "distorted"),
        ("electret-no-bias", "quiet", "hum"),
        ("load-too-low", "quiet", "distorted"),
        # a case before the capsule takes treble; a case behind it answers
        ("housing-muffles", "muffled", "boxy"),
        ("housing-rings", "boxy", "muffled"),
        # a computer's kilohertz comes over earths; a mains transformer's field has none of it
        ("earth-loop", "buzz", "thin"),
        ("field-hum", "hum", "buzz"),
        ("noise-heard", "hiss", "hum"),
        ("bass-corner-high", "thin", "bassy"),
        ("close-talk-boom", "bassy", "thin"),
        ("breath-pops", "pops", "clicks"),
        ("switch-beside-capsule", "clicks", "pops"),
        ("two-compressors", "squashed", "quiet"),
    ],
)
def test_what_a_listener_calls_it(code, sounds, never):
    assert sounds in meaning(code).heard_as
    assert never not in meaning(code).heard_as


def test_every_sound_is_a_word_of_listen():
    assert set(get_args(Sounds)) <= set(get_args(Word))
    assert {s for c in known() for s in meaning(c).heard_as} == set(get_args(Sounds))


def test_nothing_is_blamed_on_what_sounds_otherwise(demo):
    """Over all chains and words of the demo: a cause is one that the word means."""
    seen = set()
    for chain in demo.chains:
        verdict = verdict_of(demo, chain.id)
        for word in get_args(Word):
            for finding in of_chain(word, verdict):
                assert word in meaning(finding.code).heard_as
                assert finding.severity != "fine"
                seen.add(word)
    assert {"hum", "quiet"} <= seen
    assert of_chain("clear", verdict) == ()
    assert of_chain("hum", None) == ()
