"""Geometry of drawings and sheets: no words on words or on a line, nothing over a page's edge."""

from itertools import combinations

import pytest
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QImage, QPainter

from tests.conftest import gear
from tests.core.wiring.benches import lead, radio, station
from tests.core.wiring.test_sheets import BUILDS, radio_with_both_ways
from tests.core.wiring.walk import inputs, pair, sources
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.drawing.painter import SheetPainter
from tonleiter.app.widgets.wiring.sheet import PAGE_HIGH, PAGE_WIDE, Pages
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.library import parts_library
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.drawings import draw_piece
from tonleiter.core.report.worksheet import worksheets

# a unit of the drawing at its least, as the sheet and the narrowest window have it
UNIT_PX = 6.9
EDGE = 12


def drawn_pieces():
    """Everything that has a plan: library and bare kinds; a user's own cards have none."""
    pieces = dict(parts_library())
    for kind, cls in KINDS.items():
        if kind != "own-circuit":
            pieces[f"bare {kind}"] = cls(id="piece", name=kind)
    return {n: g for n, g in pieces.items() if g.kind_id != "own-circuit"}


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.long
def test_no_words_stand_on_words_or_on_a_line(look, scale):
    unit, wrong = UNIT_PX * scale, []
    for name, piece in drawn_pieces().items():
        sheet = draw_piece(piece).sheet
        image = QImage(1800, 1000, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        made = SheetPainter(painter, sheet, LIGHT, unit, scale)
        made.paint()
        painter.end()
        wires = [
            QRectF(QPointF(w.x0, w.y0) * unit, QPointF(w.x1, w.y1) * unit)
            .normalized()
            .adjusted(-0.5, -0.5, 0.5, 0.5)
            for w in sheet.wires
        ]
        wrong += [
            f"{name}: {a} on {b}"
            for (a, one), (b, other) in combinations(made.said, 2)
            if one.adjusted(1, 1, -1, -1).intersects(other)
        ]
        wrong += [
            f"{name}: {words} on a line"
            for words, area in made.said
            if any(area.adjusted(1, 1, -1, -1).intersects(w) for w in wires)
        ]
    assert wrong == []


def painted(pages, number):
    """A page with a rim around it that nothing may reach."""
    wide, high = round(PAGE_WIDE) + 2 * EDGE, round(PAGE_HIGH) + 2 * EDGE
    image = QImage(wide, high, QImage.Format.Format_Grayscale8)
    image.fill(255)
    painter = QPainter(image)
    painter.translate(EDGE, EDGE)
    pages.paint(painter, number)
    painter.end()
    return image


def over_the_edge(image):
    """Whether anything is painted in the rim, a pixel of smoothing left aside."""
    wide, high, rim = image.width(), image.height(), EDGE - 2
    sides = [
        image.copy(0, 0, wide, rim),
        image.copy(0, high - rim, wide, rim),
        image.copy(0, 0, rim, high),
        image.copy(wide - rim, 0, rim, high),
    ]
    white = QImage(1, 1, QImage.Format.Format_Grayscale8)
    white.fill(255)
    return any(side != white.scaled(side.size()) for side in sides)


def long_chain():
    """Four pieces with an operational amplifier among them, on one page."""
    return station(
        gear("electret-2-wire", "mic"),
        lead(),
        gear("bias-feed", "feed", supply_v=9),
        gear("opamp-preamp", "preamp"),
        gear("l-pad", "pad"),
        gear("transformer", "coil"),
        lead("other"),
        radio(),
    )


@pytest.mark.table(keep=4)
@pytest.mark.parametrize("name", ["four pieces and an op-amp", *BUILDS])
def test_nothing_leaves_its_page(look, name):
    found = verdict_of(BUILDS[name][0] if name in BUILDS else long_chain())
    pages = Pages(found, worksheets(found, "2026-03-14"))
    assert [n for n in range(len(pages.pages)) if over_the_edge(painted(pages, n))] == []


@pytest.mark.long
def test_the_sheets_of_the_library_fit_their_pages(look):
    wrong = []
    for source in sources():
        found = verdict_of(pair(source, inputs()[0]))
        pages = Pages(found, worksheets(found, "2026-03-14"))
        wrong += [
            f"{source.id}, page {n}"
            for n in range(len(pages.pages))
            if over_the_edge(painted(pages, n))
        ]
    assert wrong == []


def test_what_meets_in_a_plug_stays_on_its_page(look):
    found = verdict_of(radio_with_both_ways())
    pages = Pages(found, worksheets(found, "2026-03-14"))
    assert [n for n in range(len(pages.pages)) if over_the_edge(painted(pages, n))] == []
