"""Rules about wires on wrong contacts: swapped, on a supply, on the transmit line, in the air."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.gear.labels import label_of
from tonleiter.core.gear.parts import TRANSFORMER
from tonleiter.core.judge.findings.codes import HEARD, Meaning, declare
from tonleiter.core.judge.findings.model import Finding, Fix, Severity
from tonleiter.core.judge.wiring.case import Meeting, WiringCase
from tonleiter.core.safety.cautions import caution
from tonleiter.core.solve.splice import Splice
from tonleiter.core.station import wirings
from tonleiter.core.station.contact_facts import FED, GROUND_ROLES
from tonleiter.core.station.contacts import At
from tonleiter.core.station.devices import Contact, Role
from tonleiter.core.units.levels import format_dbu, signed
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity
from tonleiter.core.words import the

HOT_COLD_SWAPPED = declare("hot-cold-swapped", Meaning(counts=HEARD))
AUDIO_TRANSMIT_SWAPPED = declare("audio-transmit-swapped", Meaning(counts=HEARD))
SUPPLY_ON_WIRE = declare("supply-on-wire", Meaning(counts=HEARD))
WRONG_CONTACT = declare("wrong-contact", Meaning(counts=HEARD))
WIRE_IN_AIR = declare("wire-in-air", Meaning(counts=HEARD))
TRANSMIT_HELD = declare("transmit-held", Meaning(counts=HEARD))
CONTACTS_JOINED = declare("contacts-joined", Meaning(counts=HEARD))

# where each wire but the hot one may end; a screen or a ground on any ground
_BELONGS: dict[str, tuple[Role, ...]] = {
    "cold": ("cold", "microphone-ground", "data-ground", "audio-ground", "screen"),
    "screen": GROUND_ROLES,
    "transmit": ("transmit",),
    "transmit-ground": GROUND_ROLES,
}
# a line that is pulled this far down is keyed
KEYED_SHARE = 0.4
# a supply that sags to this share is as good as shorted
SAGS_TO = 0.5


def swapped(case: WiringCase) -> Iterator[Finding]:
    """Hot and cold, or audio and transmit, each on the other's contact."""
    for splice, wires in _by_end(case):
        hot, cold, key = (wires.get(leg) for leg in ("hot", "cold", "transmit"))
        if hot and cold and hot.role in _BELONGS["cold"] and cold.role in _hot_of(cold):
            balanced = splice.port.balanced
            severity: Severity = "mind" if balanced else "stop"
            what = "the signal now runs on the screen's side, and the ground on the signal's wire"
            if balanced:
                what = "the polarity is turned round: one voice does not mind, two microphones do"
            yield Finding(
                HOT_COLD_SWAPPED,
                severity,
                hot.box,
                f"Hot and cold have changed places in the plug of {the(splice.end.name)}",
                f"{what}; {_against(case)}",
                _figures(case),
                (case.as_pinned(splice, "hot", "cold"),),
                place=hot.place,
            )
        if hot and key and hot.role == "transmit" and key.role in _hot_of(key):
            yield Finding(
                AUDIO_TRANSMIT_SWAPPED,
                "stop",
                hot.box,
                f"Audio and transmit have changed places in the plug of {the(splice.end.name)}",
                f"the source hangs on the transmit line: {_line(case, hot)}; pressing the switch"
                " shorts the microphone",
                _figures(case),
                (case.as_pinned(splice, "hot", "transmit"),),
                caution("keys-itself"),
                place=hot.place,
            )


def on_a_supply(case: WiringCase) -> Iterator[Finding]:
    """A contact that gives a supply, pulled down by what was soldered or joined to it."""
    meets = {m.place: m for m in case.meetings() if m.contact is not None}
    for splice, contact, volts, amps in case.stands():
        if contact.role != "bias":
            continue
        stand = splice.stands[contact.label]
        place = splice.end.ref(contact.label)
        wire = meets.get(place)
        net = case.build.net_of(place)
        if wire is None and abs(volts) > SAGS_TO * abs(stand.volts):
            continue
        on = "a contact joined to it" if wire is None else f"the {_wire(wire.leg)}"
        through = _what_takes_it(case, net.contacts if net else ())
        usual = ", usual figures" if stand.usual else ""
        if wire is not None and wire.leg == "transmit":
            yield _pressed_onto(case, splice, contact, wire)
            continue
        ends = "at best nothing is heard, at worst the regulator goes"
        if abs(volts) > SAGS_TO * abs(stand.volts):
            ends = "the supply holds, and the sound ends in it instead of at the input"
        yield Finding(
            SUPPLY_ON_WIRE,
            "stop",
            _stage_of(case, splice),
            f"{format_quantity(stand.volts, VOLT, 2)} of contact {contact.label} stand on {on}"
            f"{through}",
            f"{format_quantity(abs(amps), AMPERE, 2)} flow, and"
            f" {format_quantity(volts, VOLT, 2)} are left of"
            f" {format_quantity(stand.volts, VOLT, 2)}{usual}: {ends}",
            {"amps": abs(amps), "left_v": volts, "open_v": stand.volts},
            tuple(_undo(case, splice, wire)),
            place=place,
        )


