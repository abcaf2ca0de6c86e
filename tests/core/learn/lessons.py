"""A stranger's chain, and readings of it kept where people keep them."""

from tests.conftest import gear
from tests.core.wiring.benches import lead, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.kept_reading import KeptReading
from tonleiter.core.station.proved import Proved
from tonleiter.core.station.records import NO_RECORDS, keep_reading, note_proved

DAY = "2026-05-02"


def plain(**of):
    """A dynamic microphone on a set without volts on its contact."""
    return station(
        gear("dynamic-microphone", "mic", coil_ohm=300),
        lead(),
        radio(wants_dbu="-60..-48", **of),
        purpose="ssb-chat",
    )


def kept(of, *readings, records=NO_RECORDS):
    """Readings as they are typed on the page: kind, stage, what it reads."""
    basis = basis_of(of)
    for n, (kind, stage, typed) in enumerate(readings):
        records = keep_reading(
            records,
            KeptReading(
                id=f"r{n}", chain_id=basis.chain, variant_id=basis.variant, basis=basis.sound,
                kind=kind, stage=stage, typed=typed, day=DAY,
            ),
        )  # fmt: skip
    return records


def proved(of, readings, records=NO_RECORDS, part=0, basis=None):
    """Readings of a bring-up."""
    now = basis_of(of)
    made = Proved(
        chain=now.chain, variant=now.variant, part=part, day=DAY,
        basis=now.build if basis is None else basis, readings=readings,
    )  # fmt: skip
    return note_proved(records, made)


def found(of):
    return verdict_of(of)
