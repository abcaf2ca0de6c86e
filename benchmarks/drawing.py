"""Making and painting the drawing of a stage, and of a chain of ten."""

from __future__ import annotations

import statistics
import time

from PySide6.QtGui import QImage, QPainter

from tonleiter.app.demo import shipped_demo
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.theme.palette import LIGHT
from tonleiter.app.widgets.drawing.painter import SheetPainter, size_px
from tonleiter.core.gear.library import parts_library
from tonleiter.core.report.drawings import Drawn, draw_chain, draw_piece
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import solve_chain
from tonleiter.core.station.edits import insert_stage
from tonleiter.core.station.files import read_station

ROUNDS, UNIT_PX = 40, 9.0


def painted(drawn: Drawn) -> None:
    """Paint into a picture."""
    width, height = size_px(drawn.sheet, UNIT_PX)
    image = QImage(int(width) + 1, int(height) + 1, QImage.Format.Format_ARGB32_Premultiplied)
    painter = QPainter(image)
    SheetPainter(painter, drawn.sheet, LIGHT, UNIT_PX, 1.0).paint()
    painter.end()


def median_ms(do: object) -> float:
    """Of many rounds."""
    assert callable(do)
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        do()
        times.append(time.perf_counter() - start)
    return statistics.median(times) * 1e3


def main() -> None:
    Look(application())
    station = read_station(shipped_demo()).station
    library = parts_library()
    stage = next(g for g in library.values() if g.kind_id == "opamp-preamp")
    for k, kind in enumerate(("bipolar-preamp", "opamp-preamp", "t-pad")):
        piece = next(g for g in library.values() if g.kind_id == kind)
        station = insert_stage(station, "hf-chat", "with-transformer", 3 + k, piece)
    solution = solve_chain(compile_chain(station, "hf-chat", "with-transformer"))
    count = len(solution.compiled.stages)
    at = next(k for k, s in enumerate(solution.compiled.stages) if s.gear.kind_id == stage.kind_id)
    one = median_ms(lambda: painted(draw_chain(solution, [at])))
    alone = median_ms(lambda: draw_piece(stage))
    whole = median_ms(lambda: painted(draw_chain(solution, most_width=96)))
    print(
        f"drawing of an op-amp stage {one:.1f} ms (aim: 5), by itself with its DC {alone:.1f} ms;"
        f" of a chain of {count} stages {whole:.1f} ms (aim: 40)"
    )


if __name__ == "__main__":
    main()
