"""Copies of the database that Fence makes by itself: once a day, and before it is brought to a
newer schema.

They lie in a folder beside it, named after what they were made for, so many of each kind and no
more.
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path
from threading import Event, Thread

from fence.disk import DiskError, replacing
from fence.store.errors import UNREADABLE

MOST_KEPT = 10
"""Copies of each kind that are kept; the oldest go first."""
HOUR = 3600.0
DAY, UPDATE, IMPORT = "day", "update", "import"
_NAME = re.compile(r"fence-(?P<at>\d{8}-\d{6})-(?P<why>[a-z]+)\.db")


def folder_of(path: Path) -> Path:
    """Where the copies of a database lie."""
    return path.with_name(f"{path.name}-backups")


def copies_of(path: Path, why: str) -> list[Path]:
    """The copies of one kind, the oldest first."""
    named = ((file, _NAME.fullmatch(file.name)) for file in folder_of(path).glob("fence-*.db"))
    return sorted(file for file, found in named if found and found["why"] == why)


def keep(path: Path, why: str, now: datetime) -> Path:
    """Copy the database, also while it is in use; gives the copy. ``DiskError`` where it cannot be
    written."""
    folder = folder_of(path)
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
        target = folder / f"fence-{now:%Y%m%d-%H%M%S}-{why}.db"
        with replacing(target, private=True) as partial, closing(sqlite3.connect(partial)) as copy:
            with closing(
                sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
            ) as source:
                source.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
        for old in _too_many(copies_of(path, why), target):
            old.unlink(missing_ok=True)
    except (OSError, *UNREADABLE) as error:
        raise DiskError(f"The copy of {path} cannot be written to {folder}: {error}.") from None
    return target


def _too_many(copies: list[Path], newest: Path) -> list[Path]:
    """The copies that go. Those that bear a later time than the one that was just made are from
    before the clock went back: they are counted by themselves, so that they neither push the new
    ones out nor go for them."""
    ahead = [copy for copy in copies if copy.name > newest.name]
    return copies[: len(copies) - len(ahead)][:-MOST_KEPT] + ahead[:-MOST_KEPT]


def keep_by_day(path: Path, now: datetime) -> Path | None:
    """The copy of this day, made if there is none yet."""
    today = f"fence-{now:%Y%m%d}-"
    if any(copy.name.startswith(today) for copy in copies_of(path, DAY)):
        return None
    return keep(path, DAY, now)


class DailyCopies:
    """Makes the copy of each day while Fence serves. A disk that is full stops no work: it is tried
    again later."""

    def __init__(
        self, path: Path, clock: Callable[[], datetime] = datetime.now, *, every: float = HOUR
    ) -> None:
        self.path, self.clock, self.every = path, clock, every
        self._stopped = Event()
        self._thread = Thread(target=self._run, name="copies", daemon=True)

    def __enter__(self) -> DailyCopies:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._stopped.set()
        self._thread.join(10)

    def _run(self) -> None:
        while True:
            with suppress(DiskError):
                keep_by_day(self.path, self.clock())
            if self._stopped.wait(self.every):
                return
