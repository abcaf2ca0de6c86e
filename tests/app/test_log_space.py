"""The Log space in the real window: written by hand, read, searched, turned back."""

import time
from datetime import datetime, timedelta

import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QFileDialog, QLabel, QPushButton

from tests.app.hands import arrived, buttons, choose, press, rest, settled, type_over, words
from tests.app.hands import button_of as named
from tests.conftest import gear, mended_demo
from tests.core.wiring.benches import lead, radio, station
from tonleiter.app.jobs import Wait
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.log.backup import restore
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.offered import packed
from tonleiter.core.log.store import LOG_FILE, LogStore
from tonleiter.core.station import edits
from tonleiter.core.station.files import save_station

AT = "log"


@pytest.fixture(autouse=True)
def nothing_written(demo_folder):
    """Nobody has written anything yet."""
    (demo_folder / LOG_FILE).unlink()


def settle(space):
    settled()
    space.model.finish()
    settled()
    return space


@pytest.fixture
def space(window):
    settled()
    QTest.keyClick(window, Qt.Key.Key_8)
    arrived(window)
    made = window.space("log")
    assert window._stack.currentWidget() is made
    return settle(made)


def field(space, name):
    return next(f for f in space.inspector.findChildren(TextField) if f.accessibleName() == name)


def say(space, text, **more):
    """Write a report by hand, as somebody does while the other one still talks."""
    QTest.keyClick(space.window(), Qt.Key.Key_N)
    settled()
    names = {"who": "From whom", "band": "Band or way", "signal": "Signal report"}
    for key, typed in more.items():
        type_over(field(space, names[key]), typed)
    type_over(field(space, "What did the other station say?"), text)
    QTest.keyClick(field(space, "What did the other station say?"), Qt.Key.Key_Return)
    return settle(space)


def entry(days, kind="report", said=(), **of):
    at = datetime.now().astimezone() - timedelta(days=days)
    given = {"microphone": "headset", "radio": "20 W HF set"} | of
    return LogEntry(at=at.isoformat(timespec="minutes"), kind=kind, words=said, **given)


def history(space, *entries):
    space.model.history.store.add_all((e, packed(space.model.station)) for e in entries)
    space.model.arrive()
    return settle(space)


def test_a_report_is_typed_in_one_line_and_stands_on_its_line(space, window):
    assert "press N" in space._says.text()
    say(space, "muffled, a bit quiet", who="qk0abc", band="40 m", signal="57")
    (made,) = space.model.entries
    assert made.words == ("muffled", "quiet")
    assert (made.who, made.band, made.readability, made.strength) == ("QK0ABC", "40 m", 5, 7)
    assert made.microphone == "stage dynamic"
    assert "Muffled, quiet" in words(space.inspector)[0]
    # committed, whatever becomes of the window
    assert LogStore(window.document.folder).entries() == (made,)
    assert "muffled" in space.timeline.accessibleDescription()


def test_the_keyboard_goes_on_after_a_report_and_the_next_one_is_a_key_away(space):
    say(space, "clear")
    assert space.timeline.hasFocus()
    QTest.keyClick(space.timeline, Qt.Key.Key_N)
    settled()
    assert space.model.writing == "report"


def test_what_next_comes_while_other_spaces_are_made(open_window, tmp_path):
    """It holds no verdict that they wait for: a station of a stranger, straight to the log."""
    folder = tmp_path / "mine.station"
    save_station(station(gear("electret-2-wire", "mic"), lead(), radio()), folder)
    window = open_window(folder)
    settled()
    QTest.keyClick(window, Qt.Key.Key_8)
    arrived(window)
    space = window.space("log")
    begun = time.monotonic()
    space.model.finish(Wait.LATER)
    assert space.model.tasks
    # a job that rests at each step for others that wait for it takes minutes
    assert time.monotonic() - begun < 30


@pytest.mark.parametrize(
    "who, signal, says",
    [("no call!", "59", "call sign"), ("QK0ABC", "99", "readability 1 to 5"),
     ("QK0ABC", "50", "strength 1 to 9"), ("QK0ABC", "half", "readability 1 to 5")],
)  # fmt: skip
def test_what_is_none_is_refused_in_one_line_and_what_was_typed_stays(
    space, window, who, signal, says
):
    say(space, "clear", who=who, signal=signal)
    assert says in " ".join(words(window))
    assert space.model.entries == ()
    assert field(space, "From whom").text() == who
    assert field(space, "What did the other station say?").text() == "clear"


