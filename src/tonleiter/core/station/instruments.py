"""What somebody owns to read with: a reading that wants another instrument is not proposed."""

from __future__ import annotations

from typing import Literal, get_args

InstrumentId = Literal["multimeter", "scope", "generator", "second-receiver"]
INSTRUMENTS: dict[InstrumentId, str] = {
    "multimeter": "multimeter",
    "scope": "scope",
    "generator": "tone generator, or a computer that plays one",
    "second-receiver": "second receiver, or the radio's monitor recorded",
}
assert set(INSTRUMENTS) == set(get_args(InstrumentId))
