"""The Gear space in the real window: shelf, questions, figures, bench, people, room, drawer."""

import json

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMessageBox

from tests.app.hands import arrived, button_of, press, retype, settled
from tonleiter.app.spaces.gear import piece as piece_page
from tonleiter.app.spaces.gear.model import ADD, DRAWER, PEOPLE, ROOM
from tonleiter.app.spaces.gear.piece import PieceEditor
from tonleiter.core.gear.bench import METHODS
from tonleiter.core.gear.figure import FARADS, OHMS
from tonleiter.core.station.edits import change_gear
from tonleiter.core.station.files import read_station
from tonleiter.core.station.pieces import read_piece

AT = "gear"

METHOD = {m.id: m for m in METHODS}


@pytest.fixture
def gear(window):
    window.go_to("gear")
    return window.space("gear")


def answer(gear, *words):
    for wanted in words:
        found = next(b for b in gear.page(ADD).answers if b.text() == wanted)
        found.click()


def items(gear):
    tree = gear.shelf.tree
    return [tree.topLevelItem(k).text(0) for k in range(tree.topLevelItemCount())]


def test_digits_go_to_spaces(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_1)
    arrived(window)
    assert window._stack.currentWidget() is window.space("gear")
    assert window.buttons["gear"].isChecked()
    qtbot.keyClick(window, Qt.Key.Key_3)
    arrived(window)
    assert window._stack.currentWidget() is window.space("ladder")


def test_the_shelf_lists_everything_under_headings(gear, window):
    shown = items(gear)
    assert shown[:5] == [
        "Boxes with several sockets",
        "20 W HF set",
        "      20 W HF set",
        "      HF set data socket",
        "      HF set loudspeaker socket",
    ]
    assert shown.index("13.8 V supply") < shown.index("Microphones")
    assert {g.name for g in window.document.station.gear} <= {name.strip() for name in shown}
    assert "pieces on the shelf" in gear._says.text()


def test_typing_finds_on_the_shelf(gear, qtbot):
    qtbot.keyClicks(gear.shelf.filter, "piezo")
    visible = [i.text(0) for i in gear.shelf._items() if not i.isHidden()]
    assert visible == ["piezo desk microphone"]


def test_questions_put_a_piece_on_the_shelf_and_choose_it(gear, window, qtbot):
    qtbot.keyClick(gear, Qt.Key.Key_A)
    assert gear.model.selected == ADD
    answer(gear, "something I speak into", "a few volts on its own line", "two")
    piece = gear.model.piece
    assert piece.kind_id == "electret-2-wire"
    assert gear.editor.name.text() == "electret microphone"
    window.undo()
    assert piece.id not in window.document.station.gear_by_id


def test_a_question_can_be_taken_back(gear):
    gear.model.start_adding(False)
    first = gear.page(ADD)._question.text()
    answer(gear, "something that plays or receives")
    gear.page(ADD).back()
    assert gear.page(ADD)._question.text() == first


def test_the_library_is_searched_and_taken_from(gear, qtbot):
    gear.model.start_adding(False)
    qtbot.keyClicks(gear.page(ADD).search, "star-quad")
    visible = [
        gear.page(ADD).library.item(k)
        for k in range(gear.page(ADD).library.count())
        if not gear.page(ADD).library.item(k).isHidden()
    ]
    assert len(visible) == 1
    gear.page(ADD).library.setCurrentItem(visible[0])
    gear.page(ADD).take_chosen()
    assert gear.model.piece.form == "star-quad"


def test_figures_are_typed_and_their_origin_is_kept(gear, qtbot):
    gear.model.select("fm-mobile")
    entry = gear.editor.form.entry("clip_dbu")
    entry.setFocus()
    entry.setText("-24..-20")
    qtbot.keyClick(entry, Qt.Key.Key_Return)
    figure = gear.model.piece.clip_dbu
    assert (figure.low, figure.high, figure.basis) == (-24, -20, "manual")
    entry.setText("loud")
    qtbot.keyClick(entry, Qt.Key.Key_Return)
    assert "loud" in gear.editor.refusal.text()
    assert entry.text() == "loud"


def test_a_name_is_changed_everywhere_and_must_not_be_empty(gear, window):
    gear.model.select("pad")
    retype(gear.editor.name, "the old pad")
    assert window.document.station.gear_by_id["pad"].name == "the old pad"
    assert "the old pad" in items(gear)
    gear.editor.name.setText("  ")
    QTest.keyClick(gear.editor.name, Qt.Key.Key_Return)
    assert "needs a name" in gear.editor.refusal.text()


def test_notes_are_taken_over_on_leaving_them(gear, window, qtbot):
    gear.model.select("pad")
    gear.editor.notes.setFocus()
    qtbot.keyClicks(gear.editor.notes, "from the junk box")
    gear.shelf.filter.setFocus()
    assert window.document.station.gear_by_id["pad"].notes == "from the junk box"


