"""Hearing what a receiver hears: now, and as it was, in turn at the same place."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from tonleiter.app.audio.output import Output, find_output
from tonleiter.core.guide.differs import differs
from tonleiter.core.guide.scene import Scene
from tonleiter.core.sound.beside import Pair, beside
from tonleiter.core.sound.sound import Sound


class Heard(QObject):
    """``before`` is the scene before the last change of a knob, the chain or the variant.

    One that is held stays until it is let go, whatever is changed meanwhile. ``aligned``: both are
    played at one level. What differs in more than its level is heard only then.
    """

    changed = Signal()

    def __init__(self, now: Callable[[], Scene | None]) -> None:
        super().__init__()
        self._now = now
        self._shown: Scene | None = None
        self.before: Scene | None = None
        self.held = False
        self.aligned = True
        self.far = False
        self._plays_before = False
        self._output: Output | None = None
        self._looked_for = False
        self._pair: tuple[tuple[object, ...], Pair] | None = None

    def show(self, scene: Scene) -> None:
        """Another scene stands now: the one that stood is before it."""
        was = self._shown
        self._shown = scene
        if was is None or self.held or not _moved(was, scene):
            return
        self.before = was

    def forget(self) -> None:
        """Another station: nothing of the old one is compared with it."""
        self.silence()
        self._shown = self.before = self._pair = None
        self.held = False

    def hold(self) -> None:
        """Keep what stands now for comparison, until it is let go; or let it go."""
        scene = self._now()
        if self.held:
            self.held = False
        elif scene is not None:
            self.before, self.held = scene, True
        self.changed.emit()

    def align(self, aligned: bool) -> None:
        """Both at one level, or as far apart as they arrived."""
        self.aligned = aligned
        self.changed.emit()

    def listen(self, far: bool) -> None:
        """To a far receiver, or to one beside the dummy load."""
        self.far = far
        self.changed.emit()

    def differs(self) -> str:
        """What the two differ in, in one line; empty without one before, or where nothing does."""
        now = self._now()
        if now is None or self.before is None:
            return ""
        return differs(self.before, now)

    def pair(self) -> Pair | None:
        """Both, ready to be played; None without one before."""
        now, before = self._now(), self.before
        if now is None or before is None:
            return None
        aligned = self.aligned or not self.have_a_level_in_common
        key = (now, before, self.far, aligned)
        if self._pair is None or self._pair[0] != key:
            made = beside(before.audio(self.far), now.audio(self.far), aligned)
            self._pair = (key, made)
        return self._pair[1]

    def known(self) -> Pair | None:
        """The same if it was made already: the window does not make it for a line of text."""
        now, before = self._now(), self.before
        if self._pair is None or self._pair[0][:2] != (now, before):
            return None
        return self._pair[1]

    @property
    def have_a_level_in_common(self) -> bool:
        """A receiver for FM and one for single sideband have none."""
        now, before = self._now(), self.before
        return now is not None and before is not None and now.mode == before.mode

    # --- playing ---------------------------------------------------------------------------------

    def output(self) -> Output | None:
        """Where it can be heard; looked for when it is first asked for."""
        if not self._looked_for:
            self._output, self._looked_for = find_output(), True
        return self._output

    def play(self) -> bool:
        """What a receiver hears now, from its beginning; whether anything sounds."""
        scene = self._now()
        if scene is None:
            return False
        pair = self.pair()
        self._plays_before = False
        return self._play(pair.now if pair is not None else scene.received(self.far), 0.0)

    def in_turn(self) -> bool:
        """The other of the two, from the place where the one is; whether anything sounds."""
        pair, output = self.pair(), self.output()
        if pair is None or output is None:
            return False
        at = output.at_s()
        self._plays_before = at is None or not self._plays_before
        sound = pair.before if self._plays_before else pair.now
        return self._play(sound, 0.0 if at is None or at >= sound.seconds else at)

    def _play(self, sound: Sound, from_s: float) -> bool:
        output = self.output()
        if output is None:
            return False
        output.play(sound, from_s)
        self.changed.emit()
        return True

    def silence(self) -> None:
        """Stop."""
        if self._output is not None:
            self._output.stop()


def _moved(was: Scene, scene: Scene) -> bool:
    return was.case is not scene.case or was.panel.knobs != scene.panel.knobs
