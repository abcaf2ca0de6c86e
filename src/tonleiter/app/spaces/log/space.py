"""The Log space: the time line, what it says, what is written, back to a card."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.log.inspector import LogInspector
from tonleiter.app.spaces.log.model import LogModel
from tonleiter.app.spaces.log.paper import KINDS, log_bytes
from tonleiter.app.spaces.log.timeline import Timeline
from tonleiter.app.spaces.space import Action, Badge, Context, WatchedSpace
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.frames import card, sentence, share_px, stack
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import clear
from tonleiter.app.widgets.printing import ask_print
from tonleiter.app.widgets.settings_card import card_page, card_pdf, print_card
from tonleiter.app.widgets.text_field import TextField
from tonleiter.app.widgets.tray import Tray
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.looking import EVER, Looked
from tonleiter.core.station.card import SettingsCard
from tonleiter.core.station.disk import write_file
from tonleiter.core.words import count_of

SHARE, LEAST_PX, MOST_PX, TRAY_SHARE = 0.27, 236, 400, 0.22
SINCE = (
    ("a month ago", "31"),
    ("a quarter ago", "92"),
    ("a year ago", "365"),
    ("the beginning", str(EVER)),
)
BY = (("microphone", "microphone"), ("radio", "radio"), ("person", "who"))
EVERY = ""


class LogSpace(WatchedSpace):
    """Nothing is written behind anybody's back: what changed is offered."""

    model: LogModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = self._look = context.look
        self.model = LogModel(context.document, context.jobs, context.verdicts)
        self.model.setParent(self)
        self.model.refused.connect(self.refused)
        self.model.wanted.connect(self.wanted)
        self.radios = Choice(look, "Radio", 190)
        self.microphones = Choice(look, "Microphone", 200)
        self.since = Choice(look, "Since", 150)
        self.by = Choice(look, "A line for each", 150)
        self.by.show_items([*BY], "microphone")
        self.by.chosen.connect(self._filter)
        self.search = TextField("", "Find in the log")
        self.search.setPlaceholderText("find words")
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.timeline = Timeline(look)
        self.inspector = LogInspector(self.model, look)
        self.inspector.photo_wanted.connect(self.ask_photo)
        self.inspector.card_wanted.connect(self.ask_card)
        self.inspector.card_file_wanted.connect(self.ask_card_file)
        self.tray = Tray(self.model, look, context.asking.ask)
        self._arrange()
        self.model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence(
            (
                ("I look at", self.radios),
                ("with", self.microphones),
                ("since", self.since),
                ("by", self.by),
            )
        )
        row = header.layout()
        assert isinstance(row, QHBoxLayout)
        self.search.setMaximumWidth(self._look.px(180))
        row.addWidget(self.search)
        self.since.show_items([*SINCE], "365")
        for choice in (self.radios, self.microphones, self.since):
            choice.chosen.connect(self._filter)
        self.search.textChanged.connect(self._filter)
        self.search.accepted.connect(lambda _: self.search.settle())
        center = QWidget()
        center.setObjectName("center")
        column = QVBoxLayout(center)
        column.setContentsMargins(20, 10, 14, 8)
        column.setSpacing(6)
        column.addWidget(self._says)
        column.addWidget(self._proves)
        self.write = button("Write  N", "primary", self.model.write)
        self.write.setAccessibleName("Write")
        keys = Flow(gap_px=8)
        for made in (
            self.write,
            button("Note…", "plain", self.model.write_note, "a note, a purchase, a build"),
            button("Take over…", "plain", self.ask_contacts, "a file of contacts, or a table"),
            button("Save a copy…", "plain", self.ask_file, "on paper, as a table, as contacts"),
            button("Keep all…", "plain", self.ask_backup, "the whole station in one file"),
        ):
            keys.addWidget(made)
        self.mend = button("Write a repaired copy", "primary", self.model.repair)
        keys.addWidget(self.mend)
        column.addLayout(keys)
        self.timeline.chosen.connect(self.model.choose)
        column.addWidget(self.timeline, 1)
        self._offer, self._offered = card((14, 8, 14, 10), 4)
        column.addWidget(self._offer)
        self._back, self._turns = card((14, 8, 14, 10), 4)
        column.addWidget(self._back)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(center)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(area, 1)
        middle.addWidget(self.inspector)
        stack(self, header, middle, self.tray)

    def _filter(self, _: object = None) -> None:
        """Look at what the choices and the search say."""
        self.model.show(
            Looked(
                radio=self.radios.currentData() or None,
                microphone=self.microphones.currentData() or None,
                by=self.by.currentData(),
                since_days=int(self.since.currentData()),
                find=self.search.text(),
            )
        )

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """The inspector takes a share."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        most = self._look.px(MOST_PX)
        self.inspector.setFixedWidth(share_px(self.width(), SHARE, self._look.px(LEAST_PX), most))
        self.tray.limit(round(TRAY_SHARE * self.height()))

    # --- files -----------------------------------------------------------------------------------

    def ask_file(self) -> None:
        """Ask where what is looked at goes; its ending says of which kind it is."""
        name, _ = QFileDialog.getSaveFileName(self, "Save a copy of the log", "log.pdf", KINDS)
        if name:
            model, file = self.model, Path(name)
            title = f"Log of {model.station.title}"
            model.attempt(
                lambda: write_file(file, log_bytes(file, title, model.headline(), model.entries))
            )

    def ask_backup(self) -> None:
        """Ask where the whole station goes, in one file with checksums."""
        if not self.model.document.is_saved:
            self.model.refused.emit("save the station first: what is kept is what is saved")
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Keep all of it in one file", f"{self.model.document.folder.stem}.zip", "*.zip"
        )
        if name:
            self.model.keep_all(Path(name))

    def ask_photo(self, entry: LogEntry) -> None:
        """Ask for a photo of an entry."""
        name, _ = QFileDialog.getOpenFileName(self, "A photo", "", "Photo (*.jpg *.jpeg *.png)")
        if name:
            self.model.add_photo(entry, Path(name))

    def ask_card(self, card: SettingsCard) -> None:
        """Show a card as it will lie on a page of A6; from there it is printed."""
        paint = partial(print_card, card, self._look)
        self.model.attempt(lambda: ask_print(card.name, card_page(a6=True), paint, self))

    def ask_card_file(self, card: SettingsCard) -> None:
        """Ask where a card goes, on a page of A6."""
        name, _ = QFileDialog.getSaveFileName(self, "A card on A6", f"{card.id}.pdf", "PDF (*.pdf)")
        if name:
            self.model.attempt(lambda: write_file(Path(name), card_pdf(card, self._look, a6=True)))

    def ask_contacts(self) -> None:
        """Ask for a file of contacts, or for a table."""
        kinds = "Contacts, ADIF (*.adi *.adif);;Table (*.csv)"
        name, _ = QFileDialog.getOpenFileName(self, "Take over entries", "", kinds)
        if name:
            self.model.take_over(Path(name))

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Everything."""
        self._fit()
        model = self.model
        for choice, every, of, value in (
            (self.radios, "every radio", "radio", model.looked.radio),
            (self.microphones, "every microphone", "microphone", model.looked.microphone),
        ):
            names = [(name, name) for name in model.names(of)]
            choice.show_items([(every, EVERY), *names], value or EVERY)
        self._says.setText(model.headline())
        self._proves.setText(self._beside())
        self.mend.setVisible(model.history.may_repair)
        self.timeline.show_lanes(model.lanes, model.since, model.until, model.at)
        self._show_offer()
        self._show_back()
        in_inspector = self.inspector.isAncestorOf(self.focusWidget())
        self.inspector.show_now()
        if in_inspector and not self.inspector.isAncestorOf(self.focusWidget()):
            # what had the keyboard is gone: it goes back to where keys lead on
            self.timeline.setFocus(Qt.FocusReason.OtherFocusReason)
        self.tray.refresh()
        self.tray.setVisible(bool(model.found()))
        self.badge_changed.emit()

    def _beside(self) -> str:
        model = self.model
        if not model.entries:
            return (
                "Reports of others, what you change, cards of settings: one line a microphone, and"
                " the question that brings people back: it was better in May, what changed?"
            )
        count = len(model.entries)
        said = count_of(count, "entry", "entries")
        if model.sayings:
            said = f"{model.sayings[0].proof}; {said}"
        if model.trouble:
            said += f". {model.trouble}"
        return said

    def _show_offer(self) -> None:
        """What changed since the last entry: written only when that is pressed."""
        clear(self._offered)
        offered = self.model.offered
        self._offer.setVisible(offered is not None)
        if offered is None:
            return
        row = QHBoxLayout()
        words = "Changed since the log was written last: " + "; ".join(offered.changed[:3])
        if len(offered.changed) > 3:
            words += f"; {len(offered.changed) - 3} more"
        row.addWidget(label(words, "plain", wraps=True), 1)
        row.addWidget(button("Log it…", "plain", self.model.write_change))
        holder = QWidget()
        holder.setLayout(row)
        self._offered.addWidget(holder)

    def _show_back(self) -> None:
        """Today's knobs against a card."""
        clear(self._turns)
        model, turned = self.model, self.model.turns
        against = model.card
        self._back.setVisible(against is not None)
        if against is None:
            return
        day = against.day
        if not turned:
            words = f"Today's knobs stand as on the card of {day}, “{against.name}”."
            self._turns.addWidget(label(words, "sub", wraps=True))
            return
        title = f"Today's knobs against the card of {day}, “{against.name}”"
        self._turns.addWidget(label(title, "section", wraps=True))
        holder = QWidget()
        flow = Flow(gap_px=22)
        for turn in turned:
            words = f"{turn.title}  {turn.said(turn.now)} → {turn.said(turn.then)}"
            flow.addWidget(label(words, "figure"))
        flow.addWidget(button("Turn it back", "primary", model.turn_back))
        holder.setLayout(flow)
        self._turns.addWidget(holder)

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the time line."""
        self.model.arrive()
        self.timeline.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def badge(self) -> Badge | None:
        """It warns of nothing: what it says is of days gone by."""
        return None

    def hints(self) -> tuple[tuple[str, str], ...]:
        """What the time line understands."""
        return (
            ("← →", "Entry by entry"),
            ("Wheel, + −", "Zoom in time"),
            ("Shift+Wheel", "Move on in time"),
        )

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while it is shown."""
        return (
            Action("Write a report", "N", self.model.write),
            Action("Write a note", "Shift+N", self.model.write_note),
        )
