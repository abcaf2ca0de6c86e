"""Where things stand on a sheet: nothing on anything, lines straight and past strangers."""

import pytest

from tests.core.drawing.test_one_thing import BEFORE, CASES, built
from tonleiter.core.drawing.sheet import (
    Bar,
    Case,
    Dot,
    Pin,
    Sheet,
    Symbol,
    Terminal,
    Text,
    Wire,
)
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.catalogue import KINDS

# a line may touch the edge of a body, where its pin is
EDGE = 0.1


def body(symbol):
    along, across = symbol.half
    wide, high = (across, along) if symbol.upright else (along, across)
    return symbol.x - wide, symbol.y - high, symbol.x + wide, symbol.y + high


def of_wire(wire):
    xs, ys = sorted((wire.x0, wire.x1)), sorted((wire.y0, wire.y1))
    return xs[0], ys[0], xs[1], ys[1]


def overlap(one, other):
    return (
        one[0] < other[2] - EDGE
        and other[0] < one[2] - EDGE
        and one[1] < other[3] - EDGE
        and other[1] < one[3] - EDGE
    )


def enters(line, box):
    """A line has no width: it is in a body where it lies inside of its edges."""
    return (
        line[0] < box[2] - EDGE
        and line[2] > box[0] + EDGE
        and line[1] < box[3] - EDGE
        and line[3] > box[1] + EDGE
    )


def on_each_other(sheet):
    """What stands where something else does, in words."""
    for k, symbol in enumerate(sheet.symbols):
        for other in sheet.symbols[k + 1 :]:
            if overlap(body(symbol), body(other)):
                yield f"{symbol.kind} on {other.kind}"
        mine = {p.node for p in symbol.pins}
        for wire in sheet.wires:
            if wire.node not in mine and enters(of_wire(wire), body(symbol)):
                yield f"a wire of {wire.node} through {symbol.kind}"
    for wire in sheet.wires:
        if wire.x0 != wire.x1 and wire.y0 != wire.y1:
            yield f"a wire of {wire.node} is slanted"
    words = [(t.x, t.y) for t in sheet.texts]
    if len(set(words)) < len(words):
        yield "words on words"


@pytest.mark.parametrize(("piece", "plug"), CASES)
def test_nothing_stands_on_anything(piece, plug):
    sheet = draw_stage(piece, built(piece, BEFORE[plug]), BEFORE[plug])
    assert list(on_each_other(sheet)) == []
    room = sheet.box()
    for symbol in sheet.symbols:
        left, top, right, bottom = body(symbol)
        assert room.x0 < left and right < room.x1
        assert room.y0 < top and bottom < room.y1
        # its legs are straight
        for pin in symbol.pins:
            assert left <= pin.x <= right or top <= pin.y <= bottom


@pytest.mark.parametrize(
    ("piece", "plug"), [c for c in CASES if c.values[0].kind_id != "own-circuit"]
)
def test_what_has_two_legs_stands_midway_between_them(piece, plug):
    """A box has its legs at one side; somebody's own circuit is laid out by rows."""
    sheet = draw_stage(piece, built(piece, BEFORE[plug]), BEFORE[plug])
    for symbol in sheet.symbols:
        if len(symbol.pins) == 2 and symbol.kind != "block":
            one, other = symbol.pins
            middle = ((one.x + other.x) / 2, (one.y + other.y) / 2)
            assert (symbol.x, symbol.y) == pytest.approx(middle), symbol.kind


@pytest.mark.parametrize("plug", list(BEFORE))
def test_a_screen_of_its_own_ends_before_a_transformer_and_only_that(plug):
    piece = KINDS["transformer"](id="x", name="x")
    inlet = built(piece, BEFORE[plug]).inlet
    sheet = draw_stage(piece, built(piece, BEFORE[plug]), BEFORE[plug])
    ends = [t for t in sheet.texts if t.words == "screen ends here"]
    assert bool(ends) == (inlet.screen is not None and inlet.screen != inlet.cold)


