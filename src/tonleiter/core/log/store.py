"""The log on disk: ``log.sqlite`` in the station, one transaction an entry.

What is committed is there after any end of the program (rollback journal, full synchronisation).
Sealed entries are kept from change by the database itself. A log of a newer version or a damaged
one is opened to be read only.
"""

from __future__ import annotations

import contextlib
import json
import shutil
import sqlite3
import tempfile
import zlib
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from tonleiter.core.log.entry import EntryKind, LogEntry
from tonleiter.core.refused import RefusedError

LOG_FILE = "log.sqlite"
VERSION = 3
# a station that is larger is none
MOST_STATE = 64 * 1024 * 1024
# a page of a search
MOST_FOUND = 500

# each step leads from its number to the next; a new one is appended, none is ever edited
_STEPS: tuple[str, ...] = (
    """
    CREATE TABLE entry (
        number INTEGER PRIMARY KEY AUTOINCREMENT, t REAL NOT NULL, kind TEXT NOT NULL,
        chain_id TEXT, sealed INTEGER NOT NULL DEFAULT 0, body TEXT NOT NULL
    );
    CREATE INDEX entry_t ON entry (t);
    CREATE TABLE state (
        number INTEGER PRIMARY KEY REFERENCES entry (number), station BLOB NOT NULL
    );
    CREATE VIRTUAL TABLE found USING fts5 (said, content='');
    CREATE TRIGGER sealed_stays BEFORE UPDATE ON entry WHEN old.sealed
        BEGIN SELECT RAISE (ABORT, 'sealed'); END;
    CREATE TRIGGER sealed_is_kept BEFORE DELETE ON entry WHEN old.sealed
        BEGIN SELECT RAISE (ABORT, 'sealed'); END;
    """,
    """
    CREATE INDEX entry_chain ON entry (chain_id, t);
    """,
    # entries have tags and photos now, in their body: an older program would not read such ones
    """
    DROP INDEX entry_chain;
    CREATE INDEX entry_chain ON entry (chain_id, t);
    """,
)


class LogError(RefusedError):
    """The log cannot be read or written so; one line says what, where, what to do."""


