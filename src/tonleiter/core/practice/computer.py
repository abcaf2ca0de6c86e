"""Riddles of a computer before a radio: defaults, programs, sliders, switches, both ways."""

from __future__ import annotations

import random
from collections.abc import Iterator
from typing import Any

from tonleiter.core.desk import plugging
from tonleiter.core.desk.devices import SoundDevice, roles_words
from tonleiter.core.desk.sent import BEEP_DBFS
from tonleiter.core.guide.controls import at
from tonleiter.core.practice.look import Care, Look, Seen
from tonleiter.core.practice.riddle import REPORT, Level, Riddle
from tonleiter.core.practice.settle import settle
from tonleiter.core.practice.wrong import (
    Spoil,
    Wrong,
    chosen,
    off_card,
    other_system,
    turned,
    wrong,
)
from tonleiter.core.setup.loop.base import LOST_S, STRONGEST
from tonleiter.core.setup.loop.laid import MOST_MOVES, loop_of
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.station.computer import ALTERING_WORDS, Computer
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KnobId
from tonleiter.core.words import listed

OUT, BACK, BOX, PC, RADIO = "out", "back", "box", "pc", "radio-box"
# both tones of a pair at once read so much more on a deviation meter than one
PAIR_DB = 5.0


def base(rng: random.Random) -> tuple[str, Station]:
    """A laptop, an audio box, a radio, both ways; not yet set."""
    purpose = rng.choice(("data-weak", "packet"))
    own = {"supply": "lead", "earth_emf_v": 0}
    if purpose == "packet":
        socket: dict[str, Any] = {"kind": "microphone-socket", "wants_dbu": rng.uniform(-34, -26)}
        socket |= {"clip_dbu": 4}
    else:
        low = rng.uniform(-30, -26)
        socket = {"kind": "data-socket", "window_low_dbu": low, "window_high_dbu": low + 14}
    gear = [
        {"kind": "line-source", "id": "box-out", "name": "audio box out", **own}
        | {"full_scale_dbu": rng.uniform(2, 8), "below_full_db": -20, "z_out_ohm": 150},
        {"kind": "cable", "id": "lead-out", "name": "data lead", "length_m": 1.5},
        {"id": "radio-in", "name": "radio", "supply": "lead", **socket},
        {"kind": "loudspeaker-output", "id": "radio-ear", "name": "radio's loudspeaker socket"}
        | {**own, "below_full_db": rng.uniform(-32, -24)},
        {"kind": "cable", "id": "lead-in", "name": "receive lead", "length_m": 1.5},
        {"kind": "line-input", "id": "box-in", "name": "audio box in", "supply": "lead"},
    ]
    devices: list[dict[str, Any]] = [
        {"id": PC, "name": "laptop", "kind": "computer"},
        {"id": BOX, "name": "audio box", "kind": "interface", "supply": "lead"}
        | {"ports": ["box-out", "box-in"], "switch": {"keys_at_db": rng.uniform(-44, -36)}},
        {"id": RADIO, "name": "radio", "kind": "radio", "supply": "lead"}
        | {"ports": ["radio-in", "radio-ear"]},
    ]
    computer = Computer(program={"out": BOX, "in": BOX}, altering=())
    devices[0] = {**devices[0], "computer": computer.model_dump(mode="json")}
    way = rng.choice(("interface-vox", "interface-vox", "serial-opto"))
    station = Station.model_validate(
        {
            "title": "Practice",
            "operators": [{"id": "op", "name": "operator"}],
            "gear": gear,
            "devices": devices,
            "links": [{"id": "usb", "name": "USB lead", "kind": "usb", "a": BOX, "b": PC}],
            "chains": [
                _chain(OUT, purpose, ("box-out", "lead-out", "radio-in"), way),
                _chain(BACK, purpose, ("radio-ear", "lead-in", "box-in"), None),
            ],
        }
    )
    what = "packet on FM" if purpose == "packet" else "weak-signal data"
    how = "keyed by a line" if way == "serial-opto" else "keyed by the box's own switch"
    return f"a laptop with an audio box for {what}, {how}", station


