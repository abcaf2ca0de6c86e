"""Nothing is lost and nothing falls: the ways in which work was lost once, by real hands."""

import inspect
import json
import os
import shutil
from importlib import import_module
from pathlib import Path
from pkgutil import walk_packages

import pytest
from PySide6.QtCore import QObject, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox, QPushButton, QWidget

import tonleiter.app
from tests.app.hands import arrived, choose, press, rest, retype, type_over
from tonleiter.app.document import Document
from tonleiter.app.safety.events import guarded
from tonleiter.app.safety.trouble import trouble
from tonleiter.app.spaces.gear.model import DRAWER
from tonleiter.app.window import MainWindow
from tonleiter.core.station.autosave import found_autosaves, write_autosave
from tonleiter.core.station.edits import change_gear, change_station
from tonleiter.core.station.files import read_station, save_station

CTRL = Qt.KeyboardModifier.ControlModifier
YES, CANCEL = QMessageBox.StandardButton.Yes, QMessageBox.StandardButton.Cancel
SAVE, DISCARD = QMessageBox.StandardButton.Save, QMessageBox.StandardButton.Discard


@pytest.fixture
def answers(monkeypatch):
    """What the user answers to questions, in order; the questions asked are collected."""
    given, asked = [], []

    def question(parent, title, text, *rest):
        asked.append(text)
        return given.pop(0)

    monkeypatch.setattr(QMessageBox, "question", question)
    given_and_asked = given, asked
    return given_and_asked


def settle(seconds=0.05):
    rest(int(seconds * 1000))


def title_on_disk(folder):
    return json.loads((folder / "station.json").read_text("utf-8"))["title"]


# --- typing does not end the program --------------------------------------------------------------


@pytest.mark.parametrize("key", [Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab])
def test_no_bias_typed_into_a_socket_rebuilds_the_inspector_and_nothing_falls(window, key):
    space = window.space("ladder")
    space.model.select(6)
    entry = space.inspector.entry("bias_v")
    type_over(entry, "0")
    QTest.keyClick(entry, key)
    settle()
    assert window.document.station.gear_by_id["hf-set"].bias_v.value == 0
    # the panel was built anew, and the keyboard is on the same field in it
    assert "bias_ohm" not in [r.field for r in space.inspector._form.rows]
    if key != Qt.Key.Key_Tab:
        assert QApplication.focusWidget() is space.inspector.entry("bias_v")


def test_the_same_in_gear(window):
    window.go_to("gear")
    gear = window.space("gear")
    gear.model.select("hf-set")
    retype(gear.editor.form.entry("bias_v"), "0")
    settle()
    assert window.document.station.gear_by_id["hf-set"].bias_v.value == 0
    retype(gear.editor.form.entry("bias_v"), "8")
    settle()
    assert gear.editor.form.entry("bias_ohm").isVisible()


def test_a_piece_put_in_from_the_inspectors_list(window):
    space = window.space("ladder")
    space.model.select(2)
    space.view.setFocus()
    QTest.keyClick(space.view, Qt.Key.Key_Insert)
    box = space.inspector.insert_box
    assert box.view().isVisible()
    box.hidePopup()
    choose(box, "equaliser")
    settle()
    assert "equaliser" in [r.id for r in space.model.assessment.rows]


@pytest.mark.long
def test_a_remedy_pressed_in_the_tray_replaces_the_tray_it_stands_in(window):
    space = window.space("ladder")
    space.model.edit("no block", lambda s: change_gear(s, "hf-set", wants_dbu=-37, gain_range_db=8))
    space.model.finish()
    button = space.tray.first_remedy()
    assert button is not None
    press(button)
    settle()
    assert len(window.document.history.past) == 2


def test_everything_that_qt_calls_is_guarded():
    """An exception that passes through an overridden event ends in a segmentation fault."""
    bare, count = [], 0
    names = {n for n in dir(QWidget) if n.endswith("Event")} | {
        "event",
        "eventFilter",
        "sizeHint",
        "minimumSizeHint",
        "heightForWidth",
    }
    for found in walk_packages(tonleiter.app.__path__, "tonleiter.app."):
        for _, kind in inspect.getmembers(import_module(found.name), inspect.isclass):
            if not issubclass(kind, QObject) or not kind.__module__.startswith("tonleiter"):
                continue
            for name in names & set(vars(kind)):
                count += 1
                if not getattr(vars(kind)[name], "guarded", False):
                    bare.append(f"{kind.__name__}.{name}")
    assert count > 30
    assert sorted(set(bare)) == []


