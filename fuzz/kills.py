"""Saves that are killed, and disks that refuse: the old content or the new one, never half."""

from __future__ import annotations

import errno
import os
import random
import signal
import time
from pathlib import Path

from fuzz.campaign import Bound, Tally, attempt, generator
from tonleiter.app.demo import shipped_demo
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.disk import fingerprint
from tonleiter.core.station.edits import change_station
from tonleiter.core.station.files import read_station, save_station


def kills(seed: int, bound: Bound, folder: Path) -> Tally:
    """``kill -9`` at any moment of a save; swept and readable afterwards."""
    tally, rng = Tally("kills"), generator(seed, "kills")
    place = folder / "killed.station"
    save_station(change_station(read_station(shipped_demo()).station, title="save 0"), place)
    while not bound.reached(tally):
        attempt(tally, lambda: _killed_once(place, rng), place)
    return tally


def _killed_once(place: Path, rng: random.Random) -> None:
    """A forked process saves over and over; one that is killed says up to where it came."""
    reads, writes = os.pipe()
    child = os.fork()
    if child == 0:
        _save_for_ever(place, writes)
    os.close(writes)
    with os.fdopen(reads, "rb") as said_by_child:
        said_by_child.read(1)  # it has begun
        time.sleep(rng.random() * 0.03)
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        said = said_by_child.read().split()
    last = int(said[-1]) if said else 0
    opened = read_station(place)
    number = int(opened.station.title.removeprefix("save "))
    # what was said to be saved is there, or the one that was being saved when it was killed
    if number not in (last, last + 1):
        raise AssertionError(f"save {number} lies there after save {last}")
    save_station(change_station(opened.station, title="save 0"), place, opened.fingerprint)
    rests = [p.name for p in place.iterdir() if p.name.endswith(".new")]
    if rests:
        raise AssertionError(f"left lying: {rests}")
    if list(place.glob("*.kept-*")):
        raise AssertionError("a copy was kept although nobody else wrote")


def _save_for_ever(place: Path, writes: int) -> None:
    try:
        opened = read_station(place)
        os.write(writes, b".")
        for number in range(1, 1_000_000):
            changed = change_station(opened.station, title=f"save {number}")
            opened = save_station(changed, place, opened.fingerprint)
            os.write(writes, b"%d " % number)
    finally:
        os._exit(1)


def disk(seed: int, bound: Bound, folder: Path) -> Tally:
    """Every call to the system may fail once, in turn; the old file is whole and nothing lies about."""
    tally, rng = Tally("disk"), generator(seed, "disk")
    place = folder / "disk.station"
    station = read_station(shipped_demo()).station
    save_station(station, place)
    calls = ("open", "fsync", "fchmod", "fchown", "close")
    codes = (errno.ENOSPC, errno.EACCES, errno.EIO, errno.EROFS, errno.EDQUOT)
    while not bound.reached(tally):
        name, code, after = rng.choice(calls), rng.choice(codes), rng.randrange(4)
        before = (place / "station.json").read_bytes()
        attempt(tally, lambda: _failing(place, station, name, code, after), (name, code, after))
        now = (place / "station.json").read_bytes()
        if now != before and b"changed" not in now:
            tally.fault("a file that is neither old nor new", (name, code, after))
        rests = [p.name for p in place.iterdir() if p.name != "station.json"]
        if rests:
            tally.fault("left lying", rests)
        for rest in rests:
            (place / rest).unlink()
        (place / "station.json").write_bytes(before)
    return tally


def _failing(place: Path, station: object, name: str, code: int, after: int) -> None:
    known = fingerprint((place / "station.json").read_bytes())
    real, left = getattr(os, name), [after]

    def call(*arguments: object, **options: object) -> object:
        left[0] -= 1
        if left[0] == -1:
            if name == "close":
                real(*arguments)
            raise OSError(code, os.strerror(code))
        return real(*arguments, **options)

    setattr(os, name, call)
    try:
        save_station(change_station(station, title="changed"), place, known)  # type: ignore[arg-type]
    except RefusedError:
        raise
    finally:
        setattr(os, name, real)