def _chain(id_: str, purpose: str, stages: tuple[str, ...], way: str | None) -> dict[str, Any]:
    variant: dict[str, Any] = {"id": "v", "name": "v", "stages": [{"gear": g} for g in stages]}
    if way is not None:
        variant["wiring"] = {"transmit": way}
    return {
        "id": id_,
        "name": id_,
        "purpose": purpose,
        "operator": "op",
        "variants": [variant],
        "shown": "v",
    }


# --- what may be wrong ---------------------------------------------------------------------------


def _panel(**knobs: float) -> Spoil:
    return turned(OUT, knobs)  # type: ignore[arg-type]


def _w(
    kind: str,
    title: str,
    mends: str,
    spoil: Spoil,
    level: Level = 1,
    habit: str = "",
    often: float = 1.0,
) -> Wrong:
    return wrong(kind, title, mends, "set", spoil, level, habit=habit, often=often)


def wrongs(station: Station, rng: random.Random) -> Iterator[Wrong]:
    """Everything that may be wrong with a loop that was right, each by some amount."""
    panel = station.chain(OUT).panel
    packet = station.chain(OUT).purpose == "packet"
    vox = loop_of(station, OUT).sent.listens
    yield _w(
        "default-taken",
        "The box was unplugged and plugged in: the system's sounds go out by it",
        "give the default loudspeaker back to the desk, and switch system sounds off",
        lambda s: plugging.alter(
            plugging.give(s, PC, ("system-out",), BOX), PC, {"system-sounds": True}
        ),
        often=2,
    )
    yield _w(
        "program-elsewhere",
        "The data program plays into the desk loudspeakers",
        "choose the box as its output, in the program",
        lambda s: plugging.choose(s, PC, {"out": "own-loudspeakers"}),
        often=2,
    )
    yield _w(
        "program-deaf",
        "The data program hears the webcam",
        "choose the box as its input: to the computer the receiver is a microphone",
        lambda s: plugging.choose(s, PC, {"in": "own-webcam"}),
    )
    yield _w(
        "altered",
        "The system's automatic gain and enhancements are on",
        "switch them off for the box",
        lambda s: plugging.alter(s, PC, {"automatic-gain": True, "enhancements": True}),
        level=2,
    )
    yield _w(
        "listens",
        "The system passes what it receives on into the transmitter",
        "switch off “listen to this device”, and give the default back to the desk",
        lambda s: plugging.alter(plugging.give(s, PC, ("system-out",), BOX), PC, {"listen": True}),
        level=3,
    )
    yield _w(
        "asleep",
        "The radio is switched off; USB feeds the box all the same",
        "switch the radio on",
        lambda s: plugging.switch_box(s, PC, BOX, False),
    )
    yield _w(
        "slider-shut",
        "The system's slider stands nearly at zero",
        "raise it until the switch keys, and 6 dB more",
        _panel(slider=at(panel, "slider") - rng.uniform(26, 34)),
    )
    level = at(panel, "level")
    if level < -8:
        yield _w(
            "level-up",
            "The interface's transmit knob was turned up",
            "turn it back until the meter reads as before",
            _panel(level=min(level + rng.uniform(9, 14), 0.0)),
            level=2,
        )
    yield _w(
        "level-down",
        "The interface's transmit knob was turned down",
        "turn it up until the meter reads as before",
        _panel(level=level - rng.uniform(12, 18)),
        level=2,
    )
    if packet:
        yield _w(
            "both-tones",
            "The deviation was set with both tones at once: too low by 5 dB",
            "set it again with one tone, the one that deviates further",
            _panel(level=level - PAIR_DB),
            level=3,
            habit="the test sends both tones at once",
        )
        yield _w(
            "other-system",
            "The set was switched to the other system: narrow for wide",
            "switch it back to the channel's system",
            other_system(OUT),
            level=2,
        )
        yield _w(
            "squelch-shut",
            "The squelch is shut",
            "open it: a modem wants to hear the beginning",
            _panel(squelch=rng.uniform(50, 80)),
        )
    else:
        yield _w(
            "compressor-on",
            "The radio's compressor was left on",
            "switch it off: a modem wants what it sent",
            _panel(compression=rng.uniform(8, 12)),
            level=2,
        )
    if vox:
        yield _w(
            "long-tail",
            "The box's switch hangs on far too long",
            "turn its hang time to its least",
            _panel(hang=rng.uniform(1100, 1900)),
            level=2,
        )
        yield _w(
            "switch-deaf",
            "The box's switch was made too insensitive",
            "lower its threshold until it keys with 6 dB to spare",
            _panel(threshold=-rng.uniform(4, 8)),
            level=2,
        )
    yield _w(
        "receive-down",
        "The receive knob was turned nearly off",
        "raise it until strong signals lie 20 dB under full scale",
        _panel(receive=-40.0, record=at(panel, "record") - 12),
    )
    yield _w(
        "volume-up",
        "Somebody turned the radio's volume up from its mark",
        "turn it back to the mark",
        _panel(volume=20.0),
        level=2,
    )


