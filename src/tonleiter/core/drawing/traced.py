"""Reading a drawing back as a circuit: what a builder joins who follows the lines."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from tonleiter.core.circuit.joined import Joined
from tonleiter.core.drawing.draft import inside
from tonleiter.core.drawing.sheet import Sheet

Point = tuple[float, float]


def nets_of(sheet: Sheet) -> dict[Point, int]:
    """A number for each point that is a pin, a wire's end, a terminal or a foot; joined ones share.

    All feet stand on one conductor. Crossings of two wires are no joint.
    """
    joined = Joined[Point]()
    points: set[Point] = {(p.x, p.y) for s in sheet.symbols for p in s.pins}
    points |= {(t.x, t.y) for t in sheet.terminals} | {(b.x, b.y) for b in sheet.bars}
    for wire in sheet.wires:
        points |= {(wire.x0, wire.y0), (wire.x1, wire.y1)}
    for wire in sheet.wires:
        start = (wire.x0, wire.y0)
        joined.join((wire.x1, wire.y1), start)
        for at in points:
            if inside(wire, *at):
                joined.join(at, start)
    feet = [(b.x, b.y) for b in sheet.bars]
    for foot in feet[1:]:
        joined.join(foot, feet[0])
    numbers: dict[Point, int] = {}
    return {at: numbers.setdefault(joined.of(at), len(numbers)) for at in points}


def faults(sheet: Sheet, alias: Mapping[str, str], feet_on: str) -> list[str]:
    """Where the lines join other nodes than the circuit does, or leave apart what it joins.

    ``alias`` gives nodes that a mere tie joins one name; ``feet_on`` is the node of the feet.
    """
    nets = nets_of(sheet)
    seen: dict[int, set[str]] = {}
    for at, node in _known(sheet):
        seen.setdefault(nets[at], set()).add(alias.get(node, node))
    common = alias.get(feet_on, feet_on)
    # a foot is common, as a drawing says by its sign: it is joined to the line that ends in the
    # terminals of that node
    line = next((nets[t.x, t.y] for t in sheet.terminals if alias.get(t.node, t.node) == common), 0)
    for bar in sheet.bars:
        number = nets[bar.x, bar.y]
        seen.setdefault(number, set()).add(common)
        seen.setdefault(line, set()).update(seen.pop(number) if number != line else ())
    found = [f"joined: {', '.join(sorted(nodes))}" for nodes in seen.values() if len(nodes) > 1]
    homes: dict[str, set[int]] = {}
    for number, nodes in seen.items():
        for node in nodes:
            homes.setdefault(node, set()).add(number)
    found += [f"apart: {node}" for node, numbers in homes.items() if len(numbers) > 1]
    return found


def _known(sheet: Sheet) -> Iterable[tuple[Point, str]]:
    for symbol in sheet.symbols:
        yield from (((p.x, p.y), p.node) for p in symbol.pins)
    yield from (((t.x, t.y), t.node) for t in sheet.terminals)
    for wire in sheet.wires:
        yield (wire.x0, wire.y0), wire.node
        yield (wire.x1, wire.y1), wire.node


def loose_ends(sheet: Sheet) -> list[Point]:
    """Ends of wires that touch nothing else."""
    found = []
    for wire in sheet.wires:
        for at in ((wire.x0, wire.y0), (wire.x1, wire.y1)):
            touching = sum((p.x, p.y) == at for s in sheet.symbols for p in s.pins)
            touching += sum((t.x, t.y) == at for t in sheet.terminals)
            touching += sum((b.x, b.y) == at for b in sheet.bars)
            touching += sum(
                other is not wire
                and (at in ((other.x0, other.y0), (other.x1, other.y1)) or inside(other, *at))
                for other in sheet.wires
            )
            if touching == 0:
                found.append(at)
    return found
