"""Plans of what keys a transmitter from a serial port."""

from __future__ import annotations

from tonleiter.core.circuit.elements import Bipolar
from tonleiter.core.drawing.draft import COMMON, HOT, Draft
from tonleiter.core.drawing.sheet import Pin

LINE, RAIL = -4.0, -11.0


def serial_transistor(d: Draft) -> None:
    """The resistor along the port's line, the diode at the base, the collector up to the line."""
    base, ground = d.node("base"), d.net.inlet.chassis
    d.inlet()
    d.row(base, HOT)
    d.row(d.net.outlet.hot, LINE)
    d.along("base_r", 4, nodes=(d.net.inlet.hot, base))
    d.upright("reverse", 10, nodes=(base, ground), kind="diode-up")
    d.transistor("transistor", 15, HOT)
    d.outlet(24, LINE)


def serial_opto(d: Draft) -> None:
    """LED and transistor in one body; the two grounds stay apart."""
    anode, ground, out = d.node("anode"), d.net.inlet.chassis, d.net.outlet
    d.inlet()
    d.row(anode, HOT)
    d.row(out.hot, HOT)
    d.row(out.chassis, COMMON)
    d.along("led_r", 4, nodes=(d.net.inlet.hot, anode))
    d.upright("reverse", 10, nodes=(anode, ground), kind="diode-up")
    photo = d.element("photo")
    assert isinstance(photo, Bipolar)
    pins = (
        Pin("A", anode, 15, HOT),
        Pin("K", ground, 15, COMMON),
        Pin("C", photo.collector, 21, HOT),
        Pin("E", photo.emitter, 21, COMMON),
    )
    d.several("opto", "opto-coupler", (18, 6), pins, label="above", half=(3.0, 4.0))
    for name, x, y, align in (
        ("A", 15.3, HOT + 1.6, "left"),
        ("K", 15.3, COMMON - 0.4, "left"),
        ("C", 20.7, HOT + 1.6, "right"),
        ("E", 20.7, COMMON - 0.4, "right"),
    ):
        d.pin_words(name, x, y, align)
    d.outlet(26)


def serial_relay(d: Draft) -> None:
    """The coil between the supply and the transistor, its diode beside it, the contact apart."""
    base, foot, rail = d.node("base"), d.node("foot"), d.node("rail")
    ground, out = d.net.inlet.chassis, d.net.outlet
    d.inlet()
    d.row(base, HOT)
    d.row(foot, LINE)
    d.row(rail, RAIL)
    d.row(out.hot, LINE)
    d.row(out.chassis, COMMON)
    d.along("base_r", 4, nodes=(d.net.inlet.hot, base))
    d.upright("reverse", 10, nodes=(base, ground), kind="diode-up")
    d.transistor("transistor", 15, HOT)
    d.upright("catch", 14, nodes=(rail, foot), kind="diode-up", label="left")
    d.contact(rail, 4, "+12 V")
    pins = (
        Pin("A1", rail, 21, RAIL),
        Pin("A2", foot, 21, LINE),
        Pin("13", out.hot, 27, LINE),
        Pin("14", out.chassis, 27, COMMON),
    )
    d.several("relay", "relay", (24, (RAIL + LINE) / 2), pins, label="above", half=(3.6, 2.6))
    for name, x, y, align in (
        ("A1", 20.6, RAIL + 1.6, "right"),
        ("A2", 20.6, LINE - 0.6, "right"),
        ("13", 27.4, LINE - 0.6, "left"),
        ("14", 27.4, COMMON - 0.6, "left"),
    ):
        d.pin_words(name, x, y, align)
    d.outlet(32, LINE)
