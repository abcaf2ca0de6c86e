"""Riddles of a microphone on a radio: mis-settings, wrong pieces, dead volts, hum, a housing."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from tonleiter.core.gear.bias_feed import BiasFeed
from tonleiter.core.gear.catalogue import AnyGear
from tonleiter.core.gear.desk_microphone import DeskMicrophone
from tonleiter.core.practice.look import Look, Seen
from tonleiter.core.practice.on_air import Truth, scene_on_air
from tonleiter.core.practice.riddle import REPORT, Riddle
from tonleiter.core.practice.settle import settle
from tonleiter.core.practice.wrong import (
    Spoil,
    Wrong,
    both,
    chosen,
    off_card,
    other_system,
    turned,
    wrong,
)
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KNOBS, KnobId
from tonleiter.core.words import listed

CHAIN, MIC, RADIO = "c", "mic", "radio"
MOST_MOVES = 14
# how often a knob stands a little off its card, and does no harm
HERRINGS = 0.5


# --- stations ------------------------------------------------------------------------------------


def _piece(kind: str, id_: str, name: str, **of: Any) -> dict[str, Any]:  # noqa: ANN401
    return {"kind": kind, "id": id_, "name": name, **of}


def base(rng: random.Random) -> tuple[str, Station]:
    """A station as somebody has it, and in words what it is; not yet set."""
    purpose = rng.choice(("ssb-chat", "ssb-chat", "ssb-weak", "fm-voice"))
    lead = _piece("cable", "lead", "lead", length_m=rng.choice((1.0, 1.5, 2.5)))
    wants = rng.uniform(-58, -48)
    radio: dict[str, Any] = _piece(
        "microphone-socket", RADIO, "radio", wants_dbu=wants, clip_dbu=wants + 24
    )
    case: dict[str, Any] = {"housing": "in-case", "opening_mm": rng.choice((3, 4))}
    kind = rng.choice(("dynamic", "electret", "desk", "mixer"))
    if kind == "electret":
        radio |= {"bias_v": rng.choice((5, 8)), "bias_ohm": rng.choice((1000, 2200))}
        radio["z_in_ohm"] = 600
        microphone = _piece("electret-2-wire", MIC, "electret in a hand microphone", **case)
        gear, words = [microphone, lead, radio], "an electret hand microphone on a set with bias"
    elif kind == "desk":
        desk = _piece("amplified-desk-microphone", MIC, "desk microphone")
        desk |= {"turned_up": rng.uniform(0.35, 0.6), "sensitivity_mv_per_pa": rng.uniform(1, 2)}
        gear, words = [desk, lead, radio], "an amplified desk microphone on a radio"
    else:
        microphone = _piece("dynamic-microphone", MIC, "dynamic", coil_ohm=rng.choice((200, 300)))
        microphone |= {"sensitivity_mv_per_pa": rng.uniform(1.2, 2.2), **case}
        if kind == "mixer":
            mixer = _piece("amplifier", "mixer", "mixer", expects="microphone", gain_db=42)
            mixer |= {"gain_low_db": 10, "gain_high_db": 60, "supply": "double-insulated"}
            pad = _piece("l-pad", "pad", "pad", series_ohm=10e3, shunt_ohm=rng.choice((47, 68)))
            gear = [microphone, mixer, pad, lead, radio]
            words = "a dynamic through a mixer and a pad on a radio"
        else:
            gear, words = [microphone, lead, radio], "a dynamic on a radio"
    stages = [{"gear": g["id"]} for g in gear]
    station = Station.model_validate(
        {
            "title": "Practice",
            "operators": [{"id": "op", "name": "operator", "pitch": rng.choice(("deep", "high"))}],
            "gear": gear,
            "chains": [
                {
                    "id": CHAIN,
                    "name": "chain",
                    "purpose": purpose,
                    "operator": "op",
                    "distance_mm": rng.choice((25, 30, 35)),
                    "variants": [{"id": "v", "name": "v", "stages": stages}],
                    "shown": "v",
                }
            ],
        }
    )
    for_ = {"fm-voice": "voice on FM"}.get(purpose, "sideband")
    return f"{words}, for {for_}", station


# --- what may be wrong ---------------------------------------------------------------------------


def _panel(**knobs: float) -> Spoil:
    return turned(CHAIN, knobs)  # type: ignore[arg-type]


def _gear(id_: str, **of: Any) -> Spoil:  # noqa: ANN401
    return lambda s: edits.change_gear(s, id_, **of)


def _chain(**of: Any) -> Spoil:  # noqa: ANN401
    return lambda s: edits.change_chain(s, CHAIN, **of)


def _before_radio(piece: dict[str, Any]) -> Spoil:
    """A piece put into the lead before the radio's socket."""
    gear = TypeAdapter(AnyGear).validate_python(piece)

    def spoil(station: Station) -> Station:
        last = len(station.chain(CHAIN).variant().stages) - 1
        return edits.insert_stage(station, CHAIN, "v", last, gear)

    return spoil


