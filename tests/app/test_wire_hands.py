"""The Wire space under the hand: wires dragged, figures typed, sheets saved, the Ladder told."""

import json

import pypdfium2
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton

from tests.app.hands import choose, press, retype, settled
from tests.app.test_wire_space import field, settle, spot, wire, words  # noqa: F401
from tonleiter.app.spaces.wire.sheet_window import SheetWindow
from tonleiter.app.widgets.wiring.sheet import Pages, pdf_of, svg_of, write_sheet
from tonleiter.core.gear.figure import Figure
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.worksheet import worksheets

AT = "wire"


def hands(window):
    return window.document.station.chain().variant().wiring


def drag(space, start, end):
    """Press, move in steps, let go."""
    view = space.score
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    for share in (0.3, 0.7, 1.0):
        at = QPoint(
            round(start.x() + share * (end.x() - start.x())),
            round(start.y() + share * (end.y() - start.y())),
        )
        QTest.mouseMove(view, at)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end)
    settle(space)


def typed(widget, text):
    widget.setFocus()
    widget.selectAll()
    QTest.keyClicks(widget, text)
    QTest.keyClick(widget, Qt.Key.Key_Return)
    QApplication.processEvents()


@pytest.mark.long
def test_a_wire_dragged_to_another_contact_is_soldered_there_and_solved(wire, window):  # noqa: F811
    drag(wire, spot(wire, "hf-20w", "4"), spot(wire, "hf-20w", "6"))
    assert [(x.end, x.leg, x.contact) for x in hands(window).landings] == [
        ("hf-20w.microphone", "hot", "6")
    ]
    assert any(f.code == "supply-on-wire" for f in wire.model.found())
    assert "to mend first" in wire._says.text()
    window.undo()
    assert hands(window).landings == ()
    assert not any(f.code == "supply-on-wire" for f in wire.model.found())


@pytest.mark.long
def test_dragged_back_it_is_as_the_pinout_says(wire, window):  # noqa: F811
    before = window.document.station
    drag(wire, spot(wire, "hf-20w", "4"), spot(wire, "hf-20w", "8"))
    drag(wire, spot(wire, "hf-20w", "8"), spot(wire, "hf-20w", "4"))
    assert window.document.station == before


def test_let_go_beside_every_contact_nothing_happens(wire, window):  # noqa: F811
    before = window.document.station
    drag(wire, spot(wire, "hf-20w", "4"), QPoint(5, 5))
    drag(wire, spot(wire, "hf-20w", "4"), spot(wire, "desk-mixer", "tip"))
    assert window.document.station == before


@pytest.mark.long
def test_a_remedy_puts_it_back(wire, window):  # noqa: F811
    before = window.document.station
    drag(wire, spot(wire, "hf-20w", "4"), spot(wire, "hf-20w", "6"))
    wire.model.finish()
    press(
        next(
            b
            for c in wire.tray.cards
            for b in c.buttons
            if "as the pinout says" in b.text().replace("\n", " ")
        )
    )
    assert window.document.station == before


@pytest.mark.long
def test_the_ladder_says_it_too(wire, window):  # noqa: F811
    drag(wire, spot(wire, "hf-20w", "4"), spot(wire, "hf-20w", "6"))
    window.go_to("ladder")
    ladder = window.space("ladder")
    ladder.model.finish()
    assert any(c.finding.code == "supply-on-wire" for c in ladder.tray.cards)
    card = next(c for c in ladder.tray.cards if c.finding.code == "supply-on-wire")
    press(card.buttons[0])
    assert hands(window).landings == ()


@pytest.mark.long
def test_colour_length_and_contact_by_the_inspector(wire, window):  # noqa: F811
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "4"))
    choose(field(wire, "Colour of the wire"), "green")
    typed(field(wire, "Colours of the wire, typed"), "white / green")
    typed(field(wire, "Length of the wire"), "0.8 m")
    (dress,) = hands(window).dresses
    assert (dress.colour, dress.length_m.value) == ("white/green", 0.8)
    assert any("white/green" in w for w in words(wire.side))
    choose(field(wire, "hot at the 20 W HF set"), "")
    assert hands(window).landings[0].contact is None
    assert any(f.code == "wire-in-air" for f in wire.model.found())


def test_a_colour_that_is_none_is_one_line_and_stays(wire, window):  # noqa: F811
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "4"))
    typed(field(wire, "Colours of the wire, typed"), "bluish")
    assert hands(window).dresses == ()
    assert "is no colour's word" in window.notice.text


