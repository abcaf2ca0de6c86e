"""Plans of what is soldered with transistors, amplifiers and batteries."""

from __future__ import annotations

from tonleiter.core.circuit.elements import Bipolar
from tonleiter.core.drawing.draft import COMMON, HOT, Draft
from tonleiter.core.drawing.sheet import Pin

RAIL, COLLECTOR, EMITTER = -10.0, -4.0, 4.0


def _battery(d: Draft, x: float, rail: float, part: str = "battery", node: str = "rail") -> None:
    """Between the rail and a foot of its own."""
    d.upright(
        part, x, nodes=(d.node(node), d.common), kind="battery", y0=rail, bar=rail + 5, value=None
    )


def bias_feed(d: Draft) -> None:
    """Battery, what filters it, the resistor down to the line, a capacitor onwards."""
    line, out, rail = d.net.inlet.hot, d.net.outlet.hot, d.node("rail")
    top = -8.0
    d.inlet()
    d.row(out, HOT)
    feed, x = rail, 3.0
    if d.has("regulator"):
        raw = d.node("raw")
        d.row(raw, top)
        d.row(rail, top)
        d.upright("battery", x, nodes=(raw, d.common), kind="battery", bar=top + 5)
        d.upright("before", 10, bar=top + 5)
        pins = (
            Pin("in", raw, 15, top),
            Pin("out", rail, 21, top),
            Pin("gnd", d.common, 18, top + 3),
        )
        d.foot(d.common, 18, top + 3)
        d.several("regulator", "regulator", (18, top), pins, label="above", half=(3.0, 1.6))
        d.upright("behind", 23, bar=top + 5)
        x = 30.0
    elif d.has("battery"):
        d.row(rail, top)
        d.upright("battery", x, nodes=(rail, d.common), kind="battery", bar=top + 5)
        x = 10.0
    else:
        d.row(rail, top)
        d.contact(rail, x, "the radio's bias contact")
        x = 10.0
    if d.has("filter_r"):
        feed = d.node("clean")
        d.row(feed, top)
        d.along("filter_r", 9)
        if d.has("filter_c"):
            d.upright("filter_c", 14, bar=top + 5)
        if d.has("diode"):
            d.upright("diode", 14, nodes=(feed, d.common), kind="zener", bar=top + 5)
        x = 21.0
        d.volts(feed, 12.4, top - 0.5)
    d.upright("resistor", x, nodes=(feed, line))
    d.volts(line, x - 0.5, 1.6, "right")
    d.along("coupling", x + 6, nodes=(line, out))
    d.upright("bleed", x + 12)
    d.outlet(x + 18)


def _supply_and_load(d: Draft, x: float, upper: str, out_node: str) -> None:
    rail = d.node("rail")
    d.row(rail, RAIL)
    d.row(out_node, COLLECTOR)
    _battery(d, 3, RAIL)
    d.upright("decouple", x + 6, nodes=(rail, d.common), bar=RAIL + 5)
    d.upright(upper, x, nodes=(rail, out_node))


def _emitter(d: Draft, x: float, foot: str, resistor: str) -> None:
    """A resistor at the foot of a transistor, and its capacitor if it is bypassed."""
    d.upright(resistor, x)
    d.volts(foot, x + 1.4, d.row_of(foot) - 0.4)
    if d.has("bypass"):
        d.upright("bypass", x + 7)


def _couple_out(d: Draft, x: float, start: str) -> None:
    out = d.net.outlet.hot
    d.row(out, COLLECTOR)
    d.along("c_out", x, nodes=(start, out), y=COLLECTOR)
    d.upright("bleed", x + 6)
    d.outlet(x + 12, COLLECTOR)


