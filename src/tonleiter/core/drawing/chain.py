"""Several stages on one sheet, joined where their connectors are, in strips of a width."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from tonleiter.core.drawing.sheet import Sheet, Terminal, Text, Wire

STRIPS_APART = 2.0
_LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


def in_strips(sheets: Sequence[Sheet], most_width: float = float("inf")) -> Sheet:
    """Stages one behind the other; where the width ends, the next strip begins below.

    A joint that is broken so has the same letter at both its ends.
    """
    strips: list[Sheet] = []
    now: Sheet | None = None
    end = 0.0
    breaks = 0
    for sheet in sheets:
        width = sheet.box().x1
        if now is not None and end + width > most_width:
            letter = _LETTERS[breaks % len(_LETTERS)]
            breaks += 1
            strips.append(_lettered(now, letter, "right"))
            now, end = _lettered(sheet, letter, "left"), _end_of(sheet)
        elif now is None:
            now, end = sheet, _end_of(sheet)
        else:
            now = _behind(now, sheet.moved(end, 0.0))
            end += _end_of(sheet)
    if now is not None and not strips:
        return now
    if now is not None:
        strips.append(now)
    whole, y = Sheet(), 0.0
    for strip in strips:
        box = strip.box()
        whole = whole.joined(strip.moved(0.0, y - box.y0))
        y += box.height + STRIPS_APART
    return whole


def _end_of(sheet: Sheet) -> float:
    """Where the right terminals stand."""
    return max((t.x for t in sheet.terminals if t.side == "right"), default=sheet.box().x1)


def _behind(before: Sheet, after: Sheet) -> Sheet:
    """Join the right terminals of one to the left ones of the other, by their nodes."""
    ends = {t.node: t for t in before.terminals if t.side == "right"}
    starts = [t for t in after.terminals if t.side == "left"]
    wires: list[Wire] = []
    gone: list[Terminal] = []
    for start in starts:
        end = ends.get(start.node)
        if end is None or end.x != start.x:
            continue
        gone.append(start)
        if end.y != start.y:
            wires.append(Wire(start.node, start.x, end.y, start.x, start.y))
    kept = tuple(t for t in after.terminals if t not in gone)
    # the joint that stays is inside now: it has no side to go on at
    inner = tuple(replace(t, side="left") if t.side == "right" else t for t in before.terminals)
    joined = replace(before, terminals=inner).joined(replace(after, terminals=kept))
    return replace(joined, wires=(*joined.wires, *wires))


def _lettered(sheet: Sheet, letter: str, side: str) -> Sheet:
    """The same letter at both ends of a joint that is broken."""
    terminals = [t for t in sheet.terminals if t.side == side and t.leg == "hot"]
    x = max if side == "right" else min
    if not terminals:
        return sheet
    at = x(terminals, key=lambda t: t.x)
    dx, align = (0.7, "left") if side == "right" else (-0.7, "right")
    text = Text(at.x + dx, at.y + 0.4, letter, "rail", align)  # type: ignore[arg-type]
    return replace(sheet, texts=(*sheet.texts, text))
