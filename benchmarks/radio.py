"""The simulated sets against real time and one transform there and back; live blocks."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from tonleiter.app.demo import shipped_demo
from tonleiter.core.guide.live import Live
from tonleiter.core.guide.onair import on_air
from tonleiter.core.radio.fm import FmKnobs, modulated
from tonleiter.core.radio.knobs import Knobs, SetFigures
from tonleiter.core.radio.ssb import AUDIO_HZ, transmitted
from tonleiter.core.setup.costs import costs_of_schools
from tonleiter.core.setup.modes import live_set, scene_of
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import voice
from tonleiter.core.station.files import read_station
from tonleiter.core.station.settings import PanelState


def timed(do: Callable[[], object], times: int = 5) -> float:
    """The shortest of some runs, in seconds."""
    best = float("inf")
    for _ in range(times):
        start = time.perf_counter()
        do()
        best = min(best, time.perf_counter() - start)
    return best


def main() -> None:
    """Print the ratios."""
    figures = SetFigures.of_levels(-53.0, -20.0)
    sound = Sound(voice("deep").at_rate(AUDIO_HZ).samples * figures.unit_v * 0.5, AUDIO_HZ)
    there_and_back = timed(lambda: np.fft.irfft(np.fft.rfft(sound.samples), sound.samples.size))
    for name, run in (
        ("SSB", lambda: transmitted(figures, Knobs(gain=0.6, compression_db=4.0), sound)),
        ("FM", lambda: modulated(figures, FmKnobs(), sound)),
    ):
        took = timed(run)
        print(
            f"{name}: {sound.seconds / took:.0f} times real time (aim: 60),"
            f" {took / there_and_back:.0f} transforms there and back"
        )
    station = read_station(shipped_demo()).station
    case = on_air(station, "hf-chat", "with-transformer")
    live = Live(live_set(case, PanelState()), PanelState())
    took = timed(lambda: [live.step() for _ in range(50)]) / 50
    print(f"a live block of 40 ms: {took * 1e3:.1f} ms")
    whole = timed(lambda: scene_of(case, PanelState()))
    print(f"a whole voice through the set, judged: {whole * 1e3:.0f} ms")
    print(
        f"what every school costs: {timed(lambda: costs_of_schools(case, PanelState()), 1):.1f} s"
    )


if __name__ == "__main__":
    main()
