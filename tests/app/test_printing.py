"""What goes on paper is shown first as it will lie there: sheet, drawing, card, report."""

import sys

import pypdfium2
import pytest
from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from tests.app.hands import button_of, press, settled
from tests.conftest import few_words, mended_demo
from tonleiter.app.spaces.set.cards_window import CardsWindow
from tonleiter.app.widgets import settings_card
from tonleiter.app.widgets.drawing import files as drawing
from tonleiter.app.widgets.drawing.large import LargeDrawing
from tonleiter.app.widgets.printing import _KEPT
from tonleiter.core.gear.library import parts_library
from tonleiter.core.report.drawings import draw_piece
from tonleiter.core.sound.files import wav_bytes
from tonleiter.core.station.files import save_station

printing = pytest.importorskip("PySide6.QtPrintSupport")


@pytest.fixture
def previews(qtbot):
    """Previews that came up while a button was pressed: title and pages; each is left."""
    seen = []

    def leave():
        modal = QApplication.activeModalWidget()
        if isinstance(modal, printing.QPrintPreviewDialog):
            pages = modal.findChild(printing.QPrintPreviewWidget).pageCount()
            seen.append((modal.windowTitle(), pages))
            modal.close()

    closer = QTimer()
    closer.timeout.connect(leave)
    closer.start(20)
    yield seen
    closer.stop()


def left_nothing(window):
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    return not window.findChildren(printing.QPrintPreviewDialog)


def test_a_drawing_is_shown_as_it_will_lie_on_the_paper(look, qtbot, previews):
    window = LargeDrawing(draw_piece(parts_library()["l-pad-40db"]), "A pad", look)
    qtbot.addWidget(window)
    window.show()
    press(button_of(window, "Print…"))
    assert previews == [("As it will be printed: A pad", 1)]
    assert left_nothing(window)


def test_a_printer_lives_as_long_as_the_dialog_that_asks_it(look, qtbot, previews):
    """Hidden, and about to be deleted, a preview still asks its printer when it is laid out anew:
    eighteen minutes of random hands ended in that crash."""
    window = LargeDrawing(draw_piece(parts_library()["l-pad-40db"]), "A pad", look)
    qtbot.addWidget(window)
    window.show()
    press(button_of(window, "Print…"))
    (dialog,) = window.findChildren(printing.QPrintPreviewDialog)
    assert len(_KEPT) == 1
    dialog.findChild(printing.QPrintPreviewWidget).updatePreview()
    assert left_nothing(window)
    assert not _KEPT


@pytest.fixture
def carded(window):
    """The window on a mended demo, one card kept."""
    save_station(mended_demo(), window.document.folder)
    window.document.look_outside()
    window.go_to("set")
    model = window.space("set").model
    model.finish()
    model.keep_card("when it was good")
    settled()
    return model


@pytest.mark.long
def test_a_card_is_shown_from_its_window_and_from_the_log(carded, window, look, previews):
    cards = CardsWindow(carded, look, window)
    cards.show()
    press(button_of(cards, "Print it…"))
    window.go_to("log")
    log = window.space("log")
    log.model.finish()
    log.model.choose(next(e.number for e in log.model._kept if e.kind == "card"))
    settled()
    press(button_of(log.inspector, "Print it on A6…"))
    name = carded.records.cards[-1].name
    assert previews == [(f"As it will be printed: {name}", 1)] * 2
    assert left_nothing(window)


def test_a_report_is_shown_with_what_was_measured(window, tmp_path, previews):
    file = tmp_path / "spoken.wav"
    file.write_bytes(wav_bytes(few_words("deep").times(0.1)))
    window.go_to("listen", "")
    listen = window.space("listen")
    listen.model.take("A", file)
    listen.model.finish()
    settled()
    press(button_of(listen.panel, "Print it…"))
    assert [title for title, _ in previews] == ["As it will be printed: Recordings"]
    assert previews[0][1] >= 1


@pytest.mark.parametrize("name", ["ladder", "wire", "set"])
@pytest.mark.long
def test_ctrl_p_shows_what_is_printed_of_a_space(carded, window, qtbot, previews, name):
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.go_to(name)
    window.space(name).model.finish()
    settled()
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: bool(previews))
    assert len(previews) == 1
    assert previews[0][1] >= 1
    assert left_nothing(window)


def test_ctrl_p_with_nothing_to_print_opens_nothing(window, qtbot, previews):
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.go_to("listen")
    settled()
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    settled()
    assert previews == []


def printed(layout, paint, file):
    """A page as a printer of many dots an inch has it: its size and the box of its words."""
    printer = printing.QPrinter(printing.QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(printing.QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(file))
    printer.setPageLayout(layout)
    assert printer.resolution() > 300
    paint(printer)
    page = pypdfium2.PdfDocument(file)[0]
    text = page.get_textpage()
    boxes = [text.get_charbox(k) for k in range(text.count_chars())]
    left, bottom = min(b[0] for b in boxes), min(b[1] for b in boxes)
    right, top = max(b[2] for b in boxes), max(b[3] for b in boxes)
    return page.get_size(), (left, bottom, right, top), text.get_text_range()


def test_a_printer_of_many_dots_has_a_drawing_in_its_own_size(tmp_path, qapp):
    drawn = draw_piece(parts_library()["l-pad-40db"])
    made = printed(
        drawing.page_of(drawn.sheet, drawn.parts),
        lambda on: drawing.print_drawing(drawn.sheet, drawn.parts, "A pad", on),
        tmp_path / "pad.pdf",
    )
    size, (left, bottom, right, top), words = made
    assert "A pad" in words
    assert 0 < left < right < size[0]
    assert 0 < bottom < top < size[1]
    # ten pixels of 96 an inch are a unit on paper as on the screen
    wide_pt = drawn.sheet.box().width * 10 / 96 * 72
    assert 0.5 * wide_pt < right - left < 1.6 * wide_pt


@pytest.mark.parametrize("a6", [False, True])
def test_a_printer_of_many_dots_has_a_card_over_the_whole_page(carded, look, tmp_path, a6):
    card = carded.records.cards[-1]
    page = settings_card.card_page(a6)
    size, (left, bottom, right, top), words = printed(
        page, lambda on: settings_card.print_card(card, look, on), tmp_path / "card.pdf"
    )
    assert card.name[:20] in words
    assert left > 0
    assert bottom > 0
    assert right < size[0]
    assert top < size[1]
    # it fills the page but for its edges, on every kind of page
    assert right - left > 0.8 * size[0]
    assert top - bottom > 0.75 * size[1]


def test_without_the_library_one_line_says_so(look, qtbot, monkeypatch):
    monkeypatch.setitem(sys.modules, "PySide6.QtPrintSupport", None)
    window: QWidget = LargeDrawing(draw_piece(parts_library()["l-pad-40db"]), "A pad", look)
    qtbot.addWidget(window)
    window.show()
    press(button_of(window, "Print…"))
    assert window.says.text() == (
        "No printing here (the library of CUPS is missing): save it as PDF."
    )
    assert window.says.isVisible()