def bipolar(d: Draft) -> None:
    """Common emitter: divider at the base, collector to the output."""
    base, collector, emitter = d.node("base"), d.node("collector"), d.node("emitter")
    d.inlet()
    d.row(base, HOT)
    d.row(emitter, EMITTER)
    d.along("c_in", 4, nodes=(d.net.inlet.hot, base))
    _supply_and_load(d, 19, "collector_r", collector)
    d.upright("upper", 9, nodes=(d.node("rail"), base))
    d.upright("lower", 9, nodes=(base, d.common))
    d.transistor("transistor", 16, HOT)
    d.volts(base, 9.6, 1.6)
    d.volts(collector, 23.4, COLLECTOR + 1.6)
    _emitter(d, 19, emitter, "emitter_r")
    _couple_out(d, 30, collector)


def jfet(d: Draft) -> None:
    """Common source, biased by its source resistor."""
    gate, drain, source = d.node("gate"), d.node("drain"), d.node("source")
    d.inlet()
    d.row(gate, HOT)
    d.row(source, EMITTER)
    d.along("c_in", 4, nodes=(d.net.inlet.hot, gate))
    _supply_and_load(d, 19, "drain_r", drain)
    d.upright("gate_r", 9, nodes=(gate, d.common))
    d.transistor("transistor", 16, HOT)
    d.volts(drain, 23.4, COLLECTOR + 1.6)
    _emitter(d, 19, source, "source_r")
    _couple_out(d, 30, drain)


def opamp(d: Draft) -> None:
    """Half the supply from a divider; feedback below, pins of a usual package with eight."""
    rail, half = d.node("rail"), d.node("half")
    plus, minus, leg, drive = d.node("plus"), d.node("minus"), d.node("leg"), d.node("drive")
    out, top, middle = d.net.outlet.hot, -14.0, -8.5
    d.inlet()
    for node, y in (
        (rail, top),
        (half, middle),
        (plus, HOT),
        (minus, 3.0),
        (leg, 7.5),
        (drive, 1.5),
        (out, 1.5),
    ):
        d.row(node, y)
    _battery(d, 3, top)
    d.upright("half_upper", 10, nodes=(rail, half))
    d.upright("half_lower", 10, nodes=(half, d.common), bar=-3.0)
    d.upright("half_c", 16, nodes=(half, d.common), bar=-3.0)
    d.along("bias", 23, nodes=(half, plus), y=middle)
    d.volts(half, 16.6, middle - 0.5)
    d.riser(plus, 26, middle, HOT)
    d.along("c_in", 21, nodes=(d.net.inlet.hot, plus))
    d.touch(plus, 28, HOT)
    dual = d.has_element("spare")
    end, high = ("1", "8") if dual else ("6", "7")
    pins: tuple[Pin, ...] = (
        Pin("3", plus, 28, HOT),
        Pin("2", minus, 28, 3.0),
        Pin(end, drive, 34, 1.5),
        Pin(high, rail, 31, 0.1),
        Pin("4", d.common, 31, 2.9),
    )
    if dual:
        # the other half of the package: 5 on half the supply, 6 joined to 7
        spare = d.node("spare_out")
        d.row(spare, middle + 3.0)
        d.touch(half, 40, middle)
        pins += (
            Pin("5", half, 40, middle),
            Pin("6", spare, 42, middle + 3.0),
            Pin("7", spare, 45, middle + 3.0),
        )
        for number, x, y in (("5", 40.6, middle), ("6", 41.4, middle + 3), ("7", 45.6, middle + 3)):
            d.pin_words(number, x, y + 0.5, "right" if number == "6" else "left")
    d.foot(d.common, 31, 4.9)
    d.riser(d.common, 31, 2.9, 4.9)
    d.several("amplifier", "opamp", (31, 1.5), pins, value="", label="inside", half=(2.0, 2.0))
    for number, x, y, align in (
        ("3", 27.6, -0.4, "right"),
        ("2", 27.6, 2.6, "right"),
        (end, 34.2, 1.0, "left"),
        (high, 31.4, -0.6, "left"),
        ("4", 31.4, 4.4, "left"),
    ):
        d.pin_words(number, x, y, align)
    d.upright("decouple", 37, nodes=(rail, d.common), bar=top + 5)
    feedback = 7.2
    d.riser(minus, 27.2, 3.0, feedback)
    d.along("feedback", 31.6, nodes=(minus, drive), y=feedback, half=4.4, label="below")
    d.riser(drive, 36, 1.5, feedback)
    d.upright("ground_r", 26, nodes=(minus, leg), y0=3.0, label="left")
    d.upright("ground_c", 26, nodes=(leg, d.common), label="left")
    d.volts(drive, 36.6, 1.0)
    d.along("c_out", 43, nodes=(drive, out), y=1.5)
    d.upright("bleed", 48, nodes=(out, d.common))
    d.outlet(54, 1.5)


