"""What a new user does, in order, in the real window."""

import json

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox

from tests.app.hands import arrived, button_of, choose, retype, settled
from tonleiter.app.document import Document
from tonleiter.app.spaces.no_chain import SHOWS_LADDER
from tonleiter.app.window import MainWindow
from tonleiter.core.gear.passives import LPad


def speech(model):
    return model.assessment.rows[-1].speech_dbu


def codes(model):
    return {f.code for f in model.assessment.findings if f.severity != "fine"}


def column_centre(view, stage):
    frame = view.frame()
    x = (frame.x(stage + 1) + frame.x(stage + 2)) / 2
    return QPoint(round(x), round(frame.plot.center().y()))


def test_the_ladders_button_counts_what_must_be_stopped(window):
    button = window.buttons["ladder"]
    assert button.accessibleDescription() == "Ladder, 1 to stop"


def test_the_sentence_answers(space):
    assert space.sentence.startswith("The 20 W HF set gets")
    assert "right in its window" in space.sentence


def test_typing_a_value_moves_everything(qtbot, space, model):
    model.select(3)
    before = speech(model)
    retype(space.inspector.entry("series_ohm"), "4k7")
    assert model.assessment.rows[3].gear.series_ohm.value == 4700
    assert speech(model) == pytest.approx(before + 6.4, abs=0.3)
    assert space.inspector.entry("series_ohm").text() == "4k7"


@pytest.mark.parametrize("bad", ["4kk7", "abc", "-5", "0", "12 V"])
def test_bad_values_stay_where_they_were_typed(qtbot, space, model, bad):
    model.select(3)
    station = model.document.station
    entry = space.inspector.entry("series_ohm")
    retype(entry, bad)
    assert entry.text() == bad
    assert entry.property("bad") is True
    assert space.inspector._refusal.text()
    assert model.document.station is station
    qtbot.keyClick(entry, Qt.Key.Key_Escape)
    assert entry.text() == "10k"
    assert entry.property("bad") is False
    assert space.inspector._refusal.text() == ""


def test_dragging_follows_the_hand_and_is_one_undo_step(qtbot, window, space, model):
    view = space.view
    start = column_centre(view, 3)
    before, levels = speech(model), []
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    for dy in range(5, 50, 5):
        qtbot.mouseMove(view, start - QPoint(0, dy))
        # offscreen, pytest-qt's mouseMove carries no button: send the real thing
        levels.append(speech(model))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=start - QPoint(0, 45))
    assert model.selected == 3
    assert levels == sorted(levels)
    travelled = 45 * view.frame().db_per_px
    assert speech(model) - before == pytest.approx(travelled, abs=0.8)
    window.undo()
    assert speech(model) == pytest.approx(before)
    window.redo()
    assert speech(model) - before == pytest.approx(travelled, abs=0.8)


def test_dragging_the_voice_moves_the_mouth(qtbot, space, model):
    view = space.view
    start = column_centre(view, -1)
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(view, start + QPoint(0, 30))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=start + QPoint(0, 30))
    assert model.chain.distance_mm.value > 35


def test_the_stop_is_met_mended_undone_and_done_again(qtbot, window, space, model):
    model.finish()
    assert "dc-through-winding" in codes(model)
    space.show_response(True)
    corner_before = model.assessment.corners_hz[0]
    button = space.tray.first_remedy()
    assert "plus side to the 20 W HF set" in button.accessibleName()
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert codes(model) == set()
    corner = model.assessment.corners_hz[0]
    assert corner > corner_before
    f_hz, drawn_db = space.response.curve_db()
    assert drawn_db[abs(f_hz - corner).argmin()] == pytest.approx(-3, abs=0.5)
    kinds = [r.kind for r in model.assessment.rows]
    assert kinds[-3:] == ["capacitor", "cable", "microphone-socket"]
    window.undo()
    assert "dc-through-winding" in codes(model)
    window.redo()
    assert codes(model) == set()


def test_remedies_come_by_themselves_when_the_hand_rests(qtbot, space):
    qtbot.waitUntil(lambda: space.tray.first_remedy() is not None, timeout=5000)