def resistor(x, y, upright=False, place="R"):
    ends = (("p", x, y - 2), ("n", x, y + 2)) if upright else (("p", x - 2, y), ("n", x + 2, y))
    pins = tuple(Pin(name, name, px, py) for name, px, py in ends)
    return Symbol("resistor", pins, frozenset({place}), place, x, y, upright=upright, label="none")


def test_what_stands_on_something_is_found():
    """The net that the test above is: of each kind one."""
    apart = Sheet(symbols=(resistor(0, 0), resistor(0, 2)))
    assert list(on_each_other(apart)) == []
    assert list(on_each_other(Sheet(symbols=(resistor(0, 0), resistor(2.5, 0.5))))) == [
        "resistor on resistor"
    ]
    through = Sheet(symbols=(resistor(0, 0),), wires=(Wire("x", -4, 0.2, 4, 0.2),))
    assert list(on_each_other(through)) == ["a wire of x through resistor"]
    slanted = Sheet(wires=(Wire("x", 0, 0, 1, 1),))
    assert list(on_each_other(slanted)) == ["a wire of x is slanted"]
    twice = Sheet(texts=(Text(0, 0, "a", "note"), Text(0, 0, "b", "note")))
    assert list(on_each_other(twice)) == ["words on words"]


WHOLE = Sheet(
    symbols=(resistor(4, 2),),
    wires=(Wire("p", 0, 2, 2, 2),),
    dots=(Dot(1, 2),),
    bars=(Bar("0", 6, 5),),
    terminals=(Terminal("p", 0, 2, "hot", "left"),),
    texts=(Text(3, -1, "9 V", "volts"),),
    cases=(Case(-2, -3, 8, 7, "tin"),),
)


def test_a_box_goes_round_all_of_it():
    room = WHOLE.box()
    # the case stands outermost: one unit round it, a little more below
    assert (room.x0, room.y0, room.x1, room.y1) == (-3, -4, 9, 8.2)
    assert (room.width, room.height) == (12, 12.2)
    # letters are some three quarters of a unit wide, to the side that they run to
    for align, left, right in (("left", 0, 8), ("right", -8, 0), ("middle", -4, 4)):
        said = Sheet(texts=(Text(0, 0, "ten letter", "note", align),)).box()
        assert (said.x0, said.x1) == pytest.approx((min(left, 0) - 1, max(right, 0) + 1))
    # a name beside a part takes room
    named = Symbol("resistor", resistor(0, 0).pins, frozenset("R"), "R", 0, 0, label="right")
    assert Sheet(symbols=(named,)).box().x1 > Sheet(symbols=(resistor(0, 0),)).box().x1 + 2


def test_a_sheet_is_moved_with_all_that_is_on_it_and_put_beside_another():
    there = WHOLE.moved(10, -3)
    assert there.symbols[0].x == 14 and there.symbols[0].pins[0].y == -1
    assert there.wires[0] == Wire("p", 10, -1, 12, -1)
    assert (there.dots[0], there.bars[0]) == (Dot(11, -1), Bar("0", 16, 2))
    assert (there.terminals[0].x, there.terminals[0].y) == (10, -1)
    assert (there.texts[0].x, there.texts[0].y) == (13, -4)
    assert there.cases[0] == Case(8, -6, 18, 4, "tin")
    assert there.moved(-10, 3) == WHOLE
    before, after = WHOLE.box(), there.box()
    assert (after.width, after.height) == pytest.approx((20, 12.2)), "from nothing on"
    both = WHOLE.joined(there)
    assert len(both.symbols) == len(both.cases) == len(both.texts) == len(both.dots) == 2
    assert both.box().x0 == before.x0


def test_parts_are_called_as_the_list_calls_them():
    named = WHOLE.named({"R": "R7", "C": "C1"})
    assert named.symbols[0].ref == "R7"
    assert named.spoken() == "R7 resistor"
    assert WHOLE.symbols[0].pin("n").x == 6
    with pytest.raises(KeyError):
        WHOLE.symbols[0].pin("gate")