# --- what can be looked at -----------------------------------------------------------------------


def looks_of(station: Station) -> tuple[Look, ...]:
    """Everything that can be looked at, the report first."""
    packet = station.chain(OUT).purpose == "packet"
    load: tuple[Care, ...] = ("dummy-load",)
    quiet: tuple[Care, ...] = ("headphones-down", *load)
    found = [
        Look(REPORT, "What the other stations say", "", 0.1, "set", said_by_others=True),
        Look("defaults", "The system's sound settings: who is default for what",
             "Open the list of devices.", 1.0, "set"),
        Look("program", "The data program's own devices", "Open its settings.", 1.0, "set"),
        Look("alters", "What the system does to sound", "Open the box's properties.", 2.0, "set"),
        Look("sliders", "The system's sliders, against the card", "Hold the card beside them.",
             1.0, "set"),
        Look("interface", "The box's knobs, against the card", "Hold the card beside the box.",
             1.0, "set"),
        Look("radio", "The radio's knobs and lamp, against the card",
             "Hold the card beside the panel.", 1.0, "set"),
        Look("keys", "Whether a tone keys it", "Send a tone, look at the lamp.", 2.0, "set",
             care=load, power=True),
        Look("meter", "Deviation with a tone" if packet else "ALC with a tone",
             "Send a tone by the way of the data.", 3.0, "set", "kHz" if packet else "dB",
             0.2 if packet else 0.7, care=load),
        Look("in", "What comes in, on a strong signal", "The level meter of the data program.",
             1.5, "set", "dBFS", 2.0),
        Look("ear", "Headphones at the second receiver, nothing being sent",
             "Listen for a minute while you work at the desk.", 4.0, "set", care=quiet),
    ]  # fmt: skip
    if packet:
        found.append(Look("test", "What the program sends as its test tone",
                          "Look at its settings.", 1.0, "set"))  # fmt: skip
    return tuple(found)


_SLIDERS: tuple[KnobId, ...] = ("slider", "program", "record")
_KNOBS: tuple[KnobId, ...] = ("level", "threshold", "hang", "receive")
_RADIO: tuple[KnobId, ...] = (
    "volume",
    "squelch",
    "compression",
    "gain",
    "tone",
    "deviation",
    "power",
)


def report_of(scene: LoopScene) -> str:
    """What others notice."""
    desk, sent = scene.desk, scene.sent
    to, hears = desk.program("out"), desk.program("in")
    sends = to is not None and to.id == desk.out and not desk.sends.asleep
    said = []
    if not sends or not scene.keyed.keys:
        said.append("you are not heard at all")
    else:
        said += _signal(scene)
    codes = {f.code for f in scene.findings}
    if "desk-beeps-on-air" in codes:
        said.append("a bell on the air now and then" if sent.listens else "bells in your signal")
    if "desk-feeds-back" in codes:
        said.append(
            "your transmitter comes on by itself"
            if sent.listens
            else "the band echoes in your signal"
        )
    if sends and scene.keyed.keys and scene.lost_s > LOST_S:
        said.append("you never hear the beginning of a reply")
    into = desk.device(desk.into)
    deaf = into is not None and (hears is None or hears.id != into.id)
    if deaf or desk.sends.asleep or scene.strongest_db > STRONGEST[1] + 12:
        said.append("nothing is decoded here")
    elif scene.strongest_db < 3 or "automatic-gain" in desk.state.altering:
        said.append("only strong stations are decoded here")
    if at(scene.panel, "squelch") > 0:
        said.append("you never hear the beginning of a reply")
    return ", ".join(dict.fromkeys(said)) or "as always"


