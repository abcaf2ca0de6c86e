"""From an edit to the repainted window, offscreen: median over a drag of the pad."""

from __future__ import annotations

import os
import statistics
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QObject

from tonleiter.app.demo import shipped_demo
from tonleiter.app.document import Document
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.window import MainWindow
from tonleiter.core.chain.grasp import pull

EDITS = 80


class PaintCounter(QObject):
    """Counts the paint events of the ladder: an edit is done when its picture is."""

    paints = 0

    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Paint:
            self.paints += 1
        return False


def main() -> None:
    app = application()
    window = MainWindow(Document.open(shipped_demo()), Look(app))
    window.resize(1280, 800)
    window.show()
    counter = PaintCounter()
    window.space.view.installEventFilter(counter)
    for with_response in (False, True):
        window.space.show_response(with_response)
        app.processEvents()
        model = window.space.model
        model.select(3)
        start = model.assessment
        times = []
        for k in range(EDITS):
            before = time.perf_counter()
            painted = counter.paints
            model.move(pull(start, 3, 10.0 * ((k % 20) / 10 - 1)), gesture="drag")
            while counter.paints == painted:
                app.processEvents()
            times.append(time.perf_counter() - before)
        what = "ladder and response" if with_response else "ladder"
        print(
            f"edit to repaint, {what}: median {statistics.median(times) * 1e3:.1f} ms (aim: < 33)"
        )


if __name__ == "__main__":
    main()
