"""Computers before radios: what an old hand says of each, and whether its guide ends there."""

from __future__ import annotations

from dataclasses import dataclass, field

import pytest

from tests.core.desks import BOX, PC, RIGHT, STOLEN, looped, turned
from tonleiter.core.desk.devices import NoDeskError
from tonleiter.core.gear.voice import Effort
from tonleiter.core.judge.assess import assess
from tonleiter.core.setup.loop.laid import loop_of
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station

__all__ = ["Effort"]

MICROPHONE = {"kind": "microphone-socket", "z_in_ohm": 600, "wants_dbu": -45, "clip_dbu": -20}
FIXED = {"kind": "line-source", "full_scale_dbu": -8, "below_full_db": 0, "z_out_ohm": 4700}


@dataclass(frozen=True)
class Row:
    """One desk. ``first`` begins its headline; ``moves`` are the steps that ask for something.

    ``right`` says whether the guide may end with everything where it should be; ``why`` is the
    practitioner's reason.
    """

    name: str
    station: Station
    why: str
    first: str
    moves: tuple[str, ...]
    right: bool = True
    codes: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    ends: dict[str, tuple[float, float]] = field(default_factory=dict)


ROWS = (
    Row(
        "a lead that lies there",
        looped(),
        "plugged in, the box takes every default: names, defaults, program, what alters, then"
        " levels, the tail last of the way out, and the way in",
        "The radio is not plugged into the computer yet",
        ("names", "defaults", "program", "off", "level", "hang"),
        codes=("desk-not-plugged-in", "desk-beeps-on-air", "loop-reply-lost"),
        ends={"spare": (5, 24), "strongest": (15, 25), "noise": (35, 62), "alc": (0, 0.3)},
    ),
    Row(
        "the box took everything an hour ago",
        looped(computer=STOLEN),
        "beeps of the system key the interface: that is the first thing to end",
        "Your system's beeps go on the air",
        ("defaults", "program", "off", "level", "hang"),
        codes=("desk-beeps-on-air", "desk-default-taken", "desk-program-by-default"),
    ),
    Row(
        "the same, keyed by a line",
        looped(computer=STOLEN, way="serial-opto"),
        "beeps key nothing then, but they are sent with everything else",
        "Your system's beeps go into what you send",
        ("defaults", "program", "off", "level"),
        never=("loop-reply-lost", "loop-keys-barely"),
    ),
    Row(
        "the program plays to the desk",
        looped(computer=RIGHT | {"program": {"in": BOX}}, hang=60),
        "nobody hears a thing on the air, and everything else is right",
        "The data program does not send into the radio",
        ("program", "level"),
        codes=("desk-program-elsewhere",),
    ),
    Row(
        "the program hears the webcam",
        looped(computer=RIGHT | {"program": {"out": BOX, "in": "own-webcam"}}, hang=60),
        "to the computer the receiver is a microphone, and it is not that one",
        "The data program hears something else",
        ("program", "level"),
        codes=("desk-program-hears-elsewhere",),
    ),
    Row(
        "two boxes of one name",
        looped(computer=RIGHT | {"called": {BOX: "webcam"}, "own": [
            {"id": "own-loudspeakers", "name": "loudspeakers", "way": "out"},
            {"id": "own-other", "name": "webcam", "way": "in"},
        ]}, hang=60),
        "a webcam listens only, the box does both: no program mixes them up",
        "The loop works both ways",
        ("level",),
        never=("desk-two-of-one-name",),
    ),
    Row(
        "a radio that is off, its converter alive",
        looped(computer=RIGHT | {"asleep": [BOX]}, hang=60),
        "USB feeds the converter: it is listed, and nothing is sent",
        "The radio is switched off",
        ("names", "level"),
        codes=("desk-radio-is-off",),
    ),
    Row(
        "enhancements and automatic gain",
        looped(computer=RIGHT | {"altering": ["enhancements", "automatic-gain"]}, hang=60),
        "a modem wants what it sent and hears what the band sent",
        "Enhancements and automatic gain alter what goes through",
        ("off", "level"),
        codes=("desk-sound-altered",),
    ),
    Row(
        "listening to the radio through the radio",
        looped(computer=RIGHT | {"altering": ["listen"], "roles": {"system-out": BOX}}, hang=60),
        "what is received goes back out and keys the interface: it transmits the band",
        "What you receive is transmitted again",
        ("defaults", "off", "level"),
        codes=("desk-feeds-back",),
    ),
    Row(
        "a slider that is nearly shut",
        looped(computer=RIGHT, hang=60, slider=-30),
        "10 dB short of keying: up until it keys, and 6 dB more",
        "Nothing keys the transmitter",
        ("slider", "level"),
        codes=("loop-does-not-key",),
        ends={"spare": (5, 24)},
    ),
    Row(
        "keyed by a hair",
        looped(computer=RIGHT, hang=60, slider=-18),
        "2 dB to spare drop out with the first quieter tone",
        "The interface keys with 2 dB to spare",
        ("slider", "level"),
        codes=("loop-keys-barely",),
        ends={"spare": (5, 24)},
    ),
    Row(
        "a switch that opens at -15 dBFS, with a knob",
        looped(computer=RIGHT, hang=60, threshold=-15),
        "slider and program are at their ends: the switch is made more sensitive",
        "Nothing keys the transmitter",
        ("slider", "level"),
        ends={"spare": (5, 8)},
    ),
    Row(
        "the same without a knob",
        looped(computer=RIGHT, hang=60, switch={"keys_at_db": -15, "threshold": "fixed"}),
        "nothing at this desk does it: the program itself must run louder",
        "Nothing keys the transmitter",
        ("level",),
        right=False,
        codes=("loop-does-not-key",),
    ),
    Row(
        "a switch that noise opens",
        looped(computer=RIGHT, hang=60, source={"noise_dbu": -55}, switch={
            "keys_at_db": -65, "threshold": "fixed"
        }),
        "it transmits for ever: hiss of the converter lies over its threshold",
        "It transmits by itself",
        ("level",),
        right=False,
        codes=("loop-keys-by-noise",),
    ),
    Row(
        "a program at full tilt",
        looped(computer=RIGHT, hang=60, source={"below_full_db": -3.5}, socket={"clip_dbu": 12}),
        "the peaks of two tones stand half a decibel under full scale: back a little",
        "What is sent reaches full scale",
        ("program-level", "slider", "level"),
        codes=("loop-full-scale-out",),
    ),
    Row(
        "packet with a long tail and a shut squelch",
        looped("packet", computer=RIGHT, hang=600, squelch=40,
               socket=MICROPHONE | {"wants_dbu": -25, "clip_dbu": 0}),
        "an answer comes after 150 ms: half a second of it is transmitted over; the squelch takes"
        " what is left",
        "The reply loses its first 0.5 s",
        ("level", "hang", "mark"),
        codes=("loop-reply-lost", "loop-squelch-shut"),
        ends={"deviation": (2.9, 3.6)},
    ),
    Row(
        "weak-signal data and the same tail",
        looped(computer=RIGHT, hang=500),
        "half a second passes before anybody answers: nothing is lost",
        "The loop works both ways",
        ("level",),
        never=("loop-reply-lost",),
    ),
    Row(
        "a loudspeaker socket at full volume",
        looped(computer=RIGHT, hang=60, back={"below_full_db": -6}),
        "strong signals lie 5 dB over the converter's end: down at the interface",
        "Strong signals are cut at full scale",
        ("level", "receive"),
        codes=("loop-full-scale-in",),
        ends={"strongest": (19, 21)},
    ),
    Row(
        "a fixed output of 100 mV",
        looped(computer=RIGHT, hang=60, back=FIXED, receive=-20),
        "receive knob turned down by 20 dB: up again, and it fits",
        "Little comes in",
        ("level", "receive"),
        codes=("loop-hears-little",),
        ends={"strongest": (15, 25)},
    ),
    Row(
        "a volume that stood near its end",
        looped(computer=RIGHT, hang=60, back={"below_full_db": -50}),
        "knob and slider are open: the radio's volume itself comes up, to a new mark",
        "Little comes in",
        ("level", "receive"),
        ends={"strongest": (15, 25)},
    ),
    Row(
        "no way back laid",
        looped(computer=RIGHT | {"program": {"out": BOX}}, hang=60, laid=False),
        "the sockets are there: lay the lead, then name the input in the program",
        "Nothing comes back from the receiver",
        ("way-back", "program", "level"),
        codes=("loop-no-way-back",),
        ends={"strongest": (15, 25)},
    ),
    Row(
        "an old set's microphone socket, 40 dB too hot",
        looped(computer=RIGHT, hang=60, socket=MICROPHONE),
        "line level clips its first stage before any knob: less from the box, then the rest",
        "Mend first: Peaks are clipped",
        ("stop", "level"),
        ends={"alc": (0, 0.3)},
    ),
)  # fmt: skip


