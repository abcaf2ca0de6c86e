"""The JSON Schemas of station.json and records.json, exported to docs/formats."""

from __future__ import annotations

import json
import re
from typing import Any

from tonleiter.core.station.model import Station
from tonleiter.core.station.records import Records

Schema = dict[str, Any]
_SPELLED = str.maketrans({"Ω": "ohm", "µ": "u", "³": "3"})


def station_schema() -> Schema:
    """JSON Schema (draft 2020-12) of a station document; each kind of figure is defined once."""
    schema = Station.model_json_schema(mode="validation")
    figures: dict[str, tuple[str, Schema]] = {}
    shared = _share(schema, figures)
    shared["$defs"] = shared.get("$defs", {}) | dict(figures.values())
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **shared,
        "title": "Tonleiter station",
    }


def records_schema() -> Schema:
    """JSON Schema (draft 2020-12) of the records beside a station."""
    schema = Records.model_json_schema(mode="validation")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Tonleiter records",
    }


def _share(node: Any, figures: dict[str, tuple[str, Schema]]) -> Any:  # noqa: ANN401 - JSON
    """The same schema with figures as references; those met are collected by their content."""
    if isinstance(node, list):
        return [_share(item, figures) for item in node]
    if not isinstance(node, dict):
        return node
    if _is_figure(node):
        body = {"anyOf": node["anyOf"], "description": node["description"]}
        content = json.dumps(body, sort_keys=True)
        name, _ = figures.setdefault(content, (_named(body, figures), body))
        rest = {key: value for key, value in node.items() if key not in body}
        return {"$ref": f"#/$defs/{name}", **rest}
    return {key: _share(value, figures) for key, value in node.items()}


def _is_figure(node: Schema) -> bool:
    return "anyOf" in node and str(node.get("description", "")).startswith("in ")


def _named(body: Schema, figures: dict[str, tuple[str, Schema]]) -> str:
    """A name from the unit; kinds that differ in their limits only are numbered."""
    # a reference is a piece of an address: letters of plain ASCII pass everywhere
    spelled = body["description"].removeprefix("in ").translate(_SPELLED)
    unit = re.sub(r"[^A-Za-z0-9]+", "-", spelled).strip("-") or "number"
    taken = {name for name, _ in figures.values()}
    base = name = f"figure-{unit}"
    count = 2
    while name in taken:
        name, count = f"{base}-{count}", count + 1
    return name
