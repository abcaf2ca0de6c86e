"""From process start to the first painted window, over that of a bare PySide6 window."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time

ROUNDS = 5

BARE = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication(sys.argv)
class W(QMainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        QTimer.singleShot(0, app.quit)
w = W(); w.resize(1280, 800); w.show()
app.exec()
"""

OURS = """
import sys
from PySide6.QtCore import QTimer
from tonleiter.app.start import application, remembered_look
from tonleiter.app.window import MainWindow
app = application()
class W(MainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        QTimer.singleShot(0, app.quit)
w = W(None, remembered_look(app)); w.show()
app.exec()
"""

# until the ladder stands there with its numbers
LADDER = """
import sys
from PySide6.QtCore import QTimer
from tonleiter.app.start import application, remembered_look
from tonleiter.app.window import MainWindow
app = application()
w = MainWindow(None, remembered_look(app)); w.show()
app.processEvents()
from tonleiter.app.demo import shipped_demo
from tonleiter.app.document import Document
w.open_with(Document.open(shipped_demo()))
app.processEvents()
assert w.space("ladder").model.assessment is not None
"""


def seconds(code: str) -> float:
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        subprocess.run([sys.executable, "-c", code], env=environment, check=True)
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def main() -> None:
    bare, ours, ladder = seconds(BARE), seconds(OURS), seconds(LADDER)
    print(
        f"start to first painted window / bare window: {ours / bare:.2f} (aim: at most 3)"
        f"   [{ours:.2f} s / {bare:.2f} s]"
    )
    print(
        print(
            f"to the ladder with its numbers: {ladder / bare:.2f} bare windows   [{ladder:.2f} s]"
        )
    )


if __name__ == "__main__":
    main()
