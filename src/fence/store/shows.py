"""Shows in the database: load, save with a log entry, undo, redo, copy, delete with a way back.

Every save is one transaction: the revision check, the rows that differ and the log entry. Who saves from an old
revision is told what has changed since, and nothing is written.
"""

from __future__ import annotations

import shutil
import sqlite3
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from threading import Lock
from uuid import uuid4

from sqlalchemy import CursorResult, Engine, delete, func, insert, select, text, update
from sqlalchemy.orm import Session

from fence.core.difference import Difference, apply_difference, describe, difference
from fence.core.edits import free_name
from fence.core.errors import EditError, FenceError
from fence.core.show import Show
from fence.store.database import DatabaseFileError, open_engine, reading, writing
from fence.store.rows import DIFFERENCE, heading_values, load_show, write_difference
from fence.store.tables import DraftRow, FixtureRow, LogRow, ShowRow, UniverseRow

KEPT_SHOWS = 16
"""Show values kept in memory; they never change, so a kept one is right as long as its revision is."""

DRAFTS_KEPT = 20


class NoSuchShow(FenceError):  # noqa: N818 - it is a name for people first
    """There is no show of that id or name."""


@dataclass(frozen=True, slots=True)
class SavedShow:
    """A show as it is saved: its id, its revision, the value."""

    id: int
    revision: int
    show: Show


@dataclass(frozen=True, slots=True)
class ShowSummary:
    """A line of the list of shows."""

    id: int
    name: str
    revision: int
    changed_at: datetime
    deleted_at: datetime | None
    fixtures: int
    universes: int


@dataclass(frozen=True, slots=True)
class LogEntry:
    """One saved step, in words. ``at`` is in UTC."""

    id: int
    revision: int
    at: datetime
    who: str
    words: str
    kind: str


@dataclass(frozen=True, slots=True)
class Draft:
    """An uploaded file that waits to be imported."""

    id: str
    filename: str
    content: bytes


class StaleShow(FenceError):  # noqa: N818 - it is a name for people first
    """The show has moved on since the revision that an edit started from."""

    def __init__(self, current: SavedShow, since: list[LogEntry]) -> None:
        super().__init__("This show was changed meanwhile by someone else. Nothing of yours is saved yet.")
        self.current = current
        self.since = since


