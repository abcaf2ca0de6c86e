"""As the chain predicted? What a chain promises of a recording, beside what the recording shows.

The promise is a recording too: the open chain sent through the simulated radio, with its knobs as
they stood, and measured by the same rules. So what a filter, a compressor or a limiter does to
hum, noise and tone is in both. Voices differ from that which was sent; a difference within that is
none.
"""

from __future__ import annotations

from dataclasses import dataclass

from tonleiter.core.guide.onair import on_air
from tonleiter.core.judge.findings.earth import HUM_UNHEARD_DB
from tonleiter.core.judge.findings.heard import HEARD_CODE
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.listen.measures import Measures, Told
from tonleiter.core.listen.survey import survey_sound
from tonleiter.core.setup.modes import SCENES
from tonleiter.core.sound.beside import audible
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState
from tonleiter.core.words import within

# by how much voices and rooms differ before the chain is doubted, in dB
BASS_MAY_DB, TREBLE_MAY_DB, HUM_MAY_DB, NOISE_MAY_DB = 6.0, 6.0, 6.0, 6.0


@dataclass(frozen=True)
class Promise:
    """One figure: what the chain gives, what the recording shows, what may lie between them.

    ``hint`` says which figure in Gear it speaks against. ``more_is_fine``: a room that is quieter
    than it was entered to be is no fault.
    """

    title: str
    unit: str
    promised: float
    shown: Told
    may: float
    hint: str = ""
    more_is_fine: bool = False

    @property
    def agrees(self) -> bool | None:
        """Whether they do; None where the recording cannot tell."""
        if self.shown.value is None:
            return None
        by = self.shown.value - self.promised
        off = max(-by, 0.0) if self.more_is_fine else abs(by)
        return off <= self.may + 2 * self.shown.sure


def expected(station: Station, found: Verdict, panel: PanelState, by_air: bool) -> Measures | None:
    """What a recording of the open chain would measure; None where nothing can be sent with it.

    Raises NoSetError where its last piece is no radio's.
    """
    case = on_air(station, verdict=found)
    scene = SCENES[case.mode](case, panel)
    if scene.stops:
        return None
    return Measures(survey_sound(audible(scene.audio(by_air))))


def promises(promised: Measures, m: Measures, by_air: bool = False) -> tuple[Promise, ...]:
    """What a chain promises of a recording of it: by air nothing of hum and noise."""
    made: list[Promise] = []
    tones = (
        ("Bass", promised.low, m.low, BASS_MAY_DB,
         "a coupling capacitor, or how near the lips are"),
        ("Treble", promised.high, m.high, TREBLE_MAY_DB,
         "the housing before the capsule, or a long lead at a high source"),
    )  # fmt: skip
    for title, told, shown, may, hint in tones:
        if told.value is not None:
            made.append(Promise(title, "dB", told.value, shown, may, hint))
    if by_air:
        return tuple(made)
    hum, heard = promised.hum.mains_under_db, m.hum.mains_under_db
    told = Told(None, 0.0, m.hum.why or "no line is heard") if heard is None else Told(heard, 0.5)
    hint = "what joins the earths: a lead, a supply that nobody entered"
    under = HUM_UNHEARD_DB if hum is None else min(hum, HUM_UNHEARD_DB)
    made.append(Promise("Hum under speech", "dB", under, told, HUM_MAY_DB, hint, True))
    if promised.over_noise.value is not None:
        hint = "the room, a gain before it, or the capsule's own noise"
        over = promised.over_noise.value
        made.append(
            Promise("Speech over noise", "dB", over, m.over_noise, NOISE_MAY_DB, hint, True)
        )
    return tuple(made)


def broken(side: str, made: tuple[Promise, ...]) -> tuple[Finding, ...]:
    """What a recording shows otherwise than its chain promises, as findings: where to look."""
    return tuple(
        Finding(
            code=HEARD_CODE,
            severity="mind",
            stage="recording",
            says=f"{side}: {within(p.title)} is not what the chain promises",
            proof=f"{_told(p)} Look at {p.hint}.",
            evidence={"promised": p.promised, "figure": p.shown.value or 0.0},
            place=f"{side}, as the chain predicted?",
        )
        for p in made
        if p.agrees is False
    )


def said(made: tuple[Promise, ...]) -> str:
    """What it comes to, in one or two sentences."""
    off = [p for p in made if p.agrees is False]
    known = [p for p in made if p.agrees is not None]
    if not known:
        return "The recording tells nothing that the chain promises."
    if not off:
        names = ", ".join(p.title.lower() for p in known)
        return f"It shows what the chain promises ({names})."
    return f"{off[0].title}: {within(_told(off[0]))} Look at {off[0].hint}."


def _told(p: Promise) -> str:
    """Both figures of one that does not agree."""
    assert p.shown.value is not None
    more = p.shown.value - p.promised
    return (
        f"The chain promises {p.promised:.0f} {p.unit}, the recording shows"
        f" {p.shown.value:.0f}, {abs(more):.0f} {'more' if more > 0 else 'less'}."
    ).replace(" -", " −")
