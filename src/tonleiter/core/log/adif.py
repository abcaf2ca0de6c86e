"""Reports as contacts in ADIF 3 (`<NAME:LENGTH[:TYPE]>value`), read and written; times are UTC.

Lengths count bytes. Some programs count characters: where only that leads to the next field, it is
taken so. Fields that mean nothing here are kept with the entry and written back as they came.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import UTC, datetime

from pydantic import ValidationError

from tonleiter import __version__
from tonleiter.core.log.entry import LogEntry, Read
from tonleiter.core.log.report_words import found_in
from tonleiter.core.refused import RefusedError

MOST_BYTES, MOST_RECORDS, MOST_VALUE = 64 * 1024 * 1024, 200_000, 64_000
_TAG = re.compile(rb"<\s*([A-Za-z0-9_]{1,64})\s*(?::\s*(\d{1,9})\s*(?::[^>]{0,32})?)?\s*>")
_OURS = ("QSO_DATE", "TIME_ON", "CALL", "BAND", "RST_RCVD", "COMMENT", "NOTES")


class AdifError(RefusedError):
    """A file that is none; one line says what, where, what would be accepted."""


def read_adif(data: bytes, name: str = "ADIF") -> Read:
    """Every record of a file. Raises AdifError where it is no ADIF at all."""
    if len(data) > MOST_BYTES:
        raise AdifError(f"{name}: {len(data)} bytes: up to {MOST_BYTES} are wanted")
    records, trouble = _records(data, name)
    entries, refused = [], list(trouble)
    for number, fields in enumerate(records, 1):
        made = _entry(fields)
        if isinstance(made, str):
            refused.append(f"{name}, record {number}: {made}")
        else:
            entries.append(made)
    if not entries and not refused:
        raise AdifError(f"{name}: there is no record: fields as <CALL:5>QK0AB and <EOR> are wanted")
    return Read(tuple(entries), tuple(refused))


def _records(data: bytes, name: str) -> tuple[list[dict[str, str]], list[str]]:
    at, trouble = 0, []
    # anything before the first tag is a header, which ends with its own tag
    end = re.search(rb"<\s*EOH\s*>", data, re.IGNORECASE)
    if not data.lstrip().startswith(b"<") or end is not None:
        if end is None:
            raise AdifError(f"{name}: it has a header without an end: <EOH> is wanted")
        at = end.end()
    made: list[dict[str, str]] = []
    fields: dict[str, str] = {}
    whole = True
    while (tag := _TAG.search(data, at)) is not None:
        title = tag.group(1).decode().upper()
        if title == "EOR":
            if fields and whole:
                made.append(fields)
            elif not whole:
                trouble.append(f"{name}, before byte {tag.start()}: a length leads over the end of"
                               " its record: that record is left out")  # fmt: skip
            fields, whole, at = {}, True, tag.end()
            if len(made) > MOST_RECORDS:
                raise AdifError(f"{name}: more than {MOST_RECORDS} records")
            continue
        length = int(tag.group(2) or 0)
        value, at = _value(data, tag.end(), length)
        if value is None:
            whole = False
            at = tag.end()
            continue
        fields[title] = value
    if fields:
        trouble.append(f"{name}: the last record has no <EOR>: it is left out")
    return made, trouble


def _value(data: bytes, start: int, length: int) -> tuple[str | None, int]:
    """A value of so many bytes, or else of so many characters; None where neither fits."""
    if length > MOST_VALUE or start + length > len(data):
        return None, start
    raw = data[start : start + length]
    if _ends_well(data, start + length) and not re.search(rb"<\s*EOR\s*>", raw, re.IGNORECASE):
        return raw.decode("utf-8", "replace"), start + length
    # counted in characters
    text = data[start : start + 4 * length].decode("utf-8", "ignore")[:length]
    behind = start + len(text.encode())
    if _ends_well(data, behind) and "<eor>" not in text.lower():
        return text, behind
    return None, start


def _ends_well(data: bytes, at: int) -> bool:
    """Whether a field may end there: the next one begins, after white space at most."""
    rest = data[at : at + 256].lstrip()
    return not rest or rest.startswith(b"<")


def _entry(fields: dict[str, str]) -> LogEntry | str:
    """A record as an entry, or why it is none."""
    day, clock = fields.get("QSO_DATE", ""), fields.get("TIME_ON", "0000")
    try:
        when = datetime.strptime(f"{day} {clock[:4]}", "%Y%m%d %H%M").replace(tzinfo=UTC)
    except ValueError:
        return f"QSO_DATE “{day[:20]}”, TIME_ON “{clock[:20]}”: 20310514 and 1815 are wanted"
    call = fields.get("CALL", "").strip().upper()
    if not call:
        return "it has no CALL"
    text = fields.get("COMMENT") or fields.get("NOTES") or ""
    rst = "".join(c for c in fields.get("RST_RCVD", "") if c.isdigit())
    other = {k: v for k, v in fields.items() if k not in _OURS}
    if "NOTES" in fields and "COMMENT" in fields:
        other["NOTES"] = fields["NOTES"]
    # what is no report by our rules is kept as it came
    fits = len(rst) >= 2 and rst[0] in "12345" and rst[1] != "0"
    if fields.get("RST_RCVD") and (not fits or rst[:2] != fields["RST_RCVD"]):
        other["RST_RCVD"] = fields["RST_RCVD"]
    if len(clock) > 4 and clock[4:] != "00":
        other["TIME_ON"] = clock
    band = fields.get("BAND", "")
    if len(band) > 16:
        other["BAND"], band = band, ""
    try:
        return LogEntry(
            at=when.isoformat(timespec="minutes"),
            kind="report",
            who=call,
            band=band or None,
            readability=int(rst[0]) if fits else None,
            strength=int(rst[1]) if fits else None,
            text=text[:4_000],
            words=found_in(text[:4_000]),
            other=other,
        )
    except ValidationError as error:
        first = error.errors()[0]
        field = {"who": f"CALL “{call[:24]}”: letters, figures and / are wanted"}
        return field.get(str(first["loc"][0]), f"{first['loc'][0]}: {first['msg']}")


def write_adif(entries: Iterable[LogEntry]) -> bytes:
    """Reports that have a call sign; header first."""
    about = (("ADIF_VER", "3.1.4"), ("PROGRAMID", "Tonleiter"), ("PROGRAMVERSION", __version__))
    lines = ["Reports of a station\r\n" + "".join(_field(k, v) for k, v in about) + "<EOH>\r\n"]
    for entry in entries:
        if entry.kind != "report" or entry.who is None:
            continue
        fields = {
            "QSO_DATE": f"{entry.utc:%Y%m%d}",
            "TIME_ON": f"{entry.utc:%H%M}",
            "CALL": entry.who,
            "BAND": entry.band or "",
            "RST_RCVD": entry.signal if len(entry.signal) == 2 else "",
            "COMMENT": entry.text or ", ".join(entry.words),
        } | entry.other
        lines.append("".join(_field(k, v) for k, v in fields.items() if v) + "<EOR>\r\n")
    return "".join(lines).encode()


def _field(name: str, value: str) -> str:
    return f"<{name}:{len(value.encode())}>{value} "
