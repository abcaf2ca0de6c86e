"""Findings, the fixes they suggest, and remedies: fixes whose effect has been computed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

from tonleiter.core.station.model import Station

Severity = Literal["stop", "mind", "fine"]
SEVERITIES: tuple[Severity, ...] = ("stop", "mind", "fine")


@dataclass(frozen=True)
class Fix:
    """An edit that may help. ``apply`` raises ValidationError where the station forbids it."""

    title: str
    apply: Callable[[Station], Station]
    why: str = ""


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

    @property
    def key(self) -> tuple[str, str]:
        """What makes this finding the same one after an edit."""
        return self.code, self.stage


@dataclass(frozen=True)
class Remedy:
    """A fix that was tried: it removes the finding and adds no stop."""

    title: str
    effect: str
    leaves: tuple[str, ...]
    station: Station = field(repr=False)
    leaves_hum_db: float = float("-inf")