def _utc_now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class ShowStore:
    """All shows of one database file. Safe to use from several threads."""

    def __init__(self, engine: Engine, *, clock: Callable[[], datetime] = _utc_now) -> None:
        self.engine = engine
        self.clock = clock
        self._kept: OrderedDict[tuple[int, int], Show] = OrderedDict()
        self._lock = Lock()

    # ---- reading

    def list_shows(self, *, deleted: bool = False) -> list[ShowSummary]:
        """The shows, the last changed first; the deleted ones on request."""
        fixtures = select(func.count()).where(FixtureRow.show_id == ShowRow.id).scalar_subquery()
        universes = select(func.count()).where(UniverseRow.show_id == ShowRow.id).scalar_subquery()
        found = select(ShowRow, fixtures, universes).where(
            ShowRow.deleted_at.is_not(None) if deleted else ShowRow.deleted_at.is_(None)
        )
        with reading(self.engine) as session:
            return [
                ShowSummary(row.id, row.name, row.revision, row.changed_at, row.deleted_at, count, spread)
                for row, count, spread in session.execute(found.order_by(ShowRow.changed_at.desc(), ShowRow.id))
            ]

    def get(self, show_id: int) -> SavedShow:
        """The show as saved last; ``NoSuchShow`` if there is none or it is deleted."""
        with reading(self.engine) as session:
            return self._get(session, show_id)

    def at_revision(self, show_id: int, revision: int | None) -> SavedShow:
        """The show, if it still is at ``revision``; else ``StaleShow`` with what has changed since."""
        with reading(self.engine) as session:
            saved = self._get(session, show_id)
            if revision is not None and saved.revision != revision:
                raise StaleShow(saved, self._history(session, show_id, revision, 20))
            return saved

    def _get(self, session: Session, show_id: int) -> SavedShow:
        row = session.get(ShowRow, show_id) if 0 < show_id < 2**63 else None
        if row is None or row.deleted_at is not None:
            raise NoSuchShow("There is no such show. It may have been deleted.")
        show = self._recall(show_id, row.revision)
        if show is None:
            show = load_show(session, row)
            self._keep(show_id, row.revision, show)
        return SavedShow(show_id, row.revision, show)

    def find(self, name: str) -> SavedShow:
        """The show of that name, or of that id written as a number; ``NoSuchShow`` names those there are."""
        shows = self.list_shows()
        for summary in shows:
            if summary.name == name or (name.isascii() and name.isdigit() and summary.id == int(name)):
                return self.get(summary.id)
        names = ", ".join(f"“{summary.name}”" for summary in shows) or "none yet"
        raise NoSuchShow(f"There is no show “{name}”. The shows are: {names}.")

    def history(self, show_id: int, *, after_revision: int = 0, most: int = 200) -> list[LogEntry]:
        """The log of a show, the newest first."""
        with reading(self.engine) as session:
            return self._history(session, show_id, after_revision, most)

    def _history(self, session: Session, show_id: int, after_revision: int, most: int) -> list[LogEntry]:
        found = select(LogRow).where(LogRow.show_id == show_id, LogRow.revision > after_revision)
        return [_entry(row) for row in session.scalars(found.order_by(LogRow.id.desc()).limit(most))]

    def steps(self, show_id: int) -> tuple[LogEntry | None, LogEntry | None]:
        """The edit that undo would take back, and the one that redo would bring again."""
        with reading(self.engine) as session:
            back, forth = _last_done(session, show_id), _first_undone(session, show_id)
            return _entry(back) if back else None, _entry(forth) if forth else None

    # ---- writing

    def create(self, show: Show, *, who: str) -> SavedShow:
        """Save a new show. Names are kept apart: a second one of a name gets a number."""
        with writing(self.engine) as session:
            taken = set(session.scalars(select(ShowRow.name).where(ShowRow.deleted_at.is_(None))))
            show = replace(show, name=free_name(show.name, taken))
            now = self.clock()
            row = ShowRow(revision=1, created_at=now, changed_at=now, **heading_values(show))
            session.add(row)
            session.flush()
            found = difference(replace(show, fixtures=(), profiles=(), universes=(), positions=()), show)
            write_difference(session, row.id, found, show)
            show_id = row.id
            self._log(session, show_id, 1, who, f"Show {show.name} made", "start", Difference())
        self._keep(show_id, 1, show)
        return SavedShow(show_id, 1, show)

    def save(self, before: SavedShow, after: Show, *, who: str) -> SavedShow:
        """Save an edited show: rows, log entry and revision in one transaction.

        Nothing is written when nothing differs. Raises ``StaleShow`` when the show is no longer at the revision of
        ``before``.
        """
        found = difference(before.show, after)
        if found.empty:
            return before
        words = describe(before.show, after, found)
        with writing(self.engine) as session:
            saved = self._write(session, before, after, found)
            session.execute(
                update(LogRow)
                .where(LogRow.show_id == before.id, LogRow.kind == "edit", LogRow.state == "undone")
                .values(state="dropped")
            )
            self._log(session, before.id, saved.revision, who, words, "edit", found)
        self._keep(saved.id, saved.revision, saved.show)
        return saved

    def undo(self, show_id: int, *, revision: int, who: str) -> SavedShow:
        """Take back the last edit; ``EditError`` where there is none."""
        return self._step(show_id, revision, who, undo=True)

    def redo(self, show_id: int, *, revision: int, who: str) -> SavedShow:
        """Bring back the edit that was undone last; ``EditError`` where there is none."""
        return self._step(show_id, revision, who, undo=False)

    def _step(self, show_id: int, revision: int, who: str, *, undo: bool) -> SavedShow:
        with writing(self.engine) as session:
            before = self._get(session, show_id)
            if before.revision != revision:
                raise StaleShow(before, self._history(session, show_id, revision, 20))
            row = _last_done(session, show_id) if undo else _first_undone(session, show_id)
            if row is None:
                raise EditError(f"There is nothing to {'undo' if undo else 'redo'}.")
            found = DIFFERENCE.validate_json(row.difference)
            if undo:
                found = found.reversed()
            saved = self._write(session, before, apply_difference(before.show, found), found)
            row.state = "undone" if undo else "done"
            kind = "undo" if undo else "redo"
            self._log(session, show_id, saved.revision, who, f"{kind.capitalize()}: {row.words}", kind, found)
        self._keep(saved.id, saved.revision, saved.show)
        return saved

    def copy(self, show_id: int, *, who: str) -> SavedShow:
        """A second show with the same plan and a log of its own."""
        original = self.get(show_id)
        return self.create(replace(original.show, name=f"{original.show.name} copy"), who=who)

    def delete(self, show_id: int) -> None:
        """Put a show aside; ``put_back`` brings it back with its log."""
        self._mark(show_id, self.clock())

    def put_back(self, show_id: int) -> None:
        """Bring back a deleted show. If its name was taken meanwhile it gets a number."""
        self._mark(show_id, None)

    def remove_for_good(self, show_id: int) -> None:
        """Remove a deleted show and its log; a show that is not deleted stays."""
        with writing(self.engine) as session:
            session.execute(delete(ShowRow).where(ShowRow.id == show_id, ShowRow.deleted_at.is_not(None)))

    def _mark(self, show_id: int, deleted_at: datetime | None) -> None:
        with writing(self.engine) as session:
            row = session.get(ShowRow, show_id)
            if row is None:
                raise NoSuchShow("There is no such show.")
            if deleted_at is None:
                others = select(ShowRow.name).where(ShowRow.deleted_at.is_(None), ShowRow.id != show_id)
                row.name = free_name(row.name, set(session.scalars(others)))
                row.revision += 1
            row.deleted_at = deleted_at

    def _write(self, session: Session, before: SavedShow, after: Show, found: Difference) -> SavedShow:
        """The revision check and the rows, inside the caller's transaction."""
        revision = before.revision + 1
        values = heading_values(after) if found.heading else {}
        result = session.execute(
            update(ShowRow)
            .where(ShowRow.id == before.id, ShowRow.revision == before.revision, ShowRow.deleted_at.is_(None))
            .values(revision=revision, changed_at=self.clock(), **values)
            .execution_options(synchronize_session=False)
        )
        assert isinstance(result, CursorResult)
        if result.rowcount == 0:
            raise StaleShow(self._get(session, before.id), self._history(session, before.id, before.revision, 20))
        write_difference(session, before.id, found, after)
        return SavedShow(before.id, revision, after)

    def _log(
        self, session: Session, show_id: int, revision: int, who: str, words: str, kind: str, found: Difference
    ) -> None:
        session.execute(
            insert(LogRow).values(
                show_id=show_id,
                revision=revision,
                at=self.clock(),
                who=who,
                words=words,
                kind=kind,
                state="done",
                difference=DIFFERENCE.dump_json(found).decode(),
            )
        )

    # ---- files waiting to be imported

    def keep_draft(self, filename: str, content: bytes, *, draft_id: str | None = None) -> Draft:
        """Keep an uploaded file until it is imported. Only the newest are kept."""
        draft = Draft(draft_id or uuid4().hex, filename, content)
        with writing(self.engine) as session:
            session.execute(delete(DraftRow).where(DraftRow.id == draft.id))
            session.add(DraftRow(id=draft.id, filename=filename, content=content, created_at=self.clock()))
            session.flush()
            newest = select(DraftRow.id).order_by(DraftRow.created_at.desc()).limit(DRAFTS_KEPT)
            session.execute(delete(DraftRow).where(DraftRow.id.not_in(newest)))
        return draft

    def draft(self, draft_id: str) -> Draft:
        """The waiting file; ``NoSuchShow`` if it is not kept any more."""
        with reading(self.engine) as session:
            row = session.get(DraftRow, draft_id)
            if row is None:
                raise NoSuchShow("That file is not waiting any more: choose it once again.")
            return Draft(row.id, row.filename, row.content)

    def drop_draft(self, draft_id: str) -> None:
        """Forget a waiting file."""
        with writing(self.engine) as session:
            session.execute(delete(DraftRow).where(DraftRow.id == draft_id))

    # ---- memory

    def _recall(self, show_id: int, revision: int) -> Show | None:
        with self._lock:
            show = self._kept.get((show_id, revision))
            if show is not None:
                self._kept.move_to_end((show_id, revision))
            return show

    def _keep(self, show_id: int, revision: int, show: Show) -> None:
        with self._lock:
            self._kept.pop((show_id, revision - 1), None)
            self._kept[(show_id, revision)] = show
            while len(self._kept) > KEPT_SHOWS:
                self._kept.popitem(last=False)


