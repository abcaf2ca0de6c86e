"""A part of a build as a score: which wire runs on which line, and what it meets at each face."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from tonleiter.core.drawing.draft import COLD_LEG, COMMON, HOT
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.drawings import draw_stages
from tonleiter.core.report.together import Together
from tonleiter.core.station.pinout import End
from tonleiter.core.station.shells import SHELLS, Counted, Face, Half, Shell, Spot
from tonleiter.core.wiring.model import Conductor, is_soldered

Side = Literal["left", "right"]
_LEGS = ("hot", "cold", "screen")


@dataclass(frozen=True)
class Strand:
    """A wire at one side: its line in grid units; ``contact`` None where it is cut back."""

    side: Side
    leg: str
    row: float
    contact: str | None
    wire: Conductor

    @property
    def name(self) -> str:
        """As it stands over the line."""
        return self.leg.replace("-", " ")


@dataclass(frozen=True)
class Plug:
    """The plug at one side: whose connector it meets, its shell, which half is on the lead."""

    side: Side
    end: End
    shell: Shell
    half: Half

    def spots(self, face: Face) -> tuple[Spot, ...]:
        """Its contacts as somebody sees them; only those that the box's connector has."""
        known = {c.label for c in self.end.connector.contacts}
        own = self.shell != self.end.connector.shell
        spots = SHELLS[self.shell].face(face, self.half, self.counted)
        return tuple(s for s in spots if own or s.label in known)

    @property
    def counted(self) -> Counted | None:
        """How its figures run where somebody had to look."""
        return self.end.connector.counted if self.shell == self.end.connector.shell else None

    @property
    def has_faces(self) -> bool:
        """Whether it has two faces that can be drawn."""
        return self.is_known and SHELLS[self.shell].has_sides

    @property
    def is_known(self) -> bool:
        """Whether it is known where its contacts stand."""
        return SHELLS[self.shell].is_known(self.counted)

    def title(self) -> str:
        """Its shell in words, and which half where that matters."""
        assumed = ", assumed" if self.end.guessed else ""
        return f"{SHELLS[self.shell].titled(self.half)}{assumed}"

    def words(self, face: Face) -> str:
        """Which half it is, which side one looks at, its key, how to count there."""
        facts = SHELLS[self.shell]
        if facts.along:
            return "You look along it: it is the same from both sides."
        if not self.is_known:
            return (
                f"The {self.half} half, contacts in their order and not where they stand: find each"
                " by the figure moulded beside it."
            )
        side = "front, where it mates" if face == "front" else "solder side"
        return (
            f"The {self.half} half, its {side}: {facts.count_words(face, self.half, self.counted)}."
        )

    def source(self) -> str:
        """Where its pinout is from."""
        if self.end.guessed:
            return "a usual plug: nobody entered it"
        connector = self.end.connector
        date = f", {connector.read_on}" if connector.read_on else ""
        origin = {"manual": "from the manual", "measured": "measured", "typical": "typical"}
        return f"pinout {origin[connector.basis]}{date}"


@dataclass(frozen=True)
class Score:
    """Everything to paint of one part of a build."""

    left: Plug
    right: Plug
    strands: tuple[Strand, ...]
    links: tuple[tuple[Side, str, str, str], ...]
    joined: tuple[tuple[Side, str, str], ...]
    keyed: tuple[Conductor, ...]
    fed: tuple[tuple[Conductor, str], ...]
    keyer: Sheet
    sheet: Sheet
    case: str
    case_joined: bool
    shared: tuple[Together, ...] = ()


def score_of(found: Verdict, at: int, shared: tuple[Together, ...] = ()) -> Score:
    """The score of a part, with what else is soldered in its right plug.

    Raises IndexError for a part that is not there.
    """
    build = found.build
    span = build.spans[at]
    stages = found.assessment.solution.compiled.stages
    inside = [s for s in span.between(stages) if is_soldered(s.gear)]
    sheet = draw_stages(found.assessment.solution, inside).sheet if inside else Sheet()
    sheet = sheet.named(dict(build.refs)) if inside else sheet
    left = _plug(found, span.left, "left")
    right = _plug(found, span.right, "right")
    wires = [c for c in build.wires_in(at % len(build.spans)) if not c.inside]
    strands = [*_strands(found, at, "left", wires), *_strands(found, at, "right", wires)]
    links: list[tuple[Side, str, str, str]] = []
    joined: list[tuple[Side, str, str]] = []
    for plug in (left, right):
        for c in wires:
            if c.leg == "link" and all(at.thing == plug.end.id for at in c.ends):
                one, other = c.ends
                links.append((plug.side, one.label, other.label, c.net))
        joined += [(plug.side, *b.contacts) for b in build.wiring.bridges if b.end == plug.end.id]
    keyed = [c for c in wires if c.of_switch and c.leg in ("transmit", "transmit-ground")]
    case = f"{build.wiring.box} case" if inside else ""
    fed_at = [s.gear.fed_at for s in inside if s.gear.fed_at is not None]
    return Score(
        left,
        right,
        tuple(strands),
        tuple(links),
        tuple(joined),
        tuple(keyed),
        tuple((c, node) for c in wires if c.leg == "bias" for node in fed_at),
        build.keyer if keyed else Sheet(),
        sheet,
        case,
        build.wiring.case_to == "screen",
        tuple(t for t in shared if t.end == right.end.id),
    )


def _plug(found: Verdict, end: End, side: Side) -> Plug:
    shell = found.build.wiring.plug(end.id) or end.connector.shell
    half: Half = end.lead_half if shell == end.connector.shell else "male"
    return Plug(side, end, shell, half)


def _strands(found: Verdict, at: int, side: Side, wires: list[Conductor]) -> list[Strand]:
    build = found.build
    span = build.spans[at]
    stages = found.assessment.solution.compiled.stages
    half: Literal["in", "out"] = "out" if side == "left" else "in"
    box = stages[span.first if side == "left" else span.last]
    splice = build.splices[box.id, half]
    end = span.left if side == "left" else span.right
    rows = {"hot": HOT, "cold": COMMON}
    here = [c for c in wires if c.leg in _LEGS and (c.near if side == "left" else c.far)]
    mine = {c.leg: c for c in here}
    if "screen" in mine and (mine["screen"].start or mine["screen"].end):
        rows = {"hot": HOT, "cold": COLD_LEG, "screen": COMMON}
    found_here = []
    for leg, wire in mine.items():
        if leg not in rows:
            continue
        meets = wire.start if side == "left" else wire.end
        soldered = meets is not None and meets.thing == end.id
        label = splice.landed.get(leg) if soldered or leg != "screen" else None
        by_hand = build.wiring.landing(end.id, leg)
        if label is not None and by_hand is not None and by_hand.contact is not None:
            label = by_hand.contact  # of the plug: the socket's may be called otherwise
        found_here.append(Strand(side, leg, rows[leg], label, wire))
    return found_here
