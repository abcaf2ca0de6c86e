"""How a system's slider is marked, in hundredths, and what that is in decibels.

Common sound servers make the loudness even along the way: amplitude goes with the third power of
the mark, dB = 60 log10(mark / 100).
"""

from __future__ import annotations

import math

EXPONENT = 3.0
LEAST_MARK = 1.0


def db_of_mark(mark: float) -> float:
    """Decibels against full for a mark of 0 to 100; −inf at 0."""
    return -math.inf if mark <= 0 else 20 * EXPONENT * math.log10(min(mark, 100.0) / 100.0)


def mark_of_db(db: float) -> float:
    """The mark for decibels of 0 and below."""
    return 100.0 * 10 ** (min(db, 0.0) / (20 * EXPONENT))
