"""Each finding: what it is called here, what it means and how it is heard, what one does about it.

Figures are not here: they are of a station, and stand on the finding's own card.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.manual.page import Heading, Page, Para
from tonleiter.core.manual.texts import table

GROUP = "Findings"


@dataclass(frozen=True)
class About:
    """A finding's title, its meaning, and the way out."""

    title: str
    means: str
    does: str


def about(code: str) -> About:
    """What is said of a code. Raises KeyError."""
    return About(**table("findings")[code])


def finding_page(code: str) -> Page:
    """The page of a code. Raises KeyError."""
    said = about(code)
    return Page(
        f"finding/{code}",
        said.title,
        GROUP,
        (
            Para(said.means),
            Heading("What one does"),
            Para(said.does),
            Para(
                "On a finding's card <<Why?>> leads through its figures on your station, down to"
                " those that can be edited."
            ),
        ),
    )


def finding_pages() -> tuple[Page, ...]:
    """All of them, by their titles."""
    return tuple(sorted((finding_page(c) for c in table("findings")), key=lambda p: p.title))
