"""Says how much of the core its own tests ran; fails where that is less than a floor.

``covered.py PERCENT FILE...``: each FILE is what one run wrote; what any of them ran counts.
"""

import json
import sys
from pathlib import Path

runs = [json.loads(Path(name).read_text("utf-8"))["files"] for name in sys.argv[2:]]
lines = ran = 0
for file in {name for run in runs for name in run}:
    seen = [run[file] for run in runs if file in run]
    executed = {n for of in seen for n in of["executed_lines"]}
    ran += len(executed)
    lines += len(executed.union(*(of["missing_lines"] for of in seen)))
percent = 100 * ran / lines
print(f"core: {percent:.2f} % of {lines} lines run by its own tests, at least {sys.argv[1]} wanted")
sys.exit(percent < float(sys.argv[1]))
