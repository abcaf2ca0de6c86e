"""Recordings whose truth is known: clean ones, of which nothing may be said; marred in one way.

Clean is what an old hand calls so: any of the six voices, a little more or less bass and treble, a
set's filter or none, a quiet room, any usual rate and level. A word said of it is a fault. Of a
recording that one thing was done to, the word for it must come first, or at least among three.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from pathlib import Path

import numpy as np

from fuzz.campaign import Bound, Tally, generator
from tonleiter.app.demo import shipped_demo
from tonleiter.core.guide.onair import on_air
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import survey_sound
from tonleiter.core.listen.words import PRAISE, Word, heard
from tonleiter.core.report.heard_causes import of_chain
from tonleiter.core.setup.modes import scene_of, settled
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import voice
from tonleiter.core.station import edits
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station

ACTIVE = 0.05
RATES = (8_000, 16_000, 22_050, 44_100, 48_000, 96_000)
Mar = Callable[[Floats, int, random.Random], Floats]


def _shaped(x: Floats, rate: int, points: tuple[tuple[float, float], ...]) -> Floats:
    """A gain in dB at frequencies, straight lines between them over octaves."""
    # silence behind it, or its end would ring into its beginning
    n = x.size + rate
    f = np.maximum(np.fft.rfftfreq(n, 1 / rate), 1.0)
    db = np.interp(np.log(f), [np.log(p[0]) for p in points], [p[1] for p in points])
    made: Floats = np.fft.irfft(np.fft.rfft(x, n) * 10 ** (db / 20), n)[: x.size]
    return made


def _even(n: int, under_db: float, rng: random.Random, fall: bool = False, rate: int = 1) -> Floats:
    """Noise so far under speech; falling: six decibels an octave."""
    x = np.random.default_rng(rng.getrandbits(32)).normal(0, 1, n)
    if fall:
        f = np.fft.rfftfreq(n, 1 / rate)
        x = np.fft.irfft(np.fft.rfft(x) / np.maximum(f, 100.0), n)
    made: Floats = x / np.sqrt(np.mean(x**2)) * ACTIVE * 10 ** (-under_db / 20)
    return made


def _lines(n: int, rate: int, under_db: float, at: list[tuple[float, float]]) -> Floats:
    t = np.arange(n) / rate
    x = sum(a * np.sin(2 * np.pi * f * t) for f, a in at if f < 0.45 * rate) + np.zeros(n)
    made: Floats = x / np.sqrt(np.mean(x**2)) * ACTIVE * 10 ** (-under_db / 20)
    return made


def clean(rng: random.Random) -> tuple[Floats, int, str]:
    """A recording of which nothing is to be said: samples, rate, and what it is."""
    who = rng.choice(("deep", "high"))
    effort = rng.choice(("soft", "normal", "loud"))
    rate, filtered = rng.choice(RATES), rng.random() < 0.5
    x = voice(who, effort).times(ACTIVE).at_rate(rate).samples  # type: ignore[arg-type]
    start = rng.randint(0, max(x.size - 8 * rate, 0) // 2)
    x = x[start : start + rng.randint(8, 12) * rate]
    bass, treble = rng.uniform(-2.5, 2.5), rng.uniform(-2.5, 2.5)
    x = _shaped(x, rate, ((200, bass), (500, 0), (1500, 0), (2400, treble)))
    if filtered:
        low, high = rng.uniform(80, 220), rng.uniform(2700, 3400)
        x = _shaped(x, rate, ((low / 2, -40), (low, 0), (high, 0), (high * 1.3, -50)))
    x = x + _even(x.size, rng.uniform(38, 60), rng, rng.random() < 0.5, rate)
    says = f"{who} {effort} {rate} Hz bass {bass:+.1f} treble {treble:+.1f} filter {filtered}"
    return x, rate, says


def _levelled(x: Floats, rng: random.Random) -> Floats:
    """At a usual level, never over full scale."""
    least = 10 ** (rng.uniform(-30, -16) / 20) / ACTIVE
    return x * min(least, 0.9 / float(np.abs(x).max()))


def _at(x: Floats, rate: int, rng: random.Random) -> int:
    return rng.randint(rate, x.size - rate)


def _clicks(x: Floats, rate: int, rng: random.Random) -> Floats:
    x = x.copy()
    for _ in range(rng.randint(1, 4)):
        k = _at(x, rate, rng)
        x[k : k + max(rate // 8000, 1)] += rng.choice((-1, 1)) * 14 * ACTIVE
    return x


def _pops(x: Floats, rate: int, rng: random.Random) -> Floats:
    x, n = x.copy(), round(0.09 * rate)
    for _ in range(rng.randint(1, 3)):
        k = _at(x, rate, rng)
        t = np.arange(n) / rate
        x[k : k + n] += 10 * ACTIVE * np.sin(2 * np.pi * 30 * t) * np.exp(-t / 0.03)
    return x


def _gaps(x: Floats, rate: int, rng: random.Random) -> Floats:
    """Samples lost while somebody speaks: where he is loud."""
    x = x.copy()
    loud = np.flatnonzero(np.abs(x) > 2 * ACTIVE)
    for _ in range(rng.randint(1, 5)):
        k = int(loud[rng.randrange(loud.size)])
        x[k : k + round(rng.uniform(0.01, 0.04) * rate)] = 0.0
    return x


def _cut(x: Floats, rate: int, rng: random.Random) -> Floats:
    top = float(np.abs(x).max()) * 10 ** (-rng.uniform(4, 10) / 20)
    made: Floats = np.clip(x, -top, top)
    return made


def _squashed(x: Floats, rate: int, rng: random.Random) -> Floats:
    """Held down fast and hard, without an edge: the envelope divided out."""
    width = round(0.004 * rate)
    size = np.sqrt(np.convolve(x**2, np.ones(width) / width, "same") + (0.1 * ACTIVE) ** 2)
    made: Floats = x / size ** rng.uniform(0.85, 0.95)
    return made / np.sqrt(np.mean(made**2)) * ACTIVE


def _pumping(x: Floats, rate: int, rng: random.Random) -> Floats:
    """Noise 34 dB under speech, and a compressor that lets go within some tenths of a second."""
    x = x + _even(x.size, rng.uniform(30, 36), rng, rate=rate)
    most = 10 ** (rng.uniform(14, 20) / 20)
    keeps = math.exp(-0.001 / rng.uniform(0.2, 0.4))
    step = rate // 1000
    sizes = np.abs(x[: x.size // step * step]).reshape(-1, step).max(axis=1)
    held, gains = 0.0, []
    for size in sizes:
        held = max(float(size), keeps * held)
        gains.append(min(most, ACTIVE / max(held, 1e-9)))
    made: Floats = x * np.interp(np.arange(x.size) / step, np.arange(sizes.size), gains)
    return made / np.sqrt(np.mean(made**2)) * ACTIVE


def _echo(x: Floats, rate: int, rng: random.Random) -> Floats:
    late = round(rng.uniform(0.06, 0.25) * rate)
    made = x.copy()
    made[late:] += rng.uniform(0.45, 0.8) * x[:-late]
    return made


def _off(x: Floats, rate: int, rng: random.Random) -> Floats:
    """A sideband whose carrier is put back wrong."""
    off = rng.choice((-1, 1)) * rng.uniform(26, 40)
    spectrum = np.fft.fft(x)
    spectrum[x.size // 2 :] = 0.0
    turned = np.fft.ifft(2 * spectrum) * np.exp(2j * np.pi * off * np.arange(x.size) / rate)
    made: Floats = turned.real
    return made


def _hum(x: Floats, rate: int, rng: random.Random) -> Floats:
    base = rng.choice((50.0, 100.0, 60.0, 120.0))
    at = [(base * k, 1 / k) for k in range(1, rng.randint(2, 6))]
    return x + _lines(x.size, rate, rng.uniform(22, 38), at)


def _usb(x: Floats, rate: int, rng: random.Random) -> Floats:
    at = [(1000.0 * k, 0.8**k) for k in range(1, 8)]
    return x + _lines(x.size, rate, rng.uniform(25, 40), at)


def _tone(*points: tuple[float, float]) -> Mar:
    return lambda x, rate, rng: _shaped(x, rate, points)


MARRED: dict[Word, Mar] = {
    "hum": _hum,
    "buzz": _usb,
    "hiss": lambda x, rate, rng: x + _even(x.size, rng.uniform(12, 20), rng),
    "noisy": lambda x, rate, rng: x + _even(x.size, rng.uniform(10, 17), rng, True, rate),
    "muffled": _tone((1200, 0), (2200, -13), (4000, -20)),
    "harsh": _tone((1200, 0), (2200, 13)),
    "thin": _tone((100, -24), (300, -13), (500, 0)),
    "bassy": _tone((120, 12), (350, 12), (600, 0)),
    "boxy": _tone((220, 0), (330, 0), (420, 14), (520, 0)),
    "distorted": _cut,
    "squashed": _squashed,
    "clicks": _clicks,
    "pops": _pops,
    "drop-outs": _gaps,
    "pumping": _pumping,
    "echo": _echo,
    "off-frequency": _off,
    "quiet": lambda x, rate, rng: x,
}


def said_of(x: Floats, rate: int) -> list[Word]:
    """The words, in order."""
    return [h.word for h in heard(Measures(survey_sound(Sound(x, rate))))]


def clean_recordings(seed: int, bound: Bound, folder: Path) -> Tally:
    """Nothing may be said of a clean one."""
    tally, rng = Tally("clean"), generator(seed, "clean")
    while not bound.reached(tally):
        tally.tried += 1
        x, rate, says = clean(rng)
        for word in said_of(_levelled(x, rng), rate):
            if word not in PRAISE:
                tally.fault(f"“{word}” said of a clean one", says)
    return tally


def marred_recordings(seed: int, bound: Bound, folder: Path) -> Tally:
    """What was done to it comes first of what is said, or among three."""
    tally, rng = Tally("marred"), generator(seed, "marred")
    kinds = [*MARRED]
    while not bound.reached(tally):
        kind = kinds[tally.tried % len(kinds)]
        tally.tried += 1
        x, rate, says = clean(rng)
        x = MARRED[kind](x, rate, rng)
        # of what is 45 dB down there is no saying whether it is more than that
        x = x * 10 ** (-rng.uniform(22, 32) / 20) if kind == "quiet" else _levelled(x, rng)
        words = said_of(x, rate)
        if not words or words[0] != kind:
            where = "among three" if kind in words[:3] else "not among three"
            tally.fault(f"{kind}: not first, {where}", f"{words} {says}")
    return tally


# what is wrong with a chain, drawn, and the codes that name it
CHAT, FM = "hf-chat", "fm-headset"
Wrong = Callable[[Station, random.Random], Station]


def _piece(piece: str, draw: Callable[[random.Random], dict[str, object]]) -> Wrong:
    return lambda s, rng: edits.change_gear(s, piece, **draw(rng))


def _far(chain: str) -> Wrong:
    return lambda s, rng: edits.change_station(
        edits.change_chain(s, chain, distance_mm=rng.uniform(200, 400)),
        room_noise_dba=rng.uniform(60, 70),
    )


def _looped(s: Station, rng: random.Random) -> Station:
    return edits.change_gear(s, "desk-mixer", earth_emf_v=rng.uniform(0.003, 0.01))


def _blocked(s: Station, rng: random.Random) -> Station:
    """The way with a transformer, and a capacitor before it that somebody found in a drawer."""
    s = edits.change_chain(s, CHAT, shown="with-transformer")
    while stops := (found := verdict_of(s, CHAT)).stops():
        s = found.remedies(stops[0])[0].change(s)
    return edits.change_gear(s, "blocking-capacitor", capacitance_f=rng.uniform(6e-8, 2e-7))


# a wider hole takes less treble than voices differ by, and no recording tells it from one
CAUSED: dict[str, tuple[str, set[str], Wrong]] = {
    "foam before the capsule": (
        CHAT,
        {"housing-muffles"},
        _piece("stage-dynamic", lambda r: {"housing": "in-case", "over_it": "foam",
               "opening_mm": r.uniform(0.8, 1.3), "opening_long_mm": r.uniform(4.0, 8.0)}),
    ),
    "a loop of earths": (CHAT, {"earth-loop"}, _looped),
    "too far off in a loud room": (CHAT, {"noise-heard"}, _far(CHAT)),
    "a small coupling capacitor": (CHAT, {"bass-corner-high"}, _blocked),
    "a case with a large hollow": (
        CHAT,
        {"housing-muffles"},
        _piece("stage-dynamic", lambda r: {"housing": "in-case",
               "cavity_cm3": r.uniform(4.0, 25.0), "opening_mm": r.uniform(1.5, 4.0),
               "opening_long_mm": r.uniform(3.0, 5.0)}),
    ),
    "a mixer turned far up": (
        CHAT,
        {"over-ceiling", "over-window"},
        _piece("desk-mixer", lambda r: {"gain_db": r.uniform(57.0, 60.0)}),
    ),
    "foam in a headset": (
        FM,
        {"housing-muffles"},
        _piece("electret-headset", lambda r: {"housing": "in-case", "over_it": "foam",
               "opening_mm": r.uniform(0.4, 1.0), "opening_long_mm": r.uniform(4.0, 8.0)}),
    ),
    "a headset far off in a loud room": (FM, {"noise-heard"}, _far(FM)),
}  # fmt: skip


def _set_right() -> Station:
    """The demo's chat with its mixer at the radio's outlet, and its headset; both are set."""
    base = read_station(shipped_demo()).station
    base = edits.change_chain(base, CHAT, shown="as-wired")
    base = edits.change_gear(base, "desk-mixer", earth_emf_v=1e-4)
    for chain in (CHAT, FM):
        panel = settled(on_air(base, chain), base.chain(chain).panel).panel
        base = edits.change_chain(base, chain, panel=panel)
    return base


def caused_recordings(seed: int, bound: Bound, folder: Path) -> Tally:
    """A chain with one thing wrong, simulated: its cause is named first, or among three."""
    tally, rng = Tally("caused"), generator(seed, "caused")
    base = _set_right()
    kinds = [*CAUSED]
    while not bound.reached(tally):
        kind = kinds[tally.tried % len(kinds)]
        tally.tried += 1
        chain, codes, change = CAUSED[kind]
        station = change(base, rng)
        found = verdict_of(station, chain)
        scene = scene_of(on_air(station, chain, verdict=found), station.chain(chain).panel)
        sound = scene.audio(far=False)
        m = Measures(survey_sound(sound.times(0.1 / max(float(np.std(sound.samples)), 1e-9) * 0.5)))
        named = [
            [f.code for f in of_chain(h.word, found)][:1] for h in heard(m) if h.word not in PRAISE
        ]
        first = bool(named) and bool(set(named[0]) & codes)
        among = any(set(n) & codes for n in named[:3])
        if not first:
            where = "among three" if among else "not among three"
            tally.fault(f"{kind}: not first, {where}", f"{[h.word for h in heard(m)]} {named}")
    return tally
