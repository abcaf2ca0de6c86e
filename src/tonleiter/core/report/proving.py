"""Proving as plain data: readings with brackets, faults, what explains what was read."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from tonleiter.core.prove.prove import Proof
from tonleiter.core.prove.say import remedy

OPEN = "open"


def proof_report(
    proof: Proof, readings: Mapping[str, float] | None, hidden: str | None
) -> dict[str, Any]:
    """Readings, faults, the next reading; ``hidden`` puts a fault on the simulated bench."""
    predicted = proof.predicted
    shown = proof.shown(proof.fault(hidden)) if hidden else None
    rows = []
    for k, r in enumerate(proof.readings):
        value = shown.get(r.id, math.nan) if shown is not None else predicted.nominal[k]
        rows.append(
            {
                "id": r.id,
                "step": r.step,
                "says": r.says,
                "value": _plain(value),
                "low": _plain(predicted.low[k]),
                "high": _plain(predicted.high[k]),
                "unit": r.unit,
                "how": proof.how(r),
            }
        )
    report: dict[str, Any] = {"readings": rows, "faults": [], "next": None}
    if readings is not None:
        ranking = proof.rank(readings)
        report["faults"] = [
            {
                "id": e.fault.id,
                "says": e.fault.says,
                "likelihood": e.likelihood,
                "equals": list(e.equals),
            }
            for e in ranking.explained
        ]
        report["next"] = ranking.next.id if ranking.next else None
        report["suspicious"] = ranking.suspicious
        report["right"] = ranking.right
        report["short"] = ranking.short
        report["headline"] = proof.headline(ranking, readings)
        report["remedy"] = remedy(ranking)
    return report


def faults_report(proof: Proof) -> dict[str, Any]:
    """Every fault that can be hidden, and whether any reading tells it."""
    untold = proof.bench.untold()
    return {
        "faults": [
            {"id": f.id, "says": f.says, "told": f.id not in untold} for f in proof.bench.faults[1:]
        ]
    }


def _plain(value: float) -> float | str | None:
    """JSON knows no infinity: an open pair says so."""
    if math.isnan(value):
        return None
    return OPEN if math.isinf(value) else float(value)
