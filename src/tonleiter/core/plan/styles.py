"""House styles: what somebody wants of a plan besides that it works."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

StyleId = Literal["simple", "isolated", "outboard", "battery", "reversible"]


@dataclass(frozen=True)
class Style:
    """A style and how it weighs things."""

    id: StyleId
    title: str
    says: str
    wants_isolation: bool = False
    wants_outboard: bool = False
    no_mains: bool = False
    nothing_cut: bool = False
    part_weight: float = 1.0


STYLES: dict[StyleId, Style] = {
    s.id: s
    for s in (
        Style("simple", "simple and cheap", "fewest parts that do it", part_weight=2.0),
        Style("isolated", "isolated", "a transformer parts the grounds", wants_isolation=True),
        Style(
            "outboard",
            "with outboard processing",
            "through a box at line level",
            wants_outboard=True,
            part_weight=0.5,
        ),
        Style("battery", "battery only", "nothing in it hangs on the mains", no_mains=True),
        Style(
            "reversible",
            "reversible, nothing cut",
            "the radio and the source stay as they are",
            nothing_cut=True,
        ),
    )
}
assert set(STYLES) == set(get_args(StyleId))
