"""Boxes with their sockets as JSON files; a piece by itself has a file of its own kind."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.catalogue import AnyGear
from tonleiter.core.gear.own_circuit import OwnCircuit
from tonleiter.core.station import pieces
from tonleiter.core.station.boxes import add_device
from tonleiter.core.station.devices import Device
from tonleiter.core.station.disk import FileError, read_file, spoken, write_file
from tonleiter.core.station.edits import add_gear, fresh_id
from tonleiter.core.station.files import json_object, only_keys, version_of
from tonleiter.core.station.model import VERSION, Station
from tonleiter.core.station.refusal import one_line
from tonleiter.core.words import quoted

FORMAT = "tonleiter-box"
SUFFIX = ".box.json"
# netlist cards, as a piece
CARDS = (".cir", ".net", ".sp")
# boxes came with this version
OLDEST = 4
_SOCKETS: TypeAdapter[tuple[AnyGear, ...]] = TypeAdapter(tuple[AnyGear, ...])
_KEYS = ("format", "version", "device", "sockets")


@dataclass(frozen=True)
class Arrived:
    """What a file brought: a box with its sockets, or a piece by itself."""

    sockets: tuple[Gear, ...]
    device: Device | None = None

    @property
    def name(self) -> str:
        """What it is called."""
        return self.sockets[0].name if self.device is None else self.device.name

    def put_on(self, station: Station) -> Station:
        """Add it to the shelf."""
        if self.device is None:
            return add_gear(station, self.sockets[0])
        return add_device(station, self.device, self.sockets)


def box_text(station: Station, device_id: str) -> str:
    """The text of a box's file."""
    device = station.device_by_id[device_id]
    sockets = [station.gear_by_id[p].model_dump(mode="json") for p in device.ports]
    data = {"format": FORMAT, "version": VERSION, "device": device.model_dump(mode="json")}
    return json.dumps(data | {"sockets": sockets}, indent=2, ensure_ascii=False) + "\n"


def save_box(station: Station, device_id: str, file: Path) -> None:
    """Write a box, the old file or the new one. Raises FileError."""
    write_file(file, box_text(station, device_id).encode())


def read_arrival(file: Path) -> Arrived:
    """Read a box or a piece. Raises FileError with one line: what, where, what is wanted."""
    with spoken(file, "cannot be read"):
        content = read_file(file)
    if file.suffix.lower() in CARDS:
        return Arrived((_own_circuit(file, content),))
    data = json_object(str(file), content)
    if data.get("format") == FORMAT:
        return box_of(data, str(file))
    return Arrived((pieces.piece_of(data, str(file)),))


def _own_circuit(file: Path, content: bytes) -> Gear:
    """Cards as a piece, called after their file; its nodes are ``in`` and ``out``."""
    try:
        name = file.stem[:80].strip() or "own circuit"
        data = {"id": fresh_id(set(), name), "name": name, "cards": content.decode("utf-8")}
        return OwnCircuit.model_validate(data)
    except UnicodeDecodeError as error:
        raise FileError(f"{file}: byte {error.start} is not UTF-8 text") from None
    except ValidationError as error:
        raise FileError(f"{file}: {one_line(error, None, OwnCircuit)}") from None


def box_of(data: dict[str, Any], where: str) -> Arrived:
    """A box from its data. Raises FileError."""
    version_of(where, data, VERSION, OLDEST)
    only_keys(where, data, _KEYS)
    try:
        device = Device.model_validate(data.get("device"))
        sockets = _SOCKETS.validate_python(data.get("sockets"))
        # a station of nothing else says whether the two belong together
        Station.model_validate(
            {
                "title": "box",
                "operators": [{"id": "x", "name": "x"}],
                "gear": sockets,
                "devices": (device,),
            }
        )
    except ValidationError as error:
        raise FileError(f"{where}: {one_line(error, data)}") from None
    strays = [s.id for s in sockets if s.id not in device.ports]
    if strays:
        raise FileError(f"{where}: {quoted(strays[0])} is no socket of the box")
    return Arrived(sockets, device)