@pytest.mark.long
def test_the_electret_behind_the_mixer_has_no_bias(qtbot, space, model):
    choose(space.header.microphone_box, "electret-headset")
    assert "microphone is dead" in space.sentence
    assert "electret-no-bias" in codes(model)
    model.finish()
    card = next(c for c in space.tray.cards if c.finding.code == "electret-no-bias")
    fed = next(b for b in card.buttons if b.accessibleName().startswith("Feed it"))
    qtbot.mouseClick(fed, Qt.MouseButton.LeftButton)
    assert "electret-no-bias" not in codes(model)
    assert "bias-feed" in [r.kind for r in model.assessment.rows]
    assert "of speech" in space.sentence


def test_save_close_reopen_all_is_there(qtbot, window, model, look, demo_folder):
    model.select(3)
    model.set_value(3, "series_ohm", 8200.0)
    choose(window.space("ladder").header.purpose_box, "ssb-weak")
    assert not window.document.is_saved
    assert window.filing.save()
    assert window.document.is_saved
    station = window.document.station
    window.close()
    again = MainWindow(Document.open(demo_folder), look)
    qtbot.addWidget(again)
    again.show()
    assert again.document.station == station
    pad = again.space("ladder").model.assessment.rows[3].gear
    assert isinstance(pad, LPad)
    assert pad.series_ohm.value == 8200
    assert again.space("ladder").header.purpose_box.currentData() == "ssb-weak"


def test_header_boxes_are_the_selector(space, model):
    choose(space.header.chain_box, "fm-headset")
    assert model.chain.id == "fm-headset"
    choose(space.header.radio_box, "hf-set")
    assert model.assessment.rows[-1].id == "hf-set"
    choose(space.header.operator_box, "deep-voice")
    assert model.assessment.solution.compiled.operator.id == "deep-voice"


def test_variants_and_ghosts(space, model):
    choose(space.header.shown_box, "as-wired")
    assert model.assessment.solution.compiled.variant.id == "as-wired"
    choose(space.header.ghost_box, "with-transformer")
    assert model.ghost.solution.compiled.variant.id == "with-transformer"
    space.header.add_variant("bigger pad")
    assert model.chain.shown == "bigger-pad"
    assert model.ghost.solution.compiled.variant.id == "as-wired"
    ghost_before = model.ghost.rows[-1].speech_dbu
    model.set_value(3, "series_ohm", 22e3)
    assert model.ghost.rows[-1].speech_dbu == pytest.approx(ghost_before)
    assert speech(model) < ghost_before - 5


def test_distance_is_typed_in_the_sentence(qtbot, window, space, model):
    retype(space.header.distance, "60")
    assert model.chain.distance_mm.value == 60
    retype(space.header.distance, "near")
    assert "is not a distance" in window.notice.text
    assert model.chain.distance_mm.value == 60
    assert space.header.distance.text() == "near"


@pytest.mark.parametrize(
    ("answer", "closed", "saved"),
    [
        (QMessageBox.StandardButton.Save, True, True),
        (QMessageBox.StandardButton.Discard, True, False),
        (QMessageBox.StandardButton.Cancel, False, False),
    ],
)
def test_closing_with_unsaved_edits_asks(
    window, model, monkeypatch, demo_folder, answer, closed, saved
):
    model.set_value(3, "series_ohm", 1234.0)
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: answer)
    assert window.close() is closed
    assert ("1234" in (demo_folder / "station.json").read_text("utf-8")) is saved


def test_a_failed_save_says_why_and_keeps_the_edit(window, model, monkeypatch):
    import errno
    import os

    def full(*args):
        raise OSError(errno.ENOSPC, "full")

    model.set_value(3, "series_ohm", 1234.0)
    monkeypatch.setattr(os, "fsync", full)
    assert window.filing.save() is False
    assert "the disk is full" in window.notice.text
    assert not window.document.is_saved
    assert model.assessment.rows[3].gear.series_ohm.value == 1234


