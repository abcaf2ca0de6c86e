"""The start page in the real window: two answers, doors, the stations opened last."""

import subprocess
import sys

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox, QPushButton

from tests.app.conftest import close_without_asking
from tests.app.hands import arrived, choose, press, settled, words
from tests.conftest import gear, station_of
from tonleiter.app import one_window, recents
from tonleiter.app.recents import Recent, keep_recent
from tonleiter.app.spaces.gear.model import ADD
from tonleiter.app.starting.lobby import Lobby
from tonleiter.app.window import MainWindow
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.store import LogStore
from tonleiter.core.station.autosave import write_autosave
from tonleiter.core.station.begin import UNNAMED, begun
from tonleiter.core.station.files import read_station, save_station
from tonleiter.core.station.unplaced import is_unplaced, put_unplaced, unplaced, unplaced_folder


@pytest.fixture
def empty(qtbot, look):
    """A window without a station, at its start page."""
    made = MainWindow(None, look)
    qtbot.addWidget(made, before_close_func=lambda w: w.is_open and close_without_asking(w))
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.show_start()
    settled()
    return made


def page(window):
    return window.lobby.page


def shown_again(window):
    """The start page once everything on it is known."""
    window.show_start()
    settled()
    page(window).model.finish()
    settled()
    return page(window)


def row_words(window):
    return [row.accessibleName() for row in page(window).rows]


# --- the first evening ---------------------------------------------------------------------------


def test_two_answers_by_keyboard_lead_to_what_goes_with_what(empty):
    """From an empty home: two lists, a press, and the pair is judged. Four keys do it."""
    assert page(empty).speaks.hasFocus()
    assert not page(empty).rows
    QTest.keyClick(page(empty).speaks, Qt.Key.Key_Down)
    QTest.keyClick(page(empty).speaks, Qt.Key.Key_Tab)
    assert page(empty).goes.hasFocus()
    QTest.keyClick(page(empty).goes, Qt.Key.Key_Tab)
    QTest.keyClick(page(empty).go, Qt.Key.Key_Space)
    settled()
    assert empty.shown == "match"
    match = empty.space("match")
    match.model.finish()
    assert [g.kind for g in empty.document.station.gear] == [
        "dynamic-microphone",
        "microphone-socket",
    ]
    # a moving coil on a pin that may carry volts: those are kept off it first
    assert [t.what for t in match.model.pair.takes][:1] == ["block"]
    assert "no place yet" in empty.windowTitle()


