"""What changed since the last entry, offered in words: knobs with both figures, nothing twice."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.log.offered import MOST_SAID, changes, offer, packed, unpacked
from tonleiter.core.station.edits import change_chain, change_gear

DAY = "2031-05-14T20:00+02:00"


@pytest.fixture(scope="module")
def bench():
    return station_of(gear("dynamic-microphone", "mic"), gear("microphone-socket", "rig"))


def turned(station, **knobs):
    panel = station.chain().panel
    return change_chain(station, "c", panel=panel.but(knobs={**panel.knobs, **knobs}))


def test_nothing_is_offered_where_nothing_changed(bench):
    assert changes(bench, bench) == ()
    assert offer(bench, bench, DAY) is None
    assert offer(bench, None, DAY) is None, "a first state has no day before"


def test_a_knob_says_both_figures_and_nothing_more_of_the_panel(bench):
    one = turned(bench, gain=30, bass=-2.5)
    said = changes(one, turned(bench, gain=42, bass=1))
    assert "microphone gain from 30 to 42, chain" in said
    assert any("from −2.5 to +1 dB" in line for line in said)
    assert len(said) == 2


def test_a_piece_is_named_and_comes_after_the_knobs(bench):
    one = turned(bench, gain=30)
    new = change_gear(turned(one, gain=31), "rig", z_in_ohm=1500)
    said = changes(one, new)
    assert said[0].startswith("microphone gain from 30 to 31")
    assert any("rig" in line for line in said[1:])


def test_which_chain_is_looked_at_is_no_change(demo):
    other = next(c.id for c in demo.chains if c.id != demo.chain().id)
    assert changes(demo, demo.but(open_chain=other)) == ()


def test_of_much_only_so_much_is_said(demo):
    less = demo.but(
        gear=tuple(g.model_copy(update={"notes": f"note {k}"}) for k, g in enumerate(demo.gear))
    )
    assert len(changes(demo, less)) == MOST_SAID < len(demo.gear)


def test_an_entry_is_of_the_open_chain_with_its_first_change_on_top(bench):
    entry = offer(turned(bench, gain=42), turned(bench, gain=30), DAY)
    assert (entry.kind, entry.at, entry.chain, entry.microphone) == ("change", DAY, "chain", "mic")
    assert entry.title == entry.changed[0]


def test_a_state_comes_back_as_it_was(demo):
    assert unpacked(packed(demo)) == demo
    assert unpacked(None) is None


@pytest.mark.parametrize(
    "state", [b"", b"{", b"[]", b"null", b'{"version": 99}', b'{"version": "x"}', b"\xff\xfe"]
)
def test_a_state_that_cannot_be_read_is_none(state):
    assert unpacked(state) is None
