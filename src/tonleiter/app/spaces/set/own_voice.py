"""Reading a recording of somebody's own: behind the window, with its share, and a way to stop."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QHBoxLayout, QWidget

from tonleiter.app.derived import Derived
from tonleiter.app.jobs import TELL_EVERY_S, Task
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.progress import Progress
from tonleiter.core.sound.own import own_voice
from tonleiter.core.sound.sound import Sound


@dataclass(frozen=True, eq=False)
class Read:
    """How much of a file was read, and the voice once all of it was."""

    path: Path
    share: float
    voice: Sound | None = None


class Reading:
    """One file at a time; ``taken`` is called with the voice, ``refused`` with one line."""

    def __init__(
        self,
        derived: Derived[Read],
        taken: Callable[[Read], object],
        refused: Callable[[str], object],
    ) -> None:
        self._derived, self._taken, self._refused = derived, taken, refused
        self._count = 0
        derived.changed.connect(self._changed)

    @property
    def now(self) -> Read | None:
        """The file that is being read, None if none is."""
        return self._derived.value if self._derived.busy else None

    @property
    def busy(self) -> bool:
        """Whether a file is being read."""
        return self._derived.busy

    def take(self, path: Path) -> None:
        """Begin with a file; one that is being read is left."""
        self._count += 1
        self._derived.want((path, self._count), lambda task: _read(path, task))

    def stop(self) -> None:
        """No voice of it is wanted any more."""
        if self.busy:
            self._derived.nothing()

    def _changed(self) -> None:
        derived = self._derived
        if derived.trouble:
            self._refused(derived.trouble)
        elif derived.whole and derived.value is not None:
            read = derived.value
            derived.nothing()
            self._taken(read)


def _read(path: Path, task: Task) -> Read:
    told = time.monotonic()

    def tell(share: float) -> None:
        nonlocal told
        if time.monotonic() - told >= TELL_EVERY_S:
            told = time.monotonic()
            task.tell(Read(path, share))

    return Read(path, 1.0, own_voice(path, tell))


class ReadingBar(QWidget):
    """What is being read, how far it is, and a button that stops it; gone when there is nothing."""

    def __init__(self, look: Look, reading: Reading) -> None:
        super().__init__()
        self._reading = reading
        self._says, self._bar = label("", "sub"), Progress(look, "Recording read")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self._says)
        row.addWidget(self._bar, 1)
        row.addWidget(button("Leave it", "plain", reading.stop))
        self.hide()

    def refresh(self) -> None:
        """As far as it is."""
        self.setVisible(self._reading.busy)
        if (now := self._reading.now) is not None:
            self._says.setText(f"Reading {now.path.name}")
            self._bar.show_share(round(100 * now.share), 100)
        elif self._reading.busy:
            self._says.setText("Reading the recording")
            self._bar.show_share(0, 100)
