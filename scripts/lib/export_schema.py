"""Write docs/formats/station.schema.json anew."""

from __future__ import annotations

import json
from pathlib import Path

from tonleiter.core.station.schema import station_schema

TARGET = Path(__file__).resolve().parents[2] / "docs" / "formats" / "station.schema.json"

if __name__ == "__main__":
    TARGET.parent.mkdir(parents=True, exist_ok=True)
    TARGET.write_text(json.dumps(station_schema(), indent=1, ensure_ascii=False) + "\n", "utf-8")
    print("docs/formats/station.schema.json")
