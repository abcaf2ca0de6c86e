"""Modified nodal analysis: a circuit turned into arrays.

Unknowns are the node voltages and the currents of voltage sources, inductors and voltage-output
controlled sources (Ho, Ruehli, Brennan, IEEE Trans. CAS 22, 1975). The linear part is
``(G + s C) x = b``; devices add to G at their operating point.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.chips import OpAmpDevice, RegulatorDevice
from tonleiter.core.circuit.devices import (
    BOLTZMANN,
    BipolarDevice,
    Device,
    DiodeDevice,
    JfetDevice,
    ModulatedResistorDevice,
)
from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    Capacitor,
    Cccs,
    Ccvs,
    Circuit,
    CircuitError,
    Coupling,
    CurrentSource,
    Diode,
    Element,
    Inductor,
    Jfet,
    ModulatedResistor,
    OpAmp,
    PowerLaw,
    Regulator,
    Resistor,
    Spectrum,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.once import cached_property

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
NOWHERE = -1  # row of the ground node, which has no equation


class Stamp(NamedTuple):
    """One matrix entry: row, column, value, and the index of the element it came from."""

    row: int
    column: int
    value: float
    element: int


@dataclass(frozen=True)
class Entries:
    """Matrix entries as arrays: rows, columns, values, and the element that each came from."""

    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    values: Floats
    elements: NDArray[np.intp]

    @classmethod
    def of(cls, stamps: list[Stamp]) -> Entries:
        """From single entries."""
        return cls(
            np.array([s.row for s in stamps], dtype=np.intp),
            np.array([s.column for s in stamps], dtype=np.intp),
            np.array([s.value for s in stamps]),
            np.array([s.element for s in stamps], dtype=np.intp),
        )

    def and_more(self, more: Entries) -> Entries:
        """These and others."""
        return Entries(
            np.concatenate([self.rows, more.rows]),
            np.concatenate([self.columns, more.columns]),
            np.concatenate([self.values, more.values]),
            np.concatenate([self.elements, more.elements]),
        )


@dataclass(frozen=True)
class NoiseInjection:
    """A noise source: injected at row ``i`` and drawn from row ``j`` (−1 for ground)."""

    name: str
    i: int
    j: int
    spectrum: Spectrum


@dataclass(frozen=True)
class PlacedDevice:
    """A nonlinear device and the rows of its terminals."""

    name: str
    element: int
    rows: tuple[int, ...]
    device: Device

    def volts(self, x: Floats) -> Floats:
        """Of the unknowns ``x`` those at its terminals, ground as 0; shape (terminals,)."""
        return np.array([0.0 if row == NOWHERE else x[row] for row in self.rows])

    def add_to(self, matrix: Floats, conductances: Floats) -> None:
        """Add its conductances, shape (terminals, terminals), where they belong in ``matrix``."""
        for i, row in enumerate(self.rows):
            for j, column in enumerate(self.rows):
                if row != NOWHERE and column != NOWHERE:
                    matrix[row, column] += conductances[i, j]


def linearise_into(
    devices: Sequence[PlacedDevice], junctions: Sequence[Floats], g: Floats, fixed: Floats
) -> None:
    """Each device as i = fixed + g v about its junction volts, in terminals one after the other.

    ``g`` of shape (terminals, terminals) and ``fixed`` of (terminals,) are written block by block.
    """
    k = 0
    for placed, vj in zip(devices, junctions, strict=True):
        state = placed.device.evaluate(vj)
        n = k + len(placed.rows)
        g[k:n, k:n] = state.conductances
        fixed[k:n] = state.currents - state.conductances @ placed.device.terminals(vj)
        k = n


class System:
    """The arrays of one circuit. Build with ``System(circuit)``; raises CircuitError."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self.node_row: dict[str, int] = {}
        self.branch_row: dict[str, int] = {}
        self._g: list[Stamp] = []
        self._c: list[Stamp] = []
        self.devices: list[PlacedDevice] = []
        self.noise: list[NoiseInjection] = []
        self._check_names()
        self._number_unknowns()
        self.size = len(self.node_row) + len(self.branch_row)
        self.b_dc = np.zeros(self.size)
        self.b_ac = np.zeros(self.size, dtype=complex)
        self._henry = {e.name: e.henry for e in circuit.elements if isinstance(e, Inductor)}
        for index, element in enumerate(circuit.elements):
            self._stamp(index, element)

    @cached_property
    def G(self) -> Floats:  # noqa: N802 - matrices are capitals in the field
        """The part that no frequency changes, dense; shape (size, size)."""
        return self._dense(self._g)

    @cached_property
    def C(self) -> Floats:  # noqa: N802
        """What is multiplied by jω, dense; shape (size, size)."""
        return self._dense(self._c)

    @cached_property
    def g_entries(self) -> Entries:
        """The entries of G, unsummed."""
        return Entries.of(self._g)

    @cached_property
    def c_entries(self) -> Entries:
        """The entries of C, unsummed."""
        return Entries.of(self._c)

    def _check_names(self) -> None:
        seen: set[str] = set()
        for element in self.circuit.elements:
            if element.name in seen:
                raise CircuitError(f"two elements are called {element.name}")
            seen.add(element.name)
        if not any(GROUND in nodes_of(e) for e in self.circuit.elements):
            raise CircuitError("nothing is joined to node 0, the ground")

    def _number_unknowns(self) -> None:
        for element in self.circuit.elements:
            for node in nodes_of(element):
                if node != GROUND and node not in self.node_row:
                    self.node_row[node] = len(self.node_row)
            if isinstance(element, Diode) and element.model.rs_ohm > 0:
                self.node_row[f"{element.name}#inner"] = len(self.node_row)
        for element in self.circuit.elements:
            if isinstance(element, VoltageSource | Inductor | Vcvs | Ccvs):
                self.branch_row[element.name] = len(self.node_row) + len(self.branch_row)

    def row(self, node: str) -> int:
        """Row of a node, NOWHERE for ground. Raises CircuitError for an unknown node."""
        if node == GROUND:
            return NOWHERE
        try:
            return self.node_row[node]
        except KeyError:
            raise CircuitError(f"there is no node {node}") from None

    def _branch(self, element: str, wanted_by: str) -> int:
        try:
            return self.branch_row[element]
        except KeyError:
            raise CircuitError(f"{wanted_by} refers to {element}, which does not exist") from None

    def _dense(self, stamps: list[Stamp]) -> Floats:
        matrix = np.zeros((self.size, self.size))
        rows = [s.row for s in stamps]
        columns = [s.column for s in stamps]
        np.add.at(matrix, (rows, columns), [s.value for s in stamps])
        return matrix

    def _put(self, stamps: list[Stamp], element: int, row: int, column: int, value: float) -> None:
        if row != NOWHERE and column != NOWHERE:
            stamps.append(Stamp(row, column, value, element))

    def _admittance(self, stamps: list[Stamp], element: int, p: int, n: int, y: float) -> None:
        if p != NOWHERE:
            stamps.append(Stamp(p, p, y, element))
        if n != NOWHERE:
            stamps.append(Stamp(n, n, y, element))
        if p != NOWHERE and n != NOWHERE:
            stamps += (Stamp(p, n, -y, element), Stamp(n, p, -y, element))

    def _incidence(self, element: int, p: int, n: int, branch: int) -> None:
        """A branch current leaves p and enters n; the branch equation reads v(p) − v(n)."""
        for row, sign in ((p, 1.0), (n, -1.0)):
            self._put(self._g, element, row, branch, sign)
            self._put(self._g, element, branch, row, sign)

    def _stamp(self, index: int, element: Element) -> None:
        match element:
            case Resistor():
                self._stamp_resistor(index, element)
            case Capacitor(name, p, n, farad):
                self._require(math.isfinite(farad) and farad >= 0, name, "a capacitance ≥ 0")
                self._admittance(self._c, index, self.row(p), self.row(n), farad)
            case Inductor(name, p, n, henry):
                self._require(math.isfinite(henry) and henry > 0, name, "an inductance above 0")
                branch = self.branch_row[name]
                self._incidence(index, self.row(p), self.row(n), branch)
                self._put(self._c, index, branch, branch, -henry)
            case Coupling():
                self._stamp_coupling(index, element)
            case VoltageSource(name, p, n, dc, ac, noise):
                branch = self.branch_row[name]
                self._incidence(index, self.row(p), self.row(n), branch)
                self.b_dc[branch] = dc
                self.b_ac[branch] = ac
                if noise:
                    self.noise.append(NoiseInjection(name, branch, NOWHERE, noise))
            case CurrentSource(name, p, n, dc, ac, noise):
                for row, sign in ((self.row(p), -1.0), (self.row(n), 1.0)):
                    if row != NOWHERE:
                        self.b_dc[row] += sign * dc
                        self.b_ac[row] += sign * ac
                if noise:
                    self.noise.append(NoiseInjection(name, self.row(n), self.row(p), noise))
            case Vcvs(name, p, n, cp, cn, gain):
                branch = self.branch_row[name]
                self._incidence(index, self.row(p), self.row(n), branch)
                self._put(self._g, index, branch, self.row(cp), -gain)
                self._put(self._g, index, branch, self.row(cn), gain)
            case Vccs(_, p, n, cp, cn, siemens):
                for row, rs in ((self.row(p), 1.0), (self.row(n), -1.0)):
                    self._put(self._g, index, row, self.row(cp), rs * siemens)
                    self._put(self._g, index, row, self.row(cn), -rs * siemens)
            case Cccs(name, p, n, control, gain):
                branch = self._branch(control, name)
                self._put(self._g, index, self.row(p), branch, gain)
                self._put(self._g, index, self.row(n), branch, -gain)
            case Ccvs(name, p, n, control, ohm):
                branch = self.branch_row[name]
                self._incidence(index, self.row(p), self.row(n), branch)
                self._put(self._g, index, branch, self._branch(control, name), -ohm)
            case Diode() | Bipolar() | Jfet():
                self._place(index, element)
            case OpAmp(name, model=chip):
                rows = tuple(self.row(node) for node in nodes_of(element))
                device = OpAmpDevice(chip, self.circuit.gmin_s)
                self.devices.append(PlacedDevice(name, index, rows, device))
            case Regulator(name, model=holder):
                rows = tuple(self.row(node) for node in nodes_of(element))
                held = RegulatorDevice(holder, self.circuit.gmin_s)
                self.devices.append(PlacedDevice(name, index, rows, held))
            case ModulatedResistor(name, p, n, cp, cn, ohm, per_volt, noise):
                self._require(math.isfinite(ohm) and ohm > 0, name, "a resistance above 0")
                carbon = ModulatedResistorDevice(ohm, per_volt, noise, self.circuit.temperature_k)
                rows = tuple(self.row(node) for node in (p, n, cp, cn))
                self.devices.append(PlacedDevice(name, index, rows, carbon))

    @staticmethod
    def _require(holds: bool, name: str, wanted: str) -> None:
        if not holds:
            raise CircuitError(f"{name} needs {wanted}")

    def _stamp_resistor(self, index: int, r: Resistor) -> None:
        self._require(math.isfinite(r.ohm) and r.ohm != 0, r.name, "a resistance other than 0")
        p, n = self.row(r.p), self.row(r.n)
        self._admittance(self._g, index, p, n, 1.0 / r.ohm)
        if r.noisy and r.ohm > 0:
            psd = 4 * BOLTZMANN * self.circuit.temperature_k / r.ohm
            self.noise.append(NoiseInjection(r.name, p, n, (PowerLaw(psd),)))

    def _stamp_coupling(self, index: int, k: Coupling) -> None:
        self._require(abs(k.k) <= 1, k.name, "a coupling from −1 to 1")
        henry = self._henry
        for end in (k.first, k.second):
            self._require(end in henry, k.name, f"an inductor called {end}")
        mutual = k.k * math.sqrt(henry[k.first] * henry[k.second])
        first, second = self.branch_row[k.first], self.branch_row[k.second]
        self._put(self._c, index, first, second, -mutual)
        self._put(self._c, index, second, first, -mutual)

    def _place(self, index: int, element: Diode | Bipolar | Jfet) -> None:
        t, gmin = self.circuit.temperature_k, self.circuit.gmin_s
        self._require(element.area > 0, element.name, "an area above 0")
        device: Device
        match element:
            case Diode(name, anode, cathode, model, area):
                if model.rs_ohm > 0:
                    inner = f"{name}#inner"
                    series = Resistor(f"{name}#rs", anode, inner, model.rs_ohm / area)
                    self._stamp_resistor(index, series)
                    anode = inner
                device = DiodeDevice(model, area, t, gmin)
                rows: tuple[int, ...] = (self.row(anode), self.row(cathode))
            case Bipolar(name, c, b, e, bipolar_model, area):
                device = BipolarDevice(bipolar_model, area, t, gmin)
                rows = (self.row(c), self.row(b), self.row(e))
            case Jfet(name, d, g, s, jfet_model, area):
                device = JfetDevice(jfet_model, area, t, gmin)
                rows = (self.row(d), self.row(g), self.row(s))
        self.devices.append(PlacedDevice(element.name, index, rows, device))

    @property
    def conductances(self) -> tuple[Stamp, ...]:
        """The entries of G, in the order they were made."""
        return tuple(self._g)

    @property
    def capacitances(self) -> tuple[Stamp, ...]:
        """The entries of C, in the order they were made."""
        return tuple(self._c)

    def unit(self, p: str, n: str = GROUND) -> Floats:
        """Vector that reads v(p) − v(n) from a solution; shape (size,)."""
        vector = np.zeros(self.size)
        for node, sign in ((p, 1.0), (n, -1.0)):
            if (row := self.row(node)) != NOWHERE:
                vector[row] += sign
        return vector
