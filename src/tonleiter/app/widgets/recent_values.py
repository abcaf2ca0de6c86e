"""What was typed last, by its unit: offered again in a field, in this session and the next."""

from __future__ import annotations

import json

from PySide6.QtCore import QSettings

KEY, MOST, LONGEST = "typed", 6, 40


def recent(symbol: str) -> tuple[str, ...]:
    """Texts that were taken over for this unit, the newest first; none that make no sense."""
    return tuple(_all().get(symbol, ()))


def keep(symbol: str, text: str) -> None:
    """A text was taken over."""
    text = text.strip()
    if not text or len(text) > LONGEST:
        return
    listed = _all()
    others = [t for t in listed.get(symbol, ()) if t != text]
    listed[symbol] = [text, *others][:MOST]
    QSettings().setValue(KEY, json.dumps(listed))


def _all() -> dict[str, list[str]]:
    try:
        kept = json.loads(str(QSettings().value(KEY, "{}")))
        return {str(unit): [str(t)[:LONGEST] for t in texts][:MOST] for unit, texts in kept.items()}
    except (ValueError, AttributeError, TypeError, RecursionError):
        return {}
