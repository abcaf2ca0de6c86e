"""The log on disk: nothing committed is lost, nothing sealed changes, what is damaged is read."""

import os
import random
import signal
import sqlite3
import time
from datetime import datetime, timedelta

import pytest

from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.store import VERSION, LogError, LogStore

KILLS = 60


def report(text="muffled", at="2031-05-14T20:15+02:00", **of):
    return LogEntry(at=at, kind="report", text=text, **of)


def test_nothing_is_made_before_something_is_written(tmp_path):
    store = LogStore(tmp_path)
    assert store.entries() == ()
    assert not store.file.exists()
    store.add(report())
    assert store.file.exists()


def test_entries_come_back_as_they_were_the_oldest_first(tmp_path):
    store = LogStore(tmp_path)
    late = report("clear", "2031-05-14T20:15+02:00", words=("clear",), who="QK0ABC", band="40m",
                  strength=9, readability=5, other={"CONTEST_ID": "x"})  # fmt: skip
    # earlier by the clock of the world, later by its own
    early = report("quiet", "2031-05-14T18:30+00:00")
    store.add(early)
    store.add(late)
    again = LogStore(tmp_path)
    assert [e.text for e in again.entries()] == ["clear", "quiet"]
    assert again.entries()[0] == late.but(number=2)


def test_searched_by_any_word_and_by_what_is_typed_so_far(tmp_path):
    store = LogStore(tmp_path)
    store.add(report("a bit quiet on the long path", who="QK0ABC"))
    store.add(report("much hum", words=("hum",), microphone="stage dynamic"))
    assert [e.number for e in store.entries(find="quiet path")] == [1]
    assert [e.number for e in store.entries(find="qk0")] == [1]
    assert [e.number for e in store.entries(find="dynamic")] == [2]
    for odd in ('"', "quiet OR hum", "NEAR(", "*", "a'b", "-", "(" * 50, "ü" * 500, "said:hum"):
        assert isinstance(store.entries(find=odd), tuple)
    store.change(store.entry(1).but(text="gone"))
    assert store.entries(find="quiet") == ()
    assert [e.number for e in store.entries(find="gone")] == [1]
    store.remove(1)
    assert store.entries(find="gone") == ()


def test_filtered_by_chain_kind_and_day(tmp_path):
    store = LogStore(tmp_path)
    store.add(report(chain_id="a", at="2031-01-01T00:00+00:00"))
    store.add(report(chain_id="b", at="2031-02-01T00:00+00:00"))
    store.add(report(chain_id="a", at="2031-03-01T00:00+00:00").but(kind="note"))
    assert [e.number for e in store.entries(chain_id="a")] == [1, 3]
    assert [e.number for e in store.entries(kinds=("note",))] == [3]
    since = datetime.fromisoformat("2031-01-15T00:00+00:00")
    assert [e.number for e in store.entries(since=since)] == [2, 3]


def test_what_is_sealed_is_kept_from_everybody(tmp_path):
    store = LogStore(tmp_path)
    store.add(report())
    store.seal(1)
    with pytest.raises(LogError, match="sealed entry stays"):
        store.change(store.entry(1).but(text="other"))
    with pytest.raises(LogError, match="sealed entry stays"):
        store.remove(1)
    store.close()
    # nor by another program, by mistake
    other = sqlite3.connect(tmp_path / "log.sqlite")
    with pytest.raises(sqlite3.IntegrityError, match="sealed"):
        other.execute("DELETE FROM entry")
    other.close()
    assert LogStore(tmp_path).entry(1).text == "muffled"
    LogStore(tmp_path).add(report("once more", replaces=1))


def test_the_station_of_a_day_is_there_again(tmp_path):
    store = LogStore(tmp_path)
    store.add(report(), b"one" * 1000)
    store.add(report())
    store.add(report(), b"three")
    assert store.state(1) == b"one" * 1000
    assert store.state(2) is None
    assert store.last_state() == b"three"


def test_what_is_only_read_stays_byte_for_byte(demo_folder):
    before = {p.name: p.read_bytes() for p in demo_folder.iterdir() if p.is_file()}
    store = LogStore(demo_folder)
    assert len(store.entries()) > 10
    assert store.entries(find="hum")
    store.close()
    assert {p.name: p.read_bytes() for p in demo_folder.iterdir() if p.is_file()} == before


