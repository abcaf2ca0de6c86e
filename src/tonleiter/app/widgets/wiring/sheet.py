"""Sheets to take to the iron: A4 pages in vectors, as PDF, as SVG, on a printer, on the screen.

A page is laid out in pixels of which 781 go into its width; what does not fit goes on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from PySide6.QtCore import (
    QPointF,
    QRectF,
    Qt,
)
from PySide6.QtGui import (
    QFontMetricsF,
    QPagedPaintDevice,
    QPainter,
    QPen,
)

from tonleiter.app.theme.fonts import font
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.canvas.words import wrapped
from tonleiter.app.widgets.drawing.painter import SheetPainter
from tonleiter.app.widgets.vector import a4, pdf_bytes, svg_bytes
from tonleiter.app.widgets.wiring.faces import FacePainter
from tonleiter.app.widgets.wiring.score import ScorePainter, Shown
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.inside import Inside
from tonleiter.core.report.score import Plug
from tonleiter.core.report.wiring import in_drawer
from tonleiter.core.report.worksheet import Expected, Modification, Worksheet
from tonleiter.core.station.contacts import At
from tonleiter.core.station.disk import write_file
from tonleiter.core.station.shells import Face
from tonleiter.core.words import the

# what an upright A4 page holds between its margins; 12 px come out as 8 points
PAGE_WIDE, PAGE_HIGH = 781.0, 1146.0
GAP_PX, FACE_PX, TICK_PX = 8.0, 46.0, 9.0
LEAST_SHRINK = 7.0 / 8.0
INSIDE_UNIT_PX = 8.0
TURNED = "The drawing is wide: it lies along a page of its own, behind this one."
# of the width, for the longer of two tables side by side
WIDER = 0.56
INK, SOFT = "ink", "soft"


class SheetError(RefusedError):
    """A sheet could not be written; one line says why."""


@dataclass(frozen=True)
class Block:
    """A piece of a page: so tall, painted at the origin. ``head`` keeps with what follows."""

    high: float
    paint: Callable[[QPainter], None]
    head: bool = False


class Pages:
    """A build's sheets laid out on pages."""

    def __init__(self, found: Verdict, sheets: Iterable[Worksheet]) -> None:
        self._found, self._drawer = found, found.assessment.station.drawer
        sheets = tuple(sheets)
        self.pages: list[list[tuple[float, Block]]] = []
        for sheet in sheets:
            self._flow(list(self._sheet(sheet)))
        if sheets:
            # for the shop: a page that can be torn off
            self._flow([_lines(sheets[-1].subtitle, 12, 400, SOFT), *self._parts(sheets[-1])])

    def _flow(self, blocks: list[Block]) -> None:
        """From the top of a new page on."""
        y = 0.0
        self.pages.append([])
        for k, block in enumerate(blocks):
            wanted = block.high
            if block.head and k + 1 < len(blocks):
                wanted += blocks[k + 1].high
            if y + wanted > PAGE_HIGH and self.pages[-1]:
                self.pages.append([])
                y = 0.0
            self.pages[-1].append((y, block))
            y += block.high

    def paint(self, painter: QPainter, number: int) -> None:
        """One page, its corner at the origin."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for y, block in self.pages[number]:
            painter.save()
            painter.translate(0, y)
            block.paint(painter)
            painter.restore()

    # --- what stands on it -----------------------------------------------------------------------

    def _sheet(self, sheet: Worksheet) -> Iterator[Block]:
        yield _lines(sheet.title, 18, 700, INK)
        yield _lines(sheet.subtitle, 12, 400, SOFT)
        for mend in sheet.mends:
            yield _lines(f"■ Mend first: {mend}", 12, 600, "stop")
        score = self._score(sheet)
        turned = score.high >= PAGE_HIGH
        yield score if not turned else _lines(TURNED, 12, 400, SOFT)
        yield self._both_faces(sheet)
        if sheet.inside is not None:
            yield from _inside(sheet.inside)
        yield _head("Wires")
        yield from _table(
            ("from", "to", "carries", "colour", "length"),
            (0.29, 0.29, 0.15, 0.14, 0.13),
            [(r.start, r.end, r.carries, r.colour, r.length) for r in sheet.rows],
        )
        for mod in sheet.modifications:
            yield from _modification(mod)
        yield _head("In this order")
        for k, step in enumerate(sheet.steps, 1):
            yield _step(f"{k}. {step.says}", step.caution)
        if sheet.ohms or sheet.dc:
            yield from _two_tables(
                "An ohmmeter finds, unplugged",
                sheet.ohms,
                "A voltmeter finds, plugged in, to the radio's ground",
                sheet.dc,
            )
        if sheet.left_over:
            yield _head("Contacts not used")
            for line in sheet.left_over:
                yield _lines(line, 12, 400, INK)
        for box in sheet.selectors:
            yield _head(f"If you want one box for this radio and {the(box.to)}")
            for line in (*box.poles, f"To be had: {box.part}."):
                yield _lines(line, 12, 400, INK)
        if turned:
            yield score

    def _score(self, sheet: Worksheet) -> Block:
        build = self._found.build
        made = ScorePainter(sheet.score, build, LIGHT, 1.0, PAGE_WIDE, foot=False)
        wide = max(PAGE_WIDE, made.least_width())
        faces = Shown(faces={"left": "solder-side", "right": "solder-side"})
        # its words shrink with it, down to 7 points
        if PAGE_WIDE / wide < LEAST_SHRINK:
            return self._turned_score(sheet, faces, max(wide, PAGE_HIGH))
        made = ScorePainter(sheet.score, build, LIGHT, 1.0, wide, foot=False)
        shrink = min(PAGE_WIDE / wide, 1.0)

        def paint(painter: QPainter) -> None:
            painter.scale(shrink, shrink)
            made.paint(painter, faces)

        return Block(made.height() * shrink + GAP_PX, paint)

    def _turned_score(self, sheet: Worksheet, faces: Shown, wide: float) -> Block:
        """What is too wide for an upright page lies along one of its own."""
        made = ScorePainter(sheet.score, self._found.build, LIGHT, 1.0, wide, foot=False)
        shrink = min(PAGE_HIGH / wide, PAGE_WIDE / made.height(), 1.0)

        def paint(painter: QPainter) -> None:
            painter.translate(PAGE_WIDE, 0)
            painter.rotate(90)
            painter.scale(shrink, shrink)
            made.paint(painter, faces)

        return Block(PAGE_HIGH, paint)

    def _both_faces(self, sheet: Worksheet) -> Block:
        """Each plug from the front and from the solder side, with words that say which."""
        both: tuple[Face, ...] = ("front", "solder-side")
        shown = [
            (plug, face)
            for plug in (sheet.score.left, sheet.score.right)
            for face in (both if plug.has_faces else both[:1])
        ]
        if not any(plug.has_faces for plug, _ in shown):
            return Block(0.0, lambda _: None)  # the score shows all there is to see of a jack
        wide = PAGE_WIDE / len(shown)

        def paint(painter: QPainter) -> None:
            for k, (plug, face) in enumerate(shown):
                shared = {at for t in sheet.score.shared for at in t.contacts}
                self._one_face(painter, plug, face, QRectF(k * wide, 0, wide, 0), shared)

        return Block(2 * FACE_PX + 78, paint)

    def _one_face(
        self, painter: QPainter, plug: Plug, face: Face, place: QRectF, shared: set[At]
    ) -> None:
        x, wide = place.x(), place.width()
        contacts = plug.end.connector.contacts
        build = self._found.build
        used = {
            c.label
            for c in contacts
            if build.net_of(plug.end.ref(c.label)) is not None or plug.end.ref(c.label) in shared
        }
        live = {c.label for c in contacts if c.role == "bias" and c.label not in used}
        centre = QPointF(x + wide / 2, FACE_PX + 22)
        FacePainter(painter, LIGHT, FACE_PX, 1.0).paint(plug, face, centre, used, live)
        middle = Qt.AlignmentFlag.AlignHCenter
        _write(painter, QRectF(x + 4, 0, wide - 8, 18), plug.end.name, 12, 600, INK, middle, 1)
        below = QRectF(x + 4, 2 * FACE_PX + 28, wide - 8, 48)
        _write(painter, below, plug.words(face), 12, 400, SOFT, middle, 3)

    def _parts(self, sheet: Worksheet) -> Iterator[Block]:
        yield _head("Parts")
        rows = []
        for part in sheet.parts:
            have = "in the drawer" if in_drawer(part, self._drawer) else "to buy"
            rows.append(
                (", ".join(part.refs), f"{part.count} × {part.name}", part.value, part.note, have)
            )
        yield from _table(("", "what", "value", "must be", ""), (0.09, 0.27, 0.2, 0.3, 0.14), rows)


# --- blocks --------------------------------------------------------------------------------------


@cache
def _metrics(size: float, weight: int) -> QFontMetricsF:
    return QFontMetricsF(font(size, weight))


# to lay a page out and to paint it is to break the same words twice, and again at each turn
@lru_cache(maxsize=4096)
def _wrapped(words: str, size: float, weight: int, wide: float, most: int) -> tuple[str, ...]:
    return tuple(wrapped(words, _metrics(size, weight), wide, most))


def _write(
    painter: QPainter,
    area: QRectF,
    words: str,
    size: float,
    weight: int,
    ink: str,
    align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft,
    most: int = 20,
) -> None:
    painter.setFont(font(size, weight))
    painter.setPen(LIGHT.color(ink))
    lines = _wrapped(words, size, weight, area.width(), most)
    painter.drawText(area, int(align | Qt.AlignmentFlag.AlignTop), "\n".join(lines))


def _high(words: str, size: float, weight: int, wide: float) -> float:
    """How tall words are in a width."""
    lines = _wrapped(words, size, weight, wide, 20)
    return len(lines) * max(_metrics(size, weight).lineSpacing(), size * 1.2)


def _lines(words: str, size: float, weight: int, ink: str) -> Block:
    high = _high(words, size, weight, PAGE_WIDE)
    return Block(
        high + 3, lambda p: _write(p, QRectF(0, 0, PAGE_WIDE, high + 4), words, size, weight, ink)
    )


def _inside(inside: Inside) -> Iterator[Block]:
    """The drawing of what is soldered in a microphone's case."""
    yield _head(f"In the case of {the(inside.name)}")
    box = inside.sheet.box()
    unit = min(INSIDE_UNIT_PX, (PAGE_WIDE - 8) / box.width)

    def paint(painter: QPainter) -> None:
        painter.translate(4, 4)
        SheetPainter(painter, inside.sheet, LIGHT, unit, 1.0).paint()

    yield Block(unit * box.height + 12, paint)