def test_opening_rubbish_keeps_the_present_station(window, tmp_path):
    (tmp_path / "station.json").write_text("{")
    before = window.document
    assert window.filing.open(tmp_path) is False
    assert window.document is before
    assert "not JSON" in window.notice.text


def test_opening_another_station(window, demo_data, tmp_path):
    demo_data["title"] = "Another"
    (tmp_path / "station.json").write_text(json.dumps(demo_data))
    assert window.filing.open(tmp_path)
    assert "Another" in window.windowTitle()
    window.space("ladder").model.set_value(3, "series_ohm", 5.0)
    assert "not saved" in window.windowTitle()


def test_a_station_without_a_chain_says_what_to_do(qtbot, look, demo_data, tmp_path):
    demo_data |= {"chains": [], "open_chain": None}
    (tmp_path / "station.json").write_text(json.dumps(demo_data))
    empty = MainWindow(Document.open(tmp_path), look)
    qtbot.addWidget(empty)
    empty.show()
    empty.grab()
    assert empty.space("ladder").sentence == "There is no chain to show."


SAY_SO = {
    "ladder": lambda space: space._proves.text(),
    "wire": lambda space: space._says.text(),
    "prove": lambda space: space._says.text(),
    "set": lambda space: space._says.text(),
}


@pytest.mark.long
def test_what_a_space_without_a_chain_says_can_be_done_there(open_window, demo_data, tmp_path):
    """Gear on the shelf and no chain: a pair in Match, its button, and every space has one."""
    demo_data |= {"chains": [], "open_chain": None}
    (tmp_path / "station.json").write_text(json.dumps(demo_data))
    window = open_window(tmp_path)
    for name in ("ladder", "wire", "prove", "set"):
        window.go_to(name)
        settled()
        said = SAY_SO[name](window.space(name))
        assert "in Match (2)" in said, (name, said)
        assert f"“{SHOWS_LADDER}”" in said, (name, said)
    QTest.keyClick(window, Qt.Key.Key_2)
    arrived(window)
    settled()
    match = window.space("match")
    match.model.finish()
    settled()
    QTest.mouseClick(button_of(match, SHOWS_LADDER), Qt.MouseButton.LeftButton)
    settled()
    assert window.shown == "ladder"
    assert window.document.station.chain() is not None
    for name in ("wire", "prove", "set"):
        window.go_to(name)
        window.space(name).model.finish()
        settled()
        assert "no chain" not in SAY_SO[name](window.space(name))


def test_a_variant_is_removed_and_comes_back_by_undo(window, space, model):
    ghost = model.chain.ghost
    choose(space.header.shown_box, "remove this variant")
    assert (model.chain.shown, model.chain.ghost) == (ghost, None)
    assert space.header.shown_box.findText("remove this variant") < 0  # the last one stays
    window.undo()
    assert model.chain.ghost == ghost
    assert len(model.chain.variants) == 2


def test_the_window_stands_before_its_station_is_read(qtbot, demo_folder, window):
    """Painted with its rail; keys and buttons wait; then it is a window like any other."""
    early = MainWindow(None, window._look)
    qtbot.addWidget(early)
    early.show()
    assert not early.is_open
    assert not any(b.isEnabled() for b in early.buttons.values())
    for key in (Qt.Key.Key_1, Qt.Key.Key_Z, Qt.Key.Key_S):
        qtbot.keyClick(early, key, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(early, Qt.Key.Key_F1)
    assert not early.grab().isNull()
    early.open_with(Document.open(demo_folder))
    assert early.is_open
    assert early.buttons["ladder"].isChecked()
    assert early.space("ladder").model.assessment is not None
    early.activateWindow()
    qtbot.waitUntil(early.isActiveWindow)
    qtbot.keyClick(early, Qt.Key.Key_1)
    assert early.buttons["gear"].isChecked()


def test_a_window_that_opens_nothing_closes_without_asking(qtbot, window):
    early = MainWindow(None, window._look)
    qtbot.addWidget(early)
    early.show()
    assert early.close()
