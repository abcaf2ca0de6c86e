"""Photos of entries: beside the log under a name of their content, so that none is there twice."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable
from pathlib import Path

from tonleiter.core.refused import RefusedError
from tonleiter.core.station.disk import read_file, spoken, write_file

FOLDER = "photos"
PHOTO_NAME = re.compile(r"^[0-9a-f]{24}\.(?:jpg|png)$")
MOST_BYTES = 24 * 1024 * 1024
# how files begin: an ending says nothing of what is in them
_BEGINS = ((b"\xff\xd8\xff", "jpg"), (b"\x89PNG\r\n\x1a\n", "png"))


class PhotoError(RefusedError):
    """A photo that cannot be taken; one line says which, why, what would be accepted."""


def keep_photo(folder: Path, file: Path) -> str:
    """Copy a photo into a station; its name there. Raises PhotoError, FileError."""
    with spoken(file, "cannot be read"):
        content = read_file(file, MOST_BYTES)
    ending = next((e for begins, e in _BEGINS if content.startswith(begins)), None)
    if ending is None:
        raise PhotoError(f"{file}: this is no photo; JPEG or PNG is wanted")
    name = f"{hashlib.sha256(content).hexdigest()[:24]}.{ending}"
    target = folder / FOLDER / name
    if not target.exists():
        with spoken(target.parent, "cannot be made"):
            target.parent.mkdir(parents=True, exist_ok=True)
        write_file(target, content)
    return name


def carry_photos(old: Path, new: Path) -> tuple[str, ...]:
    """Copy all photos to another folder; the names of those that could not be."""
    if old.resolve() == new.resolve():
        return ()
    lost = []
    for source in photos_in(old):
        target = new / FOLDER / source.name
        if target.exists():
            continue
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            write_file(target, source.read_bytes())
        except (OSError, RefusedError):
            lost.append(f"photo {source.name}")
    return tuple(lost)


def photos_in(folder: Path) -> tuple[Path, ...]:
    """Photos that lie beside a log, by name."""
    try:
        there = [f for f in (folder / FOLDER).iterdir() if PHOTO_NAME.match(f.name)]
    except OSError:
        return ()
    return tuple(sorted(f for f in there if f.is_file()))


def missing(folder: Path, names: Iterable[str]) -> tuple[str, ...]:
    """Photos that an entry names and that are not there."""
    return tuple(n for n in names if not (folder / FOLDER / n).is_file())
