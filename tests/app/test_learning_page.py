"""The page of what readings teach, in the real window: typed, struck out, taken as measured."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from tests.app.hands import arrived, choose, press, settled, type_over, words
from tests.app.hands import button_of as named
from tests.app.lessons import few_draws
from tests.conftest import gear
from tests.core.wiring.benches import lead, radio, station
from tonleiter.app.spaces.gear.learning_picture import Bar
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.station import edits
from tonleiter.core.station.files import save_station

AT = "gear"


@pytest.fixture
def page(open_window, tmp_path, monkeypatch):
    """A stranger's station, fewer draws."""
    few_draws(monkeypatch)
    folder = tmp_path / "mine.station"
    chain = station(
        gear("dynamic-microphone", "mic", coil_ohm=300, sensitivity_mv_per_pa="1..3"),
        lead(), gear("capacitor", "block", capacitance_f="10u"), radio(wants_dbu="-60..-48"),
    )  # fmt: skip
    save_station(chain, folder)
    window = open_window(folder)
    settled()
    QTest.keyClick(window, Qt.Key.Key_1)
    arrived(window)
    settled()
    space = window.space("gear")
    QTest.keyClick(space.shelf.tree, Qt.Key.Key_T)
    settled()
    assert space.learning.isVisible()
    return settle(space.learning)


def settle(page):
    page.learning.finish()
    settled()
    return page


def read(page, kind, typed, stage=None):
    (what,) = (c for c in page.findChildren(Choice) if c.toolTip() == "What was read")
    choose(what, kind)
    if stage is not None:
        (where,) = (c for c in page.findChildren(Choice) if c.toolTip() == "At the input of")
        choose(where, stage)
    (field,) = (f for f in page.findChildren(TextField) if f.isVisible())
    type_over(field, typed)
    QTest.keyClick(field, Qt.Key.Key_Return)
    return settle(page)


@pytest.mark.long
def test_a_reading_narrows_the_answer_and_is_kept(page, open_window):
    before = page.learning.learned.before
    read(page, "knob", "45")
    made = page.learning.learned
    assert made.after.wide < 0.5 * before.wide
    shown = words(page)
    ends = f"the knob will stand between {made.after.low:.0f} and {made.after.high:.0f}."
    assert f"One reading, three minutes: {ends}" in shown
    assert any("As typed it was between" in w for w in shown)
    assert "the gain stands at 45" in shown
    bars = {b.accessibleName(): b.accessibleDescription() for b in page.findChildren(Bar)}
    assert bars["after the gain stands at 45"] == ends.removeprefix("the knob will stand ")[:-1]
    (kept,) = page.learning.records.readings
    assert (kept.kind, kept.typed, kept.stage) == ("knob", "45", None)
    page.learning.document.save()
    again = open_window(page.learning.document.folder)
    assert again.document.records.readings == (kept,)


@pytest.mark.long
def test_undo_takes_a_reading_back_and_what_it_taught(page):
    read(page, "knob", "45")
    page.learning.document.undo()
    settle(page)
    assert page.learning.records.readings == ()
    assert page.learning.learned.before == page.learning.learned.after


def test_what_is_no_reading_is_refused_where_it_was_typed_and_stays(page):
    read(page, "knob", "about half")
    assert any("a place on the knob's scale is wanted" in w for w in words(page))
    (field,) = (f for f in page.findChildren(TextField) if f.isVisible())
    assert field.text() == "about half"
    assert page.learning.records.readings == ()


@pytest.mark.long
def test_the_odd_one_is_said_struck_out_and_counts_again(page):
    read(page, "speech", "1 mV", "radio")
    read(page, "speech", "1 V", "block")
    (odd,) = page.learning.learned.odd
    assert odd.reading.typed in ("1 V", "1 mV")
    assert any("left out; the others make it" in w for w in words(page))
    press(named(page, "Strike out"))
    settle(page)
    struck = [r for r in page.learning.records.readings if r.struck]
    assert len(struck) == 1
    assert any("struck out: " in w for w in words(page))
    press(named(page, "Let it count"))
    settle(page)
    assert not any(r.struck for r in page.learning.records.readings)
    press(named(page, "Forget"))
    settle(page)
    assert len(page.learning.records.readings) == 1


@pytest.mark.long
def test_of_a_chain_that_was_changed_a_reading_is_kept_and_not_counted(page):
    read(page, "knob", "45")
    document = page.learning.document
    document.edit("x", lambda s: edits.change_gear(s, "mic", coil_ohm=600))
    settle(page)
    assert any("the chain was changed since" in w for w in words(page))
    assert page.learning.learned.readings == ()
    assert len(page.learning.records.readings) == 1
    document.undo()
    settle(page)
    assert len(page.learning.learned.readings) == 1


@pytest.mark.long
def test_what_was_learned_is_taken_as_measured_as_one_step(page):
    read(page, "knob", "45")
    read(page, "speech", "0.9 mV", "radio")
    told = [f for f in page.learning.learned.figures if f.told]
    assert told
    before = page.learning.station
    take = [b for b in page.findChildren(QPushButton) if b.accessibleName().startswith("Take as m")]
    press(next(b for b in take if b.isVisible()))
    settle(page)
    figure = page.learning.station.gear_by_id[told[0].stage].figure(told[0].parameter.field)
    assert figure.basis == "measured"
    assert figure.low == pytest.approx(told[0].after.low, rel=0.01)
    page.learning.document.undo()
    assert page.learning.station == before


def test_out_of_sight_nothing_is_worked_out(page, monkeypatch):
    asked = []
    few_draws(monkeypatch, asked)
    QTest.keyClick(page.window(), Qt.Key.Key_3)
    settled()
    page.learning.document.edit("x", lambda s: edits.change_gear(s, "mic", coil_ohm=500))
    settle(page)
    assert asked == []


def test_a_station_without_a_chain_says_so(open_window, tmp_path):
    from tonleiter.core.station.begin import begun

    folder = tmp_path / "new.station"
    save_station(begun(), folder)
    window = open_window(folder)
    settled()
    window.go_to("gear")
    space = window.space("gear")
    space.model.select("\0learn")
    settled()
    assert any("there is no chain to learn of yet" in w.lower() for w in words(space.learning))


@pytest.mark.long
def test_the_same_read_twice_counts_once(page):
    read(page, "knob", "45")
    once = page.learning.learned.after
    read(page, "knob", "45")
    assert len(page.learning.records.readings) == 2
    assert any("the same was read before" in w for w in words(page))
    assert page.learning.learned.after == once
