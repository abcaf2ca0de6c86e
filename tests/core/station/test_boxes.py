"""Boxes, their sockets, the leads between them: what holds, what edits do, what is refused."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.conftest import gear, station_of
from tonleiter.core.station import boxes, edits
from tonleiter.core.station.box_files import read_arrival, save_box
from tonleiter.core.station.compare import differences
from tonleiter.core.station.devices import Device
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import VERSION, Station
from tonleiter.core.station.pieces import save_piece
from tonleiter.core.station.refusal import one_line


def bench(**more):
    station = station_of(
        gear("dynamic-microphone", "mic"),
        gear("cable", "lead"),
        gear("microphone-socket", "radio"),
    )
    data = station.model_dump(mode="json")
    data["gear"] += [gear("data-socket", "data"), gear("line-source", "laptop", supply="battery")]
    return Station.model_validate({k: v for k, v in data.items() if k != "devices"} | more)


def set_of(*ports, **fields):
    return {
        "id": "set",
        "name": "set",
        "kind": "radio",
        "supply": "safety-earth",
        "ports": list(ports),
    } | fields


def test_every_piece_with_a_chassis_is_a_box():
    station = bench()
    assert {d.id: (d.kind, d.supply) for d in station.devices} == {
        "mic": ("microphone", "battery"),
        "radio": ("radio", "safety-earth"),
        "data": ("radio", "safety-earth"),
        "laptop": ("other", "battery"),
    }
    assert "lead" not in station.device_by_port  # a lead is no box


def test_a_box_by_itself_does_not_take_a_name_that_is_taken():
    station = bench(devices=[{"id": "radio", "name": "shelf", "kind": "other"}])
    assert station.device_by_port["radio"].id == "radio-box-2"


@pytest.mark.parametrize(
    ("devices", "links", "says"),
    [
        ([set_of("radio", "nothing")], [], "device set, ports: there is no gear called “nothing”"),
        ([set_of("radio"), set_of("radio", id="b")], [], "device b: “radio” is a socket of “set”"),
        ([set_of("lead")], [], "device set: “lead” is a cable, which is no socket of a box"),
        (
            [set_of("radio", supply="battery")],
            [],
            "its supply is “battery”, but its socket “radio”",
        ),
        (
            [set_of("radio", connectors=[{"id": "m", "name": "M", "shell": "round-8"}] * 2)],
            [],
            "device set, connectors: “m” is there twice",
        ),
        (
            [
                set_of(
                    "radio",
                    connectors=[{"id": "m", "name": "M", "shell": "xlr-3", "ports": ["mic"]}],
                )
            ],
            [],
            "connector m, ports: there is no socket called “mic”; known: radio",
        ),
        (
            [set_of("radio", connectors=[{"id": "m", "name": "M", "shell": "odd"}])],
            [],
            "“odd” is not one of",
        ),
        (
            [],
            [{"id": "l", "name": "l", "kind": "usb", "a": "radio", "b": "radio"}],
            "link l: it joins “radio” to itself; two boxes are wanted",
        ),
        (
            [],
            [{"id": "l", "name": "l", "kind": "usb", "a": "radio", "b": "x"}],
            "link l: there is no device called “x”",
        ),
        (
            [],
            [
                {
                    "id": "l",
                    "name": "l",
                    "kind": "screws",
                    "a": "radio",
                    "b": "data",
                    "joins": "one-end",
                }
            ],
            "may join by: both-ends; not by “one-end”",
        ),
        (
            [],
            [{"id": "l", "name": "l", "kind": "usb", "a": "radio", "b": "data", "ohm": -1}],
            "−1 Ω is too little",
        ),
    ],
)
def test_what_does_not_hold_together_is_one_line(devices, links, says):
    with pytest.raises(ValidationError) as caught:
        bench(devices=devices, links=links)
    line = one_line(caught.value, None)
    assert says in line
    assert "\n" not in line


def test_supply_of_a_socket_is_that_of_its_box_and_its_other_sockets():
    station = bench(devices=[set_of("radio", "data")])
    after = edits.change_gear(station, "data", supply="battery")
    assert after.gear_by_id["radio"].supply == after.device_by_id["set"].supply == "battery"
    again = boxes.change_device(after, "set", supply="double-insulated")
    assert {again.gear_by_id[p].supply for p in ("radio", "data")} == {"double-insulated"}


def test_a_box_by_itself_is_called_as_its_piece_is():
    assert edits.change_gear(bench(), "radio", name="new").device_by_id["radio"].name == "new"
    joined = bench(devices=[set_of("radio", "data")])
    assert edits.change_gear(joined, "radio", name="new").device_by_id["set"].name == "set"


def test_sockets_are_put_into_a_box_and_taken_out():
    linked = boxes.add_link(bench(), "usb", "data", "laptop")
    one = boxes.put_into(linked, "radio", "data")
    assert one.device_by_id["radio"].ports == ("radio", "data")
    assert "data" not in one.device_by_id
    assert (one.links[0].a, one.links[0].b) == ("radio", "laptop")  # its lead moved with it
    apart = boxes.take_out(one, "data")
    assert apart.device_by_port["data"].ports == ("data",)
    # a lead between the two boxes would have joined the one to itself
    between = boxes.add_link(bench(), "strap", "radio", "data")
    assert boxes.put_into(between, "radio", "data").links == ()


def test_usb_takes_the_place_of_a_supply_of_its_own():
    station = edits.change_gear(bench(), "data", supply="usb-computer")
    after = boxes.add_link(station, "usb", "data", "laptop")
    assert after.device_by_id["data"].supply == "lead"
    assert after.links[0].ohm.value == 0.1


def test_removing_a_box_takes_its_paths_and_leads_along(demo):
    after = boxes.remove_device(demo, "hf-20w")
    assert not {"hf-set", "hf-data", "hf-speaker"} & set(after.gear_by_id)
    assert not any("hf-20w" in (x.a, x.b) for x in after.links)
    assert {c.id for c in after.chains} == {"fm-headset", "am-museum-day", "am-driver"}


def test_removing_the_last_socket_leaves_a_box_that_leads_go_to(demo):
    after = edits.remove_gear(demo, "logging-laptop")
    assert after.device_by_id["laptop"].ports == ()
    bare = edits.remove_gear(bench(), "laptop")
    assert "laptop" not in bare.device_by_id


def test_one_knob_is_turned_in_both_chains_that_are_plugged_at_once(demo):
    data = demo.model_dump(mode="json")
    first = data["chains"][0]
    second = first | {"id": "tape", "name": "tape", "stays_plugged": True}
    second["variants"] = [
        {
            "id": "v",
            "name": "v",
            "stages": [
                {"gear": "stage-dynamic"},
                {"gear": "cable-5m"},
                {"gear": "desk-mixer", "set": {"gain_db": 20}},
                {"gear": "usb-box-in"},
            ],
        }
    ]
    second |= {"shown": "v", "ghost": None}
    data["chains"].append(second)
    station = Station.model_validate(data)
    after = edits.set_value(station, "hf-chat", "with-transformer", 2, "gain_db", 33.0)
    for chain in ("hf-chat", "tape"):
        stage = after.chain(chain).variant().stages[2]
        assert after.placed(stage).gain_db.value == 33.0
    loose = Station.model_validate(
        data | {"chains": [c | {"stays_plugged": False} for c in data["chains"]]}
    )
    kept = edits.set_value(loose, "hf-chat", "with-transformer", 2, "gain_db", 33.0)
    assert kept.placed(kept.chain("tape").variant().stages[2]).gain_db.value == 20


def test_a_box_travels_as_one_file(demo, tmp_path):
    file = tmp_path / "set.box.json"
    save_box(demo, "hf-20w", file)
    arrived = read_arrival(file)
    assert arrived.name == "20 W HF set"
    other = arrived.put_on(bench())
    box = other.device_by_id["hf-20w"]
    assert box.ports == ("hf-set", "hf-data", "hf-speaker")
    assert [other.gear_by_id[p] for p in box.ports] == [demo.gear_by_id[p] for p in box.ports]
    twice = arrived.put_on(other)
    again = twice.device_by_id["hf-20w-2"]
    assert again.ports == ("hf-set-2", "hf-data-2", "hf-speaker-2")
    assert again.connectors[0].ports == ("hf-set-2",)
    piece = tmp_path / "mic.piece.json"
    save_piece(demo.gear_by_id["stage-dynamic"], piece)
    assert read_arrival(piece).device is None


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ({"version": VERSION + 1}, "written by a newer Tonleiter"),
        ({"version": 3}, "whole number"),
        ({"extra": 1}, "unknown key “extra”"),
        ({"sockets": []}, "there is no gear called “hf-set”"),
        ({"device": {"id": "a", "name": "a"}}, "is no socket of the box"),
        ({"device": 3}, "device"),
        ({"sockets": None}, "sockets"),
    ],
)
def test_a_bad_file_of_a_box_is_one_line(demo, tmp_path, spoil, says):
    file = tmp_path / "set.box.json"
    save_box(demo, "hf-20w", file)
    file.write_text(json.dumps(json.loads(file.read_text()) | spoil))
    with pytest.raises(FileError) as caught:
        read_arrival(file)
    if says not in ("device", "sockets"):
        assert says in str(caught.value)
    assert str(file) in str(caught.value)
    assert "\n" not in str(caught.value)


def test_a_station_of_a_newer_version_is_refused_untouched(demo_data, demo_folder):
    text = json.dumps(demo_data | {"version": VERSION + 1})
    (demo_folder / "station.json").write_text(text)
    with pytest.raises(FileError, match="newer Tonleiter"):
        read_station(demo_folder)
    assert (demo_folder / "station.json").read_text() == text


def test_version_3_gets_its_boxes_and_a_backup(demo_data, demo_folder):
    old = {k: v for k, v in demo_data.items() if k not in ("devices", "links")} | {"version": 3}
    (demo_folder / "station.json").write_text(json.dumps(old))
    opened = read_station(demo_folder)
    assert opened.backup is not None
    assert len(opened.station.devices) == len(
        [g for g in opened.station.gear if g.device is not None]
    )
    assert json.loads(opened.backup.read_text())["version"] == 3


def test_differences_name_boxes_and_leads(demo):
    after = boxes.change_link(demo, "hf-usb", joins="isolated")
    assert any("HF set's USB lead" in d for d in differences(demo, after))
    after = boxes.change_device(demo, "laptop", supply="battery")
    assert any("logging laptop" in d for d in differences(demo, after))
    assert any("removed" in d for d in differences(demo, boxes.remove_link(demo, "hf-usb")))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 5), st.integers(0, 30), st.integers(0, 30)), max_size=8))
def test_whatever_is_edited_the_station_holds_together(steps):
    """Every piece with a chassis is in one box, and a station reads back as it was written."""
    station = bench()
    for what, first, second in steps:
        devices = station.devices
        a, b = devices[first % len(devices)], devices[second % len(devices)]
        try:
            if what == 0 and a.ports:
                station = boxes.put_into(station, b.id, a.ports[0])
            elif what == 1 and a.ports:
                station = boxes.take_out(station, a.ports[-1])
            elif what == 2:
                station = boxes.add_link(station, ("usb", "coax")[second % 2], a.id, b.id)
            elif what == 3:
                station = boxes.change_device(station, a.id, supply="lead")
            elif what == 4:
                station = boxes.add_device(station, Device(id=a.id, name="more"))
            elif what == 5 and station.links:
                station = boxes.remove_link(station, station.links[0].id)
        except ValidationError as error:
            assert "itself" in str(error)
    held = [p for d in station.devices for p in d.ports]
    assert sorted(held) == sorted(g.id for g in station.gear if g.device is not None)
    assert Station.model_validate(station.model_dump(mode="json")) == station
