"""Fixes that several rules suggest: capacitors, transformers, pads, boxes that go."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Literal

from tonleiter.core.gear.more_pads import InputDivider
from tonleiter.core.gear.pad_shapes import design_pad
from tonleiter.core.gear.pads import design_l_pad
from tonleiter.core.gear.passives import Transformer
from tonleiter.core.judge.findings import crystal
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import BUILD, REMOVE, Fix
from tonleiter.core.judge.findings.parts import (
    blocker,
    less_by,
    pad_before,
    resistor_before,
    series_f,
)
from tonleiter.core.solve.solution import Impedances
from tonleiter.core.station.model import Station
from tonleiter.core.units.preferred import at_least, nearest
from tonleiter.core.units.quantity import FARAD, format_quantity, format_short
from tonleiter.core.words import the, the_all


def blocking_value_f(z: Impedances, corner_hz: float) -> float:
    """Preferred capacitance with a corner at or below ``corner_hz`` at a joint."""
    return at_least(series_f(z, corner_hz), "E6")


def blocking_capacitor(
    case: Case, joint: int, plus_side: Literal["input", "output"], corner_hz: float, why: str
) -> Fix:
    """A capacitor after stage ``joint``, big enough for ``corner_hz`` between its neighbours."""
    farad = blocking_value_f(case.solution.impedances[joint], corner_hz)
    value = format_quantity(farad, FARAD)

    def apply(station: Station) -> Station:
        return case.insert(station, joint + 1, blocker(case, farad, plus_side))

    towards = case.piece(joint + 1, 1) if plus_side == "output" else case.piece(joint, -1)
    return Fix(f"Add {value}, plus side to {the(case.rows[towards].name)}", apply, why)


def isolating_transformer(case: Case, index: int, why: str) -> Fix:
    """A 1:1 transformer before stage ``index``, with a capacitor if bias stands on its far side."""
    biased = case.bias_reaches(index)
    tail = bias_words(case, index) if biased else ""
    return Fix(f"Add an isolating transformer{tail}", isolated(case, index, biased), why)


def isolated(case: Case, index: int, biased: bool, **core: float) -> Callable[[Station], Station]:
    """The edit of it; ``biased``: whether bias stands on its far side.

    ``core``: figures of a transformer other than the usual one.
    """
    farad = _against_bias_f(case, index)

    def apply(station: Station) -> Station:
        gear = Transformer.model_validate(
            {"id": case.fresh_id("isolator"), "name": "isolating transformer 1:1", **core}
        )
        station = case.insert(station, index, gear)
        if biased:
            station = case.insert(station, index + 1, blocker(case, farad, "output"))
        return station

    return apply


def bias_words(case: Case, index: int) -> str:
    """What stands beside a transformer that a bias supply would drive through."""
    return f" and {format_quantity(_against_bias_f(case, index), FARAD)} against its bias"


def _against_bias_f(case: Case, index: int) -> float:
    z = case.solution.impedances[index - 1]
    return blocking_value_f(z, case.purpose.bass_corner_at_most_hz / 4)


def leave_out(case: Case, *indices: int, why: str = "", effort: int = REMOVE) -> Fix:
    """Take stages out of the variant; the pieces stay on the shelf."""
    names = the_all(case.rows[k].name for k in indices)
    apply = partial(case.remove, indices=set(indices))
    return Fix(f"Leave {names} out", apply, why, effort)


def insert_pad(case: Case, index: int, loss_db: float, before: str = "it") -> Fix | None:
    """A pad before stage ``index`` that takes ``loss_db`` off: two resistors, or one for a crystal.

    A crystal loses bass to whatever loads it: one resistor in series is a higher load than before,
    two of the usual pad are a lower one.
    """
    z = case.solution.impedances[index - 1]
    if crystal.is_bare(case, index):
        return crystal.less(case, index, loss_db, z)
    # the pad's loss counts from the open source; part of it is there already, by loading
    designs = design_l_pad(loss_db + z.loading_loss_db, z.source_ohm, z.load_ohm)
    if not designs:
        return _one_resistor(case, index, loss_db)
    best = designs[0]

    return pad_before(case, index, loss_db, best.series_ohm, best.shunt_ohm, before)


def _one_resistor(case: Case, index: int, loss_db: float) -> Fix | None:
    """Behind a source that is too high for two: what is there already is the lower leg."""
    z = case.solution.impedances[index - 1]
    designs = design_pad("series-pad", loss_db + z.loading_loss_db, z.source_ohm, z.load_ohm)
    if not designs:
        return None
    ohm = designs[0].value("series_ohm")
    return resistor_before(case, index, ohm, less_by(ohm, loss_db))


def change_divider(case: Case, up_db: float) -> Iterator[Fix]:
    """Two other resistors in the divider behind an old radio's socket, where it has one."""
    drawer = case.station.drawer
    for k, row in enumerate(case.rows):
        if not isinstance(row.gear, InputDivider):
            continue
        fields = row.gear.changed_by(up_db, lambda ohm: nearest(ohm, drawer.series))
        upper, lower = (format_short(fields[f].value) for f in ("upper_ohm", "lower_ohm"))
        yield Fix(
            f"Change {the(row.name)} to {upper} / {lower}",
            case.setting(k, fields),
            "two resistors inside the radio; how it was built is kept with them",
            BUILD,
        )
