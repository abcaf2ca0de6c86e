"""A settings card on paper: the size of a playing card lying down, to stick beside the radio."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QMarginsF, QRectF, QSizeF, Qt
from PySide6.QtGui import QFont, QPagedPaintDevice, QPageLayout, QPageSize, QPainter

from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.vector import pdf_bytes
from tonleiter.core.guide.cards import about, settings_of
from tonleiter.core.safety.cautions import caution
from tonleiter.core.station.card import SettingsCard

WIDE_MM, HIGH_MM, EDGE_MM = 105.0, 74.0, 5.0
# a page of A6 lying down is as high as that is wide, and larger by the root of two
A6_WIDE_MM, A6_HIGH_MM = 148.0, 105.0
# at 96 dots an inch
WIDE, HIGH = (WIDE_MM - 2 * EDGE_MM) / 25.4 * 96, (HIGH_MM - 2 * EDGE_MM) / 25.4 * 96


def card_page(a6: bool = False) -> QPageLayout:
    """A page of a card's own size, or one of A6 lying down."""
    wide, high = (A6_WIDE_MM, A6_HIGH_MM) if a6 else (WIDE_MM, HIGH_MM)
    scale = min(wide / WIDE_MM, high / HIGH_MM)
    edge = scale * EDGE_MM
    return QPageLayout(
        QPageSize(QSizeF(wide, high), QPageSize.Unit.Millimeter),
        QPageLayout.Orientation.Portrait,
        QMarginsF(edge, edge, edge, edge),
        QPageLayout.Unit.Millimeter,
    )


def print_card(card: SettingsCard, look: Look, device: QPagedPaintDevice) -> None:
    """One card over the whole of a page that ``card_page`` made."""
    painter = QPainter(device)  # type: ignore[arg-type]
    scale = min(painter.device().width() / WIDE, painter.device().height() / HIGH)
    painter.scale(scale, scale)
    paint_card(painter, card, look)
    painter.end()


def card_pdf(card: SettingsCard, look: Look, a6: bool = False) -> bytes:
    """The bytes of a PDF file with one card, on a page of its size or larger on one of A6."""
    return pdf_bytes(card.name, card_page(a6), partial(print_card, card, look))


def paint_card(painter: QPainter, card: SettingsCard, look: Look) -> None:
    """The card in a box of WIDE by HIGH, in ink on white whatever the theme."""
    ink, soft, aim = (LIGHT.color(n) for n in ("ink", "soft", "aim"))
    painter.setPen(ink)
    painter.setFont(_font(look, 13, 700))
    painter.drawText(QRectF(0, 0, WIDE, 18), _LEFT, _fitted(painter, card.name, WIDE))
    painter.setFont(_font(look, 9.5))
    painter.setPen(soft)
    made_with = dict(about(card))
    whom = ", ".join(t for t in (card.voice, made_with.get("distance", "")) if t)
    parts = (made_with.get("purpose", ""), whom, card.variant, card.day)
    lines = (f"{card.microphone} on {card.radio}", "; ".join(p for p in parts if p))
    for k, line in enumerate(lines):
        painter.drawText(QRectF(0, 19 + 13 * k, WIDE, 13), _LEFT, _fitted(painter, line, WIDE))
    painter.setPen(aim)
    painter.drawLine(0, 49, round(WIDE), 49)
    rows = settings_of(card)
    half = (len(rows) + 1) // 2
    step = min(15.0, (HIGH - 56 - 14) / max(half, 1))
    gap = 14.0
    column = (WIDE - gap) / 2
    for k, (name, value) in enumerate(rows):
        x = 0.0 if k < half else column + gap
        y = 54 + step * (k % half)
        painter.setFont(_font(look, 9.5))
        painter.setPen(soft)
        painter.drawText(
            QRectF(x, y, 0.6 * column, step), _LEFT, _fitted(painter, name, 0.6 * column)
        )
        painter.setFont(_font(look, 10, 700))
        painter.setPen(ink)
        painter.drawText(QRectF(x, y, column, step), _RIGHT, _fitted(painter, value, 0.62 * column))
    painter.setFont(_font(look, 9))
    painter.setPen(soft)
    said = f"{caution('licence')} Leave it alone once it is right."
    painter.drawText(QRectF(0, HIGH - 13, WIDE, 13), _LEFT, said)


def _font(look: Look, px: float, weight: int = 400) -> QFont:
    font = look.font(12, weight)
    font.setPixelSize(round(px))
    return font


def _fitted(painter: QPainter, text: str, wide: float) -> str:
    return painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide))


_LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
_RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
