"""A bridged loudspeaker output whose leg is grounded by what is plugged into it."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.gear.net import BridgeLeg
from tonleiter.core.gear.passives import Transformer
from tonleiter.core.judge.findings.case import Case, current_a
from tonleiter.core.judge.findings.codes import HEARD, Meaning, declare
from tonleiter.core.judge.findings.model import Finding, Fix
from tonleiter.core.station.model import Station
from tonleiter.core.units.quantity import AMPERE, format_quantity

BRIDGE_FLOATS = declare("bridge-floats")
BRIDGE_LEG_GROUNDED = declare(
    "bridge-leg-grounded", Meaning(first="isolate", first_words="must be isolated", counts=HEARD)
)


def bridge_leg_grounded(case: Case) -> Iterator[Finding]:
    """Half the supply drives DC through the grounded leg."""
    stage = case.solution.compiled.stages[0]
    legs = [m for m in stage.marks if isinstance(m, BridgeLeg)]
    if not legs:
        return
    worst = max(abs(current_a(case, m.element)) for m in legs)
    name = case.rows[0].name
    if worst <= legs[0].tolerates_a:
        yield Finding(
            code=BRIDGE_FLOATS,
            severity="fine",
            stage=stage.id,
            says=f"Neither leg of the {name} is grounded",
            proof=f"{format_quantity(worst, AMPERE, 2)} through its legs at most",
            evidence={"dc_ma": worst * 1e3},
        )
        return

    def isolate(station: Station) -> Station:
        gear = Transformer(id=case.fresh_id("isolator"), name="isolating transformer 1:1")
        return case.insert(station, 1, gear)

    yield Finding(
        code=BRIDGE_LEG_GROUNDED,
        severity="stop",
        stage=stage.id,
        says=f"A leg of the {name} is grounded: both must float",
        proof=f"{format_quantity(worst, AMPERE, 2)} of DC through it, from half its supply",
        evidence={"dc_ma": worst * 1e3},
        fixes=(Fix("Add an isolating transformer behind it", isolate, "lets both legs float"),),
    )


rules = (bridge_leg_grounded,)
