"""A grid of 12 by 12 over the solves it contains; a plan over the time of its candidates."""

from __future__ import annotations

import time

from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge import assess as assessing
from tonleiter.core.match.grid import solve_grid
from tonleiter.core.match.terms import usual_terms
from tonleiter.core.plan import search as planner
from tonleiter.core.station.model import Station

SIDE = 12


def station() -> Station:
    """Twelve sources and twelve inputs, from the library and copies with other figures."""
    library = parts_library().values()
    sources = [g for g in library if g.role == "microphone"][:SIDE]
    inputs = [g for g in library if g.role == "input"]
    while len(inputs) < SIDE:
        base = inputs[len(inputs) % 5]
        figures = {"id": f"{base.id}-{len(inputs)}", "window_low_dbu": base.window().low_dbu - 3}
        inputs.append(base.with_values(figures))
    people = [{"id": "op", "name": "operator"}]
    return Station.model_validate(
        {"title": "Bench", "operators": people, "gear": [*sources, *inputs]}
    )


class Clock:
    """Sums the time spent in a function and counts its calls."""

    def __init__(self, function) -> None:
        self.function, self.total, self.calls = function, 0.0, 0

    def __call__(self, *args, **options):
        start = time.perf_counter()
        try:
            return self.function(*args, **options)
        finally:
            self.total += time.perf_counter() - start
            self.calls += 1


def grid() -> None:
    shelf = station()
    terms = usual_terms(shelf)
    list(solve_grid(shelf, terms))
    bare = Clock(assessing.solve_chain)
    assessing.solve_chain = bare
    start = time.perf_counter()
    *_, done = solve_grid(shelf, terms)
    whole = time.perf_counter() - start
    assessing.solve_chain = bare.function
    print(
        f"grid of {len(done.pairs)} pairs / the {bare.calls} solves in it:"
        f" {whole / bare.total:.2f} (aim: at most 1.5)   [{whole:.2f} s / {bare.total:.2f} s]"
    )


def plan() -> None:
    shelf = station()
    terms = usual_terms(shelf)
    watched = Clock(planner.assess)
    planner.assess = watched
    start = time.perf_counter()
    progress = planner.plan(shelf, "stage-dynamic-300", "hf-socket-biased", terms, "simple")
    whole = time.perf_counter() - start
    planner.assess = watched.function
    print(
        f"plan, {progress.solved} candidates (aim: at least 200) / their solves:"
        f" {whole / watched.total:.2f} (aim: at most 1.25)   [{whole:.1f} s]"
    )


if __name__ == "__main__":
    grid()
    plan()