def test_a_new_station_has_no_place_until_it_is_saved_and_is_called_after_it(
    empty, tmp_path, monkeypatch, qtbot
):
    choose(page(empty).speaks, "electret")
    choose(page(empty).goes, "radio-biased")
    press(page(empty).go)
    held = empty.document.folder
    assert is_unplaced(held)
    asked = []
    documents = tmp_path / "papers"
    documents.mkdir()
    monkeypatch.setattr("tonleiter.app.filing.documents", lambda: documents)

    def answer(parent, title, where, **_):
        asked.append((title, where))
        return str(documents / "cellar-station"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    empty.activateWindow()
    qtbot.waitUntil(empty.isActiveWindow)
    QTest.keyClick(empty, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    settled()
    assert asked == [("Where shall this station lie?", str(documents / "at-home.station"))]
    saved = documents / "cellar-station.station"
    assert read_station(saved).station.title == "cellar station"
    assert empty.document.folder == saved
    assert not held.exists()
    assert [r.title for r in recents.recents()] == ["cellar station"]
    # and a second save asks nothing
    QTest.keyClick(empty, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert len(asked) == 1


def test_a_title_that_somebody_gave_stays_when_the_station_finds_its_place(empty, tmp_path):
    press(page(empty).go)
    empty.document.edit("title", lambda s: s.model_copy(update={"title": "Attic"}))
    assert empty.filing.save_as(tmp_path / "else.station")
    assert empty.document.station.title == "Attic"


def test_two_answers_that_nobody_went_on_with_leave_nothing_lying(empty):
    press(page(empty).go)
    assert len(unplaced()) == 1
    assert empty.close()
    assert not unplaced_folder().exists()


@pytest.mark.parametrize(
    ("answer", "closes", "lies"),
    [
        (QMessageBox.StandardButton.Discard, True, 0),
        (QMessageBox.StandardButton.Cancel, False, 1),
    ],
)
def test_edits_of_a_station_without_a_place_are_asked_about(
    empty, monkeypatch, answer, closes, lies
):
    press(page(empty).go)
    empty.document.edit("title", lambda s: s.model_copy(update={"title": "Attic"}))
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: answer)
    assert empty.close() is closes
    assert len(unplaced()) == lies


def test_a_log_is_not_thrown_away_with_the_edits(empty, monkeypatch):
    """Somebody wrote a report down: that is no slip of the mouse."""
    press(page(empty).go)
    store = LogStore(empty.document.folder)
    store.add(LogEntry.model_validate({"at": "2026-05-01T20:00:00+02:00", "kind": "note",
                                       "text": "first evening"}))  # fmt: skip
    store.close()
    empty.document.edit("title", lambda s: s.model_copy(update={"title": "Attic"}))
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)
    folder = empty.document.folder
    assert empty.close()
    assert unplaced() == (folder,)


def test_what_a_power_cut_left_stands_on_the_page_and_is_offered(empty):
    folder = put_unplaced(begun())
    edited = begun().model_copy(update={"title": "Written before the lights went out"})
    write_autosave(edited, folder)
    made = shown_again(empty)
    assert len(made.rows) == 1
    assert "not saved" in row_words(empty)[0]
    press(made.rows[0])
    settled()
    assert empty.document.folder == folder
    # the notice offers it only where its program is gone: this one lives, and nothing is deleted
    assert empty.close()
    assert folder in unplaced()


def test_a_station_without_a_place_is_left_alone_while_another_is_opened(empty, demo_folder):
    """Its page is left by its own list: what was done to it is asked about, and nothing else."""
    press(page(empty).go)
    held = empty.document.folder
    assert empty.filing.open(demo_folder)
    assert not held.exists()
    assert empty.document.station.title != UNNAMED


# --- the doors -----------------------------------------------------------------------------------


def test_looking_around_opens_a_copy_of_the_demo(empty):
    press(page(empty).door("Look around"))
    settled()
    assert "Hochtal" in empty.document.station.title
    assert empty.shown == "ladder"


def test_what_the_door_says_of_the_demo_is_so(empty, demo):
    from tonleiter.core.judge.verdict import verdict_of

    stopped = [c.id for c in demo.chains if verdict_of(demo, c.id).stops()]
    assert len(stopped) == 1
    assert "one chain wants mending" in " ".join(words(page(empty)))


def test_practising_needs_no_station_of_ones_own(empty):
    press(page(empty).door("Practise"))
    settled()
    assert empty.shown == "practise"


def test_all_kinds_are_one_press_away(empty):
    press(page(empty).through)
    settled()
    assert empty.shown == "gear"
    assert not empty.document.station.gear
    assert empty.space("gear").page(ADD).isVisible()


def test_keys_work_before_any_station_is_open(empty, look):
    before = look.palette.name
    QTest.keyClick(empty, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    assert look.palette.name != before
    QTest.keyClick(empty, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    for key in (Qt.Key.Key_1, Qt.Key.Key_9):
        QTest.keyClick(empty, key)
    assert not empty.is_open
    QTest.keyClick(empty, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    settled()
    assert empty.shown == "gear"


# --- the stations opened last --------------------------------------------------------------------


def test_the_list_says_how_each_station_stands_today(empty, demo_folder, tmp_path):
    fine = station_of(gear("line-source", "player", below_full_db=-30), gear("line-input", "line"))
    folder = tmp_path / "cellar.station"
    save_station(fine.model_copy(update={"title": "Cellar"}), folder)
    keep_recent(tmp_path / "gone.station", "Club van")
    keep_recent(folder, "an old title")
    keep_recent(demo_folder, "demo")
    made = shown_again(empty)
    said = row_words(empty)
    assert "“HF, evening round” wants mending first" in said[0]
    assert said[0].endswith("to mend")
    assert said[1].startswith("Cellar: The line gets")
    assert "It is not there any more" in said[2]
    # pressed, what is gone leaves the list; the others stand where they stood
    press(made.rows[2])
    made.model.finish()
    settled()
    assert len(made.rows) == 2
    press(made.rows[1])
    settled()
    assert empty.document.folder == folder
    assert [r.title for r in recents.recents()] == ["Cellar", "demo"]


@pytest.mark.long
def test_the_list_follows_what_is_done_to_a_station(window, tmp_path):
    """Its line is of today, whatever it was when the station was left."""
    keep_recent(window.document.folder, "x")
    model = window.space("ladder").model
    model.finish()
    finding = model.stops()[0]
    model.apply(model.remedies_for(finding)[0], finding)
    assert window.filing.save()
    shown_again(window)
    assert "wants mending" not in row_words(window)[0]


def test_what_to_do_this_evening_leads_to_its_place(empty, demo_folder):
    keep_recent(demo_folder, "demo")
    made = shown_again(empty)
    evening = made.evening
    assert evening.lines
    assert all(task.minutes <= 60 and not task.solders for task in made.model.evening())
    press(evening.iron)
    settled()
    assert evening._heading.text() == "This evening"
    press(evening.iron)
    settled()
    task = next(t for t in made.model.evening() if t.where == "set")
    line = next(x for x in evening.lines if x.accessibleName() == task.title)
    press(line)
    settled()
    assert empty.shown == "set"
    assert empty.document.station.open_chain == task.chain


def test_the_page_stands_over_an_open_station_and_goes_again(window):
    QTest.keyClick(window, Qt.Key.Key_0)
    arrived(window)
    settled()
    assert window.starts
    assert not any(window.buttons[n].isChecked() for n in ("gear", "ladder", "log"))
    QTest.keyClick(window, Qt.Key.Key_3)
    arrived(window)
    settled()
    assert window.shown == "ladder"
    assert window.buttons["ladder"].isChecked()
    assert not window.starts


@pytest.mark.parametrize("kept", ["", "x", "{}", "[1]", '[{"folder": 1}]', "[" * 5000])
def test_a_list_that_cannot_be_understood_is_empty(empty, kept):
    from PySide6.QtCore import QSettings

    QSettings().setValue(recents.KEY, kept)
    assert recents.recents() == ()
    assert not shown_again(empty).rows


def test_days_are_said_as_people_say_them():
    from datetime import date

    today = date(2026, 11, 30)
    said = [
        Recent("", "", day).when(today)
        for day in ("2026-11-30", "2026-11-29", "2026-11-26", "2026-05-02", "2024-05-02", "?")
    ]
    assert said == ["today", "yesterday", "4 days ago", "in May", "in May 2024", ""]


# --- brought along -------------------------------------------------------------------------------


def drop(window, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    event = QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data,
                       Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)  # fmt: skip
    # the toolkit hands a drop on only within a drag of its own
    window.dropEvent(event)
    settled()


def test_a_folder_dropped_is_opened(empty, demo_folder):
    drop(empty, demo_folder)
    assert empty.document.folder == demo_folder


def test_cards_dropped_begin_a_station_with_that_circuit(empty, tmp_path):
    file = tmp_path / "my-preamp.cir"
    file.write_text("a divider\nR1 in out 10k\nR2 out 0 10k\n.end\n", "utf-8")
    drop(empty, file)
    piece = empty.space("gear").model.piece
    assert (piece.kind, piece.name) == ("own-circuit", "my-preamp")


@pytest.mark.parametrize("content", [b"\xff\xfe", b"no cards at all", b"R1 a b 1k\n"])
def test_cards_that_are_none_are_refused_in_one_line(window, tmp_path, content):
    file = tmp_path / "bad.cir"
    file.write_bytes(content)
    before = window.document.station
    drop(window, file)
    assert window.notice.is_refusal
    assert "\n" not in window.notice.text
    assert window.document.station is before


def test_what_is_none_of_these_is_refused_with_what_would_be_taken(window, tmp_path):
    file = tmp_path / "holiday.txt"
    file.write_text("x", "utf-8")
    drop(window, file)
    assert "holiday.txt: a station's folder" in window.notice.text


# --- given away ----------------------------------------------------------------------------------


def test_a_copy_without_people_is_looked_at_by_its_receiver(window, empty, tmp_path):
    file = tmp_path / "for-you.zip"
    names = [o.name for o in window.document.station.operators]
    assert window.filing.give(file, without_people=True)
    drop(empty, file)
    assert empty.document.looks_only
    station = empty.document.station
    assert [o.name for o in station.operators] == [
        f"operator {k}" for k in range(1, len(names) + 1)
    ]
    written = (empty.document.folder / "station.json").read_text("utf-8")
    assert not [n for n in names if n in written]
    assert not any(g.notes for g in station.gear)
    # the figures are those of the giver
    assert [c.name for c in station.chains] == [c.name for c in window.document.station.chains]


@pytest.mark.long
def test_a_copy_with_everything_has_what_was_not_saved_yet(window, empty, tmp_path):
    window.document.edit("title", lambda s: s.model_copy(update={"title": "As of now"}))
    assert window.filing.give(tmp_path / "all.zip", without_people=False)
    drop(empty, tmp_path / "all.zip")
    assert empty.document.station.title == "As of now"
    assert empty.document.records == window.document.records


def test_a_file_that_is_no_copy_is_refused(window, tmp_path):
    file = tmp_path / "x.zip"
    file.write_bytes(b"PK nothing")
    drop(window, file)
    assert "it is no backup" in window.notice.text


# --- one window ----------------------------------------------------------------------------------


def test_a_second_start_asks_the_window_that_has_the_station(window, demo_folder, qtbot):
    raised = []
    window.door._to_front = lambda: raised.append(True)
    asks = (
        "import sys; from pathlib import Path; from PySide6.QtCore import QCoreApplication;"
        "from tonleiter.app.one_window import raised_elsewhere;"
        "app = QCoreApplication([]); sys.exit(0 if raised_elsewhere(Path(sys.argv[1])) else 3)"
    )
    other = subprocess.Popen([sys.executable, "-c", asks, str(demo_folder)])
    qtbot.waitUntil(lambda: other.poll() is not None, timeout=60_000)
    assert other.returncode == 0
    assert raised == [True]


def test_nobody_answers_for_a_station_that_no_window_has(window, tmp_path):
    assert not one_window.raised_elsewhere(tmp_path / "other.station")
    window.door.close()
    assert not one_window.raised_elsewhere(window.document.folder)


def test_the_lobby_is_made_when_it_is_wanted(window):
    assert window._lobby is None
    window.show_start()
    assert isinstance(window._lobby, Lobby)
    assert page(window).findChildren(QPushButton)
