"""The manual as HTML files, one for each group of pages, and an index."""

from __future__ import annotations

import hashlib

from tonleiter.core.manual.book import Book
from tonleiter.core.manual.html import STYLE, body, document
from tonleiter.core.manual.page import Page

SHOTS = "../screenshots"
INDEX = "index.html"


def file_of(group: str) -> str:
    """The name of a group's file."""
    return f"{group.lower().replace(' ', '-')}.html"


def html_files(book: Book) -> dict[str, str]:
    """Contents by file name."""
    at = {page.id: f"{file_of(page.group)}#{page.id}" for page in book.pages}
    made = {"style.css": STYLE}
    for group, pages in book.groups().items():
        inside = [f'<nav><a href="{INDEX}">Tonleiter, the manual</a></nav>', f"<h1>{group}</h1>"]
        inside += [body(page, at.__getitem__, lambda name: f"{SHOTS}/{name}.png") for page in pages]
        made[file_of(group)] = document(f"{group} · Tonleiter", "\n".join(inside))
    made[INDEX] = document("Tonleiter, the manual", _index(book, at))
    return made


def _index(book: Book, at: dict[str, str]) -> str:
    lines = [
        "<h1>Tonleiter, the manual</h1>",
        "<p>In the program F1 opens the same pages. Their figures were computed by it when this"
        " was made; the stations in them are made up.</p>",
    ]
    for group, pages in book.groups().items():
        lines.append(f"<h2>{group}</h2>")
        lines.append(f"<p>{_links(pages, at)}</p>")
    return "\n".join(lines)


def _links(pages: list[Page], at: dict[str, str]) -> str:
    return " · ".join(f'<a href="{at[p.id]}">{p.title}</a>' for p in pages)


def mark_of(files: dict[str, str]) -> str:
    """What tells one manual from another: of the contents, whatever they are kept in."""
    whole = "\0".join(f"{name}\0{files[name]}" for name in sorted(files))
    return hashlib.sha256(whole.encode()).hexdigest()[:16]
