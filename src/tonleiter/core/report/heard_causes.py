"""What was heard in a recording, held against what the open chain is known for: likely causes.

Each finding's code says what it sounds like: no list of codes stands here.
"""

from __future__ import annotations

from tonleiter.core.judge.findings.codes import meaning
from tonleiter.core.judge.findings.heard import HEARD_CODE
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.listen.events import Event
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.words import PRAISE, Heard, Word, heard
from tonleiter.core.report.circumstances import PLAIN, Circumstances

# what is usual where the chain itself gives no reason
_USUAL: dict[Word, str] = {
    "hum": "two earths that meet, or a supply: pull one lead after the other and listen",
    "buzz": "a computer's USB: pull it and listen, then an isolator or a transformer",
    "hiss": "too little level into some box, or a gain that stands too high",
    "noisy": "the room: come closer, a fan away from the desk",
    "thin": "a coupling capacitor, a piezo into too low a load, the low edge of the filter",
    "bassy": "too close into a directional capsule, or bass turned up",
    "muffled": "foam over the capsule, a hole that misses it, a narrow filter",
    "harsh": "treble turned up, or an empty resonant case",
    "boxy": "the body of a case answers: seal the capsule to its opening",
    "distorted": "a stage without room: look for the first ceiling on the Ladder",
    "squashed": "two compressors in a row, or one far too hard",
    "quiet": "a level far below what the box wants, or a slider",
    "clicks": "a switch beside the capsule, a relay, a cold joint",
    "pops": "breath: speak across it, from two or three fingers",
    "pumping": "a compressor that lets go too fast, or with too much room behind it",
    "echo": "a wall near by, a loudspeaker that monitors, or a program that hears itself",
    "off-frequency": "the receiver's dial, or its clarifier: 20 Hz are heard",
    "drop-outs": "a computer that had no time: larger buffers, fewer programs",
}


def of_chain(word: Word, verdict: Verdict | None) -> tuple[Finding, ...]:
    """Findings of a chain that would sound so, the gravest first."""
    if verdict is None:
        return ()
    return tuple(
        f for f in verdict.findings if f.severity != "fine" and word in meaning(f.code).heard_as
    )


def findings_of(
    side: str, m: Measures, verdict: Verdict | None, given: Circumstances = PLAIN
) -> tuple[Finding, ...]:
    """What a recording sounds like, as findings: each with its likely cause."""
    return tuple(_finding(side, m, h, verdict, given.excuse(h.word)) for h in heard(m))


def _finding(side: str, m: Measures, h: Heard, verdict: Verdict | None, excuse: str) -> Finding:
    known = () if excuse else of_chain(h.word, verdict)
    if excuse:
        proof = f"{h.figure}; {excuse}"
    elif h.word == "clear":
        proof = "no rule of the table fits it"
    elif h.word in PRAISE:
        proof = h.figure
    elif known:
        proof = f"{h.figure}; in the open chain: {known[0].says[:1].lower()}{known[0].says[1:]}"
    else:
        proof = f"{h.figure}; usual: {_USUAL[h.word]}" if h.word in _USUAL else h.figure
    return Finding(
        code=HEARD_CODE,
        severity="fine" if excuse else h.grave,
        stage="recording",
        says=f"{side} is {h.says}" if h.word in PRAISE else f"{side}: {h.says}",
        proof=proof,
        evidence={"figure": h.value, "sure": h.sure},
        fixes=known[0].fixes if known else (),
        place=f"{side}{_when(h, m.events)}",
    )


def _when(h: Heard, events: tuple[Event, ...]) -> str:
    kinds = {"clicks": "click", "pops": "pop", "drop-outs": "drop-out"}
    found = [e for e in events if e.kind == kinds.get(h.word)]
    return f" at {found[0].at_s:.1f} s" if found else f", {h.word}"
