"""A contact that is chosen: what it carries, what stands on it; and the connector that it is of."""

from __future__ import annotations

from datetime import date
from functools import partial
from typing import get_args

from PySide6.QtWidgets import QCheckBox, QHBoxLayout

from tonleiter.app.spaces.wire.rows import Rows
from tonleiter.app.widgets.labels import button
from tonleiter.core.gear.figure import OHMS, VOLTS, Figure
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station.contact_facts import Standing, standing
from tonleiter.core.station.devices import Contact, Role
from tonleiter.core.station.pinout import End
from tonleiter.core.station.shells import JACKS, SHELLS
from tonleiter.core.words import the

NOTHING, OWN = "", "own"
_BASES = (("typical", "typical"), ("from the manual", "manual"), ("measured", "measured"))
# what a contact is taken to stand behind where somebody says volts only
BEHIND_OHM = 10e3


def show_contact(rows: Rows, end: End, contact: Contact) -> None:
    """All that can be said of a contact."""
    model = rows.model
    rows.words(f"Contact {contact.label} of {the(end.name)}", "section")
    roles = [(label_of(role), str(role)) for role in get_args(Role)]
    rows.choice(
        "Carries",
        f"What contact {contact.label} carries",
        roles,
        contact.role,
        lambda role: model.set_contact(end, contact.label, role=role),
    )
    gear = model.gear_of(end)
    stands = standing(contact, gear) if gear is not None else None
    if stands is not None or contact.role == "unknown":
        _standing(rows, end, contact, stands or Standing(0.0, BEHIND_OHM, usual=True))
    build = model.build
    now = NOTHING
    for bridge in build.wiring.bridges if build else ():
        if bridge.end == end.id and contact.label in bridge.contacts:
            now = next(c for c in bridge.contacts if c != contact.label)
    others = [(c.label, c.label) for c in end.connector.contacts if c.label != contact.label]
    rows.choice(
        "Joined to",
        f"Contact {contact.label} is joined to",
        [("nothing", NOTHING), *others],
        now,
        lambda other: model.join(end, contact.label, other or now),
    )
    _connector(rows, end)


def _standing(rows: Rows, end: End, contact: Contact, stands: Standing) -> None:
    figures = (
        ("open_v", "Open volts", abs(stands.volts), VOLTS),
        ("through_ohm", "Through", stands.ohm, OHMS),
    )
    for name, title, value, quantity in figures:
        rows.figure(
            title,
            f"{title} of contact {contact.label}",
            quantity,
            getattr(contact, name) or Figure(value=value),
            (f"{end.id}.{contact.label}", name),
            lambda f, name=name: rows.model.set_contact(end, contact.label, **{name: f}),  # type: ignore[misc]
        )
    negative = QCheckBox("stands negative")
    negative.setChecked(contact.negative)
    negative.toggled.connect(
        lambda on: rows.do(lambda: rows.model.set_contact(end, contact.label, negative=on))
    )
    rows.column.addWidget(negative)
    if stands.usual:
        rows.words("usual figures: measure, and say", "caption")


def _connector(rows: Rows, end: End) -> None:
    """Its shell, where its pinout is from, the plug that was put on the lead, its file."""
    model, connector = rows.model, end.connector
    rows.words(f"The connector {connector.name}", "section")
    shells = [(facts.title, token) for token, facts in SHELLS.items()]
    rows.choice(
        "Shell",
        "Shell of the connector",
        shells,
        connector.shell,
        lambda shell: model.reshell(end, shell),
    )
    rows.choice(
        "Sound goes",
        "Which way sound goes by the connector",
        [("as the order says", ""), ("in", "in"), ("out", "out")],
        connector.way or "",
        lambda way: model.set_connector(end, way=way or None),
    )
    _half(rows, end)
    rows.choice(
        "Pinout",
        "Where the pinout is from",
        _BASES,
        connector.basis,
        lambda basis: model.set_connector(end, basis=basis, read_on=date.today().isoformat()),
    )
    family = next((f for f in JACKS if connector.shell in f), ())
    if family:
        now = model.build.wiring.plug(end.id) if model.build else None
        others = [(SHELLS[s].title, s) for s in family if s != connector.shell]
        rows.choice(
            "Plug on the lead",
            "Plug on the lead",
            [("of the socket's form", OWN), *others],
            now or OWN,
            lambda shell: model.put_plug(end, None if shell == OWN else shell),
        )
    line = QHBoxLayout()
    for words, way in (("Import…", "in"), ("Export…", "out")):
        made = button(words, "plain", partial(model.pinout_wanted.emit, end, way))
        made.setAccessibleName(f"{words.rstrip('…')} the pinout")
        line.addWidget(made)
    rows.column.addLayout(line)


def _half(rows: Rows, end: End) -> None:
    """Which half stands on the box; how the figures run where somebody has to read them off."""
    model, connector = rows.model, end.connector
    facts = SHELLS[connector.shell]
    if facts.has_sides:
        rows.choice(
            "On the box",
            "Which half stands on the box",
            [("what is usual", ""), ("pins (male)", "male"), ("holes (female)", "female")],
            connector.half or "",
            lambda half: model.set_connector(end, half=half or None),
        )
    if facts.ring:
        rows.choice(
            "Moulded figures",
            "How the figures run where one solders, from the key on",
            [
                ("nobody has looked", ""),
                ("clockwise from the key", "clockwise"),
                ("anticlockwise from the key", "anticlockwise"),
            ],
            connector.counted or "",
            lambda counted: model.set_connector(end, counted=counted or None),
        )
