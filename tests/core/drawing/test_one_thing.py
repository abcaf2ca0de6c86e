"""Drawing, circuit and parts list are one thing, for every kind of gear as it can be set."""

import itertools
from typing import get_args

import pytest

from tonleiter.core.circuit.elements import OpAmp, Regulator, Resistor
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.drawing.draft import Draft
from tonleiter.core.drawing.stage import PLANS, draw_stage
from tonleiter.core.drawing.traced import faults, loose_ends
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.net import AIR, TIE_OHM, Port, StageNet
from tonleiter.core.gear.shopping import items_of, listed, numbered
from tonleiter.core.match.terms import Terms
from tonleiter.core.plan import search as searching
from tonleiter.core.report.drawings import draw_stages

OWN = """an emitter stage of one's own
V1 rail 0 9
R1 rail b 100k
R2 b 0 22k
R3 rail out 4k7
R4 e 0 1k
C1 in b 680n
C2 e 0 22u
Q1 out b e small
D1 in 0 dio
G1 out 0 b e 1m
.model small NPN (BF=200)
.model dio D
"""


def pieces():
    """Every kind in every combination of its words that build another circuit."""
    for kind, cls in sorted(KINDS.items()):
        base = cls(id="x", name="x", **({"cards": OWN} if kind == "own-circuit" else {}))
        words = {
            f: [w for w in get_args(info.annotation) if isinstance(w, str)]
            for f, info in cls.model_fields.items()
            if f in WORDS.get(kind, ())
        }
        for values in itertools.product(*words.values()):
            set_so = dict(zip(words, values, strict=True))
            name = "-".join([kind, *values])
            yield pytest.param(base.with_values(set_so), id=name)


WORDS = {
    "cable": ("form", "screen"),
    "amplifier": ("input", "output", "phantom"),
    "bias-feed": ("filter", "output_plus"),
    "bipolar-preamp": ("emitter",),
    "jfet-preamp": ("source",),
    "amplified-desk-microphone": ("element", "stage"),
    "dynamic-microphone": ("output",),
    "electret-2-wire": ("housing",),
    "loudspeaker-output": ("output",),
    "capacitor": ("plus_side",),
    "valve-stage": ("feed",),
}
BEFORE = {
    "unbalanced": Port("in", "cold"),
    "balanced": Port("in", "leg", screen="screen"),
}


def built(piece, before):
    inlet = before if piece.takes_balanced() else Port(before.hot, before.cold)
    if piece.role == "microphone":
        inlet = Port(AIR, "0")
    net = StageNet("x", inlet, piece.outlet(inlet))
    piece.build(net)
    return net


def alias(net, before):
    """Nodes that only a tie in a plug parts are one."""
    names = {
        e.p: e.n
        for e in net.elements
        if isinstance(e, Resistor) and e.name in net.unseen and e.ohm <= TIE_OHM
    }
    if before.screen is not None and net.inlet.screen is None:
        names[before.screen] = before.cold
    return names


CASES = [
    pytest.param(p.values[0], name, id=f"{p.id}-{name}")
    for p in pieces()
    for name in (BEFORE if p.values[0].role != "microphone" else ["unbalanced"])
]


@pytest.mark.parametrize(("piece", "plug"), CASES)
def test_who_follows_the_lines_builds_the_circuit(piece, plug):
    before = BEFORE[plug]
    net = built(piece, before)
    sheet = draw_stage(piece, net, before)
    common = Draft(piece, net).common
    assert faults(sheet, alias(net, before), common) == []
    assert loose_ends(sheet) == []


