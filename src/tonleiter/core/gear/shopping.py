"""A parts list made from what a piece builds, so that circuit, drawing and list are one thing."""

from __future__ import annotations

from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Element,
    Jfet,
    Resistor,
    VoltageSource,
)
from tonleiter.core.gear.net import Polarised, StageNet
from tonleiter.core.gear.parts import COINS, PENNIES, Part
from tonleiter.core.units.quantity import AMPERE, FARAD, OHM, VOLT, format_quantity

# from here on a capacitor of a usual size is an electrolytic
ELECTROLYTIC_FROM_F = 2.2e-6
# a transistor is asked for by the least gain that its maker promises, about half of the usual one
PROMISED_SHARE = 0.5


def parts_of(net: StageNet) -> tuple[Part, ...]:
    """Every element that is a part, in the order in which it was built; strays are none."""
    polarised = {m.element for m in net.marks if isinstance(m, Polarised)}
    found = (
        _part(e, e.name in polarised)
        for e in net.elements
        if e.name not in net.unseen | net.internal
    )
    return tuple(p for p in found if p is not None)


def _part(element: Element, polarised: bool) -> Part | None:
    match element:
        case Resistor(ohm=ohm):
            return Part(1, "resistor", format_quantity(ohm, OHM), PENNIES)
        case Capacitor(farad=farad):
            electrolytic = polarised or farad >= ELECTROLYTIC_FROM_F
            name = "electrolytic capacitor" if electrolytic else "capacitor"
            return Part(1, name, format_quantity(farad, FARAD), PENNIES)
        case Bipolar(model=model):
            kind = "NPN" if model.polarity > 0 else "PNP"
            gain = f"current gain {model.bf * PROMISED_SHARE:.0f} or more"
            return Part(1, f"transistor, small signal, {kind}", gain, COINS)
        case Jfet(model=model):
            full_a = model.beta_a_per_v2 * model.vto_v**2
            values = (
                f"pinch-off about {format_quantity(abs(model.vto_v), VOLT)},"
                f" {format_quantity(full_a, AMPERE)}"
            )
            return Part(1, "FET, junction, N-channel", values, COINS)
        case VoltageSource(dc=dc):
            return Part(1, "battery, holder", f"{dc:g} V", COINS)
    return None
