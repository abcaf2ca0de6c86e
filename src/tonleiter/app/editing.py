"""What the models of the spaces share: edits of the open document, and how a refusal is said."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from tonleiter.app.document import Document
from tonleiter.core.refused import RefusedError
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station


class Editing(QObject):
    """Edits raise; ``attempt`` says a refusal in the window instead.

    A field that can mark itself catches the refusal and shows it where it was typed.
    """

    refused = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document

    @property
    def station(self) -> Station:
        """The station as it is now."""
        return self.document.station

    def edit(
        self, label: str, change: Callable[[Station], Station], gesture: str | None = None
    ) -> None:
        """Apply an edit as one undo step. Raises EditRefusedError."""
        self.document.edit(label, change, gesture)

    def attempt(self, do: Callable[[], object]) -> bool:
        """Do something that may be refused; whether it was done."""
        try:
            do()
        except RefusedError as error:
            self.refused.emit(str(error))
            return False
        return True

    def open_chain(self, chain_id: str) -> None:
        """Make another chain the open one."""
        self.attempt(lambda: self.edit("chain", lambda s: edits.open_chain(s, chain_id)))


class Watched(Editing):
    """A model that follows the document only while somebody looks at its space."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.seen = False
        document.changed.connect(self._follow)

    def arrive(self) -> None:
        """It is seen from now on."""
        self.seen = True
        self._follow()

    def leave(self) -> None:
        """Nobody looks any more: what waits for the hand to rest is left."""
        self.seen = False

    def rest(self) -> None:
        """Stop what runs behind the window."""

    def _follow(self) -> None:
        """The document changed, or it is seen again."""
