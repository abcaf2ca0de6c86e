"""Write docs/formats/station.schema.json and records.schema.json anew."""

from __future__ import annotations

import json
from pathlib import Path

from tonleiter.core.station.schema import records_schema, station_schema

FORMATS = Path(__file__).resolve().parents[2] / "docs" / "formats"

if __name__ == "__main__":
    FORMATS.mkdir(parents=True, exist_ok=True)
    for name, schema in (("station", station_schema()), ("records", records_schema())):
        text = json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
        (FORMATS / f"{name}.schema.json").write_text(text, "utf-8")
        print(f"docs/formats/{name}.schema.json")
