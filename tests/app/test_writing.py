"""Saving on a slow disk: the hand goes on, nothing is lost, nobody else is accused."""

import threading

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.app.hands import rest, settled
from tonleiter.app import document as app_document
from tonleiter.app import filing
from tonleiter.app.derived import wait_until
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.edits import change_station
from tonleiter.core.station.files import read_station, save_station

CTRL = Qt.KeyboardModifier.ControlModifier


class SlowDisk:
    """Writes at once, and comes back when it is let go."""

    def __init__(self, monkeypatch):
        self.begun, self.goes_on = threading.Event(), threading.Event()
        monkeypatch.setattr(app_document, "save_station", self._save)

    def _save(self, *told):
        opened = save_station(*told)
        self.begun.set()
        assert self.goes_on.wait(60)
        return opened


@pytest.fixture
def disk(monkeypatch):
    slow = SlowDisk(monkeypatch)
    yield slow
    slow.goes_on.set()


def titled(window, title):
    window.document.edit("title", lambda station: change_station(station, title=title))


def save(window, disk):
    QTest.keyClick(window, Qt.Key.Key_S, CTRL)
    assert disk.begun.wait(60)


def told(window):
    """Until the window has heard what came of it."""
    wait_until(lambda: not window.document.is_saving)
    settled()


def test_who_saves_goes_on_and_what_comes_meanwhile_is_not_called_saved(window, disk, demo_folder):
    titled(window, "Morning")
    save(window, disk)
    assert not window.document.is_saved
    titled(window, "Noon")
    disk.goes_on.set()
    told(window)
    assert read_station(demo_folder).station.title == "Morning"
    assert f"Saved in {demo_folder}" in window.notice.text
    assert not window.document.is_saved
    QTest.keyClick(window, Qt.Key.Key_S, CTRL)
    told(window)
    assert read_station(demo_folder).station.title == "Noon"
    assert window.document.is_saved


def test_what_we_write_ourselves_is_nobody_else_s(window, disk):
    others = []
    window.document.changed_outside.connect(lambda: others.append("somebody"))
    titled(window, "Morning")
    save(window, disk)
    window.document.look_outside()
    disk.goes_on.set()
    told(window)
    window.document.look_outside()
    assert others == []


def test_a_disk_that_takes_long_is_spoken_of(window, disk):
    window.filing._takes_long.setInterval(1)
    titled(window, "Morning")
    save(window, disk)
    wait_until(lambda: window.notice.text == "Saving …")
    disk.goes_on.set()
    told(window)
    assert window.notice.text.startswith("Saved in ")


def test_a_quick_disk_is_not(window, demo_folder):
    window.filing._takes_long.setInterval(1)
    said = []
    window.filing._notice.say = lambda text, **_: said.append(text)
    QTest.keyClick(window, Qt.Key.Key_S, CTRL)
    window.document.finish_writing()
    rest(20)
    assert said == [f"Saved in {demo_folder}"]


def test_who_closes_meanwhile_is_not_asked_and_loses_nothing(window, disk, demo_folder):
    titled(window, "Morning")
    save(window, disk)
    threading.Timer(0.05, disk.goes_on.set).start()
    # nobody could answer a question here: a dialog would wait for ever
    assert filing.Filing.may_leave(window.filing)
    assert window.document.is_saved
    assert read_station(demo_folder).station.title == "Morning"


def test_what_cannot_be_written_is_told_and_stays_unsaved(window, monkeypatch):
    def full(*_):
        raise FileError("the disk is full; nothing there was changed")

    monkeypatch.setattr(app_document, "save_station", full)
    titled(window, "Morning")
    QTest.keyClick(window, Qt.Key.Key_S, CTRL)
    told(window)
    assert window.notice.text == "the disk is full; nothing there was changed"
    assert not window.document.is_saved


def test_two_saves_in_a_row_are_written_in_their_order(window, disk, demo_folder):
    titled(window, "Morning")
    save(window, disk)
    titled(window, "Noon")
    threading.Timer(0.05, disk.goes_on.set).start()
    QTest.keyClick(window, Qt.Key.Key_S, CTRL)
    told(window)
    assert read_station(demo_folder).station.title == "Noon"
    assert not [*demo_folder.glob("*kept*")], "the first is no stranger's file"


def test_unsaved_work_is_kept_behind_too_and_swept_when_it_is_saved(
    window, demo_folder, monkeypatch
):
    begun, goes_on = threading.Event(), threading.Event()
    keep = app_document.write_autosave

    def slow(*told):
        begun.set()
        assert goes_on.wait(60)
        return keep(*told)

    monkeypatch.setattr(app_document, "write_autosave", slow)
    titled(window, "Morning")
    window.document._keep_soon.setInterval(1)
    titled(window, "Noon")
    wait_until(begun.is_set)
    titled(window, "Evening")
    goes_on.set()
    window.document.finish_writing()
    lying = [*demo_folder.glob("station.autosave-*.json")]
    assert len(lying) == 1
    assert window.filing.save()
    assert not lying[0].exists()
