"""Drawings as files: SVG and PDF, always in the light colours, and on a printer's page."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRect, QSize
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from tonleiter.app.theme.fonts import font
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.drawing.painter import SheetPainter, size_px
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.gear.parts import Part
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.disk import write_file

UNIT_PX, MARGIN_MM = 10.0, 12.0
DOTS_PER_INCH = 96
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
    width, height = _whole_size(sheet, parts)
    data, buffer = _buffer()
    made = QSvgGenerator()
    made.setOutputDevice(buffer)
    made.setSize(QSize(round(width), round(height)))
    made.setViewBox(QRect(0, 0, round(width), round(height)))
    made.setTitle(title)
    painter = QPainter(made)
    painter.fillRect(0, 0, round(width), round(height), LIGHT.color("field"))
    _page(painter, sheet, parts, title)
    painter.end()
    return bytes(data.data())


def pdf_of(sheet: Sheet, parts: tuple[Part, ...], title: str) -> bytes:
    """A PDF file: one A4 page, upright or across, whatever fits better."""
    width, height = _whole_size(sheet, parts)
    data, buffer = _buffer()
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setResolution(DOTS_PER_INCH)
    across = width > height
    layout = QPageLayout(
        QPageSize(QPageSize.PageSizeId.A4),
        QPageLayout.Orientation.Landscape if across else QPageLayout.Orientation.Portrait,
        QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM),
        QPageLayout.Unit.Millimeter,
    )
    writer.setPageLayout(layout)
    painter = QPainter(writer)
    shrink = min(writer.width() / width, writer.height() / height, 1.0)
    painter.scale(shrink, shrink)
    _page(painter, sheet, parts, title)
    painter.end()
    return bytes(data.data())


def _buffer() -> tuple[QByteArray, QBuffer]:
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    return data, buffer


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
