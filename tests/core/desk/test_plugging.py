"""What plugging takes, what hands give back, what a program names; on a typed-in station."""

import pytest

from tests.core.desks import BOX, PC, STOLEN, looped
from tonleiter.core.desk.devices import desk_of, roles_words
from tonleiter.core.desk.law import db_of_mark, mark_of_db
from tonleiter.core.desk.plugging import (
    DeskEditError,
    alter,
    call,
    choose,
    give,
    plug_in,
    pull_out,
    switch_box,
)
from tonleiter.core.station import edits
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.files import read_station, save_station


def held(station):
    desk = desk_of(station, "out")
    roles = ("system-out", "calls-out", "system-in", "calls-in")
    return {r: d.id if (d := desk.holder(r)) is not None else None for r in roles}


def test_nobody_looked_yet_so_nothing_is_plugged_in():
    desk = desk_of(looped(), "out")
    assert not desk.sends.plugged
    assert desk.taken == ()
    assert held(looped())["system-out"] == "own-loudspeakers"


def test_plugging_in_takes_every_default_and_pulling_out_gives_them_back():
    before = looped()
    plugged = plug_in(before, PC, BOX, "20:14")
    assert set(held(plugged).values()) == {BOX}
    assert plugged.device_by_id[PC].computer.taken_at == "20:14"
    assert held(pull_out(plugged, PC, BOX)) == held(before)


def test_a_program_that_named_its_device_keeps_it_when_defaults_go_back():
    station = choose(plug_in(looped(), PC, BOX), PC, {"out": BOX, "in": BOX})
    station = give(station, PC, ("system-out", "calls-out", "system-in", "calls-in"))
    desk = desk_of(station, "out")
    assert desk.taken == ()
    assert desk.program("out").id == desk.program("in").id == BOX
    # and what it named follows the default once the lead is pulled
    gone = desk_of(pull_out(station, PC, BOX), "out")
    assert gone.program("out").id == "own-loudspeakers"
    assert not gone.chose("out")


def test_a_role_goes_back_to_who_had_it_and_not_to_whoever_is_first():
    station = looped(computer=STOLEN)
    assert held(give(station, PC, ("calls-in",)))["calls-in"] == "own-webcam"
    assert held(give(station, PC, ("calls-in",), "own-desk-microphone"))["calls-in"] == (
        "own-desk-microphone"
    )


def test_a_default_that_points_nowhere_falls_to_the_first_and_is_named():
    station = looped(computer={"roles": {"system-out": "own-gone", "calls-in": BOX},
                               "unplugged": [BOX]})  # fmt: skip
    desk = desk_of(station, "out")
    assert set(desk.nowhere()) == {"system-out", "calls-in"}
    assert desk.holder("system-out").id == "own-loudspeakers"


def test_what_is_switched_off_alone_stays_off():
    station = alter(looped(), PC, {"enhancements": False, "listen": True})
    on = station.device_by_id[PC].computer.altering
    assert on == ("automatic-gain", "listen", "system-sounds")


def test_a_radio_switched_on_again_is_awake_and_names_are_kept():
    station = switch_box(call(looped(), PC, BOX, "codec"), PC, BOX, False)
    desk = desk_of(station, "out")
    assert (desk.sends.called, desk.sends.asleep) == ("codec", True)
    assert not desk_of(switch_box(station, PC, BOX, True), "out").sends.asleep


@pytest.mark.parametrize("computer, box", [("nobody", BOX), (PC, "rig"), (PC, "nobody")])
def test_what_is_no_box_of_this_computer_is_refused_in_one_line(computer, box):
    with pytest.raises(DeskEditError) as caught:
        plug_in(looped(), computer, box)
    assert "\n" not in str(caught.value)


def test_a_computer_without_sound_of_its_own_has_nowhere_to_give_roles_to():
    station = looped(computer={"own": [], "roles": {"system-out": BOX}})
    with pytest.raises(DeskEditError, match="no sound device of its own"):
        give(station, PC, ("system-out",))
    assert desk_of(station, "out").holder("calls-in").id == BOX


def test_sound_settings_are_saved_and_are_nothing_that_a_circuit_rests_on(tmp_path):
    station = plug_in(looped(), PC, BOX, "07:30")
    save_station(station, tmp_path / "s.station")
    assert read_station(tmp_path / "s.station").station == station
    assert basis_of(station, "out") == basis_of(looped(), "out")
    assert basis_of(station, "out").sound == basis_of(looped(), "out").sound


def test_roles_in_few_words():
    assert roles_words(["system-out", "calls-out"]) == "default loudspeaker"
    assert roles_words(["calls-in", "system-out"]) == (
        "default loudspeaker and microphone for calls"
    )


def test_a_slider_s_mark_is_even_in_loudness():
    """Half way up a cube's law is 18 dB down; a tenth 60."""
    assert db_of_mark(50) == pytest.approx(-18.06, abs=0.01)
    assert mark_of_db(-60) == pytest.approx(10)
    assert mark_of_db(db_of_mark(37)) == pytest.approx(37)
    assert db_of_mark(0) == float("-inf")


def test_a_box_that_left_the_station_is_no_device_any_more():
    station = plug_in(looped(), PC, BOX)
    cut = edits.change_station(station, links=())
    with pytest.raises(Exception, match="USB lead"):
        desk_of(cut, "out")