def _without(id_: str) -> Spoil:
    def spoil(station: Station) -> Station:
        stages = station.chain(CHAIN).variant().stages
        at = next(k for k, s in enumerate(stages) if s.gear == id_)
        return edits.remove_stages(station, CHAIN, "v", {at})

    return spoil


def wrongs(station: Station, rng: random.Random) -> Iterator[Wrong]:
    """Everything that may be wrong with a station that was right, each by some amount."""
    yield from _of_setting(station, rng)
    yield from _of_speaking(rng)
    yield from _of_pieces(station, rng)


def _of_setting(station: Station, rng: random.Random) -> Iterator[Wrong]:
    panel = station.chain(CHAIN).panel

    def at(knob: KnobId) -> float:
        return panel.knobs.get(knob, KNOBS[knob].usual)

    fm = station.chain(CHAIN).purpose == "fm-voice"
    yield wrong(
        "gain-low",
        "The microphone gain was turned down",
        "turn it up until the meter reads as before",
        "set",
        _panel(gain=at("gain") - rng.uniform(20, 30)),
        often=2,
    )
    yield wrong(
        "gain-high",
        "The microphone gain stands far too high",
        "turn it down until the meter reads as before",
        "set",
        _panel(gain=at("gain") + rng.uniform(22, 35)),
        often=2,
    )
    if fm:
        other = "narrow" if panel.system == "wide" else "wide"
        yield wrong(
            "other-system",
            f"The set was switched to the {other} system",
            "switch it back to the channel's system",
            "set",
            other_system(CHAIN),
            level=2,
        )
        yield wrong(
            "limiter-moved",
            "Somebody turned the deviation trimmer",
            "set the deviation again, with a tone and a meter or by the carrier's null",
            "set",
            _panel(deviation=rng.uniform(900, 1700)),
            level=3,
        )
        return
    yield wrong(
        "two-compressors",
        "The radio's compressor is on far too high",
        "turn it back to where it takes 3 to 5 dB",
        "set",
        _panel(compression=12.0),
    )
    yield wrong(
        "tone-reversed",
        "Bass and treble were turned the wrong way round",
        "turn them back to where the card has them",
        "set",
        _panel(bass=rng.uniform(7, 10), treble=-rng.uniform(7, 10)),
        level=2,
    )
    yield wrong(
        "edges-narrow",
        "The transmit filter was narrowed",
        "open it to what the card has",
        "set",
        _panel(low=500.0, high=1800.0),
        level=2,
    )
    yield wrong(
        "power-low",
        "The power was left at its lowest",
        "turn it up again, once the dummy load may go",
        "set",
        _panel(power=rng.uniform(4, 9)),
    )


def _of_speaking(rng: random.Random) -> Iterator[Wrong]:
    yield wrong(
        "too-far",
        "The operator leans back and speaks from arm's length",
        "come back to three fingers",
        "ladder",
        _chain(distance_mm=rng.uniform(220, 400)),
        level=2,
        often=2,
    )
    yield wrong(
        "far-and-loud",
        "The gain stands at its end, and the operator sits at arm's length",
        "come close, then turn the gain down",
        "set",
        both(_panel(gain=100.0), _chain(distance_mm=rng.uniform(300, 450))),
        level=2,
    )


