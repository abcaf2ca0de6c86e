"""The code of what the log says: it is of reports and days, and counts nowhere."""

from __future__ import annotations

from tonleiter.core.judge.findings.codes import Meaning, declare

LOG_CODE = declare("said-by-the-log", Meaning(counts=()))
