"""Windows that are closed leave nothing behind: what is alive is counted."""

import gc
from collections import Counter

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication

from tonleiter.app.document import Document
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.window import MainWindow

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
