"""The JSON Schema of station.json, exported to docs/formats."""

from __future__ import annotations

from typing import Any

from tonleiter.core.station.model import Station


def station_schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of a station document."""
    schema = Station.model_json_schema(mode="validation")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Tonleiter station",
    }
