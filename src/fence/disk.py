"""Files of this machine, read with a limit and written so that nothing is lost: beside, synced, then renamed."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from fence.core.words.errors import FenceError


class DiskError(FenceError):
    """A file that cannot be read or written, with the reason."""


class HeldError(FenceError):
    """Another Fence holds the database."""


def read_file(path: Path, most: int) -> bytes:
    """The bytes of a regular file, one more than ``most`` where it is larger. Raises ``DiskError``."""
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            raise DiskError(f"{path}: is no file. Accepted: a .csv or .json file.")
        with path.open("rb") as stream:
            return stream.read(most + 1)
    except OSError as error:
        raise DiskError(f"{path}: cannot be read ({error.strerror}). Accepted: a .csv or .json file.") from None


def write_text(path: Path, text: str) -> None:
    """Write text as UTF-8 with the line ends it has. The file before stays as it is until all is on disk."""
    with replacing(path) as partial:
        partial.write_bytes(text.encode("utf-8", "replace"))


@contextmanager
def replacing(path: Path, *, private: bool = False) -> Iterator[Path]:
    """A file beside ``path`` to write into; it takes its place, synced, once the block ends well.

    ``private``: only the owner may read a file that is new. A link is followed, so that it stays one. Raises
    ``DiskError`` where there is no place for it, or something that is no regular file stands there.
    """
    target = Path(os.path.realpath(path))
    partial = target.with_name(f".{target.name[:200]}.{os.urandom(6).hex()}.partial")
    try:
        mode = _mode_for(target, private)
        os.close(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, mode))
        try:
            yield partial
            _sync(partial)
            partial.replace(target)
            _sync(target.parent)
        finally:
            partial.unlink(missing_ok=True)
    except OSError as error:
        raise DiskError(f"{path}: cannot be written ({error.strerror or error}). It is as it was.") from None


def _mode_for(target: Path, private: bool) -> int:
    try:
        found = target.stat()
    except FileNotFoundError:
        return 0o600 if private else 0o666
    if not stat.S_ISREG(found.st_mode):
        raise DiskError(f"{target}: is no regular file, so nothing is written there.")
    return stat.S_IMODE(found.st_mode)


def _sync(path: Path) -> None:
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


@contextmanager
def held(database: Path) -> Iterator[None]:
    """Hold a database for as long as the block runs; ``HeldError`` while another Fence holds it.

    The lock is the operating system's, on a file beside the database, so it ends with the process that holds it.
    """
    from filelock import FileLock, Timeout  # only who serves or restores needs it

    lock = FileLock(database.with_name(database.name + ".lock"), mode=0o600)
    try:
        database.parent.mkdir(parents=True, exist_ok=True)
        lock.acquire(timeout=0)
    except Timeout:
        raise HeldError(
            f"{database} is being served by another Fence: stop that one first, or name another with --db."
        ) from None
    except OSError as error:
        raise DiskError(f"{lock.lock_file}: cannot be written ({error.strerror}).") from None
    try:
        yield
    finally:
        with suppress(OSError):
            lock.release()
