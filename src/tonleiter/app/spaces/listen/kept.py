"""Recordings that are kept with the station, and those that lie beside it and are not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

from PySide6.QtCore import QFile

from tonleiter.app.editing import Editing
from tonleiter.app.spaces.listen.slots import Place, Slots, Taken, take_file, to_keep
from tonleiter.core.guide.controls import at
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.circumstances import BY_AIR
from tonleiter.core.station import edits
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.kept_sound import FOLDER, fingerprint_of, keep, orphans, place_of
from tonleiter.core.station.open_chain import of_open_chain
from tonleiter.core.station.recording import FILE_NAME, Recording
from tonleiter.core.station.recording import Taken as TakenBy
from tonleiter.core.station.records import drop_recording, keep_recording


class Kept:
    """Of the station that ``editing`` is of, and of what lies in the places. It says refusals."""

    def __init__(self, editing: Editing, slots: Slots) -> None:
        self._editing, self._slots = editing, slots

    def slate_line(self) -> str:
        """What to say before a recording, of the open chain as it stands."""
        station = self._editing.station
        if not station.chains:
            return ""
        given = self._of_chain()
        said = [str(given.get("microphone") or given.get("chain"))]
        said.append(f"{given['distance_mm'] / 10:.0f} centimetres")
        if given["power_w"]:
            said.append(f"{given['power_w']:.0f} watts")
        return ", ".join(said)[:80]

    def unkept(self) -> tuple[tuple[str, ...], frozenset[str]]:
        """Files that lie beside the station and are not kept, and kept ones whose file is gone."""
        files, gone = orphans(self._editing.records.recordings, self._editing.document.folder)
        return files, frozenset(gone)

    def lies_unkept(self, side: Place) -> Path | None:
        """The file of one that lies beside the station unkept."""
        taken = self._slots.at(side)
        if taken is None or taken.path is None or self.is_kept(side):
            return None
        here = taken.path.parent == self._editing.document.folder / FOLDER
        return taken.path if here and taken.path.name in self.unkept()[0] else None

    def throw_away(self, side: Place) -> bool:
        """An unkept one, to the system's rubbish, from where it can be fetched back."""
        file, refused = self.lies_unkept(side), self._editing.refused
        if self._editing.document.looks_only:
            refused.emit(self._editing.document.unwritable)
        elif file is None:
            refused.emit(f"what is in {side} does not lie here unkept")
        elif not QFile.moveToTrash(str(file)):
            refused.emit(f"{file}: the system does not take it to its rubbish")
        else:
            return True
        return False

    def take(self, side: Place, recording_id: str) -> None:
        """One that is kept; a file that is gone or another one is said."""
        found = next((r for r in self._editing.records.recordings if r.id == recording_id), None)
        if found is None:
            self._editing.refused.emit("that recording is not kept any more")
            return
        folder = self._editing.document.folder
        self._slots.put_file(side, lambda tell: _of_kept(folder, found, tell))

    def keep(self, side: Place, taken_by: TakenBy | None, slate: str) -> None:
        """Keep one with the station, with what it is of: the open chain as it stands, and when."""
        if self._editing.document.looks_only:
            self._editing.refused.emit(self._editing.document.unwritable)
            return
        taken = self._slots.at(side)
        if taken is None:
            self._editing.refused.emit(f"there is nothing in {side} to keep")
            return
        self._editing.attempt(lambda: self._keep(side, taken, taken_by, slate))

    def is_kept(self, side: Place) -> bool:
        """Whether what lies there is kept, now: an undone keeping keeps nothing."""
        taken = self._slots.at(side)
        return taken is not None and taken.kept in self._editing.records.recordings

    def _keep(self, side: Place, taken: Taken, taken_by: TakenBy | None, slate: str) -> None:
        if taken.simulated and taken.basis != basis_of(self._editing.station).sound:
            raise RefusedError(
                "the open chain is not any more what was listened to: listen to it anew to keep it"
            )
        title = (slate.strip() or taken.name)[:80]
        ids = {r.id for r in self._editing.records.recordings}
        made = edits.fresh_id(ids, title)
        sound = to_keep(taken)
        folder, lies = self._editing.document.folder, self.lies_unkept(side)
        if lies is not None and FILE_NAME.match(lies.name):
            file, sha = lies.name, fingerprint_of(lies)
        else:
            file, sha = keep(folder, made[:60], sound.samples, sound.rate_hz)
        recording = Recording(
            id=made,
            name=title,
            file=file,
            sha256=sha,
            seconds=min(sound.seconds, 7_300.0),
            rate_hz=sound.rate_hz,
            day=date.today().isoformat(),
            taken=_simulated(taken) if taken.simulated else taken_by,
            slate=slate.strip()[:80] or None,
            slate_s=round(taken.slate_s, 3),
            **self._of_chain(),
        )
        self._editing.note("recording kept", lambda r: keep_recording(r, recording))
        if lies is not None and lies.name != file:
            lies.unlink(missing_ok=True)
        now = replace(taken, name=title, kept=recording, basis=recording.basis)
        self._slots.put(side, lambda _: now)

    def _of_chain(self) -> dict[str, Any]:
        """What a recording is of: the open chain as it stands now."""
        station = self._editing.station
        if not station.chains:
            return {}
        basis = basis_of(station)
        socket = station.placed(station.chain().variant().stages[-1])
        box = station.device_by_port.get(socket.id)
        power = box.power_w.value if box is not None and box.kind == "radio" else None
        share = at(station.chain().panel, "power") / 100
        return {
            **of_open_chain(station),
            "variant_id": basis.variant,
            "basis": basis.sound,
            "voice": basis.operator.name,
            "purpose": basis.purpose,
            "distance_mm": basis.distance_mm,
            "power_w": None if power is None else round(power * share, 3),
        }

    def forget(self, side: Place) -> None:
        """Forget what is kept of one; its file stays beside the station, unkept."""
        taken = self._slots.at(side)
        kept = taken.kept if taken is not None and self.is_kept(side) else None
        if kept is None:
            self._editing.refused.emit(f"what is in {side} is not kept")
            return
        self._editing.attempt(
            lambda: self._editing.note("recording forgotten", lambda r: drop_recording(r, kept.id))
        )


def _simulated(taken: Taken) -> TakenBy:
    return "simulated-far" if taken.by_air else "simulated"


def _of_kept(folder: Path, recording: Recording, tell: Callable[[float], object]) -> Taken:
    """A kept recording. Raises SoundError, and RefusedError where its file is another one now."""
    file = place_of(folder, recording)
    if not file.exists():
        raise RefusedError(f"{file}: the recording “{recording.name}” is gone from there")
    if fingerprint_of(file) != recording.sha256:
        raise RefusedError(f"{file}: it is not the recording any more that was kept there")
    made = take_file(file, tell, recording.slate_s)
    return replace(
        made,
        name=recording.name,
        kept=recording,
        simulated=recording.taken in ("simulated", "simulated-far"),
        basis=recording.basis,
        by_air=recording.taken in BY_AIR,
    )
