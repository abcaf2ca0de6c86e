"""The Prove space in the real window: the path, readings typed, faults hidden and found."""

import json

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QLabel, QWidget

from tests.app.hands import arrived, choose, press, words
from tests.app.hands import button_of as named
from tests.conftest import gear, station_of
from tests.core.prove.rates import kind
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.app.spaces.prove.gauge import Gauge
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.station import edits
from tonleiter.core.station.files import read_station, save_station

AT = "prove"


@pytest.fixture
def window(open_window, tmp_path):
    folder = tmp_path / "bench.station"
    save_station(station(mic(), lead(), kind("bipolar-preamp"), lead("out"), radio()), folder)
    return open_window(folder)


@pytest.fixture
def prove(window, qtbot):
    QApplication.processEvents()
    qtbot.keyClick(window, Qt.Key.Key_5)
    arrived(window)
    space = window.space("prove")
    assert window._stack.currentWidget() is space
    space.model.finish()
    return space


def at(space, part):
    """The reading where a part's pin is."""
    return next(
        r
        for r in space.model.proof.readings
        if r.step == "dc" and (part in r.says.replace(":", ",").split(", ") or f" {part}" in r.says)
    )


def typed(space, reading, text):
    space.model.show_step(reading.step)
    QApplication.processEvents()
    if reading.id in space.ticks and text == "open":
        ticked(space.ticks[reading.id].box)
    else:
        field = space.fields[reading.id]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    space.model.finish()
    QApplication.processEvents()


def ticked(box):
    QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))


@pytest.mark.long
def test_five_sets_the_bench_up_and_begins_with_the_eyes(prove):
    assert "begin with your eyes" in prove._says.text()
    prove.model.show_step("look")
    checks = [b.accessibleName() for b in prove.findChildren(QCheckBox) if b.isVisible()]
    assert any(c.startswith("Q1: B goes to") or "Q1: C goes to" in c for c in checks)
    assert any("strain relief" in c for c in checks)
    assert any("Eye protection" in w for w in words(prove.step_panel))


def test_a_check_is_ticked_and_kept(prove, window):
    prove.model.show_step("look")
    QApplication.processEvents()
    boxes = prove.findChildren(QCheckBox)
    ticked(next(b for b in boxes if "strain relief" in b.accessibleName()))
    (proved,) = window.document.records.proved
    assert proved.seen == ("look:strain-relief",)
    assert prove.model.done("look")[0] == 1
    window.undo()
    assert window.document.records.proved == ()


@pytest.mark.long
def test_readings_as_people_write_them_are_judged(prove):
    base = at(prove, "Q1.B")
    typed(prove, base, "1.55")
    assert prove._says.text() == "1 reading is as predicted."
    assert not prove.model.disagrees(base)
    typed(prove, base, "2300m")
    # one reading names a likely one, and does not swear to it
    assert "1 reading disagrees: perhaps R" in prove._says.text()
    assert prove.badge().count == 1


def test_a_reading_of_the_wrong_unit_is_one_line_and_stays(prove, window):
    base = at(prove, "Q1.B")
    typed(prove, base, "5 ohm")
    assert prove.fields[base.id].text() == "5 ohm"
    assert base.id not in prove.model.typed()
    assert "5 ohm" in window.notice.text
    assert "\n" not in window.notice.text


@pytest.mark.long
def test_nothing_typed_takes_a_reading_away(prove):
    base = at(prove, "Q1.B")
    typed(prove, base, "1.55")
    prove.fields[base.id].setFocus()
    prove.fields[base.id].selectAll()
    QTest.keyClick(prove.fields[base.id], Qt.Key.Key_Delete)
    QTest.keyClick(prove.fields[base.id], Qt.Key.Key_Return)
    assert prove.model.typed() == {}


@pytest.mark.long
def test_a_hidden_fault_is_found_reading_by_reading(prove, qtbot):
    """Only the reading that is asked for is taken, each time."""
    prove.model.hide(prove.model.proof.fault("R2-open"))
    for _ in range(12):
        wanted = prove.model.ranking.next
        if wanted is None:
            break
        qtbot.keyClick(prove, Qt.Key.Key_N)
        typed(prove, wanted, prove.model.shown(wanted))
    first = prove.model.ranking.explained[0]
    assert "R2-open" in (first.fault.id, *first.equals)
    assert len(prove.model.readings()) < len(prove.model.proof.readings) / 2
    assert any("R2" in w for w in words(prove.side))
    press(named(prove, "Tell me"))
    assert any("It was: R2 open" in w for w in words(prove.side))


def test_a_step_is_read_off_the_bench_and_read_again(prove):
    prove.model.show_step("dc")
    press(named(prove, "Read this step off"))
    prove.model.finish()
    done, of = prove.model.done("dc")
    assert done == of > 4
    assert "as predicted" in prove._says.text()
    press(named(prove, "I mended it"))
    assert prove.model.typed() == {}


