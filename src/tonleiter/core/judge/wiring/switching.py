"""Rules about the transmit switch: its rating, its ground, what ends a transmission, its place."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.judge.findings.codes import HEARD, IRON, Meaning, declare
from tonleiter.core.judge.findings.model import MOVE, Finding, Fix, Severity
from tonleiter.core.judge.wiring.case import WiringCase
from tonleiter.core.units.levels import format_dbu
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity
from tonleiter.core.wiring.keying import BEARS
from tonleiter.core.words import the

SWITCH_TOO_WEAK = declare("switch-too-weak", Meaning(counts=IRON))
SERIAL_CANNOT_KEY = declare("serial-cannot-key", Meaning(counts=IRON))
SWITCH_LATCHES = declare("switch-latches", Meaning(counts=IRON))
SWITCH_BESIDE_CAPSULE = declare("switch-beside-capsule", Meaning(counts=IRON, sounds=("clicks",)))
AUDIO_RETURN_SHARED = declare(
    "audio-return-shared", Meaning(counts=HEARD, sounds=("buzz", "clicks"))
)
TRANSMIT_UNKNOWN = declare("transmit-unknown", Meaning(counts=IRON, local=True))

# a contact is used at no more than half of what it bears
MARGIN = 2.0
# a click so far under speech is not heard in it
CLICK_HEARD_DB, CLICK_LOUD_DB = -50.0, -20.0


def rating(case: WiringCase) -> Iterator[Finding]:
    """What the switch bears against what the radio's line puts on it."""
    keying = case.build.keying
    if keying is None or keying.way not in BEARS:
        return
    most_v, most_a = BEARS[keying.way]
    if abs(keying.line_v) * MARGIN <= most_v and keying.line_a * MARGIN <= most_a:
        return
    over = abs(keying.line_v) > most_v or keying.line_a > most_a
    much = "too much" if over else "nearly all"
    yield Finding(
        SWITCH_TOO_WEAK,
        "stop" if over else "mind",
        case.radio_id,
        f"The radio's line asks {much} of {keying.says}",
        f"{format_quantity(abs(keying.line_v), VOLT, 2)} and"
        f" {format_quantity(keying.line_a, AMPERE, 2)} on the line; usual ones bear"
        f" {format_quantity(most_v, VOLT, 2)} and {format_quantity(most_a, AMPERE, 2)}, of which"
        " one uses half",
        {"line_v": abs(keying.line_v), "line_a": keying.line_a},
        tuple(_other_ways(case, "foot-switch", "toggle", "radio")),
        place=case.line_place,
    )


def serial_drive(case: WiringCase) -> Iterator[Finding]:
    """A port that is too weak for the line, or a line of the other polarity."""
    keying = case.build.keying
    if keying is None or not keying.from_computer:
        return
    serial_v = case.wiring.serial_v.value
    if keying.way == "serial-transistor" and keying.line_v < 0:
        why = (
            f"the line stands at {format_quantity(keying.line_v, VOLT, 2)}: a transistor at the"
            " port pulls a positive line only; an opto-coupler does not mind"
        )
    elif keying.resistor_ohm is None:
        why = (
            f"{format_quantity(serial_v, VOLT, 2)} from the port, and"
            f" {format_quantity(keying.port_a, AMPERE, 2)} wanted from it"
        )
    else:
        return
    yield Finding(
        SERIAL_CANNOT_KEY,
        "stop",
        case.radio_id,
        "This serial line cannot key this radio",
        why,
        {"serial_v": serial_v, "port_a": keying.port_a, "line_v": keying.line_v},
        tuple(_other_ways(case, "serial-opto", "serial-transistor", "interface-vox", "vox")),
        place=case.line_place,
    )


def latches(case: WiringCase) -> Iterator[Finding]:
    """A switch that stays where it is put, and nothing that ends a transmission."""
    keying = case.build.keying
    if keying is None or not keying.latches:
        return
    yield Finding(
        SWITCH_LATCHES,
        "mind",
        case.radio_id,
        "The toggle stays on: nothing but a hand ends a transmission",
        "forgotten, it holds the channel and heats the final stage; a momentary switch, or the"
        " radio's own time-out, ends it",
        {},
        tuple(_other_ways(case, "push-button", "foot-switch")),
        place=case.line_place,
    )


