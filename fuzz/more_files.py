"""Formats that came later: boxes, pinouts, recordings, circuits over time, readings of a bench."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np

from fuzz.campaign import Bound, Tally, attempt, generator
from fuzz.files import _written
from fuzz.mutate import spoiled_text
from tonleiter.app.demo import shipped_demo
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.prove.prove import check_value, read_value
from tonleiter.core.sound.own import own_voice
from tonleiter.core.station.box_files import box_text, read_arrival
from tonleiter.core.station.files import read_station
from tonleiter.core.station.pinout_files import pinout_text, read_pinout

OVER_TIME = (
    "rc\nV1 a 0 PULSE(0 5 0 1u 1u 1m 2m)\nR1 a b 1k\nC1 b 0 1u\n.tran 20u 4m\n",
    "clip\nV1 a 0 SIN(0 2 1k)\nR1 a b 1k\nD1 b 0 d\nD2 0 b d\n.model d d\n.tran 10u 3m 1m 5u\n",
    "pwl\nV1 a 0 PWL(0 0 1m 1 1.001m 0)\nL1 a b 10m\nC1 b 0 1u\nR1 b 0 1k\n.tran 10u 3m\n",
    "amp\nV1 vcc 0 9\nVin in 0 SIN(0 10m 1k)\nC1 in b 1u\nR1 vcc b 100k\nR2 b 0 22k\nRc vcc c 4k7\n"
    "Re e 0 1k\nQ1 c b e n\n.model n npn (bf=200)\n.tran 20u 4m\n",
)
ODD = ("0", "-1", "1e-320", "1e308", "1e999", "1e-15", "nan", "9" * 400, "1e9", "0.1f", "{1/0}")
READ = (
    *("0.84", "840m", "open", "beep", "OL", "1.", "1 ,", "2.8 Vpp", "-3,1 V", "4k7", "½", "inf"),
    *("nan", "1e308", "1e-308", "−88", "+5", "5e", "..", "0x10", "３", "1e5 kΩ", "9" * 400),
)


def boxes(seed: int, bound: Bound, folder: Path) -> Tally:
    """Spoil a friend's box, and a pinout."""
    tally, rng = Tally("boxes"), generator(seed, "boxes")
    station = read_station(shipped_demo()).station
    texts = [box_text(station, d.id).encode() for d in station.devices]
    texts += [pinout_text(c).encode() for d in station.devices for c in d.connectors]
    file = folder / "spoiled.json"
    while not bound.reached(tally):
        content = rng.choice(texts)
        text = _written(json.loads(content), content, rng)
        file.write_bytes(text)
        attempt(tally, lambda: read_arrival(file), text[:200])
        attempt(tally, lambda: pinout_text(read_pinout(file)), text[:200])
    return tally


def recordings(seed: int, bound: Bound, folder: Path) -> Tally:
    """Sound files cut, spoiled, of odd rates and channels, silent, clipped, constant."""
    import soundfile

    tally, rng = Tally("recordings"), generator(seed, "recordings")
    dice = np.random.default_rng(seed)
    while not bound.reached(tally):
        kind = rng.choice((("wav", "PCM_16"), ("wav", "FLOAT"), ("flac", "PCM_24"), ("ogg", None)))
        rate = rng.choice((8000, 11_025, 16_000, 44_100, 48_000, 96_000))
        channels = rng.choice((1, 1, 2, 3, 8))
        count = rng.choice((0, 1, 100, rate, 2 * rate, 3 * rate))
        samples = dice.standard_normal((count, channels)) * rng.choice((0, 1e-6, 0.05, 1.0, 30.0))
        samples += rng.choice((0.0, 0.0, 0.3, -0.9))
        if kind[1] == "FLOAT" and samples.size and rng.random() < 0.3:
            samples.flat[rng.randrange(samples.size)] = rng.choice((np.nan, np.inf, 1e38))
        made = io.BytesIO()
        try:
            soundfile.write(made, samples, rate, kind[1], format=kind[0].upper())
        except (RuntimeError, ValueError):
            continue
        content = made.getvalue()
        if rng.random() < 0.5:
            content = content[: rng.randrange(len(content) + 1)]
        elif rng.random() < 0.5:
            content = spoiled_text(content, rng)
        file = folder / f"spoiled.{kind[0]}"
        file.write_bytes(content)
        attempt(tally, lambda: _spoken(file), f"{kind} {rate} {channels} {count}")
    return tally


def _spoken(file: Path) -> None:
    made = own_voice(file)
    if not np.all(np.isfinite(made.samples)):
        raise AssertionError("a recording that was taken has samples that are no numbers")


def over_time(seed: int, bound: Bound, _: Path) -> Tally:
    """Spoil circuits over time: each ends, in a result, a part of one, or a line."""
    tally, rng = Tally("over-time"), generator(seed, "over-time")
    while not bound.reached(tally):
        tokens = rng.choice(OVER_TIME).replace("(", " ( ").replace(")", " ) ").split(" ")
        for _ in range(rng.choice((1, 1, 2, 3))):
            at = rng.randrange(len(tokens))
            tokens[at] = rng.choice((*ODD, rng.choice(tokens)))
        text = " ".join(tokens)
        attempt(tally, lambda: _ran(text), text, slow_s=6.0)
    return tally


def _ran(text: str) -> None:
    results = run_deck(read_deck(text), seconds=1.0)
    json.dumps(results, allow_nan=False)


def readings(seed: int, bound: Bound, _: Path) -> Tally:
    """Readings as people, and cats, type them on a bench."""
    tally, rng = Tally("readings"), generator(seed, "readings")
    while not bound.reached(tally):
        text = rng.choice(READ)
        for _ in range(rng.choice((0, 0, 1, 3))):
            at = rng.randrange(len(text) + 1)
            text = text[:at] + rng.choice("0123456789.,-+ eEkmµVΩAp%") + text[at:]
        unit, step = rng.choice((("V", "dc"), ("A", "current"), ("Ω", "ring"), ("V", "tone")))
        attempt(tally, lambda: _taken(text, unit, step), text[:80], slow_s=0.2)
    return tally


def _taken(text: str, unit: str, step: str) -> None:
    value = read_value(text, unit, step)  # type: ignore[arg-type]
    if value != value:
        raise AssertionError("a reading that is no number was taken")
    if value != float("inf"):
        check_value(value, unit, step)  # type: ignore[arg-type]
