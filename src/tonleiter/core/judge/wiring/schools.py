"""The schools of coupling two boxes, each made in one press, solved, weighed against the others.

Straight: hot and screen. Cold to ground: two cores, the cold one tied to ground at the far end.
Transformer: its primary floats between the source's legs, nothing galvanic goes on. All three work;
what each leaves of hum, level and work is computed.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pydantic import ValidationError

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.passives import Cable
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.suggestions import isolating_transformer
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.refused import RefusedError
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.stop import checkpoint
from tonleiter.core.units.levels import signed
from tonleiter.core.words import count_of

# hum so far under speech is worth no word
NOT_HEARD_DB = 70.0
SchoolId = Literal["straight", "cold-to-ground", "transformer"]
TITLES: dict[SchoolId, str] = {
    "straight": "straight: hot and screen",
    "cold-to-ground": "cold tied to ground at the far end",
    "transformer": "transformer, its primary floating",
}
SHORT: dict[SchoolId, str] = {
    "straight": "straight",
    "cold-to-ground": "cold to ground",
    "transformer": "transformer",
}


@dataclass(frozen=True)
class School:
    """One way, as it would be: its edit, the verdict on it, and what it changes in words."""

    id: SchoolId
    title: str
    effect: str
    change: Callable[[Station], Station]
    found: Verdict


def school_now(found: Verdict, at: int) -> SchoolId:
    """The school that a part of the chain follows."""
    between = _between(found, at)
    if any(s.gear.isolates for s in between):
        return "transformer"
    leads = [s.gear for s in between if isinstance(s.gear, Cable)]
    return "cold-to-ground" if any(c.form != "one-core" for c in leads) else "straight"


def possible(found: Verdict, at: int) -> tuple[SchoolId, ...]:
    """Schools that a part can follow: without a lead of its own there is no second core."""
    leads = any(s.gear.lead for s in _between(found, at))
    return ("straight", "cold-to-ground", "transformer") if leads else ("straight", "transformer")


def follow(found: Verdict, at: int, school: SchoolId) -> Callable[[Station], Station]:
    """The edit that couples a part of the chain by a school."""
    ids = _ids(found)

    def apply(station: Station) -> Station:
        station = _without_transformers(station, found, at)
        if school == "straight":
            return _leads(station, found, at, {"form": "one-core"})
        if school == "cold-to-ground":
            return _leads(station, found, at, {"form": "two-core"})
        now = verdict_of(station, *ids)
        case = Case(station, now.assessment.solution, now.assessment.rows)
        span = now.build.spans[at]
        place = span.plug_at
        stages = now.assessment.solution.compiled.stages
        several = sum(s.gear.lead for s in stages[span.first + 1 : place]) > 1
        if several and stages[place - 1].gear.lead:
            place -= 1  # a short lead of its own goes on to the plug
        return isolating_transformer(case, place, "").apply(station)

    return apply


def schools(found: Verdict, at: int) -> tuple[School, ...]:
    """The other schools for a part of the chain, each solved; what cannot be is left out."""
    now = school_now(found, at)
    ids = _ids(found)
    made = []
    for school in possible(found, at):
        if school == now:
            continue
        checkpoint()
        try:
            change = _coupled(found, at, school)
            after = verdict_of(change(found.assessment.station), *ids)
        except (ValidationError, RefusedError, CircuitError):
            continue
        if _is_silent(after) and not _is_silent(found):
            continue  # a source that lives on the bias of the line gets none through a transformer
        made.append(School(school, TITLES[school], _words(found, after), change, after))
    return tuple(made)


def _coupled(found: Verdict, at: int, school: SchoolId) -> Callable[[Station], Station]:
    """The edit that couples a part by a school, its screen where that leaves the least hum."""
    return lambda station: _best_screen(follow(found, at, school)(station), _ids(found), at)


def as_ghost(station: Station, found: Verdict, school: School) -> Station:
    """A variant of its own with that school, shown as the ghost of what is wired now."""
    chain_id, variant_id = _ids(found)
    changed = school.change(station)
    chain, was = changed.chain(chain_id), station.chain(chain_id)
    made = chain.variant(variant_id)
    new = edits.fresh_id([v.id for v in chain.variants], SHORT[school.id])
    copy = made.model_copy(update={"id": new, "name": SHORT[school.id]})
    variants = (*was.variants, copy)
    return edits.change_chain(changed, chain_id, variants=variants, shown=variant_id, ghost=new)


def _ids(found: Verdict) -> tuple[str, str]:
    compiled = found.assessment.solution.compiled
    return compiled.chain.id, compiled.variant.id


def _between(found: Verdict, at: int) -> tuple[PlacedStage, ...]:
    return found.build.spans[at].between(found.assessment.solution.compiled.stages)


def _without_transformers(station: Station, found: Verdict, at: int) -> Station:
    """Transformers of a part go, with the capacitors that only kept a bias from them."""
    chain_id, variant_id = _ids(found)
    between = _between(found, at)
    gone = {s.id for s in between if s.gear.isolates}
    if gone:
        gone |= {s.id for s in between if s.gear.kind_id == "capacitor"}
    indices = {
        k
        for k, s in enumerate(station.chain(chain_id).variant(variant_id).stages)
        if s.gear in gone
    }
    return edits.remove_stages(station, chain_id, variant_id, indices) if indices else station


def _leads(station: Station, found: Verdict, at: int, values: dict[str, str]) -> Station:
    chain_id, variant_id = _ids(found)
    leads = {s.id for s in _between(found, at) if isinstance(s.gear, Cable)}
    for k, stage in enumerate(station.chain(chain_id).variant(variant_id).stages):
        if stage.gear not in leads:
            continue
        for field, value in values.items():
            keeps = field == "form" and value == "two-core" and _is_quad(station, stage.gear)
            if not keeps:
                station = edits.set_value(station, chain_id, variant_id, k, field, value)
    return station


def _is_quad(station: Station, gear_id: str) -> bool:
    lead = station.gear_by_id[gear_id]
    return isinstance(lead, Cable) and lead.form == "star-quad"


def _best_screen(station: Station, ids: tuple[str, str], at: int) -> Station:
    """The screen ends where it leaves the least hum; at both ends where that is as good."""
    best, least = station, float("inf")
    for end in ("both-ends", "source-end", "load-end"):
        now = verdict_of(station, *ids)
        if school_now(now, at) != "cold-to-ground":
            return station
        tried = _leads(station, now, at, {"screen": end})
        hum = verdict_of(tried, *ids).assessment.rows[-1].hum_dbu
        level = -300.0 if hum is None else hum
        if level < least - 1.0:
            best, least = tried, level
    return best


def _words(before: Verdict, after: Verdict) -> str:
    """Parts more or fewer, hum, level."""
    more = sum(p.count for p in after.build.parts) - sum(p.count for p in before.build.parts)
    said = []
    if more:
        said.append(f"{count_of(abs(more), 'part')} {'more' if more > 0 else 'fewer'}")
    was, now = (_hum_under(w) for w in (before, after))
    if min(was or NOT_HEARD_DB, now or NOT_HEARD_DB) >= NOT_HEARD_DB:
        said.append("hum is not heard either way")
    elif was is not None and now is not None and abs(now - was) >= 1:
        said.append(
            f"hum {abs(now - was):.0f} dB {'higher' if now < was else 'lower'}"
            f" ({abs(now):.0f} dB {'under' if now >= 0 else 'over'} speech)"
        )
    elif now is None and was is not None:
        said.append("no hum")
    elif was is None and now is not None:
        said.append(f"hum {now:.0f} dB under speech")
    else:
        said.append("the same hum")
    level = after.assessment.rows[-1].speech_dbu - before.assessment.rows[-1].speech_dbu
    if abs(level) >= 0.5:
        said.append(f"level {signed(level, 1, plus=True)} dB")
    known = {f.key for f in before.findings}
    new = [f.says.partition(":")[0] for f in after.stops() if f.key not in known]
    said += [f"then: {s[0].lower()}{s[1:]}" for s in new[:1]]
    return "; ".join(said)


def _is_silent(of: Verdict) -> bool:
    return of.assessment.rows[-1].speech_dbu < SILENT_DBU


def _hum_under(of: Verdict) -> float | None:
    radio = of.assessment.rows[-1]
    return None if radio.hum_dbu is None else radio.speech_dbu - radio.hum_dbu
