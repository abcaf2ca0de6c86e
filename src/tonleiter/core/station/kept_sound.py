"""Recordings beside a station: written as FLAC, found again, carried along, orphans named."""

from __future__ import annotations

import hashlib
import io
import shutil
from collections.abc import Iterable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.station.disk import spoken, write_file
from tonleiter.core.station.recording import Recording

FOLDER = "recordings"
# what is kept, and what was written while it was recorded
ENDINGS = (".flac", ".wav")


def keep(folder: Path, name: str, samples: NDArray[np.float64], rate_hz: int) -> tuple[str, str]:
    """Write samples (full scale one) as FLAC of 16 bits; the file's name and fingerprint.

    An older file of the same content is taken, another one of the same name is left alone. Raises
    FileError.
    """
    import soundfile  # imported when wanted

    made = io.BytesIO()
    soundfile.write(made, np.clip(samples, -1.0, 1.0), rate_hz, format="FLAC", subtype="PCM_16")
    content = made.getvalue()
    sha = hashlib.sha256(content).hexdigest()
    where = folder / FOLDER
    with spoken(where, "cannot be made"):
        where.mkdir(parents=True, exist_ok=True)
    file, number = f"{name}.flac", 1
    while (where / file).exists():
        if fingerprint_of(where / file) == sha:
            return file, sha
        number += 1
        file = f"{name}-{number}.flac"
    write_file(where / file, content)
    return file, sha


def fingerprint_of(file: Path) -> str:
    """Of a file's content; empty where it cannot be read."""
    try:
        with file.open("rb") as raw:
            return hashlib.file_digest(raw, "sha256").hexdigest()
    except OSError:
        return ""


def place_of(folder: Path, recording: Recording) -> Path:
    """Where it lies."""
    return folder / FOLDER / recording.file


def carry(recordings: Iterable[Recording], old: Path, new: Path) -> tuple[str, ...]:
    """Copy recordings to another folder; the names of those that could not be."""
    lost = []
    for recording in recordings:
        source, target = place_of(old, recording), place_of(new, recording)
        if target.exists() and fingerprint_of(target) == recording.sha256:
            continue
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(source, target)
        except OSError:
            lost.append(recording.name)
    return tuple(lost)


def orphans(
    recordings: Iterable[Recording], folder: Path
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Files that no record names, and records whose file is gone; by name."""
    named = {r.file: r.name for r in recordings}
    where = folder / FOLDER
    try:
        there = {f.name for f in where.iterdir() if f.suffix in ENDINGS}
    except OSError:
        there = set()
    return tuple(sorted(there - set(named))), tuple(named[f] for f in sorted(set(named) - there))
