"""The rules of imports name every room there is: a new folder cannot stand outside of them."""

import re
import tomllib
from pathlib import Path

import tonleiter
from tonleiter.app.spaces.registry import SPACES

ROOT = Path(tonleiter.__file__).parent
PROJECT = tomllib.loads((Path(__file__).resolve().parents[1] / "pyproject.toml").read_text("utf-8"))
CONTRACTS = {c["name"]: c for c in PROJECT["tool"]["importlinter"]["contracts"]}


def rooms(folder):
    return {p.parent.name for p in (ROOT / folder).glob("*/__init__.py")}


def test_every_space_is_kept_from_every_other():
    named = CONTRACTS["spaces do not import each other"]["modules"]
    assert {n.rpartition(".")[2] for n in named} == rooms("app/spaces")
    assert {e.made_by.partition(".")[0] for e in SPACES} == rooms("app/spaces")


def test_every_room_of_the_core_has_its_layer():
    named = CONTRACTS["core is layered, room over room"]["layers"]
    assert {n.rpartition(".")[2] for n in named} == rooms("core")


def test_every_command_is_a_file_of_its_own():
    from tonleiter.cli.main import COMMANDS

    shared = {"__init__", "__main__", "main", "chain", "common", "man", "terms"}
    files = {p.stem for p in (ROOT / "cli").glob("*.py")} - shared
    assert set(COMMANDS) == files


def test_no_sentence_puts_an_article_before_a_name_by_itself():
    """Who calls a piece “my mixer” reads no “the my mixer”: ``the(name)`` knows."""
    before = re.compile(r'[Tt]he(?: |"\n\s*f" )\{[a-z_.\[\]0-9]*\.name\}')
    found = [
        f"{p.relative_to(ROOT)}: {m[0]}"
        for p in ROOT.rglob("*.py")
        for m in before.finditer(p.read_text("utf-8"))
    ]
    assert found == []