def _pressed_onto(case: WiringCase, splice: Splice, contact: Contact, wire: Meeting) -> Finding:
    """The transmit wire on a supply: what happens is solved with the switch pressed."""
    stand = splice.stands[contact.label]
    left = case.volts(splice.nodes[contact.label], splice, case.keyed)
    amps = abs(stand.volts - left) / stand.ohm
    usual = ", usual figures" if stand.usual else ""
    return Finding(
        SUPPLY_ON_WIRE,
        "stop",
        _stage_of(case, splice),
        f"The transmit wire lies on contact {contact.label}: the switch shorts"
        f" {format_quantity(stand.volts, VOLT, 2)} when it is pressed, and never keys",
        f"pressed, {format_quantity(amps, AMPERE, 2)} flow and {format_quantity(left, VOLT, 2)} are"
        f" left{usual}: at best nothing happens, at worst the regulator goes",
        {"amps": amps, "left_v": left, "open_v": stand.volts},
        tuple(_undo(case, splice, wire)),
        place=splice.end.ref(contact.label),
    )


def transmit_held(case: WiringCase) -> Iterator[Finding]:
    """The transmit line pulled down with nobody at the switch."""
    for splice, contact, volts, amps in case.stands():
        stand = splice.stands[contact.label]
        if contact.role != "transmit" or abs(volts) > KEYED_SHARE * abs(stand.volts):
            continue
        place = splice.end.ref(contact.label)
        wires = [m for m in case.meetings() if m.place == place]
        if any(m.leg == "hot" for m in wires) and _is_swap(case):
            continue
        yield Finding(
            TRANSMIT_HELD,
            "stop",
            _stage_of(case, splice),
            f"The transmit line of {the(splice.end.name)} is held down: it transmits as soon as it"
            " is plugged in",
            f"{format_quantity(abs(volts), VOLT, 2)} left of"
            f" {format_quantity(abs(stand.volts), VOLT, 2)},"
            f" {format_quantity(abs(amps), AMPERE, 2)} through what hangs on contact"
            f" {contact.label}",
            {"left_v": volts, "amps": abs(amps)},
            tuple(_undo(case, splice, None)),
            caution("keys-itself"),
            place=place,
        )


def wrong_contact(case: WiringCase) -> Iterator[Finding]:
    """A wire on a contact that carries something else, where no other rule says more."""
    swaps = {(m.place, m.leg) for _, wires in _by_end(case) for m in _in_a_swap(wires)}
    for wire in case.meetings():
        role = wire.role
        if (
            role is None
            or (wire.place, wire.leg) in swaps
            or role in (_hot_of(wire) if wire.leg == "hot" else _BELONGS[wire.leg])
            or not wire.by_hand
        ):
            continue
        if role == "bias" or (wire.leg == "cold" and role == "transmit-ground"):
            continue  # the supply and the switch have rules of their own
        assert wire.contact is not None
        yield Finding(
            WRONG_CONTACT,
            "stop",
            wire.box,
            f"The {_wire(wire.leg)} is soldered to contact {wire.contact.label} of"
            f" {the(wire.splice.end.name)}, which carries {label_of(role)}",
            _never_keys(role) if wire.leg == "transmit" else _against(case),
            _figures(case),
            (case.as_pinned(wire.splice, wire.leg),),
            place=wire.place,
        )


def _never_keys(role: Role) -> str:
    """What a switch does that closes another contact to ground."""
    shorts = ", and shorts the microphone" if role in ("microphone", "data-in") else ""
    return f"pressing the switch never keys the radio{shorts}"


def wire_in_air(case: WiringCase) -> Iterator[Finding]:
    """A wire that was cut back where it should be soldered; a screen may end at one side."""
    for wire in case.meetings():
        if wire.contact is not None or not wire.by_hand or wire.leg == "screen":
            continue
        transmits = wire.leg in ("transmit", "transmit-ground")
        yield Finding(
            WIRE_IN_AIR,
            "stop",
            wire.box,
            f"The {_wire(wire.leg)} is soldered to nothing at {the(wire.splice.end.name)}",
            "the switch does nothing" if transmits else _against(case),
            _figures(case),
            (case.as_pinned(wire.splice, wire.leg),),
            place=f"{wire.place} {wire.leg}",
        )


def contacts_joined(case: WiringCase) -> Iterator[Finding]:
    """Contacts that were joined by hand and carry different things."""
    for splice in case.build.splices.values():
        roles = {c.label: c.role for c in splice.end.connector.contacts}
        for bridge in case.wiring.bridges:
            if bridge.end != splice.end.id:
                continue
            one, other = (roles.get(c, "unknown") for c in bridge.contacts)
            grounds = {*GROUND_ROLES, "cold"}
            if one == other or (one in grounds and other in grounds):
                continue
            if {one, other} & set(FED):
                continue  # what that does to a supply or a line is said there
            a, b = bridge.contacts
            yield Finding(
                CONTACTS_JOINED,
                "stop",
                _stage_of(case, splice),
                f"Contacts {a} and {b} of {the(splice.end.name)} are joined:"
                f" {label_of(one)} meets {label_of(other)}",
                _against(case),
                _figures(case),
                tuple(_undo(case, splice, None)),
                place=f"{splice.end.ref(a)} {b}",
            )


