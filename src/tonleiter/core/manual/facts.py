"""Cautions, schools and the glossary as pages: each is worded elsewhere, once."""

from __future__ import annotations

from tonleiter.core.guide.onair import on_air
from tonleiter.core.guide.schools import (
    ALC,
    ALC_WORDS,
    COMPRESSION,
    COMPRESSION_WORDS,
    PROCESSING_WORDS,
    TONE_WORDS,
    tone_aim,
)
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.judge.wiring.schools import TITLES, schools
from tonleiter.core.manual.glossary import terms
from tonleiter.core.manual.page import Heading, Page, Para, Table
from tonleiter.core.plan.styles import STYLES
from tonleiter.core.safety.cautions import CAUTIONS, Hazard
from tonleiter.core.setup.costs import costs_of_schools
from tonleiter.core.sound.voices import Pitch
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import PanelState
from tonleiter.core.units.levels import signed
from tonleiter.core.words import sentence

SSB_CHAIN = "hf-chat"
SCHOOL_GROUP = "Schools"
PITCHES: tuple[Pitch, ...] = ("deep", "high")
CAUTION_TITLES: dict[Hazard, str] = {
    "lethal-volts": "Lethal volts",
    "opening": "Opening a set",
    "mains-earth": "The mains and its earth",
    "charged": "Charged capacitors",
    "rf": "Radio frequency",
    "rf-burns": "Burns by radio frequency",
    "keys-itself": "A set that transmits by itself",
    "licence": "The licence",
    "fumes": "Fumes of solder",
    "eyes": "Eyes",
    "capsule-out": "Chips in the capsule",
    "hearing": "Hearing",
    "loads": "Outputs that need a load",
}


def caution_pages() -> tuple[Page, ...]:
    """A page for each caution."""
    return tuple(
        Page(
            f"caution/{hazard}",
            CAUTION_TITLES[hazard],
            "Cautions",
            (
                Para(words, caution=True),
                Para(
                    "It is said wherever the thing itself calls for it: at the step, on the"
                    " card of a finding, on the printed sheet. Local codes go before it."
                ),
            ),
        )
        for hazard, words in CAUTIONS.items()
    )


# titles by the ids of their pages
SCHOOLS = {
    "school/alc": "How far the ALC should move",
    "school/compression": "How much to compress, and where",
    "school/tone": "Natural or communicator",
    "school/coupling": "How two boxes are coupled",
    "school/house-styles": "House styles of a plan",
}


def school_pages(demo: Station) -> tuple[Page, ...]:
    """Where practitioners disagree; what each costs is measured on the demo's SSB chain."""
    told = _measured(demo)
    return (_alc(told), _compression(told), _tone(told), _coupling(demo), _styles())


def _measured(demo: Station) -> dict[str, str]:
    """What each school costs there, once what stands in the way is mended."""
    found = verdict_of(demo, SSB_CHAIN)
    mended = demo
    while stops := found.stops():
        mended = found.remedies(stops[0])[0].change(mended)
        found = verdict_of(mended, SSB_CHAIN)
    return costs_of_schools(on_air(mended, SSB_CHAIN), PanelState())


MEASURED = "Measured on the demo's SSB chain, with the deep voice, against the other one."


def _alc(told: dict[str, str]) -> Page:
    rows = tuple(
        (ALC_WORDS[s], f"{low:.0%} to {high:.0%} of its scale", sentence(told[f"alc:{s}"]))
        for s, (low, high) in ALC.items()
    )
    return Page(
        "school/alc",
        SCHOOLS["school/alc"],
        SCHOOL_GROUP,
        (
            Para(
                "Everyone agrees that a meter pinned at its end is distortion. Below that two"
                " schools exist. In Set both can be followed, and what each costs is measured on"
                " your own chain."
            ),
            Table(rows, ("school", "its meter at peaks", "what it brings, and costs")),
            Para(MEASURED),
        ),
    )


def _compression(told: dict[str, str]) -> Page:
    rows = tuple(
        (
            COMPRESSION_WORDS[s],
            f"{low:g} to {high:g} dB" if high else "–",
            sentence(told[f"compression:{s}"]),
        )
        for s, (low, high) in COMPRESSION.items()
    )
    outboard = tuple(
        (words, sentence(told[f"processing:{p}"]))
        for p, words in PROCESSING_WORDS.items()
        if f"processing:{p}" in told
    )
    return Page(
        "school/compression",
        SCHOOLS["school/compression"],
        SCHOOL_GROUP,
        (
            Para(
                "Compression makes speech louder through noise, and the room between words"
                " louder with it. It is done by the radio itself, or by a box before it: not by"
                " both, since each lifts the room again."
            ),
            Table(rows, ("school", "its meter at peaks", "what it brings, and costs")),
            *((Table(outboard, ("done by", "against the other")),) if outboard else ()),
            Para(MEASURED),
        ),
    )


def _tone(told: dict[str, str]) -> Page:
    rows = []
    for school, words in TONE_WORDS.items():
        for pitch in PITCHES:
            aim = tone_aim(school, pitch)
            edges = f"{aim.low_hz[0]:.0f} to {aim.high_hz[1]:.0f} Hz"
            rows.append((words, f"{pitch} voice", edges, _zone(aim.bass_db), _zone(aim.treble_db)))
    costs = tuple((words, sentence(told[f"tone:{s}"])) for s, words in TONE_WORDS.items())
    return Page(
        "school/tone",
        SCHOOLS["school/tone"],
        SCHOOL_GROUP,
        (
            Para(
                "A natural sound keeps the bass and is pleasant to listen to for an hour. A"
                " communicator's leaves it out and lifts two kilohertz: it is understood through"
                " noise, and tires."
            ),
            Table(tuple(rows), ("school", "voice", "edges", "bass, dB", "treble, dB")),
            Table(costs, ("school", "what it brings, and costs")),
            Para(MEASURED),
        ),
    )


def _zone(zone: tuple[float, float]) -> str:
    return f"{signed(zone[0], 1, plus=True)} to {signed(zone[1], 1, plus=True)}"


def _coupling(demo: Station) -> Page:
    found = verdict_of(demo, "hf-weak-data")
    rows = tuple((TITLES[s.id], sentence(s.effect)) for s in schools(found, 0))
    return Page(
        "school/coupling",
        SCHOOLS["school/coupling"],
        SCHOOL_GROUP,
        (
            Para(
                "Straight is simple. Cold to ground keeps the current of the grounds out of the"
                " sound's own wire. A transformer parts the grounds altogether, and costs its"
                " price and a little bass."
            ),
            Heading("On the demo's data lead"),
            Table(rows, ("school", "what it would change there")),
        ),
    )


def _styles() -> Page:
    return Page(
        "school/house-styles",
        SCHOOLS["school/house-styles"],
        SCHOOL_GROUP,
        (
            Para("What somebody wants of a path besides that it works; Match searches by one."),
            Table(tuple((s.title, sentence(s.says)) for s in STYLES.values())),
        ),
    )


def glossary_page() -> Page:
    """All terms in the order of the alphabet."""
    return Page(
        "glossary",
        "Glossary",
        "Words",
        (
            Para("Terms that are underlined with dots anywhere in the window lead here."),
            Table(
                tuple((t.name, t.says) for t in sorted(terms(), key=lambda t: t.name.lower())),
                ("term", "what it is"),
            ),
        ),
    )