def test_what_a_piece_gives_is_said_at_a_glance(gear):
    gear.model.select("electret-headset")
    gear.model.finish()
    grid = gear.editor._glance
    words = [grid.itemAt(k).widget().text() for k in range(grid.count())]
    assert "needs bias" in words
    assert any(w.endswith("dBu") for w in words)


def glance_words(gear):
    gear.model.finish()
    grid = gear.editor._glance
    return [grid.itemAt(k).widget().text() for k in range(grid.count())]


def test_the_glance_catches_up_with_an_edit_made_on_the_ladder(gear, window):
    gear.model.select("stage-dynamic")
    before = glance_words(gear)
    window.go_to("ladder")
    # another 20 dB of sensitivity and nothing else: every level rises, the old words are wrong
    mv = 10 * gear.model.piece.sensitivity_mv_per_pa.value
    gear.model.edit(
        "hotter", lambda s: change_gear(s, "stage-dynamic", sensitivity_mv_per_pa={"value": mv})
    )
    window.go_to("gear")
    after = glance_words(gear)
    levels = [
        float(next(w for w in words if w.endswith("dBu")).split()[0].replace("−", "-"))
        for words in (before, after)
    ]
    assert levels[1] - levels[0] == pytest.approx(20, abs=0.2)


def test_removing_says_first_what_uses_it(gear, window, qtbot):
    gear.model.select("isolator")
    gear.editor.ask_removal()
    card = gear.editor.area.widget().findChild(type(gear.editor), "card")
    texts = " ".join(
        label.text() for label in gear.editor.area.widget().findChildren(type(gear._says))
    )
    assert "stands in 1 path" in texts
    assert "HF, evening round, with transformer" in texts
    assert card is None or card is not gear.editor
    gear.editor.keep()
    assert "isolator" in window.document.station.gear_by_id
    gear.editor.ask_removal()
    gear.model.remove()
    assert "isolator" not in window.document.station.gear_by_id
    window.undo()
    assert "isolator" in window.document.station.gear_by_id


def test_a_copy_is_a_piece_of_its_own(gear, window):
    gear.model.select("stage-dynamic")
    gear.model.duplicate()
    assert gear.model.piece.name == "stage dynamic, copy"
    gear.model.set_value("coil_ohm", 200)
    assert window.document.station.gear_by_id["stage-dynamic"].coil_ohm.value == 300


# --- bench ----------------------------------------------------------------------------------------


def test_the_bench_reckons_and_stores_a_measured_figure(gear, window):
    gear.model.select("fm-mobile")
    bench = gear.bench
    assert set(bench.choices) == {"input-impedance", "wanted-level", "ceiling", "bias"}
    bench.choices["input-impedance"].click()
    for field, text in (("direct", "20 mV"), ("through", "12 mV"), ("resistor", "1k5")):
        assert not bench.store_button.isEnabled()
        bench.type_reading(field, text)
    # Z = R V2/(V1 − V2) = 1500·12/8
    assert "2.25 kΩ" in bench._result.text()
    bench.store_button.click()
    figure = window.document.station.gear_by_id["fm-mobile"].z_in_ohm
    assert figure.value == pytest.approx(2250)
    assert figure.basis == "measured"
    assert figure.measured_on is not None
    window.undo()
    assert window.document.station.gear_by_id["fm-mobile"].z_in_ohm.value == 2000


def test_impossible_readings_are_said_and_kept(gear):
    gear.model.select("fm-mobile")
    gear.bench.choose(METHOD["input-impedance"])
    for field, text in (("direct", "10m"), ("through", "12m"), ("resistor", "1k")):
        gear.bench.type_reading(field, text)
    assert "must be lower" in gear.bench._refusal.text()
    assert not gear.bench.store_button.isEnabled()
    gear.bench.type_reading("resistor", "4kk7")
    assert "4kk7" in gear.bench._refusal.text()
    assert gear.bench._entries["direct"].text() == "10m"


def test_a_measured_figure_that_contradicts_another_is_refused_by_name(gear):
    gear.model.select("hf-set")
    gear.bench.choose(METHOD["bias"])
    # 8 V open, 7 V across 1 kohm: 143 ohm, less than the input impedance that contains it
    for field, text in (("open_v", "8"), ("loaded_v", "7"), ("load", "1k")):
        gear.bench.type_reading(field, text)
    gear.bench.store()
    assert "must be below bias_ohm" in gear.bench._refusal.text()


# --- trading --------------------------------------------------------------------------------------