def _entry(row: LogRow) -> LogEntry:
    return LogEntry(row.id, row.revision, row.at, row.who, row.words, row.kind)


def _last_done(session: Session, show_id: int) -> LogRow | None:
    found = select(LogRow).where(LogRow.show_id == show_id, LogRow.kind == "edit", LogRow.state == "done")
    return session.scalars(found.order_by(LogRow.id.desc()).limit(1)).first()


def _first_undone(session: Session, show_id: int) -> LogRow | None:
    found = select(LogRow).where(LogRow.show_id == show_id, LogRow.kind == "edit", LogRow.state == "undone")
    return session.scalars(found.order_by(LogRow.id).limit(1)).first()


# ---- whole database files


def backup(path: Path, target: Path) -> None:
    """Write a consistent copy of the database file, also while it is in use."""
    if not path.exists():
        raise DatabaseFileError(f"There is no database at {path} yet, so there is nothing to back up.")
    partial = target.with_name(target.name + ".partial")
    try:
        partial.unlink(missing_ok=True)
        source, copy = sqlite3.connect(path), sqlite3.connect(partial)
        try:
            source.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
        finally:
            source.close()
            copy.close()
        partial.replace(target)
    except (OSError, sqlite3.Error) as error:
        partial.unlink(missing_ok=True)
        raise DatabaseFileError(f"The backup cannot be written to {target}: {error}.") from error


