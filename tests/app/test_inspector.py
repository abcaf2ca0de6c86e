"""The inspector's plots, an own circuit's cards, bands and doubts in the real window."""

import json

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel

from tests.app.hands import choose, retype, settled
from tests.conftest import gear, station_of
from tonleiter.app.jobs import Wait
from tonleiter.app.spaces.ladder.grasp import VOICE_INDEX
from tonleiter.core.gear.library import parts_library
from tonleiter.core.station.files import read_station, save_station

LIBRARY = parts_library()


@pytest.fixture
def typed(tmp_path, open_window):
    """Opens a window on a station made of library entries or typed pieces."""

    def make(*pieces):
        raw = [LIBRARY[p].model_dump(mode="json") if isinstance(p, str) else p for p in pieces]
        folder = tmp_path / "typed.station"
        save_station(station_of(*raw), folder)
        window = open_window(folder)
        settled()
        return window

    return make


def test_an_electret_shows_its_load_line_and_follows_its_feed(typed):
    capsule, feed = gear("electret-2-wire", "capsule"), gear("bias-feed", "feed")
    window = typed(capsule, feed, "valve-socket")
    model, inspector = window.space("ladder").model, window.space("ladder").inspector
    model.select(0)
    before = inspector._plots[0].curve.marks[0].x
    model.set_value(1, "resistor_ohm", 4700)
    assert inspector._plots[0].curve.title == "Load line"
    assert inspector._plots[0].curve.marks[0].x < before
    assert "works here" in inspector._plots[0].accessibleName()


def test_a_flat_stage_shows_no_plot(typed):
    window = typed("stage-dynamic-300", "l-pad-40db", "valve-socket")
    window.space("ladder").model.select(1)
    assert all(
        p.curve is None and not p.isVisible() for p in window.space("ladder").inspector._plots
    )


def test_cards_are_edited_in_place(typed, qtbot):
    window = typed("stage-dynamic-300", "own-emitter-stage", "valve-socket")
    model, inspector = window.space("ladder").model, window.space("ladder").inspector
    model.select(1)
    before = model.assessment.rows[1].gain_db
    cards = inspector._cards
    cards.setPlainText(cards.toPlainText().replace("R3 vcc c 10k", "R3 vcc c 4.7k"))
    qtbot.keyClick(cards, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert before - model.assessment.rows[1].gain_db > 4
    window.undo()
    assert model.assessment.rows[1].gain_db == pytest.approx(before)
    assert "10k" in cards.toPlainText()


def test_wrong_cards_stay_as_typed_with_the_line_that_is_wrong(typed, qtbot):
    window = typed("stage-dynamic-300", "own-emitter-stage", "valve-socket")
    window.space("ladder").model.select(1)
    cards = window.space("ladder").inspector._cards
    typo = cards.toPlainText().replace("R3 vcc c 10k", "R3 vcc c 10kk")
    cards.setPlainText(typo)
    cards.commit()
    assert cards.toPlainText() == typo
    assert cards.property("bad") is True
    assert "line 6" in window.space("ladder").inspector._refusal.text()
    assert not window.document.history.past
    qtbot.keyClick(cards, Qt.Key.Key_Escape)
    assert "10k\n" in cards.toPlainText()
    assert cards.property("bad") is False


def test_a_port_that_is_no_node_is_refused(typed):
    window = typed("stage-dynamic-300", "own-emitter-stage", "valve-socket")
    window.space("ladder").model.select(1)
    entry = window.space("ladder").inspector._nodes["output_node"]
    retype(entry, "nowhere")
    assert "known:" in window.space("ladder").inspector._refusal.text()
    retype(entry, "c")
    assert window.document.station.gear_by_id["own-emitter-stage"].output_node == "c"


@pytest.mark.long
def test_bands_come_by_themselves_and_stay_while_a_value_moves(typed, qtbot):
    microphone = gear("dynamic-microphone", "mic", sensitivity_mv_per_pa="0.1..0.2")
    window = typed(microphone, "l-pad-40db", "valve-socket")
    model = window.space("ladder").model
    qtbot.waitUntil(lambda: bool(model.bands), timeout=20_000)
    below, above = model.bands["mic"]
    assert below > 1 and above > 1
    model.set_value(1, "series_ohm", 4700)
    assert model.bands["mic"] == (below, above)
    assert model.doubts is None
    qtbot.waitUntil(lambda: model.doubts is not None, timeout=20_000)
    assert any("certain" in card._head.text() for card in window.space("ladder").tray.cards)


def test_what_only_some_draws_have_is_a_card_of_its_own(typed):
    microphone = gear("dynamic-microphone", "mic", sensitivity_mv_per_pa="1..4")
    loud = gear("microphone-socket", "radio", z_in_ohm=10e3, wants_dbu=-67)
    window = typed(microphone, loud)
    window.space("ladder").model.finish(Wait.LATER)
    card = window.space("ladder").tray._maybes[0]
    assert card._head.text().startswith("▲ MAYBE")
    assert "sensitivity of the mic" in card._doubt.text()
    assert not card.buttons


def test_a_station_with_every_new_field_is_saved_and_read_again(typed, tmp_path):
    window = typed("studio-condenser", "two-core-5m", "mixer-strip-balanced", "valve-socket")
    window.space("ladder").model.set_value(1, "screen", "source-end")
    window.filing.save()
    again = read_station(tmp_path / "typed.station").station
    assert again == window.document.station
    written = json.loads((tmp_path / "typed.station/station.json").read_text("utf-8"))
    assert written["gear"][1]["screen"] == "source-end"


def test_how_it_is_spoken_into_is_chosen_at_the_voice(space, model):
    model.select(-1)
    before = model.assessment.rows[-1].speech_dbu
    choose(space.inspector.speaks, "into-it")
    assert model.chain.speaks == "into-it"
    assert "breath-pops" in [f.code for f in model.assessment.findings]
    assert model.assessment.rows[-1].speech_dbu >= before
    model.document.undo()
    assert model.chain.speaks == "across-it"
    assert space.inspector.speaks.currentData() == "across-it"


def test_insert_asks_for_no_list_of_a_stage_that_is_not_shown_any_more(window):
    """The voice has nothing to put in; the list of the stage before went with its panel."""
    space = window.space("ladder")
    space.model.select(1)
    assert space.inspector.insert_box is not None
    space.model.select(VOICE_INDEX)
    # what was put away is gone by now
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QTest.keyClick(space.view, Qt.Key.Key_Insert)
    settled()
    assert space.inspector.insert_box is None


def title(inspector):
    """The name of what is inspected, as it stands there now."""
    labels = (w for w in inspector.findChildren(QLabel) if w.property("role") == "title")
    return next(w.text() for w in labels if w.isVisible())


def test_another_chain_is_on_the_ladder_before_its_stage_is_inspected(window, space):
    """What is typed in that moment is of the piece that was seen; the new one comes later."""
    model, inspector = space.model, space.inspector
    settled()
    model.select(0)
    first = model.chain
    was = model.assessment.rows[0].gear
    other = next(
        c
        for c in window.document.station.chains
        if c.id != first.id and c.variant().stages[0].gear != was.id
    )
    model.open_chain(other.id)
    now = model.assessment.rows[0].gear
    assert now.id == other.variant().stages[0].gear
    assert title(inspector) == was.name
    settled()
    assert title(inspector) == now.name
    # back, and there again before its turn came
    window.undo()
    window.redo()
    settled()
    assert title(inspector) == now.name
