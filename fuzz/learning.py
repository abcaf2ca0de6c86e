"""Chains whose true figures are hidden, read with honest meters; one reading in some is wrong.

Nine ranges in ten must hold the truth; a reading that is wrong by ten times its error must be named
and a right one not. What is said of each is counted: rates, and no faults of the program.
"""

from __future__ import annotations

import dataclasses
from pathlib import Path

import numpy as np

from fuzz.campaign import Bound, Tally, generator
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.predict import Model
from tonleiter.core.learn.reading import Reading, parse_reading
from tonleiter.core.station.model import Station

WRONG_BY = 10.0
DRAWS = 200


def _stations() -> tuple[Station, ...]:
    """A plain one, one with a preamp and a pad, one with an electret on the radio's volts."""
    radio = {"id": "radio", "name": "radio", "kind": "microphone-socket", "z_in_ohm": 600}
    lead = {"id": "lead", "name": "lead", "kind": "cable", "length_m": 2}
    dynamic = {"id": "mic", "name": "mic", "kind": "dynamic-microphone", "coil_ohm": 300}
    chains = (
        (dynamic, lead, radio),
        (dynamic, lead, {"id": "amp", "name": "amp", "kind": "amplifier", "gain_db": 30,
          "gain_low_db": 10, "gain_high_db": 60},
         {"id": "pad", "name": "pad", "kind": "l-pad"}, radio),
        ({"id": "mic", "name": "mic", "kind": "electret-2-wire"}, lead,
         radio | {"bias_v": 8, "bias_ohm": 2200}),
    )  # fmt: skip
    return tuple(
        Station.model_validate(
            {
                "title": "Bench",
                "operators": [{"id": "op", "name": "operator"}],
                "gear": list(pieces),
                "chains": [
                    {
                        "id": "c", "name": "chain", "purpose": "ssb-chat", "operator": "op",
                        "distance_mm": 25, "shown": "v",
                        "variants": [
                            {"id": "v", "name": "v", "stages": [{"gear": p["id"]} for p in pieces]}
                        ],
                    }
                ],
            }
        )
        for pieces in chains
    )  # fmt: skip


def _offered(assessment: Assessment) -> list[Reading]:
    """What somebody with a multimeter reads of a chain."""
    stages = tuple(s.id for s in assessment.solution.compiled.stages)
    texts = ["knob=50", *(f"speech@{s}=1mV" for s in stages[1:])]
    if any(p.field == "bias_v" for p in Model.of(assessment).parameters):
        texts += ["open=8", "volts@radio=4"]
    return [parse_reading(t, stages) for t in texts]


def taught(seed: int, bound: Bound, folder: Path) -> Tally:
    """Rates over hidden units; the last reading of every second one is wrong."""
    tally, rng = Tally("taught"), np.random.default_rng(generator(seed, "taught").getrandbits(32))
    chains = [verdict_of(s).assessment for s in _stations()]
    while not bound.reached(tally):
        assessment = chains[tally.tried % len(chains)]
        wrong = tally.tried // len(chains) % 2 == 1
        tally.tried += 1
        model = Model.of(assessment)
        unit = model.drawn(model.valid(rng.normal(size=(1, len(model.parameters)))))
        offered = _offered(assessment)
        readings = [
            dataclasses.replace(r, value=float(unit.reads([r])[0, 0]) + r.sd * rng.normal())
            for r in offered
        ]
        if wrong:
            k = int(rng.integers(len(readings)))
            off = WRONG_BY * readings[k].sd * rng.choice((-1, 1))
            readings[k] = dataclasses.replace(readings[k], value=readings[k].value + off)
            made = learn(assessment, readings, DRAWS)
            if readings[k] not in [o.reading for o in made.odd]:
                tally.fault(f"wrong, not named: {readings[k].kind}", made.headline())
            continue
        # the knob is asked for: what the others teach of it
        made = learn(assessment, readings[1:], DRAWS)
        if made.odd:
            tally.fault("right, and accused", made.headline())
        if not made.after.low <= float(unit.knob()[0]) <= made.after.high:
            tally.fault("the truth outside its range", made.headline())
    return tally
