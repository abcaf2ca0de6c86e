"""The code of what is heard in a recording: it is of no chain, and counts nowhere."""

from __future__ import annotations

from tonleiter.core.judge.findings.codes import Meaning, declare

HEARD_CODE = declare("heard-in-a-recording", Meaning(counts=()))
