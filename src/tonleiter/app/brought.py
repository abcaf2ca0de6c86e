"""What somebody drops on the window, or opens as a file: told apart by what it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from tonleiter.app.spaces.registry import SPACES
from tonleiter.core.station.files import STATION_FILE

COPY = ".zip"
TAKEN = (
    "a station's folder, a copy of one (.zip), a piece (.json), cards of a circuit (.cir) or a"
    " recording (.wav, .flac, .ogg)"
)


@dataclass
class Brought:
    """Files by what is done with them."""

    stations: list[Path] = field(default_factory=list)
    copies: list[Path] = field(default_factory=list)
    for_space: dict[str, list[Path]] = field(default_factory=dict)
    strange: list[Path] = field(default_factory=list)


def sorted_out(files: Sequence[Path]) -> Brought:
    """Tell files apart, by their endings; nothing is read yet."""
    made = Brought()
    for file in files:
        ending = file.suffix.lower()
        space = next((e.name for e in SPACES if ending in e.takes), None)
        if file.is_dir() or file.name == STATION_FILE:
            made.stations.append(file)
        elif ending == COPY:
            made.copies.append(file)
        elif space is not None:
            made.for_space.setdefault(space, []).append(file)
        else:
            made.strange.append(file)
    return made


def take(
    brought: Brought,
    open_station: Callable[[Path], object],
    open_copy: Callable[[Path], object],
    give_to: Callable[[str, Sequence[Path]], object],
    refuse: Callable[[str], object],
) -> None:
    """Do with each kind what is done with it; one line on what cannot be taken."""
    if brought.stations:
        open_station(brought.stations[0])
    elif brought.copies:
        open_copy(brought.copies[0])
    for space, files in brought.for_space.items():
        give_to(space, files)
    if brought.strange:
        refuse(f"{brought.strange[0].name}: {TAKEN} can be dropped here")
