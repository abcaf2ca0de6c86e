"""Rules about DC where it does harm: through coils and windings, backwards over a capacitor."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from tonleiter.core.circuit.elements import Inductor, Resistor
from tonleiter.core.circuit.readings import read_dc
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Polarised, SeriesFeed, Winding
from tonleiter.core.judge.findings import crystal
from tonleiter.core.judge.findings.case import Case, Rail, current_a
from tonleiter.core.judge.findings.codes import HEARD, Meaning, declare
from tonleiter.core.judge.findings.model import ADD, CHANGE, Finding, Fix
from tonleiter.core.judge.findings.suggestions import blocking_capacitor, leave_out
from tonleiter.core.safety.cautions import caution
from tonleiter.core.units.quantity import AMPERE, VOLT, format_quantity
from tonleiter.core.words import sentence, the

DC_THROUGH_WINDING = declare(
    "dc-through-winding",
    Meaning(winding=True, first="block", first_words="must be blocked", counts=HEARD),
)
CAPACITOR_REVERSED = declare(
    "capacitor-reversed", Meaning(first="block", first_words="must be turned round", counts=HEARD)
)
CORE_MAGNETISED = declare("core-magnetised")
WINDINGS_CLEAR = declare("windings-clear", Meaning(counts=HEARD))
VOLTS_ON_CRYSTAL = declare("volts-on-crystal")

# a rail that gives less than this share of a current is not where it comes from
GIVES_SHARE = 0.2
REVERSED_BELOW_V = -0.2
# so little is a leak's; salt crystals are kept from tens of volts, which thick ceramic ones bear
SEEN_V, SALT_BEARS_V = 0.5, 30.0


def _rail_onto(case: Case, index: int, element: str) -> Rail | None:
    """The bias supply that puts the most volts on a winding of stage ``index``.

    Another one may give more current: into a short before a capacitor, say.
    """
    stage = case.solution.compiled.stages[index]
    ends = next(
        {e.p, e.n}
        for e in case.solution.op.system.circuit.elements
        if e.name == element and isinstance(e, Inductor | Resistor)
    )
    ports = [p for p in (stage.inlet, stage.outlet) if ends & {p.hot, p.cold}]
    pairs = [(p.hot, p.cold) for p in ports or (stage.inlet, stage.outlet)]
    reads = read_dc(case.solution.linear, pairs)

    def volts(rail: Rail) -> float:
        return float(np.max(np.abs(reads.from_source(rail.mark.source)))) * rail.mark.open_v

    return max(case.rails(), key=volts, default=None)


def direct_current_through_winding(case: Case) -> Iterator[Finding]:
    """DC heats or magnetises what should only see audio, and shorts the rail that feeds it."""
    for k, stage in enumerate(case.solution.compiled.stages):
        for mark in stage.marks:
            if not isinstance(mark, Winding):
                continue
            current = abs(current_a(case, mark.element))
            if current <= mark.tolerates_a or _is_series_fed(case, k):
                continue
            if (rail := _rail_onto(case, k, mark.element)) is None:
                continue
            if abs(current_a(case, rail.mark.resistor)) < GIVES_SHARE * current:
                continue  # it comes from elsewhere: from a contact that it was soldered to
            origin = case.rows[rail.stage].name
            pin = case.solution.compiled.stages[rail.stage].inlet
            pin_v = case.solution.op.volts(pin.hot, pin.cold)
            open_text = format_quantity(rail.mark.open_v, VOLT, 2)
            yield Finding(
                code=DC_THROUGH_WINDING,
                severity="stop",
                stage=stage.id,
                says=(
                    f"{open_text} from {the(origin)} would sit on {mark.what} of"
                    f" {the(stage.gear.name)}"
                ),
                proof=(
                    f"{format_quantity(current, AMPERE, 2)} through it; the bias sags from"
                    f" {open_text} to {format_quantity(pin_v, VOLT, 2)}"
                ),
                evidence={
                    "dc_ma": current * 1e3,
                    "bias_open_v": rail.mark.open_v,
                    "bias_loaded_v": pin_v,
                },
                fixes=tuple(_blocking(case, k, rail)),
            )


def _is_series_fed(case: Case, index: int) -> bool:
    """Whether a plate before this stage draws its current through it."""
    before = case.solution.compiled.stages[:index]
    return any(isinstance(m, SeriesFeed) for s in before for m in s.marks)


def _blocking(case: Case, stage: int, rail: Rail) -> Iterator[Fix]:
    towards_radio = rail.stage > stage
    joint = stage if towards_radio else stage - 1
    plus: Literal["input", "output"] = "output" if towards_radio else "input"
    limit = case.purpose.bass_corner_at_most_hz
    feed, capsule = case.rows[rail.stage].gear, case.capsule()
    if feed.role == "between" and feed.feeds not in (None, capsule and capsule.needs.dc):
        yield leave_out(case, rail.stage, why="nothing before it lives on its volts")
    yield blocking_capacitor(case, joint, plus, limit / 4, "keeps the bass")
    if case.solution.compiled.operator.pitch == "deep":
        yield blocking_capacitor(case, joint, plus, limit / 1.25, "thins out a deep voice")


def core_magnetised(case: Case) -> Iterator[Finding]:
    """A plate fed through an interstage primary: its current takes the core a good way to full."""
    for k, stage in enumerate(case.solution.compiled.stages[:-1]):
        if not any(isinstance(m, SeriesFeed) for m in stage.marks):
            continue
        for after in case.solution.compiled.stages[k + 1 :]:
            for mark in after.marks:
                if not isinstance(mark, Winding):
                    continue
                current = abs(current_a(case, mark.element))
                if current <= mark.tolerates_a:
                    continue
                yield Finding(
                    code=CORE_MAGNETISED,
                    severity="mind",
                    stage=after.id,
                    says=(
                        f"The plate current of {the(stage.gear.name)} magnetises the core of"
                        f" {the(after.gear.name)}: bass goes, and it distorts"
                    ),
                    proof=(
                        f"{format_quantity(current, AMPERE, 2)} through {mark.what}; a core without"
                        f" a gap bears {format_quantity(mark.tolerates_a, AMPERE, 2)}"
                    ),
                    evidence={"dc_ma": current * 1e3},
                    fixes=(
                        Fix(
                            "Feed the plate by a resistor, and couple by a capacitor",
                            case.setting(k, {"feed": "shunt"}),
                            "parallel feed: no DC in the core",
                            ADD,
                        ),
                    ),
                    caution=caution(*case.station.hazards(stage.gear)),
                )


def capacitor_reversed(case: Case) -> Iterator[Finding]:
    """An electrolytic with its plus side at the lower DC fails, sometimes loudly."""
    for k, stage in enumerate(case.solution.compiled.stages):
        for mark in stage.marks:
            if not isinstance(mark, Polarised):
                continue
            volts = case.solution.op.volts(mark.p, mark.n)
            if volts >= REVERSED_BELOW_V:
                continue
            of = _WHICH.get(mark.field, "the output capacitor of ")
            yield Finding(
                code=CAPACITOR_REVERSED,
                severity="stop",
                stage=stage.id,
                says=sentence(f"{of}{the(stage.gear.name)} stands the wrong way round"),
                proof=f"its plus side is {format_quantity(-volts, VOLT, 2)} below its minus side",
                evidence={"dc_v": volts},
                fixes=tuple(_turning(case, k, stage.gear, mark.field)),
            )


def _turning(case: Case, k: int, gear: Gear, field: str) -> Iterator[Fix]:
    """The other way round; where the circuit needs it so, one that has no sides."""
    if field:
        turned = _TURNED[getattr(gear, field)]
        yield Fix("Turn it round", case.setting(k, {field: turned}), "", CHANGE)
    elif gear.input_capacitor is not None:
        title = "Use 1 µF of film, which has no plus side"
        yield Fix(title, case.setting(k, {gear.input_capacitor: 1e-6}), "", CHANGE)


# what a polarised capacitor is called by the field that turns it; none turns one at an input
_WHICH = {"plus_side": "", "": "the input capacitor of "}


# the other side of a capacitor, by where its plus side is
_TURNED = {"input": "output", "output": "input", "inside": "outside", "outside": "inside"}


def windings_clear(case: Case) -> Iterator[Finding]:
    """Say so when a bias voltage is about but nothing that matters carries it."""
    if not case.rails():
        return
    for stage in case.solution.compiled.stages:
        windings = [m for m in stage.marks if isinstance(m, Winding)]
        if not windings:
            continue
        worst = max(abs(current_a(case, m.element)) for m in windings)
        if all(abs(current_a(case, m.element)) <= m.tolerates_a for m in windings):
            yield Finding(
                code=WINDINGS_CLEAR,
                severity="fine",
                stage=stage.id,
                says=f"No bias reaches {the(stage.gear.name)}",
                proof="no DC through its winding"
                if worst < 1e-7
                else f"{format_quantity(worst, AMPERE, 2)} through its winding at most",
                evidence={"dc_ma": worst * 1e3},
            )


def volts_on_crystal(case: Case) -> Iterator[Finding]:
    """Bias for an electret stands across a crystal: no current flows, and it is asked about."""
    source = case.rows[0]
    if source.gear.load_takes != "bass" or any(r.gear.feeds == "bias" for r in case.rows):
        return  # of a feed that it does not want another rule speaks
    out = case.solution.compiled.stages[0].outlet
    volts = case.solution.op.volts(out.hot, out.cold)
    rails = case.rails()
    if abs(volts) < SEEN_V or not rails:
        return
    origin = max(rails, key=lambda rail: rail.mark.open_v).stage
    harms = abs(volts) > SALT_BEARS_V
    stands = f"{format_quantity(volts, VOLT, 2)} from {the(case.rows[origin].name)}"
    yield Finding(
        code=VOLTS_ON_CRYSTAL,
        severity="mind" if harms else "fine",
        stage=source.id,
        says=(
            f"{stands} would sit on the crystal of {the(source.name)}, and may spoil it"
            if harms
            else f"{stands} do nothing to {the(source.name)}: a crystal passes no DC"
        ),
        proof=(
            f"a salt crystal is kept below {format_quantity(SALT_BEARS_V, VOLT)} or so"
            if harms
            else "they are there for an electret; what feeds them is part of its load"
        ),
        evidence={"dc_v": volts},
        # a capacitor alone leaks more than a crystal does: it wants a resistor on its side as well
        fixes=(
            (*crystal.phantom_off(case), *_without_boxes(case), *crystal.buffered(case))
            if harms
            else ()
        ),
    )


def _without_boxes(case: Case) -> Iterator[Fix]:
    """A box that feeds other microphones is left out."""
    boxes = [k for k, row in enumerate(case.rows) if row.gear.feeds == "phantom"]
    if boxes:
        yield leave_out(case, *boxes, why="it is for condenser microphones")


rules = (
    direct_current_through_winding,
    core_magnetised,
    capacitor_reversed,
    windings_clear,
    volts_on_crystal,
)
