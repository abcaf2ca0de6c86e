"""The wiring of a solved chain as plain data and as a parts list in CSV (RFC 4180)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

from tonleiter.core.gear.parts import Part
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.report.finite import all_finite, finite
from tonleiter.core.station.model import Drawer
from tonleiter.core.units.quantity import FARAD, OHM, QuantityError, parse_quantity

# how a wire's end is written that is soldered to nothing
AIR = "air"


def wiring_report(found: Verdict) -> dict[str, Any]:
    """Nets, conductors, parts, what is left over, findings; keys carry units."""
    build, solution = found.build, found.assessment.solution
    drawer = found.assessment.station.drawer
    keying = build.keying
    return {
        "station": found.assessment.station.title,
        "chain": solution.compiled.chain.id,
        "variant": solution.compiled.variant.id,
        "nets": [
            {
                "name": n.name,
                "contacts": list(n.contacts),
                "dc_v": finite(n.dc_v),
                "speech_dbu": finite(n.speech_dbu),
            }
            for n in build.nets
        ],
        "conductors": [
            {
                "from": c.start or AIR,
                "to": c.end or AIR,
                "net": c.net,
                "colour": c.colour,
                "length_m": c.length_m,
                "wire": c.key or None,
            }
            for c in build.conductors
        ],
        "parts": [
            {
                "name": p.name,
                "value": p.value,
                "rating": p.note or None,
                "count": p.count,
                "refs": list(p.refs),
                "have": in_drawer(p, drawer),
            }
            for p in build.parts
        ],
        "transmit": None
        if keying is None
        else {
            "way": keying.way,
            "line_v": finite(keying.line_v),
            "line_a": finite(keying.line_a),
            "resistor_ohm": keying.resistor_ohm,
            "by_accident": keying.by_accident,
        },
        "left_over": [{"contact": x.contact, "role": x.role, "do": x.do} for x in build.leftovers],
        "no_longer_there": list(build.stale),
        "findings": [
            {
                "code": f.code,
                "severity": f.severity,
                "stage": f.stage,
                "place": f.place or None,
                "says": f.says,
                "proof": f.proof,
                "evidence": all_finite(f.evidence),
                "remedies": [{"title": r.title, "effect": r.effect} for r in found.remedies(f)],
            }
            for f in found.found("wiring")
        ],
    }


def in_drawer(part: Part, drawer: Drawer) -> bool:
    """Whether the drawer holds a resistor or capacitor of that value."""
    unit, held = (OHM, drawer.ohms()) if part.name == "resistor" else (FARAD, drawer.farads())
    if part.name != "resistor" and "capacitor" not in part.name:
        return False
    try:
        value = parse_quantity(part.value, unit)
    except QuantityError:
        return False
    return any(abs(h - value) <= 1e-6 * value for h in held)


def parts_csv(parts: Iterable[Part], drawer: Drawer) -> str:
    """The parts list, a line a part, with a heading."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(["refs", "count", "name", "value", "rating", "in the drawer"])
    for part in parts:
        have = "yes" if in_drawer(part, drawer) else "no"
        writer.writerow([" ".join(part.refs), part.count, part.name, part.value, part.note, have])
    return text.getvalue()
