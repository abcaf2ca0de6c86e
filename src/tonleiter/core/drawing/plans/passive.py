"""Plans of leads, capacitors, pads, transformers and chokes."""

from __future__ import annotations

from tonleiter.core.drawing.draft import COLD_LEG, COMMON, HOT, Draft
from tonleiter.core.drawing.sheet import Pin
from tonleiter.core.gear.passives import Cable


def lead(d: Draft) -> None:
    """Cores and a screen; where the screen is open, it ends on a ring that says so."""
    a, b = d.net.inlet, d.net.outlet
    d.inlet()
    pins = [Pin("in", a.hot, 2, HOT), Pin("out", b.hot, 12, HOT)]
    if b.screen is not None:
        pins += [Pin("in-cold", a.cold, 2, COLD_LEG), Pin("out-cold", b.cold, 12, COLD_LEG)]
        d.row(b.cold, COLD_LEG)
    d.row(b.hot, HOT)
    d.row(b.chassis, COMMON)
    ends = {"source-end": "far", "load-end": "near"}
    screen = d.gear.screen if isinstance(d.gear, Cable) else "both-ends"
    open_at = ends.get(screen, "") if b.screen is not None else ""
    if open_at != "near":
        pins.append(Pin("in-screen", a.chassis, 2, COMMON))
    if open_at != "far":
        pins.append(Pin("out-screen", b.chassis, 12, COMMON))
    words = (f"screen open at its {open_at} end",) if open_at else ()
    d.several("box", "lead", (7, 6), tuple(pins), label="above", words=words, half=(5.0, 7.0))
    d.outlet(14)


def series_capacitor(d: Draft) -> None:
    """In the line."""
    d.inlet()
    d.row(d.net.outlet.hot, HOT)
    d.along("c", 5)
    d.volts(d.net.inlet.hot, 0.6, 1.6)
    d.volts(d.net.outlet.hot, 9.4, 1.6, "right")
    d.outlet(10)


def l_pad(d: Draft, series: str = "series", shunt: str = "shunt") -> None:
    """Series, then shunt."""
    d.inlet()
    d.row(d.net.outlet.hot, HOT)
    d.along(series, 5)
    d.upright(shunt, 10)
    d.outlet(17)


def input_divider(d: Draft) -> None:
    """The same, inside a radio."""
    l_pad(d, "upper", "lower")
    d.case(1.2, -4.5, 16, COMMON + 1.5, "inside the radio")


def t_pad(d: Draft) -> None:
    """Series, shunt, series."""
    middle = d.node("middle")
    d.inlet()
    d.row(middle, HOT)
    d.row(d.net.outlet.hot, HOT)
    d.along("first", 5)
    d.upright("shunt", 10)
    d.along("second", 15)
    d.outlet(20)


def u_pad(d: Draft) -> None:
    """A resistor in each leg, then the shunt between them."""
    d.inlet()
    a, b = d.net.inlet, d.net.outlet
    cold = d.row_of(a.cold)
    d.row(b.hot, HOT)
    d.row(b.cold, cold)
    d.along("leg_hot", 5)
    d.along("leg_cold", 5, y=cold, label="below")
    d.upright("shunt", 10)
    d.outlet(17)


def series_pad(d: Draft) -> None:
    """One resistor."""
    d.inlet()
    d.row(d.net.outlet.hot, HOT)
    d.along("series", 5)
    d.outlet(10)


def trim_pot(d: Draft) -> None:
    """A track across the source, its wiper to the load."""
    a, b = d.net.inlet, d.net.outlet
    d.inlet()
    d.row(b.hot, HOT)
    wiper = (COMMON + HOT) / 2
    pins = (Pin("1", a.hot, 4, HOT), Pin("3", b.cold, 4, COMMON), Pin("2", b.hot, 6, wiper))
    d.touch(b.hot, 13, HOT)
    d.riser(b.hot, 13, HOT, wiper)
    d.touch(b.hot, 6, wiper)
    d.several("pot", "pot", (4, wiper), pins, label="left", half=(0.6, 1.5))
    d.outlet(15)


def transformer(d: Draft) -> None:
    """Two windings with their starts marked, in a case; a screen ends before it."""
    a, b = d.net.inlet, d.net.outlet
    d.inlet()
    d.row(b.hot, HOT)
    d.row(b.cold, COMMON if b.screen is None else COLD_LEG)
    pins = (
        Pin("1", a.hot, 7, HOT),
        Pin("2", a.cold, 7, d.row_of(a.cold)),
        Pin("3", b.hot, 11, HOT),
        Pin("4", b.cold, 11, d.row_of(b.cold)),
    )
    ratio = d.items[d.net.name("transformer")].part.value
    d.several(
        "transformer", "transformer", (9, 3.0), pins, label="above", value=ratio, half=(2.0, 3.0)
    )
    d.volts(a.hot, 1, 1.6)
    d.volts(b.hot, 17.4, 1.6, "right")
    if a.screen is not None and a.screen != a.cold:
        d.note("screen ends here", 1, COMMON + 1.5)
    d.outlet(18)


def choke(d: Draft) -> None:
    """Both conductors on one core."""
    a, b = d.net.inlet, d.net.outlet
    d.inlet()
    d.row(b.hot, HOT)
    d.row(b.cold, COMMON)
    pins = (
        Pin("1", a.hot, 3, HOT),
        Pin("2", b.hot, 11, HOT),
        Pin("3", a.chassis, 3, COMMON),
        Pin("4", b.cold, 11, COMMON),
    )
    d.several("choke", "choke", (7, 6), pins, label="above", half=(3.0, 7.0))
    d.outlet(14)
