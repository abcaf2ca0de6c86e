"""What hands decided, on disk and through edits: kept, named where stale, refused in a line."""

import json

import pytest
from pydantic import ValidationError

from tests.core.wiring.benches import IDS, contacts, landed, plain, station
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station import edits, wirings
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.files import read_station, save_station
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout_files import FORMAT, read_pinout, write_pinout
from tonleiter.core.station.refusal import one_line

HANDS = {
    "landings": landed(hot="8", transmit=None),
    "bridges": [{"end": "radio.mic", "contacts": ["2", "7"]}],
    "plugs": [{"end": "mic.plug", "shell": "jack-6.35"}],
    "dresses": [{"wire": "mic:hot", "colour": "white/blue", "length_m": 1.2}],
    "transmit": "toggle",
    "insulated": ["radio.mic.6"],
    "box": "plastic",
    "serial_v": 3.3,
}


def test_everything_that_hands_decided_comes_back(tmp_path):
    of = plain(HANDS)
    folder = tmp_path / "bench.station"
    save_station(of, folder)
    assert read_station(folder).station == of


def test_version_4_is_brought_up_to_date_and_sounds_the_same(demo_data, demo_folder):
    now = read_station(demo_folder).station
    (demo_folder / "station.json").write_text(json.dumps(demo_data | {"version": 4}))
    opened = read_station(demo_folder)
    assert opened.station == now
    assert json.loads(opened.backup.read_text())["version"] == 4


def test_colour_and_length_are_in_the_build():
    build = verdict_of(plain({"dresses": HANDS["dresses"]})).build
    wire = next(c for c in build.conductors if c.key == "mic:hot")
    assert (wire.colour, wire.length_m) == ("white/blue", 1.2)


def test_hands_survive_an_edit_of_the_chain_and_a_copy():
    of = plain(HANDS)
    capacitor = (
        parts_library()["blocking-1u"]
        if "blocking-1u" in parts_library()
        else next(g for g in parts_library().values() if g.kind_id == "capacitor")
    )
    of = edits.insert_stage(of, *IDS, 1, capacitor)
    assert of.chain().variant().wiring == plain(HANDS).chain().variant().wiring
    copied = edits.add_variant(of, IDS[0], "another try")
    assert copied.chain().variant().wiring == of.chain().variant().wiring
    removed = edits.remove_gear(of, capacitor.id)
    assert removed.chain().variant().wiring == of.chain().variant().wiring


def test_what_makes_no_sense_any_more_is_named_and_kept():
    of = plain(HANDS | {"dresses": [{"wire": "gone:hot", "colour": "red"}]})
    stale = verdict_of(of).build.stale
    assert stale == ("colour of gone:hot",)
    other = wirings.change_wiring(of, *IDS, landings=[{"end": "away.plug", "leg": "hot"}])
    assert "hot at away.plug" in verdict_of(other).build.stale
    assert other.chain().variant().wiring.landings[0].end == "away.plug"


def test_landing_bridging_and_back():
    of = plain()
    moved = wirings.land(of, *IDS, "radio.mic", "hot", "8")
    moved = wirings.land(moved, *IDS, "radio.mic", "hot", "1")
    assert [x.contact for x in moved.chain().variant().wiring.landings] == ["1"]
    assert wirings.unland(moved, *IDS, "radio.mic") == of
    joined = wirings.bridge(of, *IDS, "radio.mic", "2", "7")
    assert wirings.bridge(joined, *IDS, "radio.mic", "7", "2") == of
    assert wirings.as_derived(plain(HANDS), *IDS) == of


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ({"dresses": [{"wire": "mic:hot", "colour": "bluish"}]}, "“bluish” is no colour's word"),
        ({"dresses": [{"wire": "mic:hot", "colour": "red/white/blue"}]}, "is no colour's word"),
        ({"bridges": [{"end": "radio.mic", "contacts": ["2", "2"]}]}, "two different contacts"),
        ({"bridges": [{"end": "radio.mic", "contacts": "27"}]}, "two different contacts"),
        ({"transmit": "shouting"}, "“shouting” is not one of"),
        ({"plugs": [{"end": "radio.mic", "shell": "round-9"}]}, "“round-9” is not one of"),
        ({"cores": 0}, "cores"),
        ({"landings": [{"end": "radio.mic", "leg": "warm"}]}, "“warm” is not one of"),
        ({"colour": "red"}, "unknown key “colour”"),
        ({"serial_v": "5 ohm"}, "serial_v"),
    ],
)
def test_bad_wiring_is_one_line(spoil, says):
    data = plain().model_dump(mode="json")
    data["chains"][0]["variants"][0]["wiring"] = spoil
    with pytest.raises(ValidationError) as caught:
        Station.model_validate(data)
    line = one_line(caught.value, data)
    assert "\n" not in line
    assert says in line


def test_a_lead_with_too_few_cores_is_said_and_not_refused():
    of = plain({"cores": 1, "transmit": "microphone"})
    found = next(f for f in verdict_of(of).findings if f.code == "too-few-cores")
    assert found.severity == "stop"
    assert "3 cores are wanted" in found.says


# --- pinouts as files ----------------------------------------------------------------------------


def connector():
    made = station(
        {"id": "m", "name": "m", "kind": "dynamic-microphone"},
        {"id": "radio", "name": "radio", "kind": "microphone-socket"},
        said={"_6": {"open_v": 8, "through_ohm": "470"}},
    )
    return made.device_by_id["radio"].connectors[0]


def test_a_pinout_travels(tmp_path):
    file = tmp_path / "mic.pinout.json"
    write_pinout(connector(), file)
    read = read_pinout(file)
    assert read.ports == ()
    assert read.contacts == connector().contacts
    assert (read.shell, read.basis) == ("round-8", "manual")


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ({"format": "tonleiter-piece"}, "this is no pinout"),
        ({"version": 99}, "newer Tonleiter"),
        ({"more": 1}, "unknown key “more”"),
        ({"pinout": {"id": "a", "name": "A", "shell": "round-9"}}, "“round-9” is not one of"),
        (
            {
                "pinout": {
                    "id": "a",
                    "name": "A",
                    "shell": "xlr-3",
                    "contacts": contacts((("4", "cold"),)),
                }
            },
            "there is no contact called “4”",
        ),
        (
            {
                "pinout": {
                    "id": "a",
                    "name": "A",
                    "shell": "xlr-3",
                    "contacts": contacts((("1", "cold"), ("1", "free"))),
                }
            },
            "“1” is there twice",
        ),
        (
            {
                "pinout": {
                    "id": "a",
                    "name": "A",
                    "shell": "xlr-3",
                    "contacts": contacts((("1", "loud"),)),
                }
            },
            "“loud” is not one of",
        ),
        ({"pinout": 7}, "pinout"),
    ],
)
def test_a_bad_pinout_file_is_one_line(tmp_path, spoil, says):
    file = tmp_path / "mic.pinout.json"
    data = {"format": FORMAT, "version": 5, "pinout": connector().model_dump(mode="json")} | spoil
    file.write_text(json.dumps(data))
    with pytest.raises(FileError) as caught:
        read_pinout(file)
    line = str(caught.value)
    assert "\n" not in line
    assert str(file) in line
    assert says in line or says == "pinout"