class LogStore:
    """Entries of one station. Nothing is made on disk before the first entry is added.

    ``trouble`` says why it can only be read, if so; ``damaged`` whether it is for damage.
    """

    def __init__(self, folder: Path, looks_only: bool = False) -> None:
        """``looks_only``: not even half an entry of somebody who was killed is rolled back."""
        self._looks_only = looks_only
        self.file = folder / LOG_FILE
        self.trouble = ""
        self.damaged = False
        self._base: sqlite3.Connection | None = None
        self._writes = False
        self._held: tempfile.TemporaryDirectory[str] | None = None
        if self.file.exists():
            self._open()

    # --- opening ---------------------------------------------------------------------------------

    def _open(self) -> None:
        """Open what is there to be read: nothing of it changes before something is written."""
        try:
            self._base = self._reading()
            version = int(self._base.execute("PRAGMA user_version").fetchone()[0])
            (state,) = self._base.execute("PRAGMA quick_check(1)").fetchone()
            self._base.execute("SELECT count(*) FROM entry").fetchone()
        except sqlite3.Error as error:
            self.trouble = f"{self.file}: it cannot be opened ({error}): it is only read"
            self.damaged = "locked" not in str(error)
            self.close()
            return
        if version > VERSION:
            self.trouble = (
                f"{self.file}: it is of a newer version ({version}): it is only read here"
            )
        elif state != "ok":
            self.trouble = f"{self.file}: it is damaged: it is only read"
            self.damaged = True

    def _reading(self) -> sqlite3.Connection:
        """To be read; of a folder that nobody may write as well."""
        try:
            return self._looked_into("ro")
        except sqlite3.OperationalError:
            # somebody was killed while writing: half an entry is rolled back, by who may write
            if self._looks_only:
                return self._aside()
            with contextlib.suppress(sqlite3.OperationalError):
                self._looked_into("rw").close()
                return self._looked_into("ro")
            return self._looked_into("ro&immutable=1")

    def _aside(self) -> sqlite3.Connection:
        """A copy elsewhere, in which half an entry is rolled back."""
        held = tempfile.TemporaryDirectory()
        self._held = held
        copy = Path(held.name) / self.file.name
        for tail in ("", "-journal"):
            with contextlib.suppress(OSError):
                shutil.copyfile(f"{self.file}{tail}", f"{copy}{tail}")
        return self._looked_into("rw", copy)

    def _looked_into(self, mode: str, file: Path | None = None) -> sqlite3.Connection:
        uri = f"{(file or self.file).resolve().as_uri()}?mode={mode}"
        base = sqlite3.connect(uri, uri=True, isolation_level=None, timeout=2.0)
        try:
            base.execute("SELECT count(*) FROM sqlite_master").fetchone()
        except sqlite3.Error:
            base.close()
            raise
        return base

    def _to_write(self) -> sqlite3.Connection:
        """The same to be written, made or brought up to date where that is wanted."""
        if self._writes and self._base is not None:
            return self._base
        self.file.parent.mkdir(parents=True, exist_ok=True)
        uri = f"{self.file.resolve().as_uri()}?mode=rwc"
        base = sqlite3.connect(uri, uri=True, isolation_level=None, timeout=2.0)
        base.execute("PRAGMA synchronous=FULL")
        base.execute("PRAGMA foreign_keys=ON")
        self.close()
        self._base, self._writes = base, True
        self._migrate(int(base.execute("PRAGMA user_version").fetchone()[0]))
        return base

    def _migrate(self, version: int) -> None:
        assert self._base is not None
        for number, step in enumerate(_STEPS[version:], version + 1):
            self._base.executescript(f"BEGIN; {step} PRAGMA user_version={number}; COMMIT;")

    def close(self) -> None:
        """Let go of the file."""
        if self._base is not None:
            self._base.close()
            self._base, self._writes = None, False
        if self._held is not None:
            self._held.cleanup()
            self._held = None

    @contextmanager
    def _writing(self) -> Iterator[sqlite3.Connection]:
        """One transaction. Raises LogError; then nothing of it is there."""
        if self.trouble:
            raise LogError(self.trouble)
        try:
            base = self._to_write()
            base.execute("BEGIN IMMEDIATE")
        except (sqlite3.Error, OSError) as error:
            raise LogError(f"{self.file}: it cannot be written: {error}") from None
        try:
            yield base
            base.execute("COMMIT")
        except sqlite3.Error as error:
            base.execute("ROLLBACK")
            what = "a sealed entry stays as it is" if "sealed" in str(error) else str(error)
            raise LogError(f"{self.file}: {what}") from None
        except BaseException:
            base.execute("ROLLBACK")
            raise

    # --- writing ---------------------------------------------------------------------------------

    def add(self, entry: LogEntry, station: bytes | None = None) -> LogEntry:
        """Add one, with the station as it stands then; as it stands there. Raises LogError."""
        return self.add_all([(entry, station)])[0]

    def add_all(self, many: Iterable[tuple[LogEntry, bytes | None]]) -> tuple[LogEntry, ...]:
        """Add several, all or none. Raises LogError."""
        made = []
        with self._writing() as base:
            for entry, station in many:
                row = (
                    entry.utc.timestamp(),
                    entry.kind,
                    entry.chain_id,
                    entry.sealed,
                    _body(entry),
                )
                number = base.execute(
                    "INSERT INTO entry (t, kind, chain_id, sealed, body) VALUES (?, ?, ?, ?, ?)",
                    row,
                ).lastrowid
                assert number is not None
                base.execute(
                    "INSERT INTO found (rowid, said) VALUES (?, ?)", (number, _said(entry))
                )
                if station is not None:
                    packed = zlib.compress(station, 6)
                    base.execute("INSERT INTO state VALUES (?, ?)", (number, packed))
                made.append(entry.but(number=number))
        return tuple(made)

    def change(self, entry: LogEntry) -> None:
        """Write one anew. Raises LogError where it is sealed or not there."""
        old = self.entry(entry.number)
        if old is None:
            raise LogError(f"{self.file}: there is no entry {entry.number}")
        with self._writing() as base:
            self._forget_words(base, old)
            base.execute(
                "UPDATE entry SET t=?, kind=?, chain_id=?, sealed=?, body=? WHERE number=?",
                (entry.utc.timestamp(), entry.kind, entry.chain_id, entry.sealed, _body(entry),
                 entry.number),
            )  # fmt: skip
            base.execute(
                "INSERT INTO found (rowid, said) VALUES (?, ?)", (entry.number, _said(entry))
            )

    def seal(self, number: int) -> None:
        """From now on it stays as it is. Raises LogError."""
        if (entry := self.entry(number)) is not None and not entry.sealed:
            self.change(entry.but(sealed=True))

    def remove(self, number: int) -> None:
        """Take one out. Raises LogError where it is sealed."""
        old = self.entry(number)
        if old is None:
            return
        with self._writing() as base:
            self._forget_words(base, old)
            base.execute("DELETE FROM state WHERE number=?", (number,))
            base.execute("DELETE FROM entry WHERE number=?", (number,))

    @staticmethod
    def _forget_words(base: sqlite3.Connection, old: LogEntry) -> None:
        base.execute(
            "INSERT INTO found (found, rowid, said) VALUES ('delete', ?, ?)",
            (old.number, _said(old)),
        )

    # --- reading ---------------------------------------------------------------------------------

    @property
    def stamp(self) -> object:
        """Another one once somebody wrote, here or elsewhere. Raises LogError."""
        if self._base is None and not self.trouble and self.file.exists():
            self._open()  # somebody else has begun it meanwhile
        if self._base is None:
            return None
        try:
            (version,) = self._base.execute("PRAGMA data_version").fetchone()
        except sqlite3.Error as error:
            raise LogError(f"{self.file}: it cannot be read: {error}") from None
        return id(self._base), version, self._base.total_changes

    def entry(self, number: int) -> LogEntry | None:
        """One of them."""
        rows = self._read("SELECT number, body FROM entry WHERE number=?", (number,))
        return rows[0] if rows else None

    def entries(
        self,
        since: datetime | None = None,
        chain_id: str | None = None,
        kinds: Iterable[EntryKind] = (),
        find: str = "",
    ) -> tuple[LogEntry, ...]:
        """The oldest first, as far as they fit. Raises LogError where a search cannot be read."""
        where: list[str] = []
        given: list[Any] = []
        if since is not None:
            where.append("t >= ?")
            given.append(since.timestamp())
        if chain_id is not None:
            where.append("chain_id = ?")
            given.append(chain_id)
        if kinds := tuple(kinds):
            where.append(f"kind IN ({', '.join('?' * len(kinds))})")
            given.extend(kinds)
        if find.strip():
            where.append("number IN (SELECT rowid FROM found WHERE found MATCH ? LIMIT ?)")
            given.extend((_query(find), MOST_FOUND))
        clause = f"WHERE {' AND '.join(where)}" if where else ""
        return tuple(
            self._read(f"SELECT number, body FROM entry {clause} ORDER BY t, number", tuple(given))
        )

    def state(self, number: int) -> bytes | None:
        """The station as it stood with an entry."""
        return self._state("number = ?", (number,))

    def last_state(self) -> bytes | None:
        """The station as it stood with the newest entry that has one."""
        return self._state("1 ORDER BY number DESC LIMIT 1", ())

    def _state(self, where: str, given: tuple[Any, ...]) -> bytes | None:
        if self._base is None:
            return None
        try:
            row = self._base.execute(f"SELECT station FROM state WHERE {where}", given).fetchone()
            return None if row is None else zlib.decompressobj().decompress(row[0], MOST_STATE)
        except (sqlite3.Error, zlib.error):
            return None

    def _read(self, query: str, given: tuple[Any, ...]) -> list[LogEntry]:
        if self._base is None:
            return []
        try:
            rows = self._base.execute(query, given).fetchall()
        except sqlite3.Error as error:
            raise LogError(f"{self.file}: it cannot be read: {error}") from None
        made = []
        for number, body in rows:
            try:
                made.append(LogEntry.model_validate({**json.loads(body), "number": number}))
            except (ValidationError, ValueError):
                continue  # of a newer program, or damaged: what can be read is read
        return made


def _body(entry: LogEntry) -> str:
    return json.dumps(entry.model_dump(exclude={"number"}, exclude_defaults=True))


def _said(entry: LogEntry) -> str:
    parts = [entry.title, entry.text, entry.who, entry.microphone, entry.radio, entry.chain,
             entry.band, *entry.words, *entry.changed, *entry.tags]  # fmt: skip
    return " ".join(p for p in parts if p)


def _query(find: str) -> str:
    """Words that must all be there, the last one as far as it is typed; nothing else is syntax."""
    words = ["".join(c for c in w if c.isalnum() or c in "-_'") for w in find.split()[:20]]
    words = [w for w in words if any(c.isalnum() for c in w)]
    if not words:
        return '""'
    return " ".join(f'"{w}"' for w in words[:-1]) + f' "{words[-1]}"*'
