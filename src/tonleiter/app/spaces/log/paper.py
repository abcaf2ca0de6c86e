"""The log as a file: the history on paper, a table, plain data, contacts."""

from __future__ import annotations

import json
from collections.abc import Sequence
from html import escape
from pathlib import Path

from PySide6.QtGui import QTextDocument

from tonleiter.app.theme.look import PaperLook
from tonleiter.app.widgets.vector import a4, pdf_bytes
from tonleiter.core.log.adif import write_adif
from tonleiter.core.log.entry import KIND_WORDS, LogEntry
from tonleiter.core.log.exported import log_csv, row_of
from tonleiter.core.refused import RefusedError

ENDINGS = (".pdf", ".csv", ".json", ".adi")
KINDS = "History (*.pdf);;Table (*.csv);;Data (*.json);;Contacts, ADIF 3 (*.adi)"


class PaperError(RefusedError):
    """An ending that no such file has."""


def log_bytes(file: Path, title: str, says: str, entries: Sequence[LogEntry]) -> bytes:
    """The content of a file; its ending says of which kind. Raises PaperError."""
    ending = file.suffix.lower()
    if ending == ".csv":
        return log_csv(entries).encode()
    if ending == ".json":
        data = {"says": says, "entries": [row_of(e) for e in entries]}
        return f"{json.dumps(data, indent=1, ensure_ascii=False)}\n".encode()
    if ending == ".adi":
        return write_adif(entries)
    if ending == ".pdf":
        document = QTextDocument()
        document.setDefaultFont(PaperLook().font(12))
        document.setHtml(_html(title, says, entries))
        return pdf_bytes(title, a4(), document.print_)
    raise PaperError(f"{file}: a name that ends in {', '.join(ENDINGS)} is wanted")


def _html(title: str, says: str, entries: Sequence[LogEntry]) -> str:
    rows = [f"<h2>{escape(title)}</h2><p><b>{escape(says)}</b></p>", '<table cellpadding="3">']
    for e in entries:
        about = ", ".join(x for x in (e.microphone, e.who, e.band) if x)
        more = "; ".join(x for x in (e.text if e.text != e.says() else "", *e.changed) if x)
        back = f"<br>way back: {escape(e.way_back)}" if e.way_back else ""
        rows.append(
            f"<tr><td>{e.when:%Y-%m-%d %H:%M}</td><td>{KIND_WORDS[e.kind]}</td>"
            f"<td><b>{escape(e.says())}</b><br>{escape(about)}<br>{escape(more)}{back}</td></tr>"
        )
    return "".join([*rows, "</table>"])
