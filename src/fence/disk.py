"""Files of this machine, read with a limit and written so that nothing is lost: beside, synced,
then renamed."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from fence.core.model.errors import FenceError


class DiskError(FenceError):
    """A file that cannot be read or written, with the reason."""


class HeldError(FenceError):
    """Another Fence holds the database."""


def read_file(path: Path, most: int) -> bytes:
    """The bytes of a regular file, one more than ``most`` where it is larger. Raises
    ``DiskError``."""
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            raise DiskError(f"{path}: is not a file. Accepted: a .csv or .json file.")
        with path.open("rb") as stream:
            return stream.read(most + 1)
    except OSError as error:
        raise DiskError(
            f"{path}: cannot be read ({error.strerror}). Accepted: a .csv or .json file."
        ) from None


def write_text(path: Path, text: str) -> None:
    """Write text as UTF-8 with the line ends it has. The file before stays as it is until all is on
    disk."""
    write_bytes(path, text.encode("utf-8", "replace"))


def write_bytes(path: Path, data: bytes) -> None:
    """Write a file. The one before stays as it is until all is on disk."""
    with replacing(path) as partial:
        partial.write_bytes(data)


@contextmanager
def replacing(path: Path, *, private: bool = False) -> Iterator[Path]:
    """A file beside ``path`` to write into; it takes its place, synced, once the block ends well.

    ``private``: only the owner may read a file that is new. A link is followed, so that it stays
    one. Raises ``DiskError`` where there is no place for it, or something that is no regular file
    stands there.
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
        raise DiskError(
            f"{path}: cannot be written ({error.strerror or error}). It is as it was."
        ) from None


def _mode_for(target: Path, private: bool) -> int:
    try:
        found = target.stat()
    except FileNotFoundError:
        return 0o600 if private else 0o666
    if not stat.S_ISREG(found.st_mode):
        raise DiskError(f"{target}: is not a regular file, so nothing is written there.")
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

    The lock is the operating system's, on the file itself: so it is one lock by whatever name or
    link the file is called, needs no place beside it, and ends with the process that holds it. A
    file that is missing is made, and taken away again where it stays empty.
    """
    target = Path(os.path.realpath(database))
    made = not target.exists()
    descriptor = _locked(target, database)
    try:
        yield
    finally:
        if made and os.fstat(descriptor).st_size == 0:
            with suppress(OSError):
                if os.path.samestat(os.fstat(descriptor), target.stat()):
                    target.unlink()
        os.close(descriptor)


def is_held(database: Path) -> bool:
    """Whether a Fence holds a database now."""
    if not database.exists():
        return False
    try:
        os.close(_locked(Path(os.path.realpath(database)), database))
    except FenceError:
        return True
    return False


def _locked(target: Path, database: Path) -> int:
    """A descriptor of the file that stands at ``target`` while it is locked, and not of one that
    stood there before."""
    # not on every system; only who serves or restores needs it
    from fcntl import LOCK_EX, LOCK_NB, flock

    while True:
        descriptor = _opened(target, database)
        try:
            flock(descriptor, LOCK_EX | LOCK_NB)
            if os.path.samestat(os.fstat(descriptor), target.stat()):
                return descriptor
        except BlockingIOError:
            os.close(descriptor)
            raise HeldError(
                f"{database} is being served by another Fence: stop that one first, or name "
                "another with --db."
            ) from None
        except FileNotFoundError:
            pass  # it was replaced meanwhile: look again
        except OSError as error:
            os.close(descriptor)
            raise DiskError(f"{database}: cannot be locked ({error.strerror}).") from None
        os.close(descriptor)


def _opened(target: Path, database: Path) -> int:
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        if target.exists() and not stat.S_ISREG(target.stat().st_mode):
            raise DiskError(f"{database}: is not a file that could be a database.")
        try:
            return os.open(target, os.O_RDWR | os.O_CREAT, 0o600)
        except OSError:
            return os.open(target, os.O_RDONLY)
    except OSError as error:
        raise DiskError(f"{database}: cannot be written ({error.strerror}).") from None
