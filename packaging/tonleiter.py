#!/usr/bin/python3 -I
"""Starts the installed program: what it imports lies in one folder, and nothing else is asked."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "lib" / "tonleiter"))

from tonleiter.cli import main

sys.exit(main())
