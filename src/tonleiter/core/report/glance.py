"""What a piece gives or wants, at a glance: by itself, before any chain."""

from __future__ import annotations

import math

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.base import Gear, Surroundings
from tonleiter.core.gear.signals import SPEECH, clear_db
from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.match.pair import mended, to_mend
from tonleiter.core.match.terms import Terms, lead_for, pair_station
from tonleiter.core.report.results import Line
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import format_dbu, format_volts, signed
from tonleiter.core.units.quantity import HERTZ, OHM, VOLT, format_quantity

OPEN_OHM = 1e6


def _open_input() -> Gear:
    """An input that loads nothing and hears everything: a good meter."""
    return MicrophoneSocket.model_validate(
        {
            "id": "meter",
            "name": "meter",
            "z_in_ohm": OPEN_OHM,
            "wants_dbu": -40,
            "gain_range_db": 100,
            "clip_dbu": 50,
            "ein_dbu": -140,
            "supply": "battery",
        }
    )


def glance(station: Station, gear: Gear, terms: Terms) -> list[Line]:
    """A few lines on a source or an input; none for what stands between."""
    if gear.role == "input":
        return _wants(gear)
    if gear.role != "microphone":
        return []
    try:
        now = assess(pair_station(station, (gear, lead_for(gear), _open_input()), terms))
    except CircuitError:
        return []
    lines = []
    first = to_mend(now)
    if first is not None:
        lines.append(Line("By itself", meaning(first.code).first_words))
        after, _ = mended(now, first)
        if after is None:
            return lines
        now = after
    row = now.rows[-1]
    if row.speech_dbu < SILENT_DBU:
        return lines
    what = "Speech" if gear.acoustic else "Program"
    where = f"{what} at {terms.distance_mm / 10:g} cm, open" if gear.acoustic else f"{what}, open"
    lines.append(Line(where, format_dbu(row.speech_dbu)))
    lines.append(Line("", format_volts(row.speech_dbu)))
    lines.append(Line("From", format_quantity(now.rows[0].z_source_ohm, OHM, 2)))
    lines.append(
        Line(
            "Over its noise" + (" and the room" if gear.acoustic else ""),
            f"{signed(row.snr_db, 0)} dB",
        )
    )
    if now.rows[0].headroom_db is not None:
        lines.append(Line("Clear of its ceiling", f"{signed(now.rows[0].headroom_db, 0)} dB"))
    if now.corners_hz[0] is not None:
        lines.append(Line("Bass from", format_quantity(now.corners_hz[0], HERTZ, 2)))
    return lines


def _wants(socket: Gear) -> list[Line]:
    """The window of an input, in decibels and in volts."""
    window = socket.window()
    ceiling = socket.ceiling_dbu(Surroundings(0.0, math.inf, 0.0))
    if window is None or ceiling is None:
        return []
    low, high = window.low_dbu, window.high_dbu
    room_db = clear_db(ceiling, high + SPEECH.crest_db)
    lines = [
        Line("Wants speech of", f"{signed(low, 0)} … {format_dbu(high, 0)}"),
        Line("", f"{format_volts(low)} … {format_volts(high)}"),
        Line("Aim for", format_dbu(window.middle_dbu, 0)),
        Line("Room to its ceiling", f"{signed(room_db, 0)} dB at peaks"),
    ]
    if (bias_v := socket.bias_on_pin_v()) > 0:
        lines.append(Line("On its pin", format_quantity(bias_v, VOLT, 2)))
    return lines
