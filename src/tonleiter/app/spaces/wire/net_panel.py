"""A net that is lit: its joints, its speech and DC, what an ohmmeter finds; and one wire of it."""

from __future__ import annotations

from PySide6.QtWidgets import QLineEdit

from tonleiter.app.spaces.wire.rows import Rows
from tonleiter.core.gear.figure import METRES, Figure
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station.contacts import At
from tonleiter.core.station.pinout import End
from tonleiter.core.station.wiring import COLOUR_WORDS
from tonleiter.core.units.levels import format_dbu, format_volts
from tonleiter.core.units.quantity import hundredths
from tonleiter.core.wiring.model import Conductor, Net
from tonleiter.core.words import count_of, the

AIR = ""
MOST_RUNG = 6
# a lead for a switch, where nobody said how long
SWITCH_LEAD_M = 1.5


def show_net(rows: Rows, net: Net) -> None:
    """The whole net."""
    wire = rows.model.conductor()
    rows.words(net.name, "title")
    colour = f"{wire.colour}; " if wire is not None else ""
    joints = count_of(len(net.contacts), "joint")
    rows.words(f"{colour}{joints}, lit on the drawing", "caption")
    for contact in net.contacts:
        rows.words(rows.named(contact))
    if net.speech_dbu is not None:
        level = f"{format_volts(net.speech_dbu)}  {format_dbu(net.speech_dbu)}"
        rows.pair("Speech", level)
    rows.pair("DC, to the radio's ground", hundredths(net.dc_v))
    _rung(rows, net)


def _rung(rows: Rows, net: Net) -> None:
    """What an ohmmeter finds from this net to the others, unplugged at both ends."""
    meter = rows.model.meter()
    if meter is None:
        return
    own = [c for c in meter.contacts if c in net.contacts]
    others: dict[str, At] = {}
    for contact in meter.contacts:
        at = rows.model.net_of(contact)
        if at is not None and at.name != net.name:
            others.setdefault(at.name, contact)
    if not own:
        return
    rows.words("Ring it out, unplugged", "section")
    if len(own) > 1:
        rows.pair(" – ".join(rows.short(c) for c in own), "beeps")
    for other in list(others.values())[:MOST_RUNG]:
        rows.pair(
            f"{rows.short(own[-1])} to {rows.short(other)}", meter.between(own[-1], other).words()
        )


def show_wire(rows: Rows, wire: Conductor) -> None:
    """Its colour, its length, the contacts that it is soldered to."""
    model = rows.model
    rows.words("This wire", "section")
    words = [*(() if wire.colour in COLOUR_WORDS else (wire.colour,)), *COLOUR_WORDS]
    colour = rows.choice(
        "Colour",
        "Colour of the wire",
        [(w, w) for w in words if w != "any"],
        wire.colour,
        lambda w: model.dress(wire.key, colour=w),
    )
    _typed_colour(rows, wire, colour.currentText())
    if wire.length_m is not None or wire.of_switch:
        figure = Figure(value=wire.length_m or SWITCH_LEAD_M)
        rows.figure(
            "Length",
            "Length of the wire",
            METRES,
            figure,
            (wire.key, "length_m"),
            lambda f: model.dress(wire.key, length_m=f),
        )
    for end in _ends_of(rows, wire):
        items = [(f"{c.label}  {label_of(c.role)}", c.label) for c in end.connector.contacts]
        now = wire.label_at(end.id) or AIR
        rows.choice(
            f"At {the(end.name)}",
            f"{wire.leg.replace('-', ' ')} at {the(end.name)}",
            [*items, ("cut back, to nothing", AIR)],
            now,
            lambda c, end=end: model.land(end, wire.leg, c or None),  # type: ignore[misc]
        )


def _typed_colour(rows: Rows, wire: Conductor, now: str) -> None:
    """A wire of two colours is typed: its words with a stroke between."""
    field = QLineEdit(now if "/" in now else "")
    field.setPlaceholderText("two: white/blue")
    field.setAccessibleName("Colours of the wire, typed")
    field.returnPressed.connect(
        lambda: rows.do(lambda: rows.model.dress(wire.key, colour=field.text()))
    )
    rows.row("or", field)


def _ends_of(rows: Rows, wire: Conductor) -> list[End]:
    """Plugs in which an end of the wire may be soldered elsewhere."""
    span, build = rows.model.span, rows.model.build
    if span is None or build is None:
        return []
    if wire.of_switch:
        return [span.right]
    here = [c for c in build.wires_in(rows.model.place) if c.leg == wire.leg and c.key]
    ends = []
    if here and here[0].key == wire.key:
        ends.append(span.left)
    if here and here[-1].key == wire.key:
        ends.append(span.right)
    return ends