def _of_pieces(station: Station, rng: random.Random) -> Iterator[Wrong]:
    mic, radio = station.gear_by_id[MIC], station.gear_by_id[RADIO]
    biased = radio.bias_on_pin_v() > 0
    if biased:
        yield wrong(
            "bias-missing",
            "The bias on the microphone's pin is gone",
            "find out why the set gives none: a fuse, a menu, a resistor",
            "ladder",
            _gear(RADIO, bias_v=0),
            level=2,
        )
        yield wrong(
            "second-bias",
            "A second source of bias, with a cell of its own, was left in the lead",
            "take one of the two out: they fight",
            "ladder",
            _before_radio(
                _piece("bias-feed", "feed", "battery feed", supply_v=1.5, resistor_ohm=330)
            ),
            level=3,
        )
    if isinstance(mic, DeskMicrophone):
        yield wrong(
            "battery-flat",
            "The desk microphone's battery is flat",
            "put a new one in",
            "prove",
            _gear(MIC, battery_v=rng.uniform(0.85, 1.05)),
            part=MIC,
        )
        yield wrong(
            "volume-down",
            "The desk microphone's own volume was turned nearly off",
            "turn it up to where it stood, before the radio's gain",
            "ladder",
            _gear(MIC, turned_up=rng.uniform(0.004, 0.008)),
            part=MIC,
        )
    else:
        yield wrong(
            "hole-missed",
            "The capsule slipped: the hole misses it, and nothing seals it",
            "seat it behind its hole and seal it with a gasket of foam",
            "ladder",
            _gear(MIC, offset_mm=rng.uniform(4, 7), seal="none"),
            level=3,
            part=MIC,
        )
        yield wrong(
            "foam-over-it",
            "Foam was stuck over the opening",
            "take it off: foam round a capsule seals, over it it muffles",
            "ladder",
            _gear(MIC, over_it="foam", opening_mm=2, opening_long_mm=6),
            level=3,
            part=MIC,
        )
    yield wrong(
        "small-capacitor",
        "A coupling capacitor is a hundred times too small",
        "put in the value that the drawing has",
        "wire",
        _before_radio(
            _piece("capacitor", "small", "capacitor", capacitance_f=rng.choice((33e-9, 47e-9)))
        ),
        level=3,
    )
    if "pad" in station.gear_by_id:
        yield wrong(
            "pad-missing",
            "The pad was left out: line level goes into the microphone socket",
            "put the pad back before the radio",
            "ladder",
            _without("pad"),
            level=2,
        )
        yield wrong(
            "earth-loop",
            "The mixer hangs on an earthed supply now: a loop of earths",
            "break the loop by a transformer, or run both from one supply; never lift a safety"
            " earth",
            "ladder",
            _gear("mixer", supply="safety-earth", earth_emf_v=rng.uniform(0.02, 0.04)),
            level=2,
            part="earth",
        )
        yield wrong(
            "mixer-low",
            "The mixer's gain was turned down",
            "turn it up to where its own meter is content",
            "ladder",
            _gear("mixer", gain_db=rng.uniform(18, 24)),
        )


# --- what can be looked at -----------------------------------------------------------------------


def looks_of(station: Station) -> tuple[Look, ...]:
    """Everything that can be looked at, the report first: it is there already."""
    fm = station.chain(CHAIN).purpose == "fm-voice"
    rows = [s.gear for s in station.chain(CHAIN).variant().stages]
    on_air: tuple[Any, ...] = ("dummy-load",)
    found = [
        Look(REPORT, "What listeners say", "", 0.1, "set", said_by_others=True),
        Look("panel", "The radio's knobs, against the card", "Hold the card beside the panel.",
             1.0, "set"),
        Look("seat", "How the operator sits", "Look at lips and microphone, from the side.",
             0.5, "ladder"),
        Look("meter", "Deviation on your words" if fm else "ALC on your words",
             "Speak as always, and look at the meter.", 2.0, "set",
             "kHz" if fm else "dB", 0.25 if fm else 1.0, care=on_air,
             power=True),
        Look("socket-ac", "Volts of the voice at the socket",
             "A millivoltmeter across the pin and its ground, while somebody speaks.", 5.0,
             "ladder", "dBu", 1.5, power=True),
        Look("socket-dc", "DC at the socket, microphone plugged in",
             "A voltmeter from the pin to its ground, nobody speaking.", 3.0, "prove", "V", 0.12,
             power=True),
        Look("open-dc", "DC at the socket, nothing plugged in",
             "A voltmeter from the pin to its ground.", 2.0, "prove", "V", 0.12, power=True),
        Look("other-microphone", "Another microphone of the same kind",
             "Plug it in, and ask the listener again.", 4.0, "match", care=on_air),
        Look("bass-treble", "The lead, from end to end, at 200 and 1000 Hz",
             "A generator at the plug, a millivoltmeter at the other end: how much is lost at 200"
             " Hz.", 8.0, "prove", "dB", 1.0, care=("power-off",)),
        Look("opened", "Inside the microphone", "Open it: capsule, gasket, opening, battery.",
             10.0, "gear", care=("power-off",)),
    ]  # fmt: skip
    if "mixer" in rows:
        found += [
            Look("mixer-out", "Volts of the voice behind the mixer",
                 "A millivoltmeter at its output.", 4.0, "ladder", "dBu", 1.5, power=True),
            Look("hum", "Hum while nobody speaks", "Headphones on the second receiver, the mixer's"
                 " lead pulled and put back.", 3.0, "ladder", "dBu", 4.0,
                 care=("headphones-down", *on_air)),
        ]  # fmt: skip
    return tuple(found)


