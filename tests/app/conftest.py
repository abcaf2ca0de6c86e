"""The real window, offscreen, on a copy of the demo station; settings in a temporary folder."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PySide6.QtCore import QEvent, QSettings
from PySide6.QtWidgets import QApplication

from tonleiter.app import greeting, reckoning
from tonleiter.app import window as app_window
from tonleiter.app.document import Document
from tonleiter.app.manual import hints
from tonleiter.app.safety.trouble import trouble
from tonleiter.app.spaces.registry import FIRST, SPACES
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.window import MainWindow
from tonleiter.core.refused import RefusedError


def close_without_asking(window):
    """The end of a test is no user who could answer."""
    window.filing.may_leave = lambda: True


@pytest.fixture(autouse=True)
def no_slips():
    """What is reported instead of raised fails the test that made it happen."""
    trouble().seen.clear()
    yield
    slips = [e for e in trouble().seen if not isinstance(e, RefusedError)]
    trouble().seen.clear()
    trouble()._last.clear()
    if slips:
        raise slips[0]


@pytest.fixture(autouse=True)
def settings_elsewhere(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, str(tmp_path))
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(tmp_path))


@pytest.fixture(scope="session")
def qapp():
    return application()


@pytest.fixture(scope="session")
def look(qapp):
    """One look for all tests: applying a style sheet polishes every widget that is alive."""
    return Look(qapp)


@pytest.fixture(autouse=True)
def windows_are_gone(qapp):
    """Delete what the test before left to be deleted."""
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    qapp.processEvents()


@pytest.fixture(autouse=True)
def nobody_is_greeted(monkeypatch):
    """What to do next is said some seconds after opening: where a test asks for it."""
    monkeypatch.setattr(greeting, "AFTER_MS", 3_600_000)


@pytest.fixture(autouse=True)
def nobody_is_hinted_at(monkeypatch):
    """Sentences of a first visit lie over a space: where a test asks for them."""
    monkeypatch.setattr(hints, "SHOWN", False)


@pytest.fixture(autouse=True)
def nobody_learns(monkeypatch, request):
    """What readings teach is worked out behind every window: where a module says so by LEARNS."""
    if not getattr(request.module, "LEARNS", False):
        monkeypatch.setattr(reckoning, "has_any", lambda *_: False)


@pytest.fixture
def open_window(qtbot, look, request):
    """A function that opens the real window on a folder; at the space that a module calls AT."""
    at = getattr(request.module, "AT", FIRST)

    def make(folder):
        with pytest.MonkeyPatch.context() as patch:
            if at != FIRST:
                # nobody looks at the ladder in the tests of another space: it is made if they do
                later = tuple(replace(entry, soon=False) for entry in SPACES)
                patch.setattr(app_window, "FIRST", at)
                patch.setattr(app_window, "SPACES", later)
            made = MainWindow(Document.open(folder), look)
        qtbot.addWidget(made, before_close_func=close_without_asking)
        made.resize(1280, 800)
        made.show()
        qtbot.waitExposed(made)
        return made

    return make


@pytest.fixture
def window(open_window, demo_folder):
    return open_window(demo_folder)


@pytest.fixture
def space(window):
    return window.space("ladder")


@pytest.fixture
def model(space):
    return space.model
