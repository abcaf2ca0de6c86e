"""What is read ahead: libraries by a worker, classes of the toolkit in the window's thread."""

import threading
from importlib import import_module

from tonleiter.app import session
from tonleiter.app.spaces.registry import SPACES


def test_spaces_are_read_ahead_one_by_one_and_never_by_a_worker(
    open_window, demo_folder, qtbot, monkeypatch
):
    """A class that comes to be in a worker, while the window dresses a widget, was a crash."""
    read = []

    def note(name):
        read.append((name, threading.current_thread() is threading.main_thread()))
        return import_module(name)

    monkeypatch.setattr(session, "import_module", note)
    monkeypatch.setattr(session, "WARM_AFTER_MS", 1)
    monkeypatch.setattr(session, "REST_MS", 1)
    open_window(demo_folder)
    modules = [entry.module for entry in SPACES]
    qtbot.waitUntil(lambda: len(read) == len(session.HEAVY) + len(modules), timeout=20_000)
    assert [name for name, in_window in read if in_window] == modules
    assert {name for name, in_window in read if not in_window} == set(session.HEAVY)
