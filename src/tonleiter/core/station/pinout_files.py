"""Pinouts as JSON files, so that what one person read from a manual serves another."""

from __future__ import annotations

import json
from pathlib import Path

from pydantic import ValidationError

from tonleiter.core.station.devices import Connector
from tonleiter.core.station.disk import FileError, read_file, spoken, write_file
from tonleiter.core.station.files import json_object, only_keys, version_of
from tonleiter.core.station.model import VERSION
from tonleiter.core.station.refusal import one_line
from tonleiter.core.station.shells import SHELLS
from tonleiter.core.words import quoted

FORMAT = "tonleiter-pinout"
_KEYS = ("format", "version", "pinout")
OLDEST = 5


def pinout_text(connector: Connector) -> str:
    """The text of a pinout's file: the connector without the sockets that it serves."""
    pinout = connector.model_dump(mode="json", exclude={"ports"})
    data = {"format": FORMAT, "version": VERSION, "pinout": pinout}
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def write_pinout(connector: Connector, file: Path) -> None:
    """Write a pinout, the old file or the new one. Raises FileError."""
    write_file(file, pinout_text(connector).encode())


def read_pinout(file: Path) -> Connector:
    """Read a pinout. Raises FileError with one line: what, where, what is wanted."""
    with spoken(file, "cannot be read"):
        content = read_file(file)
    where = str(file)
    data = json_object(where, content)
    if data.get("format") != FORMAT:
        raise FileError(f"{where}: “format” must be “{FORMAT}”; this is no pinout")
    version_of(where, data, VERSION, OLDEST)
    only_keys(where, data, _KEYS)
    try:
        connector = Connector.model_validate(data.get("pinout"))
    except ValidationError as error:
        raise FileError(f"{where}: {one_line(error, data.get('pinout'))}") from None
    seen: set[str] = set()
    labels = SHELLS[connector.shell].labels
    for contact in connector.contacts:
        if contact.label in seen:
            raise FileError(f"{where}: contact {quoted(contact.label)} is there twice")
        if contact.label not in labels:
            raise FileError(
                f"{where}: there is no contact called {quoted(contact.label)};"
                f" known: {', '.join(labels)}"
            )
        seen.add(contact.label)
    return connector
