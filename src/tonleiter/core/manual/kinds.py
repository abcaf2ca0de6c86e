"""A page for each kind of gear: what it is for, what to watch, its figures."""

from __future__ import annotations

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.figure import Quantity
from tonleiter.core.gear.library import parts_library
from tonleiter.core.manual.page import Block, Heading, Page, Para, Table
from tonleiter.core.manual.texts import table
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.words import sentence, the

GROUP = "Kinds of gear"


def kind_page(kind: str) -> Page:
    """The page of a kind. Raises KeyError."""
    made = KINDS[kind]
    library = [g for g in parts_library().values() if g.kind_id == kind]
    example = library[0] if library else None
    blocks: list[Block] = [Para(sentence(made.what) + "."), Para(table("kinds")[kind])]
    rows = tuple(_row(field, quantity, title, example) for field, quantity, title in _figures(made))
    if rows:
        blocks += [
            Heading("Its figures"),
            Table(rows, ("figure", "unit", f"of {the(example.name)}" if example else "")),
        ]
    if library:
        blocks += [
            Heading("In the library"),
            Table(tuple((g.name,) for g in library)),
        ]
    for hazard in sorted(made.hazards):
        blocks.append(Para(CAUTIONS[hazard], caution=True))
    return Page(f"kind/{kind}", sentence(made.noun), GROUP, tuple(blocks))


def _figures(kind: type[Gear]) -> list[tuple[str, Quantity, str]]:
    return [
        (field, quantity, info.title or field.replace("_", " "))
        for field, (quantity, info) in kind.figures().items()
    ]


def _row(field: str, quantity: Quantity, title: str, example: Gear | None) -> tuple[str, str, str]:
    value = quantity.show(example.figure(field)) if example is not None else ""
    return title, quantity.unit.symbol or "–", value


def kind_pages() -> tuple[Page, ...]:
    """All, in the order of the catalogue."""
    return tuple(kind_page(kind) for kind in KINDS)
