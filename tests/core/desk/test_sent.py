"""Levels from a program to the radio's socket, and back into the computer, by hand."""

import math

import numpy as np
import pytest

from tests.core.desks import BOX, PC, RIGHT, looped, turned
from tonleiter.core.desk.back import Back, back_of, lay_back, outputs_of
from tonleiter.core.desk.devices import desk_of
from tonleiter.core.desk.law import db_of_mark, mark_of_db
from tonleiter.core.desk.sent import CROSSTALK_DB, Turned, switch_of
from tonleiter.core.setup.loop.laid import loop_of
from tonleiter.core.station import edits

# a box of full scale at +4 dBu that is played 20 dB under it
FULL_DBU, BELOW_DB = 4.0, -20.0


def sent(station, **knobs):
    return loop_of(turned(station, **knobs)).sent


@pytest.fixture(scope="module")
def station():
    return looped(computer=RIGHT, program=0.0, slider=0.0, level=0.0, threshold=-40.0, hang=500.0)


def test_what_is_turned_at_the_computer_leaves_the_converter_so_much_lower(station):
    made = sent(station, program=-6.0, slider=-9.0, level=-3.0)
    assert made.program_dbfs == BELOW_DB - 6.0
    # the interface's own knob stands behind the converter
    assert made.out_dbfs == BELOW_DB - 15.0
    by_hand = 0.7746 * 10 ** ((FULL_DBU + made.out_dbfs) / 20)
    assert made.out_v == pytest.approx(by_hand, rel=1e-3)
    # and so the radio's socket has three decibels less once more
    full = sent(station)
    assert made.socket_dbu == pytest.approx(full.socket_dbu - 18.0, abs=1e-6)
    assert (made.knob_title, made.knob_place) == ("transmit knob", "interface")


def test_peaks_lie_a_crest_higher_against_the_peak_of_a_sine(station):
    """Packet is one tone, whose peak is a sine's; weak-signal data is reckoned for two."""
    packet = sent(looped("packet", computer=RIGHT))
    assert packet.peak_dbfs == pytest.approx(packet.out_dbfs, abs=0.05)
    two = sent(station)
    assert two.peak_dbfs == pytest.approx(two.out_dbfs + 3.01, abs=0.05)


def test_the_slider_s_mark_is_that_of_the_system(station):
    assert sent(station, slider=-18.06).slider_mark == pytest.approx(50.0, abs=0.05)
    assert sent(station).slider_mark == 100.0


@pytest.mark.parametrize(
    ("mark", "db"), [(100.0, 0.0), (50.0, -18.062), (10.0, -60.0), (250.0, 0.0)]
)
def test_the_loudness_of_a_mark_goes_with_its_third_power(mark, db):
    assert db_of_mark(mark) == pytest.approx(db, abs=1e-3)
    if mark <= 100:
        assert mark_of_db(db) == pytest.approx(mark, rel=1e-3)


def test_at_nothing_there_is_nothing_and_over_full_there_is_no_more():
    assert db_of_mark(0.0) == db_of_mark(-3.0) == -math.inf
    assert mark_of_db(-math.inf) == 0.0
    assert mark_of_db(12.0) == 100.0


# --- what keys -----------------------------------------------------------------------------------


@pytest.mark.parametrize(("asked_ms", "holds_s"), [(5.0, 0.1), (700.0, 0.7), (9000.0, 2.0)])
def test_a_radio_s_own_voice_control_hangs_between_its_ends(station, asked_ms, holds_s):
    box = station.device_by_id[BOX]
    switch, turns, ends = switch_of("vox", box, Turned(0, 0, 0, -33.0, asked_ms), -27.5)
    assert (switch.hang_s, switch.threshold_db, turns) == (holds_s, -27.5, False)
    assert ends == (100.0, 2000.0)


@pytest.mark.parametrize(("asked_ms", "holds_s"), [(5.0, 0.05), (300.0, 0.3), (9000.0, 2.0)])
def test_an_interface_s_switch_has_its_own(station, asked_ms, holds_s):
    box = station.device_by_id[BOX]
    switch, turns, ends = switch_of("interface-vox", box, Turned(0, 0, 0, -33.0, asked_ms), -27.5)
    assert (switch.hang_s, switch.threshold_db, turns) == (holds_s, -33.0, True)
    assert ends == (50.0, 2000.0)


def test_a_threshold_without_a_knob_stays_where_its_maker_put_it():
    made = looped(computer=RIGHT, switch={"threshold": "fixed", "keys_at_db": -28.0})
    there = sent(made, threshold=-55.0)
    assert there.switch.threshold_db == -28.0
    assert not there.threshold_turns
    assert there.over_threshold_db(-20.0) == 8.0


def test_a_radio_opens_fifteen_decibels_under_the_middle_of_what_it_wants(station):
    """Whatever is turned, the same volts at its pins open it: more sent leaves more to spare."""
    made = looped(way="vox", computer=RIGHT, program=0.0, slider=0.0, level=0.0)
    loud, soft = sent(made), sent(made, level=-10.0)
    assert loud.listens
    assert loud.switch.threshold_db == pytest.approx(soft.switch.threshold_db - 10.0)
    # what leaves the converter just at the threshold arrives fifteen under the middle
    window = loop_of(made).case.assessment.rows[-1].window
    middle = (window.low_dbu + window.high_dbu) / 2
    at_pins = loud.socket_dbu - loud.over_threshold_db(loud.out_dbfs)
    assert at_pins == pytest.approx(middle - 15.0, abs=0.01)


