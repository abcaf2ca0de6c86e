"""The manual in the window; hints of a first visit; terms that are pressed."""

import re

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLineEdit

from tests.app.hands import arrived, finish, press, settled
from tests.app.test_fits import too_wide
from tonleiter.app.commands import commands_of
from tonleiter.app.manual import hints
from tonleiter.app.manual.pane import ManualPane
from tonleiter.app.manual.term_card import TermCard
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.widgets.labels import label
from tonleiter.app.widgets.said import Said
from tonleiter.core.manual.book import standing
from tonleiter.core.manual.page import BUTTON, KEY
from tonleiter.core.manual.spaces import hint
from tonleiter.core.manual.texts import table


@pytest.fixture
def manual(window):
    settled()
    window.activateWindow()
    QTest.keyClick(window, Qt.Key.Key_F1)
    settled()
    return window.over.manual


def there(window):
    return [p for p in window.findChildren(ManualPane) if p.isVisible()]


# --- opening, following, leaving -----------------------------------------------------------------


@pytest.mark.long
def test_it_opens_at_the_space_and_follows_it(window, manual):
    assert manual.shown == "space/ladder"
    assert "Each column is a stage" in manual.text.toPlainText()
    window.go_to("wire")
    settled()
    assert manual.shown == "space/wire"
    assert "Turn a plug over" in manual.text.toPlainText()
    QTest.keyClick(window, Qt.Key.Key_0)
    arrived(window)
    settled()
    assert manual.shown == "space/start"


@pytest.mark.parametrize("way", ["Esc", "F1", "button"])
def test_it_goes_the_way_it_is_left(window, manual, way):
    if way == "Esc":
        QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Escape)
    elif way == "F1":
        QTest.keyClick(window, Qt.Key.Key_F1)
    else:
        press(next(b for b in manual.findChildren(QAbstractButton) if "Close" in b.text()))
    settled()
    assert not there(window)


def test_a_press_beside_it_works_on_and_leaves_it_open(window, manual):
    model = window.space("ladder").model
    model.select(0)
    QTest.mouseClick(window.space("ladder").view, Qt.MouseButton.LeftButton, pos=QPoint(90, 150))
    settled()
    assert there(window)


def test_a_page_that_somebody_chose_stays_when_the_space_changes(window, manual):
    manual.show_page("glossary")
    window.go_to("gear")
    settled()
    assert manual.shown == "glossary"
    press(manual.back_button)
    assert manual.shown.startswith("space/")


def test_keys_are_a_page_of_it_and_of_each_space(window, manual):
    window.go_to("gear")
    settled()
    said = manual.text.toPlainText()
    assert "Keys here" in said
    assert "What readings teach" in said
    manual.show_page("keys")
    said = manual.text.toPlainText()
    assert "Everywhere" in said
    assert "In Gear" in said
    assert "Ctrl+S" in said


def test_it_is_searched(window, manual):
    QTest.keyClicks(manual.search, "crystal bass")
    settled()
    titles = [manual.pages.topLevelItem(k).text(0) for k in range(manual.pages.topLevelItemCount())]
    assert "Piezo microphone" in titles
    item = manual.pages.topLevelItem(titles.index("Piezo microphone"))
    manual.pages.setCurrentItem(item)
    settled()
    assert manual.shown == "kind/piezo-microphone"
    QTest.keyClicks(manual.search, " zzzz")
    assert manual.pages.topLevelItemCount() == 0


def test_links_lead_to_pages(window, manual):
    manual.show_page("job/hum-hunt")
    assert "Being worked out" in manual.text.toPlainText()
    manual.finish()
    settled()
    assert "hum falls to" in manual.text.toPlainText()
    from PySide6.QtCore import QUrl

    manual.text.anchorClicked.emit(QUrl("page:finding/earth-loop"))
    assert manual.shown == "finding/earth-loop"


