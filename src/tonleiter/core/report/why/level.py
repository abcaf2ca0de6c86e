"""Why speech comes to its level: the voice, what the source makes of it, loading, each stage."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.judge.assess import Assessment
from tonleiter.core.report.why.hangs import hangs_on
from tonleiter.core.report.why.model import Step, Why
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.solve.levels import SILENT_DBU, StageLevels
from tonleiter.core.units.levels import format_dbu, format_volts, signed
from tonleiter.core.units.quantity import OHM, format_quantity
from tonleiter.core.words import listed, the

# stages that move the level less than this stand together in one line
SLIGHT_DB = 0.3
# a source that loses more than this is one of current
CURRENT_DB = 12.0
# so many stages may have a line of their own
MOST_STAGES = 3


def why_level(now: Assessment, index: int = -1) -> Why:
    """How speech comes to its level at a stage, by default the radio's pins.

    The decibels of the steps, from the source's open level on, add up to the level; less than a
    twentieth of one is left out. Raises StoppedError.
    """
    rows = now.rows
    index %= len(rows)
    row = rows[index]
    asks = f"Why {_level(row)} at {the(row.name)}?"
    if row.speech_dbu < SILENT_DBU:
        return Why(f"Why nothing at {the(row.name)}?", tuple(_silent(now)))
    steps = (*_of_voice(now), *_of_source(now), *_of_stages(now, index), _sum(row))
    told = Why(asks, steps)
    return told.with_hangs(hangs_on(now, lambda a: _speech(a, index), format_dbu))


def _speech(now: Assessment, index: int) -> float | None:
    speech = now.rows[index].speech_dbu if index < len(now.rows) else None
    return None if speech is None or speech < SILENT_DBU else speech


def _level(row: StageLevels) -> str:
    return f"{format_dbu(row.speech_dbu)}, {format_volts(row.speech_dbu)},"


def of_voice(now: Assessment) -> Step | None:
    """Sound at the microphone; None where none plays a part."""
    voice = now.voice
    if not voice.acoustic:
        return None
    operator = now.solution.compiled.operator
    return Step(
        f"{operator.name}, {operator.effort} voice, at {voice.distance_mm / 10:g} cm",
        f"{signed(voice.speech_db_spl)} dB SPL",
        VOICE,
        "distance_mm",
    )


def _of_voice(now: Assessment) -> Iterator[Step]:
    if (step := of_voice(now)) is not None:
        yield step


def _of_source(now: Assessment) -> Iterator[Step]:
    """What the source gives with nothing on it, and what its load takes."""
    first, z = now.rows[0], now.solution.impedances[0]
    lost = z.loading_loss_db
    if lost > CURRENT_DB:
        # a capsule of 180 kΩ on 2 kΩ is a source of current: nobody thinks of its open volts
        yield Step(
            f"{the(first.name)} gives, into the {_ohm(z.load_ohm)} that it sees,"
            f" {format_volts(first.speech_dbu)}",
            format_dbu(first.speech_dbu),
            first.gear.id,
            _sensitivity(first),
            db=first.speech_dbu,
        )
        return
    open_dbu = first.speech_dbu + lost
    what = "gives, with nothing on it," if now.voice.acoustic else "plays, with nothing on it,"
    yield Step(
        f"{the(first.name)} {what} {format_volts(open_dbu)}",
        format_dbu(open_dbu),
        first.gear.id,
        _sensitivity(first),
        db=open_dbu,
    )
    load = now.rows[1]
    yield Step(
        f"{_ohm(z.source_ohm)} into the {_ohm(z.load_ohm)} of what follows takes off",
        f"{signed(-lost, 1, plus=True)} dB",
        load.gear.id,
        db=-lost,
    )


def _sensitivity(row: StageLevels) -> str:
    """The field that says what a source makes of its sound, where it has one."""
    figures = row.gear.figures()
    names = [f for f in figures if "sensitivity" in f or f in ("full_scale_dbu", "below_full_db")]
    return names[0] if names else ""


def _of_stages(now: Assessment, index: int) -> Iterator[Step]:
    """Each stage that moves the level, and the rest together."""
    between = [(r, r.gain_db) for r in now.rows[1 : index + 1] if r.gain_db is not None]
    by_size = sorted(between, key=lambda one: -abs(one[1]))
    strong = {r.id for r, db in by_size[:MOST_STAGES] if abs(db) >= SLIGHT_DB}
    rest = [(r, db) for r, db in between if r.id not in strong]
    for row, db in between:
        if row.id in strong:
            squeezed = row.speech_squeezed_db
            held = f", of it {signed(-squeezed)} dB by its compressor" if squeezed > 0.05 else ""
            handle = row.gear.handle or ""
            yield Step(
                f"{the(row.name)}, loaded as it is{held}",
                f"{signed(db, 1, plus=True)} dB",
                row.gear.id,
                handle if handle in row.gear.figures() else "",
                db=db,
            )
    total = sum(db for _, db in rest)
    if abs(total) >= 0.05:
        names = listed([the(r.name) for r, _ in rest]) if len(rest) <= 2 else "everything else"
        yield Step(names, f"{signed(total, 1, plus=True)} dB", db=total)


def _sum(row: StageLevels) -> Step:
    return Step(
        f"so at {the(row.name)} there stand {format_volts(row.speech_dbu)}",
        format_dbu(row.speech_dbu),
    )


def _silent(now: Assessment) -> Iterator[Step]:
    """A dead source: what it needs, and what it has."""
    yield from _of_voice(now)
    first = now.rows[0]
    needs = first.gear.dc_needs()
    if first.capsule_v is not None:
        yield Step(f"{the(first.name)} has over its capsule", f"{first.capsule_v:.2g} V")
    if needs is not None:
        yield Step(f"without its DC {the(first.name)} gives nothing", "", first.gear.id)


def _ohm(value: float) -> str:
    return format_quantity(value, OHM, 2)