def test_volts_of_a_contact_are_typed(wire, window):  # noqa: F811
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "6"))
    typed(field(wire, "Open volts of contact 6"), "5.2")
    typed(field(wire, "Through of contact 6"), "1k")
    six = next(
        c
        for c in window.document.station.device_by_id["hf-20w"].connectors[0].contacts
        if c.label == "6"
    )
    assert (six.open_v.value, six.through_ohm.value) == (5.2, 1000)
    assert any("5.2 V that nothing uses" in f.says for f in wire.model.found())
    typed(field(wire, "Open volts of contact 6"), "loud")
    assert field(wire, "Open volts of contact 6").text() == "loud"


def six_of(window):
    connector = window.document.station.device_by_id["hf-20w"].connectors[0]
    return connector, next(c for c in connector.contacts if c.label == "6")


def test_two_figures_typed_before_the_build_followed_are_both_there(wire, window):  # noqa: F811
    """The panel is of the build before, until a worker has solved the first of them."""
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "6"))
    volts, through = (field(wire, f"{t} of contact 6") for t in ("Open volts", "Through"))
    for entry, text in ((volts, "5.2"), (through, "1k")):
        retype(entry, text)
    _, six = six_of(window)
    assert (six.open_v.value, six.through_ohm.value) == (5.2, 1000)


def test_nor_does_another_choice_take_one_back(wire, window):  # noqa: F811
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "6"))
    end, _ = wire.model.chosen()
    wire.model.set_contact(end, "6", open_v=Figure(value=5.2))
    wire.model.set_contact(end, "6", role="free")
    wire.model.set_connector(end, basis="measured")
    wire.model.reshell(end, "din-13")
    connector, six = six_of(window)
    assert (six.open_v.value, six.role) == (5.2, "free")
    assert (connector.basis, connector.shell) == ("measured", "din-13")


def test_joining_contacts_and_parting_them(wire, window):  # noqa: F811
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "6"))
    choose(field(wire, "Contact 6 is joined to"), "2")
    assert any(f.code == "supply-on-wire" for f in wire.model.found())
    choose(field(wire, "Contact 6 is joined to"), "")
    assert hands(window).bridges == ()


@pytest.mark.long
def test_the_header_couples_and_transmits(wire, window):  # noqa: F811
    choose(wire.school, "straight")
    kinds = [
        window.document.station.gear_by_id[s.gear].kind_id
        for s in window.document.station.chain().variant().stages
    ]
    assert "transformer" not in kinds
    assert any(f.code == "earth-loop" for f in wire.model.found())
    choose(wire.transmit, "toggle")
    assert hands(window).transmit == "toggle"
    assert any(f.code == "switch-latches" for f in wire.model.found())
    choose(wire.transmit, "vox")
    assert not any(c.key.startswith("switch:") for c in wire.model.build.conductors)


def test_another_school_is_shown_as_a_ghost(wire, window):  # noqa: F811
    wire.model.finish()
    settled()
    press(
        next(
            b
            for b in wire.side.findChildren(type(wire.face_buttons["left", "front"]))
            if "show it as a ghost" in b.accessibleName()
        )
    )
    chain = window.document.station.chain()
    assert chain.ghost not in (None, "as-wired")
    assert chain.shown == "with-transformer"


def test_arrows_go_from_contact_to_contact_and_escape_puts_the_light_out(wire, qtbot):  # noqa: F811
    settle(wire)
    wire.score.setFocus()
    qtbot.keyClick(wire.score, Qt.Key.Key_Right)
    first = wire.model.contact
    assert first is not None
    assert field(wire, f"What contact {first[1]} carries").currentData()
    qtbot.keyClick(wire.score, Qt.Key.Key_Right)
    assert wire.model.contact not in (None, first)
    qtbot.keyClick(wire.score, Qt.Key.Key_Left)
    assert wire.model.contact == first
    qtbot.keyClick(wire.score, Qt.Key.Key_Escape)
    assert wire.model.contact is None