def test_a_failing_paint_is_said_in_one_line_and_the_window_goes_on(window, monkeypatch):
    view = window.space("ladder").view
    monkeypatch.setattr(view._painter, "_paint_feet", lambda *_: 1 / 0)
    view.repaint()
    view.repaint()
    assert len(trouble().seen) == 1  # said once, not at every repaint
    assert "Something went wrong" in window.notice.text
    assert "\n" not in window.notice.text
    monkeypatch.undo()
    view.repaint()
    window.space("ladder").model.set_value(3, "series_ohm", 4700.0)
    assert not window.document.is_saved
    trouble().seen.clear()


def test_a_guarded_method_returns_what_qt_can_take():
    class Odd(QWidget):
        @guarded
        def sizeHint(self):
            raise ValueError("no size")

    assert Odd().sizeHint().width() == -1
    trouble().seen.clear()


def test_a_slip_in_a_rule_is_no_dead_window(window, monkeypatch):
    model = window.space("ladder").model

    def slip(*args, **options):
        raise ZeroDivisionError("a slip")

    monkeypatch.setattr("tonleiter.app.spaces.ladder.model.assess", slip)
    model.set_value(3, "series_ohm", 4700.0)
    assert model.trouble.startswith("This chain has no solution")
    monkeypatch.undo()
    window.undo()
    assert model.assessment is not None
    assert any(isinstance(e, ZeroDivisionError) for e in trouble().seen)
    trouble().seen.clear()


# --- what was typed -------------------------------------------------------------------------------


def test_what_is_typed_is_taken_over_before_saving(window, demo_folder):
    space = window.space("ladder")
    space.model.select(3)
    entry = space.inspector.entry("series_ohm")
    type_over(entry, "4k3")
    QTest.keyClick(entry, Qt.Key.Key_S, CTRL)
    window.document.finish_writing()
    assert window.document.is_saved
    assert read_station(demo_folder).station == window.document.station
    assert space.model.assessment.rows[3].gear.series_ohm.value == 4300


def test_a_note_typed_and_saved_is_on_disk(window, demo_folder):
    window.go_to("gear")
    gear = window.space("gear")
    gear.model.select("pad")
    gear.editor.notes.setFocus()
    QTest.keyClicks(gear.editor.notes, "from the junk box")
    QTest.keyClick(gear.editor.notes, Qt.Key.Key_S, CTRL)
    window.document.finish_writing()
    assert "from the junk box" in (demo_folder / "station.json").read_text("utf-8")


def test_a_list_typed_in_the_drawer_is_saved_too(window, demo_folder):
    window.go_to("gear")
    gear = window.space("gear")
    gear.model.select(DRAWER)
    entry = gear.page(DRAWER).lists["resistors"]
    entry.setFocus()
    QTest.keyClicks(entry, "47 1k")
    QTest.keyClick(entry, Qt.Key.Key_S, CTRL)
    window.document.finish_writing()
    assert read_station(demo_folder).station.drawer.ohms() == [47, 1000]


def test_what_cannot_be_taken_over_is_said_at_saving_and_kept(window):
    space = window.space("ladder")
    space.model.select(3)
    retype(space.inspector.entry("series_ohm"), "4kk7")
    space.model.select(5)  # another piece: the field is gone, its text is not
    assert window.filing.save()
    assert "4kk7" in window.notice.text
    assert "Series" in window.notice.text
    space.model.select(3)
    assert space.inspector.entry("series_ohm").text() == "4kk7"
    assert space.inspector.entry("series_ohm").property("bad") is True
    QTest.keyClick(space.inspector.entry("series_ohm"), Qt.Key.Key_Escape)
    assert window.document.drafts.words == ""


def test_a_refused_text_outlives_an_edit_that_builds_the_panel_anew(window):
    space = window.space("ladder")
    space.model.select(6)
    retype(space.inspector.entry("z_in_ohm"), "many")
    retype(space.inspector.entry("bias_v"), "0")
    assert space.inspector.entry("z_in_ohm").text() == "many"


def test_typing_that_was_not_finished_outlives_a_rebuild(window):
    space = window.space("ladder")
    space.model.select(6)
    type_over(space.inspector.entry("clip_dbu"), "-2")
    # an edit from elsewhere (a remedy, somebody else) builds the panel anew meanwhile
    space.model.set_value(6, "bias_v", 0.0)
    entry = space.inspector.entry("clip_dbu")
    assert entry.text() == "-2"
    QTest.keyClicks(entry, "5")
    entry.setFocus()
    QTest.keyClick(entry, Qt.Key.Key_Return)


