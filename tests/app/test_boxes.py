"""Boxes and grounds in the real window: sockets, leads, loops, by hand and key."""

import json

import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QLabel, QPushButton

from tests.app.hands import arrived, choose, press, rest, retype
from tonleiter.app.spaces.gear.model import ADD, BOX, GROUNDS
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.core.station.box_files import read_arrival

AT = "gear"


@pytest.fixture
def gear(window):
    window.go_to("gear")
    return window.space("gear")


def settle():
    """A page built anew is shown by the events after those that built it."""
    for _ in range(3):
        QApplication.processEvents()


def named(page, kind, name):
    """Where it is seen; the page may just be built anew with what came from behind the window."""
    for _ in range(50):
        settle()
        there = [w for w in page.findChildren(kind) if w.accessibleName() == name]
        if found := [w for w in there if w.isVisible()]:
            return found[0]
        rest(20)
    raise AssertionError([w.accessibleName() for w in page.findChildren(kind)])


def words(page):
    settle()
    return [w.text() for w in page.findChildren(QLabel) if w.isVisible()]


def station(window):
    return window.document.station


def pick(gear, text):
    tree = gear.shelf.tree
    item = next(
        tree.topLevelItem(k)
        for k in range(tree.topLevelItemCount())
        if tree.topLevelItem(k).text(0) == text
    )
    tree.scrollToItem(item)
    at = tree.visualItemRect(item).center()
    QTest.mouseClick(tree.viewport(), Qt.MouseButton.LeftButton, pos=at)


def test_a_box_is_chosen_on_the_shelf_and_says_its_sockets(gear, window):
    pick(gear, "20 W HF set")
    assert gear.model.selected == f"{BOX}hf-20w"
    shown = [b.text() for b in gear.box.findChildren(QPushButton) if b.isVisible()]
    assert {"HF set data socket", "HF set loudspeaker socket"} <= set(shown)
    assert any("for the HF set data socket" in w for w in words(gear.box))
    press(named(gear.box, QPushButton, "HF set data socket"))
    assert gear.model.selected == "hf-data"


def test_supply_of_a_box_is_that_of_its_sockets_and_is_undone_at_once(gear, window):
    gear.model.select_box("hf-20w")
    choose(named(gear.box, Choice, "How it is fed"), "safety-earth")
    assert {station(window).gear_by_id[p].supply for p in ("hf-set", "hf-data", "hf-speaker")} == {
        "safety-earth"
    }
    field = named(gear.box, QuantityField, "Earth EMF")
    retype(field, "3m")
    assert station(window).device_by_id["hf-20w"].earth_emf_v.value == 3e-3
    assert station(window).gear_by_id["hf-speaker"].earth_emf_v.value == 3e-3
    window.undo()
    window.undo()
    assert station(window).device_by_id["hf-20w"].supply == "lead"


def test_a_radio_says_what_it_is_and_what_it_transmits(gear, window):
    gear.model.select_box("hf-20w")
    assert named(gear.box, Choice, "What it is").currentText() == "radio"
    retype(named(gear.box, QuantityField, "Transmits"), "25")
    assert station(window).device_by_id["hf-20w"].power_w.value == 25
    retype(named(gear.box, QuantityField, "ALC hang"), "0.2")
    retype(named(gear.box, QuantityField, "FM limiter at"), "2.1k")
    sends = station(window).device_by_id["hf-20w"].transmitter
    assert (sends.alc_hang_s.value, sends.deviation_hz.value) == (0.2, 2100)
    assert sends.alc_attack_s.basis == "typical"
    gear.model.select_box("laptop")
    assert not [
        f
        for f in gear.box.findChildren(QuantityField)
        if f.accessibleName() == "Transmits" and f.isVisible()
    ]


def test_an_interface_says_when_its_switch_keys(gear, window):
    gear.model.select_box("usb-box")
    retype(named(gear.box, QuantityField, "Its switch keys at, against full scale"), "-32")
    choose(named(gear.box, Choice, "Its threshold"), "fixed")
    switch = station(window).device_by_id["usb-box"].switch
    assert (switch.keys_at_db.value, switch.threshold) == (-32, "fixed")
    before = station(window)
    retype(named(gear.box, QuantityField, "Its hang time, least"), "5")
    assert station(window) is before
    assert "below its most" in gear.box.refusal.text()


def test_a_bad_figure_of_a_box_keeps_what_was_typed(gear, window):
    gear.model.select_box("hf-20w")
    choose(named(gear.box, Choice, "How it is fed"), "safety-earth")
    field = named(gear.box, QuantityField, "Earth EMF")
    before = station(window)
    retype(field, "much")
    assert station(window) is before
    assert field.text() == "much"
    assert any("much" in w for w in words(gear.box))


