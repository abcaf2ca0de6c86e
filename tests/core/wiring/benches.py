"""Builds to try wiring on: a microphone, a lead, a radio with a pinout, and what stands between."""

from __future__ import annotations

from tests.conftest import gear, station_of
from tonleiter.core.judge.verdict import verdict_of as solved
from tonleiter.core.station.model import Station

# made-up, as every maker assigns them otherwise
PINS = (
    ("1", "audio-out"),
    ("2", "microphone-ground"),
    ("3", "transmit"),
    ("4", "microphone"),
    ("5", "up-down"),
    ("6", "bias"),
    ("7", "transmit-ground"),
    ("8", "squelch"),
)
IDS = ("c", "v")


def contacts(pins=PINS, **said):
    """Contacts by label and role; ``said`` gives more of one: its label, then its fields."""
    return [{"label": n, "role": r} | said.get(f"_{n}", {}) for n, r in pins]


def mic(**figures):
    return gear("dynamic-microphone", "mic", coil_ohm=300, **figures)


def lead(name="lead", **figures):
    return gear("cable", name, **({"length_m": 2, "field_ut": 0} | figures))


def radio(**figures):
    return gear("microphone-socket", "radio", **({"z_in_ohm": 600} | figures))


# the source's own plug, where a test says nothing: unplugged, the source is not measured with it
PLUG = {
    "id": "plug",
    "name": "plug",
    "shell": "screw-terminals",
    "contacts": contacts((("1", "microphone"), ("2", "microphone-ground"))),
}
PLUGGED = ("dynamic-microphone", "electret-2-wire", "piezo-microphone", "carbon-microphone")


def station(
    *path,
    soldered=False,
    pins=PINS,
    shell="round-8",
    hands=None,
    connectors=None,
    said=None,
    **chain,
):
    """A chain through ``path`` whose last piece has a connector, and what hands decided.

    ``soldered``: the source hangs on its wires, without a plug of its own.
    """
    made = station_of(*path, **chain)
    data = made.model_dump(mode="json")
    first, last = path[0], path[-1]["id"]
    if not soldered and first["kind"] in PLUGGED and first.get("output") != "balanced":
        connectors = {first["id"]: PLUG} | (connectors or {})
    plug = {
        "id": "mic",
        "name": "MIC",
        "shell": shell,
        "ports": [last],
        "basis": "manual",
        "contacts": contacts(pins, **(said or {})),
    }
    for device in data["devices"]:
        if device["ports"] == [last]:
            device["connectors"] = [plug]
        for port, connector in (connectors or {}).items():
            if device["ports"] == [port]:
                device["connectors"] = [connector | {"ports": [port]}]
    data["chains"][0]["variants"][0]["wiring"] = hands or {}
    return Station.model_validate(data)


def landed(**legs):
    """Wires of the radio's plug, by leg; a hyphen is an underscore, None is air."""
    end = "radio.mic"
    return [{"end": end, "leg": leg.replace("_", "-"), "contact": x} for leg, x in legs.items()]


def plain(hands=None, **radio_figures):
    """A dynamic microphone straight on a radio."""
    return station(mic(), lead(), radio(**radio_figures), hands=hands)


def codes(of, at_least="mind"):
    """Codes of everything found in a build's wiring, fine things left out."""
    found = solved(of).of_wiring()
    return {f.code for f in found if at_least == "fine" or f.severity != "fine"}


def finding(of, code):
    """The finding of a code."""
    return next(f for f in solved(of).findings if f.code == code)
