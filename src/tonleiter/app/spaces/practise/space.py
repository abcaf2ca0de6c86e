"""The Practise space: the report on top, what can be looked at, what may be wrong, the score."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.practise.model import PractiseModel
from tonleiter.app.spaces.practise.scores import ScoreBars
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.spaces.space import Action, Context, WatchedSpace
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.frames import sentence, share_px, stack
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.panel import Panel
from tonleiter.core.practice.look import CARE_WORDS, Look
from tonleiter.core.practice.play import PATH, RESULT, SAFETY, Play
from tonleiter.core.practice.riddle import FAMILIES, REPORT, Cause
from tonleiter.core.words import count_of
from tonleiter.core.words import sentence as as_sentence

SHARE, LEAST_PX, MOST_PX = 0.36, 260, 460
ANY = ""


class PractiseSpace(WatchedSpace):
    """A riddle is made when one is asked for; no file has anything of it before it is over."""

    model: PractiseModel

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        look = self._look = context.look
        self.model = PractiseModel(context.document, context.jobs)
        self.model.setParent(self)
        self.model.refused.connect(self.refused)
        self.families = Choice(look, "What to practise", 250)
        self._says, self._proves = label("", "headline", wraps=True), label("", "sub", wraps=True)
        self.looks = Panel("center", (20, 8, 14, 8))
        self.causes = Panel("inspector")
        self._arrange()
        self.model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        header = sentence((("I practise on", self.families),))
        row = header.layout()
        assert isinstance(row, QHBoxLayout)
        self.take = button("Take one", "primary", self.model.another)
        row.insertWidget(2, self.take)
        self._history = label("", "sub")
        row.addWidget(self._history)
        items = [("whatever I missed most", ANY), *((words, f) for f, words in FAMILIES.items())]
        self.families.show_items(items, ANY)
        self.families.chosen.connect(self._choose)
        top = QFrame()
        top.setObjectName("center")
        words = QVBoxLayout(top)
        words.setContentsMargins(20, 10, 14, 4)
        words.setSpacing(4)
        words.addWidget(self._says)
        words.addWidget(self._proves)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(top)
        left.addWidget(self.looks, 1)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addLayout(left, 1)
        middle.addWidget(self.causes)
        stack(self, header, middle)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """What may be wrong takes a share."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        most = self._look.px(MOST_PX)
        self.causes.setFixedWidth(share_px(self.width(), SHARE, LEAST_PX, most))

    def _choose(self) -> None:
        self.model.choose(self.families.currentData() or None)

    # --- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Headline, looks, causes, history."""
        self._fit()
        play = self.model.play
        says, proves = self._headline(play)
        self._says.setText(says)
        self._proves.setText(proves)
        self.take.setText("Take another" if play is not None else "Take one")
        self.take.setEnabled(not self.model.busy)
        self._show_history()
        self._show_looks(play)
        self._show_causes(play)

    def _headline(self, play: Play | None) -> tuple[str, str]:
        model = self.model
        if model.busy:
            return "A station is being built, set right, and something is done to it…", ""
        if model.trouble:
            return as_sentence(model.trouble), ""
        if play is None:
            return (
                "One thing is wrong with a station. Find it, by looking at as little as you can.",
                "Three kinds: a microphone on a radio, a computer before one, something just"
                " soldered. Each is another station, and everything that you see is computed of"
                " it.",
            )
        about = f"It is {play.riddle.about}. One thing is wrong with it."
        if not play.ended:
            return f"They say: {play.riddle.report}.", about
        cause = play.riddle.cause
        word = "It was" if play.given_up else "Found"
        return (
            f"{word}: {cause.title[:1].lower()}{cause.title[1:]}.",
            f"What mends it: {cause.mends}.",
        )

    def _show_history(self) -> None:
        results, model = self.model.results, self.model
        if model.trouble_of_file:
            self._history.setText("results are not kept: the file cannot be read")
            self._history.setToolTip(model.trouble_of_file)
            return
        played = results.played
        if not played:
            self._history.setText("")
            return
        mean = sum(r.score for r in played) / len(played)
        trend = results.trend
        moved = (
            "" if trend is None else f", {'up' if trend >= 0 else 'down'} {abs(trend):.0f} of late"
        )
        self._history.setText(f"{count_of(len(played), 'riddle')}, {mean:.0f} points{moved}")

    def _show_looks(self, play: Play | None) -> None:
        column = self.looks.begin(spacing=4)
        if play is None:
            self._show_scores(column)
            self.looks.finish(column)
            return
        if self.model.can_be_heard:
            said = "Hear what they hear"
            column.addWidget(button(said, "plain", self.model.hear), 0, Qt.AlignmentFlag.AlignLeft)
        if play.ended:
            self._ending(column, play)
        else:
            column.addWidget(label("See to first", "section"))
            flow = Flow(gap_px=14)
            for care, words in CARE_WORDS.items():
                tick = QCheckBox(words)
                tick.setAccessibleName(words)
                tick.setChecked(care in play.cared)
                tick.clicked.connect(lambda on, c=care: self.model.care(c, on))
                flow.addWidget(tick)
            column.addLayout(flow)
            column.addWidget(label("What can be looked at", "section"))
        for look in play.riddle.looks:
            if look.id != REPORT:
                column.addWidget(self._look_row(play, look))
        self.looks.finish(column)

    def _look_row(self, play: Play, look: Look) -> QWidget:
        taken = look.id in play.seen
        row = QFrame()
        row.setObjectName("card" if taken or play.hinted == look.id else "plainRow")
        inside = QVBoxLayout(row)
        inside.setContentsMargins(10, 5, 10, 5)
        inside.setSpacing(1)
        top = QHBoxLayout()
        hinted = play.hinted == look.id
        top.addWidget(label(look.title, "step" if taken or hinted else "plain", wraps=True), 1)
        if taken:
            seen = look.said(play.riddle.sees(look.id))
            top.addWidget(label(seen, "figure", wraps=True), 1)
        else:
            said = f"Look, {look.minutes:g} min"
            made = button(said, "primary" if hinted else "tag", partial(self.model.look, look.id))
            made.setAccessibleName(f"{look.title}: look")
            made.setEnabled(not play.ended)
            top.addWidget(made)
        inside.addLayout(top)
        below = look.how if not taken else ""
        right = play.riddle.right.get(look.id)
        if taken and right is not None:
            below = f"while it was right: {look.said(right)}"
        if look.id in play.unsafe:
            cares = "; ".join(CARE_WORDS[c].lower() for c in look.care)
            below = f"{below + '. ' if below else ''}Not safe so: {cares} comes first."
            inside.addWidget(label(below, "wrong", wraps=True))
        elif below:
            inside.addWidget(label(below, "caption", wraps=True))
        return row

    def _ending(self, column: QVBoxLayout, play: Play) -> None:
        """The score, and the shortest way."""
        score = play.score()
        box = QFrame()
        box.setObjectName("move")
        inside = QVBoxLayout(box)
        inside.setContentsMargins(14, 10, 14, 10)
        inside.addWidget(label(f"{score.total} of 100", "title"))
        inside.addWidget(
            label(
                f"result {score.result} of {RESULT}, path {score.path} of {PATH}, safety"
                f" {score.safety} of {SAFETY}",
                "sub",
                wraps=True,
            )
        )
        best = [x.title for x in play.riddle.best_path()]
        way = " → ".join(best) if best else "the report alone tells it"
        inside.addWidget(
            label(
                f"You looked for {score.minutes:g} minutes; {score.best_minutes:g} would have done:"
                f" {way}.",
                "caption",
                wraps=True,
            )
        )
        if score.needless:
            names = "; ".join(play.riddle.look(k).title for k in score.needless)
            inside.addWidget(label(f"Told nothing new: {names}.", "caption", wraps=True))
        where = next((e for e in SPACES if e.name == play.riddle.cause.where), None)
        if where is not None:
            said = f"Such things are mended in {where.title} ({where.key})"
            inside.addWidget(
                button(said, "link", partial(self.wanted.emit, where.name, "")),
                0,
                Qt.AlignmentFlag.AlignLeft,
            )
        column.addWidget(box)

    def _show_scores(self, column: QVBoxLayout) -> None:
        played = self.model.results.played
        if not played:
            return
        column.addWidget(label("What you played, the newest on the right", "section"))
        bars = ScoreBars(self._look)
        bars.show_results(played)
        column.addWidget(bars)
        missed = self.model.results.missed()
        if missed:
            words = ", ".join(m.replace("-", " ") for m in missed[:4])
            column.addWidget(label(f"To look at again: {words}.", "sub", wraps=True))

    # --- causes ----------------------------------------------------------------------------------

    def _show_causes(self, play: Play | None) -> None:
        column = self.causes.begin(spacing=4)
        column.addWidget(label("What may be wrong", "title"))
        if play is None:
            said = (
                "Take one: causes stand here, and each is named by a press. The first name counts"
                f" {RESULT} points, the way there {PATH}, doing it safely {SAFETY}."
            )
            column.addWidget(label(said, "sub", wraps=True))
            self.causes.finish(column)
            return
        said = "Press the one that it is; a wrong one is mended in vain, and costs."
        column.addWidget(label(said, "caption", wraps=True))
        for cause in sorted(play.riddle.causes, key=lambda c: c.title):
            column.addWidget(self._cause(play, cause))
        if not play.ended:
            row = Flow(gap_px=8)
            row.addWidget(button("What next? (costs 10)", "plain", self.model.hint))
            row.addWidget(button("I give up", "plain", self.model.give_up))
            column.addLayout(row)
        self.causes.finish(column)

    def _cause(self, play: Play, cause: Cause) -> QWidget:
        wrong, right = cause.id in play.wrong, play.ended and cause.id == play.riddle.true
        row = QFrame()
        row.setObjectName("move" if right else "plainRow")
        inside = QHBoxLayout(row)
        inside.setContentsMargins(8, 3, 8, 3)
        role = "step" if right else "caption" if wrong or play.ended else "plain"
        mark = "✓ " if right else "✗ " if wrong else ""
        inside.addWidget(label(f"{mark}{cause.title}", role, wraps=True), 1)
        if not play.ended and not wrong:
            made = button("It is that", "tag", partial(self.model.name, cause.id))
            made.setAccessibleName(f"It is: {cause.title}")
            inside.addWidget(made)
        return row

    # --- what the window asks --------------------------------------------------------------------

    def arrive(self, word: str = "") -> None:
        """The keyboard goes to the button that takes one."""
        self.model.arrive()
        self.take.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def key_actions(self) -> tuple[Action, ...]:
        """Keys while it is shown."""
        return (
            Action("Take another riddle", "N", self.model.another),
            Action("Ask what to look at next; it costs", "W", self.model.hint),
            Action("Hear what they hear", "H", self.model.hear),
        )
