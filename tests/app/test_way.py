"""The way to a space: in turns of the loop, with keys for what comes and no half picture."""

import pytest
from PySide6.QtCore import QObject, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.app.hands import arrived, press, settled
from tonleiter.app.in_turns import InTurns


@pytest.fixture
def row():
    parent = QObject()
    made = InTurns(parent)
    made.parent_kept = parent
    return made


def turn():
    QApplication.processEvents()


def test_one_thing_is_done_in_a_turn_and_in_order(row):
    done = []
    row.take(lambda: done.append(1), lambda: done.append(2))
    row.add(lambda: done.append(3))
    assert row.busy
    for expected in ([1], [1, 2], [1, 2, 3]):
        turn()
        assert done == expected
    assert not row.busy


def test_a_new_row_takes_the_place_of_what_is_left(row):
    done = []
    row.take(lambda: done.append("old"), lambda: done.append("never"))
    turn()
    row.take(lambda: done.append("new"))
    settled()
    assert done == ["old", "new"]
    row.take(lambda: done.append("never"))
    row.drop()
    settled()
    assert done == ["old", "new"]


def test_a_row_that_was_begun_by_the_last_of_another_goes_on(row):
    done = []
    row.take(lambda: row.take(lambda: done.append("next")))
    settled()
    assert done == ["next"]
    assert not row.busy


def test_what_comes_after_a_picture_leaves_that_a_turn(row):
    done = []
    row.take_after(lambda: done.append(1))
    turn()
    assert done == []
    turn()
    assert done == [1]


def test_a_key_on_the_way_to_a_space_is_for_what_comes(qtbot, window, space):
    """Typed faster than it is shown: nothing of it is done to what was left, and none is lost."""
    window.go_to("gear")
    settled()
    shelf = window.space("gear").shelf.tree
    first = shelf.currentItem()
    space.model.select(1)
    qtbot.keyClick(shelf, Qt.Key.Key_3)
    assert window.is_arriving
    assert QApplication.focusWidget() is not shelf
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_U):
        qtbot.keyClick(QApplication.focusWidget() or window, key)
    before = space.unit_button.text()
    assert space.model.selected == 1
    arrived(window)
    assert window.shown == "ladder"
    assert space.model.selected == 3
    assert space.unit_button.text() != before
    assert shelf.currentItem() is first


def test_what_is_seen_on_the_way_to_a_space_is_what_was_seen(window, space):
    """Nothing half made is painted, and the space that comes is painted once it is whole."""
    settled()
    window.walk_to("wire")
    assert not window._stack.updatesEnabled()
    assert window.shown == "ladder"
    assert window.buttons["wire"].isChecked()
    arrived(window)
    assert window._stack.updatesEnabled()
    assert window.space("wire").model.verdict is not None
    # somebody changes his mind before it is there
    window.walk_to("set")
    window.walk_to("ladder")
    arrived(window)
    assert window.shown == "ladder"
    assert "set" not in window.session.spaces


def test_a_window_that_is_resized_on_the_way_paints_what_there_is(window):
    settled()
    window.walk_to("gear")
    window.resize(window.width() + 40, window.height())
    assert window._stack.updatesEnabled()
    arrived(window)
    assert window.shown == "gear"


def test_the_start_page_and_a_space_take_each_others_place(window):
    settled()
    press(window.buttons["start"])
    press(window.buttons["ladder"])
    arrived(window)
    assert not window.starts
    assert window.shown == "ladder"
    assert window.buttons["ladder"].isChecked()
    press(window.buttons["start"])
    arrived(window)
    assert window.starts
    assert not any(window.buttons[n].isChecked() for n in ("ladder", "gear"))
    QTest.keyClick(window, Qt.Key.Key_3)
    arrived(window)
    assert window.shown == "ladder"
    assert not window.starts


def test_a_window_that_is_closed_on_the_way_makes_nothing_more(window):
    settled()
    window.walk_to("practise")
    session = window.session
    assert window.close()
    settled(5)
    assert "practise" not in session.spaces


def test_a_step_that_fails_leaves_the_window_to_be_seen(window, monkeypatch, qtbot):
    """What is wrong with a space is said; the others are still there."""
    settled()
    gear = window.space("gear")
    monkeypatch.setattr(gear, "arrive", lambda word="": 1 / 0)
    with qtbot.captureExceptions() as slips:
        window.walk_to("gear")
        arrived(window)
    assert [kind for kind, _, _ in slips] == [ZeroDivisionError]
    assert window._stack.updatesEnabled()
    window.walk_to("ladder")
    arrived(window)
    assert window.shown == "ladder"


def test_two_sizes_of_text_in_a_row_end_at_the_last(window, space, look):
    settled()
    try:
        window.step_scale(1)
        window.step_scale(1)
        assert space.context.look.scale == 1.0, "what is seen is all of the old size"
        settled(5)
        assert space.context.look.scale == look.scale > 1.15
        assert space.updatesEnabled()
        window.usual_scale()
        window.step_scale(1)
        window.step_scale(-1)
        settled(5)
        assert space.context.look.scale == look.scale == 1.0
        assert space.updatesEnabled()
    finally:
        look.set_scale(1.0)