def followed(station: Station) -> tuple[object, list[str], set[str]]:
    """The last scene of a guide followed literally, its steps, and all codes that were said."""
    done: list[str] = []
    codes: set[str] = set()
    for _ in range(24):
        scene = loop_of(station, "out")
        codes |= {f.code for f in scene.findings}
        move = scene.now.move if scene.now is not None else None
        if scene.stops:
            done.append("stop")
            station = scene.case.verdict.remedies(scene.stops[0])[0].change(station)
            continue
        if move is None or not move.can_be_made:
            return scene, done, codes
        assert not move.asks, "a simulated desk is never asked"
        done.append(scene.now.id)
        if move.knobs:
            for name, to in move.knobs.items():
                control = scene.control(name)
                assert control.low <= to <= control.high, name
                assert to != control.value, "a move that moves something"
            station = edits.change_chain(station, "out", panel=scene.after(move))
        else:
            before, station = station, move.fix.apply(station)
            assert station != before, "an edit that edits something"
    raise AssertionError(f"no end: {done}")


@pytest.mark.table(keep=4)
@pytest.mark.parametrize("row", ROWS, ids=[r.name for r in ROWS])
def test_a_desk_is_led_to_where_an_old_hand_would_leave_it(row):
    begun = loop_of(row.station, "out")
    assert begun.headline[0].startswith(row.first), (row.why, begun.headline)
    scene, done, codes = followed(row.station)
    assert tuple(dict.fromkeys(done)) == row.moves, row.why
    assert len(done) <= len(row.moves) + 3, done
    assert scene.is_right is row.right, (row.why, scene.headline, scene.now)
    assert set(row.codes) <= codes, (row.why, codes)
    assert not set(row.never) & codes, (row.why, codes)
    read = {m.id: m.value for m in scene.meters} | {c.id: c.value for c in scene.controls}
    for name, (low, high) in row.ends.items():
        value = {m.id: m.value for m in scene.meters}.get(name, read[name])
        assert low <= value <= high, (row.why, name, value)
    if row.right:
        assert not any(f.severity == "stop" for f in scene.findings)
        assert scene.headline[0].startswith("The loop works both ways")


