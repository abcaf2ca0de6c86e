"""Rules about plugs and pinouts: forms that short a ring, two orders, faces mixed up, live pins."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

from tonleiter.core.gear.labels import label_of
from tonleiter.core.judge.findings.codes import HEARD, IRON, Meaning, declare
from tonleiter.core.judge.findings.model import CHANGE, Finding, Fix, Severity
from tonleiter.core.judge.wiring.case import WiringCase
from tonleiter.core.solve.splice import Splice
from tonleiter.core.station import wirings
from tonleiter.core.station.boxes import set_connector
from tonleiter.core.station.devices import Connector
from tonleiter.core.station.model import Station
from tonleiter.core.station.pinout import End, mirrored, turned, usual_contacts
from tonleiter.core.station.shells import SHELLS, fits, joined_by, meets
from tonleiter.core.units.quantity import OHM, VOLT, format_quantity
from tonleiter.core.words import count_of, one_or, the

PINOUT_UNKNOWN = declare("pinout-unknown", Meaning(counts=IRON, local=True))
PINOUT_MIRRORED = declare("pinout-mirrored", Meaning(counts=IRON))
SUPPLY_FREE = declare("supply-contact-free", Meaning(counts=IRON))
RING_SHORTED = declare("ring-shorted", Meaning(counts=HEARD))
PLUG_DOES_NOT_FIT = declare("plug-does-not-fit", Meaning(counts=HEARD))
CONNECTOR_ASSUMED = declare("connector-assumed", Meaning(counts=IRON))
FOUR_POLE_ORDER = declare("four-pole-order", Meaning(counts=IRON))


def unknown(case: WiringCase) -> Iterator[Finding]:
    """A leg that no contact is known to carry cannot be soldered."""
    for leg in case.build.unknown:
        yield Finding(
            PINOUT_UNKNOWN,
            "stop",
            case.radio_id,
            f"It is not known which contact carries the {leg}",
            "its connector has no pinout: the manual of the box has one, or a meter finds it;"
            " press a contact to say what it carries",
            {},
            place=leg,
        )


def read_from_the_other_side(case: WiringCase) -> Iterator[Finding]:
    """A pinout that is another one's mirror image was read from the wrong face."""
    known = [
        c
        for device in case.station.devices
        for c in device.connectors
        if c.contacts and c.basis != "typical"
    ]
    for (stage, _), splice in case.build.splices.items():
        end = splice.end
        if end.guessed:
            continue
        other = mirrored(end.connector, [c for c in known if c is not end.connector])
        whose = "" if other is None else f"{other.name}'s"
        if other is None:
            other = mirrored(end.connector, _standard(case, stage, end))
            whose = "what the standard gives this shell"
        if other is None:
            continue
        yield Finding(
            PINOUT_MIRRORED,
            "stop",
            stage,
            f"The pinout of {end.connector.name} on {the(end.name)} is the mirror of {whose}",
            "same shell, same roles, every contact on the other side: one of the two was read"
            " from the solder side",
            {},
            (Fix("Turn the pinout over", _turned_over(end), "", CHANGE),),
            place=end.id,
        )


def assumed(case: WiringCase) -> Iterator[Finding]:
    """Connectors that nobody entered: what is usual was drawn, and may be something else."""
    ends = [e for e in dict.fromkeys(case.build.ends) if e.guessed]
    plugs = [e for e in ends if SHELLS[e.connector.shell].usual_for != "loose"]
    if not plugs:
        return
    said = "; ".join(f"{e.name}: {SHELLS[e.connector.shell].title}" for e in plugs)
    yield Finding(
        CONNECTOR_ASSUMED,
        "mind",
        case.radio_id,
        f"{count_of(len(plugs), 'connector')} {one_or(len(plugs), 'is', 'are')} assumed: nobody"
        f" entered {one_or(len(plugs), 'it', 'them')}",
        f"{said}; look at the box, press the plug on the drawing and say what is there",
        {},
        place=plugs[-1].id,
    )


def _standard(case: WiringCase, stage: str, end: End) -> list[Connector]:
    if not SHELLS[end.connector.shell].standard:
        return []
    gear = case.station.gear_by_id[stage]
    usual = usual_contacts(end.connector.shell, gear, balanced=True)
    return [end.connector.model_copy(update={"contacts": usual})]


def _turned_over(end: End) -> Callable[[Station], Station]:
    def turn(station: Station) -> Station:
        return set_connector(station, end.device, turned(end.connector))

    return turn


def supply_left_open(case: WiringCase) -> Iterator[Finding]:
    """A contact that carries a supply and is not used shorts it by one strand."""
    for left in case.build.leftovers:
        if left.role != "bias" or left.insulated:
            continue
        label = left.contact.label
        stand = next(
            (
                s.stands[label]
                for s in case.build.splices.values()
                if s.end.ref(label) == left.contact and label in s.stands
            ),
            None,
        )
        volts = "a supply" if stand is None else format_quantity(stand.volts, VOLT, 2)
        behind = "" if stand is None else f" through {format_quantity(stand.ohm, OHM, 2)}"
        usual = " (usual figures)" if stand is not None and stand.usual else ""
        yield Finding(
            SUPPLY_FREE,
            "mind",
            case.radio_id,
            f"Contact {label} carries {volts} that nothing uses",
            f"a loose strand or the screen's tail on it shorts the set's regulator{behind}{usual}",
            {},
            (
                Fix(
                    "Insulate it, cut the screen's tail short, and note it",
                    case.with_hands(insulated=(*case.wiring.insulated, left.contact)),
                    "",
                    CHANGE,
                ),
            ),
            place=left.contact,
        )


