"""Starting the application: which station to open, and the look remembered from last time."""

from __future__ import annotations

import logging
import os
import sys
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from tonleiter.app.demo import demo_copy
from tonleiter.app.document import Document
from tonleiter.app.jobs import lend_a_hand
from tonleiter.app.safety.trouble import keep_a_log
from tonleiter.app.theme.look import SCALES, Look
from tonleiter.app.theme.palette import THEMES
from tonleiter.app.window import MainWindow
from tonleiter.core.station.disk import FileError


def application() -> QApplication:
    """The one QApplication, with the names that settings are kept under."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("tonleiter")
    app.setOrganizationName("tonleiter")
    return app


def remembered_look(app: QApplication) -> Look:
    """The theme and text size of last time; what cannot be understood is ignored."""
    look = Look(app)
    settings = QSettings()
    theme = settings.value("theme")
    if theme in THEMES:
        look.set_theme(str(theme))
    try:
        scale = float(str(settings.value("scale", 1.0)))
    except ValueError:
        scale = 1.0
    if scale in SCALES:
        look.set_scale(scale)
    return look


def run(station: Path | None = None, demo: bool = False, fresh: bool = False) -> int:
    """Open the window on ``station``, on the user's copy of the demo, or on the last one opened.

    Raises FileError when the station asked for cannot be opened.
    """
    app = application()
    keep_a_log()
    lend_a_hand()
    document = _document(station, demo, fresh)
    window = MainWindow(document, remembered_look(app))
    QSettings().setValue("last", str(document.folder))
    window.show()
    code = app.exec()
    # what is still being computed is for nobody; a batch that cannot be stopped is not waited for
    window.session.end()
    if not window.session.jobs.wait(0.3):
        logging.shutdown()
        sys.stdout.flush()
        os._exit(code)
    return code


def _document(station: Path | None, demo: bool, fresh: bool) -> Document:
    if station is not None:
        return Document.open(station)
    if demo:
        return Document.open(demo_copy(fresh))
    last = QSettings().value("last")
    if last:
        try:
            return Document.open(Path(str(last)))
        except FileError:
            pass  # it was moved or deleted; the demo is a place to begin
    return Document.open(demo_copy())
