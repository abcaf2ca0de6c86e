"""Spoiling JSON data and text as disks, editors and people do."""

from __future__ import annotations

import copy
import random
from typing import Any

ODD: tuple[Any, ...] = (
    None,
    True,
    False,
    0,
    -1,
    1,
    1e300,
    -1e300,
    5e-324,
    1e155,
    10**400,
    "",
    " ",
    " " * 1000,
    "4k7",
    "1n",
    "0",
    "-5",
    "1e155..1e200",
    "600..200",
    "10000",
    "nan",
    "\ud800",
    "\x1b[31m",
    "a\nb",
    "4k7 5%",
    "4k7 999%",
    "..",
    "±",
    "é" * 200,
    "\u202e",
    [],
    {},
    [[]],
    {"value": 1},
    {"value": False},
    {"value": "4k7", "low": 1, "high": 2},
    {"value": 5, "of": 3},
    {"value": 1e308, "low": 0},
    "x" * 5000,
)


def spoiled(data: Any, rng: random.Random, times: int | None = None) -> Any:
    """A deep copy with a few things replaced, dropped, doubled, swapped or renamed."""
    made = copy.deepcopy(data)
    for _ in range(times or rng.choice((1, 1, 1, 2, 3, 8))):
        holder, key = _somewhere(made, rng)
        if holder is None:
            return copy.deepcopy(rng.choice(ODD))
        match rng.randrange(7):
            case 0 | 1 | 2:
                holder[key] = copy.deepcopy(rng.choice(ODD))
            case 3:
                del holder[key]
            case 4 if isinstance(holder, list):
                holder.insert(rng.randrange(len(holder) + 1), copy.deepcopy(holder[key]))
            case 4 | 5:
                other, at = _somewhere(made, rng)
                if other is not None and at in (
                    other if isinstance(other, dict) else range(len(other))
                ):
                    holder[key] = copy.deepcopy(other[at])
            case 6 if isinstance(holder, dict):
                holder[str(rng.choice(("odd", "", "\x00", key)))] = holder.get(key)
    return made


def _somewhere(data: Any, rng: random.Random) -> tuple[Any, Any]:
    """A container and a key in it, anywhere in the data."""
    here = data
    if not isinstance(here, dict | list) or not here:
        return None, None
    while True:
        key = rng.choice(list(here)) if isinstance(here, dict) else rng.randrange(len(here))
        inner = here[key]
        if not isinstance(inner, dict | list) or not inner or rng.random() < 0.25:
            return here, key
        here = inner


def spoiled_text(content: bytes, rng: random.Random) -> bytes:
    """Bytes cut off, overwritten, doubled or swapped."""
    made = bytearray(content)
    for _ in range(rng.choice((1, 1, 2, 5))):
        at = rng.randrange(len(made) + 1)
        match rng.randrange(5):
            case 0:
                del made[at:]
            case 1:
                made[at : at + rng.randrange(1, 9)] = bytes(rng.randrange(256) for _ in range(4))
            case 2:
                made[at:at] = made[at : at + rng.randrange(1, 200)]
            case 3:
                del made[at : at + rng.randrange(1, 40)]
            case 4:
                made[at:at] = rng.choice((b"[" * 3000, b"{", b'"', b"\xff", b"\x00", b"9" * 5000))
    return bytes(made)
