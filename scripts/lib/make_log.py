"""The log of the demo station: what a school's club wrote in a year; made up, as its calls are."""

from __future__ import annotations

from tonleiter.app.demo import shipped_demo
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.offered import packed
from tonleiter.core.log.report_words import found_in
from tonleiter.core.log.store import LOG_FILE, LogStore
from tonleiter.core.station.files import read_station

HF = {"radio": "20 W HF set", "chain": "HF, evening round", "chain_id": "hf-chat"}
FM = {"radio": "FM mobile", "chain": "FM, headset", "chain_id": "fm-headset"}
AM = {
    "radio": "valve AM museum transmitter",
    "chain": "AM, museum day",
    "chain_id": "am-museum-day",
}
DYNAMIC, HEADSET, HANDSET = "stage dynamic", "electret headset", "field handset"

REPORTS = (
    ("2025-12-09T19:40", DYNAMIC, HF, "QK0ABC", "80 m", "57", "readable, but hum under every word"),
    ("2026-01-13T19:15", DYNAMIC, HF, "QK7TAL", "80 m", "58", "still hum, else fine"),
    ("2026-02-10T19:30", DYNAMIC, HF, "QK0ABC", "40 m", "59", "clear now, the hum is gone"),
    ("2026-03-17T19:20", DYNAMIC, HF, "QL3DEF", "40 m", "59", "clear"),
    ("2026-05-12T19:45", DYNAMIC, HF, "QM1OB", "40 m", "59", "nice and warm"),
    ("2026-09-15T19:05", DYNAMIC, HF, "QK7TAL", "80 m", "59", "natural, like the old days"),
    ("2026-01-22T17:10", HEADSET, FM, "QK5FUNK", "2 m", "55", "muffled"),
    ("2026-03-05T17:20", HEADSET, FM, "QN2LUX", "2 m", "56", "muffled, a bit quiet"),
    ("2026-06-04T17:05", HEADSET, FM, "QK5FUNK", "2 m", "59", "clear, what did you do?"),
    ("2026-07-02T17:30", HEADSET, FM, "QN2LUX", "2 m", "59", "crisp"),
    ("2026-10-22T17:15", HEADSET, FM, "QK5FUNK", "2 m", "59", "a little harsh on the s"),
    ("2026-04-19T14:00", HANDSET, AM, "QA0MUS", "80 m", "58", "loud, and rough at times"),
    ("2026-05-24T14:10", HANDSET, AM, "QA0MUS", "80 m", "59", "like the old days"),
)  # fmt: skip
CHANGES = (
    ("2026-01-27T18:30", DYNAMIC, HF, "mixer and radio at one outlet",
     ("desk mixer: mains outlet the radio's",), "plug it back into the wall"),
    ("2026-05-21T16:00", HEADSET, FM, "opening drilled, gasket",
     ("electret headset: opening 2 to 6 mm", "electret headset: seal putty"),
     "none for the hole: a disc of felt behind it brings back most of the old sound"),
    ("2026-10-08T16:30", HEADSET, FM, "treble from 0 to +3 dB", ("treble from 0 to +3 dB",),
     "treble to 0"),
    ("2026-05-03T13:00", HANDSET, AM, "33k in series", ("33 kΩ in series at the handset",),
     "bridge it"),
)  # fmt: skip


def main() -> None:
    """Write log.sqlite into the demo."""
    folder = shipped_demo()
    (folder / LOG_FILE).unlink(missing_ok=True)
    state = packed(read_station(folder).station)
    made = [
        LogEntry(
            at=f"{at}+01:00", kind="report", microphone=mic, who=who, band=band, text=text,
            readability=int(rs[0]), strength=int(rs[1]), words=found_in(text), **about,
        )
        for at, mic, about, who, band, rs, text in REPORTS
    ]  # fmt: skip
    made += [
        LogEntry(at=f"{at}+01:00", kind="change", microphone=mic, title=title, changed=changed,
                 way_back=back, **about)
        for at, mic, about, title, changed, back in CHANGES
    ]  # fmt: skip
    made.sort(key=lambda e: e.utc)
    store = LogStore(folder)
    # today's station lies with the newest one: what is changed from now on is offered
    store.add_all((e, state if e is made[-1] else None) for e in made)
    store.close()
    print(f"{LOG_FILE}: {len(made)} entries")


if __name__ == "__main__":
    main()