@pytest.mark.parametrize(
    ("way", "listens", "by"),
    [
        ("interface-vox", True, "by a line of the computer"),
        ("vox", True, "by hand"),
        ("serial-opto", False, "by a line of the computer"),
        ("foot-switch", False, "by hand"),
    ],
)
def test_who_keys(way, listens, by):
    made = sent(looped(way=way, computer=RIGHT))
    assert made.listens == listens
    if not listens:
        assert made.keyed_by == by


@pytest.mark.parametrize(("purpose", "after_s"), [("data-weak", 0.5), ("packet", 0.15)])
def test_packet_is_answered_at_once(purpose, after_s):
    socket = {"kind": "data-socket"}
    assert sent(looped(purpose, computer=RIGHT, socket=socket)).answers_after_s == after_s


def test_listened_to_what_is_recorded_goes_round(station):
    assert sent(station).crosstalk_loop_db(20.0, -6.0) == CROSSTALK_DB + 14.0


# --- and back ------------------------------------------------------------------------------------


def test_noise_between_signals_is_the_band_s_and_the_chain_s_own():
    back = Back("back", -30.0, -70.0, 30.0, math.inf, True, None)
    # −60 of the band and −70 of its own: powers add
    assert back.noise_dbfs(0.0, 0.0) == pytest.approx(10 * math.log10(1e-6 + 1e-7), abs=1e-6)
    # the radio's volume lifts the band alone, the record level both
    assert back.noise_dbfs(20.0, 0.0) == pytest.approx(10 * math.log10(1e-4 + 1e-7), abs=1e-6)
    assert back.noise_dbfs(0.0, 6.0) == pytest.approx(back.noise_dbfs(0.0, 0.0) + 6.0, abs=1e-6)


def test_the_way_back_ends_at_the_converter_s_full_scale(station):
    back = back_of(station, "out", desk_of(station, "out"), "data")
    rows = back.verdict.assessment.rows
    assert back.chain == "back"
    full = rows[-1].gear.clip_dbu.value
    assert back.strongest_dbfs == pytest.approx(rows[-1].speech_dbu - full)
    assert back.own_noise_dbfs < back.strongest_dbfs - 20
    assert (back.turns_volume, back.clips_db) == (True, 30.0)
    assert back.under_strong_db == 30.0
    # an FM set with its squelch open gives noise as loud as what it hears
    assert back_of(station, "out", desk_of(station, "out"), "packet").under_strong_db < 0


def test_of_a_fixed_output_the_volume_is_not_turned():
    fixed = {"kind": "line-source", "full_scale_dbu": -8, "below_full_db": 0, "z_out_ohm": 4700}
    made = looped(back=fixed, computer=RIGHT)
    back = back_of(made, "out", desk_of(made, "out"), "data")
    assert not back.turns_volume
    assert np.isinf(back.clips_db)


def test_a_way_back_is_laid_from_the_radio_s_output_into_the_box_that_sends():
    bare = looped(laid=False, computer=RIGHT)
    desk = desk_of(bare, "out")
    assert back_of(bare, "out", desk, "data") is None
    assert [g.id for g in outputs_of(bare, "rig-in")] == ["rig-ear"]
    laid = lay_back(bare, "out", desk)
    made = laid.chains[-1]
    assert [s.gear for s in made.variant().stages][::2] == ["rig-ear", "box-in"]
    assert made.name == "rig into the computer"
    assert back_of(laid, "out", desk_of(laid, "out"), "data").chain == made.id
    # without a socket to go into there is none
    deaf = edits.remove_gear(bare, "box-in")
    assert lay_back(deaf, "out", desk_of(deaf, "out")) is None


# --- who holds which role ------------------------------------------------------------------------


def test_a_role_is_held_as_set_while_that_is_there_and_else_by_the_first():
    steals = {"roles": {"system-out": BOX, "system-in": BOX}}
    there = desk_of(looped(computer=steals), "out")
    assert there.holder("system-out").id == BOX
    assert there.holder("calls-out").id == "own-loudspeakers"
    assert there.taken == ("system-out", "system-in")
    assert there.nowhere() == ()
    gone = desk_of(looped(computer=steals | {"unplugged": [BOX]}), "out")
    assert gone.holder("system-out").id == "own-loudspeakers"
    assert gone.nowhere() == ("system-out", "system-in")
    assert gone.taken == ()


def test_a_program_that_chose_nothing_follows_the_default():
    plain = desk_of(looped(computer={"roles": {"system-out": BOX}}), "out")
    assert not plain.chose("out")
    assert plain.program("out").id == BOX
    assert plain.program("in").id == "own-desk-microphone"
    chosen = desk_of(looped(computer={"program": {"out": "own-screen", "in": BOX}}), "out")
    assert (chosen.chose("out"), chosen.program("out").id) == (True, "own-screen")
    # a loudspeaker is no microphone
    wrong = desk_of(looped(computer={"program": {"in": "own-screen"}}), "out")
    assert (wrong.chose("in"), wrong.program("in").id) == (False, "own-desk-microphone")


def test_two_of_one_name_are_told_where_one_is_the_radio_s():
    named = looped(computer={"called": {BOX: "screen"}})
    # the screen only plays, the box does both: a list of loudspeakers has them apart
    assert desk_of(named, "out").twice() == ()
    own = [{"id": "other", "name": "USB audio", "way": "out"}]
    alone = looped(computer={"called": {BOX: "USB audio"}, "own": own})
    assert [d.id for d in desk_of(alone, "out").twice()] == []


def test_who_is_plugged_in_is_listed_and_a_computer_by_itself_is_its_own():
    there = desk_of(looped(computer={"unplugged": [BOX]}), "out")
    assert BOX not in {d.id for d in there.there("out")}
    assert there.of_radio == {BOX}
    assert not there.is_own
    assert there.computer.id == PC
