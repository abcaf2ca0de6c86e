"""Files that keep their rights and links, and reading that does not wait for ever."""

import os
import stat
import threading
import time

import pytest

from tonleiter.core.station.disk import (
    FileError,
    beside,
    is_running,
    read_file,
    spoken,
    write_atomically,
)


def mode(path):
    return stat.S_IMODE(path.stat().st_mode)


@pytest.mark.parametrize("rights", [0o664, 0o600, 0o640, 0o444])
def test_permissions_survive(tmp_path, rights):
    file = tmp_path / "a.json"
    file.write_bytes(b"old")
    file.chmod(rights)
    write_atomically(file, b"new")
    assert mode(file) == rights
    assert file.read_bytes() == b"new"


def test_a_new_file_has_the_rights_that_the_user_gives_new_files(tmp_path):
    before = os.umask(0o027)
    try:
        write_atomically(tmp_path / "a", b"x")
    finally:
        os.umask(before)
    assert mode(tmp_path / "a") == 0o640


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can give a file away")
def test_owner_and_group_survive(tmp_path):
    file = tmp_path / "a"
    file.write_bytes(b"old")
    os.chown(file, 1234, 2345)
    write_atomically(file, b"new")
    assert (file.stat().st_uid, file.stat().st_gid) == (1234, 2345)


def test_where_the_group_cannot_be_kept_it_gets_no_more_than_others(tmp_path, monkeypatch):
    file = tmp_path / "a"
    file.write_bytes(b"old")
    file.chmod(0o664)
    real = os.fstat

    def other_owner(handle):
        found = real(handle)
        return os.stat_result((*found[:4], found.st_uid + 1, found.st_gid + 1, *found[6:]))

    def denied(*_):
        raise PermissionError(1, "no")

    monkeypatch.setattr(os, "fstat", other_owner)
    monkeypatch.setattr(os, "fchown", denied)
    write_atomically(file, b"new")
    monkeypatch.undo()
    assert mode(file) == 0o644


def test_a_symbolic_link_stays_one(tmp_path):
    real, link = tmp_path / "real", tmp_path / "link"
    real.write_bytes(b"old")
    link.symlink_to(real)
    write_atomically(link, b"new")
    assert link.is_symlink()
    assert real.read_bytes() == b"new"


def test_what_killed_writers_left_is_swept_and_what_others_write_now_is_not(tmp_path):
    file = tmp_path / "a.json"
    dead, alive = 4_000_000, os.getppid()
    assert not is_running(dead)
    for pid in (dead, alive):
        (tmp_path / f".a.json.{pid}-0badcafe.new").write_bytes(b"half")
    (tmp_path / ".other.json.4000000-0badcafe.new").write_bytes(b"of another file")
    write_atomically(file, b"new")
    assert sorted(p.name for p in tmp_path.iterdir()) == [
        f".a.json.{alive}-0badcafe.new",
        ".other.json.4000000-0badcafe.new",
        "a.json",
    ]


def test_names_with_pattern_letters_mean_themselves(tmp_path):
    (tmp_path / ".aXb.4000000-1.new").write_bytes(b"not ours")
    write_atomically(tmp_path / "a*b", b"x")
    assert (tmp_path / ".aXb.4000000-1.new").exists()


@pytest.mark.long
def test_a_pipe_that_nobody_writes_into_is_refused_soon(tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    with pytest.raises(FileError, match="nothing came through"):
        read_file(pipe)


def test_a_pipe_that_somebody_writes_into_is_read(tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)

    def write():
        with pipe.open("wb") as stream:
            stream.write(b"title\n")
            stream.flush()
            time.sleep(0.2)
            stream.write(b"R1 a 0 1k\n")

    writer = threading.Thread(target=write)
    writer.start()
    assert read_file(pipe) == b"title\nR1 a 0 1k\n"
    writer.join()


def test_devices_folders_and_far_too_large_files_are_refused(tmp_path):
    with pytest.raises(FileError, match="device"):
        read_file("/dev/zero")
    with pytest.raises(IsADirectoryError):
        read_file(tmp_path)
    (tmp_path / "big").write_bytes(b"x" * 2000)
    with pytest.raises(FileError, match="larger than"):
        read_file(tmp_path / "big", most_bytes=1000)


def test_a_name_that_no_file_can_have_is_said():
    with pytest.raises(FileError, match="cannot be the name"), spoken("a\0b", "cannot be read"):
        read_file("a\0b")


def test_names_beside_do_not_meet(tmp_path):
    first = beside(tmp_path / "station.json", "kept")
    first.write_text("x")
    second = beside(tmp_path / "station.json", "kept")
    assert first != second
    assert first.suffix == second.suffix == ".json"