def test_hide_a_fault_hides_one(prove):
    press(named(prove, "Hide a fault"))
    assert prove.model.hidden is not None
    assert any(w == "A fault is hidden." for w in words(prove.side))


@pytest.mark.long
def test_a_step_left_out_is_on_the_record(prove, window):
    prove.model.show_step("tone")
    press(named(prove, "Leave this step out"))
    assert window.document.records.proved[0].left_out == ("tone",)
    press(named(prove, "Do this step after all"))
    assert window.document.records.proved[0].left_out == ()


@pytest.mark.long
def test_readings_of_another_build_are_kept_and_marked(prove, window, tmp_path):
    base = at(prove, "Q1.B")
    typed(prove, base, "1.55")
    chain = window.document.station.chain()
    window.document.edit("R", lambda s: edits.set_value(s, chain.id, "v", 2, "lower_ohm", 10e3))
    prove.model.finish()
    assert prove.model.older()
    assert prove.model.readings() == {}
    assert prove.model.typed() == {base.id: "1.55"}
    assert "changed since these readings" in prove._proves.text()
    document = window.document
    save_station(document.station, tmp_path / "kept.station", records=document.records)
    assert read_station(tmp_path / "kept.station").records == document.records


@pytest.mark.long
def test_the_scope_shows_both_ends_and_follows_the_generator(prove):
    prove.model.show_step("tone")
    prove.model.finish()
    QApplication.processEvents()
    scope = next(w for w in prove.side.findChildren(QWidget) if w.accessibleName() == "Scope")
    assert "out" in scope.accessibleDescription()
    assert "pp" in scope.accessibleDescription()
    small = prove.model.scope.out.peak_to_peak_v
    press(named(prove, "+6 dB"))
    prove.model.finish()
    assert prove.model.scope.out.peak_to_peak_v == pytest.approx(2 * small, rel=0.02)
    prove.side.repaint()


def letter_pressed(space, part, modifiers=Qt.KeyboardModifier.NoModifier):
    """A real press on the letter where a part's pin is."""
    QApplication.processEvents()
    point = next(p for p in space.model.proof.unit.points if part in p.says.split(", "))
    at = space.drawing.spots()[point.letter].toPoint()
    QTest.mouseClick(space.drawing, Qt.MouseButton.LeftButton, modifiers, at)
    return point.letter


def meter(space):
    for _ in range(3):
        QApplication.processEvents()
    shown = [w for w in space.side.findChildren(QLabel) if w.accessibleName() == "Meter shows"]
    return next(w.text() for w in shown if w.isVisible())


def test_a_press_on_a_letter_puts_the_meter_there(prove):
    prove.model.show_step("dc")
    emitter = letter_pressed(prove, "Q1.E")
    assert prove.model.tools.red == emitter
    assert meter(prove) == prove.model.shown(at(prove, "Q1.E"))
    base = letter_pressed(prove, "Q1.B", Qt.KeyboardModifier.ShiftModifier)
    assert (prove.model.tools.red, prove.model.tools.black) == (emitter, base)
    # the junction's 0.65 V, from the emitter down
    assert meter(prove).startswith("−6")
    prove.model.show_step("ring")
    QApplication.processEvents()
    choose(
        next(
            c
            for c in prove.side.findChildren(Choice)
            if c.accessibleName() == "Meter's range" and c.isVisible()
        ),
        "beeper",
    )
    assert any(w.startswith("silent") for w in words(prove.side))


def test_a_supply_at_its_limit_says_so_and_refuses_what_none_gives(prove):
    prove.model.show_step("dc")
    prove.model.hide(prove.model.proof.fault("Q1-short-collector-emitter"))
    field = next(
        f
        for f in prove.side.findChildren(TextField)
        if f.accessibleName() == "Bench its limit" and f.isVisible()
    )
    field.selectAll()
    QTest.keyClicks(field, "900 kA")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert field.text() == "900 kA"
    assert prove.model.tools.limit_a is None
    field.selectAll()
    QTest.keyClicks(field, "1 mA")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert any("at its limit" in w for w in words(prove.side))
    assert prove.model.supplied().amps == pytest.approx(1e-3, rel=0.02)


@pytest.mark.long
def test_the_scope_s_knobs_are_turned(prove):
    prove.model.show_step("tone")
    prove.model.finish()
    QApplication.processEvents()
    knob = next(
        c
        for c in prove.side.findChildren(Choice)
        if c.accessibleName() == "Volts a division, out" and c.isVisible()
    )
    choose(knob, "0.5")
    QApplication.processEvents()
    scope = next(
        w
        for w in prove.side.findChildren(QWidget)
        if w.accessibleName() == "Scope" and w.isVisible()
    )
    assert "500 mV/div" in scope.accessibleDescription().replace("\u202f", " ")
    scope.repaint()
    press(named(prove, "Where does it flatten?"))
    prove.model.finish()
    assert any(w.startswith("Flattens from") for w in words(prove.side))


