"""Writes docs/manual: the HTML files, and all of it as one PDF."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMarginsF, QSizeF, Qt, QUrl
from PySide6.QtGui import QImage, QPageSize, QPdfWriter, QTextDocument

from tonleiter.app.demo import shipped_demo
from tonleiter.app.start import application
from tonleiter.app.theme.fonts import font, load_fonts
from tonleiter.core.manual.book import Book, whole
from tonleiter.core.manual.files import html_files, mark_of
from tonleiter.core.manual.html import body
from tonleiter.core.station.files import read_station

ROOT = Path(__file__).resolve().parents[2]
FOLDER, SHOTS = ROOT / "docs" / "manual", ROOT / "docs" / "screenshots"
PDF = "manual.pdf"
SHOT_PX = 960
PAPER_STYLE = """
h1 { font-size: 20pt; } h2 { font-size: 14pt; } h3 { font-size: 11pt; }
p, td, th, li { font-size: 9pt; } th { color: #5C6873; } td { padding-right: 8px; }
.caution { background: #F3EFE6; } kbd, .button { background: #F3EFE6; }
"""


def pdf(book: Book, file: Path, mark: str) -> None:
    """All pages on A4; the file's subject says of which contents it was made."""
    load_fonts()
    made = QTextDocument()
    made.setDefaultFont(font(12))
    made.setDefaultStyleSheet(PAPER_STYLE)
    for shot in SHOTS.glob("*.png"):
        picture = QImage(str(shot)).scaledToWidth(
            SHOT_PX, Qt.TransformationMode.SmoothTransformation
        )
        made.addResource(QTextDocument.ResourceType.ImageResource, QUrl(shot.name), picture)
    inside = ["<h1>Tonleiter, the manual</h1>"]
    for group, pages in book.groups().items():
        inside.append(f"<h1>{group}</h1>")
        inside += [body(p, lambda page: f"#{page}", lambda name: f"{name}.png") for p in pages]
    made.setHtml("\n".join(inside))
    writer = QPdfWriter(str(file))
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(16, 16, 16, 16))
    writer.setResolution(110)
    writer.setTitle(f"Tonleiter, the manual ({mark})")
    # a page of its own size: else a margin is put inside the margin
    made.setPageSize(QSizeF(writer.width(), writer.height()))
    made.print_(writer)


def main() -> None:
    """Write everything; what is not made any more goes."""
    application()
    book = whole(read_station(shipped_demo()).station)
    files = html_files(book)
    FOLDER.mkdir(parents=True, exist_ok=True)
    for old in FOLDER.iterdir():
        if old.name not in files and old.name != PDF:
            old.unlink()
    for name, content in files.items():
        (FOLDER / name).write_text(content, "utf-8")
    pdf(book, FOLDER / PDF, mark_of(files))
    print(f"docs/manual: {len(book.pages)} pages")


if __name__ == "__main__":
    main()