def test_levels_of_the_loop_are_those_of_the_chain_turned_so_far():
    """Program, slider and knob as the source's own level: the chain solved anew says the same."""
    station = looped(computer=RIGHT, program=-3, slider=-7.5, level=-4, volume=6, receive=-9)
    sent = loop_of(station, "out").sent
    louder = edits.change_gear(station, "box-out", below_full_db=-20 - 3 - 7.5 - 4)
    assert sent.socket_dbu == pytest.approx(assess(louder, "out").rows[-2].speech_dbu, abs=0.05)
    loop = loop_of(station, "out")
    up = edits.change_gear(station, "rig-ear", below_full_db=-30 + 6)
    row = assess(up, "back").rows[-1]
    full = row.gear.clip_dbu.value
    assert -loop.strongest_db == pytest.approx(row.speech_dbu - full - 9, abs=0.05)


def test_what_the_interface_is_turned_by_does_not_move_what_keys_it():
    """The switch listens before the interface's own knob; a radio's own listens behind it."""
    spares = [
        loop_of(looped(computer=RIGHT, level=level, way=way), "out").keyed.spare_db
        for way in ("interface-vox", "vox")
        for level in (0, -10)
    ]
    assert spares[0] == pytest.approx(spares[1], abs=0.01)
    assert spares[2] - spares[3] == pytest.approx(10, abs=0.05)


