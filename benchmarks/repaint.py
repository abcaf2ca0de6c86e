"""From an edit to the repainted window, offscreen: median over a drag of the pad."""

from __future__ import annotations

import os
import shutil
import statistics
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QObject

from tonleiter.app.demo import shipped_demo
from tonleiter.app.document import Document
from tonleiter.app.jobs import lend_a_hand
from tonleiter.app.spaces.ladder.grasp import pull
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.window import MainWindow

EDITS = 80


class PaintCounter(QObject):
    """Counts the paint events of the ladder: an edit is done when its picture is."""

    paints = 0

    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Paint:
            self.paints += 1
        return False


def main() -> None:
    lend_a_hand()
    app = application()
    copy = Path(tempfile.mkdtemp()) / "hochtal.station"
    shutil.copytree(shipped_demo(), copy)
    window = MainWindow(Document.open(copy), Look(app))
    window.resize(1280, 800)
    window.show()
    counter = PaintCounter()
    window.space("ladder").view.installEventFilter(counter)
    model = window.space("ladder").model
    model.select(3)
    start = model.assessment

    def drag(what: str) -> float:
        app.processEvents()
        times = []
        for k in range(EDITS):
            before = time.perf_counter()
            painted = counter.paints
            model.move(pull(start, 3, 10.0 * ((k % 20) / 10 - 1)), gesture="drag")
            while counter.paints == painted:
                app.processEvents()
            times.append(time.perf_counter() - before)
        median_ms = statistics.median(times) * 1e3
        print(f"edit to repaint, {what}: median {median_ms:.1f} ms (aim: < 33)")
        return median_ms

    alone = drag("ladder")
    window.space("ladder").show_response(True)
    drag("ladder and response")
    window.space("ladder").show_response(False)
    for name in ("gear", "match", "ladder"):
        window.go_to(name)
        app.processEvents()
    visited = drag("ladder, the other spaces visited")
    print(f"what visited spaces cost: {visited / alone:.2f} times the ladder alone (aim: < 1.3)")


if __name__ == "__main__":
    main()
