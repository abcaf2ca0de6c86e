"""Answers of the core that were worked out once in a run of the tests are taken again.

The core is pure: the same station has the same answer. Most tests of the window begin at the same
demo, and solved it anew each time. The tests of a package take nothing from memory that this
package itself works out, and whoever patches anything below ``tonleiter.core`` in a test gets
everything worked out afresh in that test, and keeps nothing.
"""

from __future__ import annotations

import functools
import gc
import hashlib
import importlib
import sys
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from pydantic import BaseModel

# of each function so many answers; of pairs a whole grid
MOST = 32
MANY = {
    "tonleiter.core.match.pair:match_pair": 600,
    "tonleiter.core.judge.assess:assess": 200,
    "tonleiter.core.judge.verdict:verdict_of": 100,
}
PURE = (
    "tonleiter.core.judge.assess:assess",
    "tonleiter.core.judge.verdict:verdict_of",
    "tonleiter.core.judge.verdict:Verdict.remedies",
    "tonleiter.core.judge.assess:remedies",
    "tonleiter.core.judge.wiring.schools:schools",
    "tonleiter.core.judge.certainty:weigh",
    "tonleiter.core.match.pair:match_pair",
    "tonleiter.core.solve.spread:solve_spread",
    "tonleiter.core.learn.learned:learn",
    "tonleiter.core.guide.onair:on_air",
    "tonleiter.core.setup.modes:scene_of",
    "tonleiter.core.setup.costs:costs_of_schools",
    "tonleiter.core.bench.scope:traces",
    "tonleiter.core.bench.scope:flattens_at",
    "tonleiter.core.report.why.level:why_level",
    "tonleiter.core.report.why.finding:why_finding",
    "tonleiter.app.spaces.listen.slots:take_file",
    "tonleiter.app.spaces.prove.benches:proof_on_bench",
)
# of these a function among the arguments is told how far it is, and changes nothing
TELL = ("tonleiter.app.spaces.listen.slots:take_file",)


# what is drawn many times for people is drawn fewer times where nobody counts the draws: in the
# tests outside of the core. Draws of levels are judged one by one, those of readings are not.
BRIEF = {
    "tonleiter.core.solve.spread:solve_spread": (2, 40),
    "tonleiter.core.learn.learned:learn": (2, 100),
}
# what is patched there reaches none of these
ELSEWHERE = ("tonleiter.core.learn.reckoned",)


class _State:
    """Whether something of the core is patched now, whose tests run, and whether they are brief."""

    patched = False
    brief = False
    package = ""
    file: Path | None = None


def _key(value: object) -> object:
    """What tells two arguments apart: what they hold, or which they are where nothing hashes."""
    if isinstance(value, BaseModel):
        # a station holds mappings, and those have no hash
        return (type(value), hashlib.blake2b(value.model_dump_json().encode()).digest())
    if isinstance(value, Path):
        # a file is what lies there, and may be another one tomorrow
        there = value.stat() if value.is_file() else None
        return (value, there and (there.st_mtime_ns, there.st_size))
    if isinstance(value, Mapping):
        return ("map", tuple(sorted((str(k), _key(v)) for k, v in value.items())))
    if isinstance(value, list | tuple):
        return ("row", tuple(_key(v) for v in value))
    try:
        by_what_it_is = type(value).__hash__ is object.__hash__ or hash(value) is None
    except TypeError:
        by_what_it_is = True
    return ("one", id(value)) if by_what_it_is else value


def remembered(
    compute: Callable[..., Any],
    tells: bool = False,
    most: int = MOST,
    brief: tuple[int, int] | None = None,
) -> Callable[..., Any]:
    """The function with a memory; arguments are kept alive as long as their answer.

    ``brief``: before which of its arguments come the draws, and how many do for whoever is brief.

    One that ``tells`` how far it is does so when it works something out, and not when it knows.
    """
    answers: OrderedDict[object, tuple[object, Any]] = OrderedDict()
    lock = threading.Lock()

    package = _package(compute.__module__)

    @functools.wraps(compute)
    def answer(*args: Any, **named: Any) -> Any:
        if brief is not None and _State.brief and len(args) <= brief[0] and "draws" not in named:
            named["draws"] = brief[1]
        # who asks by a function of its own asks for more than what stands in the arguments
        asks = not tells and any(callable(a) for a in (*args, *named.values()))
        if asks or _State.patched or _State.package == package:
            return compute(*args, **named)
        said = [(n, v) for n, v in (*enumerate(args), *named.items()) if not callable(v)]
        # what was worked out of few draws is no answer to who wants many
        key = (_State.brief, *((n, _key(v)) for n, v in said))
        with lock:
            if key in answers:
                answers.move_to_end(key)
                return answers[key][1]
        made = compute(*args, **named)
        with lock:
            answers[key] = ([v for _, v in said], made)
            while len(answers) > most:
                answers.popitem(last=False)
        return made

    return answer


@contextmanager
def memory() -> Iterator[None]:
    """Give a memory to what is pure, wherever its name was imported; as it was, afterwards."""
    undo: list[tuple[Any, str, Any]] = []
    for name in PURE:
        module_name, _, path = name.partition(":")
        owner: Any = importlib.import_module(module_name)
        *outer, last = path.split(".")
        for part in outer:
            owner = getattr(owner, part)
        compute = getattr(owner, last)
        wrapped = remembered(compute, name in TELL, MANY.get(name, MOST), BRIEF.get(name))
        places = [(owner, last)]
        if not outer:
            loaded = [m for n, m in list(sys.modules.items()) if n.startswith("tonleiter.")]
            places += [(m, k) for m in loaded for k, v in vars(m).items() if v is compute]
        for place, attribute in places:
            undo.append((place, attribute, getattr(place, attribute)))
            setattr(place, attribute, wrapped)
    with pytest.MonkeyPatch.context() as patch:
        _watch_patches(patch)
        yield
    for place, attribute, before in reversed(undo):
        setattr(place, attribute, before)


def _watch_patches(patch: pytest.MonkeyPatch) -> None:
    set_attribute = pytest.MonkeyPatch.setattr

    def watched(self: pytest.MonkeyPatch, target: Any, *rest: Any, **named: Any) -> None:
        where = target if isinstance(target, str) else _module_of(target)
        if where.startswith("tonleiter.core") and where not in ELSEWHERE:
            _State.patched = True
        set_attribute(self, target, *rest, **named)

    patch.setattr(pytest.MonkeyPatch, "setattr", watched)


def _module_of(target: Any) -> str:
    return str(getattr(target, "__module__", None) or getattr(target, "__name__", ""))


def begin_test(file: Path) -> None:
    """A test of that file begins: nothing of the core is patched yet."""
    _State.patched = False
    if file != _State.file:
        # what is remembered stays: nobody need look through it again and again for garbage
        _State.file = file
        gc.collect()
        gc.freeze()
    parts = file.parts
    _State.brief = "core" not in parts
    _State.package = parts[parts.index("core") + 1] if "core" in parts else ""


def _package(module: str) -> str:
    """Of ``tonleiter.core.judge.assess`` “judge”."""
    return module.split(".")[2]