def test_what_is_typed_is_shown_as_it_was_typed(space):
    say(space, "<b>hum</b> & <img src='/etc/passwd'>", who="qk 0abc", signal="5 by 7", band="40 m")
    (made,) = space.model.entries
    assert (made.who, made.readability, made.strength) == ("QK0ABC", 5, 7)
    shown = next(w for w in space.inspector.findChildren(QLabel) if "<b>hum</b>" in w.text())
    assert shown.textFormat() == Qt.TextFormat.PlainText
    say(space, "clear", band="forty metres and some more")
    assert "up to 16 characters" in " ".join(words(space.window()))
    assert len(space.model.entries) == 1


def test_a_word_that_is_said_is_shown_while_it_is_typed(space):
    QTest.keyClick(space.window(), Qt.Key.Key_N)
    settled()
    type_over(field(space, "What did the other station say?"), "no hum, but thin")
    assert "words: thin" in words(space.inspector)
    press(named(space.inspector, "Leave it"))
    assert space.model.entries == ()


def test_what_was_changed_is_offered_and_written_only_when_asked_for(space, window):
    say(space, "muffled")
    assert space._offer.isHidden()
    chain = window.document.station.chain()
    panel = chain.panel.but(knobs={**chain.panel.knobs, "treble": 3.0})
    window.document.edit("x", lambda s: edits.change_chain(s, chain.id, panel=panel))
    settle(space)
    assert "treble from 0 to +3 dB" in " ".join(words(space._offer))
    assert len(space.model.entries) == 1, "nothing is written behind anybody's back"
    press(named(space._offer, "Log it…"))
    settled()
    type_over(field(space, "Its name"), "treble up")
    type_over(field(space, "The way back"), "treble to 0")
    press(named(space.inspector, "Write it"))
    settle(space)
    assert [e.says() for e in space.model.entries] == ["muffled", "treble up"]
    assert space._offer.isHidden()
    assert "treble to 0" in words(space.inspector)


def test_what_was_to_be_written_is_undone_while_it_is_written(space, window):
    """Its form is empty then; the field of the form before went with that form."""
    say(space, "muffled")
    chain = window.document.station.chain()
    panel = chain.panel.but(knobs={**chain.panel.knobs, "treble": 3.0})
    window.document.edit("x", lambda s: edits.change_chain(s, chain.id, panel=panel))
    settle(space)
    press(named(space._offer, "Log it…"))
    settled()
    type_over(field(space, "Its name"), "treble up")
    window.document.undo()
    settle(space)
    assert "Nothing any more." in words(space.inspector)
    # what was put away is gone by now
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    window.toggle_theme()
    settled()
    assert "Nothing any more." in words(space.inspector)
    window.document.redo()
    settle(space)
    assert field(space, "Its name").text() == "treble up"


def test_the_history_says_what_came_after_what_and_leads_there(space):
    history(space, entry(90, said=("clear",)), entry(60, "change", title="treble to +3"),
            entry(9, said=("harsh",)))  # fmt: skip
    assert space._says.text().startswith("“Harsh” came after “treble to +3” in ")
    assert "MIND · headset" in " ".join(words(space.tray))
    QTest.keyClick(space.timeline, Qt.Key.Key_Right)
    settled()
    assert "What changed last before it began?" in words(space.inspector)
    suspect = next(e for e in space.model.entries if e.kind == "change")
    press(next(b for b in space.inspector.findChildren(type(named(space.inspector, "Seal it")))
               if "treble to +3" in b.text()))  # fmt: skip
    assert space.model.at == suspect.number


def test_a_mark_is_pressed_arrows_go_on_and_the_wheel_zooms(space):
    history(space, *(entry(d, said=("clear",)) for d in (300, 200, 100)))
    line = space.timeline
    first = space.model.entries[0]
    (x, *_), (y, *_) = line._spots(0)
    at = QPoint(round(x), round(y))
    QTest.mouseClick(line, Qt.MouseButton.LeftButton, pos=at)
    assert space.model.at == first.number
    # the demo's recordings stand between
    order = [e.number for e in line._in_order()]
    QTest.keyClick(line, Qt.Key.Key_Right)
    assert space.model.at == order[order.index(first.number) + 1]
    low, high = line.seen
    QTest.keyClick(line, Qt.Key.Key_Plus)
    assert line.seen[1] - line.seen[0] < high - low
    at = space.model.at
    QTest.mouseClick(line, Qt.MouseButton.LeftButton, pos=QPoint(1, 1))
    assert space.model.at == at, "there is nothing to choose"