@pytest.mark.long
def test_a_pinout_goes_out_and_comes_in(wire, window, tmp_path, monkeypatch):  # noqa: F811
    file = tmp_path / "mic.pinout.json"
    QTest.mouseClick(wire.score, Qt.MouseButton.LeftButton, pos=spot(wire, "hf-20w", "6"))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(file), ""))
    press(field(wire, "Export the pinout"))
    data = json.loads(file.read_text())
    data["pinout"]["contacts"][5]["role"] = "free"
    file.write_text(json.dumps(data))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(file), ""))
    press(field(wire, "Import the pinout"))
    roles = [c.role for c in window.document.station.device_by_id["hf-20w"].connectors[0].contacts]
    assert roles[5] == "free"
    file.write_text("{}")
    press(field(wire, "Import the pinout"))
    assert "this is no pinout" in window.notice.text


# --- the sheet -----------------------------------------------------------------------------------


def pages_of(demo, chain=None):
    found = verdict_of(demo, chain)
    return Pages(found, worksheets(found, "2026-03-14"))


def test_s_opens_the_sheet_and_it_is_saved(wire, qtbot, tmp_path):  # noqa: F811
    qtbot.keyClick(wire.score, Qt.Key.Key_S)
    window = wire.sheet
    qtbot.addWidget(window)
    file = tmp_path / "sheet.pdf"
    window.save(file)
    assert file.read_bytes().startswith(b"%PDF")
    assert "Saved as" in window.says.text()
    window.save(tmp_path / "no" / "such" / "sheet.pdf")
    assert "cannot be saved" in window.says.text()
    window.save(tmp_path / "sheet.png")
    assert "ends in .pdf or .svg" in window.says.text()


def letter_pt(text, k):
    """The size of a letter in points: its line is a fifth taller than that."""
    left, bottom, right, top = text.get_charbox(k, loose=True)
    return (top - bottom) / 1.2 if right > left else 99.0  # what stands between words is none


@pytest.mark.parametrize("chain", ["hf-chat", "fm-headset", "am-driver", "hf-weak-data"])
def test_a_pdf_has_its_pages_words_and_margins(demo, look, chain):
    """Rendered by another program: nothing outside the page, no letter under 7 points."""
    pages = pages_of(demo, chain)
    pdf = pypdfium2.PdfDocument(pdf_of(pages, "sheet"))
    assert len(pdf) == len(pages.pages)
    for page in pdf:
        wide, high = page.get_size()
        assert (round(wide), round(high)) == (595, 842)
        text = page.get_textpage()
        assert text.count_chars() > 100
        for k in range(text.count_chars()):
            left, bottom, right, top = text.get_charbox(k)
            assert left >= 25
            assert right <= wide - 25
            assert bottom >= 25
            assert top <= high - 25
        assert min(letter_pt(text, k) for k in range(text.count_chars())) >= 7
    said = "".join(p.get_textpage().get_text_range() for p in pdf)
    assert "In this order" in said
    assert "Fumes" in said
    assert "Parts" in said


@pytest.mark.parametrize("chain", ["am-museum-day"])
def test_a_lead_from_plug_to_plug_is_one_page_beside_its_parts_list(demo, look, chain):
    pdf = pypdfium2.PdfDocument(pdf_of(pages_of(demo, chain), "sheet"))
    sheet, parts = (page.get_textpage().get_text_range() for page in pdf)
    assert "In this order" in sheet
    assert "must be" in parts


def test_an_svg_file_for_each_page(demo, look, tmp_path):
    pages = pages_of(demo, "hf-chat")
    write_sheet(pages, "sheet", tmp_path / "sheet.svg")
    names = sorted(p.name for p in tmp_path.glob("*.svg"))
    assert len(names) == len(pages.pages) > 1
    assert svg_of(pages, "sheet", 0).lstrip().startswith(b"<?xml")
    with pytest.raises(RefusedError):
        write_sheet(pages, "sheet", tmp_path / "sheet.doc")


def test_a_print_dialog_that_was_left_is_gone_and_not_only_hidden(demo, look, qtbot):
    """Hidden it stayed a child with a printer that was gone: a key that reached it was a crash."""
    printing = pytest.importorskip("PySide6.QtPrintSupport")
    found = verdict_of(demo, "hf-chat")
    window = SheetWindow(found, demo, look)
    qtbot.addWidget(window)
    window.show()
    seen = []

    def leave():
        modal = QApplication.activeModalWidget()
        if modal is not None:
            seen.append(type(modal).__name__)
            modal.close()

    closer = QTimer()
    closer.timeout.connect(leave)
    closer.start(20)
    (print_it,) = (b for b in window.findChildren(QPushButton) if b.text() == "Print…")
    press(print_it)
    closer.stop()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert seen
    assert not window.findChildren(printing.QPrintDialog)
