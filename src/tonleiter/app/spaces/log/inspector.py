"""The side of the Log space: the entry that is chosen, or the form for another one."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QImageIOHandler, QImageReader, QPixmap
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout

from tonleiter.app.spaces.log.model import LogModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.panel import Panel
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.guide.cards import settings_of
from tonleiter.core.log.cause import Search
from tonleiter.core.log.entry import KIND_WORDS, EntryKind, LogEntry
from tonleiter.core.log.report_words import found_in, worst
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.words import sentence as as_sentence

EVENINGS = (("all of it", ""), ("half an hour", "30"), ("an hour", "60"), ("an evening", "180"))
MOST_TASKS, MOST_CAUSES = 12, 7
# what somebody writes by hand, besides what was said and what changed
BY_HAND: tuple[EntryKind, ...] = ("note", "purchase", "build", "measurement", "change")
MOST_SHOWN, MOST_PHOTO_PX, MOST_PICTURES = 4, 12_000, 12
ASK = "What did the other station say?"


class LogInspector(Panel):
    """Built anew where something of it changed: what is being typed is never lost by that."""

    photo_wanted = Signal(object)
    card_wanted = Signal(object)
    card_file_wanted = Signal(object)

    def __init__(self, model: LogModel, look: Look) -> None:
        super().__init__("inspector")
        self.model, self._look = model, look
        self._built_for: object = None
        self.text: TextField | None = None
        self._pictures: dict[tuple[Path, int], QPixmap] = {}

    def show_now(self) -> None:
        """The form, or the entry."""
        model = self.model
        key = (model.station, model.cause, model.tasks, model.minutes, model.solders,
               model.writing, model.chosen, model.turned, model.offered, model.held,
               self._look.scale, self._look.palette.name, self.width(),
               bool(model.entries))  # fmt: skip
        if key == self._built_for:
            return
        self._built_for = key
        # that of a form before: it goes with it
        self.text = None
        column = self.begin(spacing=6)
        if model.writing == "report":
            self._form(column)
        elif model.writing == "change":
            self._change(column)
        elif model.writing == "note":
            self._note(column)
        elif (entry := model.chosen) is not None:
            if model.cause is not None:
                self._cause(column, model.cause)
            else:
                self._entry(column, entry)
        elif model.turned:
            self._moves(column)
        else:
            self._next(column)
        self.finish(column)
        if self.text is not None and model.writing:
            self.text.setFocus(Qt.FocusReason.OtherFocusReason)

    # --- what next -------------------------------------------------------------------------------

    def _next(self, column: QVBoxLayout) -> None:
        """What is open over the whole station, cut to an evening."""
        model = self.model
        column.addWidget(label("What next", "title"))
        evenings = Choice(self._look, "How much time there is", 150)
        evenings.show_items([*EVENINGS], "" if model.minutes is None else str(model.minutes))
        evenings.chosen.connect(
            lambda _: model.show_evening(int(evenings.currentData() or 0) or None, model.solders)
        )
        column.addWidget(evenings)
        iron = QCheckBox("the iron may be heated")
        iron.setAccessibleName("the iron may be heated")
        iron.setChecked(model.solders)
        iron.clicked.connect(lambda on: model.show_evening(model.minutes, on))
        column.addWidget(iron)
        tasks = model.tasks
        if tasks is None:
            column.addWidget(label("It is being looked for…", "sub"))
            return
        wide = self.width() - self._look.px(60)
        for task in tasks[:MOST_TASKS]:
            go = partial(model.go, task)
            column.addWidget(wrapped_button(task.title, "link", go, self.fontMetrics(), wide))
            tail = f"; needs {', '.join(task.needs[:3])}" if task.needs else ""
            words = f"{task.minutes} min{', solders' if task.solders else ''}: {task.why}{tail}"
            column.addWidget(label(words, "caption", wraps=True))
            if task.buys:
                got = button("They are bought: write it down", "plain", partial(model.got, task))
                column.addWidget(got)
        if not tasks:
            column.addWidget(label("Nothing fits into that.", "sub", wraps=True))

    # --- writing ---------------------------------------------------------------------------------

    def _field(self, column: QVBoxLayout, name: str, hint: str, key: str) -> TextField:
        field = TextField("", name, self.model.document.drafts, ("log", key))
        field.setPlaceholderText(hint)
        # taken with the whole form
        field.accepted.connect(lambda _: field.settle())
        column.addWidget(field)
        return field

    def _form(self, column: QVBoxLayout) -> None:
        column.addWidget(label(ASK, "title", wraps=True))
        text = self.text = self._field(column, ASK, "muffled, a bit quiet", "text")
        words = label("", "sub", wraps=True)
        column.addWidget(words)
        who = self._field(column, "From whom", "call sign: QK0ABC", "who")
        band = self._field(column, "Band or way", "40 m", "band")
        signal = self._field(column, "Signal report", "59", "signal")

        def show_words(typed: str) -> None:
            found = found_in(typed)
            words.setText(f"words: {', '.join(found)}" if found else "no word of the list yet")

        text.textChanged.connect(show_words)
        show_words(text.text())

        wanted = "type what was said: a word is enough"
        self._taken(column, (text, who, band, signal), 1, wanted, self.model.add_report)
        about = "Of the open chain as it stands; the time is now. Enter writes it."
        column.addWidget(label(about, "caption", wraps=True))

    def _change(self, column: QVBoxLayout) -> None:
        offered = self.model.offered
        column.addWidget(label("What was changed", "title"))
        if offered is None:
            column.addWidget(label("Nothing any more.", "sub"))
            return
        for line in offered.changed:
            column.addWidget(label(line, "plain", wraps=True))
        title = self.text = self._field(column, "Its name", "opening drilled, gasket", "title")
        back = self._field(column, "The way back", "how it is undone, if it can be", "back")
        self._keys(column, "Write it", lambda: self.model.take_offer(title.text(), back.text()))

    def _note(self, column: QVBoxLayout) -> None:
        """Anything else that somebody wants to find again."""
        column.addWidget(label("What is to be written down", "title", wraps=True))
        kind = Choice(self._look, "What it is", 240)
        kind.show_items([(KIND_WORDS[k], k) for k in BY_HAND], "note")
        column.addWidget(kind)
        title = self.text = self._field(column, "In a few words", "foam replaced", "note-title")
        text = self._field(column, "More of it", "what, from where, how much", "note-text")
        tags = self._field(column, "Tags", "tags: headset, drilling", "note-tags")
        back = self._field(column, "The way back", "first step; second step", "note-back")

        wanted = "type what it is: a word is enough"

        def add(*given: str) -> bool:
            return self.model.add_note(kind.currentData(), *given)

        self._taken(column, (title, text, tags, back), 2, wanted, add)
        about = "Of the open chain as it stands; the time is now. A photo is added afterwards."
        column.addWidget(label(about, "caption", wraps=True))

    def _taken(
        self,
        column: QVBoxLayout,
        fields: tuple[TextField, ...],
        needed: int,
        wanted: str,
        add: Callable[..., bool],
    ) -> None:
        """A form that Enter writes whole, and empties; one of the first fields is needed."""

        def write() -> None:
            given = [f.text() for f in fields]
            if not any(g.strip() for g in given[:needed]):
                self.model.refused.emit(wanted)
            elif add(*given):
                for field in fields:
                    field.write("")
                    field.settle()

        for field in fields:
            field.returnPressed.connect(write)
        self._keys(column, "Write it", write)

    def _keys(self, column: QVBoxLayout, words: str, write: Callable[[], object]) -> None:
        flow = Flow(gap_px=8)
        flow.addWidget(button(words, "primary", write))
        flow.addWidget(button("Leave it", "plain", partial(self.model.write, False)))
        column.addLayout(flow)

    # --- reading ---------------------------------------------------------------------------------

    def _entry(self, column: QVBoxLayout, entry: LogEntry) -> None:
        column.addWidget(label(as_sentence(entry.says()), "title", wraps=True))
        when = f"{KIND_WORDS[entry.kind]}, {entry.when.day} {entry.when:%B %Y %H:%M}"
        if entry.kind == "report":
            when += f" ({entry.utc:%H:%M} UTC)"
        column.addWidget(label(when, "sub", wraps=True))
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        rows = (("from", entry.who), ("signal", entry.signal), ("band", entry.band),
                ("microphone", entry.microphone), ("chain", entry.chain),
                ("radio", entry.radio))  # fmt: skip
        shown = [(title, value) for title, value in rows if value]
        for row, (title, value) in enumerate(shown):
            grid.addWidget(label(title, "caption"), row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(label(value, "plain", wraps=True), row, 1)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        if entry.text and entry.text != entry.says():
            column.addWidget(label(f"“{entry.text}”", "plain", wraps=True))
        for line in entry.changed:
            column.addWidget(label(line, "plain", wraps=True))
        self._way_back(column, entry)
        self._suspect(column, entry)
        if entry.number < 0:
            self._kept(column, entry)
            return
        self._photos(column, entry)
        self._then(column, entry)
        self._between(column, entry)
        self._tags(column, entry)
        flow = Flow(gap_px=8)
        if self.model.has_day(entry) and self.model.held != entry.number:
            hold = partial(self.model.hold_day, entry.number)
            flow.addWidget(button("Hold another day against it", "plain", hold))
        if not entry.sealed:
            ask = partial(self.photo_wanted.emit, entry)
            flow.addWidget(button("Add a photo…", "plain", ask))
        if entry.sealed:
            column.addWidget(label("Sealed: it stays as it is.", "caption"))
        else:
            flow.addWidget(button("Seal it", "plain", partial(self.model.seal, entry.number)))
            out = button("Take it out", "plain", partial(self.model.take_out, entry.number))
            flow.addWidget(out)
        column.addLayout(flow)

    def _kept(self, column: QVBoxLayout, entry: LogEntry) -> None:
        """What lives elsewhere is read here and changed there."""
        model = self.model
        card = next((c for c in model.records.cards if c.id == entry.card_id), None)
        if card is not None:
            grid = QGridLayout()
            for row, (title, value) in enumerate(settings_of(card)):
                grid.addWidget(label(title, "caption"), row, 0)
                grid.addWidget(label(value, "figure"), row, 1, Qt.AlignmentFlag.AlignRight)
            column.addLayout(grid)
            words = "Hold today's knobs against it"
            column.addWidget(button(words, "plain", partial(model.hold_against, card.id)))
            ask = partial(self.card_wanted.emit, card)
            column.addWidget(button("Print it on A6…", "plain", ask))
            save = partial(self.card_file_wanted.emit, card)
            column.addWidget(button("Save it as PDF…", "plain", save))
        where = {"card": ("set", "Set (6)"), "recording": ("listen", "Listen (7)")}
        space, name = where.get(entry.kind, ("prove", "Prove (5)"))
        go = partial(model.wanted.emit, space, "")
        column.addWidget(button(f"It is kept in {name}", "link", go))

    def _way_back(self, column: QVBoxLayout, entry: LogEntry) -> None:
        """Of a modification: how it is undone, step by step, and that it was."""
        if entry.kind not in ("change", "build"):
            return
        column.addWidget(label("The way back", "section"))
        steps = entry.steps_back
        if not steps:
            none = "Nobody wrote one. Undo it in its space, by the figures above."
            column.addWidget(label(none, "sub", wraps=True))
            return
        for step in steps:
            row = QHBoxLayout()
            tick = QCheckBox()
            tick.setAccessibleName(step)
            row.addWidget(tick, 0, Qt.AlignmentFlag.AlignTop)
            # of any length: a box does not break its own words into lines
            row.addWidget(label(step, "plain", wraps=True), 1)
            column.addLayout(row)
        if entry.number > 0:
            column.addWidget(label(CAUTIONS["opening"], "caution", wraps=True))
            done = partial(self.model.undone, entry)
            column.addWidget(button("It is undone: write that", "plain", done))

    def _photos(self, column: QVBoxLayout, entry: LogEntry) -> None:
        wide = self.width() - self._look.px(60)
        for name in entry.photos[:MOST_SHOWN]:
            file = self.model.photo(name)
            picture = self._picture(file, wide)
            if picture is None:
                why = "is gone" if not file.is_file() else "cannot be shown here"
                column.addWidget(label(f"The photo {name} {why}.", "wrong", wraps=True))
                continue
            shown = QLabel()
            shown.setAccessibleName(f"Photo of {entry.says()}")
            shown.setPixmap(picture)
            column.addWidget(shown)
        if len(entry.photos) > MOST_SHOWN:
            more = f"{len(entry.photos) - MOST_SHOWN} more lie in photos/ beside the station."
            column.addWidget(label(more, "caption", wraps=True))

    def _picture(self, file: Path, wide: int) -> QPixmap | None:
        """A photo no wider than that, made once; None of what cannot be shown."""
        key = (file, wide)
        if key not in self._pictures and file.is_file():
            reader = QImageReader(str(file))
            reader.setAutoTransform(True)
            size = reader.size()
            turned = reader.transformation() & QImageIOHandler.Transformation.TransformationRotate90
            across = size.height() if turned else size.width()
            if not size.isValid() or max(size.width(), size.height()) > MOST_PHOTO_PX:
                return None
            if across > wide:
                # read small: a photo of a telephone has a hundred times as many points
                reader.setScaledSize(size * (wide / across))
            made = QPixmap.fromImage(reader.read())
            if made.isNull():
                return None
            self._pictures = {**dict([*self._pictures.items()][-MOST_PICTURES:]), key: made}
        return self._pictures.get(key)

    def _tags(self, column: QVBoxLayout, entry: LogEntry) -> None:
        shown = ", ".join(entry.tags)
        if entry.sealed:
            if shown:
                column.addWidget(label(f"tags: {shown}", "sub", wraps=True))
            return
        key = ("log", f"tags-{entry.number}")
        field = TextField(shown, "Tags", self.model.document.drafts, key)
        field.setPlaceholderText("tags, to find it by: headset, drilling")

        def take(text: str) -> None:
            if self.model.set_tags(entry, text):
                field.settle()

        field.accepted.connect(take)
        column.addWidget(field)

    def _between(self, column: QVBoxLayout, entry: LogEntry) -> None:
        """The day that is held against that of this entry."""
        made = self.model.between(entry)
        if self.model.held == entry.number:
            words = "Held: press another entry that the station's state was written with."
            column.addWidget(label(words, "sub", wraps=True))
            column.addWidget(
                button("Hold no day any more", "plain", partial(self.model.hold_day, 0))
            )
        if made is None:
            return
        first, then, said = made
        days = f"{first.when.day} {first.when:%B %Y} to {then.when.day} {then.when:%B %Y}"
        column.addWidget(label(f"From {days}", "section", wraps=True))
        words = "; ".join(said) if said else "Nothing of the station was changed."
        column.addWidget(label(words, "sub", wraps=True))
        column.addWidget(button("Hold no day any more", "plain", partial(self.model.hold_day, 0)))

    def _then(self, column: QVBoxLayout, entry: LogEntry) -> None:
        """What differs today from the day of an entry."""
        said = self.model.since_then(entry)
        if said is None:
            return
        column.addWidget(label("Since then", "section"))
        words = "; ".join(said) if said else "Nothing of the station was changed."
        column.addWidget(label(words, "sub", wraps=True))

    def _suspect(self, column: QVBoxLayout, entry: LogEntry) -> None:
        if entry.kind != "report" or (entry.kindness or 0) >= 0:
            return
        column.addWidget(label("What changed last before it began?", "section", wraps=True))
        suspect = self.model.blamed(entry)
        if suspect is None:
            words = "It was there before, or nothing is written that changed since it was not."
            column.addWidget(label(words, "sub", wraps=True))
        else:
            words = f"{suspect.says()}, {suspect.when.day} {suspect.when:%B}"
            look = partial(self.model.choose, suspect.number)
            wide = self.width() - self._look.px(60)
            column.addWidget(wrapped_button(words, "link", look, self.fontMetrics(), wide))
        find = partial(self.model.find_cause, entry)
        column.addWidget(button(f"Find the cause of “{worst(entry.words)}”", "primary", find))

    def _cause(self, column: QVBoxLayout, made: Search) -> None:
        """Where it stands, the test that tells most, the others in order."""
        model, wide = self.model, self.width() - self._look.px(60)
        column.addWidget(label(as_sentence(made.headline()) + ".", "title", wraps=True))
        test = made.next_test if made.found is None else None
        if test is not None:
            column.addWidget(label(f"Try this, {test.minutes} min", "section"))
            column.addWidget(label(test.test, "step", wraps=True))
            flow = Flow(gap_px=8)
            for words, yes in (("Yes", True), ("No", False)):
                flow.addWidget(button(words, "primary", partial(model.answer, test.says, yes)))
            column.addLayout(flow)
        for cause, share in made.ranked[:MOST_CAUSES]:
            mark = {None: "", True: " ✓", False: " ✗"}[cause.answered]
            go = partial(model.wanted.emit, cause.where, "")
            words = f"{100 * share:.0f} %  {cause.says}{mark}"
            column.addWidget(wrapped_button(words, "link", go, self.fontMetrics(), wide))
            if cause.why != "usual":
                column.addWidget(label(cause.why, "caption", wraps=True))
        caution = "⚠ Into a dummy load; no lead is pulled and nothing opened under power."
        column.addWidget(label(caution, "caution", wraps=True))
        column.addWidget(button("Back to the report", "plain", model.leave_cause))

    def _moves(self, column: QVBoxLayout) -> None:
        """What the hand turns on the radio itself, checked off."""
        column.addWidget(label("Turn it back, on the radio", "title", wraps=True))
        words = "The panel here stands as on the card. On the radio itself, one after the other:"
        column.addWidget(label(words, "sub", wraps=True))
        for turn in self.model.turned:
            tick = QCheckBox(turn.move)
            tick.setAccessibleName(turn.move)
            column.addWidget(tick)
        words = "Then speak into a dummy load and look at the meters in Set (6)."
        column.addWidget(label(words, "caption", wraps=True))
        column.addWidget(button("It is done", "plain", self.model.moves_done))