def test_pieces_go_out_and_come_in(gear, tmp_path, window):
    file = tmp_path / "mine.piece.json"
    gear.model.select("piezo-desk")
    assert gear.model.export_file(file)
    assert read_piece(file) == window.document.station.gear_by_id["piezo-desk"]
    assert gear.model.import_file(file)
    assert gear.model.piece.id == "piezo-desk-2"


def test_a_dropped_file_joins_the_shelf(gear, tmp_path):
    file = tmp_path / "friend.piece.json"
    gear.model.select("stage-dynamic")
    gear.model.export_file(file)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    drop = QDropEvent(
        QPointF(50, 50),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    gear.window().dropEvent(drop)
    settled()
    assert gear.model.piece.id == "stage-dynamic-2"


def test_a_file_that_is_no_piece_is_refused_in_the_notice(gear, tmp_path, window):
    file = tmp_path / "no.json"
    file.write_text(json.dumps({"format": "shopping list"}), "utf-8")
    before = window.document.station
    assert not gear.model.import_file(file)
    assert "tonleiter-piece" in window.notice.text
    assert window.document.station is before


# --- around ---------------------------------------------------------------------------------------


def test_people_are_added_changed_and_kept_while_they_speak(gear, window):
    gear.model.select(PEOPLE)
    gear.page(PEOPLE)._add()
    assert window.document.station.operators[-1].name == "somebody"
    gear.page(PEOPLE)._change("somebody", "effort", "loud")
    assert window.document.station.operators[2].effort == "loud"
    gear.page(PEOPLE)._remove("somebody")
    assert len(window.document.station.operators) == 2


def test_the_room_and_the_mains(gear, window):
    gear.model.select(ROOM)
    gear.page(ROOM)._take_mains("60")
    assert window.document.station.mains_hz == 60
    window.go_to("ladder")
    assert window.space("ladder").model.assessment.solution.compiled.mains_hz == 60


def test_the_drawer_is_typed_as_people_write(gear, window):
    gear.model.select(DRAWER)
    gear.page(DRAWER).lists["resistors"].setPlainText("4k7 100\n1k; 2R2")
    gear.page(DRAWER).take_list("resistors", OHMS)
    assert window.document.station.drawer.ohms() == [2.2, 100, 1000, 4700]
    gear.page(DRAWER).lists["capacitors"].setPlainText("1u 4kk7")
    gear.page(DRAWER).take_list("capacitors", FARADS)
    assert "4kk7" in gear.page(DRAWER).refusal.text()
    assert gear.page(DRAWER).lists["capacitors"].toPlainText() == "1u 4kk7"
    assert window.document.station.drawer.farads() == []


def test_taking_over_one_list_keeps_what_was_typed_into_the_other(gear, window):
    gear.model.select(DRAWER)
    QTest.keyClicks(gear.page(DRAWER).lists["capacitors"], "100n 4u7")
    QTest.keyClicks(gear.page(DRAWER).lists["resistors"], "100 1k")
    gear.page(DRAWER).take_list("resistors", OHMS)
    assert window.document.station.drawer.ohms() == [100, 1000]
    assert gear.page(DRAWER).lists["capacitors"].toPlainText() == "100n 4u7"
    gear.page(DRAWER).take_list("capacitors", FARADS)
    assert window.document.station.drawer.farads() == [100e-9, 4.7e-6]


def test_an_edit_elsewhere_leaves_the_other_pages_alone(gear, window):
    gear.model.select(DRAWER)
    QTest.keyClicks(gear.page(DRAWER).lists["resistors"], "100 1k")
    entry = gear.page(DRAWER).lists["resistors"]
    gear.model.edit("piece", lambda s: change_gear(s, s.gear[0].id, name="renamed"))
    assert gear.page(DRAWER).lists["resistors"] is entry
    assert entry.toPlainText() == "100 1k"


def test_pages_follow_what_they_show_wherever_it_changes(gear, window):
    names = {e.text() for e in gear.page(PEOPLE).findChildren(QLineEdit)}
    gear.model.select(PEOPLE)
    entry = next(
        e for e in gear.page(PEOPLE)._body.findChildren(QLineEdit) if e.text() == "deep voice"
    )
    retype(entry, "Ulla")
    assert "Ulla" in {e.text() for e in gear.page(PEOPLE)._body.findChildren(QLineEdit)}
    window.undo()
    assert {e.text() for e in gear.page(PEOPLE)._body.findChildren(QLineEdit)} == names


def test_the_ladder_offers_pads_from_the_drawer(gear, window):
    gear.page(DRAWER).lists["resistors"].setPlainText("56 100 3k3 4k7 10k 22k")
    gear.page(DRAWER).take_list("resistors", OHMS)
    window.go_to("ladder")
    window.space("ladder").model.select(3)
    assert window.space("ladder").inspector._drawer.text().startswith("From your drawer")


def test_what_was_entered_is_saved_and_read_again(gear, window, demo_folder):
    gear.model.start_adding(True)
    answer(gear, "an input of a radio or a computer", "the microphone socket of a radio", "no")
    guest = gear.model.piece
    assert guest.guest is True
    window.filing.save()
    again = read_station(demo_folder).station
    assert again.gear_by_id[guest.id].guest is True


def test_an_empty_shelf_says_what_to_do_first(open_window, tmp_path):
    folder = tmp_path / "bare.station"
    folder.mkdir()
    bare = {
        "format": "tonleiter-station",
        "version": 2,
        "title": "Bare",
        "operators": [{"id": "op", "name": "op"}],
    }
    (folder / "station.json").write_text(json.dumps(bare), "utf-8")
    window = open_window(folder)
    window.go_to("gear")
    assert window.space("gear").model.selected == ADD
    assert "Add what you speak into" in window.space("gear")._proves.text()
    window.go_to("match")
    assert window.space("match")._says.text() == "Nothing to match yet."


def test_a_new_station_begins_at_the_shelf_and_ends_on_the_ladder(window, tmp_path):
    """From nothing to a solved chain, by the ways a new user has."""
    folder = tmp_path / "hut-on-the-hill.station"
    assert window.filing.begin_empty()
    assert not window.document.placed
    arrived(window)
    gear = window.space("gear")
    assert window._stack.currentWidget() is gear
    answer(
        gear,
        "something I speak into",
        "no, nothing",
        "a coil and a magnet",
        "one and the screen",
        "all round",
    )
    gear.model.start_adding(False)
    answer(
        gear,
        "an input of a radio or a computer",
        "the microphone socket of a radio",
        "yes, it powers electret microphones",
    )
    window.go_to("match")
    window.space("match").model.finish()
    assert "block" in [t.what for t in window.space("match").model.pair.takes]
    window.space("match")._show_ladder()
    arrived(window)
    model = window.space("ladder").model
    assert model.assessment.stops()[0].code == "dc-through-winding"
    model.finish()
    window.space("ladder").tray.cards[0].buttons[0].click()
    assert not model.assessment.stops()
    assert window.filing.save_as(folder)
    assert window.document.station.title == "hut on the hill"
    assert read_station(folder).station == window.document.station


def test_a_new_station_overwrites_nothing(window, demo_folder, monkeypatch):
    before = (demo_folder / "station.json").read_bytes()
    assert window.filing.begin_empty()
    assert (demo_folder / "station.json").read_bytes() == before
    asked = []

    def no(*words, **_):
        asked.append(words[2])
        return QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(QMessageBox, "question", no)
    assert not window.filing.save_as(demo_folder)
    assert "lies another station" in asked[0]
    assert (demo_folder / "station.json").read_bytes() == before


def test_what_such_a_piece_is_stands_in_the_manual(window, gear):
    """Of each piece on the shelf its own kind's page; Escape, and one is back at the piece."""
    for piece in window.document.station.gear[:3]:
        gear.model.select(piece.id)
        settled()
        press(button_of(gear.editor, "what it is"))
        assert window.over.manual.shown == f"kind/{piece.kind_id}"
        assert piece.noun in window.over.manual.text.toPlainText().lower()
        QTest.keyClick(window.over.manual.text, Qt.Key.Key_Escape)
        assert window.over.manual is None
        assert gear.model.piece == piece


@pytest.mark.long
def test_a_piece_is_built_once_whatever_is_changed_about_its_page(window, look, monkeypatch):
    """Its width is known first: whether there are two columns. Nothing is solved again."""
    window.go_to("gear")
    window.space("gear").model.finish()
    window.go_to("ladder")
    built, solved_of = [], []
    build, at_a_glance = PieceEditor._build, piece_page.glance
    monkeypatch.setattr(PieceEditor, "_build", lambda e, p: built.append(p.id) or build(e, p))
    monkeypatch.setattr(
        piece_page, "glance", lambda *of: solved_of.append(of[1].id) or at_a_glance(*of)
    )
    try:
        look.set_scale(1.3)
        window.go_to("ladder")
        window.go_to("gear")
        settled()
        window.space("gear").model.finish()
        first = window.space("gear").model.selected
        assert built == [first]
        for scale in (1.5, 1.0):
            built.clear()
            look.set_scale(scale)
            settled()
            assert built == [first]
        window.space("gear").model.finish()
        assert solved_of == [], "what was solved is still so"
        # the keyboard stays in the field that it was in
        entry = window.space("gear").editor.name
        entry.setFocus()
        look.set_scale(1.15)
        settled()
        assert window.space("gear").editor.name is not entry
        assert QApplication.focusWidget().accessibleName() == "Name of the piece"
    finally:
        look.set_scale(1.0)
