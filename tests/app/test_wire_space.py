"""The Wire space in the real window: faces, nets, pinouts, by hand and key."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from tests.app.hands import arrived, button_of, choose, press, words
from tests.core.station.test_pinout import ALL, JACK, plugged
from tests.core.wiring.test_sheets import radio_with_both_ways
from tonleiter.core.station import boxes
from tonleiter.core.station.devices import Connector
from tonleiter.core.station.files import save_station
from tonleiter.core.station.model import Station

AT = "wire"


@pytest.fixture
def wire(window, qtbot):
    QApplication.processEvents()  # keys do nothing while the station is being opened
    qtbot.keyClick(window, Qt.Key.Key_4)
    arrived(window)
    space = window.space("wire")
    assert window._stack.currentWidget() is space
    settle(space)
    return space


def settle(space):
    for _ in range(3):
        QApplication.processEvents()
    space.score.repaint()


def spot(space, device, label):
    settle(space)
    at = next(p for plug, n, p in space.score.contacts if (plug.end.device, n) == (device, label))
    return QPoint(round(at.x()), round(at.y()))


def field(space, name):
    """A field of the inspector by the name that a screen reader says."""
    return next(w for w in space.side.findChildren(QWidget) if w.accessibleName() == name)


def test_four_opens_the_build_of_the_open_chain(wire, window):
    assert "joints to solder" in wire._says.text()
    assert [s.right.name for s in wire.model.build.spans] == [
        "desk mixer, mic strip",
        "20 W HF set",
    ]
    assert any("carries 8 V that nothing uses" in w for w in words(wire.tray))
    assert "hf-20w.microphone.4" in wire.score.accessibleDescription()


def test_a_press_on_a_contact_lights_its_whole_net(wire):
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "4"))
    net = wire.model.net()
    assert net.contacts == ("T1.3", "hf-20w.microphone.4")
    assert "T1.3" in words(wire.side)
    assert "0.45 V" in words(wire.side)
    # by hand: the secondary winding's own 66 Ω across the plug
    assert "66 Ω" in words(wire.side)
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "4"))
    assert wire.model.lit == ""


def test_a_press_on_a_conductor_does_too_and_arrows_walk(wire, qtbot):
    settle(wire)
    _, name, path = wire.score.wires[0]
    at = path.pointAtPercent(0.8)
    QTest.mouseClick(
        wire.score, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y()))
    )
    assert wire.model.lit == name != ""
    qtbot.keyClick(wire.score, Qt.Key.Key_Down)
    assert wire.model.lit not in ("", name)


@pytest.mark.long
def test_turning_a_plug_over_mirrors_it_and_says_so(wire, qtbot):
    front = {n: spot(wire, "hf-20w", n) for n in ("2", "4", "6")}
    centre = wire.score.centre("right").x()
    press(wire.face_buttons["right", "solder-side"])
    for label, before in front.items():
        after = spot(wire, "hf-20w", label)
        assert after.y() == before.y()
        assert after.x() - centre == pytest.approx(centre - before.x(), abs=2)
    qtbot.keyClick(wire.score, Qt.Key.Key_T)
    assert wire.model.faces["right"] == "front"


@pytest.mark.long
def test_a_free_contact_is_asked_for_its_role_and_the_circuit_follows(wire, window):
    before = window.document.station
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "6"))
    choose(field(wire, "What contact 6 carries"), "free")
    device = window.document.station.device_by_id["hf-20w"]
    assert {c.label: c.role for c in device.connectors[0].contacts}["6"] == "free"
    assert not any("8 V that nothing uses" in w for w in words(wire.tray))
    window.undo()
    assert window.document.station == before
    assert any("8 V that nothing uses" in w for w in words(wire.tray))


def test_a_guessed_plug_is_written_down_when_its_contact_is_said(wire, window):
    wire.model.show_span(0)
    end = wire.model.span.left
    assert end.guessed
    wire.model.set_contact(end, "1", role="microphone-ground")
    made = window.document.station.device_by_id["stage-dynamic"].connectors[0]
    assert made.contacts[0].role == "microphone-ground"
    assert not wire.model.build.spans[0].left.guessed


def test_another_chain_and_another_part_of_it(wire, window):
    choose(wire.parts_of, "0")
    assert wire.model.span.left.name == "stage dynamic"
    choose(wire.chains, "hf-weak-data")
    assert window.document.station.open_chain == "hf-weak-data"
    assert wire.model.span.left.name == "USB audio box"
    # the box keys by itself: sound and its screen, and no wire of a transmit line
    assert {c.colour for c in wire.model.build.conductors} == {"white", "bare braid"}


def test_a_mirrored_pinout_is_turned_over_by_its_button(wire, window):
    station = window.document.station
    right = station.device_by_id["hf-20w"].connectors[1]
    turned = {"1": "2", "2": "1", "3": "4", "4": "3", "5": "6", "6": "5"}
    roles = {c.label: c.role for c in right.contacts}
    wrong = Connector.model_validate(
        {
            "id": "data",
            "name": "DATA",
            "shell": "mini-din-6",
            "ports": ["fm-mobile"],
            "basis": "manual",
            "contacts": [{"label": n, "role": roles[turned[n]]} for n in turned],
        }
    )
    window.document.edit(
        "pinout", lambda s: boxes.change_device(s, "fm-mobile", connectors=(wrong,))
    )
    choose(wire.chains, "fm-headset")
    wire.model.finish()
    finding = next(f for f in wire.model.found() if f.code == "pinout-mirrored")
    assert "mirror of DATA" in finding.says
    press(next(b for c in wire.tray.cards for b in c.buttons if "Turn the pinout" in b.text()))
    mended = window.document.station.device_by_id["fm-mobile"].connectors[0]
    assert {c.label: c.role for c in mended.contacts} == roles


@pytest.mark.long
def test_out_of_sight_nothing_is_solved(wire, window):
    before = wire.model.build
    window.go_to("gear")
    window.document.edit("x", lambda s: boxes.change_device(s, "laptop", supply="battery"))
    assert wire.model.build is before
    window.go_to("wire")
    assert wire.model.build is not before


def test_an_empty_station_says_where_to_begin(open_window, tmp_path):
    from tonleiter.core.station.begin import begun
    from tonleiter.core.station.files import save_station

    folder = tmp_path / "bare.station"
    save_station(begun(), folder)
    window = open_window(folder)
    window.go_to("wire")
    assert "There is no chain to wire yet" in window.space("wire")._says.text()


def test_another_chain_of_the_plug_is_drawn_and_opened_from_here(open_window, tmp_path):
    folder = tmp_path / "both.station"
    save_station(radio_with_both_ways(), folder)
    window = open_window(folder)
    window.go_to("wire")
    space = window.space("wire")
    settle(space)
    space.model.finish()
    assert [t.chain.name for t in space.score.score.shared] == ["receive"]
    assert "In the same plug" in words(space)
    press(button_of(space, "receive"))
    assert window.document.station.open_chain == "receive"


def test_contacts_without_a_wire_are_told_by_box_and_what_others_solder_is_not_among_them(
    open_window, tmp_path
):
    """The way back takes 4 and 5 of the radio's plug, and the second half of the box's jack."""
    folder = tmp_path / "both.station"
    data = plugged("rig", ["rig-in", "rig-ear"], ALL, "round-8").model_dump(mode="json")
    jack = plugged("box", ["box-out", "box-in"], JACK, "jack-3.5-four").model_dump(mode="json")
    own = {d["id"]: d for d in jack["devices"]}["box"]
    data["devices"] = [own if d["id"] == "box" else d for d in data["devices"]]
    save_station(Station.model_validate(data), folder)
    window = open_window(folder)
    window.go_to("wire")
    space = window.space("wire")
    space.model.finish()
    settle(space)
    assert space._proves.text() == "Contacts without a wire: 1, 2, 3, 8 of the rig."
