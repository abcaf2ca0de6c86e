"""Stations with a computer before a radio, typed in for tests."""

from __future__ import annotations

from typing import Any

from tests.conftest import gear
from tonleiter.core.station import edits
from tonleiter.core.station.computer import Computer
from tonleiter.core.station.model import Station

OUT = {
    "full_scale_dbu": 4,
    "below_full_db": -20,
    "z_out_ohm": 150,
    "supply": "lead",
    "earth_emf_v": 0,
}
BOX, PC, RADIO = "box", "pc", "rig"


def looped(
    purpose: str = "data-weak",
    way: str | None = "interface-vox",
    socket: dict[str, Any] | None = None,
    back: dict[str, Any] | None = None,
    computer: dict[str, Any] | None = None,
    switch: dict[str, Any] | None = None,
    source: dict[str, Any] | None = None,
    laid: bool = True,
    **panel: float,
) -> Station:
    """A laptop, an audio box at its USB, a radio; the way out and (``laid``) the way back."""
    radio = {"supply": "lead"} | (socket or {})
    kind = radio.pop("kind", "data-socket")
    ear = {"supply": "lead", "earth_emf_v": 0, "below_full_db": -30} | (back or {})
    ear_kind = ear.pop("kind", "loudspeaker-output")
    pieces = [
        gear("line-source", "box-out", **OUT | (source or {})),
        gear("cable", "lead-out", length_m=1.5),
        gear(kind, "rig-in", **radio),
        gear(ear_kind, "rig-ear", **ear),
        gear("cable", "lead-in", length_m=1.5),
        gear("line-input", "box-in", supply="lead"),
    ]
    chains = [_chain("out", purpose, "box-out", "lead-out", "rig-in", way=way)]
    if laid:
        chains.append(_chain("back", purpose, "rig-ear", "lead-in", "box-in"))
    chains[0]["panel"] = {"knobs": panel}
    pc: dict[str, Any] = {"id": PC, "name": "laptop", "kind": "computer"}
    if computer is not None:
        pc["computer"] = computer
    box = {"id": BOX, "name": "audio box", "kind": "interface", "supply": "lead"}
    return Station.model_validate(
        {
            "title": "Bench",
            "operators": [{"id": "op", "name": "operator"}],
            "gear": pieces,
            "devices": [
                pc,
                {**box, "ports": ["box-out", "box-in"], "switch": switch or {}},
                {
                    "id": RADIO,
                    "name": "rig",
                    "kind": "radio",
                    "supply": "lead",
                    "ports": ["rig-in", "rig-ear"],
                },
            ],
            "links": [{"id": "usb", "name": "USB", "kind": "usb", "a": BOX, "b": PC}],
            "chains": chains,
            "open_chain": "out",
        }
    )


def _chain(chain: str, purpose: str, *stages: str, way: str | None = None) -> dict[str, Any]:
    variant: dict[str, Any] = {"id": "v", "name": "v", "stages": [{"gear": g} for g in stages]}
    if way is not None:
        variant["wiring"] = {"transmit": way}
    return {
        "id": chain,
        "name": chain,
        "purpose": purpose,
        "operator": "op",
        "variants": [variant],
        "shown": "v",
    }


# a desk at which everything is as it should be, and one that a plugged-in box has just taken
RIGHT = Computer(program={"out": BOX, "in": BOX}, altering=()).model_dump(mode="json")
STOLEN = {
    "roles": {"system-out": BOX, "calls-out": BOX, "system-in": BOX, "calls-in": BOX},
    "before": {
        "system-out": "own-loudspeakers",
        "calls-out": "own-loudspeakers",
        "system-in": "own-webcam",
        "calls-in": "own-webcam",
    },
}


def turned(station: Station, **knobs: float) -> Station:
    """Knobs of the way out, turned."""
    panel = station.chain("out").panel
    return edits.change_chain(
        station,
        "out",
        panel=panel.but(knobs={**panel.knobs, **knobs}),
    )
