"""What every kind says about itself; a new kind is walked through everything by these tests."""

import json
import math
from typing import get_args

import pytest
from fuzz.walk import around, station_of

from tonleiter.core.gear.base import Shelf
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.grip import Decibels, Metres, Places, Turned
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.parts import PRICE_WORDS
from tonleiter.core.gear.shopping import parts_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.match.terms import usual_terms
from tonleiter.core.report.glance import glance
from tonleiter.core.report.levels_report import levels_report
from tonleiter.core.report.results import stage_results
from tonleiter.core.station.edits import change_gear
from tonleiter.core.station.shelf import groups

PIECES = {g.kind_id: g for g in parts_library().values()}
HELD = sorted(k for k, g in PIECES.items() if g.handle is not None)


def test_every_kind_has_a_library_entry():
    assert set(PIECES) == set(KINDS)


@pytest.mark.parametrize("kind", sorted(PIECES))
def test_a_kind_goes_through_everything(kind):
    piece = PIECES[kind]
    station = station_of(around(piece))
    assert piece.shelf_group() in get_args(Shelf)
    assert sum(piece.id in [g.id for g in group.gear] for group in groups(station)) == 1
    assert (piece.handle is None) == (piece.grip is None)
    assert piece.handle is None or piece.handle in piece.figures()
    for part in parts_of(piece):
        assert part.count >= 1
        assert part.name
        assert part.price_class in PRICE_WORDS
    assessment = assess(station)
    index = [r.id for r in assessment.rows].index(piece.id)
    assert stage_results(assessment, index)
    assert glance(station, piece, usual_terms(station)) is not None
    json.dumps(levels_report(verdict_of(station)), allow_nan=False)


def level_behind(station, piece):
    row = next(r for r in assess(station).rows if r.id == piece.id)
    # an input has no joint behind it; a source's own volts are what it gives
    return row.speech_dbu


@pytest.mark.parametrize("kind", HELD)
def test_what_has_a_handle_can_be_pulled_and_the_level_follows(kind):
    piece = PIECES[kind]
    station = station_of(around(piece))
    rows = {r.id: r for r in assess(station).rows}
    z = rows[piece.id]
    up = piece.pulled(6.0, z.z_source_ohm, z.z_load_ohm)
    down = piece.pulled(-6.0, z.z_source_ohm, z.z_load_ohm)
    now = piece.figure(piece.handle).value
    assert (up - now) * (down - now) < 0 or now in (up, down)  # at an end one of them stays
    assert up != down
    if isinstance(piece.grip, Metres) or (isinstance(piece.grip, Places) and not piece.grip.louder):
        return
    louder = level_behind(change_gear(station, piece.id, **{piece.handle: up}), piece)
    softer = level_behind(change_gear(station, piece.id, **{piece.handle: down}), piece)
    if math.isfinite(louder) and louder > -150:
        assert louder > softer


@pytest.mark.parametrize("kind", HELD)
def test_however_far_it_is_pulled_it_stays_a_piece(kind):
    piece = PIECES[kind]
    for far in (1e9, -1e9, 500.0, -500.0, 0.0):
        value = piece.pulled(far, 600.0, 10e3)
        assert piece.with_values({piece.handle: value}).figure(piece.handle).value == value
    for steps in (10**6, -(10**6), 1, -1):
        value = piece.stepped(steps)
        assert piece.with_values({piece.handle: value}).figure(piece.handle).value == value


@pytest.mark.parametrize("kind", HELD)
def test_an_arrow_key_moves_it_unless_it_stands_at_its_end(kind):
    """A switched pad with places 10 dB apart moves by one place, not by a decibel rounded away."""
    piece = PIECES[kind]
    now = piece.figure(piece.handle).value
    up, down = piece.stepped(1), piece.stepped(-1)
    assert up != down
    ends = {piece.pulled(1e9, 600.0, 10e3), piece.pulled(-1e9, 600.0, 10e3)}
    for there in (up, down):
        assert there != now or now in ends


def test_grips_follow_their_definition():
    assert Decibels(by_db=10.0).step(-20.0, 1) == -10.0
    assert Decibels(by_db=10.0).step(-20.0, -1) == -30.0
    assert Decibels().pull(-20.0, 6.2) == -14.0
    assert Decibels().step(3.0, -2) == 1.0
    assert Turned().pull(0.5, -6.02) == pytest.approx(0.25)
    assert Turned().pull(0.5, 40) == 1.0
    assert Turned().pull(0.5, -400) == 0.01
    assert Places("E12", 1).pull(4700.0, 20.0) == 47e3
    assert Places("E24", -1).pull(4700.0, 20.0) == 470.0
    assert Places("E24", -1).step(4700.0, 1) == 4300.0
    assert Places("E6", 0).pull(1e-6, 4.0) == pytest.approx(2.2e-6)
    assert Metres().pull(3.0, 2.4) == 5.0
    assert Metres().step(0.5, -3) == 0.5


def test_parts_are_what_is_picked():
    def of(kind):
        return [(p.count, p.name, p.value) for p in parts_of(PIECES[kind])]

    assert of("cable") == []  # there is one between any two plugs
    assert of("l-pad")[0][:2] == (1, "resistor")
    assert len(of("l-pad")) == 2
    assert (2, "resistor") in [p[:2] for p in of("u-pad")]
    assert of("trim-pot") == [(1, "trim pot", "10 kΩ")]
    assert [p[1] for p in of("transformer")] == ["audio transformer"]
    assert "battery, holder" in [p[1] for p in of("bias-feed")]
    assert "FET, junction, N-channel" in [p[1] for p in of("jfet-preamp")]
    assert [p[1] for p in of("mixer-strip")] == [PIECES["mixer-strip"].noun]


def test_a_bypassed_emitter_has_its_capacitor_in_the_list():
    """The part that makes the gain is not forgotten because no field holds it."""
    bypassed = PIECES["bipolar-preamp"].with_values({"emitter": "bypassed"})
    assert "220 µF" in [p.value for p in parts_of(bypassed)]
    plain = PIECES["bipolar-preamp"].with_values({"emitter": "not-bypassed"})
    assert "220 µF" not in [p.value for p in parts_of(plain)]


def test_active_parts_are_asked_for_by_what_they_must_be():
    values = {p.name: p.value for p in parts_of(PIECES["bipolar-preamp"])}
    assert values["transistor, small signal, NPN"] == "current gain 125 or more"
    assert {p.name: p.value for p in parts_of(PIECES["jfet-preamp"])}[
        "FET, junction, N-channel"
    ] == ("pinch-off about 2 V, 4 mA")
    opamp = {p.name: p.value for p in parts_of(PIECES["opamp-preamp"])}[
        "operational amplifier, single package"
    ]
    assert "single supply of 9 V" in opamp
    assert "unity-gain stable" in opamp


def test_volts_stand_only_on_contacts_that_have_a_bias():
    """A line input and a data socket are made for what has its own supply."""
    for kind, usual in {"line-input": 0.0, "data-socket": 0.0, "microphone-socket": 0.0}.items():
        assert KINDS[kind](id="x", name="x").bias_on_pin_v() == usual
    for kind in ("microphone-socket", "headset-input"):
        given = KINDS[kind](id="x", name="x", bias_v=5, bias_ohm=2200, z_in_ohm=1500)
        assert given.bias_on_pin_v() == 5
