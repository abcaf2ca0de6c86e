"""A drop-down whose answer builds the panel anew: it takes the drop-down itself away."""

import shiboken6
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QVBoxLayout, QWidget

from tests.app.hands import settled
from tonleiter.app.widgets.choice import Choice


def test_choosing_may_take_the_box_itself_away(qtbot, look):
    """Qt speaks to the box once more after ``activated``: the process died there."""
    host = QWidget()
    qtbot.addWidget(host)
    box = Choice(look, "kinds")
    QVBoxLayout(host).addWidget(box)
    box.show_items([("one", "1"), ("two", "2")], "1")
    seen = []

    def away(index):
        seen.append((index, box.currentData()))
        shiboken6.delete(box)

    box.chosen.connect(away)
    host.show()
    box.showPopup()
    view = box.view()
    view.setCurrentIndex(view.model().index(1, 0))
    QTest.keyClick(view, Qt.Key.Key_Return)
    settled()
    assert seen == [(1, "2")]
    assert not shiboken6.isValid(box)


def test_what_is_shown_by_the_program_is_nobodys_choice(qtbot, look):
    box = Choice(look, "kinds")
    qtbot.addWidget(box)
    seen = []
    box.chosen.connect(seen.append)
    box.show_items([("one", "1"), ("two", "2")], "1")
    box.show_items([("one", "1"), ("two", "2")], "2")
    settled()
    assert seen == []
