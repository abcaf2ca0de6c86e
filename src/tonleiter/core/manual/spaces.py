"""A page for each space, and the one sentence that it greets a newcomer with."""

from __future__ import annotations

from typing import Any

from tonleiter.core.manual.page import Block, Heading, Page, Para, Shot, Steps
from tonleiter.core.manual.texts import table

GROUP = "Spaces"


def hint(name: str) -> str:
    """One sentence for whoever is in a space for the first time. Raises KeyError."""
    said: str = table("spaces")[name]["hint"]
    return said


def _block(data: dict[str, Any]) -> Block:
    if "para" in data:
        return Para(data["para"])
    if "heading" in data:
        return Heading(data["heading"])
    if "steps" in data:
        return Steps(tuple(data["steps"]))
    return Shot(data["shot"], data["says"])


def start_page() -> Page:
    """The page of the start page."""
    return Page(
        "space/start",
        "Start: from nothing to an answer",
        GROUP,
        (
            Para(
                "Two answers are enough: what you speak into, and where it should go."
                " <<Does it go?>> puts both on a shelf and judges the pair. What you do not know"
                " of them is a range; the answer says where that matters."
            ),
            Shot("start-light", "The start page"),
            Para(
                "Below stand the stations opened last, each with how it stands today, and what"
                " could be done this evening. A new station has no place on disk until you save"
                " it with {Ctrl+S}."
            ),
            Para(
                "{0} brings you here from anywhere. Folders, pieces, circuits, recordings and"
                " copies that somebody gave you can be dropped anywhere on the window."
            ),
        ),
    )


def space_page(name: str) -> Page:
    """The page of a space. Raises KeyError."""
    said = table("spaces")[name]
    return Page(f"space/{name}", said["title"], GROUP, tuple(_block(b) for b in said["block"]))


def space_pages() -> tuple[Page, ...]:
    """All, in the order of the work."""
    return (start_page(), *(space_page(name) for name in table("spaces")))
