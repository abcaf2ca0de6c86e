"""Plans of what is got whole: microphones as symbols, boxes and sockets with what they are."""

from __future__ import annotations

from tonleiter.core.drawing.draft import COLD_LEG, COMMON, HOT, Draft
from tonleiter.core.drawing.sheet import Pin
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Port
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import OHM, VOLT, format_quantity

_CAPSULES = {
    "dynamic-microphone": "capsule-dynamic",
    "electret-2-wire": "capsule-electret",
    "piezo-microphone": "capsule-piezo",
    "carbon-microphone": "capsule-carbon",
}


def capsule(d: Draft) -> None:
    """A microphone's element between hot and cold; a third pin is its shell."""
    out = d.net.outlet
    kind = _CAPSULES[d.gear.kind_id]
    d.row(out.hot, HOT)
    d.row(out.cold, COMMON if out.screen is None else COLD_LEG)
    low = d.row_of(out.cold)
    pins = [Pin("1", out.hot, 4, HOT), Pin("2", out.cold, 4, low)]
    if out.screen is not None:
        d.row(out.screen, COMMON)
        pins.append(Pin("shell", out.screen, 4, COMMON))
    d.several(
        "box",
        kind,
        (4, low / 2),
        tuple(pins),
        value=_element_words(d.gear),
        label="right",
        half=(2.0, 2.0),
    )
    d.volts(out.hot, 12.4, 1.6, "right")
    d.outlet(13)


def _element_words(gear: Gear) -> str:
    for field in ("coil_ohm", "rest_ohm"):
        if field in gear.figures():
            return format_quantity(gear.figure(field).value, OHM)
    if "capacitance_f" in gear.figures():
        quantity, _ = gear.figures()["capacitance_f"]
        return quantity.show(gear.figure("capacitance_f"))
    if (needs := gear.dc_needs()) is not None and needs.draws_a:
        return f"{needs.draws_a * 1e3:.2g} mA"
    return ""


def block(d: Draft) -> None:
    """A case with its name, what matters of it, and its connectors."""
    source, sink = d.gear.role == "microphone", d.gear.role == "input"
    left, right = (0.0 if source else 3.0), 17.0
    pins: list[Pin] = []
    if not source:
        d.inlet()
        pins += _pins(d, d.net.inlet, left, "in")
    out = d.net.outlet
    if not sink:
        d.row(out.hot, HOT)
        pins += _pins(d, out, right, "out")
        d.outlet(20)
    d.several(
        "box",
        "block",
        ((left + right) / 2, 6.0),
        tuple(pins),
        value="",
        label="inside",
        words=(d.gear.name, *block_words(d.gear)),
        half=((right - left) / 2, 8.5),
    )


def _pins(d: Draft, port: Port, x: float, side: str) -> list[Pin]:
    """The conductors of a joint at the wall of a case."""
    legs = [("hot", port.hot, HOT)]
    if port.screen is None:
        legs.append(("cold", port.cold, COMMON))
    else:
        if port.screen != port.cold:
            legs.append(("cold", port.cold, COLD_LEG))
        legs.append(("screen", port.screen, COMMON))
    pins = []
    for leg, node, y in legs:
        if side == "out":
            d.row(node, y)
        pins.append(Pin(f"{side}-{leg}", node, x, y))
    return pins


def block_words(gear: Gear) -> tuple[str, ...]:
    """What one wants to know of a box at its connectors, in a few lines."""
    words = []
    figures = gear.figures()
    if "gain_db" in figures:
        words.append(f"gain {signed(gear.figure('gain_db').value, 0)} dB")
    for field, name in (("z_in_ohm", "input"), ("z_out_ohm", "output")):
        if field in figures:
            words.append(f"{name} {format_quantity(gear.figure(field).value, OHM)}")
    bias_v = gear.bias_on_pin_v()
    if bias_v > 0 and "bias_ohm" in figures:
        through = format_quantity(gear.figure("bias_ohm").value, OHM)
        words += [f"{format_quantity(bias_v, VOLT, 3)} DC on it,", f"through {through}"]
    if gear.phantom_switch() == "on" or gear.feeds == "phantom":
        words.append("48 V through 2 × 6.81 kΩ")
    return tuple(words)