@pytest.mark.long
def test_it_stays_within_the_window_at_every_size(window, manual, look):
    for wide, high, scale in ((1280, 800, 1.0), (1024, 700, 1.5), (900, 600, 1.3)):
        look.set_scale(scale)
        window.resize(wide, high)
        settled(8)
        box = manual.geometry()
        assert box.right() <= window.width()
        assert box.bottom() <= window.height()
        assert manual.text.width() > 240
        assert not list(too_wide(manual))
    look.set_scale(1.0)


def test_it_is_there_before_any_station_is(qtbot, look):
    from tonleiter.app.window import MainWindow

    early = MainWindow(None, look)
    qtbot.addWidget(early)
    early.show()
    early.show_start()
    settled()
    early.activateWindow()
    qtbot.waitUntil(early.isActiveWindow)
    QTest.keyClick(early, Qt.Key.Key_F1)
    settled()
    assert there(early)[0].shown == "space/start"


# --- nothing in it is stale ----------------------------------------------------------------------


def test_every_space_has_a_page_and_a_sentence_for_newcomers():
    assert [entry.name for entry in SPACES] == list(table("spaces"))
    assert all(len(hint(entry.name)) > 20 for entry in SPACES)


@pytest.mark.long
def test_every_button_and_key_of_the_texts_is_in_the_window(window):
    """Of every page: what it tells people to press can be pressed."""
    window.show_start()
    window.space("ladder").model.finish()
    known = {b.text().replace("\n", " ") for b in window.findChildren(QAbstractButton)}
    keys = {k for c in commands_of(window) for k in c.keys.split()}
    for entry in SPACES:
        window.go_to(entry.name)
        finish(window.space(entry.name))
        settled()
        keys |= {k for a in window.space(entry.name).key_actions() for k in a.keys.split()}
        keys |= {k for hint, _ in window.space(entry.name).hints() for k in hint.split()}
    # a loop's card has a way to its picture
    window.document.edit("chain", lambda s: s.model_copy(update={"open_chain": "hf-weak-data"}))
    window.go_to("ladder")
    window.space("ladder").model.finish()
    settled()
    known |= {b.text().replace("\n", " ") for b in window.findChildren(QAbstractButton)}
    arrows = {"Up": "↑", "Down": "↓", "Left": "←", "Right": "→"}
    missing = []
    for page in standing().pages:
        for text in page.texts():
            missing += [b for b in BUTTON.findall(text) if not any(b in k for k in known)]
            missing += [k for k in KEY.findall(text) if arrows.get(k, k) not in keys]
    assert missing == []


# --- hints ---------------------------------------------------------------------------------------


@pytest.fixture
def hinted(window, monkeypatch):
    monkeypatch.setattr(hints, "SHOWN", True)
    window.go_to("gear")
    settled()
    return window


def test_a_first_visit_is_greeted_until_something_is_done(hinted, qtbot):
    assert hinted.over.hint.isVisible()
    assert "Put what you own on the shelf" in hinted.over.hint.accessibleName()
    tree = hinted.space("gear").shelf.tree.viewport()
    at = tree.mapTo(hinted, QPoint(40, 40))
    QTest.mouseClick(hinted.windowHandle(), Qt.MouseButton.LeftButton, pos=at)
    settled()
    assert hints.seen() == {"gear"}
    hinted.go_to("match")
    settled()
    assert hinted.over.hint.name == "match"
    hinted.go_to("gear")
    settled()
    # used once: not said again; what was only looked past is
    assert hinted.over.hint is None
    hinted.go_to("match")
    assert hinted.over.hint.name == "match"


def test_it_can_be_put_away_by_its_link_and_called_again(hinted):
    press(next(b for b in hinted.over.hint.findChildren(QAbstractButton)))
    settled()
    assert hints.seen() == {"gear"}
    QTest.keyClick(hinted, Qt.Key.Key_F1, Qt.KeyboardModifier.ShiftModifier)
    settled()
    assert hinted.over.hint.isVisible()


def test_nobody_is_stopped_by_it(hinted):
    """A key that is meant for the space does what it does."""
    QTest.keyClick(hinted.space("gear").shelf.tree, Qt.Key.Key_G)
    settled()
    assert hinted.space("gear").model.selected == "\0grounds"


# --- terms ---------------------------------------------------------------------------------------


