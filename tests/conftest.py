"""Shared: a demo station on a temporary disk, a typed-in station, settings kept out of the home."""

from __future__ import annotations

import functools
import json
import os
import shutil
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from tests.memo import begin_test, memory
from tonleiter.app.demo import shipped_demo
from tonleiter.core.gear.voice import Effort
from tonleiter.core.guide import onair
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import Pitch, voice
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station

# how long a draw takes is the machine's matter: a second beside other work is no failure
settings.register_profile(
    "any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("any machine")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--whole", action="store_true", help="long tests and all rows of long tables")
    parser.addoption("--rest", action="store_true", help="only what a usual run leaves out")


# what takes longest is begun first: two workers then end together
LONG = ("tests/app", "tests/test_cli.py", "tests/core/prove", "tests/core/plan", "tests/core/setup")


def _how_late(item: pytest.Item) -> int:
    where = item.nodeid
    return next((k for k, name in enumerate(LONG) if where.startswith(name)), len(LONG))


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """A usual run leaves out what is long, and takes every so many-th row of a long table."""
    items.sort(key=_how_late)
    if config.getoption("--whole"):
        return
    rows: Counter[str] = Counter()
    usual, rest = [], []
    for item in items:
        (usual if _is_usual(item, rows) else rest).append(item)
    kept, left = (rest, usual) if config.getoption("--rest") else (usual, rest)
    if left:
        config.hook.pytest_deselected(items=left)
        items[:] = kept


def _is_usual(item: pytest.Item, rows: Counter[str]) -> bool:
    if item.get_closest_marker("long"):
        return False
    table = item.get_closest_marker("table")
    if table is None:
        return True
    name = item.nodeid.partition("[")[0]
    rows[name] += 1
    return (rows[name] - 1) % table.kwargs["keep"] == 0


@functools.cache
def few_words(pitch: Pitch, effort: Effort = "normal") -> Sound:
    """Four seconds of a voice say what thirteen do."""
    sound = voice(pitch, effort)
    cut = Sound(sound.samples[: 4 * sound.rate_hz], sound.rate_hz)
    return cut.times(1 / active_level(cut).rms)


@pytest.fixture(scope="session", autouse=True)
def short_voices() -> Iterator[None]:
    """Whoever is sent through a chain is brief; the voices themselves have tests of theirs."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(onair, "voice", few_words)
        yield


@pytest.fixture(scope="session", autouse=True)
def answers_are_remembered() -> Iterator[None]:
    """The same demo, solved in most tests, is solved once."""
    with memory():
        yield


@pytest.fixture(autouse=True)
def of_its_own_package_nothing_is_remembered(
    answers_are_remembered: None, request: pytest.FixtureRequest
) -> None:
    begin_test(request.path)


@pytest.fixture
def demo_folder(tmp_path: Path) -> Path:
    folder = tmp_path / "hochtal.station"
    # whoever has it open just now, or was killed with it, has nothing to do with the copy
    shutil.copytree(shipped_demo(), folder, ignore=shutil.ignore_patterns(".station.lock"))
    return folder


@pytest.fixture
def demo(demo_folder: Path) -> Station:
    return read_station(demo_folder).station


@pytest.fixture
def demo_data(demo_folder: Path) -> dict[str, Any]:
    data: dict[str, Any] = json.loads((demo_folder / "station.json").read_text("utf-8"))
    return data


@functools.cache
def mended_demo() -> Station:
    """The demo once the transformer's winding is blocked from the HF set's volts."""
    return mended(read_station(shipped_demo()).station, "hf-chat", "with-transformer")


def mended(station: Station, chain: str, variant: str) -> Station:
    """A station with every stop of a variant mended by the first remedy that is offered."""
    while stops := (found := verdict_of(station, chain, variant)).stops():
        station = found.remedies(stops[0])[0].change(station)
    return station


def station_of(*gear: dict[str, Any], purpose: str = "ssb-chat", **chain: Any) -> Station:
    """A station typed in for one test: one chain through the gear in its order."""
    return Station.model_validate(
        {
            "title": "Bench",
            "operators": [{"id": "op", "name": "operator"}],
            "gear": list(gear),
            "chains": [
                {
                    "id": "c",
                    "name": "chain",
                    "purpose": purpose,
                    "operator": "op",
                    "distance_mm": 25,
                    "variants": [
                        {"id": "v", "name": "v", "stages": [{"gear": g["id"]} for g in gear]}
                    ],
                    "shown": "v",
                    **chain,
                }
            ],
        }
    )


def gear(kind: str, id: str, **figures: Any) -> dict[str, Any]:
    """A piece of gear for ``station_of``."""
    return {"id": id, "name": id.replace("-", " "), "kind": kind, **figures}