# --- shared words --------------------------------------------------------------------------------


def _by_end(case: WiringCase) -> Iterator[tuple[Splice, dict[str, Meeting]]]:
    ends: dict[int, dict[str, Meeting]] = {}
    for meeting in case.meetings():
        ends.setdefault(id(meeting.splice), {})[meeting.leg] = meeting
    for wires in ends.values():
        yield next(iter(wires.values())).splice, wires


def _hot_of(wire: Meeting) -> tuple[Role, ...]:
    """What the hot wire may lie on at a wire's connector."""
    return wire.splice.end.roles_for("hot")


def _in_a_swap(wires: dict[str, Meeting]) -> Iterator[Meeting]:
    hot, cold, key = (wires.get(leg) for leg in ("hot", "cold", "transmit"))
    if hot and cold and hot.role in _BELONGS["cold"] and cold.role in _hot_of(cold):
        yield from (hot, cold)
    if hot and key and hot.role == "transmit" and key.role in _hot_of(key):
        yield from (hot, key)


def _is_swap(case: WiringCase) -> bool:
    return any(f.code == AUDIO_TRANSMIT_SWAPPED for f in swapped(case))


def _wire(leg: str) -> str:
    return "screen" if leg == "screen" else f"{leg.replace('-', ' ')} wire"


def _stage_of(case: WiringCase, splice: Splice) -> str:
    return next(stage for (stage, _), s in case.build.splices.items() if s is splice)


def _line(case: WiringCase, wire: Meeting) -> str:
    """What a wire on the transmit line leaves of it."""
    assert wire.contact is not None
    stand = wire.splice.stands.get(wire.contact.label)
    if stand is None:
        return "it may key the transmitter"
    volts = case.volts(wire.splice.nodes[wire.contact.label], wire.splice)
    keyed = abs(volts) < KEYED_SHARE * abs(stand.volts)
    left = f"{format_quantity(volts, VOLT, 2)} left of {format_quantity(stand.volts, VOLT, 2)}"
    return f"{left}, {'it transmits at once' if keyed else 'the line stays up'}"


def _what_takes_it(case: WiringCase, contacts: tuple[At, ...]) -> str:
    """What a supply meets first on its way: a winding, a coil, the screen."""
    grounds = {c for c in contacts if _role(case, c) in GROUND_ROLES}
    if grounds:
        return ", which is ground"
    if case.build.lettered(TRANSFORMER) & {c.thing for c in contacts}:
        return ", and so on a winding"
    source = case.assessment.solution.compiled.stages[0]
    if (
        any(c.thing.partition(".")[0] == _box(case, source.id) for c in contacts)
        and source.gear.acoustic
    ):
        return f", and so on {the(source.gear.name)}"
    return ""


def _box(case: WiringCase, gear_id: str) -> str:
    device = case.station.device_by_port.get(gear_id)
    return gear_id if device is None else device.id


def _role(case: WiringCase, contact: str) -> str:
    for end in case.build.ends:
        for c in end.connector.contacts:
            if end.ref(c.label) == contact:
                return c.role
    return ""


def _undo(case: WiringCase, splice: Splice, wire: Meeting | None) -> Iterator[Fix]:
    """Ways back: the wire to its own contact, joined contacts parted, the right plug."""
    end = splice.end.id
    if wire is not None and wire.by_hand:
        yield case.as_pinned(splice, wire.leg)
    elif any(x.end == end for x in case.wiring.landings):
        yield case.as_pinned(splice)
    if any(b.end == end for b in case.wiring.bridges):
        yield case.rewired(
            "Part the contacts that are joined", lambda s: wirings.unbridge(s, *case.ids, end)
        )
    if case.wiring.plug(end) is not None:
        yield case.rewired(
            "Put the plug of the socket's form on the lead",
            lambda s: wirings.put_plug(s, *case.ids, end, None),
        )


def _against(case: WiringCase) -> str:
    """Speech and hum at the radio, as wired and as the pinouts say."""
    before = case.derived
    now, hum = case.speech_dbu, case.hum_dbu
    if before is None:
        return f"speech at the radio {format_dbu(now)}"
    was, hum_was = before.rows[-1].speech_dbu, before.rows[-1].hum_dbu
    said = [
        f"speech at the radio {signed(now - was, 0, plus=True)} dB"
        if now > -150
        else "nothing of the speech arrives"
    ]
    if hum is not None and hum_was is not None and abs(hum - hum_was) >= 3:
        said.append(f"hum {format_dbu(hum_was, 0)} → {format_dbu(hum, 0)}")
    return "; ".join(said)


def _figures(case: WiringCase) -> dict[str, float]:
    figures = {"speech_dbu": case.speech_dbu}
    if case.hum_dbu is not None:
        figures["hum_dbu"] = case.hum_dbu
    return figures


rules = (swapped, on_a_supply, transmit_held, wrong_contact, wire_in_air, contacts_joined)
