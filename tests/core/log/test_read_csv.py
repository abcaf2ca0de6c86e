"""Tables read into the log: columns in any order, one refused line costs no other."""

import random
from datetime import UTC, datetime, timedelta

import pytest

from tonleiter.core.log.arriving import arriving
from tonleiter.core.log.entry import LogEntry, tags_in
from tonleiter.core.log.exported import log_csv
from tonleiter.core.log.read_csv import TableError, read_csv
from tonleiter.core.station.disk import FileError

DAY = datetime(2031, 5, 14, 20, 15, tzinfo=UTC)


def entries():
    """One of each kind, with what a table can break: separators, quotes, signs."""
    kinds = ("report", "change", "note", "purchase", "build", "measurement", "trial")
    return tuple(
        LogEntry(
            at=(DAY + timedelta(hours=k)).isoformat(timespec="minutes"), kind=kind,
            title="" if kind == "report" else f"=a; “{kind}”, and so on", text='said: "x, y"',
            who="QK0ABC" if kind == "report" else None, band="40 m", readability=5, strength=7,
            microphone="headset", chain="evening", radio="set",
            words=("muffled", "quiet") if kind == "report" else (),
            changed=("treble from 0 to +3 dB",), way_back="one; two", tags=("drilling", "evening"),
        )
        for k, kind in enumerate(kinds)
    )  # fmt: skip


def test_what_was_written_as_a_table_comes_back():
    kept = entries()
    made = read_csv(log_csv(kept).encode())
    assert not made.refused
    assert [e.but(title=e.says() if e.kind != "report" else "") for e in made.entries] == [*kept]


def test_columns_of_another_order_and_other_names_are_taken_by_name():
    text = "text\tmood\tat\tWHO\nmuffled\tkind\t2031-05-14T20:15+00:00\tQK7LUX\n"
    (made,) = read_csv(text.encode()).entries
    assert (made.who, made.words, made.other) == ("QK7LUX", ("muffled",), {"mood": "kind"})


@pytest.mark.parametrize("data, says", [
    (b"\xff\xfe\x00", "no UTF-8"), (b"", "names of columns"), (b"a,b\n1,2\n", "“at” for the time"),
])  # fmt: skip
def test_what_is_no_table_of_a_log_is_refused_in_one_line(data, says):
    with pytest.raises(TableError, match=says) as refused:
        read_csv(data, "x.csv")
    assert str(refused.value).startswith("x.csv: ")
    assert "\n" not in str(refused.value)


def test_a_line_that_is_wrong_is_named_and_costs_no_other():
    text = (
        "at,kind,who,signal\n"
        "2031-05-14T20:15+00:00,report,QK0ABC,59\n"
        "14.5.2031,report,QK0ABC,59\n"
        "2031-05-14T20:16+00:00,party,QK0ABC,59\n"
        "2031-05-14T20:17+00:00,report,no call!,59\n"
        "\n"
        "2031-05-14T20:18+00:00,report,QK0ABC,99\n"
        "2031-05-14T20:19+00:00,note,,\n"
    )
    made = read_csv(text.encode(), "x.csv")
    assert len(made.entries) == 2
    assert [r.partition(":")[0] for r in made.refused] == [
        f"x.csv, line {n}" for n in (3, 4, 5, 7)
    ]  # fmt: skip


def test_tables_mutated_are_never_a_traceback():
    rng, whole = random.Random(5), log_csv(entries()).encode()
    for _ in range(400):
        data = bytearray(whole)
        for _ in range(rng.randrange(1, 20)):
            at = rng.randrange(len(data))
            data[at : at + rng.randrange(3)] = rng.randbytes(rng.randrange(3))
        try:
            read_csv(bytes(data), "x")
        except TableError as error:
            assert "\n" not in str(error)


@pytest.mark.parametrize("typed, tags", [
    ("headset, #drilling", ("headset", "drilling")), ("", ()), (" , ;", ()),
    ("a; a,  b  c ", ("a", "b c")),
])  # fmt: skip
def test_tags_as_people_type_them(typed, tags):
    assert tags_in(typed) == tags


@pytest.mark.parametrize("what", ["folder.csv", "nowhere.adi"])
def test_what_is_no_file_is_refused_in_one_line(tmp_path, what):
    (tmp_path / "folder.csv").mkdir()
    with pytest.raises(FileError, match="cannot be read") as refused:
        arriving(tmp_path / what, what, ())
    assert "\n" not in str(refused.value)
