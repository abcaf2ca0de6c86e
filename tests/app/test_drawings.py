"""Drawings in the window and as files."""

import re

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest

from tonleiter.app.theme.palette import LIGHT, THEMES
from tonleiter.app.widgets.drawing.files import DrawingFileError, pdf_of, svg_of, write_drawing
from tonleiter.app.widgets.drawing.painter import SheetPainter, size_px
from tonleiter.app.widgets.drawing.symbols import SYMBOLS
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.assess import assess
from tonleiter.core.report.drawings import draw_chain, draw_piece

LIBRARY = parts_library()


def picture(sheet, palette=LIGHT, unit=9.0, scale=1.0):
    width, height = size_px(sheet, unit)
    image = QImage(int(width) + 2, int(height) + 2, QImage.Format.Format_ARGB32)
    image.fill(palette.color("panel"))
    painter = QPainter(image)
    SheetPainter(painter, sheet, palette, unit, scale).paint()
    painter.end()
    return image


def inked(image, palette=LIGHT):
    ground = palette.color("panel").rgb()
    return [
        (x, y)
        for y in range(0, image.height(), 2)
        for x in range(0, image.width(), 2)
        if image.pixel(x, y) != ground
    ]


@pytest.mark.table(keep=3)
@pytest.mark.parametrize("entry", sorted(LIBRARY))
def test_every_entry_of_the_library_is_painted_inside_its_sheet(entry, look):
    sheet = draw_piece(LIBRARY[entry]).sheet
    assert {s.kind for s in sheet.symbols} <= set(SYMBOLS)
    for palette in THEMES.values():
        image = picture(sheet, palette)
        spots = inked(image, palette)
        assert len(spots) > 50
        # nothing is cut at an edge
        right, foot = image.width() - 1, image.height() - 1
        assert [at for at in spots if at[0] in (0, right) or at[1] in (0, foot)] == []


def test_symbols_keep_their_shape_at_every_text_size(look):
    """A resistor is 3 units by 1.1, whatever the unit and the text."""
    sheet = draw_piece(LIBRARY["l-pad-40db"]).sheet
    for unit in (9.0, 13.5):
        width, height = size_px(sheet, unit)
        box = sheet.box()
        assert width / box.width == pytest.approx(height / box.height)


def test_a_chain_is_one_drawing_with_a_name_for_each_part(demo):
    drawn = draw_chain(assess(demo, "hf-chat").solution)
    refs = [s.ref for s in drawn.sheet.symbols]
    assert len(refs) == len(set(refs))
    assert {"M1", "W1", "A1", "R1", "R2", "T1", "W2", "X1"} == set(refs)
    listed = {ref for part in drawn.parts for ref in part.refs}
    assert listed == set(refs)


def test_svg_and_pdf_hold_the_parts(look, tmp_path):
    drawn = draw_piece(
        LIBRARY["bipolar-stage"]
        if "bipolar-stage" in LIBRARY
        else next(g for g in LIBRARY.values() if g.kind_id == "bipolar-preamp")
    )
    svg = svg_of(drawn.sheet, drawn.parts, "preamp").decode()
    assert svg.count("<svg") == 1
    for value in ("R1", "100k", "NPN", "C1"):
        assert value in re.sub(r"<[^>]+>", " ", svg)
    pdf = pdf_of(drawn.sheet, drawn.parts, "preamp")
    assert pdf.startswith(b"%PDF-")
    file = tmp_path / "a.svg"
    write_drawing(drawn.sheet, drawn.parts, "preamp", file)
    assert file.read_bytes().startswith(b"<?xml")
    with pytest.raises(DrawingFileError, match=r"\.svg or \.pdf is wanted"):
        write_drawing(drawn.sheet, drawn.parts, "preamp", tmp_path / "a.doc")


def test_the_inspectors_drawing_is_opened_large_by_hand_and_by_key(window, qtbot, tmp_path):
    ladder = window.space("ladder")
    ladder.model.select(3)
    view = ladder.inspector._schematic
    assert [s.ref for s in view.sheet.symbols] == ["R1", "R2"]
    QTest.mouseClick(view.viewport(), Qt.MouseButton.LeftButton)
    large = ladder.inspector.large
    assert large.isVisible()
    assert [p.refs for p in large.drawn.parts] == [("R1",), ("R2",)]
    large.save(tmp_path / "pad.pdf")
    assert (tmp_path / "pad.pdf").exists()
    nowhere = tmp_path / "no" / "such" / "pad.pdf"
    large.save(nowhere)
    assert large.says.text().startswith(f"{nowhere}: ")
    assert not nowhere.exists()
    QTest.keyClick(large, Qt.Key.Key_Escape)
    assert not large.isVisible()
    qtbot.keyClick(ladder.view, Qt.Key.Key_D)
    assert ladder.inspector.large.isVisible()
    assert len(ladder.inspector.large.drawn.sheet.symbols) == 8
    ladder.inspector.large.close()


def test_the_drawing_follows_a_value(window, qtbot):
    ladder = window.space("ladder")
    ladder.model.select(3)
    before = ladder.inspector._schematic.sheet
    ladder.model.set_value_of("pad", "series_ohm", 4700)
    after = ladder.inspector._schematic.sheet
    assert before != after
    assert "4k7" in {s.value for s in after.symbols}
