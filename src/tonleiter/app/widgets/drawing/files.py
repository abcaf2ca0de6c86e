"""Drawings as files: SVG and PDF, always in the light colours, and on a printer's page."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtGui import QPagedPaintDevice, QPageLayout, QPainter

from tonleiter.app.theme.fonts import font
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.drawing.painter import SheetPainter, size_px
from tonleiter.app.widgets.vector import DOTS_PER_INCH, a4, pdf_bytes, svg_bytes
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.gear.parts import Part
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.disk import write_file

UNIT_PX = 10.0
HEAD_PX = 46


class DrawingFileError(RefusedError):
    """A drawing could not be written; one line says why."""


def write_drawing(sheet: Sheet, parts: tuple[Part, ...], title: str, file: Path) -> None:
    """Write a drawing with its parts list. The ending says how: .svg or .pdf.

    Raises DrawingFileError for other endings, FileError where it cannot be written.
    """
    ending = file.suffix.lower()
    if ending not in (".svg", ".pdf"):
        raise DrawingFileError(f"{file}: a name that ends in .svg or .pdf is wanted")
    content = svg_of(sheet, parts, title) if ending == ".svg" else pdf_of(sheet, parts, title)
    write_file(file, content)


def svg_of(sheet: Sheet, parts: tuple[Part, ...], title: str) -> bytes:
    """The text of an SVG file."""
    wide, high = (round(size) for size in _whole_size(sheet, parts))

    def paint(painter: QPainter) -> None:
        painter.fillRect(0, 0, wide, high, LIGHT.color("field"))
        _page(painter, sheet, parts, title)

    return svg_bytes(title, wide, high, paint)


def pdf_of(sheet: Sheet, parts: tuple[Part, ...], title: str) -> bytes:
    """A PDF file: one A4 page, upright or across, whatever fits better."""
    return pdf_bytes(title, page_of(sheet, parts), partial(print_drawing, sheet, parts, title))


def page_of(sheet: Sheet, parts: tuple[Part, ...]) -> QPageLayout:
    """The page that a drawing lies on."""
    width, height = _whole_size(sheet, parts)
    return a4(across=width > height)


def print_drawing(
    sheet: Sheet, parts: tuple[Part, ...], title: str, device: QPagedPaintDevice
) -> None:
    """On one page, never larger than on the screen."""
    width, height = _whole_size(sheet, parts)
    painter = QPainter(device)  # type: ignore[arg-type]
    paper = painter.device()
    most = paper.logicalDpiX() / DOTS_PER_INCH
    scale = min(paper.width() / width, paper.height() / height, most)
    painter.scale(scale, scale)
    _page(painter, sheet, parts, title)
    painter.end()


def _whole_size(sheet: Sheet, parts: tuple[Part, ...]) -> tuple[float, float]:
    width, height = size_px(sheet, UNIT_PX)
    return max(width, 480.0), HEAD_PX + height + 34 + 18 * len(parts)


def _page(painter: QPainter, sheet: Sheet, parts: tuple[Part, ...], title: str) -> None:
    """Title, drawing, parts."""
    painter.setPen(LIGHT.color("ink"))
    painter.setFont(font(17, 700))
    painter.drawText(10, 28, title)
    painter.translate(0, HEAD_PX)
    SheetPainter(painter, sheet, LIGHT, UNIT_PX, 1.0).paint()
    _, height = size_px(sheet, UNIT_PX)
    y = round(height) + 26
    painter.setPen(LIGHT.color("ink"))
    painter.setFont(font(13, 400))
    for part in parts:
        painter.drawText(10, y, part.words())
        y += 18
