"""Figures as JSON may hold them: what is no finite number is null."""

from __future__ import annotations

import math
from collections.abc import Mapping


def finite(value: float | None) -> float | None:
    """The figure, or None where there is none: silence has no level in decibels."""
    return value if value is not None and math.isfinite(value) else None


def all_finite(figures: Mapping[str, float]) -> dict[str, float | None]:
    """A table of figures, each of them so."""
    return {key: finite(value) for key, value in figures.items()}