def test_searched_and_filtered(space):
    other = entry(40, said=("clear",), microphone="handset")
    history(space, entry(50, said=("hum",), text="mains hum"), other, entry(500, said=("thin",)))
    assert len(space.model.entries) == 2
    choose(space.since, "0")
    assert len(space.model.entries) == 3
    type_over(space.search, "mains")
    assert [e.text for e in space.model.entries] == ["mains hum"]
    QTest.keyClick(space.search, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(space.search, Qt.Key.Key_Delete)
    choose(space.microphones, "handset")
    assert [e.microphone for e in space.model.entries] == ["handset"]


def test_a_sealed_one_stays_and_another_may_be_taken_out(space):
    say(space, "clear")
    press(named(space.inspector, "Seal it"))
    settle(space)
    assert any("it stays as it is" in w for w in words(space.inspector))
    assert "Take it out" not in buttons(space.inspector)
    say(space, "hum")
    press(named(space.inspector, "Take it out"))
    settle(space)
    assert [e.says() for e in space.model.entries] == ["clear"]


@pytest.mark.long
def test_knobs_are_turned_back_to_the_card_of_the_day_when_it_was_good(open_window, demo_folder):
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("set")
    page = window.space("set").model
    page.finish()
    card = page.keep_card("when it was good")
    window.go_to("log")
    space = settle(window.space("log"))
    assert any("stand as on the card" in w for w in words(space._back))
    chain = window.document.station.chain()
    panel = chain.panel.but(knobs={**chain.panel.knobs, "treble": 6.0, "gain": 80.0})
    window.document.edit("x", lambda s: edits.change_chain(s, chain.id, panel=panel))
    settle(space)
    shown = words(space._back)
    assert any(w.startswith("treble  +6 → ") for w in shown)
    press(named(space._back, "Turn it back"))
    settle(space)
    now = window.document.station.chain().panel
    assert {k: now.knobs[k] for k in card.knobs} == card.knobs
    # what the hand turns on the radio itself: tone before the drive
    ticks = space.inspector.findChildren(QCheckBox)
    moves = [t.text() for t in ticks if t.isVisible()]
    assert [m.split(" ")[0] for m in moves] == ["Treble", "Microphone"]
    press(named(space.inspector, "It is done"))
    assert space.model.turned == ()
    window.document.undo()
    assert window.document.station.chain().panel == panel


def test_a_cause_is_looked_for_by_tests_until_one_is_confirmed(space, window):
    say(space, "much hum today")
    press(named(space.inspector, "Find the cause of “hum”"))
    settle(space)
    assert any(w.startswith("Likeliest: ") for w in words(space.inspector))
    assert any("dummy load" in w for w in words(space.inspector))
    asked = space.model.cause.next_test
    assert asked.test in words(space.inspector)
    press(named(space.inspector, "No"))
    settled()
    assert space.model.cause.next_test != asked
    for _ in range(6):
        if space.model.cause.found is not None:
            break
        press(named(space.inspector, "Yes"))
        settled()
    assert any("comes of this" in w for w in words(space.inspector))
    press(named(space.inspector, "Back to the report"))
    settled()
    assert named(space.inspector, "Seal it").isVisible()


def test_cards_and_recordings_stand_on_the_line_and_are_read_there(space, window):
    choose(space.since, "0")
    kept = [e for lane in space.model.lanes for e in lane.entries if e.number < 0]
    assert {"muffled: foam stuck over a small opening"} <= {e.says() for e in kept}
    space.model.choose(next(e.number for e in kept if e.kind == "recording"))
    settled()
    assert "Take it out" not in [b.text() for b in space.inspector.findChildren(QPushButton)
                                 if b.isVisible()]  # fmt: skip
    press(named(space.inspector, "It is kept in Listen (7)"))
    settled()
    assert window._stack.currentWidget() is window.space("listen")
    # they are shown from where they are kept: the log itself has none of them
    assert LogStore(window.document.folder).entries() == ()


def test_what_is_different_since_an_entry_is_said(space, window):
    say(space, "clear")
    chain = window.document.station.chain()
    window.document.edit("x", lambda s: edits.change_chain(s, chain.id, distance_mm=123))
    settle(space)
    assert any("distance" in w for w in words(space.inspector))


@pytest.mark.parametrize("name", ["log.pdf", "log.csv", "log.json", "log.adi", "log.txt"])
def test_a_copy_is_saved_in_open_formats(space, window, tmp_path, monkeypatch, name):
    say(space, "clear", who="QK0ABC")
    file = tmp_path / name
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    press(named(space, "Save a copy…"))
    if name.endswith("txt"):
        assert ".pdf, .csv, .json, .adi is wanted" in " ".join(words(window))
        assert not file.exists()
    else:
        assert (b"%PDF" if name.endswith("pdf") else b"QK0ABC") in file.read_bytes()


def test_the_whole_station_is_kept_in_one_file_once_it_is_saved(
    space, window, tmp_path, monkeypatch
):
    say(space, "clear")
    file = tmp_path / "all.zip"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    window.document.edit("x", lambda s: s.but(title="Another"))
    press(named(space, "Keep all…"))
    assert "save the station first" in " ".join(words(window))
    assert not file.exists()
    window.filing.save()
    press(named(space, "Keep all…"))
    settled()
    assert "brings them back" in " ".join(words(window))
    restore(file, tmp_path / "back.station")
    assert [e.says() for e in LogStore(tmp_path / "back.station").entries()] == ["clear"]


def test_reports_of_a_file_are_taken_over_once_and_what_is_refused_is_said(
    space, window, tmp_path, monkeypatch
):
    file = tmp_path / "a.adi"
    day = f"{datetime.now():%Y%m%d}"
    file.write_text(
        f"<CALL:6>QK0ABC<QSO_DATE:8>{day}<TIME_ON:4>0015<COMMENT:3>hum<EOR>"
        "<CALL:6>QK0ABD<QSO_DATE:8>20310230<TIME_ON:4>1815<EOR>"
    )
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    press(named(space, "Take over…"))
    settle(space)
    said = " ".join(words(window))
    assert "1 entry taken over" in said
    assert "20310230" in said
    press(named(space, "Take over…"))
    settle(space)
    assert [e.who for e in space.model.history.store.entries()] == ["QK0ABC"]


@pytest.mark.long
def test_what_next_leads_to_where_it_is_done_and_is_cut_to_an_evening(space, window):
    space.model.finish(Wait.LATER)
    settled()
    tasks = space.model.tasks
    assert tasks[0].title.startswith("Mend “HF, evening round”")
    shown = words(space.inspector)
    assert "What next" in shown
    evenings = next(c for c in space.inspector.findChildren(Choice) if c.count() == 4)
    choose(evenings, "30")
    assert sum(t.minutes for t in space.model.tasks) <= 30
    iron = next(t for t in space.inspector.findChildren(QCheckBox) if t.isVisible())
    QTest.mouseClick(iron, Qt.MouseButton.LeftButton, pos=QPoint(8, iron.height() // 2))
    settled()
    assert not any(t.solders for t in space.model.tasks)
    task = next(t for t in space.model.tasks if t.where == "set")
    links = [b for b in space.inspector.findChildren(QPushButton) if b.isVisible()]
    press(next(b for b in links if b.text().replace("\n", " ") == task.title))
    settled()
    assert window._stack.currentWidget() is window.space("set")
    assert window.document.station.open_chain == task.chain


def test_a_station_that_was_never_saved_has_no_log_yet(window, open_window, tmp_path):
    window.document.folder = tmp_path / "nowhere.station"
    window.go_to("log")
    space = settle(window.space("log"))
    QTest.keyClick(window, Qt.Key.Key_N)
    settled()
    assert "save the station first" in " ".join(words(window))
    assert not (tmp_path / "nowhere.station").exists()
    assert space.model.entries == ()


def test_a_log_that_is_damaged_meanwhile_is_said_and_what_was_typed_stays(space, window):
    say(space, "clear")
    file = window.document.folder / LOG_FILE
    file.write_bytes(b"junk" * 2000)
    say(space, "hum on it")
    assert "log.sqlite: it cannot be written" in " ".join(words(window))
    assert field(space, "What did the other station say?").text() == "hum on it"
    space.model._look()
    settle(space)
    assert "it is only read" in space._says.text()
    assert file.read_bytes() == b"junk" * 2000
    # a way out: the damaged one is kept, a new one is begun
    press(named(space, "Write a repaired copy"))
    settle(space)
    assert "is kept as log.damaged-" in " ".join(words(window))
    assert not space.mend.isVisibleTo(space)
    kept = [f for f in window.document.folder.iterdir() if "damaged" in f.name]
    assert [f.read_bytes() for f in kept] == [b"junk" * 2000]
    say(space, "hum on it")
    assert [e.words for e in space.model.entries] == [("hum",)]


def test_the_log_goes_along_into_another_folder(space, window, tmp_path):
    say(space, "clear")
    window.document.save(tmp_path / "other.station")
    assert [e.says() for e in LogStore(tmp_path / "other.station").entries()] == ["clear"]
    say(space, "hum")
    assert [e.says() for e in LogStore(tmp_path / "other.station").entries()] == ["clear", "hum"]


@pytest.mark.long
def test_what_next_is_of_the_whole_station_whatever_is_looked_at(space):
    """Two microphones with a report that nothing answers: a filter hides neither from the list."""
    history(space, entry(9, said=("hum",), microphone="handset"), entry(5, said=("thin",)))
    space.model.finish(Wait.LATER)
    asked = {t.title for t in space.model.tasks if t.where == "log"}
    assert asked == {"Find the cause of “hum”, handset", "Find the cause of “thin”, headset"}
    choose(space.microphones, "headset")
    type_over(space.search, "nothing of the kind")
    space.model.finish(Wait.LATER)
    assert {t.title for t in space.model.tasks if t.where == "log"} == asked


def test_a_task_of_the_log_leads_to_its_own_report(space):
    history(space, entry(9, said=("hum",), microphone="handset"), entry(5, said=("thin",)))
    space.model.finish(Wait.LATER)
    task = next(t for t in space.model.tasks if "handset" in t.title)
    choose(space.microphones, "headset")
    space.model.go(task)
    settle(space)
    assert space.model.chosen.words == ("hum",)
    assert space.model.cause.word == "hum"


def test_the_card_of_the_good_day_is_of_the_open_chain_s_own_microphone(open_window, demo_folder):
    """What another microphone's reports say does not put this one's newest card away."""
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("set")
    page = window.space("set").model
    page.finish()
    card = page.keep_card("today's")
    older = card.but(id="older", day="2020-01-01", name="older")
    window.document.note("x", lambda r: r.but(cards=(older, card)))
    window.go_to("log")
    space = settle(window.space("log"))
    history(space, entry(90, said=("clear",)), entry(60, "change", title="other foam"),
            entry(9, said=("muffled",)))  # fmt: skip
    assert space.model.station.chain().id == card.chain_id
    assert any(s.lane == "headset" and s.word for s in space.model.sayings)
    assert space.model.card.name == "today's"


def test_an_edit_reads_nothing_of_the_log_anew(space, window, monkeypatch):
    say(space, "clear")
    asked = []
    read = LogStore.entries
    monkeypatch.setattr(LogStore, "entries", lambda s, *a, **k: asked.append(1) or read(s, *a, **k))
    window.document.edit("x", lambda s: s.but(title="Another"))
    settle(space)
    assert space.model.offered is not None
    assert asked == []
    # what somebody else wrote meanwhile is there when one comes back
    other = LogStore(window.document.folder)
    other.add(entry(1, said=("hum",)))
    window.go_to("gear")
    window.go_to("log")
    settle(space)
    assert {e.says() for e in space.model.entries} == {"clear", "hum"}


def test_who_left_before_it_looked_is_not_held_up_elsewhere(space, window, monkeypatch):
    looked = []
    sort = type(space.model)._sort
    monkeypatch.setattr(type(space.model), "_sort", lambda m: looked.append(1) or sort(m))
    window.document.edit("x", lambda s: s.but(title="Another"))
    window.go_to("gear")
    rest(500)
    assert looked == []
    window.go_to("log")
    settle(space)
    assert looked
