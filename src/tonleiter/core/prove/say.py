"""What the readings come to, in sentences: one belief, so that no two of them contradict."""

from __future__ import annotations

from tonleiter.core.bench.reading import Reading
from tonleiter.core.prove.rank import Ranking
from tonleiter.core.words import count_of, one_or

# faults that come and go when a lead is moved
_LOOSE = ("dry", "open", "ground", "broken")


def headline(ranking: Ranking, off: int, odd: str = "") -> str:
    """What it comes to; ``off`` readings lie outside their brackets, ``odd`` names the oddest."""
    count = f"{count_of(off, 'reading')} {one_or(off, 'disagrees', 'disagree')}"
    together, first = (ranking.groups(0.0) or ((0.0, None),))[0]
    says = first.fault.says if first is not None else ""
    if ranking.short == "ohms":
        return "Do not power it: there is a short where the supply's volts would stand."
    if ranking.short == "current":
        return "Switch the supply off: it draws far more than it should."
    match ranking.says:
        case "nothing read":
            return "Nothing is read yet: begin with your eyes, then ring it out."
        case "strange":
            which = f": {odd}" if odd else ""
            return f"No single fault explains these readings: read the odd one again{which}."
        case "fault" if off:
            return f"{count}: most likely {says}."
        case "fault":
            return f"Each reading is in its bracket, together they are not: most likely {says}."
        case "unsure" if off:
            return f"{count}: perhaps {says} ({together:.0%}). The next reading tells more."
        case "unsure":
            return f"Not clear yet: perhaps {says} ({together:.0%}). The next reading tells more."
    if off:
        return (
            f"{count_of(off, 'reading')} at the edge of what parts and meter allow: taken together"
            " they fit a right build."
        )
    return f"{count_of(ranking.read, 'reading')} {one_or(ranking.read, 'is', 'are')} as predicted."


def remedy(ranking: Ranking) -> str:
    """What to do now besides reading on; "" for nothing."""
    groups = ranking.groups(0.0)
    if not groups:
        return ""
    first = groups[0][1].fault
    if ranking.short:
        # one that does not explain the reading itself is not worth naming
        named = f"; likeliest: {first.says}" if not groups[0][1].worst else ""
        return (
            "Look for solder between neighbours, a chip, diode or electrolytic the wrong way round"
            f"{named}. Mend it, and read where the battery goes again, in ohms."
        )
    if ranking.says in ("fault", "unsure") and first.kind in _LOOSE:
        return "Move the lead and press on each joint while you read: what comes and goes is it."
    return ""


def next_says(reading: Reading, how: str) -> str:
    """What to read next, and how."""
    why = "before there is power" if reading.first else "it tells most"
    return f"Read next: {reading.says}; {why}." + (f" {how}" if how else "")
