"""``python -m fuzz``: run campaigns and say the counts; exit 1 when something was found."""

from __future__ import annotations

import argparse
import faulthandler
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from fuzz.campaign import Bound, Tally
from fuzz.files import cards, pieces, records, stations
from fuzz.hands import hands
from fuzz.kills import disk, kills
from fuzz.learning import proposed, taught
from fuzz.listening import caused_recordings, clean_recordings, marred_recordings
from fuzz.more_files import boxes, over_time, readings, recordings
from fuzz.texts import texts
from fuzz.walk import walk
from fuzz.ways import ways
from fuzz.whys import whys

CAMPAIGNS: dict[str, tuple[Callable[[int, Bound, Path], Tally], int]] = {
    "stations": (stations, 6_000),
    "records": (records, 3_000),
    "pieces": (pieces, 3_000),
    "cards": (cards, 4_000),
    "boxes": (boxes, 4_000),
    "recordings": (recordings, 3_000),
    "clean": (clean_recordings, 500),
    "marred": (marred_recordings, 300),
    "caused": (caused_recordings, 300),
    "taught": (taught, 1_000),
    "proposed": (proposed, 100),
    "over-time": (over_time, 3_000),
    "readings": (readings, 100_000),
    "texts": (texts, 100_000),
    "walk": (walk, 8_000),
    "ways": (ways, 2_000),
    "whys": (whys, 2_000),
    "kills": (kills, 1_000),
    "disk": (disk, 500),
    "hands": (hands, 100_000),
}


def main() -> int:
    """Run what is named, or everything."""
    parser = argparse.ArgumentParser(prog="scripts/fuzz", description=__doc__)
    parser.add_argument(
        "campaign",
        nargs="*",
        metavar="CAMPAIGN",
        help=f"any of {', '.join(CAMPAIGNS)}; default: all",
    )
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=60.0, help="at most, for each campaign")
    parser.add_argument("--count", type=int, help="at most, for each campaign")
    options = parser.parse_args()
    unknown = [c for c in options.campaign if c not in CAMPAIGNS]
    if unknown:
        parser.error(f"there is no campaign called {unknown[0]}; known: {', '.join(CAMPAIGNS)}")
    found = 0
    # and one that falls over too
    faulthandler.enable()
    with tempfile.TemporaryDirectory(prefix="tonleiter-fuzz-") as folder:
        for name in options.campaign or CAMPAIGNS:
            run, usual = CAMPAIGNS[name]
            begun = time.monotonic()
            # a campaign that hangs says where
            faulthandler.dump_traceback_later(options.seconds + 60, exit=True)
            tally = run(options.seed, Bound(options.count or usual, options.seconds), Path(folder))
            print(f"{tally.said()}   [{time.monotonic() - begun:.0f} s]", flush=True)
            found += tally.faults.total()
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
