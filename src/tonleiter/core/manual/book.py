"""The whole manual: what stands by itself, and what is computed on the demo when asked for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache

from tonleiter.core.manual.facts import (
    SCHOOL_GROUP,
    SCHOOLS,
    caution_pages,
    glossary_page,
    school_pages,
)
from tonleiter.core.manual.findings import finding_pages
from tonleiter.core.manual.jobs import GROUP as JOB_GROUP
from tonleiter.core.manual.jobs import JOBS, job_page
from tonleiter.core.manual.kinds import kind_pages
from tonleiter.core.manual.page import Page
from tonleiter.core.manual.spaces import space_pages
from tonleiter.core.station.model import Station


@dataclass(frozen=True)
class Book:
    """Pages in their order."""

    pages: tuple[Page, ...]

    def page(self, page_id: str) -> Page | None:
        """The page of an id; None where there is none."""
        return next((p for p in self.pages if p.id == page_id), None)

    def groups(self) -> dict[str, list[Page]]:
        """Pages under their headings, in order."""
        made: dict[str, list[Page]] = {}
        for page in self.pages:
            made.setdefault(page.group, []).append(page)
        return made

    def with_pages(self, *pages: Page) -> Book:
        """With these in the places of those of their ids."""
        new = {p.id: p for p in pages}
        return replace(self, pages=tuple(new.get(p.id, p) for p in self.pages))


def is_computed(page_id: str) -> bool:
    """Whether a page is worked out on the demo."""
    return page_id in JOBS or page_id in SCHOOLS


@cache
def standing() -> Book:
    """All pages; jobs and schools have no more than their titles yet."""
    jobs = (Page(i, title, JOB_GROUP, ()) for i, (title, _) in JOBS.items())
    schools = (Page(i, title, SCHOOL_GROUP, ()) for i, title in SCHOOLS.items())
    return Book(
        (
            *space_pages(),
            *jobs,
            *schools,
            *kind_pages(),
            *finding_pages(),
            *caution_pages(),
            glossary_page(),
        )
    )


def computed(page_id: str, demo: Station) -> tuple[Page, ...]:
    """A page worked on the demo, and those that come with it. Raises KeyError, StoppedError."""
    if page_id in SCHOOLS:
        return school_pages(demo)
    return (job_page(page_id, demo),)


def whole(demo: Station) -> Book:
    """All of it, worked out, which takes seconds."""
    jobs = (job_page(page_id, demo) for page_id in JOBS)
    return standing().with_pages(*jobs, *school_pages(demo))
