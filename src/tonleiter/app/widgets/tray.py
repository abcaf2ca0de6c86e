"""The findings tray: a card for each finding, gravest first, with remedies to press."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.safety.events import guarded, painting
from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import SIGN
from tonleiter.app.widgets.canvas.words import broken
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import clear, put_away, replace_content
from tonleiter.core.judge.certainty import Doubt, Doubts
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import Finding, Remedy
from tonleiter.core.report.why.model import Why

TALL_PX, LOW_PX, LEAST_PX = 184, 108, 84
REMEDY_PX = 236
MAYBE = "MAYBE"
WORDS = {"stop": "STOP", "mind": "MIND", "fine": "FINE"}


class Findings(Protocol):
    """What a tray shows and presses: a space's model."""

    changed: Any
    remedies_changed: Any
    doubts_changed: Any
    grounds_wanted: Any

    @property
    def no_remedy(self) -> str:
        """What is said where nothing is offered."""
        ...

    @property
    def doubts(self) -> Doubts | None:
        """How sure the findings are, once that is known."""
        ...

    def found(self) -> tuple[Finding, ...]:
        """The findings, gravest first."""
        ...

    def place_of(self, finding: Finding) -> str:
        """What a card's head calls the place of a finding."""
        ...

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """Remedies that were tried and work; None while they are being tried."""
        ...

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply a tried remedy."""
        ...

    def attempt(self, do: Callable[[], object]) -> bool:
        """Do something that may be refused."""
        ...

    def why_of(self, finding: Finding) -> Callable[[], Why | None]:
        """What answers why it stands."""
        ...


Ask = Callable[[Callable[[], Why | None]], object]


class Card(QFrame):
    """One finding."""

    def __init__(
        self,
        finding: Finding,
        model: Findings,
        look: Look,
        maybe: Doubt | None = None,
        ask: Ask | None = None,
    ) -> None:
        super().__init__()
        self.finding, self._model, self._look, self._ask = finding, model, look, ask
        self._word = WORDS[finding.severity] if maybe is None else MAYBE
        self.buttons: list[QPushButton] = []
        self.way: QPushButton | None = None
        self.setObjectName("card")
        self.setAccessibleName(f"{self._word}: {finding.says}")
        both = QHBoxLayout(self)
        both.setContentsMargins(18, 6, 12, 6)
        both.setSpacing(16)
        column = QVBoxLayout()
        column.setSpacing(2)
        self._place = model.place_of(finding)
        self._head, self._doubt = QLabel(), label("", "caption", wraps=True)
        head = QHBoxLayout()
        head.setSpacing(10)
        self._head.setWordWrap(True)
        head.addWidget(self._head, 1)
        self.why: QPushButton | None = None
        if ask is not None and maybe is None:
            self.why = button("Why?", "link", self._ask_why, "How this came about, step by step")
            self.why.setAccessibleDescription(finding.says)
            head.addWidget(self.why, 0, Qt.AlignmentFlag.AlignTop)
        column.addLayout(head)
        self._says = label(finding.says, "", wraps=True)
        self._says.setStyleSheet("font-weight: 600;")
        self._proof = label(finding.proof, "caption", wraps=True)
        column.addWidget(self._says)
        column.addWidget(self._proof)
        column.addWidget(self._doubt)
        if finding.caution:
            column.addWidget(label(f"⚠ {finding.caution}", "caution", wraps=True))
        column.addStretch(1)
        both.addLayout(column, 1)
        self._offers = QVBoxLayout()
        self._offers.setSpacing(1)
        wide = maybe is None and (finding.severity != "fine" or bool(finding.fixes))
        if wide:
            both.addLayout(self._offers, 1)
        self.setMinimumWidth(look.px(520 if wide else 230))
        self.setMaximumWidth(look.px(760 if wide else 330))
        color = look.palette.severity_text(finding.severity)
        size = look.px(13)
        self._head.setStyleSheet(f"color: {color}; font-weight: 700; font-size: {size}px;")
        if maybe is None:
            self.show_remedies()
            self.show_doubt()
        else:
            self._show_head("")
            # its figures are those of one draw among many
            self._proof.hide()
            share = f"in {maybe.share:.0%} of what your ranges allow"
            self._doubt.setText(f"{share}; {maybe.sentence()}")

    def _ask_why(self) -> None:
        if self._ask is not None:
            self._ask(self._model.why_of(self.finding))

    def _show_head(self, tail: str) -> None:
        sign = SIGN[self.finding.severity]
        self._head.setText(f"{sign} {self._word} · {self._place}{tail}")

    def show_doubt(self) -> None:
        """How sure the finding is over the ranges of figures, if any has a range."""
        doubts = self._model.doubts
        doubt = doubts.of.get(self.finding.key) if doubts else None
        self._show_head(f" · {doubt.word}" if doubt and doubt.word != "depends" else "")
        sure = doubt is None or doubt.word == "certain"
        self._doubt.setText("" if sure or doubt is None else _sentence(doubt))
        self._doubt.setVisible(not sure)

    def renew(self, finding: Finding) -> None:
        """Show the same finding with the figures of the newest solution."""
        self.finding = finding
        self._says.setText(finding.says)
        self._proof.setText(finding.proof)
        self.setAccessibleName(f"{self._word}: {finding.says}")
        if self.buttons:
            # what was offered was computed for the station before: it must not be pressed now
            self.show_remedies()

    def show_remedies(self) -> None:
        """Buttons for the remedies, or a word while they are being tried."""
        clear(self._offers)
        self.buttons = []
        tried = self._model.remedies_for(self.finding)
        if tried is None and self.finding.fixes:
            self._say("trying remedies…")
        elif not tried and self.finding.severity != "fine":
            self._say(self._model.no_remedy)
        for remedy in tried or ():
            self._offer(remedy)
        if meaning(self.finding.code).hum:
            self._show_way()
        self._offers.addStretch(1)

    def _say(self, text: str) -> None:
        self._offers.addWidget(label(text, "caption", wraps=True))

    def _show_way(self) -> None:
        """The picture of the grounds shows which way the current goes."""
        self.way = QPushButton("See which way it goes")
        self.way.setAccessibleName(self.way.text())
        self.way.setProperty("role", "link")
        self.way.setCursor(Qt.CursorShape.PointingHandCursor)
        self.way.clicked.connect(self._model.grounds_wanted)
        self._offers.addWidget(self.way)

    def _offer(self, remedy: Remedy) -> None:
        # a button does not wrap its text by itself
        metrics = QFontMetrics(self._look.font(14, 600))
        offer = QPushButton("\n".join(broken(remedy.title, metrics, self._look.px(REMEDY_PX))))
        offer.setAccessibleName(remedy.title)
        offer.setProperty("role", "link")
        offer.setToolTip(remedy.effect)
        offer.setAccessibleDescription(remedy.effect)
        offer.setCursor(Qt.CursorShape.PointingHandCursor)
        offer.clicked.connect(
            lambda: self._model.attempt(lambda: self._model.apply(remedy, self.finding))
        )
        self._offers.addWidget(offer)
        effect = label(remedy.effect, "caption", wraps=True)
        effect.setIndent(4)
        self._offers.addWidget(effect)
        self.buttons.append(offer)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The usual frame, and a bar in the finding's colour at its left."""
        super().paintEvent(event)
        with painting(self) as painter:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(self._look.palette.severity(self.finding.severity)))
            painter.drawRoundedRect(QRectF(0, 0, 6, self.height()), 3, 3)


