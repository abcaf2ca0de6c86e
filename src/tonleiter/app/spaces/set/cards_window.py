"""The settings cards that are kept: looked at, compared, put back, printed, exported."""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.spaces.set.model import SetModel
from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import replace_content
from tonleiter.app.widgets.printing import ask_print
from tonleiter.app.widgets.settings_card import (
    HIGH,
    WIDE,
    card_page,
    card_pdf,
    paint_card,
    print_card,
)
from tonleiter.core.guide.cards import cards_csv, cards_json, differences
from tonleiter.core.station.card import SettingsCard
from tonleiter.core.station.disk import write_file

EDGE, SCALE = 18, 1.25


class _Paper(QWidget):
    """A card as it is printed."""

    def __init__(self, card: SettingsCard, look: Look) -> None:
        super().__init__()
        self._card, self._look = card, look
        self.setFixedSize(round(SCALE * WIDE + 2 * EDGE), round(SCALE * HIGH + 2 * EDGE))
        self.setAccessibleName(f"Card: {card.name}")
        said = ", ".join(f"{k} {v:g}" for k, v in card.knobs.items())
        self.setAccessibleDescription(said)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """White paper."""
        with painting(self) as painter:
            painter.setRenderHint(painter.RenderHint.Antialiasing)
            painter.setPen(LIGHT.color("line"))
            painter.setBrush(LIGHT.color("field"))
            painter.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 8, 8)
            painter.translate(EDGE, EDGE)
            painter.scale(SCALE, SCALE)
            paint_card(painter, self._card, self._look)


class CardsWindow(QDialog):
    """One card at a time, and how it differs from another."""

    def __init__(self, model: SetModel, look: Look, parent: QWidget) -> None:
        super().__init__(parent)
        self.model, self._look = model, look
        self.setWindowTitle("Settings cards")
        self.setObjectName("card")
        self.cards, self.others = Choice(look, "Card", 320), Choice(look, "Compare with", 320)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        for box in (self.cards, self.others):
            box.setMinimumWidth(look.px(170))
        top = QHBoxLayout()
        top.addWidget(label("Card", "caption"))
        top.addWidget(self.cards)
        top.addWidget(label("against", "caption"))
        top.addWidget(self.others)
        top.addStretch(1)
        column = QVBoxLayout(self)
        column.addLayout(top)
        column.addWidget(self._area, 1)
        foot = QHBoxLayout()
        self.back = button("Turn the knobs to this card", "primary", self._put_back)
        foot.addWidget(self.back)
        for words, do in (
            ("Print it…", self.ask_print),
            ("Save as PDF…", self.ask_pdf),
            ("All as JSON…", self.ask_json),
            ("All as CSV…", self.ask_csv),
            ("Throw it away", self._drop),
        ):
            foot.addWidget(button(words, "plain", do))
        column.addLayout(foot)
        self.cards.chosen.connect(lambda _: self.show_cards())
        self.others.chosen.connect(lambda _: self.show_cards())
        self.resize(look.px(620), look.px(640))
        self.show_cards()

    def card(self) -> SettingsCard | None:
        """The one that is looked at."""
        wanted = self.cards.currentData()
        kept = self.model.records.cards
        return next((c for c in kept if c.id == wanted), kept[-1] if kept else None)

    def show_cards(self) -> None:
        """The chosen card and what differs."""
        kept = self.model.records.cards
        card = self.card()
        items = [(c.name, c.id) for c in kept]
        self.cards.show_items(items, card.id if card else "")
        other_id = self.others.currentData() or ""
        self.others.show_items([("nothing", ""), *items], other_id)
        body = QWidget()
        column = QVBoxLayout(body)
        self.back.setEnabled(card is not None)
        if card is None:
            column.addWidget(label("No card is kept yet: press “Keep as a card”.", "sub"))
        else:
            column.addWidget(_Paper(card, self._look), 0, Qt.AlignmentFlag.AlignHCenter)
            if said := self.model.state_of(card):
                column.addWidget(label(f"⚠ {said}", "caution", wraps=True))
            other = next((c for c in kept if c.id == other_id), None)
            if other is not None and other is not card:
                self._compare(column, card, other)
        column.addStretch(1)
        replace_content(self._area, body)

    def _compare(self, column: QVBoxLayout, card: SettingsCard, other: SettingsCard) -> None:
        grid = QGridLayout()
        found = differences(card, other)
        if not found:
            column.addWidget(label("Both say the same.", "sub"))
        for k, (name, one, two) in enumerate(found):
            for n, (text, role) in enumerate(((name, "caption"), (one, "figure"), (two, "figure"))):
                grid.addWidget(label(text, role), k, n)
        column.addLayout(grid)

    def _put_back(self) -> None:
        card = self.card()
        if card is not None:
            self.model.attempt(lambda: self.model.put_back(card))

    def _drop(self) -> None:
        card = self.card()
        if card is not None and self.model.attempt(partial(self.model.drop_card, card)):
            self.show_cards()

    def ask_pdf(self) -> None:
        """Ask where the card goes."""
        card = self.card()
        if card is not None:
            self._save(f"{card.id}.pdf", "PDF (*.pdf)", partial(card_pdf, card, self._look))

    def ask_print(self) -> None:
        """Show it as it will lie on the paper; from there it is printed."""
        card = self.card()
        if card is not None:
            paint = partial(print_card, card, self._look)
            self.model.attempt(lambda: ask_print(card.name, card_page(), paint, self))

    def ask_json(self) -> None:
        """Ask where all cards go."""
        text = json.dumps(cards_json(self.model.records.cards), indent=1, ensure_ascii=False)
        self._save("cards.json", "JSON (*.json)", lambda: f"{text}\n".encode())

    def ask_csv(self) -> None:
        """Ask where all cards go."""
        self._save("cards.csv", "CSV (*.csv)", lambda: cards_csv(self.model.records.cards).encode())

    def _save(self, usual: str, kinds: str, made: Callable[[], bytes]) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save", usual, kinds)
        if name:
            self.model.attempt(lambda: write_file(Path(name), made()))
