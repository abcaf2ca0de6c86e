"""Contacts read and written: what is valid is never lost, what is not is one line."""

import random
import string

import pytest

from tonleiter.core.log.adif import AdifError, read_adif, write_adif
from tonleiter.core.log.entry import LogEntry

FILES = 400


def field(name, value):
    return f"<{name}:{len(value.encode())}>{value}"


def contact(**fields):
    given = {"QSO_DATE": "20310514", "TIME_ON": "1815", "CALL": "QK0ABC"} | fields
    return "".join(field(k, v) for k, v in given.items()) + "<EOR>"


def one(text):
    read = read_adif(text.encode())
    assert read.refused == ()
    (entry,) = read.entries
    return entry


def test_a_contact_is_a_report_with_its_words_in_universal_time():
    made = one("header <EOH>" + contact(COMMENT="muffled, no hum", RST_RCVD="57", BAND="40m"))
    assert (made.who, made.band, made.readability, made.strength) == ("QK0ABC", "40m", 5, 7)
    assert made.words == ("muffled",)
    assert made.utc.isoformat() == "2031-05-14T18:15:00+00:00"


def test_what_means_nothing_here_comes_back_as_it_came():
    text = contact(RST_RCVD="599", TIME_ON="181533", MODE="SSB", APP_X_Y="a<b> c", NOTES="n",
                   COMMENT="c")  # fmt: skip
    back = read_adif(write_adif([one(text)])).entries[0]
    assert back == one(text)
    written = write_adif([one(text)]).decode()
    for part in ("<RST_RCVD:3>599", "<TIME_ON:6>181533", "<APP_X_Y:6>a<b> c", "<MODE:3>SSB"):
        assert part in written


@pytest.mark.parametrize(
    "text",
    [
        "<call:6>qk0abc<qso_date:8:D>20310514<time_on:4>1815<eor>",
        "<CALL:6>QK0ABC <QSO_DATE:8>20310514\r\n<TIME_ON:4>1815 <EOR>\r\n",
        "\n<QSO_DATE:8>20310514<TIME_ON:4>1815<CALL:6>QK0ABC<EOR>",
        "of any kind, 5 < 6\n<eoh><CALL:6>QK0ABC<QSO_DATE:8>20310514<TIME_ON:4>1815<EOR>",
    ],
)
def test_however_it_is_written(text):
    assert one(text).who == "QK0ABC"


def test_lengths_in_characters_are_understood_where_bytes_do_not_fit():
    made = one(f"{contact()[:-5]}<COMMENT:8>dünn hör<EOR>")
    assert made.text == "dünn hör"
    assert one(contact(COMMENT="dünn hör")).text == "dünn hör"


@pytest.mark.parametrize(
    "record, says",
    [
        (contact(QSO_DATE="20310230"), "QSO_DATE “20310230”"),
        (contact(TIME_ON="2561"), "TIME_ON “2561”"),
        (contact(CALL="no call!"), "letters, figures and / are wanted"),
        (contact(CALL=""), "it has no CALL"),
        (contact()[:-5] + "<COMMENT:900>short<EOR>", "a length leads over the end"),
        (contact()[:-5], "has no <EOR>"),
    ],
)
def test_a_wrong_record_is_one_line_and_the_others_are_taken(record, says):
    read = read_adif((contact(CALL="QK1A") + record).encode())
    assert [e.who for e in read.entries] == ["QK1A"]
    assert len(read.refused) == 1
    assert says in read.refused[0]
    assert "\n" not in read.refused[0]


@pytest.mark.parametrize("data", [b"", b"call,date\nQK0ABC,1", b"\x00" * 99, b"<EOH>", b"<<<>>>"])
def test_what_is_none_is_refused_in_one_line(data):
    with pytest.raises(AdifError) as error:
        read_adif(data, "x.adi")
    assert str(error.value).startswith("x.adi: ")


def generated(rng):
    """Contacts of any fields, all of them valid."""
    letters = string.ascii_letters + "äöü <>:0123456789"
    records = []
    for k in range(rng.randint(1, 6)):
        more = {f"FIELD_{n}": "".join(rng.choices(letters, k=rng.randint(1, 30)))
                for n in range(rng.randint(0, 4))}  # fmt: skip
        comment = "".join(rng.choices(letters, k=rng.randint(1, 60))).strip() or "x"
        records.append({"CALL": f"QK{k}ABC", "COMMENT": comment} | more)
    return records


@pytest.mark.long
def test_nothing_valid_is_lost_and_nothing_mutated_is_a_traceback():
    rng = random.Random(20)
    for _ in range(FILES):
        records = generated(rng)
        whole = ("head <EOH>" + "".join(contact(**r) for r in records)).encode()
        read = read_adif(whole)
        assert [e.who for e in read.entries] == [r["CALL"] for r in records]
        assert [e.text for e in read.entries] == [r["COMMENT"] for r in records]
        assert read_adif(write_adif(read.entries)).entries == read.entries
        damaged = bytearray(whole)
        for _ in range(rng.randint(1, 8)):
            at = rng.randrange(len(damaged))
            if rng.random() < 0.5:
                damaged[at] = rng.randrange(256)
            else:
                del damaged[at : at + rng.randint(1, 9)]
        try:
            read_adif(bytes(damaged))
        except AdifError as error:
            assert "\n" not in str(error)


def test_only_reports_of_somebody_are_contacts():
    note = LogEntry(at="2031-05-14T20:15+02:00", kind="note", text="x", who="QK0ABC")
    report = LogEntry(at="2031-05-14T20:15+02:00", kind="report", text="x")
    assert b"EOR" not in write_adif([note, report])
