"""Hum over a station of 12 boxes and 20 leads, against the same chain with nothing around it."""

from __future__ import annotations

import statistics
import time

from tonleiter.app.demo import shipped_demo
from tonleiter.app.jobs import lend_a_hand
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.loops import hum_loops
from tonleiter.core.solve.solution import solve_chain
from tonleiter.core.station.boxes import add_device, add_link
from tonleiter.core.station.devices import Device
from tonleiter.core.station.edits import change_station
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station

ROUNDS, BOXES, LEADS = 40, 12, 20


def crowded(station: Station) -> Station:
    """More boxes around the open chain, each joined to two of the others."""
    names = ["hf-20w", "desk-mixer"]
    while len(names) < BOXES:
        new = f"more-{len(names)}"
        supply = ("safety-earth", "double-insulated", "lead")[len(names) % 3]
        station = add_device(station, Device(id=new, name=new, supply=supply))  # type: ignore[arg-type]
        names.append(new)
    for k in range(LEADS):
        kind = ("usb", "coax", "supply", "data")[k % 4]
        a, b = names[k % BOXES], names[(k + 1 + k // BOXES) % BOXES]
        station = add_link(station, kind, a, b)  # type: ignore[arg-type]
    return station


def main() -> None:
    lend_a_hand()
    bare = change_station(read_station(shipped_demo()).station, links=())
    full = crowded(bare)
    few, many = compile_chain(bare), compile_chain(full)
    solved = solve_chain(many)
    alone, around, loops = [], [], []
    for _ in range(ROUNDS):
        times = [time.perf_counter()]
        solve_chain(few)
        times.append(time.perf_counter())
        solve_chain(many)
        times.append(time.perf_counter())
        hum_loops(solved.compiled, solved.linear)
        times.append(time.perf_counter())
        alone.append(times[1] - times[0])
        around.append(times[2] - times[1])
        loops.append(times[3] - times[2])
    base = statistics.median(alone)
    print(
        f"chain with {len(many.grounds.chassis)} boxes, {len(many.grounds.leads)} leads / with none"
        f" around it: {statistics.median(around) / base:.2f}; finding its loops:"
        f" {statistics.median(loops) / base:.2f}; both together (aim: at most 3):"
        f" {(statistics.median(around) + statistics.median(loops)) / base:.2f}"
        f"   [{base * 1e3:.1f} ms]"
    )


if __name__ == "__main__":
    main()
