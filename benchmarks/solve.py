"""One full solve of the demo chain (DC, 200-point AC, noise) over the bare batched linear solve."""

from __future__ import annotations

import statistics
import time

import numpy as np

from tonleiter.app.demo import shipped_demo
from tonleiter.app.jobs import lend_a_hand
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import frequency_grid, solve_chain
from tonleiter.core.station.files import read_station

ROUNDS = 60


def main() -> None:
    lend_a_hand()
    compiled = compile_chain(read_station(shipped_demo()).station)
    solution = solve_chain(compiled)
    linear = solution.linear
    f_hz = frequency_grid(compiled.chain.band)
    system = linear.system
    reads = np.stack([system.unit(s.outlet.hot, s.outlet.cold) for s in compiled.stages], axis=1)
    matrices = linear.matrices(f_hz, transposed=True)
    right = np.broadcast_to(reads, (f_hz.size, *reads.shape)).astype(complex)
    full, bare = [], []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        solve_chain(compiled)
        middle = time.perf_counter()
        np.linalg.solve(matrices, right)
        full.append(middle - start)
        bare.append(time.perf_counter() - middle)
    ratio = statistics.median(full) / statistics.median(bare)
    print(
        f"full solve / bare solve of the same {f_hz.size} matrices of {system.size}:"
        f" {ratio:.2f} (aim: at most 3)"
        f"   [{statistics.median(full) * 1e3:.1f} ms / {statistics.median(bare) * 1e3:.1f} ms]"
    )


if __name__ == "__main__":
    main()
