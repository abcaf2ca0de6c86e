"""The whole manual: what stands by itself, and what is computed on the demo when asked for."""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.manual.facts import caution_pages, glossary_page, school_pages
from tonleiter.core.manual.findings import finding_pages
from tonleiter.core.manual.jobs import job_pages
from tonleiter.core.manual.kinds import kind_pages
from tonleiter.core.manual.page import Page
from tonleiter.core.manual.spaces import space_pages
from tonleiter.core.station.model import Station


@dataclass(frozen=True)
class Book:
    """Pages in their order."""

    pages: tuple[Page, ...]

    def page(self, page_id: str) -> Page | None:
        """The page of an id; None where there is none (yet)."""
        return next((p for p in self.pages if p.id == page_id), None)

    def groups(self) -> dict[str, list[Page]]:
        """Pages under their headings, in order."""
        made: dict[str, list[Page]] = {}
        for page in self.pages:
            made.setdefault(page.group, []).append(page)
        return made


def standing() -> Book:
    """What needs no computing: spaces, kinds, findings, cautions, words."""
    return Book(
        (*space_pages(), *kind_pages(), *finding_pages(), *caution_pages(), glossary_page())
    )


def whole(demo: Station) -> Book:
    """All of it; jobs and schools are worked on the demo, which takes seconds."""
    computed = (*job_pages(demo), *school_pages(demo))
    standing_pages = standing().pages
    # behind the spaces, before what one looks up
    first = [p for p in standing_pages if p.group == "Spaces"]
    rest = [p for p in standing_pages if p.group != "Spaces"]
    return Book((*first, *computed, *rest))
