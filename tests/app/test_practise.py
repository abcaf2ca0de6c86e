"""The Practise space in the real window: a riddle taken, looked at, named; results kept."""

import json

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton

from tests.app.hands import arrived, choose, press, settled, words
from tests.app.hands import button_of as named
from tonleiter.app.audio import output
from tonleiter.app.spaces.practise.model import usual_file
from tonleiter.core.practice.riddle import REPORT


@pytest.fixture
def deaf(monkeypatch):
    monkeypatch.setattr(output, "FIND", [lambda: None])


@pytest.fixture
def space(window, deaf):
    settled()
    QTest.keyClick(window, Qt.Key.Key_9)
    arrived(window)
    made = window.space("practise")
    assert window._stack.currentWidget() is made
    return made


@pytest.fixture
def riddle(space):
    """Something just soldered, from a seed: the quickest to make."""
    choose(space.families, "build")
    space.model.another(5)
    space.model.finish()
    settled()
    return space.model.play.riddle


def called(space, name):
    settled()
    return next(b for b in space.findChildren(QPushButton) if b.accessibleName() == name
                and b.isVisible())  # fmt: skip


def test_nine_shows_what_it_is_and_a_press_takes_one(space):
    assert "One thing is wrong with a station" in space._says.text()
    choose(space.families, "build")
    press(space.take)
    space.model.finish()
    settled()
    assert space._says.text().startswith("They say: ")
    assert space.model.play is not None
    assert not usual_file().exists(), "nothing is written before it is over"


def test_it_is_found_by_looking_and_the_result_is_kept(space, riddle):
    ticks = {t.accessibleName(): t for t in space.findChildren(QCheckBox)}
    for look in riddle.best_path()[:3]:
        wanted = "power-off" in look.care
        tick = next(t for t in space.findChildren(QCheckBox) if "Power off" in t.accessibleName())
        if tick.isChecked() != wanted:
            QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
            settled()
        press(called(space, f"{look.title}: look"))
        settled()
        assert look.said(riddle.sees(look.id)) in words(space.looks)
    assert ticks
    press(called(space, f"It is: {riddle.cause.title}"))
    settled()
    assert space._says.text().startswith("Found: ")
    assert any("of 100" in w for w in words(space.looks))
    kept = json.loads(usual_file().read_text())
    assert [r["kind"] for r in kept["played"]] == [riddle.cause.kind]
    assert "1 riddle" in space._history.text()


@pytest.mark.long
def test_a_wrong_name_is_struck_out_and_a_hint_costs(space, riddle):
    wrong = next(c for c in riddle.causes if c.id != riddle.true)
    press(called(space, f"It is: {wrong.title}"))
    settled()
    assert f"✗ {wrong.title}" in words(space.causes)
    press(named(space.causes, "What next?"))
    settled()
    assert space.model.play.hinted is not None
    press(named(space.causes, "I give up"))
    settled()
    assert space._says.text().startswith("It was: ")
    assert riddle.cause.mends in space._proves.text()


def test_what_is_done_without_power_off_is_said_to_be_unsafe(space, riddle):
    look = next(x for x in riddle.looks if "power-off" in x.care)
    press(called(space, f"{look.title}: look"))
    settled()
    assert any("Not safe so" in w for w in words(space.looks))


def test_keys_take_another_and_ask(space, riddle, window):
    tells = riddle.belief().next(space.model.play.seen) is not None
    window.activateWindow()  # the list's popup took that
    settled()
    space.take.setFocus()  # a list that has the keyboard takes letters for its own
    QTest.keyClick(space.take, Qt.Key.Key_W)
    settled()
    assert space.model.play.hints == (1 if tells else 0)
    QTest.keyClick(space.take, Qt.Key.Key_N)
    space.model.finish()
    settled()
    assert space.model.play.riddle is not riddle


def test_a_file_of_results_that_is_broken_is_left_and_said(window, deaf):
    file = usual_file()
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text("{broken")
    window.go_to("practise")
    space = window.space("practise")
    assert "not kept" in space._history.text()
    space.model.choose("build")
    space.model.another(5)
    space.model.finish()
    space.model.give_up()
    assert file.read_text() == "{broken"


def test_undo_another_station_and_the_rail_leave_a_riddle_alone(space, riddle, window):
    window.document.undo()
    window.go_to("gear")
    window.go_to("practise")
    assert space.model.play.riddle is riddle
    assert REPORT in space.model.play.seen


@pytest.mark.parametrize("size, scale", [((1024, 700), 1.0), ((1024, 700), 1.5)])
def test_nothing_is_wider_than_its_panel(space, riddle, window, look, size, scale):
    try:
        look.set_scale(scale)
        window.resize(*size)
        settled(6)
        for panel in (space.looks, space.causes):
            inside = panel.area.viewport().width()
            wide = [w.text() for w in panel.findChildren(QLabel) if w.isVisible()
                    and w.width() > inside]  # fmt: skip
            assert not wide
            assert panel.area.widget().width() <= inside
    finally:
        look.set_scale(1.0)