def restore(source: Path, path: Path) -> Path | None:
    """Put a backup in the place of the database file; gives where the one before was kept, if there was one.

    The backup is opened and brought to the newest migration first, so that a bad file changes nothing. Fence must not
    be serving the database meanwhile.
    """
    if not source.is_file():
        raise DatabaseFileError(f"There is no file {source}.")
    path.parent.mkdir(parents=True, exist_ok=True)
    candidate = path.with_name(path.name + ".restoring")
    shutil.copyfile(source, candidate)
    try:
        _check_is_backup(candidate)
        engine = open_engine(candidate)
        with engine.connect() as connection:
            connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
        engine.dispose()
        kept = None
        if path.exists():
            kept = path.with_name(path.name + ".before-restore")
            backup(path, kept)
        for ending in ("-wal", "-shm"):
            Path(f"{path}{ending}").unlink(missing_ok=True)
        candidate.replace(path)
        return kept
    finally:
        for ending in ("", "-wal", "-shm"):
            Path(f"{candidate}{ending}").unlink(missing_ok=True)


def _check_is_backup(path: Path) -> None:
    try:
        connection = sqlite3.connect(path)
        try:
            tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            sound = connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        finally:
            connection.close()
    except sqlite3.DatabaseError:
        tables, sound = set(), False
    if not sound or not {"shows", "fixtures", "log", "alembic_version"} <= tables:
        raise DatabaseFileError(f"{path.name.removesuffix('.restoring')}: this file is no Fence backup.")
