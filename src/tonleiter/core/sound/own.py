"""A recording of somebody's own, made ready to be spoken with."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tonleiter.core.sound.files import FORMATS, SoundError, read_sound
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import RATE_HZ


def own_voice(path: Path, tell: Callable[[float], object] | None = None) -> Sound:
    """A recording at the voices' rate with an active level of one unit. Raises SoundError.

    The level is taken after the rate was changed: what the rate cannot hold is not spoken.
    """
    sound = read_sound(path, tell).at_rate(RATE_HZ)
    level = active_level(sound).rms
    if level <= 0:
        raise SoundError(f"{path}: nothing of it is left at {RATE_HZ} Hz; {FORMATS} is wanted")
    return sound.times(1 / level)
