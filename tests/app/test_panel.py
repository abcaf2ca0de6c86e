"""A panel whose content changes: what goes is left alone, what comes is there at once."""

import gc

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import (
    QApplication,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)
from shiboken6 import isValid

from tests.app.hands import press, settled, type_over
from tonleiter.app.widgets.panel import content_of, replace_content
from tonleiter.app.widgets.text_field import TextField


class Dressed(QLabel):
    """Counts how often it is dressed."""

    def __init__(self, text):
        super().__init__(text)
        self.times = 0

    def changeEvent(self, event):
        self.times += event.type() == QEvent.Type.StyleChange
        super().changeEvent(event)


def content(text, name="Gain"):
    made = QWidget()
    column = QVBoxLayout(made)
    field = QLineEdit(text)
    field.setAccessibleName(name)
    column.addWidget(field)
    column.addWidget(Dressed(text))
    return made


def label(of):
    return of.findChild(Dressed)


@pytest.fixture
def area(qtbot, look):
    around = QWidget()
    made = QScrollArea()
    made.setWidgetResizable(True)
    QVBoxLayout(around).addWidget(made)
    qtbot.addWidget(around)
    around.resize(400, 300)
    around.show()
    qtbot.waitExposed(around)
    around.activateWindow()
    look.dress(around)
    made.stands_in = around
    return made


def test_what_goes_is_not_dressed_again_for_it(area):
    old, new = content("12 dB"), content("20 dB")
    replace_content(area, old)
    settled()
    was = label(old)
    times = was.times
    replace_content(area, new)
    assert was.times == times
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert not isValid(old)


def test_a_button_may_have_its_own_panel_built_anew(area):
    """It is there until its signal has run, though nobody else knows of it any more."""
    gone, pressed = [], []

    def with_button(text):
        made = QWidget()
        button = QPushButton(text)
        QVBoxLayout(made).addWidget(button)
        made.destroyed.connect(lambda: gone.append(text))
        return made

    def anew():
        replace_content(area, with_button("again"))
        gc.collect()
        pressed.append((button.text(), list(gone)))

    replace_content(area, with_button("once"))
    settled()
    button = area.findChild(QPushButton)
    button.clicked.connect(anew)
    press(button)
    assert pressed == [("once", [])]
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert gone == ["once"]


def test_what_comes_is_seen_whole_before_the_next_turn(area):
    new = content("\n".join("one more line" for _ in range(40)))
    replace_content(area, content("short"))
    settled()
    replace_content(area, new)
    assert content_of(area) is new
    assert label(new).isVisible()
    assert label(new).height() >= label(new).sizeHint().height()
    assert new.height() > area.viewport().height(), "it scrolls, and is not squeezed"


def test_a_field_of_the_same_name_is_found_first_and_has_the_keyboard(area):
    replace_content(area, content("12 dB"))
    settled()
    area.findChild(QLineEdit).setFocus()
    for text in ("13 dB", "14 dB", "15 dB"):
        # three in one turn of the loop: none of those that go stands before the last
        replace_content(area, content(text))
        assert area.findChild(QLineEdit).text() == text
        assert area.findChild(QLineEdit).hasFocus()


def test_what_is_half_typed_is_not_taken_over_by_a_panel_built_anew(area):
    accepted, field = [], TextField("12 dB", "Gain")
    field.accepted.connect(accepted.append)
    old = QWidget()
    QVBoxLayout(old).addWidget(field)
    replace_content(area, old)
    settled()
    type_over(field, "1")
    assert field.hasFocus()
    replace_content(area, content("20 dB"))
    assert accepted == []


def test_the_keyboard_of_a_field_that_is_gone_goes_nowhere(area):
    replace_content(area, content("12 dB"))
    settled()
    area.findChild(QLineEdit).setFocus()
    replace_content(area, content("a", "Another"))
    focus = QApplication.focusWidget()
    assert focus is None or not area.isAncestorOf(focus)


def test_a_space_is_dressed_once_when_it_comes(window, monkeypatch):
    """It stands in the window first: whoever is dressed and then moved is dressed once more."""
    dressed = []
    first = QWidget.setStyleSheet

    def set_sheet(widget, sheet):
        dressed.append((widget, widget.parentWidget() is not None))
        first(widget, sheet)

    monkeypatch.setattr(QWidget, "setStyleSheet", set_sheet)
    window.go_to("log")
    assert [placed for widget, placed in dressed if widget is window.space("log")] == [True]
