"""Faults simulated a second, as a multiple of bare solves of the same matrices; a tone in time."""

from __future__ import annotations

import time

import numpy as np

from tonleiter.app.demo import shipped_demo
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import Circuit
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.wired import wired
from tonleiter.core.prove.bench import at_rest, measure
from tonleiter.core.prove.prove import Proof
from tonleiter.core.prove.scope import traces
from tonleiter.core.station.edits import insert_stage
from tonleiter.core.station.files import read_station


def main() -> None:
    """A transistor preamp between mixer and radio of the demo."""
    station = read_station(shipped_demo()).station
    preamp = next(g for g in parts_library().values() if g.kind_id == "bipolar-preamp")
    station = insert_stage(station, "hf-chat", "with-transformer", 4, preamp)
    proof = Proof(wired(station, "hf-chat", "with-transformer"), 1)
    unit, readings = proof.unit, proof.readings
    near = at_rest(unit, unit.elements)
    start = time.perf_counter()
    for fault in proof.faults:
        measure(unit, fault.change(unit.elements), readings, near)
    each = (time.perf_counter() - start) / len(proof.faults)
    op = solve_dc(System(Circuit((*unit.elements, *unit.bench))))
    matrix, right = op.conductances(), np.ones(op.system.size)
    start = time.perf_counter()
    for _ in range(500):
        np.linalg.solve(matrix, right)
    bare = (time.perf_counter() - start) / 500
    print(f"{1 / each:.0f} faults a second (aim: 300), each {each / bare:.0f} bare solves")
    start = time.perf_counter()
    traces(unit, unit.elements)
    took = time.perf_counter() - start
    print(f"4 ms of a tone in time: {took * 1e3:.0f} ms, {took / bare:.0f} bare solves")


if __name__ == "__main__":
    main()
