"""Two windows on one station, and a friend's station that is only looked at."""

import json
import os
import sqlite3
import subprocess
import sys

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from tests.app.hands import arrived, choose, press, settled, words
from tonleiter.app.document import Document
from tonleiter.app.held import LOCK_FILE, Lock
from tonleiter.core.log.store import LogStore
from tonleiter.core.station.edits import change_station
from tonleiter.core.station.files import read_station

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
HOLDS = """
import sys, time
from pathlib import Path
from tonleiter.app.held import Lock
made = Lock(Path(sys.argv[1]))
print("held" if made.holder is None else "refused", flush=True)
sys.stdin.read()
"""


@pytest.fixture
def elsewhere(demo_folder):
    """Another process that has the demo open."""
    child = subprocess.Popen(
        [sys.executable, "-c", HOLDS, str(demo_folder)], text=True,
        stdin=subprocess.PIPE, stdout=subprocess.PIPE,
    )  # fmt: skip
    assert child.stdout.readline().strip() == "held"
    yield child
    child.kill()
    child.wait()


def content(folder):
    """Everything that lies in a folder, but for the lock."""
    return {
        p.relative_to(folder): p.read_bytes()
        for p in sorted(folder.rglob("*"))
        if p.is_file() and p.name != LOCK_FILE
    }


@pytest.mark.long
def test_who_comes_second_looks_and_may_work_all_the_same(elsewhere, open_window, demo_folder):
    before = content(demo_folder)
    window = open_window(demo_folder)
    assert "open in another window" in window.notice.text
    assert window.windowTitle().endswith("only looked at · Tonleiter")
    window.document.edit("title", lambda s: change_station(s, title="Tried"))
    assert not window.filing.save()
    assert "only looked at" in window.notice.text
    assert content(demo_folder) == before
    window.session.end()
    again = open_window(demo_folder)
    press(again.notice.answers[0])
    settled()
    assert not again.document.looks_only
    again.document.edit("title", lambda s: change_station(s, title="Worked on"))
    assert again.filing.save()
    assert read_station(demo_folder).station.title == "Worked on"


def test_a_window_that_was_killed_locks_nobody_out(elsewhere, open_window, demo_folder):
    elsewhere.kill()
    elsewhere.wait()
    assert (demo_folder / LOCK_FILE).exists(), "it was left behind"
    assert not open_window(demo_folder).document.looks_only


def test_another_machine_is_named(open_window, demo_folder):
    lock = Lock(demo_folder)
    text = (demo_folder / LOCK_FILE).read_text("utf-8").split("\n")
    lock.let_go()
    # process, program, machine, what the library adds of it
    (demo_folder / LOCK_FILE).write_text("\n".join([text[0], text[1], "attic", "x", "y", ""]))
    window = open_window(demo_folder)
    assert "open on attic since" in window.notice.text
    assert window.document.looks_only
    press(window.notice.answers[0])
    assert not window.document.looks_only


def test_left_it_is_free_and_saved_elsewhere_the_lock_goes_along(
    open_window, demo_folder, tmp_path
):
    window = open_window(demo_folder)
    assert (demo_folder / LOCK_FILE).exists()
    copy = tmp_path / "copy.station"
    window.document.save(copy)
    assert not (demo_folder / LOCK_FILE).exists()
    assert (copy / LOCK_FILE).exists()
    window.session.end()
    assert not (copy / LOCK_FILE).exists()


def test_a_folder_nobody_may_write_is_opened_without_a_lock(open_window, demo_folder):
    if os.geteuid() == 0:
        pytest.skip("the superuser may write anywhere")
    demo_folder.chmod(0o555)
    try:
        assert not open_window(demo_folder).document.looks_only
    finally:
        demo_folder.chmod(0o755)


@pytest.mark.long
def test_a_friend_s_station_is_looked_at_tried_out_and_left_as_it_is(
    window, demo_folder, tmp_path, monkeypatch
):
    friend = tmp_path / "friend.station"
    window.document.save(friend)
    window.session.end()
    before = content(friend)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(friend))
    QTest.keyClick(window, Qt.Key.Key_O, CTRL | SHIFT)
    settled()
    assert "only looked at" in window.notice.text
    document = window.document
    assert (document.folder, document.looks_only) == (friend, True)
    # tried out: chains are changed, something is turned, nothing asks for saving
    document.edit("title", lambda s: change_station(s, title="Tried"))
    assert "only looked at" in window.windowTitle()
    document.keep()
    QTest.keyClick(window, Qt.Key.Key_8)
    arrived(window)
    settled()
    log = window.space("log")
    log.model.write()
    assert "only looked at" in " ".join(words(window))
    QTest.keyClick(window, Qt.Key.Key_7)
    arrived(window)
    listen = window.space("listen")
    choose(listen.choices["A"], "record")
    settled()
    assert listen.model.recorder.does == "nothing"
    choose(listen.choices["A"], "kept:clear")
    listen.model.finish()
    assert not window.filing.save()
    assert window.filing.may_leave(), "nobody asks whether to save"
    assert content(friend) == before
    # a copy is one's own
    mine = tmp_path / "mine.station"
    assert window.filing.save_as(mine)
    assert not window.document.looks_only
    assert json.loads((mine / "station.json").read_text("utf-8"))["title"] == "Tried"
    assert content(friend) == before


def test_one_of_an_older_version_is_looked_at_without_a_copy_kept(demo_folder):
    data = json.loads((demo_folder / "station.json").read_text("utf-8"))
    (demo_folder / "station.json").write_text(json.dumps({**data, "version": data["version"] - 1}))
    before = content(demo_folder)
    Document.open(demo_folder, looks_only=True).close()
    assert content(demo_folder) == before


@pytest.mark.parametrize("what", ["junk", "nothing", "folder", "link"])
def test_a_lock_that_is_none_keeps_nobody_from_opening(open_window, demo_folder, what):
    lock = demo_folder / LOCK_FILE
    if what == "junk":
        lock.write_bytes(b"\x00\xff" * 5000)
    elif what == "nothing":
        lock.write_bytes(b"")
    elif what == "folder":
        lock.mkdir()
    else:
        lock.symlink_to("/nowhere/at/all")
    window = open_window(demo_folder)
    if window.document.looks_only:
        press(window.notice.answers[0])
    window.document.edit("title", lambda s: change_station(s, title="Worked on"))
    # what cannot be taken away is said; nothing falls, nothing is lost
    assert window.filing.save() or "only looked at" in window.notice.text


def test_half_an_entry_of_somebody_who_was_killed_is_left_where_it_is(demo_folder):
    """To look at a friend's log is not to roll it back."""
    log = demo_folder / "log.sqlite"
    writer = sqlite3.connect(log, isolation_level=None)
    writer.execute("PRAGMA cache_size=2")
    writer.execute("BEGIN IMMEDIATE")
    writer.executemany(
        "INSERT INTO entry (t, kind, body) VALUES (0, 'note', ?)", [("x" * 3000,)] * 200
    )
    killed = demo_folder / "k.station"
    killed.mkdir()
    for file in (log, log.with_name("log.sqlite-journal")):
        (killed / file.name).write_bytes(file.read_bytes())
    writer.close()
    before = content(killed)
    store = LogStore(killed, looks_only=True)
    there = store.entries()
    store.close()
    assert len(there) == len(LogStore(demo_folder).entries()) > 10, "what was committed is read"
    assert content(killed) == before
