"""Mutated stations, pieces and circuit files: each is read as it should be, or refused in a line."""

from __future__ import annotations

import json
import random
import warnings
from pathlib import Path
from typing import Any

from fuzz.campaign import Bound, Tally, attempt, generator
from fuzz.mutate import spoiled, spoiled_text
from tonleiter.app.demo import shipped_demo
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.own_circuit import OwnCircuit
from tonleiter.core.guide.cards import cards_csv, cards_json, holds, settings_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.station.files import present_fingerprint, read_station, save_station
from tonleiter.core.station.pieces import piece_text, read_piece

DECKS = (
    "divider\nV1 a 0 10 AC 1\nR1 a b 1k\nR2 b 0 {r*2}\n.param r=500\n.op\n.ac dec 3 10 1k\n.end\n",
    "stage\nV1 vcc 0 9\nVin in 0 AC 1\nC1 in b 1u\nR1 vcc b 100k\nR2 b 0 22k\nRc vcc c 4k7\n"
    "Re e 0 1k\nQ1 c b e npn1\n.model npn1 npn (bf=200)\n.op\n.noise v(c) Vin dec 2 100 1k\n",
    "x\n.subckt pad i o\nR1 i o 1k\nR2 o 0 1k\n.ends\nV1 a 0 1\nX1 a b pad\nX2 b c pad\nK1 l1 l2 .9\n"
    "L1 c 0 1m\nL2 d 0 1m\nR9 d 0 50\nE1 e 0 d 0 2\nG1 f 0 e 0 1m\nRf f 0 1k\nD1 f 0 dm\n.model dm d\n"
    "J1 f d 0 jj\n.model jj njf\n.ac lin 5 1 100\n",
)


def stations(seed: int, bound: Bound, folder: Path) -> Tally:
    """Spoil the demo; what is read is solved, saved and read again the same."""
    tally, rng = Tally("stations"), generator(seed, "stations")
    content = (shipped_demo() / "station.json").read_bytes()
    data = json.loads(content)
    place = folder / "spoiled.station"
    place.mkdir(exist_ok=True)
    while not bound.reached(tally):
        text = _written(data, content, rng)
        (place / "station.json").write_bytes(text)
        attempt(tally, lambda: _through(place, rng), text[:200])
    return tally


def _written(data: Any, content: bytes, rng: random.Random) -> bytes:
    if rng.random() < 0.25:
        return spoiled_text(content, rng)
    return json.dumps(spoiled(data, rng)).encode("utf-8", "surrogatepass")


def _through(place: Path, rng: random.Random) -> None:
    opened = read_station(place)
    again = place.with_name("again.station")
    save_station(opened.station, again)
    if read_station(again).station != opened.station:
        raise AssertionError("a station that was saved reads back otherwise")
    if opened.station.chains:
        chain = rng.choice(opened.station.chains)
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            assess(opened.station, chain.id, rng.choice(chain.variants).id, points=20)


# what was kept of a build and of a panel, and an old file that still has it within the station
KEPT = {
    "format": "tonleiter-records",
    "version": 1,
    "proved": [
        {
            "chain": "hf-chat",
            "variant": "as-wired",
            "day": "2026-05-01",
            "readings": {"dc a": "1.5", "ohm x y": "open"},
            "seen": ["look:strands"],
            "left_out": ["tone"],
        }
    ],
    "cards": [
        {
            "id": "c",
            "name": "c",
            "day": "2026-05-01",
            "chain_id": "hf-chat",
            "variant_id": "as-wired",
            "chain": "HF",
            "variant": "v",
            "radio": "r",
            "microphone": "m",
            "voice": "x",
            "knobs": {"gain": 40, "bass": -3},
            "meters": {"alc": 6.5},
            "schools": {"alc": "barely"},
        }
    ],
}
OLD_CARD = {
    "id": "old",
    "name": "old",
    "day": "2025-05-01",
    "chain": "HF",
    "variant": "v",
    "purpose": "a long chat on SSB",
    "radio": "r",
    "microphone": "m",
    "voice": "x",
    "distance": "3 cm, across",
    "knobs": {"gain": 40},
    "meters": {"ALC": "8 dB"},
    "schools": {"ALC": "barely moving"},
    "chain_id": "hf-chat",
    "made_with": "0",
}


