"""Helpers for circuit tests: short ways to solve, and constants."""

from __future__ import annotations

import numpy as np

from tonleiter.core.circuit.ac import linearise, node_response
from tonleiter.core.circuit.dc import OperatingPoint, solve_dc
from tonleiter.core.circuit.elements import Circuit, Element
from tonleiter.core.circuit.noise import NoiseShares, band_power, noise_shares
from tonleiter.core.circuit.system import System

K_BOLTZMANN = 1.380649e-23
Q_ELECTRON = 1.602176634e-19
T = 300.15
VT = K_BOLTZMANN * T / Q_ELECTRON


def dc(*elements: Element, **conditions: float) -> OperatingPoint:
    return solve_dc(System(Circuit(tuple(elements), **conditions)))


def ac(f_hz, *elements: Element):
    return node_response(linearise(System(Circuit(tuple(elements)))), np.asarray(f_hz, float))


def noise(f_hz, out: str, *elements: Element) -> NoiseShares:
    linear = linearise(System(Circuit(tuple(elements))))
    f_hz = np.asarray(f_hz, float)
    return noise_shares(linear, f_hz, linear.adjoint(f_hz, linear.system.unit(out)[:, None]))


def total_noise_v(f_hz, out: str, *elements: Element) -> float:
    shares = noise(f_hz, out, *elements)
    return float(np.sqrt(band_power(shares.psd_v2_per_hz.sum(axis=0)[:, 0], shares.f_hz)))
