"""What all campaigns share: a seed, a bound, counts of what was tried and what came of it."""

from __future__ import annotations

import random
import time
import traceback
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from tonleiter.core.refused import RefusedError


@dataclass
class Tally:
    """Counts of one campaign; ``faults`` are what nobody meant, with where they came from."""

    name: str
    tried: int = 0
    refused: int = 0
    faults: Counter[str] = field(default_factory=Counter)
    examples: dict[str, str] = field(default_factory=dict)
    notes: str = ""

    def fault(self, what: str, example: object) -> None:
        """Something that must not happen."""
        self.faults[what] += 1
        self.examples.setdefault(what, str(example)[:400])

    def said(self) -> str:
        """One line of counts, then the faults."""
        head = (
            f"{self.name}: {self.tried} tried, {self.refused} refused, {self.faults.total()} faults"
        )
        head += f" ({self.notes})" if self.notes else ""
        rows = [f"  {n} × {what}\n      {self.examples[what]}" for what, n in self.faults.items()]
        return "\n".join([head, *rows])


@dataclass
class Bound:
    """Until when a campaign runs: a count or a time, whichever comes first."""

    count: int
    seconds: float
    _begun: float = field(default_factory=time.monotonic)

    def reached(self, tally: Tally) -> bool:
        """Whether it is time to stop."""
        return tally.tried >= self.count or time.monotonic() - self._begun >= self.seconds


def attempt(tally: Tally, do: Callable[[], object], example: object, slow_s: float = 5.0) -> bool:
    """Try something that may be refused in one line and must not fail otherwise."""
    tally.tried += 1
    begun = time.monotonic()
    try:
        do()
    except RefusedError as error:
        tally.refused += 1
        message = str(error)
        if "\n" in message or len(message) > 700 or not message.strip():
            tally.fault("a refusal that is no line", message[:200])
        return False
    except Exception as error:
        last = traceback.extract_tb(error.__traceback__)[-1]
        tally.fault(
            f"{type(error).__name__} in {last.name} ({last.filename[-40:]}:{last.lineno})",
            f"{error} | {example}",
        )
        return False
    finally:
        took = time.monotonic() - begun
        if took > slow_s:
            tally.fault(f"took longer than {slow_s:g} s", f"{took:.1f} s | {example}")
    return True


def generator(seed: int, name: str) -> random.Random:
    """A source of chance for one campaign."""
    return random.Random(f"{seed} {name}")
