"""Written into the log by hand: notes, purchases, photos, tags; two days side by side."""

import os
from datetime import datetime, timedelta

import pypdfium2
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QFileDialog, QLabel

from tests.app.hands import button_of as named
from tests.app.hands import buttons, choose, press, rest, settled, type_over, words
from tests.app.test_log_space import (  # noqa: F401 - fixtures
    entry,
    field,
    history,
    nothing_written,
    say,
    settle,
    space,
)
from tests.conftest import mended_demo
from tonleiter.app.jobs import Wait
from tonleiter.app.widgets.choice import Choice
from tonleiter.core.log.backup import backup, restore
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.offered import packed
from tonleiter.core.log.photos import photos_in
from tonleiter.core.log.store import LogStore
from tonleiter.core.station import edits
from tonleiter.core.station.files import save_station

AT = "log"

# ruff: noqa: F811


def note(space, title, kind="note", **more):
    QTest.keyClick(space.window(), Qt.Key.Key_N, Qt.KeyboardModifier.ShiftModifier)
    settled()
    (what,) = (c for c in space.inspector.findChildren(Choice) if c.toolTip() == "What it is")
    choose(what, kind)
    names = {"text": "More of it", "tags": "Tags", "back": "The way back"}
    for key, typed in more.items():
        type_over(field(space, names[key]), typed)
    type_over(field(space, "In a few words"), title)
    QTest.keyClick(field(space, "In a few words"), Qt.Key.Key_Return)
    return settle(space)


@pytest.fixture
def photo(tmp_path):
    """A picture of 1200 by 800 pixels."""
    file = tmp_path / "hole.jpg"
    image = QImage(1200, 800, QImage.Format.Format_RGB32)
    image.fill(0x336699)
    assert image.save(str(file), "JPG")
    return file


def test_a_note_is_typed_and_found_by_its_words_and_tags(space, window):
    note(space, "foam replaced", text="3 mm, open pores", tags="headset, #drilling")
    (made,) = space.model.entries
    assert (made.kind, made.title, made.text) == ("note", "foam replaced", "3 mm, open pores")
    assert made.tags == ("headset", "drilling")
    assert made.microphone == "stage dynamic"
    for typed, found in (("drilling", 1), ("pores", 1), ("gasket", 0)):
        type_over(space.search, typed)
        assert len(space.model.entries) == found
    assert LogStore(window.document.folder).entries() == (made,)


def test_a_note_of_nothing_is_refused_and_what_was_typed_stays(space, window):
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ShiftModifier)
    settled()
    type_over(field(space, "Tags"), "x" * 60)
    QTest.keyClick(field(space, "Tags"), Qt.Key.Key_Return)
    settled()
    assert "type what it is" in " ".join(words(window))
    type_over(field(space, "In a few words"), "something")
    QTest.keyClick(field(space, "In a few words"), Qt.Key.Key_Return)
    settled()
    assert "tags" in " ".join(words(window)), "33 letters are no tag"
    assert field(space, "Tags").text() == "x" * 60
    assert not space.model.entries


def test_tags_and_photos_are_added_until_it_is_sealed(space, window, photo, monkeypatch, tmp_path):
    say(space, "clear")
    type_over(field(space, "Tags"), "contest; evening")
    QTest.keyClick(field(space, "Tags"), Qt.Key.Key_Return)
    settle(space)
    assert space.model.entries[0].tags == ("contest", "evening")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(photo), ""))
    press(named(space.inspector, "Add a photo…"))
    settle(space)
    shown = [x for x in space.inspector.findChildren(QLabel) if not x.pixmap().isNull()]
    assert len(shown) == 1
    assert shown[0].pixmap().width() <= space.inspector.width()
    # the same one again is there once
    press(named(space.inspector, "Add a photo…"))
    settle(space)
    assert len(space.model.entries[0].photos) == len(photos_in(window.document.folder)) == 1
    # what is no photo is refused
    lie = tmp_path / "lie.png"
    lie.write_text("no picture")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(lie), ""))
    press(named(space.inspector, "Add a photo…"))
    settled()
    assert "JPEG or PNG is wanted" in " ".join(words(window))
    press(named(space.inspector, "Seal it"))
    settle(space)
    sealed = space.model.entries[0]
    assert not space.model.set_tags(sealed, "other")
    assert space.model.entries[0].tags == ("contest", "evening")
    assert "tags: contest, evening" in words(space.inspector)


