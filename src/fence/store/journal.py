"""The log of a show as it is read: by page, by fixture, person, day and place; notes to its
entries, named snapshots."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Engine, delete, func, select, update

from fence.core.model.errors import EditError
from fence.core.model.text import check_text
from fence.store.database import reading, writing
from fence.store.tables import LogFixtureRow, LogRow, ShowRow, SnapshotRow

PAGE = 100
"""Entries of one page."""
LONGEST_NOTE, LONGEST_NAME = 500, 80
MOST_SNAPSHOTS = 200
MOST_PEOPLE = 100


@dataclass(frozen=True, slots=True)
class Entry:
    """A step of the log. ``at`` is in UTC; ``state`` of an edit is done, undone or dropped."""

    id: int
    revision: int
    at: datetime
    who: str
    words: str
    kind: str
    state: str
    origin: str
    note: str
    noted_by: str


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which entries are looked for; empty where nothing narrows them. ``since`` and ``until`` are
    in UTC."""

    fixture: int | None = None
    who: str = ""
    origin: str = ""
    words: str = ""
    since: datetime | None = None
    until: datetime | None = None
    before: int | None = None


@dataclass(frozen=True, slots=True)
class Page:
    """Entries, the newest first, and whether there are older ones."""

    entries: tuple[Entry, ...]
    more: bool


@dataclass(frozen=True, slots=True)
class Snapshot:
    """A state of the show with a name."""

    id: int
    revision: int
    name: str
    who: str
    at: datetime


class Journal:
    """The logs of all shows of one database."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def page(self, show_id: int, wanted: Wanted) -> Page:
        """One page of a show's log."""
        found = select(LogRow).where(LogRow.show_id == show_id)
        if wanted.fixture is not None:
            found = found.join(LogFixtureRow, LogFixtureRow.log_id == LogRow.id).where(
                LogFixtureRow.fixture_id == wanted.fixture
            )
        if wanted.who:
            found = found.where(LogRow.who == wanted.who)
        if wanted.origin:
            found = found.where(LogRow.origin == wanted.origin)
        if wanted.words:
            found = found.where(LogRow.words.contains(wanted.words, autoescape=True))
        if wanted.since is not None:
            found = found.where(LogRow.at >= wanted.since)
        if wanted.until is not None:
            found = found.where(LogRow.at < wanted.until)
        if wanted.before is not None:
            found = found.where(LogRow.id < wanted.before)
        with reading(self.engine) as session:
            rows = session.scalars(found.order_by(LogRow.id.desc()).limit(PAGE + 1)).all()
        return Page(tuple(_entry(row) for row in rows[:PAGE]), len(rows) > PAGE)

    def lately(self, show_id: int, origin: str, most: int) -> tuple[Entry, ...]:
        """The newest entries from one step of the work."""
        found = select(LogRow).where(LogRow.show_id == show_id, LogRow.origin == origin)
        with reading(self.engine) as session:
            return tuple(
                _entry(row) for row in session.scalars(found.order_by(LogRow.id.desc()).limit(most))
            )

    def people(self, show_id: int) -> list[str]:
        """Who stands on the log of a show."""
        found = (
            select(LogRow.who)
            .where(LogRow.show_id == show_id)
            .distinct()
            .order_by(LogRow.who)
            .limit(MOST_PEOPLE)
        )
        with reading(self.engine) as session:
            return list(session.scalars(found))

    def count(self, show_id: int) -> int:
        """How many entries a show's log has."""
        with reading(self.engine) as session:
            return (
                session.scalar(
                    select(func.count()).select_from(LogRow).where(LogRow.show_id == show_id)
                )
                or 0
            )

    def note(self, show_id: int, entry_id: int, words: str, *, who: str) -> None:
        """Write a note to an entry, or take it away with no words; ``EditError`` where there is no
        such entry."""
        words = " ".join(words.split())
        check_text("note", words, required=False, most=LONGEST_NOTE)
        with writing(self.engine) as session:
            done = session.execute(
                update(LogRow)
                .where(LogRow.show_id == show_id, LogRow.id == entry_id)
                .values(note=words, noted_by=who if words else "")
                .returning(LogRow.id)
            ).all()
        if not done:
            raise EditError("There is no such entry in the log of this show.")

    def snapshots(self, show_id: int) -> list[Snapshot]:
        """The named snapshots of a show, the latest state first."""
        found = (
            select(SnapshotRow)
            .where(SnapshotRow.show_id == show_id)
            .order_by(SnapshotRow.revision.desc(), SnapshotRow.id)
        )
        with reading(self.engine) as session:
            rows = session.scalars(found).all()
            return [Snapshot(row.id, row.revision, row.name, row.who, row.at) for row in rows]

    def name_snapshot(self, show_id: int, revision: int, name: str, *, who: str) -> None:
        """Give a state of a show a name; ``EditError`` for one that never was, or too many of
        them."""
        name = " ".join(name.split())
        check_text("name of a snapshot", name, most=LONGEST_NAME)
        with writing(self.engine) as session:
            newest = session.scalar(select(ShowRow.revision).where(ShowRow.id == show_id)) or 0
            if not 1 <= revision <= newest:
                raise EditError(f"There is no state {revision} of this show. Use 1 to {newest}.")
            held = (
                session.scalar(
                    select(func.count())
                    .select_from(SnapshotRow)
                    .where(SnapshotRow.show_id == show_id)
                )
                or 0
            )
            same = select(SnapshotRow.revision).where(
                SnapshotRow.show_id == show_id, SnapshotRow.name == name
            )
            if (other := session.scalar(same)) is not None:
                raise EditError(f"State {other} is called “{name}” already: take another name.")
            if held >= MOST_SNAPSHOTS:
                raise EditError(f"A show has up to {MOST_SNAPSHOTS} snapshots: forget one first.")
            session.add(
                SnapshotRow(show_id=show_id, revision=revision, name=name, who=who, at=self.clock())
            )

    def forget_snapshot(self, show_id: int, snapshot_id: int) -> None:
        """Take the name of a snapshot away; the state itself stays on the log."""
        with writing(self.engine) as session:
            session.execute(
                delete(SnapshotRow).where(
                    SnapshotRow.show_id == show_id, SnapshotRow.id == snapshot_id
                )
            )


def _entry(row: LogRow) -> Entry:
    return Entry(
        row.id,
        row.revision,
        row.at,
        row.who,
        row.words,
        row.kind,
        row.state,
        row.origin,
        row.note,
        row.noted_by,
    )