def _head(words: str) -> Block:
    def paint(painter: QPainter) -> None:
        _write(painter, QRectF(0, GAP_PX - 2, PAGE_WIDE, 20), words, 13, 700, INK)

    return Block(GAP_PX + 19, paint, head=True)


def _table(
    heads: tuple[str, ...], shares: tuple[float, ...], rows: Iterable[tuple[str, ...]]
) -> Iterator[Block]:
    yield _table_row(heads, shares, SOFT, 400, head=True)
    for row in rows:
        yield _table_row(row, shares, INK, 400)


def _table_row(
    cells: tuple[str, ...], shares: tuple[float, ...], ink: str, weight: int, head: bool = False
) -> Block:
    wides = [share * PAGE_WIDE for share in shares]
    high = max(_high(c, 12, weight, w - 8) for c, w in zip(cells, wides, strict=True)) + 2

    def paint(painter: QPainter) -> None:
        x = 0.0
        for cell, wide in zip(cells, wides, strict=True):
            _write(painter, QRectF(x, 1, wide - 8, high + 2), cell, 12, weight, ink)
            x += wide
        painter.setPen(QPen(LIGHT.color("line"), 0.7))
        painter.drawLine(QPointF(0, high), QPointF(PAGE_WIDE, high))

    return Block(high, paint, head)


