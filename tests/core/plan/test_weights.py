"""Each term of a plan's cost by itself: two candidates that differ in it alone, and by how much."""

from dataclasses import fields, replace

import pytest

from tonleiter.core.plan.styles import STYLES
from tonleiter.core.plan.weights import WEIGHTS, Figures, cost, terms
from tonleiter.core.station.purpose import PURPOSES

CHAT, DATA = PURPOSES["ssb-chat"], PURPOSES["data-weak"]
SIMPLE, ISOLATED, OUTBOARD = STYLES["simple"], STYLES["isolated"], STYLES["outboard"]
FINE = Figures(
    off_middle_db=0.0,
    outside_db=0.0,
    beyond_db=0.0,
    has_knob=True,
    headroom_db=20.0,
    snr_db=CHAT.snr_at_least_db,
    hum_under_db=80.0,
    bass_hz=75.0,
    treble_hz=4000.0,
    presence_db=0.0,
    parts=0,
    price_class=0,
    isolated=False,
    active=0,
    supplies=0,
    borrowed=0,
    near_ends=0,
    reversible=True,
)


def extra(purpose=CHAT, style=SIMPLE, base=FINE, **change):
    return cost(replace(base, **change), purpose, style) - cost(base, purpose, style)


@pytest.mark.parametrize(
    "term, change, more",
    [
        ("stop", {"stops": 2}, 2000.0),
        ("style", {"short_of_style": True}, 60.0),
        ("trouble", {"troubles": 1}, 12.0),
        ("beyond", {"beyond_db": 2.0}, 12.0),
        ("outside", {"outside_db": 3.0}, 2.4),  # nobody builds anything for 3 dB
        ("middle", {"off_middle_db": -10.0}, 0.6),  # the gain control does it
        ("headroom", {"headroom_db": 4.0}, 2.0),
        ("noise", {"snr_db": CHAT.snr_at_least_db - 5.0}, 5.0),
        ("quiet", {"snr_db": CHAT.snr_at_least_db + 5.0}, -0.5),
        ("hum", {"hum_under_db": 40.0}, 5.0),
        ("treble", {"treble_hz": CHAT.treble_corner_at_least_hz / 2}, 6.0),
        ("presence", {"presence_db": -6.0}, 1.2),
        ("price", {"price_class": 1}, 1.6),
        ("active", {"active": 1}, 6.0),
        ("supply", {"supplies": 1}, 1.5),
        ("borrowed", {"borrowed": 1}, 1.5),
        ("near-end", {"near_ends": 1}, 6.0),
        ("cut", {"reversible": False}, 3.0),
    ],
)
def test_one_term_at_a_time(term, change, more):
    assert extra(**change) == pytest.approx(more)
    now, then = terms(FINE, CHAT, SIMPLE), terms(replace(FINE, **change), CHAT, SIMPLE)
    assert [name for name in now if now[name] != then[name]] == [term]


def test_bass_costs_by_the_octave_and_a_little_already_before_it_is_lost():
    limit = CHAT.bass_corner_at_most_hz
    assert extra(bass_hz=limit) == pytest.approx(0.5)  # the octave in hand is gone
    assert extra(bass_hz=2 * limit) == pytest.approx(0.5 * 2 + 6.0)
    assert extra(bass_hz=None) == pytest.approx(0.0)


def test_parts_cost_by_count_and_style_and_building_at_all_costs():
    assert extra(parts=1) == pytest.approx(2.5 + 0.5 * 2)
    assert extra(parts=3) - extra(parts=2) == pytest.approx(0.5 * SIMPLE.part_weight)
    assert extra(style=ISOLATED, parts=3) == pytest.approx(2.5 + 3 * 0.5)
    assert extra(style=OUTBOARD, parts=3) == pytest.approx(2.5 + 3 * 0.25)


def test_a_fixed_input_is_aimed_at_and_a_gain_control_is_not():
    fixed = replace(FINE, has_knob=False, snr_db=DATA.snr_at_least_db)
    at_aim = replace(fixed, off_middle_db=DATA.aim_db)
    assert cost(at_aim, DATA, SIMPLE) < cost(fixed, DATA, SIMPLE)
    off = extra(DATA, base=at_aim, off_middle_db=DATA.aim_db + 5.0)
    assert off == pytest.approx(0.6 * (4.0 + 0.5))
    assert extra(DATA, base=at_aim, off_middle_db=DATA.aim_db - 5.0) == pytest.approx(off)


def test_no_hum_figure_is_no_hum():
    assert extra(hum_under_db=None) == 0
    assert extra(hum_under_db=50.0) == 0


def test_every_figure_has_a_weight_that_moves_with_it_and_every_weight_a_reason():
    worse = {
        "off_middle_db": 9.0,
        "outside_db": 1.0,
        "beyond_db": 1.0,
        "headroom_db": 0.0,
        "snr_db": 10.0,
        "hum_under_db": 10.0,
        "bass_hz": 900.0,
        "treble_hz": 900.0,
        "presence_db": 9.0,
        "parts": 1,
        "price_class": 1,
        "active": 1,
        "supplies": 1,
        "borrowed": 1,
        "near_ends": 1,
        "reversible": False,
        "troubles": 1,
        "stops": 1,
        "short_of_style": True,
    }
    # these two say how others count, and cost nothing themselves
    assert set(worse) == {f.name for f in fields(Figures)} - {"has_knob", "isolated"}
    for name, value in worse.items():
        assert extra(**{name: value}) > 0, name
    assert all(len(w.why) > 10 for w in WEIGHTS)
    assert len({w.name for w in WEIGHTS}) == len(WEIGHTS)


def test_two_mild_findings_never_cost_more_than_building_an_amplifier():
    """300 ohm on 600 (3.5 dB) and a level near the edge against an op-amp stage of nine parts."""
    mild = extra(off_middle_db=-14.0, outside_db=3.0)
    amplifier = extra(parts=9, price_class=2, active=1, supplies=1)
    assert mild < amplifier / 4
