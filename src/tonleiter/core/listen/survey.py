"""A recording gone through once, block by block: what every measure is made of.

Two hours fit into bounded memory: a few numbers a millisecond, a spectrum in bands for each fifth
of a second, copies of the quietest pieces, where hum and noise stand alone, and of the loudest.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import count
from pathlib import Path

import numpy as np

from tonleiter.core.listen.flat import FlatTops
from tonleiter.core.listen.loudness import Loudness, TruePeak
from tonleiter.core.signal.arrays import Floats, Small
from tonleiter.core.sound.opened import Opened, opened
from tonleiter.core.sound.sound import Sound

STEP_S, SEGMENT_S = 0.001, 0.17
# bands of a sixth of an octave from here on
LOW_HZ, PER_OCTAVE = 50.0, 6
QUIET_S, QUIETEST, LOUDEST = 0.4, 40, 24
# digital silence says nothing of noise
NOTHING = 1e-13
# looks at so many places to find the channel that carries the voice
PLACES = 24


def band_edges(rate_hz: float) -> Floats:
    """Edges of bands of a sixth of an octave, up to what a rate holds; shape (bands + 1,)."""
    edges = LOW_HZ * 2 ** (np.arange(0, 60) / PER_OCTAVE)
    made: Floats = edges[edges < 0.46 * rate_hz]
    return made


@dataclass(frozen=True, eq=False)
class Survey:
    """What was gathered. Levels are of samples whose full scale is one.

    ``sizes``, ``peaks`` and ``means`` are of each millisecond: mean size, largest size, mean;
    shape (steps,). ``bands`` are powers of segments in bands between ``edges``, shape (segments,
    bands); ``segment_s`` is from one segment to the next. ``quiet`` are the quietest pieces,
    ``loud`` the loudest; ``loudness`` has weighted powers of tenths of a second.
    """

    rate_hz: int
    channels: int
    channel: int
    frames: int
    step_s: float
    sizes: Small
    peaks: Small
    means: Small
    energy: float
    edges: Floats
    bands: Small
    segment_s: float
    quiet: tuple[Small, ...]
    loud: tuple[Small, ...]
    loudness: Small
    true_peak: float
    flat: FlatTops
    remarks: tuple[str, ...] = ()

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.frames / self.rate_hz

    @property
    def peak(self) -> float:
        """The largest sample."""
        return float(self.peaks.max(initial=0.0))


def survey_file(
    path: Path, tell: Callable[[float], object] | None = None, from_s: float = 0.0
) -> Survey:
    """Go through a file, from a place in it on; ``tell`` hears how far it is, 0 to 1.

    Raises SoundError, StoppedError.
    """
    with opened(path) as file:
        channel = _loudest(file)
        said = []
        if file.channels > 1:
            said.append(f"of {file.channels} channels the {channel + 1}. is the loudest: that one")
        start = min(max(round(from_s * file.rate_hz), 0), file.frames)
        left = file.frames - start
        made = _survey(
            (b[:, channel] for b in file.blocks(start, left)),
            file.rate_hz,
            file.channels,
            channel,
            left,
            tell,
        )
        if file.cut_short:
            said.append("it ends before its own header says: what is there was taken")
        return replace(made, remarks=tuple(said))


def survey_sound(sound: Sound) -> Survey:
    """Go through a recording that is in memory."""
    block = 1 << 16
    x = sound.samples.astype(np.float32)
    parts = (x[k : k + block] for k in range(0, x.size, block))
    return _survey(parts, sound.rate_hz, 1, 0, x.size, None)


def _loudest(file: Opened) -> int:
    """The channel with the most power, by looks at places all over the file."""
    if file.channels == 1:
        return 0
    power = np.zeros(file.channels)
    for k in range(PLACES):
        at = int(file.frames * k / PLACES)
        for block in file.blocks(at, min(4096, file.frames - at)):
            power += (block.astype(float) ** 2).sum(axis=0)
    return int(np.argmax(power))


def _survey(
    parts: Iterator[Small],
    rate_hz: int,
    channels: int,
    channel: int,
    frames: int,
    tell: Callable[[float], object] | None,
) -> Survey:
    steps = _Steps(max(round(STEP_S * rate_hz), 1))
    segments = _Segments(rate_hz)
    piece = max(round(QUIET_S * rate_hz), 8)
    quiet, loud = _Pieces(piece, QUIETEST, -1.0), _Pieces(piece, LOUDEST, 1.0)
    loudness, true_peak = Loudness(rate_hz), TruePeak(rate_hz)
    flat = FlatTops()
    energy, seen = 0.0, 0
    for part in parts:
        energy += float(np.dot(part.astype(float), part.astype(float)))
        seen += part.size
        for taker in (steps, segments, quiet, loud, loudness, true_peak, flat):
            taker.take(part)
        if tell is not None:
            tell(min(seen / max(frames, 1), 1.0))
    sizes, peaks, means = steps.done()
    step = steps.size
    return Survey(
        rate_hz,
        channels,
        channel,
        seen,
        step / rate_hz,
        sizes,
        peaks,
        means,
        energy / step,
        segments.edges,
        segments.done(),
        segments.hop / rate_hz,
        quiet.done(),
        loud.done(),
        loudness.done(),
        true_peak.peak,
        flat,
    )


class _Steps:
    """Mean size, largest size and mean of each millisecond."""

    def __init__(self, size: int) -> None:
        self.size = size
        self._left: Small = np.zeros(0, np.float32)
        self._made: tuple[list[Small], list[Small], list[Small]] = ([], [], [])

    def take(self, part: Small) -> None:
        """Some more samples."""
        x = np.concatenate([self._left, part])
        whole = x.size // self.size * self.size
        self._left = x[whole:]
        if not whole:
            return
        rows = x[:whole].reshape(-1, self.size)
        size = np.abs(rows)
        for made, x in zip(
            self._made, (size.mean(axis=1), size.max(axis=1), rows.mean(axis=1)), strict=True
        ):
            made.append(x)

    def done(self) -> tuple[Small, Small, Small]:
        """All of them."""
        a, b, c = (_joined(made) for made in self._made)
        return a, b, c


def _joined(parts: list[Small]) -> Small:
    """One array; the parts are given up."""
    made = np.concatenate(parts) if parts else np.zeros(0, np.float32)
    parts.clear()
    return made


class _Segments:
    """Power in bands of segments that overlap by half."""

    def __init__(self, rate_hz: int) -> None:
        self._size = 1 << max(round(np.log2(SEGMENT_S * rate_hz)), 6)
        self.hop = self._size // 2
        self.edges = band_edges(rate_hz)
        self._window = np.hanning(self._size).astype(np.float32)
        f = np.fft.rfftfreq(self._size, 1 / rate_hz)
        self._cuts = np.searchsorted(f, self.edges)
        # power of a sample: a sine of amplitude one has a half
        self._scale = 2 / float((self._window**2).sum() * self._size)
        self._left: Small = np.zeros(0, np.float32)
        self._made: list[Small] = []

    def take(self, part: Small) -> None:
        """Some more samples."""
        x = np.concatenate([self._left, part])
        segments = max((x.size - self._size) // self.hop + 1, 0)
        if not segments:
            self._left = x
            return
        at = np.lib.stride_tricks.sliding_window_view(x, self._size)[:: self.hop][:segments]
        power = np.abs(np.fft.rfft(at * self._window)) ** 2 * self._scale
        sums = np.add.reduceat(power, self._cuts[:-1], axis=1)
        # a band without a bin of its own would repeat its neighbour
        empty = np.diff(self._cuts) == 0
        last = power[:, self._cuts[-2] : self._cuts[-1]].sum(axis=1)
        sums[:, -1] = last
        sums[:, empty] = 0.0
        self._made.append(sums.astype(np.float32))
        self._left = x[segments * self.hop :]

    def done(self) -> Small:
        """Shape (segments, bands)."""
        if not self._made:
            return np.zeros((0, self.edges.size - 1), np.float32)
        return np.concatenate(self._made)


class _Pieces:
    """Copies of the quietest or the loudest pieces that are not digital silence."""

    def __init__(self, size: int, most: int, sign: float) -> None:
        self._size, self._most, self._sign = size, most, sign
        self._left: Small = np.zeros(0, np.float32)
        self._heap: list[tuple[float, int, Small]] = []
        self._count = count()

    def take(self, part: Small) -> None:
        """Some more samples."""
        x = np.concatenate([self._left, part])
        pieces = x.size // self._size
        for piece in x[: pieces * self._size].reshape(pieces, self._size):
            power = float(np.dot(piece, piece)) / self._size
            if power < NOTHING:
                continue
            worth = self._sign * power
            if len(self._heap) < self._most:
                heapq.heappush(self._heap, (worth, next(self._count), piece.copy()))
            elif worth > self._heap[0][0]:
                heapq.heapreplace(self._heap, (worth, next(self._count), piece.copy()))
        self._left = x[pieces * self._size :]

    def done(self) -> tuple[Small, ...]:
        """What was looked for most first."""
        return tuple(piece for _, _, piece in sorted(self._heap, key=lambda e: -e[0]))