def records(seed: int, bound: Bound, folder: Path) -> Tally:
    """Spoil records beside the demo, or cards and readings of an older version within it."""
    tally, rng = Tally("records"), generator(seed, "records")
    plain = (shipped_demo() / "station.json").read_bytes()
    place = folder / "noted.station"
    place.mkdir(exist_ok=True)
    while not bound.reached(tally):
        for file in place.iterdir():
            file.unlink()
        if rng.random() < 0.5:
            (place / "station.json").write_bytes(plain)
            content = json.dumps(KEPT).encode()
            text = _written(KEPT, content, rng)
            (place / "records.json").write_bytes(text)
        else:
            old = json.loads(plain) | {"version": 5}
            # what is spoiled is what is brought over; the rest has a campaign of its own
            old["cards"] = spoiled([OLD_CARD], rng)
            old["chains"][0]["variants"][0]["proved"] = spoiled(KEPT["proved"], rng)
            text = json.dumps(old).encode("utf-8", "surrogatepass")
            (place / "station.json").write_bytes(text)
        attempt(tally, lambda: _noted(place), text[-300:])
    return tally


def _noted(place: Path) -> None:
    opened = read_station(place)
    again = place.with_name("again.station")
    known = None
    if again.exists():
        known = present_fingerprint(again)
    save_station(opened.station, again, known, records=opened.records)
    if read_station(again).records != opened.records:
        raise AssertionError("records that were saved read back otherwise")
    for card in opened.records.cards:
        holds(card, opened.station)
        settings_of(card)
    cards_csv(opened.records.cards)
    json.dumps(cards_json(opened.records.cards), allow_nan=False)


def pieces(seed: int, bound: Bound, folder: Path) -> Tally:
    """Spoil a friend's piece."""
    tally, rng = Tally("pieces"), generator(seed, "pieces")
    library = list(parts_library().values())
    file = folder / "spoiled.piece.json"
    while not bound.reached(tally):
        content = piece_text(rng.choice(library)).encode()
        text = _written(json.loads(content), content, rng)
        file.write_bytes(text)
        attempt(tally, lambda: piece_text(read_piece(file)).encode(), text[:200])
    return tally


def cards(seed: int, bound: Bound, _: Path) -> Tally:
    """Spoil netlists, as files and as somebody's own circuit."""
    tally, rng = Tally("cards"), generator(seed, "cards")
    words = [w for deck in DECKS for w in deck.split()]
    while not bound.reached(tally):
        lines = rng.choice(DECKS).split("\n")
        for _ in range(rng.choice((1, 1, 2, 4))):
            line = rng.randrange(len(lines))
            tokens = lines[line].split()
            if tokens and rng.random() < 0.7:
                at = rng.randrange(len(tokens))
                odd = (
                    "0",
                    "-1",
                    "1e999",
                    "{1/0}",
                    "{((1}",
                    "1meg",
                    "9" * 400,
                    "{r}",
                    "=",
                    "''",
                    "µ",
                )
                tokens[at] = rng.choice((*words, *odd))
                lines[line] = " ".join(tokens)
            else:
                lines.insert(line, rng.choice(lines))
        text = "\n".join(lines)
        attempt(tally, lambda: run_deck(read_deck(text)), text)
        own = {
            "id": "own",
            "name": "own",
            "kind": "own-circuit",
            "cards": text,
            "input_node": "in",
            "output_node": "c",
        }
        attempt(tally, lambda: _own(own), text)
    return tally


def _own(data: dict[str, Any]) -> None:
    from pydantic import ValidationError

    from tonleiter.core.refused import RefusedError
    from tonleiter.core.station.refusal import one_line

    try:
        OwnCircuit.model_validate(data)
    except ValidationError as error:
        raise RefusedError(one_line(error, data)) from None
