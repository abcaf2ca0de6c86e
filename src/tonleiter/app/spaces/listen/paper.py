"""What was measured and compared, as files: a report on paper, a table, plain data."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from html import escape
from pathlib import Path

from PySide6.QtCore import QUrl
from PySide6.QtGui import QImage, QTextDocument

from tonleiter.app.spaces.listen.pictures import Spectra
from tonleiter.app.spaces.listen.slots import Place, Taken
from tonleiter.app.theme.look import PaperLook
from tonleiter.app.widgets.vector import a4, pdf_bytes
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.words import heard
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.listen_report import (
    compare_report,
    csv_of,
    figures_of,
    measure_report,
    said,
)

Given = Sequence[tuple[Place, Taken]]
ENDINGS = (".pdf", ".csv", ".json")
KINDS = "Report (*.pdf);;Table (*.csv);;Data (*.json)"
PICTURE_PX = (640, 300)


class ReportError(RefusedError):
    """An ending that no report has."""


def report_bytes(file: Path, given: Given, made: Mapping[Place, Comparison]) -> bytes:
    """The content of a report; the file's ending says of which kind. Raises ReportError.

    ``made`` has those that were held against the first.
    """
    ending = file.suffix.lower()
    named = [(taken.name, taken.measures) for _, taken in given]
    if ending == ".csv":
        return csv_of(named).encode()
    if ending == ".json":
        names = {place: taken.name for place, taken in given}
        pairs = [compare_report(names["A"], names[p], c) for p, c in made.items()]
        if len(given) == 2 and pairs:
            data: object = pairs[0]
        elif pairs:
            data = {"compared": pairs}
        else:
            data = [measure_report(name, m) for name, m in named]
        return f"{json.dumps(data, indent=1, ensure_ascii=False)}\n".encode()
    if ending == ".pdf":
        return pdf_bytes("Recordings", a4(), report_document(given, made).print_)
    raise ReportError(f"{file}: a name that ends in {', '.join(ENDINGS)} is wanted")


def report_document(given: Given, made: Mapping[Place, Comparison]) -> QTextDocument:
    """The report as it lies on paper."""
    paper = PaperLook()
    document = QTextDocument()
    document.setDefaultFont(paper.font(13))
    document.addResource(
        QTextDocument.ResourceType.ImageResource,
        QUrl("spectrum"),
        _spectrum(paper, given, made.get("B")),
    )
    document.setHtml(_html(given, made))
    return document


def _spectrum(look: PaperLook, given: Given, made: Comparison | None) -> QImage:
    """The picture of the spectra, as on the screen by day."""
    view = Spectra(look)
    view.resize(*PICTURE_PX)
    view.show_all({place: taken.measures for place, taken in given}, made)
    image = QImage(2 * PICTURE_PX[0], 2 * PICTURE_PX[1], QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(2.0)
    image.fill(0xFFFFFFFF)
    view.render(image)
    return image


def _html(given: Given, made: Mapping[Place, Comparison]) -> str:
    title = made["B"].headline() if "B" in made else "What it measures"
    rows = [f"<h2>{escape(title)}</h2>"]
    for place, c in made.items():
        if place != "B":
            rows.append(f"<p>{place} against A: {escape(c.said() or c.why_not)}.</p>")
    for side, taken in given:
        m = taken.measures
        words = ", ".join(f"{h.says} ({h.figure})" for h in heard(m)) or m.silent or m.level.why
        facts = f"{m.survey.seconds:.1f} s, {m.survey.rate_hz} Hz"
        rows.append(f"<p><b>{side}</b> {escape(taken.name)}: {facts}<br>{escape(words)}</p>")
        rows += [f"<p>{escape(r)}</p>" for r in m.survey.remarks]
    rows.append(f'<p><img src="spectrum" width="{PICTURE_PX[0]}" height="{PICTURE_PX[1]}"></p>')
    rows.append("<p>Long-term spectrum against average speech, levels aligned.</p>")
    rows.append('<table cellpadding="3"><tr><td></td>')
    rows += [f'<td align="right"><b>{side}</b></td>' for side, _ in given]
    rows.append("</tr>")
    columns = [figures_of(taken.measures) for _, taken in given]
    for told in zip(*columns, strict=True):
        name, _, unit, _ = told[0]
        cells = "".join(f'<td align="right">{escape(said(x[3], unit))}</td>' for x in told)
        rows.append(f"<tr><td>{name}</td>{cells}</tr>")
    rows.append("</table>")
    return "".join(rows)