def test_all_or_none(tmp_path):
    store = LogStore(tmp_path)

    def fails():
        yield report(), None
        raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        store.add_all(fails())
    assert store.entries() == ()
    store.add_all([(report(), None)] * 3)
    assert len(store.entries()) == 3


@pytest.mark.long
def test_no_committed_entry_is_lost_however_it_ends(tmp_path):
    """A child writes and tells each committed number; it is killed at any moment."""
    rng, told = random.Random(7), 0
    for _ in range(KILLS):
        ear, mouth = os.pipe()
        child = os.fork()
        if child == 0:
            try:
                store = LogStore(tmp_path)
                for _ in range(1000):
                    number = store.add(report("x" * rng.randint(1, 3000))).number
                    os.write(mouth, number.to_bytes(4, "little"))
            finally:
                os._exit(1)
        os.close(mouth)
        first = os.read(ear, 4)
        time.sleep(rng.uniform(0, 0.02))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        rest = os.read(ear, 1 << 16)
        os.close(ear)
        numbers = first + rest
        told = int.from_bytes(numbers[len(numbers) // 4 * 4 - 4 : len(numbers) // 4 * 4], "little")
        store = LogStore(tmp_path)
        assert not store.trouble
        there = [e.number for e in store.entries()]
        assert there == list(range(1, len(there) + 1))
        assert len(there) >= told
        store.close()
    assert told > KILLS


def test_a_newer_log_is_read_and_left_as_it_is(tmp_path):
    store = LogStore(tmp_path)
    store.add(report())
    store.close()
    base = sqlite3.connect(tmp_path / "log.sqlite")
    base.execute(f"PRAGMA user_version={VERSION + 1}")
    base.commit()
    base.close()
    newer = LogStore(tmp_path)
    assert "newer version" in newer.trouble
    assert newer.entries()[0].text == "muffled"
    with pytest.raises(LogError, match="newer version"):
        newer.add(report())


def test_an_older_log_is_brought_up_to_date(tmp_path):
    store = LogStore(tmp_path)
    store.add(report())
    store.close()
    base = sqlite3.connect(tmp_path / "log.sqlite")
    base.execute("DROP INDEX entry_chain")
    base.execute("PRAGMA user_version=1")
    base.commit()
    base.close()
    LogStore(tmp_path).add(report("second"))
    base = sqlite3.connect(tmp_path / "log.sqlite")
    assert base.execute("PRAGMA user_version").fetchone() == (VERSION,)
    assert base.execute("SELECT name FROM sqlite_master WHERE name='entry_chain'").fetchone()


@pytest.mark.parametrize("damage", ["cut", "zeros", "text", "noise"])
def test_a_damaged_one_is_said_in_one_line_and_never_written(tmp_path, damage):
    store = LogStore(tmp_path)
    store.add_all([(report("x" * 900), None)] * 60)
    store.close()
    file = tmp_path / "log.sqlite"
    whole = file.read_bytes()
    rng = random.Random(damage)
    broken = {
        "cut": whole[: len(whole) // 3],
        "zeros": whole[:4096] + bytes(8192) + whole[12288:],
        "text": b"this is no log",
        "noise": bytes(rng.randrange(256) if k > 200 else b for k, b in enumerate(whole)),
    }[damage]
    file.write_bytes(broken)
    found = LogStore(tmp_path)
    assert found.trouble.count("\n") == 0
    assert "only read" in found.trouble
    with pytest.raises(LogError):
        found.add(report())
    try:
        found.entries()
    except LogError as error:
        assert "cannot be read" in str(error)
    found.close()
    assert file.read_bytes() == broken


@pytest.mark.parametrize("at", ["yesterday", "2031-02-30T10:00+00:00", "2031-05-14T20:15", ""])
def test_a_time_that_is_none_is_refused(at):
    with pytest.raises(ValueError, match="zone is wanted"):
        report(at=at)


@pytest.mark.long
def test_a_report_of_tens_of_thousands_is_found(tmp_path):
    store = LogStore(tmp_path)
    day = datetime.fromisoformat("2031-01-01T00:00+00:00")
    store.add_all(
        (report(f"word{k}", (day + timedelta(hours=k)).isoformat()), None) for k in range(10_000)
    )
    assert [e.text for e in store.entries(find="word7777")] == ["word7777"]