def test_closing_takes_over_what_is_typed_and_asks_to_save(window, answers, demo_folder):
    given, asked = answers
    space = window.space("ladder")
    space.model.select(3)
    type_over(space.inspector.entry("series_ohm"), "4k3")
    given.append(SAVE)
    assert window.close()
    assert "not saved" in asked[0]
    pad = read_station(demo_folder).station.chain("hf-chat").variant().stages[3]
    station = read_station(demo_folder).station
    assert station.placed(pad).series_ohm.value == 4300


def test_closing_with_a_refused_text_asks_first(window, answers):
    given, asked = answers
    space = window.space("ladder")
    space.model.select(3)
    retype(space.inspector.entry("series_ohm"), "4kk7")
    given += [CANCEL]
    assert not window.close()
    assert "4kk7" in asked[0]
    assert space.inspector.entry("series_ohm").text() == "4kk7"
    given += [DISCARD]
    assert window.close()


# --- files ----------------------------------------------------------------------------------------


def test_saving_over_another_station_is_asked_and_the_other_is_kept(window, answers, tmp_path):
    given, asked = answers
    other = tmp_path / "other.station"
    shutil.copytree(window.document.folder, other)
    station = read_station(other).station
    save_station(change_station(station, title="The other"), other, read_station(other).fingerprint)
    given.append(CANCEL)
    assert not window.filing.save_as(other)
    assert "The other" in asked[0]
    assert title_on_disk(other) == "The other"
    given.append(YES)
    assert window.filing.save_as(other)
    kept = next(other.glob("station.kept-*.json"))
    assert json.loads(kept.read_text("utf-8"))["title"] == "The other"
    for one in (kept, next(other.glob("records.kept-*.json"))):
        assert one.name in window.notice.text


def test_the_same_through_a_symbolic_link(window, answers, tmp_path):
    given, _ = answers
    real, link = tmp_path / "real.station", tmp_path / "link.station"
    shutil.copytree(window.document.folder, real)
    (real / "station.json").write_text(
        (real / "station.json").read_text("utf-8").replace("Club station", "Theirs"), "utf-8"
    )
    link.symlink_to(real)
    given.append(YES)
    assert window.filing.save_as(link)
    assert link.is_symlink()
    assert len(list(real.glob("station.kept-*.json"))) == 1


def test_saving_back_into_the_first_folder_after_somebody_changed_it(window, answers, tmp_path):
    given, _ = answers
    first = window.document.folder
    assert window.filing.save_as(tmp_path / "second.station")
    text = (first / "station.json").read_text("utf-8")
    (first / "station.json").write_text(text.replace("Club station", "Changed"), "utf-8")
    given.append(YES)
    assert window.filing.save_as(first)
    assert "Changed" in next(first.glob("station.kept-*.json")).read_text("utf-8")


def test_saving_to_and_fro_without_anybody_else_keeps_and_asks_nothing(window, answers, tmp_path):
    first = window.document.folder
    assert window.filing.save_as(tmp_path / "second.station")
    window.space("ladder").model.set_value(3, "series_ohm", 4300.0)
    assert window.filing.save_as(first)
    assert not list(first.glob("station.kept-*"))


def test_opening_the_open_station_and_saving_shows_what_was_saved(window, answers):
    given, _ = answers
    window.space("ladder").model.set_value(3, "series_ohm", 4321.0)
    given.append(SAVE)
    assert window.filing.open(window.document.folder)
    arrived(window)
    assert window.space("ladder").model.assessment.rows[3].gear.series_ohm.value == 4321
    assert window.filing.save()
    assert read_station(window.document.folder).station == window.document.station


def test_a_folder_renamed_while_open_is_followed(window):
    old = window.document.folder
    new = old.with_name("renamed.station")
    old.rename(new)
    window.space("ladder").model.set_value(3, "series_ohm", 4300.0)
    assert window.filing.save()
    assert not old.exists()
    assert window.document.folder == new
    assert read_station(new).station == window.document.station


def test_a_folder_that_is_gone_is_said_and_not_made_anew(window):
    folder = window.document.folder
    shutil.rmtree(folder)
    window.space("ladder").model.set_value(3, "series_ohm", 4300.0)
    assert not window.filing.save()
    assert "not there any more" in window.notice.text
    assert not folder.exists()
    assert window.filing.save_as(folder.with_name("rescued.station"))


# --- other people ---------------------------------------------------------------------------------


def saved_by_somebody_else(folder, title="Theirs"):
    opened = read_station(folder)
    save_station(change_station(opened.station, title=title), folder, opened.fingerprint)


