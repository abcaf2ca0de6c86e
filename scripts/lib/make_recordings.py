"""Recordings of the demo station as its monitor has them: right, or with one thing wrong."""

from __future__ import annotations

import shutil
from collections.abc import Callable

import numpy as np

from tonleiter.app.demo import shipped_demo
from tonleiter.core.guide.onair import on_air
from tonleiter.core.setup.modes import scene_of, settled
from tonleiter.core.sound.beside import audible
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import edits
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.files import read_station, to_json
from tonleiter.core.station.kept_sound import FOLDER, keep
from tonleiter.core.station.model import Station
from tonleiter.core.station.recording import Recording
from tonleiter.core.station.records import NO_RECORDS, keep_recording

CHAIN, RATE, SECONDS, DAY = "hf-chat", 16_000, 8, "2026-03-14"
Change = Callable[[Station], Station]


def panel(**knobs: float) -> Change:
    """Knobs turned on top of what is set right."""

    def change(station: Station) -> Station:
        now = station.chain(CHAIN).panel
        return edits.change_chain(station, CHAIN, panel=now.but(knobs={**now.knobs, **knobs}))

    return change


def gear(piece: str, **of: object) -> Change:
    """A figure of a piece, for all who use it."""
    return lambda s: edits.change_gear(s, piece, **of)


def cut(sound: Sound) -> Sound:
    """The recorder's own slider too high: its converter's ends cut the peaks."""
    most = float(np.abs(sound.samples).max())
    return Sound(np.clip(sound.samples * (2.5 / most), -0.98, 0.98), sound.rate_hz)


def off(sound: Sound) -> Sound:
    """The receiver's dial 35 Hz beside the frequency."""
    n = sound.samples.size
    spectrum = np.fft.fft(sound.samples)
    spectrum[n // 2 :] = 0.0
    turn = np.exp(2j * np.pi * 35.0 * np.arange(n) / sound.rate_hz)
    return Sound((np.fft.ifft(2 * spectrum) * turn).real, sound.rate_hz)


def as_it_is(sound: Sound) -> Sound:
    """As the monitor has it."""
    return sound


AFTER: dict[str, Callable[[Sound], Sound]] = {"clipped": cut, "off-frequency": off}
WRONG: tuple[tuple[str, str, Change], ...] = (
    ("clear", "clear: mixer and radio at one outlet", lambda s: s),
    ("muffled", "muffled: foam stuck over a small opening",
     gear("stage-dynamic", housing="in-case", over_it="foam", opening_mm=0.8, opening_long_mm=3)),
    ("hum", "hum: the mixer at another outlet", gear("desk-mixer", earth_emf_v=0.006)),
    ("quiet", "quiet: the gain at a tenth", panel(gain=12.0)),
    ("clipped", "clipped: the recorder's slider too high", lambda s: s),
    ("compressed", "compressed: 12 dB on top of a hot gain", panel(gain=95.0, compression=12.0)),
    ("off-frequency", "off frequency: the receiver 35 Hz beside", lambda s: s),
)  # fmt: skip


def main() -> None:
    """Write FLAC files and records.json into the demo."""
    folder = shipped_demo()
    shutil.rmtree(folder / FOLDER, ignore_errors=True)
    base = edits.change_chain(read_station(folder).station, CHAIN, shown="as-wired")
    set_right = settled(on_air(base, CHAIN), base.chain(CHAIN).panel).panel
    base = edits.change_chain(base, CHAIN, panel=set_right)
    base = edits.change_gear(base, "desk-mixer", earth_emf_v=1e-4)
    records = NO_RECORDS
    for name, title, change in WRONG:
        station = change(base)
        scene = scene_of(on_air(station, CHAIN), station.chain(CHAIN).panel)
        loud = audible(scene.audio(far=False))
        # the quiet one stays quiet against the clear one: all are recorded at one setting
        if name == "clear":
            reference = _peak(scene.audio(far=False)) / _peak(loud)
        sound = scene.audio(far=False).times(1 / reference / 4).at_rate(RATE)
        sound = AFTER.get(name, as_it_is)(sound)
        samples = sound.samples[: SECONDS * RATE]
        file, sha = keep(folder, name, samples, RATE)
        basis = basis_of(station, CHAIN)
        records = keep_recording(
            records,
            Recording(
                id=name, name=title, file=file, sha256=sha, seconds=samples.size / RATE,
                rate_hz=RATE, day=DAY, taken="simulated", chain_id=CHAIN, variant_id="as-wired",
                basis=basis.sound, chain=basis.chain_name, microphone=basis.stages[0].name,
                radio="20 W HF set", voice=basis.operator.name, purpose=basis.purpose,
                distance_mm=basis.distance_mm, power_w=20.0, slate=title,
            ),
        )  # fmt: skip
        print(f"{file}: {title}")
    (folder / "records.json").write_text(to_json(records), "utf-8")


def _peak(sound: Sound) -> float:
    return float(abs(sound.samples).max())


if __name__ == "__main__":
    main()
