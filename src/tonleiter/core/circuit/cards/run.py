"""Run the analyses that a deck asks for, as plain data ready for JSON."""

from __future__ import annotations

from typing import Any

import numpy as np

from tonleiter.core.circuit.ac import Complexes, Linear, linearise, node_response
from tonleiter.core.circuit.cards.deck import Deck, NoiseRequest, Times
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.noise import band_power, noise_shares
from tonleiter.core.circuit.system import System
from tonleiter.core.circuit.transient import MOST_SECONDS, solve_transient


def run_deck(deck: Deck, seconds: float = MOST_SECONDS) -> dict[str, Any]:
    """Results under ``op``, ``ac``, ``noise`` and ``tran``, each present when the file asks for it.

    A transient that takes longer than so many ``seconds`` of work is cut short, and has a
    ``cut_short`` that says so. Raises CircuitError when the circuit has no solution.
    """
    with np.errstate(all="ignore"):  # what is not finite is found where it comes out, and said
        return _results(deck, seconds)


def _results(deck: Deck, seconds: float) -> dict[str, Any]:
    system = System(deck.circuit)
    op = solve_dc(system) if deck.op or system.devices else None
    linear = linearise(system, op)
    results: dict[str, Any] = {}
    if deck.op and op:
        results["op"] = {n: float(op.x[r]) for n, r in system.node_row.items() if "#" not in n}
    if deck.ac:
        f_hz = deck.ac.f_hz()
        nodes = {
            node: {"re": v.real.tolist(), "im": v.imag.tolist()}
            for node, v in node_response(linear, f_hz).items()
            if "#" not in node
        }
        results["ac"] = {"f_hz": f_hz.tolist(), "nodes": nodes}
    if deck.tran:
        results["tran"] = _over_time(system, deck.tran, seconds)
    if deck.noise:
        results["noise"] = _noise(linear, deck.noise)
    return results


def _over_time(system: System, times: Times, seconds: float) -> dict[str, Any]:
    found = solve_transient(
        system, times.step_s, times.stop_s, times.start_s, times.most_s, seconds
    )
    nodes = {n: found.x[:, r].tolist() for n, r in system.node_row.items() if "#" not in n}
    told = {"t_s": found.t_s.tolist(), "nodes": nodes}
    return told | ({"cut_short": found.cut_short} if found.cut_short else {})


def _noise(linear: Linear, request: NoiseRequest) -> dict[str, Any]:
    f_hz = request.sweep.f_hz()
    read = linear.system.unit(request.output, request.reference)
    adjoint = linear.adjoint(f_hz, read[:, None])
    shares = noise_shares(linear, f_hz, adjoint)
    psd = shares.psd_v2_per_hz[:, :, 0]
    per_source_v = np.sqrt(band_power(psd, f_hz))
    gain = np.abs(_gain_from(linear, request.source, adjoint[:, :, 0]))
    density = np.sqrt(psd.sum(axis=0))
    referred = np.divide(density, gain, out=np.full_like(density, np.nan), where=gain > 0)
    return {
        "f_hz": f_hz.tolist(),
        "density_v_per_rthz": density.tolist(),
        "input_density_per_rthz": [x if np.isfinite(x) else None for x in referred.tolist()],
        "total_v": float(np.sqrt(band_power(psd.sum(axis=0), f_hz))),
        "contributors": {
            name: float(v) for name, v in sorted(zip(shares.names, per_source_v, strict=True))
        },
    }


def _gain_from(linear: Linear, source: str, adjoint: Complexes) -> Complexes:
    """Transfer from the named independent source to the output, shape (frequencies,)."""
    if source in linear.system.branch_row:
        return np.asarray(adjoint[:, linear.system.branch_row[source]], dtype=complex)
    element = next(e for e in linear.system.circuit.elements if e.name == source)
    injection = linear.system.unit(element.n, element.p)  # type: ignore[union-attr]
    return np.asarray(adjoint @ injection, dtype=complex)