def test_what_somebody_else_saves_is_taken_over_when_it_happens(window, qtbot):
    saved_by_somebody_else(window.document.folder)
    qtbot.waitUntil(lambda: window.document.station.title == "Theirs", timeout=8000)
    assert window.document.is_saved
    assert "somebody else" in window.notice.text
    window.undo()
    assert window.document.station.title != "Theirs"
    assert not window.document.is_saved


def test_with_edits_of_ones_own_it_is_asked(window, qtbot):
    window.space("ladder").model.set_value(3, "series_ohm", 4300.0)
    saved_by_somebody_else(window.document.folder)
    qtbot.waitUntil(lambda: "Somebody else saved" in window.notice.text, timeout=8000)
    mine = window.document.station
    press(window.notice.answers[1])
    assert window.document.station is mine
    window.filing.save()
    kept = next(window.document.folder.glob("station.kept-*.json"))
    assert json.loads(kept.read_text("utf-8"))["title"] == "Theirs"


# --- the application ends unasked -----------------------------------------------------------------


def left_by_another(folder, monkeypatch):
    """Unsaved work that an application left which runs no more."""
    station = read_station(folder).station
    changed = change_gear(station, "pad", series_ohm=1234.0)
    monkeypatch.setattr(os, "getpid", lambda: 4_000_000)
    file = write_autosave(changed, folder)
    monkeypatch.undo()
    return file, changed


def test_an_offer_stands_though_other_work_cannot_be_read(open_window, demo_folder, monkeypatch):
    """What is set aside is said, and does not write over what can still be taken."""
    left_by_another(demo_folder, monkeypatch)
    broken = demo_folder / "station.autosave-4000001.json"
    broken.write_text("{", "utf-8")
    window = open_window(demo_folder)
    assert any("Take them over" in b.text() for b in window.notice.findChildren(QPushButton))
    assert broken.with_suffix(".unreadable").exists()


def test_unsaved_work_is_kept_beside_and_swept_when_saved(window):
    model = window.space("ladder").model
    model.set_value(3, "series_ohm", 4300.0)
    window.document._keep_soon.setInterval(10)
    model.set_value(3, "series_ohm", 4700.0)
    settle(0.2)
    folder = window.document.folder
    files = list(folder.glob("station.autosave-*.json"))
    assert len(files) == 1
    assert json.loads(files[0].read_text("utf-8"))["station"]["title"]
    # the running application's own work is not offered as if it had ended
    assert found_autosaves(folder, None) == [] or found_autosaves(folder)[0].file == files[0]
    window.filing.save()
    assert not list(folder.glob("station.autosave-*.json"))


def test_it_is_offered_at_the_next_start_with_what_it_holds(open_window, demo_folder, monkeypatch):
    file, changed = left_by_another(demo_folder, monkeypatch)
    window = open_window(demo_folder)
    assert "1.23 kΩ" in window.notice.text
    press(window.notice.answers[0])
    assert window.document.station == changed
    assert not file.exists()
    window.undo()
    assert window.document.is_saved


def test_it_can_be_thrown_away(open_window, demo_folder, monkeypatch):
    file, _ = left_by_another(demo_folder, monkeypatch)
    window = open_window(demo_folder)
    press(window.notice.answers[1])
    assert not file.exists()
    assert window.document.is_saved


def test_it_waits_when_the_notice_is_only_closed(open_window, demo_folder, monkeypatch):
    file, _ = left_by_another(demo_folder, monkeypatch)
    window = open_window(demo_folder)
    press(window.notice._close)
    assert file.exists()


def test_an_exception_keeps_the_work_at_once(window):
    window.space("ladder").model.set_value(3, "series_ohm", 4300.0)
    trouble().report(RuntimeError("a slip"), "a test")
    assert list(window.document.folder.glob("station.autosave-*.json"))
    trouble().seen.clear()


def test_a_station_in_a_read_only_folder_keeps_its_unsaved_work_elsewhere(
    tmp_path, demo_folder, monkeypatch
):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    station = read_station(demo_folder).station
    real = os.open

    def read_only(path, flags, *rest, **options):
        if flags & os.O_CREAT and Path(path).parent == demo_folder:
            raise PermissionError(13, "no")
        return real(path, flags, *rest, **options)

    monkeypatch.setattr(os, "open", read_only)
    file = write_autosave(station, demo_folder)
    assert (tmp_path / "state") in file.parents
    monkeypatch.undo()
    assert file.exists()


def test_the_session_ends_with_its_window(qtbot, look, demo_folder):
    window = MainWindow(Document.open(demo_folder), look)
    qtbot.addWidget(window)
    window.show()
    window.go_to("match")
    settle(0.3)  # the grid is being solved
    window.close()
    assert window.session.jobs.wait(3.0)
