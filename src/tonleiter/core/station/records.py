"""What was read and set, apart from what the station is: records.json beside station.json.

Records name things by ids and tokens and say with the fingerprint of a basis what they were taken
of, so that a renamed radio loses nothing and a changed one is noticed.
"""

from __future__ import annotations

from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from tonleiter.core.station.card import MOST_CARDS, SettingsCard
from tonleiter.core.station.kept_reading import MOST_READINGS, KeptReading
from tonleiter.core.station.proved import Proved, Token
from tonleiter.core.station.recording import MOST_RECORDINGS, Recording
from tonleiter.core.station.trial import MOST_TRIALS, Trial
from tonleiter.core.station.value import Shown, Value, unique

RECORDS_FORMAT: Literal["tonleiter-records"] = "tonleiter-records"
RECORDS_VERSION: Literal[4] = 4
MOST_PROVED = 20_000


class Records(Value):
    """Everything that is kept beside a station."""

    format: Literal["tonleiter-records"] = RECORDS_FORMAT
    version: Literal[4] = RECORDS_VERSION
    proved: tuple[Proved, ...] = Field((), max_length=MOST_PROVED)
    cards: tuple[SettingsCard, ...] = Field((), max_length=MOST_CARDS)
    recordings: tuple[Recording, ...] = Field((), max_length=MOST_RECORDINGS)
    trials: tuple[Trial, ...] = Field((), max_length=MOST_TRIALS)
    readings: tuple[KeptReading, ...] = Field((), max_length=MOST_READINGS)
    struck: dict[Token, Shown] = Field(default_factory=dict, max_length=MOST_READINGS)
    """Readings kept elsewhere (of a bring-up, of an own radio) that teach nothing, and why."""
    reckoned: Literal["learned", "typed"] = "learned"
    """Whether levels, pairs and settings are reckoned with what readings taught."""

    @field_validator("version", mode="before")
    @classmethod
    def _brought_up(cls, version: object) -> object:
        # version 2 added recordings, 3 trials and readings, 4 how to reckon with them
        return RECORDS_VERSION if version in (1, 2, 3) and version is not True else version

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        unique("cards", [c.id for c in self.cards])
        unique("recordings", [r.id for r in self.recordings])
        unique("trials", [t.id for t in self.trials])
        unique("readings", [r.id for r in self.readings])
        unique("proved", [f"{p.chain}, {p.variant}, part {p.part}" for p in self.proved])
        return self

    def proved_of(self, chain: str, variant: str, part: int) -> Proved | None:
        """What was read of a part of a build."""
        return next((p for p in self.proved if p.of == (chain, variant, part)), None)


NO_RECORDS = Records()


def note_proved(records: Records, proved: Proved) -> Records:
    """Keep what was read of a part, in the place of what was read of it before."""
    return records.but(proved=(*(p for p in records.proved if p.of != proved.of), proved))


def keep_card(records: Records, card: SettingsCard) -> Records:
    """Keep a settings card; one of the same id gives way."""
    return records.but(cards=(*(c for c in records.cards if c.id != card.id), card))


def drop_card(records: Records, card_id: str) -> Records:
    """Throw a settings card away."""
    return records.but(cards=tuple(c for c in records.cards if c.id != card_id))


def keep_recording(records: Records, recording: Recording) -> Records:
    """Keep what a recording is of; one of the same id gives way."""
    rest = tuple(r for r in records.recordings if r.id != recording.id)
    return records.but(recordings=(*rest, recording))


def keep_trial(records: Records, trial: Trial) -> Records:
    """Keep what a trial came to; one of the same id gives way."""
    return records.but(trials=(*(t for t in records.trials if t.id != trial.id), trial))


def keep_reading(records: Records, reading: KeptReading) -> Records:
    """Keep a reading; one of the same id gives way where it stood."""
    if any(r.id == reading.id for r in records.readings):
        return records.but(
            readings=tuple(reading if r.id == reading.id else r for r in records.readings)
        )
    return records.but(readings=(*records.readings, reading))


def drop_reading(records: Records, reading_id: str) -> Records:
    """Forget a reading."""
    return records.but(readings=tuple(r for r in records.readings if r.id != reading_id))


def strike_elsewhere(records: Records, key: str, why: str | None) -> Records:
    """Strike out a reading that is kept elsewhere, or let it count again."""
    rest = {k: v for k, v in records.struck.items() if k != key}
    return records.but(struck=rest if why is None else rest | {key: why})


def drop_recording(records: Records, recording_id: str) -> Records:
    """Forget a recording; its file stays where it is."""
    return records.but(recordings=tuple(r for r in records.recordings if r.id != recording_id))
