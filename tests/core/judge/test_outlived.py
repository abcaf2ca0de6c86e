"""A remedy that has outlived its chain is refused in one line, and never done to another one."""

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_practice import DYNAMIC, MIXER, SET
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.refused import GoneError, RefusedError
from tonleiter.core.station import boxes, edits

PAD = gear("l-pad", "pad", series_ohm=1000, shunt_ohm=1000)


@pytest.fixture(scope="module")
def tried():
    """A mixer that is turned down, by its place in the chain."""
    station = station_of(DYNAMIC, MIXER | {"gain_db": 60}, PAD, SET)
    found = verdict_of(station)
    remedies = [r for f in found.findings if f.severity != "fine" for r in found.remedies(f)]
    assert remedies
    return station, remedies


def test_it_is_done_to_the_chain_that_it_was_tried_on_whatever_its_figures_are(tried):
    station, remedies = tried
    for now in (station, edits.change_gear(station, "set", wants_dbu=-50)):
        for remedy in remedies:
            assert remedy.change(now) != now


@pytest.mark.parametrize(
    "change",
    [
        lambda s: edits.remove_stages(s, "c", "v", {2}),
        lambda s: edits.move_stage(s, "c", "v", 1, 1),
        lambda s: s.model_copy(update={"chains": ()}),
    ],
    ids=["a piece is gone", "two change places", "the chain is gone"],
)
def test_it_is_refused_where_its_places_mean_something_else(tried, change):
    station, remedies = tried
    for remedy in remedies:
        with pytest.raises(RefusedError) as caught:
            remedy.change(change(station))
        assert "\n" not in str(caught.value)
        assert not str(caught.value).startswith("'")


@pytest.mark.parametrize(
    ("look", "words"),
    [
        (lambda s: s.chain("other"), "there is no chain “other”"),
        (lambda s: s.chain("c").variant("w"), "the chain “chain” has no variant “w”"),
        (lambda s: s.operator("somebody"), "nobody here is “somebody”"),
        (lambda s: s.gear_by_id["thing"], "there is no piece “thing”"),
        (lambda s: boxes.change_device(s, "crate", power_w=5), "there is no box “crate”"),
    ],
)
def test_what_is_not_there_is_named_and_is_still_a_key_that_is_missing(tried, look, words):
    with pytest.raises(KeyError) as caught:
        look(tried[0])
    assert isinstance(caught.value, GoneError)
    assert str(caught.value) == words
    assert tried[0].gear_by_id.get("thing") is None
