"""What comes over the window and goes again: the manual, first hints, terms, answers to why."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPoint, Qt
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from tonleiter.app import turns
from tonleiter.app.commands import commands_of
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.widgets.said import TERMS

if TYPE_CHECKING:
    from tonleiter.app.manual.hints import Hint
    from tonleiter.app.manual.pane import ManualPane
    from tonleiter.app.manual.term_card import TermCard
    from tonleiter.app.session import Session
    from tonleiter.app.spaces.space import Space
    from tonleiter.app.why_card import WhyCard
    from tonleiter.app.window import MainWindow
    from tonleiter.core.manual.glossary import Term
    from tonleiter.core.manual.page import Page


class Over(QObject):
    """One of each at most; ``manual``, ``hint``, ``term`` and ``why`` are None while away."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window, self._look = window, window.look
        self.manual: ManualPane | None = None
        self.hint: Hint | None = None
        self.term: TermCard | None = None
        self.why: WhyCard | None = None
        TERMS.pressed.connect(self._explain)

    def follow(self, space: str) -> None:
        """Another space, or the start page, is seen: answers go, the manual follows."""
        self.leave_why()
        if self.manual is not None:
            self.manual.follow(space)

    def fit(self) -> None:
        """The window has another size."""
        if self.manual is not None:
            self.manual.fit()

    # --- the manual ------------------------------------------------------------------------------

    def toggle_manual(self) -> None:
        """Show the manual at the space that is seen, or hide it."""
        if self.manual is not None:
            self.leave_manual()
            return
        self.show_manual("space/start" if self._window.starts else f"space/{self._window.shown}")

    @turns.at_work()
    def show_manual(self, page: str) -> None:
        """A page of the manual, beside what one does."""
        if self.manual is None:
            from tonleiter.app.manual.pane import ManualPane

            self.manual = ManualPane(
                self._look, (self._keys_page(),), self._with_keys, self._window
            )
            self._look.dress(self.manual)
            self.manual.left.connect(self.leave_manual)
            self.manual.show()
        self.manual.show_page(page)
        self.manual.raise_()
        self.manual.text.setFocus(Qt.FocusReason.OtherFocusReason)

    def leave_manual(self) -> None:
        """Nobody reads any more."""
        pane, self.manual = self.manual, None
        if pane is not None:
            pane.end()
            _put_away(pane)

    def _keys_of(self, name: str) -> list[tuple[str, str]]:
        """Keys of a space of this session, with what else its widgets understand."""
        space = self._window.session.spaces.get(name) if self._window.is_open else None
        if space is None:
            return []
        keys = [(a.keys.replace(" ", " or "), a.words) for a in space.key_actions()]
        return [*keys, *space.hints()]

    def _keys_page(self) -> Page:
        from tonleiter.app.manual.keys import keys_page

        everywhere = [(c.keys.replace(" ", " or "), c.words) for c in commands_of(self._window)]
        groups = [("Everywhere", [*everywhere, ("Tab", "Go through everything")])]
        for entry in SPACES:
            if lines := self._keys_of(entry.name):
                groups.append((f"In {entry.title}", lines))
        return keys_page(groups)

    def _with_keys(self, page: Page) -> Page:
        from tonleiter.app.manual.keys import PAGE, with_keys

        if page.id == PAGE:
            return self._keys_page()
        return with_keys(page, self._keys_of(page.id.partition("space/")[2]))

    # --- hints of a first visit ------------------------------------------------------------------

    def show_hint(self, name: str, space: Space) -> None:
        """One sentence on the first visit; nobody is stopped by it."""
        from tonleiter.app.manual import hints

        if self.hint is not None and isValid(self.hint):
            _put_away(self.hint)
        self.hint = None
        if hints.SHOWN and name not in hints.seen():
            self.hint = hints.Hint(name, space, self._look)

    def hints_again(self) -> None:
        """All sentences for a first visit once more."""
        from tonleiter.app.manual import hints

        window = self._window
        hints.forget_all()
        if window.is_open and not window.starts:
            self.show_hint(window.shown, window.space(window.shown))
        window.notice.say("Each space says its sentence once more", fades=True)

    # --- terms -----------------------------------------------------------------------------------

    def _explain(self, term: Term, at: QPoint) -> None:
        """A word of the trade was pressed in this window."""
        from tonleiter.app.manual.term_card import TermCard

        if not self._window.isActiveWindow() and QApplication.activeWindow() is not None:
            return
        self._leave_term()
        self.term = TermCard(term, at, self._look, self._to_glossary, self._window)
        self.term.left.connect(self._leave_term)
        self.term.show()
        self.term.raise_()

    def _to_glossary(self) -> None:
        self._leave_term()
        self.show_manual("glossary")

    def _leave_term(self) -> None:
        card, self.term = self.term, None
        _put_away(card)

    # --- why -------------------------------------------------------------------------------------

    def listen_to(self, session: Session) -> None:
        """Show the answers of a session."""
        asking = session.asking
        asking.asked.connect(self._show_why)
        asking.led.connect(self._lead_to)
        asking.read.connect(self._read_on)

    def _show_why(self) -> None:
        from tonleiter.app.why_card import WhyCard

        _put_away(self.why)
        pieces = [g.id for g in self._window.document.station.gear]
        self.why = WhyCard(self._window.session.asking, self._look, pieces, self._window)
        self._look.dress(self.why)
        self.why.refresh()
        self.why.left.connect(self.leave_why)
        self.why.show()
        self.why.raise_()

    def leave_why(self) -> None:
        """Nobody asks any more."""
        card, self.why = self.why, None
        if card is not None:
            _put_away(card)
            self._window.session.asking.leave()

    def _read_on(self, page: str) -> None:
        """What a finding means, in the manual."""
        self.leave_why()
        self.show_manual(page)

    def _lead_to(self, piece: str, field: str) -> None:
        """A figure of an answer, where it can be edited."""
        self.leave_why()
        self._window.go_to("gear", f"figure {piece} {field}".strip())


def _put_away(card: QWidget | None) -> None:
    if card is not None:
        card.hide()
        card.deleteLater()