def _signal(scene: LoopScene) -> Iterator[str]:
    """Of what is sent: wide, weak, as it should be."""
    alters = scene.desk.state.altering
    level = next((s for s in scene.radio.own_steps() if s.id == "level"), None)
    wide = any(f.severity == "stop" for f in scene.radio.own_findings())
    meter = next((m for m in scene.radio.meters if m.id in ("alc", "deviation")), None)
    over = meter is not None and meter.aim is not None and meter.value > meter.aim[1] * 1.15
    bent = at(scene.panel, "compression") > 0 or "enhancements" in alters
    if wide or over or bent:
        yield "your signal is wide"
    elif level is not None and level.move is not None:
        yield "your signal is weak"


def _seen(scene: LoopScene, now: Station, card: Station, habit: str) -> dict[str, Seen]:
    desk, sent = scene.desk, scene.sent
    off = off_card(_RADIO, OUT, now, card)
    if desk.sends.asleep:
        off.append("its lamp is dark")
    beeps = desk.holder("system-out") == desk.sends and "system-sounds" in desk.state.altering
    feeds = any(f.code == "desk-feeds-back" for f in scene.findings)
    keyed = sent.over_threshold_db(BEEP_DBFS + at(scene.panel, "slider")) >= 0
    heard = (
        "it transmits what it receives" if feeds and sent.listens
        else "a bell, and the carrier with it" if beeps and keyed and sent.listens
        else "nothing"
    )  # fmt: skip
    to = desk.program("out")
    sends = to is not None and to.id == desk.out and not desk.sends.asleep
    meters = {m.id: float(m.value) for m in scene.radio.meters}
    meter = meters.get("deviation", meters.get("alc", 0.0))
    hears = desk.program("in")
    into = desk.device(desk.into)
    arrives = -scene.strongest_db if hears == into and not desk.sends.asleep else -90.0
    return {
        REPORT: report_of(scene),
        "defaults": f"the {roles_words(desk.taken)} is the box" if desk.taken else "at the desk",
        "program": _devices(desk.program("out"), hears),
        "alters": listed([ALTERING_WORDS[a] for a in desk.state.altering]) or "nothing",
        "sliders": listed(off_card(_SLIDERS, OUT, now, card)) or "as on the card",
        "interface": listed(off_card(_KNOBS, OUT, now, card)) or "as on the card",
        "radio": listed(off) or "as on the card",
        "keys": "it keys" if sends and scene.keyed.keys else "it does not key",
        "meter": meter if sends and scene.keyed.keys else 0.0,
        "in": min(arrives, 0.0),
        "ear": heard,
        "test": habit or "one tone",
    }


def _devices(out: SoundDevice | None, into: SoundDevice | None) -> str:
    names = [d.called if d is not None else "nothing" for d in (out, into)]
    return f"sends by {names[0]}, hears by {names[1]}"


def make(seed: int, kind: str | None = None) -> Riddle | None:
    """A riddle from a seed; of a kind where one is wanted. None where the seed gives none."""
    rng = random.Random(f"computer {seed}")
    about, station = base(rng)
    right = settle(station, OUT, lambda s: loop_of(s, OUT), MOST_MOVES)
    if right is None:
        return None
    card = right
    if rng.random() < 0.5:
        power = right.chain(OUT).panel.knobs.get("volume", 0.0)
        right = _panel(volume=power + rng.choice((-4.0, 4.0)))(right)
    found = list(wrongs(right, rng))
    looks = looks_of(right)
    ids = {x.id for x in looks}

    def shown(put: Wrong | None) -> dict[str, Seen]:
        now = put.spoil(right) if put else right
        seen = _seen(loop_of(now, OUT), now, card, put.habit if put else "")
        return {k: v for k, v in seen.items() if k in ids}

    told = frozenset({"meter", "in"})
    return chosen("computer", seed, about, looks, found, shown, rng, kind, told)
