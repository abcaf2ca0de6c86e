"""What a hand does, with real events: signals emitted by a test once hid a crash."""

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QPushButton

from tonleiter.app.derived import wait_until


def type_over(entry, text):
    """Type over what stands in a field, without Enter."""
    entry.setFocus()
    QTest.keyClick(entry, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(entry, text)


def retype(entry, text):
    """Type over what stands in a field, and press Enter."""
    type_over(entry, text)
    QTest.keyClick(entry, Qt.Key.Key_Return)


def choose(box, data):
    """Open a list, go to an item by its data (or its text), press Enter."""
    index = box.findData(data)
    if index < 0:
        index = box.findText(data)
    assert index >= 0, data
    box.setFocus()
    box.showPopup()
    view = box.view()
    view.setCurrentIndex(view.model().index(index, box.modelColumn()))
    QTest.keyClick(view, Qt.Key.Key_Return)
    settled()  # told in the next turn of the loop, and the panel built anew in the one after


def press(button):
    """Click a button in its middle."""
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def settled(times=3):
    """Let the window do what it has put off."""
    for _ in range(times):
        QApplication.processEvents()


def rest(ms):
    """Do nothing for so long. QTest.qWait holds the interpreter meanwhile: no worker gets on."""
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def arrived(window):
    """A hand went somewhere: wait until that space is shown, a few turns of the loop later."""
    wait_until(lambda: not window.is_arriving)


def words(widget):
    """What is written on the labels that are seen."""
    settled()
    return [w.text() for w in widget.findChildren(QLabel) if w.isVisible()]


def buttons(widget):
    """What is written on the buttons that are seen."""
    settled()
    seen = (b for b in widget.findChildren(QAbstractButton) if b.isVisible())
    return [b.text().replace("\n", " ") for b in seen]


def button_of(widget, text):
    """The button that is seen with some words on it, however they are broken into lines."""
    settled()
    return next(
        b
        for b in widget.findChildren(QPushButton)
        if text in b.text().replace("\n", " ") and b.isVisible()
    )


def finish(space):
    """Wait for what a space works out, if it has a model that does."""
    if (model := getattr(space, "model", None)) is not None:
        model.finish()
