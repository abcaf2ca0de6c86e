"""What changed since the log was written last: an entry that is offered, never written."""

from __future__ import annotations

import json

from pydantic import ValidationError

from tonleiter.core.guide.controls import at
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.station.compare import differences
from tonleiter.core.station.files import to_json
from tonleiter.core.station.migrate import MIGRATIONS, MigrationError, migrate
from tonleiter.core.station.model import VERSION, Station
from tonleiter.core.station.open_chain import of_open_chain
from tonleiter.core.station.settings import KNOBS
from tonleiter.core.station.to_records import RECORDS_KEY
from tonleiter.core.units.levels import signed

MOST_SAID = 12


def packed(station: Station) -> bytes:
    """A station as the log keeps it beside an entry."""
    return to_json(station).encode()


def unpacked(state: bytes | None) -> Station | None:
    """The station of a day, of an older version as well; None where there is none."""
    if state is None:
        return None
    try:
        data = json.loads(state)
        if data.get("version") != VERSION:
            data = migrate(data, VERSION, MIGRATIONS)
        data.pop(RECORDS_KEY, None)
        return Station.model_validate(data)
    except (ValidationError, MigrationError, ValueError, AttributeError, TypeError, KeyError):
        return None


def changes(old: Station, new: Station) -> tuple[str, ...]:
    """What differs: pieces, leads, chains, and knobs with both figures."""
    said = [d for d in differences(old, new, MOST_SAID) if "which chain is open" not in d]
    knobs = _knobs(old, new)
    # a turned knob says more than that a chain's settings changed
    if knobs:
        said = [d for d in said if not d.endswith(": panel")]
    return (*knobs, *said)[:MOST_SAID]


def _knobs(old: Station, new: Station) -> list[str]:
    before, made = {c.id: c for c in old.chains}, []
    for chain in new.chains:
        was = before.get(chain.id)
        if was is None or was.panel == chain.panel:
            continue
        for knob in KNOBS:
            a, b = at(was.panel, knob), at(chain.panel, knob)
            if a != b:
                face = KNOBS[knob]
                one, other = (
                    signed(v, 0 if v == round(v) else 1, plus=face.signed) for v in (a, b)
                )
                unit = f" {face.unit}" if face.unit else ""
                made.append(f"{face.title} from {one} to {other}{unit}, {chain.name}")
    return made


def offer(station: Station, last: Station | None, when: str) -> LogEntry | None:
    """What changed since a state, as an entry to be looked over; None where nothing did."""
    said = () if last is None else changes(last, station)
    if not said:
        return None
    return LogEntry(
        at=when, kind="change", title=said[0][:400], changed=said, **of_open_chain(station)
    )
