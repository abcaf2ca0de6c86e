"""What `measure` and `compare` say of recordings, as plain data; keys carry units."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.measures import Measures, Told, untold
from tonleiter.core.listen.words import heard
from tonleiter.core.report.finite import finite
from tonleiter.core.units.levels import signed

# title, key with its unit, and where it comes from
_FIGURES = (
    ("Speech level", "level_dbfs", "dBFS"),
    ("Peak", "peak_dbfs", "dBFS"),
    ("True peak", "true_peak_dbtp", "dBTP"),
    ("Loudness", "loudness_lufs", "LUFS"),
    ("Crest", "crest_db", "dB"),
    ("Noise between words", "noise_dbfs", "dBFS"),
    ("Speech over noise", "over_noise_db", "dB"),
    ("Bass", "low_db", "dB"),
    ("Treble", "high_db", "dB"),
    ("Lower edge, −6 dB", "edge_low_hz", "Hz"),
    ("Upper edge, −6 dB", "edge_high_hz", "Hz"),
    ("Lower edge, −20 dB", "foot_low_hz", "Hz"),
    ("Upper edge, −20 dB", "foot_high_hz", "Hz"),
    ("Loud to soft", "loud_to_soft_db", "dB"),
    ("Noise comes up between words", "rise_db", "dB"),
    ("Echo", "echo", ""),
    ("Off frequency", "off_hz", "Hz"),
    ("Tone", "tone_hz", "Hz"),
    ("Harmonics of the tone (THD)", "thd_db", "dB"),
    ("All but the tone (THD+N)", "thd_noise_db", "dB"),
    ("Cut samples", "cut_share", ""),
    ("Constant part", "dc", ""),
)


def figures_of(m: Measures) -> tuple[tuple[str, str, str, Told], ...]:
    """Every figure: title, key, unit, and what is told of it."""
    told = {
        "level_dbfs": m.level,
        "peak_dbfs": m.peak,
        "true_peak_dbtp": m.true_peak,
        "loudness_lufs": m.loudness,
        "crest_db": m.crest,
        "noise_dbfs": m.noise,
        "over_noise_db": m.over_noise,
        "low_db": m.low,
        "high_db": m.high,
        "edge_low_hz": m.edge(6, upper=False),
        "edge_high_hz": m.edge(6, upper=True),
        "foot_low_hz": m.edge(20, upper=False),
        "foot_high_hz": m.edge(20, upper=True),
        "loud_to_soft_db": m.loud_to_soft,
        "rise_db": m.rise,
        "echo": m.echo,
        "off_hz": m.off_hz,
        **_of_tone(m),
        "cut_share": m.cut_share,
        "dc": m.dc,
    }
    return tuple((title, key, unit, told[key]) for title, key, unit in _FIGURES)


def _of_tone(m: Measures) -> dict[str, Told]:
    tone = m.tone
    if tone is None:
        none = untold("it is no tone")
        return {"tone_hz": none, "thd_db": none, "thd_noise_db": none}
    return {
        "tone_hz": Told(tone.hertz, 0.002 * tone.hertz),
        "thd_db": Told(tone.thd_db, 0.3),
        "thd_noise_db": Told(tone.thd_noise_db, 0.3),
    }


def said(told: Told, unit: str) -> str:
    """A figure with its unit and how sure it is, or why there is none."""
    if told.value is None:
        return f"cannot be told: {told.why}"
    if not unit:
        return f"{told.value:.4%}" if told.value else "none"
    digits = 0 if unit == "Hz" else 1
    sure = f" ± {told.sure:.{digits}f}" if told.sure >= 0.05 else ""
    return f"{signed(told.value, digits)} {unit}{sure}"


def csv_of(made: Sequence[tuple[str, Measures]]) -> str:
    """A line for each recording, keys with their units on top; what cannot be told is empty."""
    text = io.StringIO()
    out = csv.writer(text, lineterminator="\n")
    keys = [key for _, key, _ in _FIGURES]
    out.writerow(["file", "seconds", "rate_hz", *keys, "words"])
    for name, m in made:
        told = [t.value for _, _, _, t in figures_of(m)]
        row = ["" if v is None else f"{v:.6g}" for v in told]
        words = " ".join(h.word for h in heard(m))
        out.writerow([name, f"{m.survey.seconds:.3f}", m.survey.rate_hz, *row, words])
    return text.getvalue()


def measure_report(name: str, m: Measures) -> dict[str, Any]:
    """One recording."""
    s = m.survey
    return {
        "file": name,
        "seconds": s.seconds,
        "rate_hz": s.rate_hz,
        "channels": s.channels,
        "remarks": list(s.remarks),
        "figures": {key: _told(told) for _, key, _, told in figures_of(m)},
        "hum": _hum(m),
        "events": [
            {"kind": e.kind, "at_s": e.at_s, "over_db": e.over_db, "lasts_s": e.lasts_s}
            for e in m.events
        ],
        "words": [
            {"word": h.word, "says": h.says, "figure": h.figure, "sure": h.sure, "why": h.why}
            for h in heard(m)
        ],
        "spectrum": {
            "f_hz": [float(f) for f in m.centres],
            "against_speech_db": [finite(float(x)) for x in m.against_speech_db],
        },
    }


def _told(told: Told) -> dict[str, Any]:
    value = None if told.value is None else finite(told.value)
    return {"value": value, "sure": told.sure, "why": told.why}


def _hum(m: Measures) -> dict[str, Any]:
    hum = m.hum
    return {
        "mains_hz": hum.mains_hz,
        "mains_under_speech_db": hum.mains_under_db,
        "usb_under_speech_db": hum.comb_under_db,
        "noise_like": hum.noise,
        "lines": [
            {"f_hz": x.hertz, "under_speech_db": x.under_db} for x in (*hum.mains, *hum.comb)
        ],
        "why": hum.why,
    }


def compare_report(one: str, other: str, c: Comparison) -> dict[str, Any]:
    """Two of them."""
    f, by = c.spectrum_db
    gone, come = c.words
    return {
        "one": measure_report(one, c.one),
        "other": measure_report(other, c.other),
        "says": c.headline(),
        "same_words": c.aligned.same_words,
        "agree": c.aligned.agree,
        "late_s": c.aligned.late_s,
        "louder_db": c.louder_db,
        "changes": [
            {
                "title": x.title,
                "unit": x.unit,
                "one": x.one.value,
                "other": x.other.value,
                "by": x.by.value,
                "sure": x.by.sure,
                "clear": x.clear,
            }
            for x in c.changes
        ],
        "words_gone": [h.word for h in gone],
        "words_come": [h.word for h in come],
        "spectrum": {"f_hz": [float(x) for x in f], "by_db": [float(x) for x in by]},
    }
