"""From version 5 to 6: readings and cards leave the station for records of their own.

What a sentence said is brought to the token that it stood for, as far as it can be told; a record
of before does not say of which build it was, and so is shown as such until somebody says it holds.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from typing import Any

from tonleiter.core.station.purpose import PURPOSES

# under this key the records stand until the reader takes them out
RECORDS_KEY = "records"
# what was ticked, by the sentence that it was kept as: the token, or how one is made of its words
_LOOKS = (
    (re.compile(r"(\S+): plus towards .*"), "plus:{0}"),
    (re.compile(r"(\S+): each leg where the drawing has it"), "legs:{0}"),
    (re.compile(r"(\S+): its ring to the cathode's side"), "ring:{0}"),
    (re.compile(r"(\S+): primary and secondary not changed over"), "windings:{0}"),
)
_SAYINGS = {
    "no solder between neighbouring contacts, no loose strand": "strands",
    "strain relief holds the sheath, not the wires": "strain-relief",
    "the capsule's gasket seals, its felt is on, nothing presses on foam": "gasket",
    "small parts back in place: plungers, light pipes": "small-parts",
    "speech is clear": "speech-clear",
    "no hum, no buzz": "no-hum",
    "no crackle when the lead is moved": "no-crackle",
    "the meter moves with speech": "meter-moves",
    "it keys, and unkeys": "keys",
    "no howl near full power": "no-howl",
    "identified": "identified",
    "report asked for, and noted": "report",
}
_COUNTED = re.compile(r"the (.+)'s plug counted from the right face")
_METERS = {
    "ALC": "alc",
    "compression": "compression",
    "power": "power",
    "limiter": "limiter",
    "deviation at peaks": "deviation",
    "carrier is down by": "carrier",
    "negative peaks": "down",
    "positive peaks": "up",
    "sidebands to carrier": "sidebands",
}
_FIGURE = re.compile(r"[+−-]?(\d+(?:\.\d+)?)(?: (?:dB|kHz|%|W mean|W))?$")
_SCHOOLS = {
    "ALC": ("alc", {"barely moving": "barely", "middle to two thirds": "middle"}),
    "tone": ("tone", {"natural": "natural", "communicator": "communicator"}),
    "compression": (
        "compression",
        {"none": "none", "3 to 5 dB": "three-to-five", "a third": "third", "half": "half"},
    ),
}
_DISTANCE = re.compile(r"([\d.]+) cm(?:, (across|into))?")


def apart(data: dict[str, Any]) -> dict[str, Any]:
    """The station without records, those under a key of their own."""
    proved: list[Any] = []
    chains = []
    named = [*_objects(data.get("gear")), *_objects(data.get("devices"))]
    ids = {x["name"]: x.get("id") for x in named if isinstance(x.get("name"), str)}
    for chain in data.get("chains", []) if isinstance(data.get("chains"), list) else []:
        if not isinstance(chain, dict):
            chains.append(chain)
            continue
        variants = []
        for variant in chain.get("variants", []) if isinstance(chain.get("variants"), list) else []:
            if isinstance(variant, dict):
                variant = dict(variant)
                for kept in _objects(variant.pop("proved", [])):
                    of = partial(_proved, chain.get("id"), variant.get("id"), ids)
                    proved.append(_or_as_it_is(kept, of))
            variants.append(variant)
        chains.append(chain | {"variants": variants} if "variants" in chain else chain)
    rest = {k: v for k, v in data.items() if k not in ("cards", "chains")}
    if isinstance(data.get("devices"), list):
        rest["devices"] = [
            _or_as_it_is(d, partial(_with_what_is_inside, data)) for d in data["devices"]
        ]
    if "chains" in data:
        rest["chains"] = chains if isinstance(data["chains"], list) else data["chains"]
    cards = data.get("cards", [])
    if isinstance(cards, list):
        cards = [_or_as_it_is(c, _card) for c in cards]
    if proved or cards:
        rest[RECORDS_KEY] = {"proved": proved, "cards": cards}
    return rest


def _with_what_is_inside(data: dict[str, Any], device: Any) -> Any:  # noqa: ANN401
    """Who must be warned was told by names; from now on the box says what is inside."""
    if not isinstance(device, dict):
        return device
    ports = device.get("ports") or []
    pieces = [g for g in _objects(data.get("gear")) if g.get("id") in ports]
    words = " ".join(f"{x.get('name', '')} {x.get('notes', '')}" for x in (device, *pieces))
    lethal = "valve" in words.lower() or "lethal" in words.lower()
    return device | {"inside": "lethal-voltage"} if lethal else device


def _or_as_it_is(kept: Any, make: Callable[[Any], Any]) -> Any:  # noqa: ANN401
    """A record brought over; one that is none is left as it is: the reader refuses it by name."""
    try:
        return make(kept)
    except (TypeError, AttributeError, ValueError):
        return kept


def _objects(data: Any) -> list[dict[str, Any]]:  # noqa: ANN401 - data of a file, not yet checked
    return [x for x in data if isinstance(x, dict)] if isinstance(data, list) else []


def _proved(chain: Any, variant: Any, ids: dict[str, Any], kept: dict[str, Any]) -> Any:  # noqa: ANN401
    seen = [_seen(s, ids) for s in kept.get("seen", []) if isinstance(s, str)]
    told = {k: kept[k] for k in ("part", "day", "readings", "left_out") if k in kept}
    return told | {"chain": chain, "variant": variant, "seen": list(dict.fromkeys(seen))}


def _seen(said: str, ids: dict[str, Any]) -> str:
    """The token of what was ticked, which was kept as “step: sentence”."""
    step, _, words = said.partition(": ")
    if words in _SAYINGS:
        return f"{step}:{_SAYINGS[words]}"
    for pattern, token in _LOOKS:
        if (found := pattern.fullmatch(words)) is not None:
            return f"{step}:{token.format(*found.groups())}"
    if (found := _COUNTED.fullmatch(words)) is not None and found[1] in ids:
        return f"{step}:face:{ids[found[1]]}"
    return said


def _card(kept: dict[str, Any]) -> dict[str, Any]:
    plain = (
        "id",
        "name",
        "day",
        "chain_id",
        "chain",
        "variant",
        "radio",
        "microphone",
        "voice",
        "knobs",
        "note",
    )
    made = {k: kept[k] for k in plain if k in kept}
    titles = {p.title: key for key, p in PURPOSES.items()}
    if kept.get("purpose") in titles:
        made["purpose"] = titles[kept["purpose"]]
    if (found := _DISTANCE.fullmatch(str(kept.get("distance", "")))) is not None:
        made["distance_mm"] = 10 * float(found[1])
        if found[2]:
            made["speaks"] = f"{found[2]}-it"
    meters, said = {}, {}
    for title, text in (kept.get("meters") or {}).items():
        figure = _FIGURE.match(str(text))
        if title in _METERS and figure is not None:
            meters[_METERS[title]] = float(figure[1])
        else:
            said[title] = text
    schools = {}
    for title, text in (kept.get("schools") or {}).items():
        field, words = _SCHOOLS.get(title, ("", {}))
        if text in words:
            schools[field] = words[text]
    return made | {"meters": meters, "said": said, "schools": schools}
