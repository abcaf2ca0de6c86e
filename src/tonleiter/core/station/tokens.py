"""From version 2 to 3: choices are written as tokens, no longer as the words that people read."""

from __future__ import annotations

from typing import Any

from tonleiter.core.gear.figure import LEVEL
from tonleiter.core.units.quantity import QuantityError

_SUPPLY = {
    "safety earth": "safety-earth",
    "double insulated": "double-insulated",
    "computer on USB": "usb-computer",
}
_BYPASS = {"not bypassed": "not-bypassed"}
# by field, since the same words may stand in a name or in notes
_TOKENS: dict[str, dict[str, str]] = {
    "pattern": {"all round": "all-round"},
    "housing": {"in a case": "in-case"},
    "supply": _SUPPLY,
    "form": {"one core": "one-core", "two cores": "two-core"},
    "screen": {"both ends": "both-ends", "source end": "source-end", "load end": "load-end"},
    "plus_side": {"not polarised": "not-polarised"},
    "output": {"impedance balanced": "impedance-balanced"},
    "filter": {"second RC": "second-rc", "Zener": "zener"},
    "emitter": _BYPASS,
    "source": _BYPASS,
}


def piece_with_tokens(piece: Any) -> Any:  # noqa: ANN401 - data of a file, not yet checked
    """The fields of a piece of gear, or of what a stage sets, with tokens for words."""
    if not isinstance(piece, dict):
        return piece
    if piece.get("kind") == "microphone-socket":
        piece = _microphone_socket(piece)
    return {
        field: _TOKENS[field].get(value, value)
        if field in _TOKENS and isinstance(value, str)
        else value
        for field, value in piece.items()
    }


def _microphone_socket(piece: dict[str, Any]) -> dict[str, Any]:
    """Its window became the level that its gain control in the middle wants."""
    ends = [_number(piece.get(f)) for f in ("window_low_dbu", "window_high_dbu")]
    rest = {k: v for k, v in piece.items() if k not in ("window_low_dbu", "window_high_dbu")}
    if piece.get("kind", "microphone-socket") != "microphone-socket" or len(rest) == len(piece):
        return piece
    low = -60.0 if ends[0] is None else ends[0]
    high = -46.0 if ends[1] is None else ends[1]
    basis = {}
    for field in ("window_low_dbu", "window_high_dbu"):
        if isinstance(piece.get(field), dict):
            basis = {k: piece[field][k] for k in ("basis", "measured_on") if k in piece[field]}
    wants = (low + high) / 2
    return rest | {"wants_dbu": {"value": wants, **basis} if basis else wants}


def _number(figure: Any) -> float | None:  # noqa: ANN401
    value = figure.get("value") if isinstance(figure, dict) else figure
    if isinstance(value, str):
        try:
            return LEVEL.parse(value).value
        except QuantityError:
            return None
    return float(value) if isinstance(value, int | float) else None


def station_with_tokens(data: dict[str, Any]) -> dict[str, Any]:
    """A station of version 2 as version 3 writes it; what is no station is left for the check."""
    changed = dict(data)
    if isinstance(data.get("gear"), list):
        changed["gear"] = [piece_with_tokens(piece) for piece in data["gear"]]
    if isinstance(data.get("chains"), list):
        changed["chains"] = [_chain(chain) for chain in data["chains"]]
    return changed


def _chain(chain: Any) -> Any:  # noqa: ANN401
    if not isinstance(chain, dict) or not isinstance(chain.get("variants"), list):
        return chain
    # the band that every chain of version 2 was given is now the purpose's
    if chain.get("band_hz") == [300.0, 2700.0]:
        chain = {k: v for k, v in chain.items() if k != "band_hz"}
    return chain | {"variants": [_variant(variant) for variant in chain["variants"]]}


def _variant(variant: Any) -> Any:  # noqa: ANN401
    if not isinstance(variant, dict) or not isinstance(variant.get("stages"), list):
        return variant
    return variant | {"stages": [_stage(stage) for stage in variant["stages"]]}


def _stage(stage: Any) -> Any:  # noqa: ANN401
    if not isinstance(stage, dict) or "set" not in stage:
        return stage
    return stage | {"set": piece_with_tokens(stage["set"])}
