"""Which settings card today is held against: that of the day when the signal was good."""

from __future__ import annotations

from collections.abc import Sequence

from tonleiter.core.log.telling import Saying
from tonleiter.core.station.card import SettingsCard
from tonleiter.core.station.model import Station
from tonleiter.core.station.open_chain import of_open_chain
from tonleiter.core.station.records import Records


def good_card(
    station: Station, records: Records, said: Sequence[Saying], asked: str | None = None
) -> SettingsCard | None:
    """The card that was asked for; else the open chain's newest before it got worse, or newest."""
    if not station.chains:
        return None
    chosen = next((c for c in records.cards if c.id == asked), None)
    if chosen is not None:
        return chosen
    own = [c for c in records.cards if c.chain_id == station.chain().id]
    good = _good_until(station, said)
    then = [c for c in own if good is None or c.day <= good]
    return max(then or own, key=lambda c: c.day, default=None)


def _good_until(station: Station, said: Sequence[Saying]) -> str | None:
    """The last day before it got worse, of the open chain's microphone."""
    microphone = of_open_chain(station).get("microphone")
    bad = next((s for s in said if s.lane == microphone and s.word and s.about), None)
    return None if bad is None else f"{bad.about[0].when:%Y-%m-%d}"
