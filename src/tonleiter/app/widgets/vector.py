"""The bytes of vector files, made by painting: SVG and PDF, fonts embedded."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRect, QSize
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

DOTS_PER_INCH, MARGIN_MM = 96, 12.0


def a4(across: bool = False) -> QPageLayout:
    """A page of A4 with its margins, upright or across."""
    return QPageLayout(
        QPageSize(QPageSize.PageSizeId.A4),
        QPageLayout.Orientation.Landscape if across else QPageLayout.Orientation.Portrait,
        QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM),
        QPageLayout.Unit.Millimeter,
    )


def svg_bytes(title: str, wide: int, high: int, paint: Callable[[QPainter], None]) -> bytes:
    """The text of an SVG file, so many pixels wide and high."""
    data, buffer = _buffer()
    made = QSvgGenerator()
    made.setOutputDevice(buffer)
    made.setSize(QSize(wide, high))
    made.setViewBox(QRect(0, 0, wide, high))
    made.setTitle(title)
    painter = QPainter(made)
    paint(painter)
    painter.end()
    return bytes(data.data())


def pdf_bytes(title: str, layout: QPageLayout, paint: Callable[[QPdfWriter], None]) -> bytes:
    """The bytes of a PDF file; ``paint`` begins and ends its painter itself."""
    data, buffer = _buffer()
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setResolution(DOTS_PER_INCH)
    writer.setPageLayout(layout)
    paint(writer)
    return bytes(data.data())


def _buffer() -> tuple[QByteArray, QBuffer]:
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    return data, buffer
