"""A bridged loudspeaker output whose leg is grounded by what is plugged into it."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.more_pads import UPad
from tonleiter.core.gear.net import BridgeLeg
from tonleiter.core.gear.pad_shapes import design_pad
from tonleiter.core.gear.passives import Transformer
from tonleiter.core.judge.findings.case import LARGEST_CORE_DBU, Case, aim_dbu, current_a
from tonleiter.core.judge.findings.codes import HEARD, Meaning, declare
from tonleiter.core.judge.findings.model import BUILD, Finding, Fix
from tonleiter.core.judge.findings.suggestions import bias_words, isolated
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import AMPERE, format_quantity
from tonleiter.core.words import the

BRIDGE_FLOATS = declare("bridge-floats")
BRIDGE_LEG_GROUNDED = declare(
    "bridge-leg-grounded", Meaning(first="isolate", first_words="must be isolated", counts=HEARD)
)
# peaks stay so far under where a small core saturates
CORE_ROOM_DB = 6.0


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
            says=f"Neither leg of {the(name)} is grounded",
            proof=f"{format_quantity(worst, AMPERE, 2)} through its legs at most",
            evidence={"dc_ma": worst * 1e3},
        )
        return

    yield Finding(
        code=BRIDGE_LEG_GROUNDED,
        severity="stop",
        stage=stage.id,
        says=f"A leg of {the(name)} is grounded: both must float",
        proof=f"{format_quantity(worst, AMPERE, 2)} of DC through it, from half its supply",
        evidence={"dc_ma": worst * 1e3},
        fixes=tuple(_isolated(case)),
    )


def _isolated(case: Case) -> Iterator[Fix]:
    """A transformer; where that is too much for its core, or for the radio, a pad before it."""
    # the output itself holds every bias down until it floats
    biased, floats = bool(case.rails()), "lets both legs float"
    bias = bias_words(case, 1) if biased else ""
    yield Fix(f"Add an isolating transformer{bias} behind it", isolated(case, 1, biased), floats)
    out, radio = case.rows[0], case.rows[-1]
    core = Transformer(id="core", name="core").saturation_dbu.value
    too_much_db = out.peak_dbu - (core - CORE_ROOM_DB)
    if radio.gear.input_for() == "microphone" and not any(r.gear.is_pad for r in case.rows):
        too_much_db = max(too_much_db, radio.speech_dbu - aim_dbu(radio))
    bears = 5.0 * math.ceil((out.peak_dbu + CORE_ROOM_DB) / 5.0)
    if core < bears <= LARGEST_CORE_DBU:
        yield Fix(
            f"Add an isolating transformer that bears {signed(bears, 0, plus=True)} dBu{bias}"
            " behind it",
            isolated(case, 1, biased, saturation_dbu=bears),
            "a line transformer: a larger core",
            BUILD,
        )
    z = case.solution.impedances[0]
    designs = design_pad("u-pad", too_much_db + z.loading_loss_db, z.source_ohm, z.load_ohm)
    if too_much_db <= 0 or not designs:
        return
    values, isolate = dict(designs[0].values), isolated(case, 1, biased)

    def pad_first(station: Station) -> Station:
        pad = UPad.model_validate(
            {"id": case.fresh_id("pad"), "name": f"U-pad {too_much_db:.0f} dB", **values}
        )
        return case.insert(isolate(station), 1, pad)

    yield Fix(
        f"Add a U-pad of {too_much_db:.0f} dB behind it, then an isolating transformer{bias}",
        pad_first,
        f"{floats}, and the core sees little",
    )


rules = (bridge_leg_grounded,)
