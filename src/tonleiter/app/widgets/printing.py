"""Everything that goes on paper is shown first as it will lie there; from there it is printed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtGui import QPagedPaintDevice, QPageLayout
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from tonleiter.core.refused import RefusedError

# paints all pages on a device that has pages; begins and ends its painter itself
Paint = Callable[[QPagedPaintDevice], None]


class PrintingError(RefusedError):
    """Nothing can be printed here; one line says what is missing."""


def ask_print(title: str, layout: QPageLayout, paint: Paint, parent: QWidget) -> None:
    """Show pages of that layout as they will be printed; a printer is asked for from there.

    Raises PrintingError where the toolkit has no printing.
    """
    try:
        from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
    except ImportError:
        raise PrintingError(
            "No printing here (the library of CUPS is missing): save it as PDF."
        ) from None
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setPageLayout(layout)
    printer.setDocName(title)
    dialog = QPrintPreviewDialog(printer, parent)
    dialog.setWindowTitle(f"As it will be printed: {title}")
    dialog.paintRequested.connect(paint)
    dialog.exec()
    # it is a child of that window and would stay there, hidden; until it is gone it asks its
    # printer, which therefore goes no sooner than it does
    if isValid(dialog):
        dialog.destroyed.connect(partial(_KEPT.pop, id(printer), None))
        _KEPT[id(printer)] = printer
        dialog.deleteLater()


_KEPT: dict[int, object] = {}
