"""The chain that a command speaks of, solved and judged."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import TypeVar

from tonleiter.cli.common import BadInputError
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.station.model import Station
from tonleiter.core.words import quoted

T = TypeVar("T")


def solved(
    station: Station, options: argparse.Namespace, solve: Callable[[Station, str, str], T]
) -> T:
    """What ``solve`` makes of the chain and variant that were asked for. Raises BadInputError."""
    if not station.chains:
        raise BadInputError(f"{options.station}: this station has no chain yet")
    chains = [c.id for c in station.chains]
    if options.chain and options.chain not in chains:
        raise BadInputError(
            f"{options.station}: there is no chain called {quoted(options.chain)}; known:"
            f" {', '.join(chains)}"
        )
    variants = [v.id for v in station.chain(options.chain).variants]
    if options.variant and options.variant not in variants:
        raise BadInputError(
            f"{options.station}: there is no variant called {quoted(options.variant)}; known:"
            f" {', '.join(variants)}"
        )
    try:
        return solve(station, options.chain, options.variant)
    except CircuitError as error:
        raise BadInputError(f"{options.station}: the chain has no solution: {error}") from None
