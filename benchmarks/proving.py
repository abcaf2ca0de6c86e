"""Faults simulated a second, as a multiple of bare solves of the same matrices; a tone in time."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
from scipy.linalg import lu_factor, lu_solve

from tonleiter.app.demo import shipped_demo
from tonleiter.core.bench.measure import at_rest, measure
from tonleiter.core.bench.scope import POINTS
from tonleiter.core.bench.unit import GENERATOR, Unit
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import Circuit
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import solve_transient
from tonleiter.core.circuit.waves import Sine
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof
from tonleiter.core.station.edits import insert_stage
from tonleiter.core.station.files import read_station

LENGTH_S = 50e-3


def main() -> None:
    """A transistor preamp between mixer and radio of the demo."""
    station = read_station(shipped_demo()).station
    preamp = next(g for g in parts_library().values() if g.kind_id == "bipolar-preamp")
    station = insert_stage(station, "hf-chat", "with-transformer", 4, preamp)
    proof = Proof(verdict_of(station, "hf-chat", "with-transformer"), 1)
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
    _tone(unit)


def _tone(unit: Unit) -> None:
    """A tone of 1 kHz in time against a bare loop of as many back-substitutions."""
    wave = Sine(0.0, unit.tone_v * 2**0.5, 1000.0)
    bench = [replace(e, wave=wave) if e.name == GENERATOR else e for e in unit.bench]
    system = System(Circuit((*unit.elements, *bench)))
    start = time.perf_counter()
    found = solve_transient(system, 1e-3 / POINTS, LENGTH_S)
    took = time.perf_counter() - start
    matrix = solve_dc(system).conductances() + 2e6 * system.C
    factors, right = lu_factor(matrix), np.ones(system.size)
    start = time.perf_counter()
    for _ in range(found.substitutions):
        lu_solve(factors, right, check_finite=False)
    bare = time.perf_counter() - start
    print(
        f"{LENGTH_S * 1e3:g} ms of 1 kHz in time: {took * 1e3:.0f} ms,"
        f" {found.substitutions} back-substitutions in {found.steps} steps,"
        f" {took / bare:.1f} times a bare loop of them (aim: 30)"
    )


if __name__ == "__main__":
    main()
