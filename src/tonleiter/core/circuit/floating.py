"""Why a matrix is singular, said in the words of the circuit."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    Ccvs,
    Diode,
    Element,
    Inductor,
    Jfet,
    ModulatedResistor,
    OpAmp,
    Regulator,
    Resistor,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.circuit.system import System
from tonleiter.core.words import one_or

# the null vector of a larger matrix would take longer to find than anybody waits
MOST_LOOKED_INTO = 600


def explain_singular(
    system: System, matrix: NDArray[np.float64] | NDArray[np.complex128] | None = None
) -> str:
    """One line that names the floating node, or the loop of sources, behind a singular system.

    First by topology (which nodes have no DC path to ground), then by the null vector of the
    matrix, whose largest entries sit on the unknowns that nothing determines.
    """
    if floating := dc_islands(system):
        names = ", ".join(floating[:4]) + (" and more" if len(floating) > 4 else "")
        noun = one_or(len(floating), "node", "nodes")
        verb = one_or(len(floating), "floats", "float")
        return f"{noun} {names} {verb}: no path for DC to ground (node 0)"
    if system.size > MOST_LOOKED_INTO:
        return "the circuit has no single solution: a node floats, or sources or coils form a loop"
    matrix = system.G if matrix is None else matrix
    if not np.all(np.isfinite(matrix)):
        return "a value in the circuit is not a finite number"
    null = np.abs(np.linalg.svd(matrix)[2][-1])
    worst = int(np.argmax(null))
    for name, row in system.branch_row.items():
        if row == worst:
            return (
                f"the current through {name} is not determined: a loop of voltage sources or coils"
            )
    for name, row in system.node_row.items():
        if row == worst:
            return f"node {name} floats: nothing determines its voltage"
    return "the circuit has no single solution"


def dc_islands(system: System) -> list[str]:
    """Nodes without a DC path to ground, in order of appearance."""
    return [n for island in islands(system.circuit.elements) for n in island if "#" not in n]


def islands(elements: Iterable[Element], insulates_ohm: float = math.inf) -> list[list[str]]:
    """Groups of nodes that are joined for DC with each other and not with ground, in their order.

    A resistor of ``insulates_ohm`` or more is an insulation and joins nothing.
    """
    parent: dict[str, str] = {GROUND: GROUND}

    def find(node: str) -> str:
        parent.setdefault(node, node)
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    for element in elements:
        nodes = nodes_of(element)
        for node in nodes:
            find(node)
        if isinstance(element, Resistor) and element.ohm >= insulates_ohm:
            continue
        if isinstance(
            element, Resistor | Inductor | VoltageSource | Vcvs | Ccvs | ModulatedResistor
        ):
            parent[find(element.p)] = find(element.n)
        elif isinstance(element, Vccs) and (element.p, element.n) == (element.cp, element.cn):
            parent[find(element.p)] = find(element.n)  # a conductance in disguise
        elif isinstance(element, Diode | Bipolar | Jfet | OpAmp | Regulator):
            first, *rest = nodes
            for node in rest:
                parent[find(node)] = find(first)
    ground, found = find(GROUND), dict[str, list[str]]()
    for node in list(parent):
        if (root := find(node)) != ground:
            found.setdefault(root, []).append(node)
    return list(found.values())
