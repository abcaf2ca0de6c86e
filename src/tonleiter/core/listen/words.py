"""Words that listeners use, each tied to what is measured, with its threshold and its reason.

A word is said from ``from_`` on; how sure follows from the figure's own uncertainty. None is said
where the figure cannot be told.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.listen.measures import Measures, Told, untold

Word = Literal[
    "muffled", "thin", "bassy", "harsh", "boxy", "hum", "buzz", "hiss", "noisy", "clicks", "pops",
    "drop-outs", "distorted", "squashed", "pumping", "echo", "off-frequency", "quiet", "clear",
    "warm", "crisp",
]  # fmt: skip
# said where nothing is wrong
PRAISE: tuple[Word, ...] = ("clear", "warm", "crisp")
Grave = Literal["stop", "mind", "fine"]
LEAST_OVER_NOISE_DB = 8.0
# speech without a pause to be found falls by more than this somewhere, unless noise fills it
FILLED_DB = 9.0


@dataclass(frozen=True)
class Rule:
    """One word: what is measured, from where on it is said (upwards), in which unit, and why."""

    word: Word
    says: str
    measure: Callable[[Measures], Told]
    from_: float
    unit: str
    why: str
    grave: Grave = "mind"


@dataclass(frozen=True)
class Heard:
    """A word that fits a recording: the figure, and how sure it is that it lies over its line."""

    word: Word
    says: str
    figure: str
    value: float
    sure: float
    why: str
    grave: Grave


def _negative(told: Told) -> Told:
    return Told(None if told.value is None else -told.value, told.sure, told.why)


def _hum(m: Measures) -> Told:
    under = m.hum.mains_under_db
    return untold(m.hum.why or "no line of the mains") if under is None else Told(-under, 0.5)


def _comb(m: Measures) -> Told:
    under = m.hum.comb_under_db
    return untold(m.hum.why or "no comb of USB") if under is None else Told(-under, 0.5)


def _noise(falling: bool) -> Callable[[Measures], Told]:
    """Noise that has no lines, falling with frequency as a fan's or not: what the mains leave."""

    def measure(m: Measures) -> Told:
        if (m.hum.noise == "fan") != falling:
            other = "does not fall" if falling else "falls"
            return untold(f"it {other} with frequency, as a fan's does")
        over = m.over_noise
        if over.value is not None:
            return Told(-_less_lines(m, over.value), over.sure)
        # noise may fill every pause: speech falls no further than to it
        if m.falls_db is None or m.falls_db > FILLED_DB:
            return untold(m.noise.why)
        return Told(-m.falls_db, 1.0)

    return measure


def _less_lines(m: Measures, over_db: float) -> float:
    """How far noise without its lines lies under speech."""
    lines = sum(10 ** (-x.under_db / 10) for x in (*m.hum.mains, *m.hum.comb))
    left = max(10 ** (-over_db / 10) - lines, 1e-9)
    return -10 * math.log10(left)


def _count(kind: str) -> Callable[[Measures], Told]:
    def measure(m: Measures) -> Told:
        return untold(m.silent) if m.silent else Told(float(len(m.of(kind))), 0.0)

    return measure


def _cut(m: Measures) -> Told:
    share = m.cut_share
    return share if share.value is None else Told(100 * share.value, 100 * share.sure)


def _box(m: Measures) -> Told:
    """A hump of a third of an octave or two between 250 and 700 Hz, over what lies around it."""
    if not m.level.known:
        return untold(m.level.why)
    off, f = m.against_speech_db, m.centres
    inside = (f >= 250) & (f <= 700)
    under, over = (f >= 120) & (f < 220), (f > 900) & (f < 2000)
    if inside.sum() < 4 or under.sum() < 2 or over.sum() < 4:
        return untold("its rate does not hold that band")
    # over both sides: a shelf of bass is no hump
    return Told(float(off[inside].max() - max(off[under].mean(), off[over].mean())), 1.0)


def _squashed(m: Measures) -> Told:
    """How little loud and soft differ; not told where noise fills what is soft."""
    over = m.over_noise
    if over.value is not None and over.value < LEAST_OVER_NOISE_DB:
        return untold(f"the noise is {over.value:.0f} dB under speech and fills what is soft")
    return _negative(m.loud_to_soft)


def _off(m: Measures) -> Told:
    off = m.off_hz
    return off if off.value is None else Told(abs(off.value), off.sure)