@pytest.mark.parametrize(("piece", "plug"), CASES)
def test_every_element_is_drawn_once_or_a_stray(piece, plug):
    """What the kind itself calls a stray is not drawn; all else is, and with all its ends."""
    net = built(piece, BEFORE[plug])
    sheet = draw_stage(piece, net, BEFORE[plug])
    drawn = [name for s in sheet.symbols for name in s.elements]
    assert len(drawn) == len(set(drawn))
    assert set(drawn) == {e.name for e in net.elements} - net.unseen
    # and with all its ends: a symbol of one element stands on all that element's nodes; the pole of
    # a chip is inside of it
    for symbol in sheet.symbols:
        element = next((e for e in net.elements if e.name == symbol.place), None)
        if element is not None and len(symbol.elements) == 1:
            assert {p.node for p in symbol.pins} == set(nodes_of(element)), symbol
        chip = next((e for e in net.elements if e.name in symbol.elements), None)
        if isinstance(chip, OpAmp):
            inside = {chip.pole}
            assert set(nodes_of(chip)) - inside <= {p.node for p in symbol.pins}, symbol
        if isinstance(chip, Regulator):
            held = net.name("rail")
            ends = {held if n == chip.out else n for n in nodes_of(chip)}
            assert {p.node for p in symbol.pins} == ends, symbol


@pytest.mark.parametrize(("piece", "plug"), CASES)
def test_every_drawn_part_stands_in_the_list_once_and_the_other_way_round(piece, plug):
    net = built(piece, BEFORE[plug])
    items = items_of(piece, net)
    refs = numbered(items)
    sheet = draw_stage(piece, net, BEFORE[plug]).named(refs)
    in_drawing = sorted(s.ref for s in sheet.symbols)
    in_list = sorted(ref for part in listed(items, refs) for ref in part.refs)
    assert in_drawing == in_list
    assert all(in_drawing)
    assert len(set(in_list)) == len(in_list)
    for part in listed(items, refs):
        assert part.count == len(part.refs)


@pytest.mark.long
@pytest.mark.parametrize(
    ("source", "socket", "style"),
    [
        ("stage-dynamic", "hf-set", "isolated"),
        ("piezo-desk", "hf-set", "simple"),
        ("electret-headset", "am-museum", "simple"),
        ("usb-box-out", "fm-mobile", "isolated"),
    ],
)
def test_plans_are_drawn_and_listed_as_they_were_solved(demo, monkeypatch, source, socket, style):
    """Of each plan: one drawing, the same parts, nothing joined that is not."""
    monkeypatch.setattr(searching, "ROUNDS", 1)
    monkeypatch.setattr(searching, "MOST_SOLVES", 80)
    terms = Terms("ssb-chat", "deep-voice", 30.0)
    best = searching.plan(demo, source, socket, terms, style).best
    assert best
    for candidate in best:
        solution = candidate.assessment.solution
        between = [s for s in solution.compiled.stages[1:-1] if not s.gear.lead]
        drawn = draw_stages(solution, between)
        owned = {s.id for s in between if s.id in candidate.owned}
        refs = {ref for part in drawn.parts for ref in part.refs}
        assert refs == {s.ref for s in drawn.sheet.symbols}
        listed_apart = sum(p.count for p in candidate.parts())
        of_the_shelf = sum(len(items_of(s.gear, s.net())) for s in between if s.id in owned)
        assert listed_apart + of_the_shelf == len(refs)
        assert loose_ends(drawn.sheet) == []
        for stage in between:
            net = stage.net()
            sheet = draw_stage(stage.gear, net, stage.inlet)
            assert faults(sheet, alias(net, stage.inlet), Draft(stage.gear, net).common) == []


def test_every_kind_has_a_plan():
    # what keys a transmitter stands in no path of sound, and so on no shelf
    assert set(PLANS) == {*KINDS, "serial-transistor", "serial-opto", "serial-relay"}


def test_a_wrong_line_is_found():
    """The reading back can fail: a wire that shorts two nodes, one that is missing."""
    from dataclasses import replace

    from tonleiter.core.drawing.sheet import Wire

    piece = KINDS["l-pad"](id="x", name="x")
    net = built(piece, BEFORE["unbalanced"])
    sheet = draw_stage(piece, net)
    shorted = replace(sheet, wires=(*sheet.wires, Wire("in", 2, 0, 10, 0)))
    assert any("joined" in f for f in faults(shorted, {}, "cold"))
    apart = replace(sheet, wires=tuple(w for w in sheet.wires if w.node != "cold"))
    assert any("apart" in f for f in faults(apart, {}, "cold"))
    loose = replace(sheet, wires=(*sheet.wires, Wire("in", 1, 0, 1, -3)))
    assert loose_ends(loose) == [(1, -3)]