class Tray(QFrame):
    """All findings, in a strip that scrolls sideways."""

    def __init__(self, model: Findings, look: Look, ask: Ask | None = None) -> None:
        super().__init__()
        self._most_px = 10_000
        self._model, self._look, self._ask = model, look, ask
        self._shown: tuple[Finding, ...] | None = None
        self.cards: list[Card] = []
        self._maybes: list[Card] = []
        self._row = QHBoxLayout()
        self.setObjectName("tray")
        self.setAccessibleName("Findings")
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._scroll)
        model.changed.connect(self.refresh)
        model.remedies_changed.connect(self._show_remedies)
        model.doubts_changed.connect(self._show_doubts)
        look.changed.connect(self._rebuild)
        self._rebuild()

    def _rebuild(self) -> None:
        self._shown = None
        self.refresh()

    def refresh(self) -> None:
        """Renew the cards; build them anew when other findings stand than before."""
        findings = self._model.found()
        if self._shown is not None and _same_cards(findings, self._shown):
            self._shown = findings
            for card, finding in zip(self.cards, findings, strict=True):
                card.renew(finding)
            self._show_doubts()
            return
        self._shown = findings
        body = QWidget()
        body.setObjectName("trayBody")
        row = self._row = QHBoxLayout(body)
        self._maybes = []
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(12)
        self.cards = [Card(f, self._model, self._look, ask=self._ask) for f in findings]
        for card in self.cards:
            row.addWidget(card, 1 if card.finding.severity == "fine" else 2)
        row.addStretch(0)
        self._set_height()
        replace_content(self._scroll, body)

    def _show_doubts(self) -> None:
        """Certainty on each card; what only some draws have, as cards of its own."""
        for card in self.cards:
            card.show_doubt()
        for card in self._maybes:
            put_away(card)
        doubts = self._model.doubts
        possible = doubts.possible if doubts else ()
        self._maybes = [Card(f, self._model, self._look, doubt) for f, doubt in possible]
        grave = sum(c.finding.severity != "fine" for c in self.cards)
        for k, card in enumerate(self._maybes):
            self._row.insertWidget(grave + k, card, 1)
        self._set_height()

    def _set_height(self) -> None:
        """Tall where there is something to decide, low where all is fine."""
        grave = any(c.finding.severity != "fine" for c in (*self.cards, *self._maybes))
        wanted = self._look.px(TALL_PX if grave else LOW_PX)
        # the ladder above needs the room more: the tray scrolls
        self.setFixedHeight(min(wanted, max(self._most_px, self._look.px(LEAST_PX))))

    def limit(self, most_px: int) -> None:
        """How tall it may be in a window of the present size."""
        if most_px != self._most_px:
            self._most_px = most_px
            self._set_height()

    def _show_remedies(self) -> None:
        for card in self.cards:
            card.show_remedies()

    def first_remedy(self) -> QPushButton | None:
        """The button of the first remedy offered, for the keyboard."""
        return next((b for card in self.cards for b in card.buttons), None)


def _sentence(doubt: Doubt) -> str:
    text = doubt.sentence()
    return text[0].upper() + text[1:]


def _same_cards(now: tuple[Finding, ...], before: tuple[Finding, ...]) -> bool:
    return [(f.key, f.severity) for f in now] == [(f.key, f.severity) for f in before]
