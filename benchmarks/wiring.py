"""From an edit of the wiring to the score repainted; opening a station of many builds."""

from __future__ import annotations

import shutil
import statistics
import tempfile
import time
from pathlib import Path

from tonleiter.app.demo import shipped_demo
from tonleiter.app.document import Document
from tonleiter.app.start import application
from tonleiter.app.theme.look import Look
from tonleiter.app.window import MainWindow
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import DRAFT_POINTS, solve_chain
from tonleiter.core.station.files import read_station, save_station
from tonleiter.core.station.model import Chain, Station

ROUNDS, BUILDS = 40, 40


def median_ms(times: list[float]) -> float:
    """Of many rounds, in milliseconds."""
    return statistics.median(times) * 1e3


def repaint_ms(window: MainWindow) -> float:
    """From a wire being soldered elsewhere to the score that shows it."""
    space = window.space("wire")
    done: list[float] = []
    painted = space.score.paintEvent

    def paint(event: object) -> None:
        painted(event)
        done.append(time.perf_counter())

    space.score.paintEvent = paint
    times = []
    for k in range(ROUNDS):
        space.model.rest()
        application().processEvents()
        done.clear()
        start = time.perf_counter()
        space.model.land(space.model.span.right, "hot", "8" if k % 2 else "1")
        times.append(done[0] - start)
    space.score.paintEvent = painted
    return median_ms(times)


def many(station: Station) -> Station:
    """The demo with so many chains, each with hands in its wiring."""
    chain = station.chains[0]
    hands = {"landings": [{"end": "hf-20w.microphone", "leg": "hot", "contact": "8"}]}
    chains = []
    for k in range(BUILDS):
        data = chain.model_dump(mode="json") | {"id": f"build-{k}", "name": f"build {k}"}
        for variant in data["variants"]:
            variant["wiring"] = hands
        chains.append(Chain.model_validate(data))
    fields = {n: getattr(station, n) for n in Station.model_fields}
    return Station.model_validate(fields | {"chains": tuple(chains), "open_chain": "build-0"})


def opening_ms(folder: Path, look: Look) -> float:
    """From the folder to the window with its first picture."""
    start = time.perf_counter()
    window = MainWindow(Document.open(folder), look)
    window.show()
    application().processEvents()
    took = time.perf_counter() - start
    window.session.end()
    window.deleteLater()
    return took * 1e3


def main() -> None:
    """Print both, the first as a multiple of a bare solve of the same circuit."""
    look = Look(application())
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place) / "demo.station"
        shutil.copytree(shipped_demo(), folder)
        window = MainWindow(Document.open(folder), look)
        window.resize(1280, 800)
        window.show()
        application().processEvents()
        window.go_to("wire")
        application().processEvents()
        edit = repaint_ms(window)
        station = window.document.station
        window.session.end()
        times = []
        for _ in range(ROUNDS):
            start = time.perf_counter()
            solve_chain(compile_chain(station, contacts=True), DRAFT_POINTS)
            times.append(time.perf_counter() - start)
        bare = median_ms(times)
        print(
            f"edit of a wire to the repainted score {edit:.1f} ms (aim: 33),"
            f" {edit / bare:.1f} bare solves of its circuit"
        )
        big = Path(place) / "big.station"
        save_station(many(read_station(folder).station), big)
        few = statistics.median(opening_ms(folder, look) for _ in range(5))
        lots = statistics.median(opening_ms(big, look) for _ in range(5))
        print(
            f"opening {BUILDS} builds takes {lots / few:.2f} times what the demo's five chains"
            f" take ({lots:.0f} and {few:.0f} ms)"
        )


if __name__ == "__main__":
    main()