def desk_microphone(d: Draft) -> None:
    """An element, one of three stages, the volume control."""
    element, base, collector = d.node("element"), d.node("base"), d.node("collector")
    foot, top, rail, cold = d.node("emitter"), d.node("top"), d.node("rail"), d.net.outlet.cold
    out = d.net.outlet.hot
    d.row(cold, COMMON)
    d.row(element, HOT)
    d.row(base, HOT)
    d.row(rail, RAIL)
    d.row(collector, COLLECTOR)
    d.row(top, COLLECTOR)
    _battery(d, 6, RAIL)
    kind = d.items[d.net.name("capsule")].part.name.split()[0]
    d.upright("capsule", 2, nodes=(element, cold), kind=f"capsule-{kind}", value=kind)
    d.along("c_in", 10, nodes=(element, base))
    x = 22.0
    if d.has("first"):
        x = _pair(d, base, foot)
    else:
        d.row(foot, EMITTER)
        d.transistor("transistor", 19, HOT)
        if d.has("base_r"):
            d.riser(base, 14, HOT, COLLECTOR)
            d.along("base_r", 17, nodes=(base, collector), y=COLLECTOR)
        else:
            d.upright("gate_r", 14)
    d.upright("collector_r", x, nodes=(rail, collector))
    d.volts(collector, x + 1.0, COLLECTOR + 1.6)
    _emitter(d, x, foot, "emitter_r" if d.has("emitter_r") else "source_r")
    after = x + (14 if d.has("bypass") else 9)
    d.along("c_out", after, nodes=(collector, top), y=COLLECTOR)
    track, wiper = after + 5, (COLLECTOR + COMMON) / 2
    pins = (
        Pin("1", top, track, COLLECTOR),
        Pin("3", cold, track, COMMON),
        Pin("2", out, track + 2, wiper),
    )
    d.row(out, wiper)
    d.several("volume", "pot", (track, wiper), pins, label="left", half=(0.6, 1.5))
    d.outlet(track + 6, wiper)


def _pair(d: Draft, base: str, foot: str) -> float:
    """Two transistors as one."""
    middle = d.node("middle")
    d.row(middle, 3.0)
    d.row(foot, 7.0)
    d.upright("upper_r", 14, nodes=(d.node("rail"), base))
    d.upright("lower_r", 14, nodes=(base, d.net.outlet.cold))
    d.transistor("first", 20, HOT, label="none")
    d.transistor("transistor", 25, 3.0)
    assert isinstance(d.element("first"), Bipolar)
    return 28.0


def follower_electret(d: Draft) -> None:
    """A capsule of three wires: supply above, output to the right, ground below."""
    drain, source, cold = d.node("drain"), d.node("source"), d.net.outlet.cold
    out = d.net.outlet.hot
    for node, y in ((drain, -7.0), (source, HOT), (cold, COMMON), (out, HOT)):
        d.row(node, y)
    pins = (Pin("+", drain, 3, -3.0), Pin("out", source, 6, HOT), Pin("−", cold, 3, 3.0))
    d.several("capsule", "capsule-3-wire", (3, 0), pins, value="", label="left", half=(2.0, 2.0))
    d.upright("battery", 10, nodes=(drain, cold), kind="battery", bar=-2.5)
    d.volts(source, 11, -0.5)
    d.upright("source_r", 10, nodes=(source, cold))
    d.along("coupling", 18, nodes=(source, out))
    d.outlet(24)
