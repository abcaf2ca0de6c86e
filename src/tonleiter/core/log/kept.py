"""What is kept elsewhere and belongs on the time line: cards, recordings, what was proved.

They live in the records and are shown from there; nothing of them is written twice. Their numbers
are below zero: none of them is an entry of the log.
"""

from __future__ import annotations

from datetime import datetime

from tonleiter.core.log.entry import LogEntry
from tonleiter.core.station.model import Station
from tonleiter.core.station.records import Records

# of a day without a clock time
NOON = "12:00"


def kept_entries(station: Station, records: Records) -> tuple[LogEntry, ...]:
    """All of them, the oldest first."""
    microphones = {c.id: station.gear_by_id[c.variant().stages[0].gear].name for c in
                   station.chains}  # fmt: skip
    names = {c.id: c.name for c in station.chains}
    made: list[LogEntry] = []

    def take(day: str, **of: object) -> None:
        at = datetime.fromisoformat(f"{day}T{NOON}").astimezone()
        given = {k: v for k, v in of.items() if v is not None}
        made.append(LogEntry(at=at.isoformat(timespec="minutes"), **given))

    for card in records.cards:
        take(card.day, kind="card", title=card.name, chain_id=card.chain_id, chain=card.chain,
             microphone=card.microphone, radio=card.radio, card_id=card.id)  # fmt: skip
    for one in records.recordings:
        take(one.day, kind="recording", title=one.name, chain_id=one.chain_id, chain=one.chain,
             microphone=one.microphone, radio=one.radio, recording_id=one.id)  # fmt: skip
    for proved in records.proved:
        take(proved.day, kind="measurement", title=f"{len(proved.readings)} readings of a build",
             chain_id=proved.chain, chain=names.get(proved.chain),
             microphone=microphones.get(proved.chain))  # fmt: skip
    made.sort(key=lambda e: e.utc)
    return tuple(e.but(number=-k) for k, e in enumerate(made, 1))