def _without_plug(case: WiringCase, end: str, station: Station) -> Station:
    """The plug of the socket's own form on the lead again."""
    return wirings.put_plug(station, *case.ids, end, None)


def ring_shorted(case: WiringCase) -> Iterator[Finding]:
    """A plug of another form in a socket: what its springs meet, and what that does."""
    for (stage, _), splice in case.build.splices.items():
        end = splice.end
        plug, socket = case.wiring.plug(end.id), end.connector.shell
        if plug is None or plug == socket:
            continue
        right = Fix(
            "Put the plug of the socket's form on the lead",
            partial(_without_plug, case, end.id),
            "",
            CHANGE,
        )
        names = f"{SHELLS[plug].title} into {SHELLS[socket].title}"
        if not fits(plug, socket):
            yield Finding(
                PLUG_DOES_NOT_FIT,
                "stop",
                stage,
                f"The plug on the lead does not go into {the(end.name)}",
                names,
                {},
                (right,),
                place=end.id,
            )
            continue
        joined = [*joined_by(plug, socket), *_in_the_sleeve(case, splice)]
        roles = {c.label: c.role for c in end.connector.contacts}
        for one, other in joined:
            carries = [label_of(roles.get(x, "unknown")) for x in (one, other)]
            grave = {roles.get(one), roles.get(other)} & {"bias", "transmit", "microphone"}
            severity: Severity = "stop" if grave else "mind"
            yield Finding(
                RING_SHORTED,
                severity,
                stage,
                f"{names}: {one} and {other} become one at {the(end.name)}",
                f"{carries[0]} meets {carries[1]}{_what_that_does(case, splice, one)}",
                {},
                (right,),
                place=end.ref(one),
            )


def _in_the_sleeve(case: WiringCase, splice: Splice) -> Iterator[tuple[str, str]]:
    """Wires on a ring of the plug that lies in the sleeve of the socket."""
    plug, socket = case.wiring.plug(splice.end.id), splice.end.connector.shell
    if plug is None or len(SHELLS[plug].labels) <= len(SHELLS[socket].labels):
        return
    met = meets(plug, socket)
    for label in SHELLS[plug].labels:
        if label not in SHELLS[socket].labels and met[label] == "sleeve":
            yield label, "sleeve"


def _what_that_does(case: WiringCase, splice: Splice, label: str) -> str:
    stand = splice.stands.get(label)
    if stand is None:
        return ""
    volts = case.volts(splice.nodes[label], splice)
    left = format_quantity(volts, VOLT, 2)
    of = format_quantity(stand.volts, VOLT, 2)
    role = next(c.role for c in splice.end.connector.contacts if c.label == label)
    tail = {"transmit": ": it transmits", "bias": ": the bias is shorted"}.get(role, "")
    return f"; {left} left of {of}{tail}"


def four_pole_order(case: WiringCase) -> Iterator[Finding]:
    """Two orders of a four-contact jack exist: ground on the second ring, or on the sleeve."""
    for (stage, _), splice in case.build.splices.items():
        connector = splice.end.connector
        if connector.shell != "jack-3.5-four" or connector.basis != "typical":
            continue
        roles = {c.label: c.role for c in connector.contacts}
        if not {roles.get("ring 2"), roles.get("sleeve")} & {"microphone"}:
            continue

        def checked(station: Station, end: End = splice.end) -> Station:
            known = end.connector.model_copy(update={"basis": "measured"})
            return set_connector(station, end.device, known)

        def other(station: Station, end: End = splice.end) -> Station:
            swap = {"ring 2": "sleeve", "sleeve": "ring 2"}
            was = {c.label: c for c in end.connector.contacts}
            contacts = tuple(
                c.model_copy(update={"role": was[swap[c.label]].role}) if c.label in swap else c
                for c in end.connector.contacts
            )
            known = end.connector.model_copy(update={"contacts": contacts, "basis": "measured"})
            return set_connector(station, end.device, known)

        yield Finding(
            FOUR_POLE_ORDER,
            "mind",
            stage,
            f"Four-contact jacks come in two orders: nobody has checked {the(splice.end.name)}'s",
            "in one the microphone is on the sleeve and ground on the second ring, in the other the"
            " reverse: the wrong one puts the microphone on ground",
            {},
            (Fix("A meter confirms this order", checked), Fix("It is the other order", other)),
            place=splice.end.id,
        )


rules = (
    unknown,
    assumed,
    read_from_the_other_side,
    ring_shorted,
    four_pole_order,
    supply_left_open,
)
