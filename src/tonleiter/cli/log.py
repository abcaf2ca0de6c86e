"""The commands `log`, `backup` and `restore`: a station's history, and all of it in one file."""

from __future__ import annotations

import argparse
import sys
from datetime import datetime
from pathlib import Path
from typing import Any

from tonleiter.cli.common import RAN, BadInputError, complain, print_json
from tonleiter.core.log.adif import write_adif
from tonleiter.core.log.arriving import arriving
from tonleiter.core.log.backup import backup, restore
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.exported import log_csv, row_of
from tonleiter.core.log.repair import repair
from tonleiter.core.log.store import LogStore
from tonleiter.core.log.telling import headline, lanes_of, sayings
from tonleiter.core.station.files import read_station
from tonleiter.core.words import quoted

MOST_SAID = 20


def add(commands: Any) -> None:  # noqa: ANN401 - argparse keeps its type to itself
    """Add the commands to a parser's subparsers."""
    log = commands.add_parser("log", help="what was reported, changed and set")
    log.add_argument("station", type=Path, metavar="STATION")
    log.add_argument("--since", metavar="DATE", help="from a day on, as 2026-05-14")
    log.add_argument("--find", metavar="WORDS", default="", help="entries that have all of them")
    log.add_argument(
        "--take", type=Path, metavar="FILE", help="take over a file of contacts, ADIF, or a CSV"
    )
    log.add_argument(
        "--repair", action="store_true", help="write what can be read of a damaged log anew"
    )
    how = log.add_mutually_exclusive_group()
    how.add_argument("--csv", action="store_true", help="print a line for each")
    how.add_argument("--adif", action="store_true", help="print reports as contacts, ADIF 3")
    how.add_argument("--json", action="store_true", help="print JSON; keys carry zones")
    log.set_defaults(run=_log)
    out = commands.add_parser("backup", help="a whole station in one file, with checksums")
    out.add_argument("station", type=Path, metavar="STATION")
    out.add_argument("file", type=Path, metavar="FILE.zip")
    out.set_defaults(run=_backup)
    back = commands.add_parser("restore", help="a station out of a backup, into a new folder")
    back.add_argument("file", type=Path, metavar="FILE.zip")
    back.add_argument("folder", type=Path, metavar="FOLDER")
    back.set_defaults(run=_restore)


def _log(options: argparse.Namespace) -> int:
    since = None
    if options.since is not None:
        try:
            since = datetime.fromisoformat(options.since).astimezone()
        except ValueError:
            raise BadInputError(f"--since {quoted(options.since)}: 2026-05-14 is wanted") from None
    folder = read_station(options.station).folder
    if options.repair:
        made = repair(folder)
        print(
            f"{made.entries} entries are written anew; the damaged file is kept: {made.kept}",
            file=sys.stderr,
        )
    store = LogStore(folder)
    try:
        if options.take is not None:
            _take(store, options.take)
        entries = store.entries(since, find=options.find)
    finally:
        store.close()
    if store.trouble:
        complain(store.trouble)
    _print(entries, options)
    return RAN


def _take(store: LogStore, file: Path) -> None:
    """Take over what is valid and new; what is not is said, a line each."""
    read = arriving(file, str(file), store.entries())
    store.add_all((e, None) for e in read.fresh)
    print(
        f"{len(read.fresh)} taken over, {read.known} known already, {len(read.refused)} refused",
        file=sys.stderr,
    )
    for line in read.refused[:MOST_SAID]:
        print(line, file=sys.stderr)
    if len(read.refused) > MOST_SAID:
        print(f"and {len(read.refused) - MOST_SAID} more", file=sys.stderr)


def _print(entries: tuple[LogEntry, ...], options: argparse.Namespace) -> None:
    if options.csv:
        print(log_csv(entries), end="")
    elif options.adif:
        print(write_adif(entries).decode(), end="")
    else:
        said = sayings(lanes_of(entries), datetime.now().astimezone())
        if options.json:
            told = [{"grave": s.grave, "says": s.says, "proof": s.proof, "microphone": s.lane}
                    for s in said]  # fmt: skip
            print_json({"says": headline(entries, said), "sayings": told,
                        "entries": [row_of(e) for e in entries]})  # fmt: skip
            return
        print(headline(entries, said))
        for e in entries:
            who = f"  {e.who}" if e.who else ""
            print(f"{e.when:%Y-%m-%d %H:%M}  {e.kind:11}  {e.microphone or '':22}  {e.says()}{who}")


def _backup(options: argparse.Namespace) -> int:
    names = backup(options.station, options.file)
    print(f"{options.file}: {len(names)} files")
    return RAN


def _restore(options: argparse.Namespace) -> int:
    names = restore(options.file, options.folder)
    print(f"{options.folder}: {len(names)} files")
    return RAN
