"""What next, over the whole station: ranked by what it is worth for its effort, cut to an evening.

Each line says how long it takes, whether an iron is heated, what must be at hand, and where it is
done. Figures of minutes are a patient person's, and printed as such.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.gear.parts import Part
from tonleiter.core.guide.cards import holds
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.model import SEVERITIES, Finding
from tonleiter.core.judge.verdict import Verdict, is_of_wiring, verdict_of
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.report_words import KINDNESS
from tonleiter.core.log.telling import Saying
from tonleiter.core.log.wear import HOURS_A_DAY, worn
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.wiring import in_drawer
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.records import Records
from tonleiter.core.stop import checkpoint
from tonleiter.core.words import count_of, the, within

Where = Literal["ladder", "wire", "prove", "set", "listen", "log", "practise", "gear"]
Judge = Callable[[Station, str], Verdict]
Doubting = Callable[[Verdict], Doubts | None]

# worth of each kind, a stop being a hundred; minutes of each
STOP, ANSWER, GO_ON, BUILD, BUY, RESET, CARD, PRACTISE = 100, 60, 55, 50, 35, 40, 15, 5
DOUBT, BATTERY, DOUBT_MIN, BATTERY_MIN = 30, 40, 15, 5
STOP_MIN, ANSWER_MIN, LOOK_MIN, BUY_MIN = 15, 20, 5, 15
RESET_MIN, CARD_MIN, PRACTISE_MIN = 15, 10, 10
# a joint soldered and looked at; a bring-up read
JOINT_MIN, BRING_UP_MIN = 3, 20
MOST_NEEDED = 6
# what was bought waits for its build so long
WAITS_DAYS = 31
GET = "Get "


@dataclass(frozen=True)
class NextTask:
    """One thing to do. ``chain`` is its id; ``worth`` counts against ``minutes``.

    ``entry`` is the number of the report that is to be answered.
    """

    title: str
    why: str
    minutes: int
    worth: float
    where: Where
    chain: str | None = None
    solders: bool = False
    needs: tuple[str, ...] = ()
    entry: int = 0

    @property
    def buys(self) -> bool:
        """Whether it is a list of what is to be got."""
        return self.title.startswith(GET)

    @property
    def score(self) -> float:
        """What it is worth for its effort; a long one is not put off for ever."""
        return float(self.worth / self.minutes**0.5)


def next_tasks(
    station: Station,
    records: Records,
    sayings: Sequence[Saying] = (),
    judge: Judge = verdict_of,
    entries: Sequence[LogEntry] = (),
    doubts: Doubting | None = None,
) -> tuple[NextTask, ...]:
    """Everything that is open, the most worth for its effort first. Raises StoppedError.

    What is worth the same stands in the order of the chains, the one that lies open before them.

    ``entries`` are those of the log: what was bought waits for its build, batteries wear.
    ``doubts`` of a verdict take seconds, and are left out where nobody gives them.
    """
    bought = bought_lately(entries, datetime.now().astimezone())
    made: list[NextTask] = []
    wanted: Counter[tuple[str, str]] = Counter()
    for chain in station.chains:
        checkpoint()
        try:
            found = judge(station, chain.id)
        except (CircuitError, RefusedError):
            made.append(_unsolved(chain.id, chain.name))
            continue
        made += _stops(found, chain.id, chain.name)
        stopped = bool(found.stops())
        if not stopped:
            # what is to be mended first is not built as it stands
            made += _builds(found, station, records, chain.id, chain.name, wanted, bought)
            made += _doubted(found, chain.id, chain.name, doubts)
        made += _batteries(found, entries, chain.id, chain.name)
        made += _cards(station, records, chain.id, chain.name, stopped)
    if wanted:
        made.append(_buy(wanted))
    made += [_answer(s) for s in sayings if s.grave == "mind" and s.word]
    made.append(
        NextTask("Practise on a hidden fault", "nothing breaks, and the eye stays quick",
                 PRACTISE_MIN, PRACTISE, "practise")
    )  # fmt: skip
    opened = station.chain().id if station.chains else None
    return tuple(sorted(made, key=lambda t: (-t.score, t.chain != opened)))


def evening(
    tasks: Sequence[NextTask], minutes: int | None = None, solders: bool = True
) -> tuple[NextTask, ...]:
    """Those that fit into an evening; what heats the iron one after the other."""
    left = float("inf") if minutes is None else minutes
    taken = []
    for task in tasks:
        if (solders or not task.solders) and task.minutes <= left:
            taken.append(task)
            left -= task.minutes
    # a stop goes before everything; else soldering stands together, where its first one stood
    first = next((k for k, t in enumerate(taken) if t.solders), None)
    if first is None:
        return tuple(taken)
    hot = [t for t in taken if t.solders]
    wanting = [t for t in hot if t.needs]
    # and what they want is there before
    got = [t for t in taken if t.buys and wanting]
    before = [t for t in taken[:first] if t not in got]
    after = [t for t in taken[first:] if not t.solders and t not in got]
    return (*before, *(t for t in hot if not t.needs), *got, *wanting, *after)


def headline(tasks: Sequence[NextTask]) -> str:
    """The first thing to do, in a sentence; empty where nothing is open."""
    open_ends = [t for t in tasks if t.where != "practise"]
    if not open_ends:
        return ""
    first = open_ends[0]
    return f"Next: {within(first.title)} ({first.minutes} min)"


def _unsolved(chain: str, name: str) -> NextTask:
    return NextTask(f"Find out why “{name}” cannot be computed", "no figure of it means anything",
                    LOOK_MIN, STOP, "ladder", chain)  # fmt: skip


def _stops(found: Verdict, chain: str, name: str) -> Iterator[NextTask]:
    """The gravest that stands; what is mended by the same hand afterwards is not counted twice."""
    seen = set()
    for stop in found.stops():
        said = meaning(stop.code).first or stop.code
        if said in seen:
            continue
        seen.add(said)
        wired = is_of_wiring(stop)
        yield NextTask(
            f"Mend “{name}”: {within(stop.says)}", stop.proof, STOP_MIN, STOP,
            "wire" if wired else "ladder", chain, solders=wired or _is_soldered(stop),
        )  # fmt: skip


def _is_soldered(finding: Finding) -> bool:
    """Whether every remedy of it puts something into the chain."""
    fixes = finding.fixes
    return bool(fixes) and all(f.effort >= 3 for f in fixes)


def _builds(
    found: Verdict,
    station: Station,
    records: Records,
    chain: str,
    name: str,
    wanted: Counter[tuple[str, str]],
    bought: Collection[str],
) -> Iterator[NextTask]:
    build, variant = found.build, found.assessment.solution.compiled.variant.id
    basis = basis_of(station, chain, variant)
    for span, wired in enumerate(build.spans):
        if not build.has_parts_in(span):
            continue
        what = f"{wired.left.name} to {wired.right.name}"
        proved = records.proved_of(chain, variant, span)
        joints = build.joints_in(span)
        lacks = [
            p
            for p in _parts_in(found, span)
            if not in_drawer(p, station.drawer) and _plain(p.name, p.value) not in bought
        ]
        if proved is None:
            for part in lacks:
                wanted[(part.name, part.value)] += part.count
            minutes = JOINT_MIN * joints + BRING_UP_MIN
            needs = tuple(_line(p.count, p.name, p.value) for p in lacks)[:MOST_NEEDED]
            yield NextTask(
                f"Build and prove {what}, “{name}”", f"{joints} joints; no reading is written yet",
                minutes, BUILD, "prove", chain, solders=True, needs=needs,
            )  # fmt: skip
        elif not _holds(proved.basis, basis):
            yield NextTask(
                f"Prove {what} anew, “{name}”", f"it was changed since {proved.day}",
                BRING_UP_MIN, GO_ON, "prove", chain,
            )  # fmt: skip


def _holds(kept: str, basis: Basis) -> bool:
    return not kept or kept == basis.build


def _parts_in(found: Verdict, span: int) -> list[Part]:
    """Parts of one span; a parts list is of the whole chain where nobody can tell them apart."""
    build = found.build
    pins = {x.thing for w in build.wires_in(span) for x in w.ends}
    return [p for p in build.parts if not p.refs or set(p.refs) & pins]


def _batteries(
    found: Verdict, entries: Sequence[LogEntry], chain: str, name: str
) -> Iterator[NextTask]:
    for one in worn(found, entries):
        why = (
            f"some {one.used:.0f} h since {one.since} ({HOURS_A_DAY:.0f} h for each day that it is"
            f" written of), of about {one.hours:.0f} h"
        )
        yield NextTask(
            f"Measure the battery of {the(one.stage)} under load, “{name}”", why, BATTERY_MIN,
            BATTERY, "prove", chain, needs=("a fresh battery",),
        )  # fmt: skip


def _doubted(found: Verdict, chain: str, name: str, doubts: Doubting | None) -> Iterator[NextTask]:
    """Figures whose doubt decides whether something is wrong: each once, the gravest first."""
    made = doubts(found) if doubts is not None else None
    if made is None:
        return
    standing = [(f, d) for f in found.findings if (d := made.of.get(f.key)) is not None]
    open_ = [(f, d) for f, d in (*standing, *made.possible) if d.word == "depends"]
    seen: set[str] = set()
    for finding, doubt in sorted(open_, key=lambda x: SEVERITIES.index(x[0].severity)):
        figure = doubt.matters_most
        if figure is None or figure in seen:
            continue
        seen.add(figure)
        yield NextTask(
            f"Find out the {within(figure)}, “{name}”",
            f"it decides whether this is so: {within(finding.says)}",
            DOUBT_MIN, DOUBT, "gear", chain,
        )  # fmt: skip


def _buy(wanted: Counter[tuple[str, str]]) -> NextTask:
    lines = tuple(_line(n, name, value) for (name, value), n in wanted.most_common())
    title = f"{GET}{count_of(sum(wanted.values()), 'part')} for what is to be built"
    why = "none of them lies in the drawer"
    return NextTask(title, why, BUY_MIN, BUY, "wire", needs=lines)


def _cards(
    station: Station, records: Records, chain: str, name: str, stopped: bool
) -> Iterator[NextTask]:
    cards = [c for c in records.cards if c.chain_id == chain]
    if stopped:
        return  # what is to be mended first would make the card a lie
    if not cards:
        yield NextTask(f"Set “{name}” and keep the card", "nobody wrote down how it is set",
                       CARD_MIN, CARD, "set", chain, needs=("a dummy load",))  # fmt: skip
        return
    newest = max(cards, key=lambda c: c.day)
    if holds(newest, station) is False:
        why = f"the chain was changed since the card of {newest.day}"
        yield NextTask(f"Set “{name}” anew", why, RESET_MIN, RESET, "set", chain,
                       needs=("a dummy load",))  # fmt: skip


def _answer(saying: Saying) -> NextTask:
    worth = ANSWER * (1.2 if KINDNESS.get(saying.word, 0) <= -2 else 1.0)
    said = [e.number for e in saying.about if saying.word in e.words]
    return NextTask(f"Find the cause of “{saying.word}”, {saying.lane}", saying.proof, ANSWER_MIN,
                    worth, "log", entry=said[-1] if said else 0)  # fmt: skip


def _line(count: int, name: str, value: str) -> str:
    return f"{count} × {_plain(name, value)}"


def _plain(name: str, value: str) -> str:
    return f"{name} {value}".strip()


def bought_lately(entries: Iterable[LogEntry], now: datetime) -> frozenset[str]:
    """Parts of purchases that are a month old at most: they wait for their build."""
    lately = [e for e in entries if e.kind == "purchase" and (now - e.when).days <= WAITS_DAYS]
    lines = [line.strip() for e in lately for line in e.text.split(";")]
    return frozenset(line.partition("× ")[2] or line for line in lines if line)


def shopping(tasks: Sequence[NextTask]) -> tuple[str, ...]:
    """What is to be got, a line each."""
    return next((t.needs for t in tasks if t.buys), ())
