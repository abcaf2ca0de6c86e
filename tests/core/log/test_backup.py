"""A station in one file and back; what is damaged or hostile harms nothing."""

import hashlib
import json
import random
import shutil
import stat
import zipfile

import pytest

from tonleiter.cli.main import main
from tonleiter.core.log.backup import SUMS, BackupError, backup, restore
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.store import LOG_FILE, LogStore
from tonleiter.core.station.files import read_station

DAMAGED = 120


def report(day, word):
    return LogEntry(at=f"2031-05-{day}T20:15+02:00", kind="report", words=(word,))


@pytest.fixture
def station(demo_folder):
    (demo_folder / LOG_FILE).unlink()
    LogStore(demo_folder).add(report(14, "clear"))
    return demo_folder


@pytest.fixture
def kept(station, tmp_path):
    file = tmp_path / "kept.zip"
    backup(station, file)
    return file


def tree(folder):
    files = (p for p in folder.rglob("*") if p.is_file())
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in files}


def test_everything_comes_back_the_log_as_well(station, kept, tmp_path):
    there = tmp_path / "again.station"
    names = restore(kept, there)
    assert read_station(there).station == read_station(station).station
    assert read_station(there).records == read_station(station).records
    assert [e.words for e in LogStore(there).entries()] == [("clear",)]
    recorded = {n for n in tree(station) if n.startswith("recordings/")}
    assert recorded
    assert recorded <= set(names)
    assert {n: tree(there)[n] for n in recorded} == {n: tree(station)[n] for n in recorded}


def test_while_somebody_writes_the_log_a_whole_one_is_kept(station, tmp_path):
    store = LogStore(station)
    store.add(report(15, "hum"))
    backup(station, tmp_path / "a.zip")
    store.add(report(16, "thin"))
    restore(tmp_path / "a.zip", tmp_path / "b.station")
    assert [e.words[0] for e in LogStore(tmp_path / "b.station").entries()] == ["clear", "hum"]


def test_what_lies_there_is_left_untouched(kept, station, tmp_path):
    before = tree(station)
    with pytest.raises(BackupError, match="something lies there"):
        restore(kept, station)
    assert tree(station) == before
    (tmp_path / "empty").mkdir()
    restore(kept, tmp_path / "empty")


def changed(kept, file, change):
    """The same archive with its members changed: name to content, or to (info, content)."""
    with zipfile.ZipFile(kept) as old:
        members = {i.filename: old.read(i) for i in old.infolist()}
    change(members)
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as new:
        for name, content in members.items():
            info, data = content if isinstance(content, tuple) else (name, content)
            new.writestr(info, data, zipfile.ZIP_DEFLATED)


def link():
    info = zipfile.ZipInfo("recordings/a.flac")
    info.external_attr = (stat.S_IFLNK | 0o777) << 16
    return info, b"/etc/passwd"


HOSTILE = (
    ("is nothing that a station has", lambda m: m.update({"../evil.json": b"x"})),
    ("is nothing that a station has", lambda m: m.update({"/etc/evil": b"x"})),
    ("is nothing that a station has", lambda m: m.update({"recordings/../../e.flac": b"x"})),
    ("is nothing that a station has", lambda m: m.update({"recordings/\u202eflac.wav": b"x"})),
    ("is a link", lambda m: m.update({"recordings/a.flac": link()})),
    ("no honest backup", lambda m: m.update({"recordings/a.wav": bytes(101_000_000)})),
    ("station.json is missing", lambda m: m.pop("station.json")),
    ("checksums.json is missing", lambda m: m.pop(SUMS)),
    ("checksum is another", lambda m: m.update({"station.json": m["station.json"] + b" "})),
    ("checksum is another", lambda m: m.update({"recordings/new.wav": b"RIFF"})),
    ("cannot be read", lambda m: m.update({SUMS: b"{"})),
    ("is none", lambda m: m.update({SUMS: b"[]"})),
)


