"""Chains whose true figures are hidden, read with honest meters; one reading in some is wrong.

Nine ranges in ten must hold the truth; a reading that is wrong by five times its error must be named
where the others tell it well enough, and a right one not be accused; what is proposed to be read
next must lead there sooner than any order. What is said of each is counted: rates, and no faults
of the program.
"""

from __future__ import annotations

import dataclasses
import random
from pathlib import Path

import numpy as np

from fuzz.campaign import Bound, Tally, generator
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.offered import error_of, offered
from tonleiter.core.learn.predict import Drawing, Model
from tonleiter.core.learn.reading import Reading, ReadingError
from tonleiter.core.station.instruments import INSTRUMENTS
from tonleiter.core.station.model import Station

WRONG_BY = 5.0
DRAWS, FEW_DRAWS = 200, 100
ALL = tuple(INSTRUMENTS)
# others tell a reading where they leave it half as wide as its own error
TELLS = 0.5


def _piece(kind: str, name: str, **figures: object) -> dict[str, object]:
    return {"id": name, "name": name, "kind": kind} | figures


def _wide(rng: random.Random, low: float, high: float) -> str:
    """A range that somebody typed."""
    a, b = sorted((rng.uniform(low, high), rng.uniform(low, high)))
    return f"{a:.4g}..{max(b, a + 0.05 * (high - low)):.4g}"


def _station(rng: random.Random) -> Station:
    """A microphone on a lead, what may stand between, a radio: figures typical, typed or ranged."""
    radio = _piece("microphone-socket", "radio", z_in_ohm=rng.choice((200, 600, 2000, 10000)))
    if rng.random() < 0.5:
        radio["wants_dbu"] = _wide(rng, -62, -40)
    source = rng.choice(("dynamic", "electret", "three-wire", "desk"))
    if source == "dynamic":
        first = _piece("dynamic-microphone", "mic", coil_ohm=rng.choice((150, 300, 600)))
        if rng.random() < 0.5:
            first["sensitivity_mv_per_pa"] = _wide(rng, 0.7, 3.0)
    elif source == "electret":
        first = _piece("electret-2-wire", "mic")
        radio |= {"bias_v": rng.choice((5, 8, 9)), "bias_ohm": rng.choice((1000, 2200, 4700))}
        radio["z_in_ohm"] = 600
    elif source == "three-wire":
        first = _piece("amplified-desk-microphone", "mic", turned_up=rng.uniform(0.2, 0.9))
    else:
        first = _piece("dynamic-microphone", "mic", coil_ohm=200)
    between: list[dict[str, object]] = [_piece("cable", "lead", length_m=rng.uniform(1, 5))]
    if source == "dynamic" and rng.random() < 0.5:
        between.append(_piece("capacitor", "block", capacitance_f="10u"))
    elif source == "desk":
        gain = rng.uniform(20, 40)
        between += [
            _piece("amplifier", "amp", gain_db=gain, gain_low_db=0, gain_high_db=60),
            _piece("l-pad", "pad"),
        ]
    pieces = [first, *between, radio]
    stages = [{"gear": p["id"]} for p in pieces]
    return Station.model_validate(
        {
            "title": "Bench",
            "operators": [{"id": "op", "name": "operator"}],
            "gear": pieces,
            "chains": [
                {
                    "id": "c",
                    "name": "chain",
                    "purpose": "ssb-chat",
                    "operator": "op",
                    "distance_mm": rng.choice((25, 40, 60)),
                    "shown": "v",
                    "variants": [{"id": "v", "name": "v", "stages": stages}],
                }
            ],
        }
    )


def _chain(rng: random.Random) -> Assessment | None:
    try:
        return verdict_of(_station(rng)).assessment
    except (CircuitError, ValueError):
        return None


def _read(model: Model, rng: np.random.Generator) -> tuple[list[Reading], Drawing]:
    """What a hidden unit reads with everything, each reading with its error; the unit."""
    unit = model.drawn(model.valid(rng.normal(size=(1, len(model.parameters)))))
    stages = [s.id for s in model.assessment.solution.compiled.stages]
    bias = any(p.field == "bias_v" for p in model.parameters)
    made = []
    for kind, stage in offered(stages, ALL):
        if kind in ("open", "volts") and not bias:
            continue
        try:
            value = float(unit.reads([Reading(kind, stage, 0.0, 1.0, "")])[0, 0])
        except ReadingError:
            continue
        sd = error_of(kind, abs(value))
        made.append(Reading(kind, stage, value + sd * float(rng.normal()), sd, "as read"))
    return made, unit


