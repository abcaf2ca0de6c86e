"""What thirty readings teach of a chain of ten pieces, over one spread of four hundred draws."""

from __future__ import annotations

import statistics
import time
from dataclasses import replace

import numpy as np

from tonleiter.app.jobs import lend_a_hand
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.learn.learned import learn
from tonleiter.core.learn.offered import error_of, offered
from tonleiter.core.learn.predict import Model
from tonleiter.core.learn.reading import Reading, ReadingError
from tonleiter.core.solve.spread import DRAWS, solve_spread
from tonleiter.core.station.instruments import INSTRUMENTS
from tonleiter.core.station.model import Station

ROUNDS, READINGS = 5, 30
LEADS = 4


def ten_pieces() -> Station:
    """A microphone, four leads, boxes between, a radio."""
    pieces: list[dict[str, object]] = [
        {"id": "mic", "name": "mic", "kind": "dynamic-microphone", "sensitivity_mv_per_pa": "1..3"}
    ]
    pieces += [{"id": f"lead-{n}", "name": "lead", "kind": "cable"} for n in range(LEADS)]
    for n, kind in enumerate(("capacitor", "transformer", "l-pad", "capacitor")):
        pieces.insert(2 * n + 2, {"id": f"part-{n}", "name": kind, "kind": kind})
    pieces.append(
        {"id": "radio", "name": "radio", "kind": "microphone-socket", "wants_dbu": "-60..-48"}
    )
    return Station.model_validate(
        {
            "title": "Bench",
            "operators": [{"id": "op", "name": "operator"}],
            "gear": pieces,
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
    )  # fmt: skip


def main() -> None:
    """Print the ratio."""
    lend_a_hand()
    assessment = verdict_of(ten_pieces()).assessment
    model = Model.of(assessment)
    unit = model.drawn(np.zeros((1, len(model.parameters))))
    stages = [s.id for s in assessment.solution.compiled.stages]
    readings: list[Reading] = []
    for kind, stage in offered(stages, tuple(INSTRUMENTS)):
        try:
            value = float(unit.reads([Reading(kind, stage, 0.0, 1.0, "")])[0, 0])
        except ReadingError:
            continue
        readings.append(Reading(kind, stage, value, error_of(kind, abs(value)), "as read"))
    while len(readings) < READINGS:
        readings.append(replace(readings[len(readings) % 7], key=str(len(readings))))
    learning, spread = [], []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        learn(model, readings[:READINGS])
        middle = time.perf_counter()
        solve_spread(assessment.solution, assessment.rows)
        learning.append(middle - start)
        spread.append(time.perf_counter() - middle)
    one, many = statistics.median(spread), statistics.median(learning)
    print(
        f"{READINGS} readings of {len(stages)} pieces / one spread of {DRAWS} draws:"
        f" {many / one:.1f}   [{many:.2f} s / {one:.2f} s] (aim: under 2 s)"
    )


if __name__ == "__main__":
    main()
