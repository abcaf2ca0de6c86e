"""From version 7 to 8: nothing plays louder than its largest level.

A program over the largest level of its source was accepted before; what was heard of it was that
level. The largest level is raised to it, so that the chain stays as loud as it was.
"""

from __future__ import annotations

from typing import Any

from tonleiter.core.gear.figure import DECIBELS, LEVEL, Figure, Quantity
from tonleiter.core.units.quantity import QuantityError

_BELOW = "below_full_db"
# by kind, its largest level and what stands for it where nothing is written
_LARGEST = {"line-source": ("full_scale_dbu", 6.2), "loudspeaker-output": ("full_dbu", 13.0)}


def never_over_the_largest(data: dict[str, Any]) -> dict[str, Any]:
    """A station of version 7 as one of version 8; what cannot be read is left for the reader."""
    gear, chains = data.get("gear"), data.get("chains")
    made = dict(data)
    if isinstance(gear, list):
        made["gear"] = [_piece(p) for p in gear]
    if isinstance(chains, list):
        made["chains"] = [_chain(c) for c in chains]
    return made


def _piece(piece: Any) -> Any:  # noqa: ANN401 - data of a file, not yet checked
    if not isinstance(piece, dict) or piece.get("kind") not in _LARGEST or _BELOW not in piece:
        return piece
    below = _figure(DECIBELS, piece[_BELOW])
    over = 0.0 if below is None else max(below.value, below.high or below.value)
    if below is None or over <= 0:
        return piece
    field, usual = _LARGEST[piece["kind"]]
    full = _figure(LEVEL, piece.get(field, usual))
    if full is None:
        return piece
    return piece | {_BELOW: _moved(below, -over), field: _moved(full, over)}


def _chain(chain: Any) -> Any:  # noqa: ANN401
    """What stages set of it: no more than the largest."""
    if not isinstance(chain, dict) or not isinstance(chain.get("variants"), list):
        return chain
    return chain | {"variants": [_variant(v) for v in chain["variants"]]}


def _variant(variant: Any) -> Any:  # noqa: ANN401
    if not isinstance(variant, dict) or not isinstance(variant.get("stages"), list):
        return variant
    return variant | {"stages": [_stage(s) for s in variant["stages"]]}


def _stage(stage: Any) -> Any:  # noqa: ANN401
    own = stage.get("set") if isinstance(stage, dict) else None
    if not isinstance(own, dict) or _BELOW not in own:
        return stage
    below = _figure(DECIBELS, own[_BELOW])
    if below is None or max(below.value, below.high or below.value) <= 0:
        return stage
    return stage | {"set": own | {_BELOW: 0.0}}


def _figure(quantity: Quantity, raw: Any) -> Figure | None:  # noqa: ANN401
    try:
        if isinstance(raw, bool):
            return None
        if isinstance(raw, int | float):
            return Figure(value=quantity.check(float(raw)))
        if isinstance(raw, str):
            return quantity.parse(raw)
        return Figure.model_validate(raw)
    except (QuantityError, ValueError, OverflowError):
        return None


def _moved(figure: Figure, by: float) -> dict[str, Any]:
    ends = {k: v + by for k in ("low", "high") if (v := getattr(figure, k)) is not None}
    made: dict[str, Any] = {"value": figure.value + by, "basis": figure.basis, **ends}
    if figure.measured_on is not None:
        made["measured_on"] = figure.measured_on.isoformat()
    return made
