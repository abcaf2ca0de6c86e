"""The findings tray: a card for each finding, gravest first, with remedies to press."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import SIGN
from tonleiter.core.chain.findings.model import Finding, Remedy

TALL_PX, LOW_PX = 184, 108
REMEDY_PX = 236
WORDS = {"stop": "STOP", "mind": "MIND", "fine": "FINE"}


class Card(QFrame):
    """One finding."""

    def __init__(self, finding: Finding, model: LadderModel, look: Look) -> None:
        super().__init__()
        self.finding, self._model, self._look = finding, model, look
        self.buttons: list[QPushButton] = []
        self.setObjectName("card")
        self.setAccessibleName(f"{WORDS[finding.severity]}: {finding.says}")
        both = QHBoxLayout(self)
        both.setContentsMargins(18, 6, 12, 6)
        both.setSpacing(16)
        column = QVBoxLayout()
        column.setSpacing(2)
        column.addWidget(self._head())
        self._says, self._proof = QLabel(finding.says), QLabel(finding.proof)
        self._says.setWordWrap(True)
        self._says.setStyleSheet("font-weight: 600;")
        self._proof.setWordWrap(True)
        self._proof.setProperty("role", "caption")
        column.addWidget(self._says)
        column.addWidget(self._proof)
        if finding.caution:
            caution = QLabel(f"⚠ {finding.caution}")
            caution.setWordWrap(True)
            caution.setProperty("role", "caution")
            column.addWidget(caution)
        column.addStretch(1)
        both.addLayout(column, 1)
        self._offers = QVBoxLayout()
        self._offers.setSpacing(1)
        wide = finding.severity != "fine"
        if wide:
            both.addLayout(self._offers, 1)
        self.setMinimumWidth(look.px(520 if wide else 230))
        self.setMaximumWidth(look.px(760 if wide else 330))
        self.show_remedies()

    def _head(self) -> QLabel:
        finding, p = self.finding, self._look.palette
        place = next(
            (r.name for r in (self._model.assessment.rows if self._model.assessment else ())
             if r.id == finding.stage), finding.stage,
        )  # fmt: skip
        head = QLabel(f"{SIGN[finding.severity]} {WORDS[finding.severity]} · {place}")
        color = p.severity_text(finding.severity)
        head.setStyleSheet(f"color: {color}; font-weight: 700; font-size: {self._look.px(13)}px;")
        return head

    def renew(self, finding: Finding) -> None:
        """Show the same finding with the figures of the newest solution."""
        self.finding = finding
        self._says.setText(finding.says)
        self._proof.setText(finding.proof)
        self.setAccessibleName(f"{WORDS[finding.severity]}: {finding.says}")
        if self.buttons:
            # what was offered was computed for the station before: it must not be pressed now
            self.show_remedies()

    def show_remedies(self) -> None:
        """Buttons for the remedies, or a word while they are being tried."""
        while (item := self._offers.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.buttons = []
        tried = self._model.remedies_for(self.finding)
        if tried is None and self.finding.fixes:
            self._say("trying remedies…")
        elif not tried and self.finding.severity != "fine":
            self._say("No simple edit mends this; look at the figures of the stage.")
        for remedy in tried or ():
            self._offer(remedy)
        self._offers.addStretch(1)

    def _say(self, text: str) -> None:
        label = QLabel(text)
        label.setProperty("role", "caption")
        label.setWordWrap(True)
        self._offers.addWidget(label)

    def _offer(self, remedy: Remedy) -> None:
        # a button does not wrap its text by itself
        metrics = QFontMetrics(self._look.font(14, 600))
        button = QPushButton(wrapped(remedy.title, metrics, self._look.px(REMEDY_PX)))
        button.setAccessibleName(remedy.title)
        button.setProperty("role", "link")
        button.setToolTip(remedy.effect)
        button.setAccessibleDescription(remedy.effect)
        button.setCursor(Qt.CursorShape.PointingHandCursor)
        button.clicked.connect(lambda: self._model.apply(remedy, self.finding))
        self._offers.addWidget(button)
        effect = QLabel(remedy.effect)
        effect.setProperty("role", "caption")
        effect.setIndent(4)
        effect.setWordWrap(True)
        self._offers.addWidget(effect)
        self.buttons.append(button)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The usual frame, and a bar in the finding's colour at its left."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self._look.palette.severity(self.finding.severity)))
        painter.drawRoundedRect(QRectF(0, 0, 6, self.height()), 3, 3)


class Tray(QFrame):
    """All findings, in a strip that scrolls sideways."""

    def __init__(self, model: LadderModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._shown: tuple[Finding, ...] | None = None
        self.cards: list[Card] = []
        self.setObjectName("tray")
        self.setAccessibleName("Findings")
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._scroll)
        model.changed.connect(self.refresh)
        model.remedies_changed.connect(self._show_remedies)
        look.changed.connect(self._rebuild)
        self._rebuild()

    def _rebuild(self) -> None:
        self._shown = None
        self.refresh()

    def refresh(self) -> None:
        """Renew the cards; build them anew when other findings stand than before."""
        assessment = self._model.assessment
        findings = assessment.findings if assessment else ()
        if self._shown is not None and _same_cards(findings, self._shown):
            self._shown = findings
            for card, finding in zip(self.cards, findings, strict=True):
                card.renew(finding)
            return
        self._shown = findings
        body = QWidget()
        body.setObjectName("trayBody")
        row = QHBoxLayout(body)
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(12)
        self.cards = [Card(f, self._model, self._look) for f in findings]
        for card in self.cards:
            row.addWidget(card, 1 if card.finding.severity == "fine" else 2)
        row.addStretch(0)
        grave = any(f.severity != "fine" for f in findings)
        self.setFixedHeight(self._look.px(TALL_PX if grave else LOW_PX))
        self._scroll.setWidget(body)

    def _show_remedies(self) -> None:
        for card in self.cards:
            card.show_remedies()

    def first_remedy(self) -> QPushButton | None:
        """The button of the first remedy offered, for the keyboard."""
        return next((b for card in self.cards for b in card.buttons), None)


def _same_cards(now: tuple[Finding, ...], before: tuple[Finding, ...]) -> bool:
    return [(f.key, f.severity) for f in now] == [(f.key, f.severity) for f in before]


def wrapped(text: str, metrics: QFontMetrics, width_px: int) -> str:
    """The text broken into lines at blanks."""
    lines = [""]
    for word in text.split():
        candidate = f"{lines[-1]} {word}".strip()
        if lines[-1] and metrics.horizontalAdvance(candidate) > width_px:
            lines.append(word)
        else:
            lines[-1] = candidate
    return "\n".join(lines)
