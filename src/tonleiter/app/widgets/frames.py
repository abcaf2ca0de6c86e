"""How a space is put together: a sentence of choices on top, what it is about below."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QFrame, QHBoxLayout, QLayout, QVBoxLayout, QWidget

from tonleiter.app.widgets.labels import label


def sentence(parts: Iterable[tuple[str, QWidget | None]]) -> QFrame:
    """A header that reads as a sentence: words, each followed by what is chosen there."""
    header = QFrame()
    header.setObjectName("header")
    row = QHBoxLayout(header)
    row.setContentsMargins(20, 8, 16, 8)
    for words, choice in parts:
        row.addWidget(label(words, "plain"))
        if choice is not None:
            row.addWidget(choice)
    row.addStretch(1)
    return header


def share_px(whole_px: int, share: float, least_px: int, most_px: int) -> int:
    """How wide a side is that takes a share: never under the least, never over the most."""
    return min(max(round(share * whole_px), least_px), most_px)


def card(margins: tuple[int, int, int, int], spacing: int) -> tuple[QFrame, QVBoxLayout]:
    """A framed part of a page, and the column in it."""
    frame = QFrame()
    frame.setObjectName("card")
    column = QVBoxLayout(frame)
    column.setContentsMargins(*margins)
    column.setSpacing(spacing)
    return frame, column


def words_before(header: QFrame, *choices: QWidget) -> list[QWidget]:
    """The choices with the words that lead to each: they are shown and put away together."""
    row = header.layout()
    found: list[QWidget] = []
    before: QWidget | None = None
    for k in range(row.count() if row is not None else 0):
        item = row.itemAt(k)  # type: ignore[union-attr]
        widget = item.widget() if item is not None else None
        if widget in choices:
            found += [w for w in (before, widget) if w is not None]
        before = widget
    return found


def stack(owner: QWidget, header: QWidget, middle: QLayout, foot: QWidget | None = None) -> None:
    """Fill a space without margins: header, what takes the room, and a foot if there is one."""
    whole = QVBoxLayout(owner)
    whole.setContentsMargins(0, 0, 0, 0)
    whole.setSpacing(0)
    whole.addWidget(header)
    whole.addLayout(middle, 1)
    if foot is not None:
        whole.addWidget(foot)
