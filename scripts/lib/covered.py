"""Says how much of the core its own tests ran; fails where that is less than a floor.

``covered.py FILE PERCENT``: FILE is what the run wrote.
"""

import json
import sys
from pathlib import Path

summary = json.loads(Path(sys.argv[1]).read_text("utf-8"))["summary"]
lines = summary["covered_lines"] + summary["missing_lines"]
percent = summary["percent_covered"]
print(f"core: {percent:.2f} % of {lines} lines run by its own tests, at least {sys.argv[2]} wanted")
sys.exit(percent < float(sys.argv[2]))
