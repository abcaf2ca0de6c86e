"""Windows that are closed leave nothing behind: what is alive is counted."""

import gc
import shutil
import time
import weakref
from collections import Counter
from functools import partial
from weakref import WeakSet

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication, QWidget

from tests.app.hands import arrived, rest
from tonleiter.app.document import Document
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.window import GOES_MS, MainWindow

LEFT_MS = GOES_MS * len(SPACES) + 200
ENDS = ("Document", "GearModel", "MatchModel", "LadderModel", "WireModel", "ProveModel", "SetModel")
WINDOWS = 3


def alive():
    gc.collect()
    found = Counter(type(o).__name__ for o in gc.get_objects())
    return {name: found[name] for name in ENDS}


def opened_and_closed(folder, look):
    window = MainWindow(Document.open(folder), look)
    window.filing.may_leave = lambda: True
    window.show()
    for entry in SPACES:
        window.go_to(entry.name)
        QApplication.processEvents()
    window.session.end()
    window.close()
    window.deleteLater()
    del window
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()


@pytest.mark.long
def test_documents_and_models_end_with_their_windows(demo_folder, look, qapp):
    opened_and_closed(demo_folder, look)
    before = alive()
    for _ in range(WINDOWS):
        opened_and_closed(demo_folder, look)
    after = alive()
    # the last one of each kind may still be on its way
    assert all(after[name] <= before[name] + 1 for name in ENDS), (before, after)


def test_spaces_of_a_station_that_was_left_end_with_it(demo_folder, look, qapp, tmp_path):
    window = MainWindow(Document.open(demo_folder), look)
    window.filing.may_leave = lambda: True
    window.show()
    left, were = WeakSet(), 0
    for name in ("first", "second"):
        for entry in SPACES[:3]:
            window.go_to(entry.name)
            left.add(window.space(entry.name))
            were += 1
        other = shutil.copytree(demo_folder, tmp_path / f"{name}.station")
        window.filing.open(other)
        # somebody looks through the window when they were told to go and are still there
        told = time.monotonic() + LEFT_MS / 1000
        while time.monotonic() < told:
            QApplication.processEvents()
            window.findChildren(QWidget)
        arrived(window)
        rest(20)
    gc.unfreeze()
    for _ in range(2):
        gc.collect()
    assert were == 6 and len(left) == 0, [type(space).__name__ for space in left]
    window.close()


def test_spaces_of_a_window_that_closes_before_it_came_to_rest_end_with_it(demo_folder, look, qapp):
    """What it had put off until nobody is at it is called no more, and keeps nothing."""
    window = MainWindow(Document.open(demo_folder), look)
    window.filing.may_leave = lambda: True
    window.show()
    there = weakref.ref(window.space(window.shown))
    window.session.at_ease(60_000, partial(window.space, window.shown))
    window.close()
    window.deleteLater()
    del window
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
    gc.unfreeze()
    for _ in range(2):
        gc.collect()
    assert there() is None
