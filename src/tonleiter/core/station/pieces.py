"""Single pieces of gear as JSON files, so that friends can trade them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.catalogue import AnyGear
from tonleiter.core.station.disk import FileError, read_file, spoken, write_file
from tonleiter.core.station.files import json_object, only_keys, version_of
from tonleiter.core.station.model import VERSION
from tonleiter.core.station.refusal import one_line
from tonleiter.core.station.tokens import piece_with_tokens

FORMAT = "tonleiter-piece"
SUFFIX = ".piece.json"
_PIECE: TypeAdapter[AnyGear] = TypeAdapter(AnyGear)


def piece_text(gear: Gear) -> str:
    """The text of a piece's file."""
    data = {"format": FORMAT, "version": VERSION, "piece": gear.model_dump(mode="json")}
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def save_piece(gear: Gear, file: Path) -> None:
    """Write a piece, the old file or the new one. Raises FileError."""
    write_file(file, piece_text(gear).encode())


def read_piece(file: Path) -> Gear:
    """Read a piece. Raises FileError with one line: what, where, what is wanted."""
    with spoken(file, "cannot be read"):
        content = read_file(file)
    return piece_of(json_object(str(file), content), str(file))


def piece_of(data: dict[str, Any], where: str) -> Gear:
    """A piece from its data. Raises FileError."""
    if data.get("format") != FORMAT:
        raise FileError(f"{where}: “format” must be “{FORMAT}”; this is no piece of gear")
    version = version_of(where, data, VERSION, 1)
    only_keys(where, data, ("format", "version", "piece"))
    try:
        piece = data.get("piece")
        return _PIECE.validate_python(piece if version == VERSION else piece_with_tokens(piece))
    except ValidationError as error:
        raise FileError(f"{where}: {one_line(error, data.get('piece'))}") from None