@pytest.mark.parametrize("says, change", HOSTILE)
@pytest.mark.long
def test_what_is_hostile_is_refused_by_name_and_nothing_is_written(kept, tmp_path, says, change):
    bad, there = tmp_path / "bad.zip", tmp_path / "new.station"
    changed(kept, bad, change)
    before = sorted(tmp_path.rglob("*"))
    with pytest.raises(BackupError, match=says) as error:
        restore(bad, there)
    assert "\n" not in str(error.value)
    assert sorted(tmp_path.rglob("*")) == before


def test_a_wrong_station_with_right_checksums_is_refused(kept, tmp_path):
    def change(members):
        members["station.json"] = b'{"format": "other"}'
        sums = json.loads(members[SUMS])
        sums["station.json"] = hashlib.sha256(members["station.json"]).hexdigest()
        members[SUMS] = json.dumps(sums).encode()

    changed(kept, tmp_path / "bad.zip", change)
    with pytest.raises(BackupError, match="station"):
        restore(tmp_path / "bad.zip", tmp_path / "new.station")
    assert not (tmp_path / "new.station").exists()


@pytest.mark.long
def test_of_many_damaged_ones_none_harms_anything(kept, tmp_path):
    rng, whole = random.Random(9), kept.read_bytes()
    there, refused = tmp_path / "new.station", 0
    restore(kept, tmp_path / "right.station")
    right = tree(tmp_path / "right.station")
    for k in range(DAMAGED):
        made = bytearray(whole)
        for _ in range(rng.randint(1, 20)):
            made[rng.randrange(len(made))] = rng.randrange(256)
        if k % 3 == 0:
            made = made[: rng.randrange(len(made))]
        (tmp_path / "bad.zip").write_bytes(made)
        try:
            restore(tmp_path / "bad.zip", there)
        except BackupError as error:
            refused += 1
            assert "\n" not in str(error)
            assert not there.exists()
        else:
            # what was damaged was nothing of the content: dates, attributes
            assert {n: b for n, b in tree(there).items() if n in right} == right
            shutil.rmtree(there)
    assert refused > DAMAGED / 2
    assert [p.name for p in tmp_path.iterdir() if p.name.endswith(".new")] == []


@pytest.mark.parametrize("content", [b"", b"PK", b"no zip", None])
def test_what_is_no_archive_is_one_line(tmp_path, content, capsys):
    file = tmp_path / "x.zip"
    if content is not None:
        file.write_bytes(content)
    assert main(["restore", str(file), str(tmp_path / "n")]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_the_commands_keep_and_restore(station, tmp_path, capsys):
    file, there = tmp_path / "k.zip", tmp_path / "n.station"
    assert main(["backup", str(station), str(file)]) == 0
    assert main(["restore", str(file), str(there)]) == 0
    capsys.readouterr()
    assert main(["log", str(there), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["entries"][0]["words"] == ["clear"]
    assert main(["backup", str(station), str(tmp_path / "no" / "such" / "k.zip")]) == 2


def test_the_log_is_printed_filtered_and_taken_over_once(station, tmp_path, capsys):
    adi = tmp_path / "a.adi"
    adi.write_bytes(
        b"<CALL:6>QK0ABC<QSO_DATE:8>20310601<TIME_ON:4>1815<COMMENT:3>hum<EOR>"
        b"<CALL:6>QK0ABD<QSO_DATE:8>20310230<TIME_ON:4>1815<EOR>"
    )
    assert main(["log", str(station), "--take", str(adi), "--csv"]) == 0
    out = capsys.readouterr()
    assert "1 taken over, 0 known already, 1 refused" in out.err
    assert "20310230" in out.err
    assert len(out.out.splitlines()) == 3
    assert main(["log", str(station), "--take", str(adi), "--adif", "--since", "2031-05-20"]) == 0
    out = capsys.readouterr()
    assert "0 taken over, 1 known already" in out.err
    assert out.out.count("<EOR>") == 1
    assert main(["log", str(station), "--find", "hum"]) == 0
    assert "QK0ABC" in capsys.readouterr().out
    assert main(["log", str(station), "--since", "soon"]) == 2
