"""Findings, the fixes they suggest, and remedies: fixes whose effect has been computed."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Literal

from tonleiter.core.judge.findings.codes import Where, meaning
from tonleiter.core.refused import GoneError
from tonleiter.core.station.model import Station

Severity = Literal["stop", "mind", "fine"]
SEVERITIES: tuple[Severity, ...] = ("stop", "mind", "fine")


# what a fix costs somebody, in the order in which people try: turn a control, move closer or plug
# otherwise, change a part that is there, take one out, add a passive part, build an active one
AMISS, TURN, MOVE, CHANGE, REMOVE, ADD, BUILD = range(-1, 6)


@dataclass(frozen=True)
class Fix:
    """An edit that may help. ``apply`` raises ValidationError where the station forbids it.

    ``effort`` is one of TURN to BUILD, or AMISS: what stands there is wrong in itself. Of fixes of
    one ``family`` only the best is offered.
    """

    title: str
    apply: Callable[[Station], Station]
    why: str = ""
    effort: int = ADD
    family: str = ""


@dataclass(frozen=True)
class Finding:
    """One thing found. ``evidence`` holds figures under keys that carry their units."""

    code: str
    severity: Severity
    stage: str
    says: str
    proof: str
    evidence: dict[str, float]
    fixes: tuple[Fix, ...] = field(default=(), compare=False, repr=False)
    caution: str = ""
    place: str = ""
    """Where on the build, for what is found in its wiring: a contact, a plug, a wire."""
    at_the_lips: bool = False
    """Whether it is mended at the lips, the capsule or what loads it: all levels behind follow."""

    @property
    def key(self) -> tuple[str, str]:
        """What makes this finding the same one after an edit."""
        return self.code, self.place or self.stage

    def counts(self, where: Where) -> bool:
        """Whether it is said there."""
        means = meaning(self.code)
        return where in means.counts or (self.severity == "stop" and means.stops(where))


@dataclass(frozen=True)
class Remedy:
    """A fix that was tried: it removes the finding, or goes part of the way, and adds no stop.

    ``change`` is its edit: of the station as it will be then, not as it was when it was tried.
    """

    title: str
    effect: str
    leaves: tuple[str, ...]
    effort: int
    family: str
    whole: bool
    change: Callable[[Station], Station] = field(compare=False, repr=False)
    leaves_hum_db: float = float("-inf")
    level_elsewhere: bool = False
    """Whether it mends one level and spoils another one."""
    levels_anew: bool = False
    """Whether levels behind it are wrong then, and are set anew: only where nothing else helps."""


def kept_to(
    pieces: Iterable[str], chain_id: str, variant_id: str, fix: Fix
) -> Callable[[Station], Station]:
    """The edit of a fix, of the chain that it was tried on alone: places count from its pieces.

    It raises GoneError where the chain is gone, or has other pieces by now.
    """
    known = list(pieces)

    def change(station: Station) -> Station:
        now = station.chain(chain_id).variant(variant_id)
        if [stage.gear for stage in now.stages] != known:
            raise GoneError("the chain has other pieces by now: look at it again")
        return fix.apply(station)

    return change


# remedies of findings, by the finding's key; missing while they are being tried
Remedies = dict[tuple[str, str], tuple[Remedy, ...]]


def gravest_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """The same findings, the gravest first; of what to mind, what moves the levels before these.

    Otherwise those of one severity stay in their order.
    """

    def rank(finding: Finding) -> tuple[int, bool]:
        later = finding.severity == "mind" and not finding.at_the_lips
        return SEVERITIES.index(finding.severity), later

    return tuple(sorted(findings, key=rank))


def counting(findings: Iterable[Finding], where: Where) -> tuple[Finding, ...]:
    """What of them counts somewhere, the gravest first."""
    return gravest_first(f for f in findings if f.counts(where))