def test_sockets_are_put_in_taken_out_and_a_name_is_wanted(gear, window):
    gear.model.select_box("usb-box")
    choose(named(gear.box, Choice, "Piece to make a socket of it"), "equaliser")
    assert station(window).device_by_id["usb-box"].ports[-1] == "equaliser"
    assert station(window).gear_by_id["equaliser"].supply == "lead"
    by_itself = [
        b
        for b in gear.box.findChildren(QPushButton)
        if b.text() == "A box by itself" and b.isVisible()
    ]
    press(by_itself[-1])
    assert station(window).device_by_port["equaliser"].ports == ("equaliser",)
    retype(gear.box.name, "loop box")
    assert station(window).device_by_id["usb-box"].name == "loop box"
    retype(gear.box.name, "  ")
    assert station(window).device_by_id["usb-box"].name == "loop box"
    assert "a box needs a name" in words(gear.box)


def test_connectors_come_and_go(gear, window):
    gear.model.select_box("usb-box")
    choose(named(gear.box, Choice, "Socket that it serves"), "usb-box-in")
    choose(named(gear.box, Choice, "Shell of a new connector"), "xlr-3")
    added = station(window).device_by_id["usb-box"].connectors[-1]
    assert (added.shell, added.ports) == ("xlr-3", ("usb-box-in",))
    removes = [
        b for b in gear.box.findChildren(QPushButton) if b.text() == "Remove" and b.isVisible()
    ]
    press(removes[-1])
    assert len(station(window).device_by_id["usb-box"].connectors) == 3


def test_removing_a_box_says_what_goes_first(gear, window):
    gear.model.select_box("hf-20w")
    press(named(gear.box, QPushButton, "Remove…"))
    said = " ".join(words(gear.box))
    assert "3 sockets" in said
    assert "HF, evening round" in said
    press(named(gear.box, QPushButton, "Remove it"))
    assert "hf-20w" not in station(window).device_by_id
    window.undo()
    assert "hf-20w" in station(window).device_by_id


def test_a_box_is_exported_and_comes_back_from_its_file(gear, window, tmp_path):
    gear.model.select_box("usb-box")
    file = tmp_path / "usb.box.json"
    assert gear.box.export(file)
    assert read_arrival(file).device.name == "USB audio box"
    assert gear.model.import_file(file)
    assert gear.model.selected == f"{BOX}usb-box-2"
    file.write_text(json.dumps({"format": "tonleiter-box", "version": 4, "sockets": []}))
    before = station(window)
    assert not gear.model.import_file(file)
    assert station(window) is before


def test_what_can_be_plugged_into_it_builds_a_box(gear, window, qtbot):
    qtbot.keyClick(gear, Qt.Key.Key_A)
    for wanted in ("a box with several sockets", "a radio"):
        press(next(b for b in gear.page(ADD).answers if b.text() == wanted))
    assert [t.isChecked() for t in gear.page(ADD).ticks] == [True, True, True, False]
    QTest.keyClick(gear.page(ADD).ticks[2], Qt.Key.Key_Space)
    press(gear.page(ADD).answers[0])
    box = gear.model.box
    assert box is not None
    kinds = [station(window).gear_by_id[p].kind_id for p in box.ports]
    assert kinds == ["microphone-socket", "data-socket"]
    assert [c.ports for c in box.connectors] == [(p,) for p in box.ports]
    window.undo()
    assert box.id not in station(window).device_by_id


def test_a_supply_has_no_sockets_and_one_step_back_is_one(gear, window, qtbot):
    qtbot.keyClick(gear, Qt.Key.Key_A)
    press(next(b for b in gear.page(ADD).answers if b.text() == "a box with several sockets"))
    press(next(b for b in gear.page(ADD).answers if b.text() == "a computer"))
    gear.page(ADD).back()
    assert gear.page(ADD).answers[0].text() == "a radio"
    press(gear.page(ADD).answers[-1])
    assert gear.model.box.kind == "supply"
    assert gear.model.box.ports == ()


# --- grounds -------------------------------------------------------------------------------------


@pytest.fixture
def grounds(gear, window, qtbot):
    QApplication.processEvents()
    qtbot.keyClick(gear, Qt.Key.Key_G)
    assert gear.model.selected == GROUNDS
    choose(named(gear.grounds, Choice, "Chain"), "hf-weak-data")
    return solved(gear.grounds)


def solved(grounds):
    """Once what is worked out behind the window is there."""
    grounds.solving.finish()
    QApplication.processEvents()
    # what was shown before is put away, not to be pressed
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    return grounds


def test_the_loop_through_two_usb_leads_is_said_and_lit(grounds, window):
    assert any("1 loop of metal" in w for w in words(grounds))
    assert len(grounds.loops) == 1
    assert grounds.loops[0].isChecked()
    assert "audio box's USB lead" in grounds.picture.accessibleDescription()
    assert any("→ USB audio box →" in w for w in words(grounds))


