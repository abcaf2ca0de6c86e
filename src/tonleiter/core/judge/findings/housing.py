"""Rules about the case round a capsule: muffled by slit, foam or a small hole; boxy or tinny."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from tonleiter.core.circuit.ac import Floats
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding, Fix
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.units.quantity import HERTZ, format_quantity

HOUSING_MUFFLES = declare("housing-muffles")
HOUSING_RINGS = declare("housing-rings")
HOUSING_CLEAR = declare("housing-clear")

LOOKED_AT_HZ = np.geomspace(200.0, 4000.0, 60)
MUFFLED_DB = 6.0
RINGS_DB = 6.0
CAUTION = (
    "Take the capsule out before drilling or filing, and keep chips away from it; wear eye"
    " protection."
)


def housing_gain_db(case: Case) -> Floats | None:
    """What the housing does to sound at LOOKED_AT_HZ, in dB; None without a housing."""
    microphone = case.rows[0].gear
    if not isinstance(microphone, SpokenInto) or microphone.housing == "none":
        return None
    linear, system = case.solution.linear, case.solution.linear.system
    last = f"{microphone.id}:tube4" if microphone.recess_mm.value > 0 else f"{microphone.id}:cavity"
    outside = "air" if microphone.pattern == "all-round" else f"{microphone.id}:sound"
    reads = np.stack([system.unit(last), system.unit(outside)], axis=1)
    y = np.abs(linear.adjoint(LOOKED_AT_HZ, reads)[:, system.branch_row[VOICE], :])
    gain: Floats = 20 * np.log10(y[:, 0] / y[:, 1])
    return gain


def housing_colours(case: Case) -> Iterator[Finding]:
    """Treble that the case swallows, or a note that it adds."""
    gain = housing_gain_db(case)
    microphone = case.rows[0].gear
    if gain is None or not isinstance(microphone, SpokenInto):
        return
    low, top = float(gain[0]), float(gain[np.searchsorted(LOOKED_AT_HZ, 2700.0)])
    peak = int(np.argmax(gain))
    rings_hz, rings_db = float(LOOKED_AT_HZ[peak]), float(gain[peak])
    evidence = {"at_200_hz_db": low, "at_2700_hz_db": top, "peak_hz": rings_hz, "peak_db": rings_db}
    fixes = tuple(_openings(case, microphone))
    if top < -MUFFLED_DB:
        yield Finding(
            code=HOUSING_MUFFLES,
            severity="mind",
            stage=microphone.id,
            says=f"The case of the {microphone.name} muffles it",
            proof=f"{-top:.0f} dB are lost on the way in at 2.7 kHz, {abs(low):.0f} dB at 200 Hz",
            evidence=evidence,
            fixes=fixes,
            caution=CAUTION,
        )
    elif rings_db > RINGS_DB and rings_hz < 3000:
        word = "boxy" if rings_hz < 1200 else "tinny"
        yield Finding(
            code=HOUSING_RINGS,
            severity="mind",
            stage=microphone.id,
            says=f"The case of the {microphone.name} rings: {word}",
            proof=f"{rings_db:.0f} dB too much at {format_quantity(rings_hz, HERTZ, 2)}",
            evidence=evidence,
            fixes=fixes,
            caution=CAUTION,
        )
    else:
        yield Finding(
            code=HOUSING_CLEAR,
            severity="fine",
            stage=microphone.id,
            says=f"The case of the {microphone.name} lets speech through",
            proof=f"{low:+.0f} dB at 200 Hz, {top:+.0f} dB at 2.7 kHz".replace("-", "−"),
            evidence=evidence,
        )


def _openings(case: Case, microphone: SpokenInto) -> Iterator[Fix]:
    """The edits that people make with a drill, a gasket and tweezers, and all of them at once."""
    wider = min(max(2 * microphone.opening_mm.value, 6.0), microphone.capsule_mm.value)
    each: list[tuple[str, dict[str, object]]] = []
    if microphone.over_it == "foam":
        each.append(("Take the foam off the opening", {"over_it": "windscreen"}))
    if microphone.recess_mm.value > 0:
        each.append(("Bring the capsule right behind its screen", {"recess_mm": 0.0}))
    if microphone.seal != "sealed":
        each.append(("Seal the capsule to its opening with a gasket", {"seal": "sealed"}))
    if microphone.offset_mm.value > 0:
        each.append(("Put the capsule right behind its opening", {"offset_mm": 0.0}))
    if microphone.opening_mm.value < wider:
        each.append((f"Drill the opening to {wider:g} mm", {"opening_mm": wider}))
    for title, changes in each:
        yield _edit(case, title, changes)
    together = {k: v for _, changes in each for k, v in changes.items()}
    if len(each) > 1:
        first = each[-1][0] if "opening_mm" in together else each[0][0]
        rest = ", ".join(title[0].lower() + title[1:] for title, _ in each if title != first)
        yield _edit(case, f"{first}, {rest}", together)


def _edit(case: Case, title: str, changes: dict[str, object]) -> Fix:
    def apply(station: object) -> object:
        for field, value in changes.items():
            station = case.set_value(station, 0, field, value)  # type: ignore[arg-type]
        return station

    return Fix(title, apply)  # type: ignore[arg-type]


rules = (housing_colours,)
