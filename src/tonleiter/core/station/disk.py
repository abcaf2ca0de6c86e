"""Files on disk: read without waiting for ever, written so that a power cut leaves old or new."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import os
import secrets
import select
import stat
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

from tonleiter.core.refused import RefusedError

MOST_BYTES = 64 * 1024 * 1024
# what a pipe is waited for: a program that writes into it needs a moment to start
PIPE_WAIT_S = 3.0
_NEW = ".new"


class FileError(RefusedError):
    """A file cannot be read or written; the message is one line: what, where, what to do."""


def reason(error: OSError) -> str:
    """Why the system refused, in a few words."""
    known = {
        errno.ENOSPC: "the disk is full",
        errno.EACCES: "no permission",
        errno.EPERM: "no permission",
        errno.EROFS: "the disk is read-only",
        errno.ENOTDIR: "a file stands where a folder should be",
        errno.EISDIR: "a folder stands where a file should be",
        errno.EDQUOT: "the disk quota is used up",
        errno.ELOOP: "its links lead in a circle",
        errno.ENAMETOOLONG: "the name is too long",
        errno.EFBIG: "the file would be larger than is allowed here",
    }
    return known.get(error.errno or 0, error.strerror or str(error))


@contextmanager
def spoken(where: object, what: str, tail: str = "") -> Iterator[None]:
    """Turn what the system refuses within the block into a FileError about ``where``."""
    try:
        yield
    except OSError as error:
        raise FileError(f"{where}: {what}: {reason(error)}{tail}") from None
    except ValueError:  # a name with a zero byte, or one that no file system can spell
        raise FileError(f"{str(where)!r}: this cannot be the name of a file") from None


def read_file(file: Path, most_bytes: int = MOST_BYTES) -> bytes:
    """The content of a file, or of a pipe that somebody writes into.

    Raises OSError as the system gives it, FileError for what is no file, is too large, or is a pipe
    through which nothing comes.
    """
    handle = os.open(file, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        found = os.fstat(handle)
        if stat.S_ISDIR(found.st_mode):
            raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR), str(file))
        if stat.S_ISFIFO(found.st_mode):
            return _from_pipe(handle, file, most_bytes)
        if not stat.S_ISREG(found.st_mode):
            raise FileError(f"{file}: this is a device, not a file")
        content = _all_of(handle, most_bytes)
    finally:
        os.close(handle)
    return _bounded(content, file, most_bytes)


def _bounded(content: bytes, file: Path, most_bytes: int) -> bytes:
    if len(content) > most_bytes:
        raise FileError(f"{file}: larger than {most_bytes // 1_048_576} MB, which is the most read")
    return content


def _all_of(handle: int, most_bytes: int) -> bytes:
    pieces, size = [], 0
    while size <= most_bytes and (piece := os.read(handle, 1 << 20)):
        pieces.append(piece)
        size += len(piece)
    return b"".join(pieces)


def _from_pipe(handle: int, file: Path, most_bytes: int) -> bytes:
    content, quiet_since = b"", time.monotonic()
    while len(content) <= most_bytes:
        ready, _, _ = select.select([handle], [], [], 0.05)
        piece = b""
        if ready:
            with contextlib.suppress(BlockingIOError):
                piece = os.read(handle, 1 << 20)
        if piece:
            content, quiet_since = content + piece, time.monotonic()
        elif content and ready:
            return content
        elif time.monotonic() - quiet_since > PIPE_WAIT_S:
            raise FileError(f"{file}: this is a pipe, and nothing came through it")
    return _bounded(content, file, most_bytes)


def fingerprint(content: bytes) -> str:
    """Hash of a file's content."""
    return hashlib.sha256(content).hexdigest()


def write_atomically(file: Path, content: bytes) -> None:
    """Write to a temporary neighbour, fsync, rename over, fsync the folder. Raises OSError.

    A symbolic link stays one: what it points to is replaced. Permissions, owner and extended
    attributes (access lists) of the old file are those of the new one, as far as the system lets.
    """
    target = Path(os.path.realpath(file)) if file.is_symlink() else file
    sweep_unfinished(target)
    try:
        old: os.stat_result | None = target.stat()
    except FileNotFoundError:
        old = None
    # the process stands in the name, so that what a killed one left is known as such
    name = target.with_name(f".{target.name[:200]}.{os.getpid()}-{secrets.token_hex(4)}{_NEW}")
    handle = os.open(
        name, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666 if old is None else 0o600
    )
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
            stream.flush()
            if old is not None:
                _dress(handle, target, old)
            os.fsync(handle)
        name.replace(target)
    except BaseException:
        with contextlib.suppress(OSError):
            name.unlink()
        raise
    # the new name is in place: that the folder cannot be flushed here and now undoes nothing
    with contextlib.suppress(OSError):
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def _dress(handle: int, target: Path, old: os.stat_result) -> None:
    """Give the new file the owner, attributes and permissions of the old one."""
    mode = stat.S_IMODE(old.st_mode)
    now = os.fstat(handle)
    if (now.st_uid, now.st_gid) != (old.st_uid, old.st_gid):
        try:
            os.fchown(handle, old.st_uid, old.st_gid)
        except OSError:
            try:
                os.fchown(handle, -1, old.st_gid)
            except OSError:
                # in another group the group's rights would go to other people
                mode = (mode & ~0o070) | ((mode & 0o007) << 3)
    with contextlib.suppress(OSError):
        for name in os.listxattr(target):
            with contextlib.suppress(OSError):
                os.setxattr(handle, name, os.getxattr(target, name))
    os.fchmod(handle, mode)


def sweep_unfinished(target: Path) -> None:
    """Delete temporary neighbours of ``target`` whose writers were killed."""
    with contextlib.suppress(OSError):
        for name in target.parent.glob(f".{_plain(target.name[:200])}.*{_NEW}"):
            writer = name.name[len(target.name[:200]) + 2 :].partition("-")[0]
            if writer.isdigit() and not is_running(int(writer)):
                with contextlib.suppress(OSError):
                    name.unlink()


def _plain(name: str) -> str:
    """A name as a pattern that means itself."""
    return "".join(f"[{c}]" if c in "*?[" else c for c in name)


def is_running(pid: int) -> bool:
    """Whether a process of that number runs on this machine."""
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except (PermissionError, OverflowError):
        return True
    return True


def write_file(file: Path, content: bytes) -> None:
    """Write a file so that the old one or the new one is there. Raises FileError."""
    with spoken(file, "cannot be saved"):
        write_atomically(file, content)


def beside(file: Path, word: str) -> Path:
    """A name beside ``file`` that is not taken: ``station.kept-20260301-101500.json``."""
    stamp = f"{datetime.now():%Y%m%d-%H%M%S}"
    candidate, count = file.with_name(f"{file.stem}.{word}-{stamp}{file.suffix}"), 2
    while candidate.exists() or candidate.is_symlink():
        candidate = file.with_name(f"{file.stem}.{word}-{stamp}-{count}{file.suffix}")
        count += 1
    return candidate
