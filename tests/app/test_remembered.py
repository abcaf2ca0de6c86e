"""A window as it was left, by its station; the usual size of text again."""

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QSettings, Qt
from PySide6.QtTest import QTest
from shiboken6 import isValid

from tests.app.hands import arrived, rest, settled
from tonleiter.app import remembered
from tonleiter.app.derived import wait_until
from tonleiter.app.theme.look import SCALES


def test_a_station_is_found_as_it_was_left_and_another_one_is_not(
    open_window, demo_folder, tmp_path
):
    window = open_window(demo_folder)
    settled()
    window.resize(1111, 733)
    QTest.keyClick(window, Qt.Key.Key_4)
    arrived(window)
    settled()
    assert window.shown == "wire"
    remembered.keep(window)
    again = open_window(demo_folder)
    remembered.restore(again)
    settled()
    assert again.size() == again.fitting(1111, 733).expandedTo(again.minimumSize())
    assert again.shown == "wire"
    other = tmp_path / "other.station"
    window.document.save(other)
    fresh = open_window(other)
    remembered.restore(fresh)
    assert fresh.shown == "ladder"


@pytest.mark.parametrize(
    "said", ["", "x", "1 2 3", "-5 900 window wire extra", "a b window wire", "1e9 2 window wire"]
)
def test_what_cannot_be_understood_is_ignored(open_window, demo_folder, said):
    window = open_window(demo_folder)
    before = window.size()
    QSettings().setValue(remembered._key(demo_folder), said)
    remembered.restore(window)
    assert window.size() == before
    assert window.shown == "ladder"


def test_a_space_that_is_gone_and_a_size_of_no_screen_are_ignored(open_window, demo_folder):
    window = open_window(demo_folder)
    before = window.size()
    QSettings().setValue(remembered._key(demo_folder), "99999999 -3 window attic")
    remembered.restore(window)
    assert window.size() == before
    assert window.shown == "ladder"


def test_what_is_only_looked_at_is_not_remembered(open_window, demo_folder):
    window = open_window(demo_folder)
    window.document.looks_only = True
    window.go_to("wire")
    remembered.keep(window)
    assert QSettings().value(remembered._key(demo_folder)) is None
    window.document.looks_only = False


def test_control_and_nought_is_the_usual_size_of_text(open_window, demo_folder, look):
    window = open_window(demo_folder)
    settled()
    try:
        QTest.keyClick(window, Qt.Key.Key_Minus, Qt.KeyboardModifier.ControlModifier)
        settled()
        assert look.scale == SCALES[0]
        look.set_scale(SCALES[-1])
        QTest.keyClick(window, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
        settled()
        assert look.scale == 1.0
        assert float(QSettings().value("scale")) == 1.0
    finally:
        look.set_scale(1.0)


@pytest.mark.long
def test_the_space_one_was_in_comes_first_and_the_ladder_behind_it(
    open_window, demo_folder, tmp_path
):
    """Its badge is seen from everywhere; nobody waits for it."""
    window = open_window(demo_folder)
    window.go_to("wire")
    other = tmp_path / "other.station"
    window.document.save(other)
    assert window.filing.open(demo_folder)
    assert window.shown == "ladder", "that one was left there, or never"
    assert window.filing.open(other)
    assert window.shown == "wire"
    arrived(window)
    assert list(window.session.spaces) == ["wire"]
    wait_until(lambda: set(window.session.spaces) == {"wire", "ladder"})
    ladder = window.space("ladder")
    ladder.model.finish()
    settled()
    assert ladder.badge().count == 1, "the demo's open chain has one stop"
    assert window.shown == "wire"


@pytest.mark.long
def test_what_was_left_goes_and_what_came_stays(open_window, demo_folder, tmp_path):
    window = open_window(demo_folder)
    for name in ("gear", "wire", "log"):
        window.go_to(name)
        settled()
    other = tmp_path / "other.station"
    window.document.save(other)
    gone = list(window.session.spaces.values())
    assert window.filing.open(demo_folder)
    arrived(window)
    came = list(window.session.spaces.values())
    rest(500)
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert not any(isValid(space) for space in gone)
    assert all(isValid(space) for space in came)
    assert window._stack.currentWidget() in came


@pytest.mark.long
def test_a_station_that_is_left_at_once_makes_nothing_in_the_next_ones_window(
    open_window, demo_folder, tmp_path
):
    """Its ladder was to come a moment later; nobody waits for it any more."""
    window = open_window(demo_folder)
    window.go_to("wire")
    other, third = tmp_path / "other.station", tmp_path / "third.station"
    for folder in (other, third):
        window.document.save(folder)
        remembered.keep(window)
    assert window.filing.open(other)
    left = window.session
    assert window.filing.open(third)
    came = window.session
    arrived(window)
    assert set(came.spaces) == {"wire"}
    wait_until(lambda: set(came.spaces) == {"wire", "ladder"})
    assert not isValid(left) or set(left.spaces) == set(), "left before its first was made"
    assert not window.notice.isVisible() or "wrong" not in window.notice.text
