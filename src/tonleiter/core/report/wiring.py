"""The wiring of a solved chain as plain data and as a parts list in CSV (RFC 4180)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

from tonleiter.core.gear.parts import Part
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.station.model import Drawer
from tonleiter.core.units.quantity import FARAD, OHM, QuantityError, parse_quantity
from tonleiter.core.wiring.build import Build, build_of
from tonleiter.core.wiring.findings import WiringFinding, findings_of


def wiring_of(assessment: Assessment) -> tuple[Build, tuple[WiringFinding, ...]]:
    """The build of a solved chain, and what was found in it."""
    levels = [row.speech_dbu for row in assessment.rows]
    build = build_of(assessment.station, assessment.solution, levels)
    return build, findings_of(assessment.station, build)


def wiring_report(
    assessment: Assessment, build: Build, findings: Iterable[WiringFinding]
) -> dict[str, Any]:
    """Nets, conductors, parts, what is left over, findings; keys carry units."""
    drawer = assessment.station.drawer
    return {
        "station": assessment.station.title,
        "chain": assessment.solution.compiled.chain.id,
        "variant": assessment.solution.compiled.variant.id,
        "nets": [
            {"name": n.name, "contacts": list(n.contacts), "dc_v": n.dc_v,
             "speech_dbu": n.speech_dbu}
            for n in build.nets
        ],
        "conductors": [
            {"from": c.start, "to": c.end, "net": c.net, "colour": c.colour,
             "length_m": c.length_m}
            for c in build.conductors
        ],
        "parts": [
            {"name": p.name, "value": p.value, "rating": p.note or None, "count": p.count,
             "refs": list(p.refs), "have": in_drawer(p, drawer)}
            for p in build.parts
        ],
        "left_over": [
            {"contact": x.contact, "role": x.role, "do": x.do} for x in build.leftovers
        ],
        "findings": [
            {"code": f.code, "severity": f.severity, "place": f.place, "says": f.says,
             "proof": f.proof, "remedy": f.remedy or None}
            for f in findings
        ],
    }  # fmt: skip


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
