"""What two trees say of the same stations: levels, findings, sheets; every difference is listed.

``python -m benchmarks.same OLD``: the stations are all pairs of the library's sources and inputs,
and two hundred made by chance from it. OLD is the root of another checkout (``git worktree``).
"""

from __future__ import annotations

import argparse
import contextlib
import io
import json
import os
import random
import re
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

GENERATED = 200
# figures that are this near to each other are the same: decibels, volts, ohms by their size
ABSOLUTE, RELATIVE = 0.02, 2e-3


def _piece(entry: Any, name: str, rng: random.Random) -> dict[str, Any]:
    """An entry of the library as a piece, now and then with one figure moved by a quarter."""
    data: dict[str, Any] = entry.model_dump(mode="json", exclude_defaults=True)
    data |= {"id": name, "kind": entry.kind_id, "name": entry.name}
    figures = sorted(entry.figures())
    if figures and rng.random() < 0.5:
        field = rng.choice(figures)
        value = entry.figure(field).value * rng.uniform(0.8, 1.25)
        with contextlib.suppress(Exception):
            entry.with_values({field: value})
            data[field] = value
    return data


def make_stations(into: Path) -> list[Path]:
    """Write the stations as folders in the format of the tree that this runs in."""
    from tonleiter.core.gear.library import parts_library
    from tonleiter.core.station.files import save_station
    from tonleiter.core.station.model import Station

    library = list(parts_library().values())
    by_role = {r: [g for g in library if g.role == r] for r in ("microphone", "between", "input")}
    rng = random.Random(21)
    paths = [(s, t) for s in by_role["microphone"] for t in by_role["input"]]
    for _ in range(GENERATED):
        between = rng.sample(by_role["between"], rng.randint(0, 4))
        paths.append((rng.choice(by_role["microphone"]), *between, rng.choice(by_role["input"])))
    made = []
    for k, path in enumerate(paths):
        rng = random.Random(k)
        spoken = path[0].acoustic
        purpose = rng.choice(("ssb-chat", "fm-voice", "am-voice") if spoken else ("data-weak",))
        pieces = [
            _piece(g, f"p{i}", rng if k >= len(paths) - GENERATED else random.Random(1))
            for i, g in enumerate(path)
        ]
        chain = {
            "id": "c",
            "name": "chain",
            "operator": "op",
            "shown": "v",
            "purpose": purpose,
            "distance_mm": rng.choice((15, 30, 80)),
            "variants": [{"id": "v", "name": "v", "stages": [{"gear": p["id"]} for p in pieces]}],
        }
        station = Station.model_validate(
            {
                "title": f"s{k}",
                "operators": [{"id": "op", "name": "op"}],
                "gear": pieces,
                "chains": [chain],
            }
        )
        folder = into / f"{k:04}.station"
        save_station(station, folder, None, None)
        made.append(folder)
    return made


def answers(folders: list[Path], out: Path) -> None:
    """What this tree says of each station, as one JSON file."""
    from tonleiter.cli import main

    told: dict[str, Any] = {}
    for folder in folders:
        one: dict[str, Any] = {}
        for command in ("levels", "wiring"):
            sheet = folder.parent / "sheet.svg"
            more = ["--svg", str(sheet)] if command == "wiring" else []
            text = io.StringIO()
            errors = io.StringIO()
            try:
                with contextlib.redirect_stdout(text), contextlib.redirect_stderr(errors):
                    code = main([command, str(folder), "--json", *more])
                one[command] = {"exit": code, "said": errors.getvalue()}
                if text.getvalue():
                    one[command]["json"] = json.loads(text.getvalue())
            except Exception as error:  # told like everything else
                one[command] = {"raised": f"{type(error).__name__}: {error}"}
        told[folder.name] = one
    out.write_text(json.dumps(told), "utf-8")


def differences(old: Any, new: Any, at: str = "") -> list[str]:
    """Where two answers differ by more than rounding."""
    if isinstance(old, dict) and isinstance(new, dict):
        found = []
        for key in dict.fromkeys([*old, *new]):
            if key not in old or key not in new:
                found.append(f"{at}.{key}: {'only new' if key not in old else 'only old'}")
            else:
                found += differences(old[key], new[key], f"{at}.{key}")
        return found
    if isinstance(old, list) and isinstance(new, list):
        found = [f"{at}: {len(old)} entries, now {len(new)}"] if len(old) != len(new) else []
        for k, (a, b) in enumerate(zip(old, new, strict=False)):
            found += differences(a, b, f"{at}[{k}]")
        return found
    if isinstance(old, float | int) and isinstance(new, float | int):
        if abs(old - new) <= max(ABSOLUTE * _unit(at), RELATIVE * max(abs(old), abs(new))):
            return []
    elif old == new:
        return []
    return [f"{at}: {str(old)[:90]} -> {str(new)[:90]}"]


def _unit(at: str) -> float:
    """How large a hundredth is: whole for decibels and hertz, else what meters show."""
    return 1.0 if at.endswith(("_db", "_dbu", "_hz", "]")) else 1e-3


def kinds(found: list[str]) -> list[str]:
    """Differences of one kind counted, with one of them."""
    by_kind: dict[str, list[str]] = {}
    for line in found:
        kind = re.sub(r"\[\d+\]", "[]", line.split(": ", 1)[0].split(".station", 1)[1])
        by_kind.setdefault(kind, []).append(line)
    rows = sorted(by_kind.items(), key=lambda item: -len(item[1]))
    return [f"{len(lines):6}  {kind}\n          {lines[0]}" for kind, lines in rows]


def main() -> int:
    """Compare this tree with another one."""
    parser = argparse.ArgumentParser(prog="scripts/same", description=__doc__)
    parser.add_argument("old", type=Path, nargs="?", help="root of the other checkout")
    parser.add_argument("--most", type=int, default=60, help="differences to list")
    parser.add_argument("--answer", nargs=2, type=Path, help=argparse.SUPPRESS)
    parser.add_argument("--make", type=Path, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.make:
        make_stations(options.make)
        return 0
    if options.answer:
        answers(sorted(options.answer[0].glob("*.station")), options.answer[1])
        return 0
    here = Path(__file__).resolve().parent.parent
    with tempfile.TemporaryDirectory(prefix="tonleiter-same-") as place:
        old, new = Path(place) / "old", Path(place) / "new"
        _run(options.old, "--make", str(old))
        _run(options.old, "--make", str(new))
        for root, folder in ((options.old, old), (here, new)):
            _run(root, "--answer", str(folder), f"{folder}.json")
        told = [json.loads(Path(f"{f}.json").read_text("utf-8")) for f in (old, new)]
    text = json.dumps(told[1]).replace("/new/", "/old/")
    found = differences(told[0], json.loads(text))
    touched = {line.split(".station", 1)[0] for line in found}
    print(f"{len(told[0])} stations, {len(touched)} with a difference, {len(found)} differences")
    for line in kinds(found)[: options.most]:
        print(line)
    return 1 if found else 0


def _run(root: Path, *arguments: str) -> None:
    """This file in the tree below ``root``."""
    env = os.environ | {"PYTHONPATH": str(root / "src"), "QT_QPA_PLATFORM": "offscreen"}
    subprocess.run([sys.executable, __file__, *arguments], check=True, env=env, cwd=root)


if __name__ == "__main__":
    sys.exit(main())
