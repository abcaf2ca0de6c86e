"""Four hundred draws of the demo chain (DC, AC, noise) over one full solve, each ready to use."""

from __future__ import annotations

import statistics
import time

from tonleiter.app.demo import shipped_demo
from tonleiter.app.jobs import lend_a_hand
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.levels import stage_levels
from tonleiter.core.solve.solution import solve_chain
from tonleiter.core.solve.spread import DRAWS, solve_spread
from tonleiter.core.station.files import read_station

ROUNDS = 15


def main() -> None:
    lend_a_hand()
    compiled = compile_chain(read_station(shipped_demo()).station)
    solution = solve_chain(compiled)
    rows = stage_levels(solution)
    first = time.perf_counter()
    solve_spread(solution, rows)
    first = time.perf_counter() - first
    spread, single = [], []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        solve_spread(solution, rows)
        middle = time.perf_counter()
        solve_chain(compiled)
        spread.append(middle - start)
        single.append(time.perf_counter() - middle)
    one = statistics.median(single)
    print(
        f"{DRAWS} draws / one full solve: {statistics.median(spread) / one:.1f},"
        f" first run {first / one:.1f} (aim: at most 60)"
        f"   [{statistics.median(spread) * 1e3:.0f} ms / {one * 1e3:.1f} ms]"
    )


if __name__ == "__main__":
    main()