def _step(words: str, caution: str) -> Block:
    """A box to tick, what to do, its caution below."""
    indent = TICK_PX + 10
    wide = PAGE_WIDE - indent
    high = _high(words, 12, 400, wide)
    more = _high(f"⚠ {caution}", 12, 600, wide) if caution else 0.0

    def paint(painter: QPainter) -> None:
        painter.setPen(QPen(LIGHT.color("ink"), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(1, 3, TICK_PX, TICK_PX))
        _write(painter, QRectF(indent, 0, wide, high + 4), words, 12, 400, INK)
        if caution:
            _write(
                painter, QRectF(indent, high, wide, more + 4), f"⚠ {caution}", 12, 600, "mind_text"
            )

    return Block(high + more + 2, paint)


def _two_tables(
    left_head: str, left: tuple[Expected, ...], right_head: str, right: tuple[Expected, ...]
) -> Iterator[Block]:
    """Two short tables beside each other, line by line, with a place to write what was read."""
    half = WIDER * PAGE_WIDE

    def heads(painter: QPainter) -> None:
        _write(painter, QRectF(0, GAP_PX, half - 10, 20), left_head, 12, 700, INK, most=1)
        rest = PAGE_WIDE - half
        _write(painter, QRectF(half, GAP_PX, rest, 20), right_head, 12, 700, INK, most=1)

    yield Block(GAP_PX + 18, heads, head=True)
    for k in range(max(len(left), len(right))):
        pair = (left[k] if k < len(left) else None, right[k] if k < len(right) else None)
        yield _expected(pair, half)


def _expected(pair: tuple[Expected | None, Expected | None], half: float) -> Block:
    wides = (half, PAGE_WIDE - half)
    columns = ((0.6 * wides[0], 0.24 * wides[0]), (0.4 * wides[1], 0.42 * wides[1]))
    high = 1 + max(
        max(_high(e.where, 12, 400, where - 6), _high(e.reads, 12, 600, reads - 6))
        for e, (where, reads) in zip(pair, columns, strict=True)
        if e is not None
    )

    def paint(painter: QPainter) -> None:
        x = 0.0
        for expected, wide, (where, reads) in zip(pair, wides, columns, strict=True):
            if expected is not None:
                _write(painter, QRectF(x, 0, where - 6, high + 3), expected.where, 12, 400, INK)
                at = QRectF(x + where, 0, reads - 6, high + 3)
                _write(painter, at, expected.reads, 12, 600, INK)
                painter.setPen(QPen(LIGHT.color("soft"), 0.7, Qt.PenStyle.DotLine))
                y = min(high - 2, 14.0)
                painter.drawLine(QPointF(x + where + reads, y), QPointF(x + wide - 12, y))
            x += wide

    return Block(high, paint)


def _modification(mod: Modification) -> Iterator[Block]:
    yield _head(f"Inside {the(mod.box)}")
    for title, words in (
        ("There now", f"{mod.was}. Check it against what you find; take a photo."),
        ("Put in", mod.put_in),
        ("What it does", mod.effect),
        ("The way back", mod.back),
        ("⚠", mod.caution),
    ):
        yield _lines(f"{title}: {words}" if title != "⚠" else f"⚠ {words}", 12, 400, INK)
    yield Block(92, _photo)


def _photo(painter: QPainter) -> None:
    painter.setPen(QPen(LIGHT.color("line"), 1.0, Qt.PenStyle.DashLine))
    painter.drawRect(QRectF(0, 4, 150, 82))
    _write(
        painter,
        QRectF(8, 36, 134, 20),
        "photo, before",
        12,
        400,
        SOFT,
        Qt.AlignmentFlag.AlignHCenter,
    )


# --- files and paper -----------------------------------------------------------------------------


def print_pages(pages: Pages, device: QPagedPaintDevice) -> None:
    """Paint all pages on something that has pages."""
    painter = QPainter(device)  # type: ignore[arg-type]
    try:
        scale = painter.device().width() / PAGE_WIDE
        for number in range(len(pages.pages)):
            if number:
                device.newPage()
            painter.save()
            painter.scale(scale, scale)
            pages.paint(painter, number)
            painter.restore()
    finally:
        painter.end()


def pdf_of(pages: Pages, title: str) -> bytes:
    """The bytes of a PDF file, fonts embedded."""
    return pdf_bytes(title, a4(), lambda writer: print_pages(pages, writer))


def svg_of(pages: Pages, title: str, number: int = 0) -> bytes:
    """The text of an SVG file with one page."""
    wide, high = round(PAGE_WIDE), round(PAGE_HIGH)
    return svg_bytes(title, wide, high, lambda painter: pages.paint(painter, number))


def write_sheet(pages: Pages, title: str, file: Path) -> None:
    """Write the sheets. The ending says how: .pdf holds all pages, .svg is a file for each.

    Raises SheetError for other endings, FileError where it cannot be written.
    """
    ending = file.suffix.lower()
    if ending == ".pdf":
        write_file(file, pdf_of(pages, title))
    elif ending == ".svg":
        for number in range(len(pages.pages)):
            name = file if number == 0 else file.with_name(f"{file.stem}-{number + 1}{file.suffix}")
            write_file(name, svg_of(pages, title, number))
    else:
        raise SheetError(f"{file}: a name that ends in .pdf or .svg is wanted")
