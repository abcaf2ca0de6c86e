"""Shells of connectors, one record each: its name, where its contacts stand, what they carry.

Places are given once: on the mating face of the *male* half, its key as ``key`` says, in a circle
of radius 1. The female half is its mirror image, and so is the side where one solders: a male's
solder side looks like a female's mating face. Where no published source gives the places they are
not drawn: the figures moulded beside the contacts count, and somebody reads them off.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

Face = Literal["front", "solder-side"]
Half = Literal["male", "female"]
Leg = str  # "hot", "cold" or "screen"; the transmit line's are "transmit" and "transmit-ground"
Way = Literal["in", "out"]
# how the figures run that are moulded on a round shell, seen where one solders, from the key on
Counted = Literal["clockwise", "anticlockwise"]
# what tells which way up a face is held
Key = Literal["key above", "key below", "notch above", "latch below", "longer row above", ""]
# which half stands on a box: always one, or by what the box does there
OnBox = Literal["female", "male", "male where sound leaves", "male on a computer"]
# what a socket has by usage where nobody said it
UsualFor = Literal["balanced", "loose", "line", "computer"]


@dataclass(frozen=True)
class Spot:
    """A contact on a face: its label, and where it is, x to the right and y upwards."""

    label: str
    x: float
    y: float


@dataclass(frozen=True)
class ShellFacts:
    """A kind of shell.

    ``spots`` without a ``source`` are in their order only. ``along`` shells show their contacts one
    behind the other and have no face to confuse. ``legs`` is what its contacts carry by usage or
    standard, ``balanced`` the same for a balanced line; ``ring`` is the number of contacts on the
    circle of a round shell whose figures somebody has to read off.
    """

    token: str
    title: str
    spots: tuple[Spot, ...]
    source: str = ""
    key: Key = ""
    on_box: OnBox = "female"
    along: bool = False
    boxed: bool = False
    standard: bool = False
    ring: int = 0
    most_drawn: int = 13
    legs: Mapping[str, Leg] = field(default_factory=dict)
    balanced: Mapping[str, Leg] = field(default_factory=dict)
    usual_for: UsualFor | None = None

    @property
    def labels(self) -> tuple[str, ...]:
        """Labels of its contacts, in their order."""
        return tuple(s.label for s in self.spots)

    @property
    def form(self) -> str:
        """Its name without what follows the comma, as people say it at the bench."""
        return self.title.partition(",")[0]

    @property
    def has_sides(self) -> bool:
        """Whether it has a front and a solder side that could be taken for each other."""
        return not self.along

    @property
    def only_balanced(self) -> bool:
        """Whether by usage nothing but a balanced line ends in it."""
        return bool(self.balanced) and not self.legs

    def is_known(self, counted: Counted | None = None) -> bool:
        """Whether it is known where its contacts stand: by a source, or because somebody looked."""
        return self.along or bool(self.source) or bool(self.ring and counted)

    def face(
        self, face: Face, half: Half = "male", counted: Counted | None = None
    ) -> tuple[Spot, ...]:
        """Its contacts as somebody sees them who looks at a face of one half.

        In their order on two rows where nobody knows their places.
        """
        if self.along:
            return self.spots
        if not self.is_known(counted):
            return _in_order(self.labels)
        if self.ring and counted and not self.source:
            seen_from_behind = _moulded(self.labels, self.ring, counted)
            return seen_from_behind if face == "solder-side" else _mirrored(seen_from_behind)
        if (face == "front") == (half == "male"):
            return self.spots
        return _mirrored(self.spots)

    def count_words(self, face: Face, half: Half, counted: Counted | None) -> str:
        """How to find its contacts on a face that is known."""
        if not self.ring or self.source or counted is None:
            return in_words(self.face(face, half, counted), self.key)
        turned = {"clockwise": "anticlockwise", "anticlockwise": "clockwise"}
        way = counted if face == "solder-side" else turned[counted]
        first, last = self.labels[0], self.labels[self.ring - 1]
        rest = ", ".join(self.labels[self.ring :])
        middle = f"; {rest} in the middle" if rest else ""
        return f"{self.key}, {way} from it {first} to {last}{middle}"

    def on_lead(self, way: Way, computer: bool = False, on_box: Half | None = None) -> Half:
        """Which half a lead has there; ``way`` is where sound goes by it, seen from the box."""
        if on_box is None:
            male = {
                "female": False,
                "male": True,
                "male where sound leaves": way == "out",
                "male on a computer": computer,
            }[self.on_box]
            on_box = "male" if male else "female"
        return "female" if on_box == "male" else "male"

    def titled(self, half: Half) -> str:
        """Its name with the half, where the two are not the same thing."""
        return f"{self.title}, {half}" if self.has_sides else self.title

    def usual(self, balanced: bool) -> Mapping[str, Leg]:
        """What its contacts carry by usage; empty where nothing is usual."""
        return (self.balanced or self.legs) if balanced else self.legs or self.balanced


def _mirrored(spots: tuple[Spot, ...]) -> tuple[Spot, ...]:
    return tuple(Spot(s.label, -s.x if s.x else 0.0, s.y) for s in spots)


def _ring(labels: str, start_deg: float, step_deg: float, radius: float = 0.62) -> list[Spot]:
    """Contacts on a circle, from an angle at the top, clockwise for a positive step."""
    spots = []
    for k, label in enumerate(labels.split()):
        angle = math.radians(start_deg + k * step_deg)
        spots.append(
            Spot(label, round(radius * math.sin(angle), 6), round(radius * math.cos(angle), 6))
        )
    return spots


def _moulded(labels: tuple[str, ...], ring: int, counted: Counted) -> tuple[Spot, ...]:
    """A round shell as its figures run, key above; what is over stands in the middle."""
    step = 360 / ring * (1 if counted == "clockwise" else -1)
    around = _ring(" ".join(labels[:ring]), step / 2, step, 0.5 if ring < 5 else 0.62)
    return (*around, *(Spot(label, 0.0, 0.0) for label in labels[ring:]))


def _in_order(labels: tuple[str, ...]) -> tuple[Spot, ...]:
    """Contacts by their order alone, in one row or two."""
    if len(labels) <= 4:
        return tuple(_row(" ".join(labels), 0.0, 1.2))
    half = (len(labels) + 1) // 2
    return (
        *_row(" ".join(labels[:half]), 0.32, 1.44),
        *_row(" ".join(labels[half:]), -0.32, 1.44 * max(len(labels) - half - 1, 1) / (half - 1)),
    )


def _row(labels: str, y: float, width: float) -> list[Spot]:
    """Contacts side by side, from left to right."""
    names = labels.split()
    step = width / max(len(names) - 1, 1)
    return [Spot(n, round(-width / 2 + k * step, 6), y) for k, n in enumerate(names)]


def _jack(token: str, title: str, *labels: str, **more: object) -> ShellFacts:
    """A jack, or what else shows its contacts one behind the other, tip first."""
    step = 1.2 / max(len(labels) - 1, 1)
    spots = tuple(Spot(n, round(0.6 - k * step, 6), 0.0) for k, n in enumerate(labels))
    return ShellFacts(token, title, spots, "IEC 60603-11", along=True, **more)  # type: ignore[arg-type]


_TIP = {"tip": "hot", "sleeve": "cold"}
_TIP_RING = {"tip": "hot", "ring": "cold", "sleeve": "screen"}

SHELLS: dict[str, ShellFacts] = {
    s.token: s
    for s in (
        ShellFacts(
            "xlr-3",
            "XLR, 3 contacts",
            (Spot("1", -0.45, 0.3), Spot("2", 0.45, 0.3), Spot("3", 0.0, -0.5)),
            "IEC 61076-2-103",
            "key above",
            "male where sound leaves",
            standard=True,
            balanced={"1": "screen", "2": "hot", "3": "cold"},
            usual_for="balanced",
        ),
        ShellFacts(
            "round-4",
            "round, threaded, 4 contacts",
            tuple(_row("1 2 3 4", 0.0, 1.2)),
            key="key above",
            on_box="male",
            ring=4,
        ),
        ShellFacts(
            "round-8",
            "round, threaded, 8 contacts",
            tuple(_row("1 2 3 4 5 6 7 8", 0.0, 1.4)),
            key="key above",
            on_box="male",
            ring=7,
        ),
        ShellFacts(
            "modular-8",
            "modular, 8 contacts",
            tuple(_row("8 7 6 5 4 3 2 1", 0.1, 1.72)),
            "IEC 60603-7",
            "latch below",
            boxed=True,
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
            "published symbols of the keyboard port",
            "notch above",
        ),
        ShellFacts(
            "din-5",
            "DIN, 5 contacts, 180°",
            tuple(_ring("1 4 2 5 3", 90, -45)),
            "IEC 60130-9",
            "key below",
        ),
        ShellFacts(
            "din-13",
            "DIN, 13 contacts",
            tuple(_row("1 2 3 4 5 6 7 8 9 10 11 12 13", 0.0, 1.6)),
        ),
        ShellFacts(
            "de-9",
            "DE-9",
            (*_row("1 2 3 4 5", 0.25, 1.4), *_row("6 7 8 9", -0.25, 1.05)),
            "IEC 60807-2",
            "longer row above",
            "male on a computer",
            boxed=True,
        ),
        _jack("jack-3.5-mono", "3.5 mm jack, TS", "tip", "sleeve", legs=_TIP),
        _jack(
            "jack-3.5",
            "3.5 mm jack, TRS",
            *("tip", "ring", "sleeve"),
            legs=_TIP,
            balanced=_TIP_RING,
            usual_for="computer",
        ),
        _jack(
            "jack-3.5-four",
            "3.5 mm jack, TRRS",
            *("tip", "ring 1", "ring 2", "sleeve"),
        ),
        _jack(
            "jack-6.35-mono",
            "6.35 mm jack, TS",
            *("tip", "sleeve"),
            legs=_TIP,
            usual_for="line",
        ),
        _jack(
            "jack-6.35",
            "6.35 mm jack, TRS",
            *("tip", "ring", "sleeve"),
            legs=_TIP,
            balanced=_TIP_RING,
        ),
        ShellFacts(
            "two-plugs",
            "two plugs, 2.5 and 3.5 mm",
            tuple(
                Spot(f"{which} {n}", x, y)
                for which, y in (("large", 0.35), ("small", -0.35))
                for n, x in (("tip", 0.6), ("ring", 0.0), ("sleeve", -0.6))
            ),
            "IEC 60603-11",
            along=True,
        ),
        _jack("phono", "phono", "tip", "sleeve", legs=_TIP),
        ShellFacts("usb", "USB", tuple(_row("1 2 3 4", 0.0, 1.0)), boxed=True),
        ShellFacts("usb-a", "USB A", tuple(_row("1 2 3 4", 0.0, 1.0)), boxed=True),
        ShellFacts("usb-b", "USB B", tuple(_row("1 2 3 4", 0.0, 1.0)), boxed=True),
        ShellFacts(
            "usb-c",
            "USB C",
            tuple(
                _row(" ".join(f"{row}{n}" for row in "AB" for n in range(1, 13)), 0.0, 1.7),
            ),
            boxed=True,
        ),
        _jack("coax", "coaxial", "tip", "sleeve"),
        ShellFacts(
            "screw-terminals",
            "screw terminals",
            tuple(_row("1 2 3 4", 0.0, 1.3)),
            "their own figures",
            along=True,
        ),
        ShellFacts(
            "bare-ends",
            "bare ends",
            tuple(_row("1 2 3", 0.0, 1.0)),
            "no shell",
            along=True,
            legs={"1": "hot", "2": "cold"},
            balanced={"1": "hot", "2": "cold", "3": "screen"},
            usual_for="loose",
        ),
    )
}

if TYPE_CHECKING:
    Shell = str
else:
    Shell = Literal[tuple(SHELLS)]


def usual_shell(usage: UsualFor) -> Shell:
    """The shell that is usual for something."""
    return next(s.token for s in SHELLS.values() if s.usual_for == usage)


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


def mirrored_label(shell: Shell, label: str, counted: Counted | None = None) -> str | None:
    """The contact that somebody means who reads a face from the wrong side; None if there is none.

    It stands where the mirror image of the contact would. Of a round shell whose figures nobody has
    read off it is the same either way they run.
    """
    facts = SHELLS[shell]
    spots = facts.face("front", "male", counted or ("clockwise" if facts.ring else None))
    if not facts.has_sides or not facts.is_known("clockwise"):
        return None
    place = {s.label: (s.x, s.y) for s in spots}
    x, y = place[label]
    return next(
        (n for n, (px, py) in place.items() if abs(px + x) < 0.02 and abs(py - y) < 0.02), None
    )


def in_words(spots: tuple[Spot, ...], key: Key) -> str:
    """How to find the contacts of a face: which way it is held, how they are counted there.

    Rows from the top; a single arc from left to right.
    """
    rows: dict[float, list[Spot]] = {}
    for spot in spots:
        near = next((y for y in rows if abs(y - spot.y) < 0.05), spot.y)
        rows.setdefault(near, []).append(spot)
    if len(rows) == 1 or sum(len(r) > 1 for r in rows.values()) < len(rows) - 1 or _is_arc(spots):
        said = " ".join(s.label for s in sorted(spots, key=lambda s: s.x))
        count = f"from left to right {said}"
    else:
        lines = (
            " ".join(s.label for s in sorted(rows[y], key=lambda s: s.x))
            for y in sorted(rows, reverse=True)
        )
        count = f"from the top, left to right: {' / '.join(lines)}"
    return f"{key}, {count}" if key else count


def _is_arc(spots: tuple[Spot, ...]) -> bool:
    """Whether contacts lie on one half of a circle, so that left to right is along it."""
    far = [math.hypot(s.x, s.y) for s in spots]
    return len(spots) > 3 and max(far) - min(far) < 0.01 and min(s.y for s in spots) > -0.01