def test_a_chain_of_a_microphone_has_no_desk():
    station = looped()
    with pytest.raises(NoDeskError, match="sends nothing on the air"):
        loop_of(station, "back")
    voice = edits.change_chain(station, "out", purpose="ssb-chat")
    with pytest.raises(NoDeskError, match="packet or weak-signal data"):
        loop_of(voice, "out")
    cut = edits.change_station(station, links=())
    with pytest.raises(NoDeskError, match="USB lead"):
        loop_of(cut, "out")


def test_two_loudspeakers_of_one_name_are_told_apart_by_pulling_one():
    computer = RIGHT | {
        "own": [
            {"id": "own-loudspeakers", "name": "loudspeakers", "way": "out"},
            {"id": "own-mic", "name": "microphone", "way": "in"},
        ]
    }
    station = looped(computer=computer)
    second = station.device_by_id[BOX].model_copy(
        update={"id": "box-2", "name": "audio box", "ports": ("out-2", "in-2")}
    )
    pieces = (
        station.gear_by_id["box-out"].model_copy(update={"id": "out-2"}),
        station.gear_by_id["box-in"].model_copy(update={"id": "in-2"}),
    )
    station = edits.change_station(
        station,
        gear=(*station.gear, *pieces),
        devices=(*station.devices, second),
        links=(*station.links, station.links[0].model_copy(update={"id": "usb-2", "a": "box-2"})),
    )
    scene = loop_of(station, "out")
    assert scene.now.id == "names"
    assert "desk-two-of-one-name" in {f.code for f in scene.findings}
    named = loop_of(scene.now.move.fix.apply(station), "out")
    assert named.desk.sends.called == "audio box, rig"
    assert named.now.id != "names"
    assert named.desk.computer.id == PC


def test_a_knob_of_the_loop_is_undone_by_what_the_guide_says_and_kept_on_its_card():
    station = turned(looped(computer=RIGHT), slider=-30)
    (fix,) = [f.fixes[0] for f in loop_of(station, "out").findings if f.code == "loop-does-not-key"]
    panel = fix.apply(station).chain("out").panel
    assert panel.knobs["slider"] == pytest.approx(-14, abs=1)


@pytest.mark.parametrize(
    ("under_db", "says"),
    [
        (1.0, "loop-full-scale-in"),
        (10.0, "loop-full-scale-in"),
        # 15 to 25 dB under full scale is right, and half a decibel more is nobody's fault
        (14.8, None),
        (20.0, None),
        (25.3, None),
        (27.0, "loop-hears-little"),
        (45.0, "loop-hears-little"),
    ],
)
def test_what_is_said_of_strong_signals_coming_back(under_db, says):
    station = looped(computer=RIGHT, hang=60)
    now = loop_of(station, "out").strongest_db
    behind = now - under_db
    # by the record slider as far as it goes, the rest by the receive knob
    moved = turned(station, record=min(behind, 0.0))
    if behind > 0:
        moved = turned(station, volume=behind)
    scene = loop_of(moved, "out")
    assert scene.strongest_db == pytest.approx(under_db, abs=0.26)
    found = {f.code for f in scene.findings} & {"loop-full-scale-in", "loop-hears-little"}
    assert found == ({says} if says else set())
    if says == "loop-full-scale-in":
        (finding,) = (f for f in scene.findings if f.code == says)
        assert finding.severity == ("stop" if under_db < 3 else "mind")