def _opened(put: Wrong | None) -> str:
    inside = {
        "hole-missed": "the capsule sits beside its hole, and loose",
        "foam-over-it": "foam over the opening",
        "battery-flat": "a battery of a year that nobody remembers",
    }
    return inside.get(put.cause.kind if put else "", "as it was built")


def shown_of(
    right: Station, card: Station, looks: tuple[Look, ...]
) -> Callable[[Wrong | None], dict[str, Seen]]:
    """What each look shows with something wrong in place; None: with nothing.

    ``card`` is the station as its card has it: somebody may have turned a knob a little since.
    """
    good = Truth(right, CHAIN)
    ids = {x.id for x in looks}

    def shown(put: Wrong | None) -> dict[str, Seen]:
        station = put.spoil(right) if put else right
        truth = Truth(station, CHAIN) if put else good
        rows = truth.verdict.assessment.rows
        report = truth.report(good)
        chain = station.chain(CHAIN)
        mm = chain.distance_mm.value
        swapped = "all is well with it" if put and put.part == MIC else "no different"
        seen: dict[str, Seen] = {
            REPORT: report,
            "panel": listed(off_card(KNOBS, CHAIN, station, card)) or "as on the card",
            "seat": "three fingers from it" if mm < 60 else f"at arm's length, {mm / 10:.0f} cm",
            "meter": truth.reading("deviation" if chain.purpose == "fm-voice" else "alc"),
            "socket-ac": max(rows[-2].speech_dbu, -110.0),
            "socket-dc": rows[-2].dc_v,
            "open-dc": _open_v(station),
            "other-microphone": swapped,
            "bass-treble": _bass_lost_db(truth),
            "opened": _opened(put),
        }
        if "mixer" in station.gear_by_id:
            at = next(k for k, r in enumerate(rows) if r.id == "mixer")
            seen["mixer-out"] = max(rows[at].speech_dbu, -110.0)
            hum = rows[-1].hum_dbu
            seen["hum"] = -120.0 if hum is None else max(hum, -120.0)
        return {k: v for k, v in seen.items() if k in ids}

    return shown


def _open_v(station: Station) -> float:
    """Volts at the radio's end with the microphone pulled: the set's own, or what a feed gives."""
    feeds = [g for g in station.gear if isinstance(g, BiasFeed)]
    radio = station.gear_by_id[RADIO].bias_on_pin_v()
    return max([radio, *(g.supply_v.value for g in feeds)])


def _bass_lost_db(truth: Truth) -> float:
    """What the way from the microphone's plug to the socket loses at 200 Hz, against 1 kHz."""
    solution = truth.verdict.assessment.solution
    f, response = solution.f_hz, abs(solution.response[:, -1])
    first = abs(solution.response[:, 0])
    ratio = response / np.maximum(first, 1e-30)
    low, middle = (float(np.interp(x, f, ratio)) for x in (200.0, 1000.0))
    return 20 * math.log10(max(low, 1e-9) / max(middle, 1e-9))


def _turned_a_little(station: Station, rng: random.Random) -> Station:
    """A knob that was turned and does no harm: not everything that is off is the cause."""
    panel = station.chain(CHAIN).panel
    gain = panel.knobs.get("gain", KNOBS["gain"].usual)
    return _panel(gain=gain + rng.choice((-4.0, 4.0)))(station)


def make(seed: int, kind: str | None = None) -> Riddle | None:
    """A riddle from a seed; of a kind where one is wanted. None where the seed gives none."""
    rng = random.Random(f"voice {seed}")
    about, station = base(rng)
    right = settle(station, CHAIN, lambda s: scene_on_air(s, CHAIN), MOST_MOVES)
    if right is None:
        return None
    card = right
    if rng.random() < HERRINGS:
        right = _turned_a_little(right, rng)
    found = list(wrongs(right, rng))
    looks = looks_of(right)
    shown = shown_of(right, card, looks)
    told = frozenset({"meter", "socket-ac", "socket-dc", "open-dc"})
    riddle = chosen("voice", seed, about, looks, found, shown, rng, kind, told)
    if riddle is None:
        return None
    spoil = next(w.spoil for w in found if w.cause.id == riddle.true)
    return replace(riddle, heard=Truth(spoil(right), CHAIN).scene.received(far=True))