def test_photos_go_along_when_saved_elsewhere_and_into_the_one_file(space, window, photo, tmp_path):
    say(space, "clear")
    assert space.model.add_photo(space.model.entries[0], photo)
    (kept,) = photos_in(window.document.folder)
    copy = tmp_path / "copy.station"
    window.document.save(copy)
    assert [f.read_bytes() for f in photos_in(copy)] == [kept.read_bytes()]
    backup(copy, tmp_path / "all.zip")
    restore(tmp_path / "all.zip", tmp_path / "back.station")
    assert [f.name for f in photos_in(tmp_path / "back.station")] == [kept.name]
    # one that is gone is said where it would be seen
    photos_in(copy)[0].unlink()
    space.model.choose(space.model.entries[0].number)
    space._look.changed.emit()
    assert space.model.entries[0].photos


def test_the_way_back_is_gone_step_by_step_and_that_is_written(space):
    note(space, "case drilled", kind="build", back="close the hole; gasket out; foam back")
    ticks = [t for t in space.inspector.findChildren(QCheckBox) if t.isVisible()]
    assert [t.accessibleName() for t in ticks] == ["close the hole", "gasket out", "foam back"]
    assert any("unplug it first" in w for w in words(space.inspector)), "somebody opens a case"
    press(named(space.inspector, "It is undone: write that"))
    settle(space)
    assert [e.says() for e in space.model.entries] == ["case drilled", "undone: case drilled"]
    assert space.model.entries[1].kind == "change"


def test_two_past_days_are_held_against_each_other(space, window):
    station = space.model.station
    chain = station.chain().id
    then = edits.change_chain(station, chain, distance_mm=120)
    then = edits.change_gear(then, "stage-dynamic", housing="in-case", opening_mm=2.0)
    now = datetime.now().astimezone()

    def at(days, **of):
        when = (now - timedelta(days=days)).isoformat(timespec="minutes")
        return LogEntry(at=when, kind="note", microphone="stage dynamic", **of)

    store = space.model.history.store
    store.add_all([(at(90, title="good"), packed(station)), (at(30, title="dull"), packed(then)),
                   (at(5, title="no state"), None)])  # fmt: skip
    space.model.arrive()
    settle(space)
    good, dull, none = space.model.entries
    space.model.choose(dull.number)
    press(named(space.inspector, "Hold another day against it"))
    settled()
    space.model.choose(good.number)
    shown = " ".join(words(space.inspector))
    assert f"From {good.when.day} {good.when:%B %Y} to {dull.when.day}" in shown
    assert "stage dynamic: Housing in a case" in shown
    assert "distance" in shown
    # of one without a state nothing can be said, and nothing is asked
    space.model.choose(none.number)
    assert "Hold another day against it" not in buttons(space.inspector)
    assert not any(w.startswith("From ") for w in words(space.inspector))
    space.model.choose(good.number)
    press(named(space.inspector, "Hold no day any more"))
    settled()
    assert not any(w.startswith("From ") for w in words(space.inspector))


@pytest.mark.parametrize("by, lanes", [
    ("microphone", ["headset", "handset"]), ("radio", ["20 W HF set", "old set"]),
    ("who", ["QK0ABC", "QK7LUX", "of nobody else"]),
])  # fmt: skip
def test_a_line_is_of_a_microphone_a_radio_or_a_person(space, by, lanes):
    history(
        space,
        entry(40, said=("muffled",), who="QK0ABC"),
        entry(30, "change", title="drilled"),
        entry(20, said=("clear",), who="QK0ABC"),
        entry(10, said=("warm",), who="QK7LUX", microphone="handset", radio="old set"),
    )
    choose(space.by, by)
    settle(space)
    # what is kept elsewhere has lines of its own
    shown = [lane.name for lane in space.model.lanes]
    assert [name for name in shown if name in lanes] == lanes
    # what is said is said of microphones, whatever the lines are of
    assert "“drilled”" in space._says.text()
    space.timeline.repaint()


