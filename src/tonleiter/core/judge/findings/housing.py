"""Rules about the case round a capsule: muffled by slit, foam or a small hole; boxy or tinny."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from tonleiter.core.circuit.ac import Floats
from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.circuit.readings import read
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Diaphragm
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import ADD, CHANGE, Finding, Fix
from tonleiter.core.safety.cautions import caution
from tonleiter.core.solve.compiled import VOICE, compile_chain
from tonleiter.core.solve.solution import ChainSolution, solve_chain
from tonleiter.core.units.quantity import HERTZ, format_quantity
from tonleiter.core.words import sentence, the

HOUSING_MUFFLES = declare("housing-muffles", Meaning(sounds=("muffled",)))
HOUSING_RINGS = declare("housing-rings", Meaning(sounds=("boxy",)))
HOUSING_CLEAR = declare("housing-clear")

LOOKED_AT_HZ = np.geomspace(200.0, 4000.0, 60)
MUFFLED_DB = 6.0
WEATHER = "no way back, and rain and breath get in"
RINGS_DB, RINGS_BELOW_HZ = 6.0, 3000.0


def housing_gain_db(solution: ChainSolution) -> Floats | None:
    """What the housing does to sound at LOOKED_AT_HZ, in dB; None without a housing."""
    marks = solution.compiled.stages[0].marks
    arrives = next((m for m in marks if isinstance(m, Diaphragm)), None)
    if arrives is None:
        return None
    ways = [(arrives.inside, GROUND), (arrives.outside, GROUND)]
    y = np.abs(read(solution.linear, LOOKED_AT_HZ, ways).from_source(VOICE))
    gain: Floats = 20 * np.log10(y[:, 0] / y[:, 1])
    return gain


def housing_colours(case: Case) -> Iterator[Finding]:
    """Treble that the case swallows, or a note that it adds."""
    gain = housing_gain_db(case.solution)
    microphone = case.rows[0].gear
    if gain is None:
        return
    low, top, rings_hz, rings_db = _looked_at(gain)
    evidence = {"at_200_hz_db": low, "at_2700_hz_db": top, "peak_hz": rings_hz, "peak_db": rings_db}
    fixes = tuple(_openings(case, microphone))
    if top < -MUFFLED_DB:
        yield Finding(
            code=HOUSING_MUFFLES,
            severity="mind",
            stage=microphone.id,
            says=f"The case of {the(microphone.name)} muffles it",
            proof=f"{-top:.0f} dB are lost on the way in at 2.7 kHz, {abs(low):.0f} dB at 200 Hz",
            evidence=evidence | {"off_db": -top - MUFFLED_DB},
            fixes=fixes,
            caution=caution("capsule-out", "eyes"),
            at_the_lips=True,
        )
    elif _rings(rings_hz, rings_db):
        word = "boxy" if rings_hz < 1200 else "tinny"
        yield Finding(
            code=HOUSING_RINGS,
            severity="mind",
            stage=microphone.id,
            says=f"The case of {the(microphone.name)} rings: {word}",
            proof=f"{rings_db:.0f} dB too much at {format_quantity(rings_hz, HERTZ, 2)}",
            evidence=evidence | {"off_db": rings_db - RINGS_DB},
            fixes=fixes,
            caution=caution("capsule-out", "eyes"),
            at_the_lips=True,
        )
    else:
        yield Finding(
            code=HOUSING_CLEAR,
            severity="fine",
            stage=microphone.id,
            says=f"The case of {the(microphone.name)} lets speech through",
            proof=f"{low:+.0f} dB at 200 Hz, {top:+.0f} dB at 2.7 kHz".replace("-", "−"),
            evidence=evidence,
        )


def _looked_at(gain: Floats) -> tuple[float, float, float, float]:
    """Gain at 200 Hz and at 2.7 kHz, and where it is highest, with how much."""
    peak = int(np.argmax(gain))
    top = float(gain[np.searchsorted(LOOKED_AT_HZ, 2700.0)])
    return float(gain[0]), top, float(LOOKED_AT_HZ[peak]), float(gain[peak])


def _rings(hertz: float, by_db: float) -> bool:
    return by_db > RINGS_DB and hertz < RINGS_BELOW_HZ


def _is_clear(case: Case, changes: dict[str, object]) -> bool:
    """Whether speech comes in through the case with so much done to it."""
    station = case.setting(0, changes)(case.station)
    gain = housing_gain_db(solve_chain(compile_chain(station, case.chain_id, case.variant_id)))
    if gain is None:
        return True
    _, top, rings_hz, rings_db = _looked_at(gain)
    return top >= -MUFFLED_DB and not _rings(rings_hz, rings_db)


_WORDS: dict[str, Callable[[dict[str, object]], str]] = {
    "foam-off": lambda _: "take the foam off the opening",
    "no-tube": lambda _: "bring the capsule right behind its screen",
    "gasket": lambda _: "seal the capsule to its opening with a gasket",
    "aligned": lambda _: "put the capsule right behind its opening",
    "drilled": lambda changes: f"drill the opening to {changes['opening_mm']:g} mm",
}


def _openings(case: Case, microphone: Gear) -> Iterator[Fix]:
    """The edits that people make with a drill, a gasket and tweezers, and all of them at once."""
    each = [(_WORDS[token](changes), changes) for token, changes in microphone.openings()]
    for words, changes in each:
        yield _edit(case, sentence(words), changes)
    rest = [(w, changes) for w, changes in each if "opening_mm" not in changes]
    done = [w for w, _ in rest]
    others = {k: v for _, changes in rest for k, v in changes.items()}
    drills = [changes["opening_mm"] for _, changes in each if "opening_mm" in changes]
    if len(done) > 1 and _is_clear(case, others):
        yield _edit(case, sentence(", ".join(done)), others)
    elif done and drills:
        # no wider than is needed: there is no way back
        ways = [(mm, others | {"opening_mm": mm}) for mm in drills]
        mm, changes = next((w for w in ways if _is_clear(case, w[1])), ways[-1])
        yield _edit(case, sentence(", ".join([*done, f"drill it to {mm:g} mm"])), changes)


def _edit(case: Case, title: str, changes: dict[str, object]) -> Fix:
    why = WEATHER if "opening_mm" in changes else ""
    family = "drill" if set(changes) == {"opening_mm"} else ""
    # what cannot be undone comes after what can
    effort = ADD if "opening_mm" in changes else CHANGE
    return Fix(title, case.setting(0, changes), why, effort, family)


rules = (housing_colours,)