@pytest.mark.long
def test_the_likeliest_part_is_shown_on_the_wiring_sheet(prove, window):
    prove.model.hide(prove.model.proof.fault("R2-open"))
    prove.model.read_off(prove.model.of_step("dc"))
    prove.model.finish()
    press(named(prove, "Show R2 on the wiring sheet"))
    arrived(window)
    wire = window.space("wire")
    assert window._stack.currentWidget() is wire
    lit = next(n for n in wire.model.build.nets if n.name == wire.model.lit)
    assert any(c.startswith("R2.") for c in lit.contacts)


def test_keys_walk_the_path(prove, qtbot):
    prove.model.show_step("ring")
    qtbot.keyClick(prove, Qt.Key.Key_PageDown)
    assert prove.model.step == "dc"
    qtbot.keyClick(prove, Qt.Key.Key_PageUp)
    assert prove.model.step == "ring"


def test_the_drawing_has_a_letter_at_every_point(prove):
    QApplication.processEvents()
    assert set(prove.drawing.spots()) == {p.letter for p in prove.model.proof.unit.points}
    prove.drawing.repaint()


@pytest.mark.long
def test_the_demo_is_proven_part_by_part(open_window, demo_folder):
    window = open_window(demo_folder)
    window.go_to("prove")
    space = window.space("prove")
    for chain in ("hf-chat", "fm-headset", "am-driver", "hf-weak-data"):
        choose(space.chains, chain) if chain != "hf-chat" else None
        space.model.finish()
        assert space.model.proof is not None
        assert space.model.ready
        for step in ("look", "ring", "dc", "tone", "listen", "dummy-load", "air"):
            space.model.show_step(step)
        QApplication.processEvents()
    assert json.dumps(space.model.proof.shown(None)).count("ohm") > 3


def test_an_empty_station_says_where_to_begin(open_window, tmp_path):
    from tonleiter.core.station.begin import begun

    folder = tmp_path / "bare.station"
    save_station(begun(), folder)
    window = open_window(folder)
    window.go_to("prove")
    assert "There is no chain to prove yet" in window.space("prove")._says.text()


@pytest.mark.long
def test_readings_between_boxes_of_long_names_are_kept(open_window, tmp_path):
    """A name at its longest on both sides of a pair: nothing that is read off is lost."""
    long = ("transmitter-of-the-old-observatory-in-the-upper-valley-no-2")[:60]
    made = station_of(
        gear("dynamic-microphone", f"m-{long}"[:60]),
        gear("cable", "lead"),
        gear("microphone-socket", f"r-{long}"[:60]),
    )
    folder = tmp_path / "long.station"
    save_station(made, folder)
    window = open_window(folder)
    window.go_to("prove")
    space = window.space("prove")
    space.model.finish()
    for step in ("ring", "dc", "tone"):
        space.model.show_step(step)
        press(named(space, "Read this step off"))
    (proved,) = window.document.records.proved
    assert len(proved.readings) == len(space.model.proof.readings)
    assert max(len(k) for k in proved.readings) > 100
    save_station(window.document.station, folder)
    assert read_station(folder).station == window.document.station


@pytest.mark.long
def test_a_valve_set_warns_where_power_is_on(open_window, demo_folder):
    """One hand, bleed and verify, qualified people; ringing out needs none of it."""
    window = open_window(demo_folder)
    space = window.space("prove")
    window.go_to("prove")
    space.model.open_chain("am-museum-day")
    space.model.finish()
    space.model.show_step("dc")
    assert any("one hand" in w for w in words(space.step_panel))
    space.model.show_step("ring")
    assert not any("one hand" in w for w in words(space.step_panel))


@pytest.mark.long
def test_all_that_must_not_beep_is_one_tick_and_unfolds_when_it_does(prove):
    prove.model.show_step("ring")
    QApplication.processEvents()
    (rest,) = prove.ticks
    of = next(r for r in prove.model.proof.readings if r.id == rest)
    assert not set(of.of) & prove.fields.keys()
    ticked(prove.ticks[rest].box)
    prove.model.finish()
    assert prove.model.typed()[rest] == "open"
    press(named(prove, "One of them beeps"))
    QApplication.processEvents()
    assert set(of.of) <= prove.fields.keys()
    press(named(prove, "Fold them together"))
    assert not set(of.of) & prove.fields.keys()
    assert any("kΩ … " in g.said.replace("\u202f", " ") for g in prove.findChildren(Gauge))