def test_an_isolator_breaks_it_and_undo_brings_it_back(grounds, window):
    choose(named(grounds, Choice, "How the audio box's USB lead joins"), "isolated")
    solved(grounds)
    assert {x.id: x.joins for x in station(window).links}["box-usb"] == "isolated"
    assert any("No loop of metal" in w for w in words(grounds))
    window.undo()
    solved(grounds)
    assert any("1 loop of metal" in w for w in words(grounds))


@pytest.mark.long
def test_a_ring_core_and_a_resistance_by_hand(grounds, window):
    before = grounds.grounds.loops[0].left_dbu
    rings = [b for b in grounds.findChildren(QCheckBox) if b.text() == "ring core"]
    QTest.mouseClick(rings[2], Qt.MouseButton.LeftButton, pos=QPoint(8, rings[2].height() // 2))
    assert [x.core for x in station(window).links].count("ring-core") == 1
    assert solved(grounds).grounds.loops[0].left_dbu < before - 20
    window.undo()
    retype(named(grounds, QuantityField, "Resistance of the HF set's USB lead"), "2")
    assert {x.id: x.ohm.value for x in station(window).links}["hf-usb"] == 2
    assert solved(grounds).grounds.loops[0].left_dbu < before - 10


def test_a_lead_is_added_between_two_boxes_and_none_to_itself(grounds, window):
    choose(named(grounds, Choice, "From"), "usb-box")
    choose(named(grounds, Choice, "To"), "hf-20w")
    choose(named(grounds, Choice, "Kind of lead"), "strap")
    added = station(window).links[-1]
    assert (added.kind, added.a, added.b) == ("strap", "usb-box", "hf-20w")
    count = len(station(window).links)
    choose(named(grounds, Choice, "From"), "hf-20w")
    choose(named(grounds, Choice, "To"), "hf-20w")
    choose(named(grounds, Choice, "Kind of lead"), "usb")
    assert len(station(window).links) == count
    assert any("joins “hf-20w” to itself" in w for w in words(grounds))


@pytest.mark.long
def test_a_lead_that_is_half_chosen_outlives_what_builds_its_page_anew(grounds, window, look):
    choose(named(grounds, Choice, "From"), "usb-box")
    choose(named(grounds, Choice, "To"), "hf-20w")
    try:
        look.set_scale(1.15)
        solved(grounds)
        choose(named(grounds, Choice, "Kind of lead"), "strap")
        added = station(window).links[-1]
        assert (added.kind, added.a, added.b) == ("strap", "usb-box", "hf-20w")
    finally:
        look.set_scale(1.0)


@pytest.mark.long
def test_a_refusal_stays_said_while_its_station_stands(grounds, window, look):
    """A page is built anew by what a worker found and by other text; an edit takes it away."""
    choose(named(grounds, Choice, "From"), "hf-20w")
    choose(named(grounds, Choice, "To"), "hf-20w")
    choose(named(grounds, Choice, "Kind of lead"), "usb")
    try:
        look.set_scale(1.15)
        solved(grounds)
        assert any("to itself" in w for w in words(grounds))
        window.document.edit("x", lambda s: s.but(title="Another"))
        solved(grounds)
        look.set_scale(1.0)
        assert not any("to itself" in w for w in words(grounds))
    finally:
        look.set_scale(1.0)


def test_a_press_on_a_box_of_the_picture_opens_it(grounds, gear):
    grounds.picture.repaint()
    spot = grounds.picture._spots["hf-20w"]
    QTest.mouseClick(
        grounds.picture, Qt.MouseButton.LeftButton, pos=QPoint(int(spot.x), int(spot.y))
    )
    assert gear.model.selected == f"{BOX}hf-20w"


def test_leads_that_stay_plugged_in(grounds, window):
    box = next(b for b in grounds.findChildren(QCheckBox) if "stay plugged" in b.text())
    QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    assert station(window).chain("hf-weak-data").stays_plugged


@pytest.mark.long
def test_the_card_of_an_earth_loop_leads_to_the_picture(window, qtbot):
    window.go_to("ladder")
    ladder = window.space("ladder")
    choose(ladder.header.shown_box, "as-wired")
    ladder.model.finish()
    card = next(c for c in ladder.tray.cards if c.finding.code == "earth-loop")
    press(card.way)
    arrived(window)
    assert window._stack.currentWidget() is window.space("gear")
    assert window.space("gear").model.selected == GROUNDS
    assert solved(window.space("gear").grounds).grounds is not None


def test_an_empty_station_says_what_to_do_first(open_window, tmp_path):
    from tonleiter.core.station.begin import begun
    from tonleiter.core.station.files import save_station

    folder = tmp_path / "bare.station"
    save_station(begun(), folder)
    window = open_window(folder)
    window.go_to("gear")
    gear = window.space("gear")
    gear.model.select(GROUNDS)
    assert any("There is no chain to look at yet" in w for w in words(gear.grounds))
