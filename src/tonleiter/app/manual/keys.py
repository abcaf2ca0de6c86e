"""Keys as pages of the manual: taken from the window as it is, so that none can be stale."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from tonleiter.core.manual.page import Block, Heading, Page, Para, Table

PAGE, GROUP = "keys", "Spaces"
Lines = Sequence[tuple[str, str]]


def keys_page(groups: Iterable[tuple[str, Lines]]) -> Page:
    """All keys, under the headings of where they work."""
    blocks: list[Block] = []
    for heading, lines in groups:
        blocks += [Heading(heading), Table(tuple((key, words) for key, words in lines))]
    return Page(PAGE, "Keys", GROUP, tuple(blocks))


def with_keys(page: Page, lines: Lines) -> Page:
    """A space's page with its own keys at its end."""
    if not lines:
        return page
    table = Table(tuple((key, words) for key, words in lines))
    more = (Heading("Keys here"), table, Para("All others stand under [Keys](keys)."))
    return replace(page, blocks=(*page.blocks, *more))