@pytest.mark.long
def test_what_was_bought_is_written_down_and_leaves_the_list(space, window):
    space.model.finish(Wait.LATER)
    task = next((t for t in space.model.tasks or () if t.buys), None)
    if task is None:
        window.document.edit("mended", lambda _: mended_demo())
        space.model.finish(Wait.LATER)
        task = next(t for t in space.model.tasks if t.buys)
    press(named(space.inspector, "They are bought: write it down"))
    settle(space)
    space.model.finish(Wait.LATER)
    (made,) = (e for e in space.model.entries if e.kind == "purchase")
    assert made.text == "; ".join(task.needs)
    assert not any(t.buys for t in space.model.tasks)
    assert not any(t.needs for t in space.model.tasks if t.where == "prove")


@pytest.mark.long
def test_a_card_is_printed_on_one_page_of_a6(space, window, tmp_path, monkeypatch):
    save_station(mended_demo(), window.document.folder)
    rest(50)
    window.document.look_outside()
    window.go_to("set")
    page = window.space("set").model
    page.finish()
    page.keep_card("when it was good")
    window.go_to("log")
    settle(space)
    space.model.choose(next(e.number for e in space.model._kept if e.kind == "card"))
    settled()
    file = tmp_path / "card.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    press(named(space.inspector, "Save it as PDF…"))
    settled()
    paper = pypdfium2.PdfDocument(file)
    assert len(paper) == 1
    wide, high = (x / 72 * 25.4 for x in paper[0].get_size())
    assert (wide, high) == (pytest.approx(148, abs=0.6), pytest.approx(105, abs=0.6))
    card = next(c for c in window.document.records.cards if c.id == space.model.chosen.card_id)
    text = paper[0].get_textpage().get_text_range()
    assert card.name[:20] in text


def test_a_table_is_taken_over_by_its_columns_in_any_order(space, window, tmp_path, monkeypatch):
    file = tmp_path / "theirs.csv"
    file.write_text(
        "who;text;at;mood\n"
        "QK7LUX;muffled and quiet;2026-03-01T20:15+01:00;friendly\n"
        "QK7LUX;clear;yesterday;\n",
        "utf-8",
    )
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    for known in (0, 1):
        press(named(space, "Take over…"))
        settle(space)
        said = " ".join(words(window))
        assert f"{known} known already" in said
        assert "line 3: at: a time with its zone is wanted" in said
    (made,) = space.model.entries
    assert (made.who, made.words, made.other) == (
        "QK7LUX", ("muffled", "quiet"), {"mood": "friendly"},
    )  # fmt: skip


@pytest.mark.long
def test_a_photo_turned_or_far_too_large_is_shown_or_said(space, window, tmp_path):
    say(space, "clear")
    wide = tmp_path / "wide.png"
    # a small file that would be 400 megapixels
    image = QImage(20_000, 20_000, QImage.Format.Format_Mono)
    image.fill(0)
    assert image.save(str(wide), "PNG")
    assert space.model.add_photo(space.model.entries[0], wide)
    settle(space)
    assert any("cannot be shown here" in w for w in words(space.inspector))
    # one whose file is gone meanwhile
    photos_in(window.document.folder)[0].unlink()
    space._look.changed.emit()
    space.model.choose(0)
    space.model.choose(space.model.entries[0].number)
    settled()
    assert any("is gone" in w for w in words(space.inspector))


@pytest.mark.long
def test_a_pipe_or_a_folder_is_no_photo(space, window, tmp_path):
    say(space, "clear")
    pipe = tmp_path / "pipe.jpg"
    os.mkfifo(pipe)
    for file in (pipe, tmp_path, tmp_path / "nowhere.jpg"):
        assert not space.model.add_photo(space.model.entries[0], file)
        assert str(file) in " ".join(words(window))
    assert not space.model.entries[0].photos
