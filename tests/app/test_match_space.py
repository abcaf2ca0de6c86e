"""The Match space in the real window: grid, answer, ladder of a pair, plans."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from tests.app.hands import arrived, choose, press
from tonleiter.app.spaces.gear.model import ADD
from tonleiter.core.match import grid as core_grid
from tonleiter.core.station import edits
from tonleiter.core.station.edits import change_gear

AT = "match"


@pytest.fixture
def match(window):
    window.go_to("match")
    window.space("match").model.finish()
    return window.space("match")


def centre(match, source, socket):
    grid = match.model.grid
    row = [g.id for g in grid.sources].index(source)
    column = [g.id for g in grid.inputs].index(socket)
    return match.grid.cell(row, column).center().toPoint()


def test_the_grid_fills_by_itself_and_answers(window, qtbot):
    window.go_to("match")
    model = window.space("match").model
    assert not model.finished
    qtbot.waitUntil(lambda: model.finished, timeout=30_000)
    assert len(model.grid.pairs) == len(model.grid.sources) * len(model.grid.inputs)
    assert (
        window.space("match")._says.text().startswith("For a long chat on SSB the electret headset")
    )
    assert model.pair.verdict == "plug-in"


def test_an_edit_solves_only_what_it_touched(match, window, monkeypatch):
    solved = []
    whole = core_grid.match_pair

    def counting(station, source, socket, terms):
        solved.append((source.id, socket.id))
        return whole(station, source, socket, terms)

    monkeypatch.setattr(core_grid, "match_pair", counting)
    before = dict(match.model.grid.pairs)
    window.space("ladder").model.edit(
        "louder", lambda s: change_gear(s, "piezo-desk", sensitivity_mv_per_pa=60)
    )
    match.model.finish()
    assert {s for s, _ in solved} == {"piezo-desk"}
    after = match.model.grid.pairs
    louder = (
        after["piezo-desk", "am-museum"].speech_dbu - before["piezo-desk", "am-museum"].speech_dbu
    )
    assert louder > 5
    assert after["stage-dynamic", "hf-set"] is before["stage-dynamic", "hf-set"]


def test_clicking_chooses_and_the_detail_follows(match, qtbot):
    at = centre(match, "logging-laptop", "hf-set")
    qtbot.mouseClick(match.grid, Qt.MouseButton.LeftButton, pos=at)
    assert match.model.selected == ("logging-laptop", "hf-set")
    assert "needs a pad of" in match.grid.accessibleDescription()


def test_arrows_walk_the_grid_and_enter_shows_the_ladder(match, window, qtbot):
    match.model.select(("stage-dynamic", "hf-data"))
    qtbot.keyClick(match.grid, Qt.Key.Key_Right)
    qtbot.keyClick(match.grid, Qt.Key.Key_Down)
    assert match.model.selected == ("electret-headset", "fm-mobile")
    level = match.model.pair.speech_dbu
    qtbot.keyClick(match.grid, Qt.Key.Key_Return)
    arrived(window)
    assert window._stack.currentWidget() is window.space("ladder")
    rows = window.space("ladder").model.assessment.rows
    assert (rows[0].id, rows[-1].id) == ("electret-headset", "fm-mobile")
    assert rows[-1].speech_dbu == pytest.approx(level, abs=0.01)
    window.undo()
    assert window.document.station.open_chain == "hf-chat"


@pytest.mark.long
def test_purposes_voices_and_distances_change_the_answer(match):
    choose(match.purpose, "packet")
    match.model.finish()
    assert match.model.grid.pairs["stage-dynamic", "hf-set"].verdict == "not-worth-it"
    match.model.set_terms(purpose="fm-voice", operator="high-voice")
    assert match.model.terms.distance_mm == 40
    match.model.finish()
    near = match.model.grid.pairs["stage-dynamic", "fm-mobile"].speech_dbu
    match.model.set_terms(distance_mm=90)
    match.model.finish()
    far = match.model.grid.pairs["stage-dynamic", "fm-mobile"].speech_dbu
    # twice as far from the point 10 mm behind the lips
    assert near - far == pytest.approx(6.0, abs=0.1)


@pytest.mark.long
def test_a_guest_leads_to_its_questions_and_then_stands_in_the_grid(match, window):
    press(next(b for b in match.findChildren(QPushButton) if b.text() == "A guest…"))
    arrived(window)
    assert window._stack.currentWidget() is window.space("gear")
    assert "guest" in window.space("gear").page(ADD)._title.text()
    adding = window.space("gear").page(ADD)
    for words in ("an input of a radio or a computer", "a data or accessory socket of a radio"):
        next(b for b in adding.answers if b.text() == words).click()
    assert window.space("gear").model.piece.guest is True
    match.model.finish()
    assert ("stage-dynamic", "data-socket") in match.model.grid.pairs


def test_a_plan_is_searched_shown_and_made_a_variant(match, window, qtbot):
    match.model.select(("logging-laptop", "hf-set"))
    match.model.start_plan("simple")
    match.model.finish()
    assert match._pages.currentWidget() is match.plans
    card = match.plans.cards[0]
    assert match.plans._says.text().startswith("Best: ")
    planned = card.candidate.assessment.rows[-1].speech_dbu
    card.button.click()
    arrived(window)
    assert window._stack.currentWidget() is window.space("ladder")
    rows = window.space("ladder").model.assessment.rows
    assert rows[-1].speech_dbu == pytest.approx(planned, abs=0.05)
    assert not window.space("ladder").model.assessment.stops()
    assert match.model.progress is None
    window.undo()
    assert window.document.is_saved


@pytest.mark.long
def test_plans_come_as_they_are_found_and_can_be_stopped(match, qtbot):
    match.model.select(("logging-laptop", "am-museum"))
    match.model.start_plan("simple")
    qtbot.waitUntil(lambda: bool(match.model.progress.best), timeout=30_000)
    match.plans.stop_button.click()
    assert not match.model.planning
    kept = match.model.progress
    qtbot.wait(50)
    assert match.model.progress is kept
    qtbot.keyClick(match, Qt.Key.Key_Escape)
    assert match.model.progress is None
    assert match._pages.currentIndex() == 0


@pytest.mark.long
def test_another_style_searches_again(match):
    match.model.select(("logging-laptop", "hf-set"))
    match.model.start_plan("isolated")
    match.model.finish()
    assert all(c.candidate.figures.isolated for c in match.plans.cards)
    assert match.plans.style_buttons["isolated"].isChecked()


@pytest.mark.long
def test_an_edit_of_what_a_plan_rests_on_puts_it_away_and_no_other(match, window):
    match.model.select(("logging-laptop", "am-museum"))
    match.model.start_plan("simple")
    match.model.finish()
    window.space("ladder").model.set_value(3, "series_ohm", 4700)
    assert match.model.progress is not None, "a pad of another chain is none of its business"
    laptop = edits.change_gear
    window.document.edit("louder", lambda s: laptop(s, "logging-laptop", below_full_db=-10))
    assert match.model.progress is None


def test_opening_another_station_forgets_the_spaces_of_the_old(
    match, window, tmp_path, demo_folder
):
    assert window.filing.open(demo_folder)
    assert window.shown == "match"  # where it was left
    assert window.space("match") is not match
    assert window.space("match").model.document is window.document