def beside_the_capsule(case: WiringCase) -> Iterator[Finding]:
    """A switch in the microphone's case that clicks into the capsule."""
    keying = case.build.keying
    if keying is None or keying.way != "microphone" or case.wiring.switch_place == "away":
        return
    yield Finding(
        SWITCH_BESIDE_CAPSULE,
        "mind",
        case.assessment.rows[0].id,
        "The switch sits beside the capsule: every over begins and ends with a click",
        "its click goes through the case and the air, and the transmitter is already or still on",
        {},
        (
            Fix(
                "Move the switch away from the capsule, or take a quiet one",
                case.with_hands(switch_place="away"),
                "felt under it helps too",
                MOVE,
            ),
        ),
        place="switch",
    )


def shared_ground(case: WiringCase) -> Iterator[Finding]:
    """The switch's current on the audio's way back: a click at each end of an over."""
    keying = case.build.keying
    if keying is None or not keying.wired:
        return
    ways = dict(_shared(case))
    if not ways:
        return
    click = case.click_v()
    port = case.radio.port
    speech_v = 0.7746 * 10 ** (case.speech_dbu / 20) if port else 0.0
    under = 20 * math.log10(max(click, 1e-12) / max(speech_v, 1e-12))
    severity: Severity = "mind" if under > CLICK_HEARD_DB else "fine"
    if under > CLICK_LOUD_DB:
        severity = "stop" if under > 20 else "mind"
    how, fix = next(iter(ways.items()))
    say = "" if severity != "fine" else ", and it is not heard"
    yield Finding(
        AUDIO_RETURN_SHARED,
        severity,
        case.radio_id,
        f"Audio and transmit share a ground: {how}{say}",
        f"pressing the switch moves the input by {format_quantity(click, VOLT, 2)},"
        f" {abs(under):.0f} dB {'over' if under > 0 else 'under'} speech at"
        f" {format_dbu(case.speech_dbu, 0)}; {format_quantity(keying.line_a, AMPERE, 2)} flow"
        " in the line",
        {"click_v": click, "click_over_speech_db": under},
        (fix,),
        place=case.line_place,
    )


def _shared(case: WiringCase) -> Iterator[tuple[str, Fix]]:
    splice = case.radio
    landed = {m.leg: m for m in case.meetings() if m.splice is splice}
    own = splice.end.contact_of("transmit-ground")
    has_own = own is not None and own.role == "transmit-ground"
    cold, key = landed.get("cold"), landed.get("transmit-ground")
    if case.wiring.switch_returns == "audio-ground":
        yield (
            "the switch goes back on the lead's audio ground",
            Fix(
                "Give the switch a wire of its own back to the plug",
                case.with_hands(switch_returns="own-wire"),
            ),
        )
    if cold is not None and cold.role == "transmit-ground":
        yield "the microphone's ground lies on the transmit ground", case.as_pinned(splice, "cold")
    if key is not None and has_own and key.by_hand and key.role in ("microphone-ground", "cold"):
        yield (
            "the switch's ground lies on the microphone's",
            case.as_pinned(splice, "transmit-ground"),
        )


def transmit_unknown(case: WiringCase) -> Iterator[Finding]:
    """A switch with two wires, and no contact that is known to take them."""
    keying = case.build.keying
    splice = case.radio
    if keying is None or not keying.wired or case.build.key_end is not None:
        return
    where = "" if splice.end.guessed else f" of {splice.end.connector.name}"
    yield Finding(
        TRANSMIT_UNKNOWN,
        "stop",
        case.radio_id,
        f"Nobody entered which contact{where} keys {the(splice.end.name)}",
        f"{keying.says} has nowhere to go, and none is drawn: enter the connector, press the"
        " contact that its manual gives and say so; or transmit another way",
        {},
        tuple(_other_ways(case, "radio", "vox")),
        place=splice.end.id,
    )


def _other_ways(case: WiringCase, *ways: str) -> Iterator[Fix]:
    now = case.build.keying
    for way in ways:
        if now is not None and way != now.way:
            yield case.by_way(way)


rules = (rating, serial_drive, latches, beside_the_capsule, shared_ground, transmit_unknown)