def taught(seed: int, bound: Bound, folder: Path) -> Tally:
    """Rates over hidden units; of every second one a reading is wrong."""
    source = generator(seed, "taught")
    tally, rng = Tally("taught"), np.random.default_rng(source.getrandbits(32))
    shrank: list[float] = []
    counts = dict.fromkeys(
        ("right", "knobs held", "figures", "figures held", "accused", "wrong", "named", "told",
         "told named"), 0,
    )  # fmt: skip
    while not bound.reached(tally):
        assessment = _chain(source)
        if assessment is None:
            continue
        model = Model.of(assessment)
        assert isinstance(model.socket, MicrophoneSocket)
        readings, unit = _read(model, rng)
        tally.tried += 1
        if tally.tried % 2:
            # the knob is asked for: half of them are told where it stands as well
            if tally.tried % 4 == 1:
                readings = [r for r in readings if r.kind != "knob"]
            made = learn(model, readings, DRAWS, "knob")
            counts["right"] += 1
            shrank.append(made.after.wide / max(made.before.wide, 1e-9))
            counts["accused"] += bool(made.odd)
            counts["knobs held"] += made.after.low <= float(unit.knob()[0]) <= made.after.high
            for p, taught_ in zip(model.parameters, made.figures, strict=True):
                truth = float(unit.values[p.stage, p.field][0])
                counts["figures"] += 1
                counts["figures held"] += taught_.after.low <= truth <= taught_.after.high
            if made.odd:
                tally.fault("right, and accused", made.says())
            continue
        k = int(rng.integers(len(readings)))
        rest = [r for r in readings if r is not readings[k]]
        off = WRONG_BY * readings[k].sd * float(rng.choice((-1, 1)))
        readings[k] = dataclasses.replace(readings[k], value=readings[k].value + off)
        made = learn(model, readings, DRAWS, "knob")
        named = readings[k] in [o.reading for o in made.odd]
        counts["wrong"] += 1
        counts["named"] += named
        if _tells(model, rest, readings[k]):
            counts["told"] += 1
            counts["told named"] += named
            if not named:
                tally.fault(
                    f"wrong, told by the others, not named: {readings[k].kind}", made.says()
                )
    if shrank:
        counts["median percent of the doubt left"] = round(100 * float(np.median(shrank)))
    tally.notes = ", ".join(f"{count} {what}" for what, count in counts.items())
    return tally


def _tells(model: Model, rest: list[Reading], asked: Reading) -> bool:
    """Whether the others leave a reading no more than half as doubtful as its own error."""
    z = np.random.default_rng(3).normal(size=(DRAWS, len(model.parameters)))
    told = model.drawn(model.valid(z)).reads([*rest, asked])
    both = np.atleast_2d(np.cov(told, rowvar=False))
    errors = np.diag([r.sd**2 for r in rest])
    with_asked = both[:-1, -1]
    left = both[-1, -1] - with_asked @ np.linalg.solve(both[:-1, :-1] + errors, with_asked)
    return float(left) < (TELLS * asked.sd) ** 2


def proposed(seed: int, bound: Bound, folder: Path) -> Tally:
    """How many readings are wanted until no more doubt goes: as proposed, and in any order."""
    source = generator(seed, "proposed")
    tally, rng = Tally("proposed"), np.random.default_rng(source.getrandbits(32))
    shares: list[float] = []
    while not bound.reached(tally):
        assessment = _chain(source)
        if assessment is None:
            continue
        model = Model.of(assessment)
        readings, _ = _read(model, rng)
        whole = learn(model, readings, FEW_DRAWS, "knob")
        aim = whole.after.wide + 0.15 * (whole.before.wide - whole.after.wide)
        if whole.odd or whole.after.wide > 0.8 * whole.before.wide:
            continue  # nothing to be learned here
        tally.tried += 1
        first = _as_proposed(model, readings, aim)
        others = [
            _in_order(model, [readings[k] for k in rng.permutation(len(readings))], aim)
            for _ in range(3)
        ]
        shares.append(first / float(np.mean(others)))
        if first > np.mean(others):
            tally.fault("proposed took longer", f"{first} for {others}")
    if shares:
        tally.notes = f"median {np.median(shares):.2f} of the readings that any order takes"
    return tally


def _as_proposed(model: Model, readings: list[Reading], aim: float) -> int:
    taken: list[Reading] = []
    by_place = {r.place: r for r in readings}
    while len(taken) < len(readings):
        made = learn(model, taken, FEW_DRAWS, "knob")
        if made.after.wide <= aim:
            break
        wanted = next(
            (Reading(n.kind, n.stage, 0.0, 1.0, "").place for n in made.next_
             if Reading(n.kind, n.stage, 0.0, 1.0, "").place in by_place),
            None,
        )  # fmt: skip
        if wanted is None:
            break
        taken.append(by_place.pop(wanted))
    return max(len(taken), 1)


def _in_order(model: Model, readings: list[Reading], aim: float) -> int:
    for count in range(1, len(readings)):
        if learn(model, readings[:count], FEW_DRAWS, "knob").after.wide <= aim:
            return count
    return len(readings)
