"""Pages as HTML: for a browser, for paper, and for the window's own reader."""

from __future__ import annotations

import html
from collections.abc import Callable, Iterable

from tonleiter.core.manual.page import (
    BUTTON,
    KEY,
    LINK,
    Block,
    Heading,
    Page,
    Para,
    Shot,
    Steps,
    Table,
)

# where a link to a page leads, and where a picture lies
Where = Callable[[str], str]
STYLE = """\
body { font-family: sans-serif; color: #1D2A35; background: #F3EFE6; max-width: 46em;
  margin: 2em auto; padding: 0 1em; line-height: 1.45; }
h1 { font-size: 1.7em; } h2 { font-size: 1.3em; margin-top: 2em; border-top: 2px solid #D8D0C2;
  padding-top: 0.8em; } h3 { font-size: 1.05em; }
a { color: #0E6470; } table { border-collapse: collapse; margin: 0.6em 0; }
td, th { border-bottom: 1px solid #D8D0C2; padding: 3px 12px 3px 0; text-align: left;
  vertical-align: top; } th { color: #5C6873; font-weight: 600; }
.caution { border-left: 5px solid #B7850B; padding: 4px 12px; background: #FCFAF5; }
kbd, .button { border: 1px solid #5C6873; border-radius: 3px; padding: 0 5px; background: #FCFAF5;
  font-family: monospace; } .button { font-family: inherit; font-weight: 600; }
img { max-width: 100%; border: 1px solid #D8D0C2; } figcaption { color: #5C6873; }
nav { color: #5C6873; }
"""


def inline(text: str, to_page: Where) -> str:
    """A text with its links, keys and buttons. What people typed stays text."""
    made = html.escape(text, quote=False).replace("&lt;&lt;", "<<").replace("&gt;&gt;", ">>")
    made = BUTTON.sub(lambda m: f'<span class="button">{m.group(1)}</span>', made)
    made = KEY.sub(lambda m: f"<kbd>{m.group(1)}</kbd>", made)
    return LINK.sub(lambda m: f'<a href="{to_page(m.group(2))}">{m.group(1)}</a>', made)


def body(page: Page, to_page: Where, to_shot: Where | None, level: int = 2) -> str:
    """The page without what stands around it; ``to_shot`` None leaves pictures out."""
    made = [f'<h{level} id="{page.id}">{html.escape(page.title)}</h{level}>']
    made += [_block(block, to_page, to_shot, level + 1) for block in page.blocks]
    return "\n".join(line for line in made if line)


def _block(block: Block, to_page: Where, to_shot: Where | None, level: int) -> str:
    match block:
        case Para(text=text, caution=caution):
            kind = ' class="caution"' if caution else ""
            sign = "⚠ " if caution else ""
            return f"<p{kind}>{sign}{inline(text, to_page)}</p>"
        case Heading(text=text):
            return f"<h{level}>{html.escape(text)}</h{level}>"
        case Steps(items=items):
            lines = "".join(f"<li>{inline(item, to_page)}</li>" for item in items)
            return f"<ol>{lines}</ol>"
        case Table(rows=rows, head=head):
            top = _row(head, "th", to_page) if any(head) else ""
            return f"<table>{top}{''.join(_row(r, 'td', to_page) for r in rows)}</table>"
        case Shot(name=name, says=says):
            if to_shot is None:
                return ""
            said = html.escape(says, quote=True)
            picture = f'<img src="{to_shot(name)}" alt="{said}" width="640">'
            return f"<p>{picture}<br><i>{said}</i></p>"


def _row(cells: Iterable[str], tag: str, to_page: Where) -> str:
    return f"<tr>{''.join(f'<{tag}>{inline(c, to_page)}</{tag}>' for c in cells)}</tr>"


def document(title: str, inside: str, style: str = "style.css") -> str:
    """A whole file."""
    return (
        '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8">'
        f'<title>{html.escape(title)}</title><link rel="stylesheet" href="{style}"></head>\n'
        f"<body>\n{inside}\n</body></html>\n"
    )
