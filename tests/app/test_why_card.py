"""Why? pressed in the real window: the card, its links, its end."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from tests.app.hands import press, settled, words
from tests.conftest import mended
from tonleiter.app.spaces.gear.model import PEOPLE
from tonleiter.app.why_card import WhyCard
from tonleiter.core.station.files import save_station


@pytest.fixture
def ladder(window):
    space = window.space("ladder")
    space.model.finish()
    settled()
    return space


def answered(window):
    """The card, once the answer stands in it."""
    window.session.asking.finish()
    settled()
    cards = [c for c in window.findChildren(WhyCard) if c.isVisible()]
    assert len(cards) == 1
    return cards[0]


def links(card):
    return [b for b in card.findChildren(QPushButton) if b.isVisible()]


@pytest.mark.long
def test_a_key_says_how_the_level_comes_about_and_escape_ends_it(window, ladder):
    QTest.keyClick(ladder.view, Qt.Key.Key_Y)
    card = answered(window)
    said = " ".join(words(card))
    assert "at the 20 W HF set?" in said
    assert "It hangs most on" in said
    QTest.keyClick(window, Qt.Key.Key_Escape)
    settled()
    assert window.over.why is None
    assert not window.session.asking.open


@pytest.mark.long
def test_a_finding_is_asked_about_on_its_card(window, ladder):
    press(ladder.tray.cards[0].why)
    card = answered(window)
    assert "8 V from the 20 W HF set" in words(card)[0]


@pytest.mark.long
def test_a_line_leads_to_its_figure_with_the_keyboard_in_it(window, ladder):
    press(ladder.why_button)
    card = answered(window)
    wanted = next(b for b in links(card) if "desk mixer, mic strip, gain" in b.text().lower())
    press(wanted)
    settled()
    gear = window.space("gear")
    assert window.shown == "gear"
    assert gear.model.piece.id == "desk-mixer"
    assert gear.editor.form.entry("gain_db").hasFocus()


def test_the_voice_leads_to_the_people(window, ladder):
    press(ladder.why_button)
    card = answered(window)
    press(next(b for b in links(card) if "voice, at" in b.text()))
    settled()
    assert window.shown == "gear"
    assert window.space("gear").model.selected == PEOPLE


def test_an_edit_makes_an_end_of_an_answer_of_before(window, ladder):
    press(ladder.why_button)
    answered(window)
    window.document.edit("title", lambda s: s.model_copy(update={"title": "x"}))
    settled()
    assert window.over.why is None


@pytest.mark.long
def test_what_can_be_asked_follows_the_stage(window, demo, demo_folder, open_window):
    save_station(mended(demo, "hf-chat", "with-transformer"), demo_folder)
    again = open_window(demo_folder)
    space = again.space("ladder")
    space.model.finish()
    space.model.select(len(space.model.assessment.rows) - 1)
    settled()
    there = [w for w, b in space.inspector.whys.links.items() if b.isVisible()]
    assert there == ["level", "room", "noise", "hum", "bass", "gain"]
    press(space.inspector.whys.links["gain"])
    assert "Why will the gain stand at" in words(answered(again))[0]
    QTest.keyClick(again, Qt.Key.Key_Escape)
    space.model.select(0)
    settled()
    there = [w for w, b in space.inspector.whys.links.items() if b.isVisible()]
    assert there == ["level", "room"]


@pytest.mark.long
def test_a_pair_of_the_grid_is_asked_about(window):
    window.go_to("match")
    match = window.space("match")
    match.model.finish()
    settled()
    press(match.detail.whys.links["noise"])
    assert "over the noise?" in words(answered(window))[0]


@pytest.mark.parametrize("name", ["wire", "set"])
@pytest.mark.long
def test_findings_of_other_spaces_are_asked_about_too(window, name):
    window.go_to(name)
    space = window.space(name)
    space.model.finish()
    settled()
    press(space.tray.cards[0].why)
    assert answered(window)


@pytest.mark.long
def test_another_question_takes_the_place_of_the_first(window, ladder):
    press(ladder.why_button)
    answered(window)
    ladder.ask_why("room")
    assert "of room at the" in words(answered(window))[0]


def test_what_a_reading_should_be_is_asked_about_by_its_figure_and_its_brackets(window):
    from tonleiter.app.spaces.prove.gauge import Gauge

    window.go_to("prove")
    prove = window.space("prove")
    prove.model.finish()
    prove.model.show_step("dc")
    settled()
    press(next(iter(prove.whys.values())))
    assert "within their tolerances" in " ".join(words(answered(window)))
    QTest.keyClick(window, Qt.Key.Key_Escape)
    settled()
    press(next(g for g in prove.findChildren(Gauge) if g.isVisible()))
    assert answered(window)


def test_what_a_finding_means_is_read_in_the_manual(window, ladder):
    press(ladder.tray.cards[0].why)
    card = answered(window)
    press(next(b for b in links(card) if "in the manual" in b.text()))
    settled()
    assert window.over.why is None
    assert window.over.manual.shown == "finding/dc-through-winding"