def shown_label(qtbot, text, wide=400, wraps=True):
    made = label(text, "", wraps)
    qtbot.addWidget(made)
    made.resize(wide, 120)
    made.show()
    qtbot.waitExposed(made)
    return made


def test_a_term_is_pressed_and_explained_beside_the_word(window, qtbot):
    window.space("ladder").model.finish()
    settled()
    said = next(
        s for s in window.findChildren(Said) if s.isVisible() and s.places() and s.height() > 10
    )
    place = said.places()[0]
    QTest.mouseClick(said, Qt.MouseButton.LeftButton, pos=place.rect.center().toPoint())
    settled()
    card = next(c for c in window.findChildren(TermCard) if c.isVisible())
    assert place.term.says in card.accessibleName()
    assert window.rect().contains(card.geometry())
    press(next(b for b in card.findChildren(QAbstractButton)))
    settled()
    assert window.over.manual.shown == "glossary"


def test_a_press_beside_an_explanation_ends_it_and_does_nothing_else(window):
    from tonleiter.app.widgets.said import TERMS
    from tonleiter.core.manual.glossary import term

    model = window.space("ladder").model
    model.select(2)
    settled()
    TERMS.pressed.emit(term("bias"), window.mapToGlobal(QPoint(900, 600)))
    settled()
    view = window.space("ladder").view
    at = view.mapTo(window, QPoint(view.width() // 8, 150))
    QTest.mouseClick(window.windowHandle(), Qt.MouseButton.LeftButton, pos=at)
    settled()
    assert window.over.term is None
    assert model.selected == 2


def test_escape_ends_one_card_after_the_other(window):
    """The manual and an answer at once: each press of the key ends one."""
    window.space("ladder").model.finish()
    window.over.show_manual("glossary")
    settled()
    window.space("ladder").ask_why("level", at_radio=True)
    settled()
    for left in (1, 0):
        QTest.keyClick(window, Qt.Key.Key_Escape)
        settled()
        open_cards = bool(window.over.manual) + bool(window.over.why)
        assert open_cards == left


def test_escape_ends_an_explanation(window):
    from tonleiter.app.widgets.said import TERMS
    from tonleiter.core.manual.glossary import term

    TERMS.pressed.emit(term("bias"), window.mapToGlobal(QPoint(1200, 780)))
    settled()
    card = window.over.term
    assert window.rect().contains(card.geometry())
    QTest.keyClick(window, Qt.Key.Key_Escape)
    settled()
    assert window.over.term is None


@pytest.mark.parametrize("wide", [120, 260, 500])
def test_the_dots_stand_under_the_word_where_the_label_wrote_it(qtbot, wide):
    """The label wraps by itself; where the ink of the word is, the press must be."""
    made = shown_label(qtbot, "Sound is carried on two wires of a line that is balanced", wide)
    (place,) = made.places()
    image = made.grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)
    box = place.rect.toAlignedRect()

    def ink(left, right):
        paper = image.pixelColor(image.width() - 1, image.height() - 1).lightness()
        return sum(
            abs(image.pixelColor(x, y).lightness() - paper) > 60
            for x in range(max(left, 0), min(right, image.width()))
            for y in range(box.top(), box.bottom() - 4)
        )

    assert ink(box.left(), box.right()) > 40
    # and what is right of it, to the edge, is paper: the sentence ends with the word
    assert ink(box.right() + 3, image.width()) == 0


def test_a_figure_with_its_unit_is_no_term(qtbot):
    made = shown_label(qtbot, "−58.6 dBu of speech")
    assert made.places() == ()


def test_fields_and_figures_are_left_alone(window):
    for field in window.findChildren(QLineEdit):
        assert not isinstance(field, Said)
    assert not isinstance(label("bias", "figure"), Said)


def test_a_name_of_a_station_in_capitals_is_no_term(qtbot):
    assert shown_label(qtbot, "alc and agc are somebody's initials").places() == ()


def test_pages_name_no_key_that_looks_like_a_placeholder():
    for page in standing().pages:
        for text in page.texts():
            assert not re.search(r"\{\s*\}|<<\s*>>", text)