RULES: tuple[Rule, ...] = (
    Rule("distorted", "cut", _cut, 0.05, "% of its samples",
         "flat tops: a stage, a converter or a limiter has no room; each one is wide on the air",
         "stop"),
    Rule("muffled", "muffled", lambda m: _negative(m.high), 5.5, "dB of treble missing",
         "consonants live from 1.8 to 3.2 kHz; a set's own filter takes up to 4 dB of that band"),
    Rule("harsh", "harsh", lambda m: m.high, 7.0, "dB of treble too much",
         "over 7 dB sibilants hurt before words gain"),
    Rule("thin", "thin", lambda m: _negative(m.low), 10.0, "dB of bass missing",
         "a voice without its fundamental is nobody's; a set's own filter takes up to 7 dB of it"),
    Rule("bassy", "bassy", lambda m: m.low, 6.0, "dB of bass too much",
         "bass takes the power and carries no word"),
    Rule("boxy", "boxy", _box, 6.5, "dB of a hump between 250 and 700 Hz",
         "the body of a case answers; a room does the same, wider"),
    # before noise: what holds speech down lifts what lies between words
    Rule("squashed", "squashed", _squashed, -3.0, "dB between loud and soft",
         "syllables differ by 5 to 9 dB; under 3 they were held down hard, and the room comes up"),
    Rule("pumping", "pumping", lambda m: m.rise, 9.0, "dB that the noise comes up between words",
         "a compressor lets go between words and the room comes up"),
    Rule("hum", "hum", _hum, -45.0, "dB against speech",
         "a line that stands still is heard 45 dB under a voice, in its pauses"),
    Rule("buzz", "buzz of USB", _comb, -50.0, "dB against speech",
         "multiples of a kilohertz stick out where the ear is keenest"),
    Rule("hiss", "hiss", _noise(falling=False), -25.0, "dB against speech",
         "even noise is forgiven up to 25 dB under speech"),
    Rule("noisy", "a fan or a room", _noise(falling=True), -22.0, "dB against speech",
         "noise that falls with frequency is forgiven a little more"),
    Rule("clicks", "clicks", _count("click"), 1.0, "of them",
         "one is noticed: a switch beside the capsule, a relay, a cold joint"),
    Rule("pops", "pops", _count("pop"), 1.0, "of them",
         "breath on the capsule: speak across it"),
    Rule("drop-outs", "drop-outs", _count("drop-out"), 1.0, "of them",
         "samples that were lost: a computer, not a microphone"),
    Rule("off-frequency", "off frequency", _off, 20.0, "Hz off, or a pitch more or less",
         "harmonics are no multiples of the pitch: a voice sounds strange from 20 Hz on"),
    Rule("echo", "an echo", lambda m: m.echo, 0.14, "of the first sound, again",
         "a wall, a monitor loudspeaker beside the microphone, or a program that hears itself"),
    Rule("quiet", "quiet", lambda m: _negative(m.level), 38.0, "dB under full scale",
         "what is recorded so low has the converter's noise in it"),
)  # fmt: skip


def heard(m: Measures) -> tuple[Heard, ...]:
    """The words that fit, the gravest and surest first; “clear” where none does."""
    found = []
    for rule in RULES:
        told = rule.measure(m)
        if told.value is None or told.value < rule.from_:
            continue
        sure = _over(told.value - rule.from_, told.sure)
        figure = f"{abs(told.value):.3g} {rule.unit}"
        found.append(Heard(rule.word, rule.says, figure, told.value, sure, rule.why, rule.grave))
    order = ("stop", "mind", "fine")
    # what is as good as sure keeps the order of the table
    found.sort(key=lambda h: (order.index(h.grave), -round(h.sure, 1)))
    return tuple(found) if found or not m.level.known else _praise(m)


# from here on a clear one is warm, or crisp as well; what is more is a fault by the table above
WARM_DB, CRISP_DB = 2.5, 3.0


def _praise(m: Measures) -> tuple[Heard, ...]:
    made = [Heard("clear", "clear", "nothing found", 0.0, 1.0, "no rule fits it", "fine")]
    if (m.low.value or 0.0) >= WARM_DB:
        figure = f"{m.low.value:.1f} dB of bass over average speech"
        made.append(Heard("warm", "warm", figure, m.low.value or 0.0, 0.8, "bass without boom",
                          "fine"))  # fmt: skip
    if (m.high.value or 0.0) >= CRISP_DB:
        figure = f"{m.high.value:.1f} dB of treble over average speech"
        made.append(Heard("crisp", "crisp", figure, m.high.value or 0.0, 0.8,
                          "consonants stand out", "fine"))  # fmt: skip
    return tuple(made)


def _over(by: float, sure: float) -> float:
    """How likely a figure lies over its line, for a normal error."""
    if sure <= 0:
        return 1.0
    return 0.5 * (1 + math.erf(by / (sure * math.sqrt(2))))
