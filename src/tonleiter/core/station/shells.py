"""Shells of connectors: where each contact stands, seen from the front and from the solder side.

Places are given once, for the mating face of the plug with its key upwards, in a circle of radius
1; the solder side is their mirror image, computed. A socket's mating face mirrors that of its plug.
XLR: IEC 61076-2-103. DIN: IEC 60130-9. Modular: IEC 60603-7. D: IEC 60807-2. Jacks: IEC 60603-11.
Round threaded shells follow no common standard: their makers mould the figures beside the contacts,
and those count.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.station.devices import Shell

Face = Literal["front", "solder-side"]
Half = Literal["plug", "socket"]


@dataclass(frozen=True)
class Spot:
    """A contact on a face: its label, and where it is, x to the right and y upwards."""

    label: str
    x: float
    y: float


@dataclass(frozen=True)
class ShellFacts:
    """A kind of shell: its name, its contacts on the plug's mating face, where its key is.

    ``key_deg`` is counted from the top, clockwise; None for what can be turned. ``coaxial`` shells
    show their contacts one behind the other, and have no solder side to confuse.
    """

    token: Shell
    title: str
    spots: tuple[Spot, ...]
    key_deg: float | None = 0.0
    coaxial: bool = False
    moulded: bool = False

    @property
    def labels(self) -> tuple[str, ...]:
        """Labels of its contacts, in their order."""
        return tuple(s.label for s in self.spots)

    def face(self, face: Face, half: Half = "plug") -> tuple[Spot, ...]:
        """Its contacts as somebody sees them who looks at a face."""
        if self.coaxial or (face == "front") == (half == "plug"):
            return self.spots
        return tuple(Spot(s.label, -s.x, s.y) for s in self.spots)


def _ring(labels: str, start_deg: float, step_deg: float, radius: float = 0.62) -> list[Spot]:
    """Contacts on a circle, from an angle at the top, clockwise for a positive step."""
    spots = []
    for k, label in enumerate(labels.split()):
        angle = math.radians(start_deg + k * step_deg)
        spots.append(
            Spot(label, round(radius * math.sin(angle), 6), round(radius * math.cos(angle), 6))
        )
    return spots


def _row(labels: str, y: float, width: float) -> list[Spot]:
    """Contacts side by side, from left to right."""
    names = labels.split()
    step = width / max(len(names) - 1, 1)
    return [Spot(n, round(-width / 2 + k * step, 6), y) for k, n in enumerate(names)]


def _sleeve(*labels: str) -> tuple[Spot, ...]:
    """Contacts of a jack, tip first."""
    step = 1.2 / max(len(labels) - 1, 1)
    return tuple(Spot(n, round(0.6 - k * step, 6), 0.0) for k, n in enumerate(labels))


SHELLS: dict[Shell, ShellFacts] = {
    s.token: s
    for s in (
        ShellFacts(
            "xlr-3",
            "XLR, 3 contacts",
            (Spot("1", -0.45, 0.3), Spot("2", 0.45, 0.3), Spot("3", 0.0, -0.5)),
        ),
        ShellFacts(
            "round-4",
            "round, threaded, 4 contacts",
            tuple(_ring("1 2 3 4", 45, 90, 0.5)),
            moulded=True,
        ),
        ShellFacts(
            "round-8",
            "round, threaded, 8 contacts",
            (*_ring("1 2 3 4 5 6 7", 205, 360 / 7), Spot("8", 0.0, 0.0)),
            moulded=True,
        ),
        ShellFacts(
            "modular-8", "modular, 8 contacts", tuple(_row("1 2 3 4 5 6 7 8", 0.2, 1.3)), 180
        ),
        ShellFacts(
            "mini-din-6",
            "mini-DIN, 6 contacts",
            (
                Spot("5", -0.3, 0.55),
                Spot("6", 0.3, 0.55),
                Spot("3", -0.62, 0.0),
                Spot("4", 0.62, 0.0),
                Spot("1", -0.22, -0.5),
                Spot("2", 0.22, -0.5),
            ),
            180,
        ),
        ShellFacts("din-5", "DIN, 5 contacts, 180°", tuple(_ring("1 4 2 5 3", 270, 45)), 180),
        ShellFacts(
            "din-13",
            "DIN, 13 contacts",
            (
                *_ring("1 2 3 4 5 6 7 8", 247.5, 32.14, 0.72),
                *_ring("9 10 11 12", 270, 60, 0.4),
                Spot("13", 0.0, 0.0),
            ),
            180,
            moulded=True,
        ),
        ShellFacts(
            "de-9", "DE-9", (*_row("1 2 3 4 5", 0.25, 1.4), *_row("6 7 8 9", -0.25, 1.05)), None
        ),
        ShellFacts(
            "jack-3.5-mono",
            "3.5 mm jack, 2 contacts (TS)",
            _sleeve("tip", "sleeve"),
            None,
            coaxial=True,
        ),
        ShellFacts(
            "jack-3.5",
            "3.5 mm jack, 3 contacts (TRS)",
            _sleeve("tip", "ring", "sleeve"),
            None,
            coaxial=True,
        ),
        ShellFacts(
            "jack-3.5-four",
            "3.5 mm jack, 4 contacts (TRRS)",
            _sleeve("tip", "ring 1", "ring 2", "sleeve"),
            None,
            coaxial=True,
        ),
        ShellFacts(
            "jack-6.35-mono",
            "6.35 mm jack, 2 contacts (TS)",
            _sleeve("tip", "sleeve"),
            None,
            coaxial=True,
        ),
        ShellFacts(
            "jack-6.35",
            "6.35 mm jack, 3 contacts (TRS)",
            _sleeve("tip", "ring", "sleeve"),
            None,
            coaxial=True,
        ),
        ShellFacts(
            "two-plugs",
            "two plugs, 2.5 and 3.5 mm",
            (
                *(
                    Spot(f"large {n}", x, 0.35)
                    for n, x in (("tip", 0.6), ("ring", 0.0), ("sleeve", -0.6))
                ),
                *(
                    Spot(f"small {n}", x, -0.35)
                    for n, x in (("tip", 0.6), ("ring", 0.0), ("sleeve", -0.6))
                ),
            ),
            None,
            coaxial=True,
        ),
        ShellFacts("phono", "phono", _sleeve("tip", "sleeve"), None, coaxial=True),
        ShellFacts("usb", "USB", tuple(_row("1 2 3 4", 0.0, 1.0)), 180, moulded=True),
        ShellFacts("usb-a", "USB A", tuple(_row("1 2 3 4", 0.0, 1.0)), 180, moulded=True),
        ShellFacts(
            "usb-b",
            "USB B",
            (
                Spot("2", -0.3, 0.25),
                Spot("1", 0.3, 0.25),
                Spot("3", -0.3, -0.25),
                Spot("4", 0.3, -0.25),
            ),
            0.0,
            moulded=True,
        ),
        ShellFacts(
            "usb-c",
            "USB C",
            (
                *_row(" ".join(f"A{n}" for n in range(1, 13)), 0.2, 1.7),
                *_row(" ".join(f"B{n}" for n in range(12, 0, -1)), -0.2, 1.7),
            ),
            None,
            moulded=True,
        ),
        ShellFacts("coax", "coaxial", _sleeve("tip", "sleeve"), None, coaxial=True),
        ShellFacts(
            "screw-terminals",
            "screw terminals",
            tuple(_row("1 2 3 4", 0.0, 1.3)),
            None,
            coaxial=True,
        ),
        ShellFacts("bare-ends", "bare ends", tuple(_row("1 2 3", 0.0, 1.0)), None, coaxial=True),
    )
}


# plugs of one family go into each other's sockets, whatever their contacts meet there
JACKS: tuple[tuple[Shell, ...], ...] = (
    ("jack-3.5-mono", "jack-3.5", "jack-3.5-four"),
    ("jack-6.35-mono", "jack-6.35"),
)


def fits(plug: Shell, socket: Shell) -> bool:
    """Whether a plug goes in."""
    return plug == socket or any(plug in family and socket in family for family in JACKS)


def meets(plug: Shell, socket: Shell) -> dict[str, str]:
    """The socket's contact that each contact of a plug meets: fewer springs reach less far.

    A ring of the plug where the socket has none lies in its sleeve.
    """
    own = SHELLS[socket].labels
    return {
        label: label if label in own else _JACK_SAME.get((label, socket), "sleeve")
        for label in SHELLS[plug].labels
    }


# tip and the ring behind it stand at the same depth in all; the sleeve takes what lies behind
_JACK_SAME: dict[tuple[str, Shell], str] = {
    ("ring 1", "jack-3.5"): "ring",
    ("ring", "jack-3.5-four"): "ring 1",
}


def joined_by(plug: Shell, socket: Shell) -> tuple[tuple[str, str], ...]:
    """Pairs of a socket's contacts that a plug with a longer sleeve joins."""
    if plug == socket or len(SHELLS[plug].labels) >= len(SHELLS[socket].labels):
        return ()
    own, met = SHELLS[socket].labels, set(meets(plug, socket).values())
    return tuple((label, "sleeve") for label in own if label not in met)


def mirrored_label(shell: Shell, label: str) -> str | None:
    """The contact that somebody means who reads a face from the wrong side; None if there is none.

    It stands where the mirror image of the contact would.
    """
    facts = SHELLS[shell]
    if facts.coaxial:
        return None
    place = {s.label: (s.x, s.y) for s in facts.spots}
    x, y = place[label]
    return next(
        (n for n, (px, py) in place.items() if abs(px + x) < 0.02 and abs(py - y) < 0.02), None
    )
