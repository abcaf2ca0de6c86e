"""Starting the application: which station to open, and the look remembered from last time."""

from __future__ import annotations

import logging
import os
import sys
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QCoreApplication, QEventLoop, QSettings, QThread, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from tonleiter.app.display import need_a_display
from tonleiter.app.safety.trouble import catch_all, keep_a_log
from tonleiter.app.theme.desktop import desktop_asks
from tonleiter.app.theme.look import SCALES, Look
from tonleiter.app.theme.palette import THEMES
from tonleiter.app.window import MainWindow
from tonleiter.core.refused import RefusedError

if TYPE_CHECKING:
    from tonleiter.app.document import Document

BAD_INPUT = 2
MOST_WAITS, WAIT_MS = 33, 10


def application() -> QApplication:
    """The one QApplication, with the names that settings are kept under."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("tonleiter")
    app.setOrganizationName("tonleiter")
    app.setDesktopFileName("tonleiter")
    app.setWindowIcon(QIcon(str(Path(__file__).parent / "theme" / "icon" / "tonleiter.svg")))
    return app


def remembered_look(app: QApplication) -> Look:
    """The theme and text size of last time; at a first start what the desktop asks for.

    What cannot be understood is ignored.
    """
    # before the look sets a font of its own
    asked = desktop_asks(app)
    look = Look(app)
    look.contrast = asked.contrast
    settings = QSettings()
    theme = str(settings.value("theme", asked.theme))
    if theme in THEMES and theme != look.palette.name:
        look.set_theme(theme)
    try:
        scale = float(str(settings.value("scale", asked.scale)))
    except ValueError:
        scale = 1.0
    if scale in SCALES and scale != look.scale:
        look.set_scale(scale)
    return look


def run(
    station: Path | None = None, demo: bool = False, fresh: bool = False, looks_only: bool = False
) -> int:
    """Open the window on ``station``, on the user's copy of the demo, or on the last one opened.

    ``looks_only``: nothing is written into ``station``.

    Raises FileError when the station asked for cannot be opened.
    """
    need_a_display()
    app = application()
    catch_all()
    # a station that is asked for is read first: what is wrong with it is said without a window
    if not looks_only and _is_open_elsewhere(station, demo):
        return 0
    brought: Path | None = None
    if station is not None and station.is_file():
        station, brought, looks_only = _as_brought(station, looks_only)
    asked = _document(station, demo, fresh, looks_only) if station is not None else None
    window = MainWindow(None, remembered_look(app))
    window.show()
    QTimer.singleShot(0, window, partial(_fill, window, asked, demo, fresh, brought))
    code = app.exec()
    if not window.is_open:
        return code
    # what is still being computed is for nobody; a batch that cannot be stopped is not waited for
    window.session.end()
    if not window.session.jobs.wait(0.3):
        logging.shutdown()
        sys.stdout.flush()
        os._exit(code)
    return code


def _as_brought(file: Path, looks_only: bool) -> tuple[Path | None, Path | None, bool]:
    """Station, file to take and whether it is only looked at, of a file that was asked for.

    A copy that somebody gave away is looked at; a piece or a recording begins a station. Raises
    FileError, BackupError.
    """
    from tonleiter.app.brought import COPY
    from tonleiter.core.log.give_away import unpacked
    from tonleiter.core.station.files import STATION_FILE

    if file.name == STATION_FILE:
        return file, None, looks_only
    if file.suffix.lower() == COPY:
        return unpacked(file), None, True
    return None, file, looks_only


def _fill(
    window: MainWindow, asked: Document | None, demo: bool, fresh: bool, brought: Path | None
) -> None:
    """The window is painted; now what computes is imported, and the station opened."""
    app = QApplication.instance()
    assert app is not None
    _let_it_paint(window, app)
    keep_a_log()
    from tonleiter.app.jobs import lend_a_hand
    from tonleiter.app.recents import keep_recent
    from tonleiter.app.remembered import keep, restore

    lend_a_hand()
    app.aboutToQuit.connect(partial(keep, window))
    try:
        document = asked or (None if brought else _document(None, demo, fresh))
    except RefusedError as error:
        print(f"tonleiter: {error}", file=sys.stderr)
        app.exit(BAD_INPUT)
        return
    if document is None:
        window.show_start()
        if brought is not None:
            window.bring([brought])
        return
    window.open_with(document)
    restore(window)
    if not document.looks_only:
        keep_recent(document.folder, document.station.title)


def _is_open_elsewhere(station: Path | None, demo: bool) -> bool:
    """Another window has it and came to the front; said, so that nobody waits for this one."""
    from tonleiter.app.one_window import raised_elsewhere
    from tonleiter.app.recents import recents

    if demo:
        return False  # the copy may have to be made anew; its lock says who has it
    last = recents()[:1]
    if station is None and not last:
        return False
    folder = station if station is not None else Path(last[0].folder)
    folder = folder if folder.is_dir() else folder.parent
    if not raised_elsewhere(folder):
        return False
    print(f"{folder} is open in another window; that one is in front now")
    return True


def _let_it_paint(window: MainWindow, app: QCoreApplication) -> None:
    """Until the window is on the screen, or for a third of a second."""
    for _ in range(MOST_WAITS):
        app.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        handle = window.windowHandle()
        if handle is not None and handle.isExposed():
            break
        QThread.msleep(WAIT_MS)
    app.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)


def _document(
    station: Path | None, demo: bool, fresh: bool, looks_only: bool = False
) -> Document | None:
    """The station to open; None where nothing was asked for and none was open before."""
    from tonleiter.app.demo import demo_copy
    from tonleiter.app.document import Document
    from tonleiter.app.recents import recents
    from tonleiter.core.station.disk import FileError
    from tonleiter.core.station.unplaced import unplaced

    if station is not None:
        return Document.open(station, looks_only)
    if demo:
        return Document.open(demo_copy(fresh))
    if unplaced():
        return None  # something was left without a place: the start page shows it first
    for last in recents()[:1]:
        folder = Path(last.folder)
        try:
            return Document.open(folder)
        except FileError:
            pass  # it was moved or deleted; the start page says so
    return None
