"""Shows in the database: load, save with a log entry, undo, redo, copy, delete with a way back.

Every save is one transaction: the revision check, the rows that differ and the log entry. Who saves
from an old revision is told what has changed since, and nothing is written.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from functools import cached_property
from threading import Lock
from uuid import uuid4

from pydantic import TypeAdapter
from sqlalchemy import CursorResult, Engine, delete, func, insert, select, text, update
from sqlalchemy.orm import Session

from fence.core.checks import Analysis, analyse
from fence.core.edits import free_name, in_order
from fence.core.edits.difference import Difference, apply_difference, difference
from fence.core.edits.merge import merge
from fence.core.edits.prose import describe
from fence.core.edits.waiving import end_waivers
from fence.core.model.errors import EditError, FenceError
from fence.core.model.patch import Patch
from fence.core.model.show import Show
from fence.core.model.standing import Standing, standing_of
from fence.store.database import reading, writing
from fence.store.errors import StorageError
from fence.store.rows import DIFFERENCE, heading_values, load_show, write_difference
from fence.store.summary import Summary, read_summary, summary_of, write_summary
from fence.store.tables import CounterRow, LogFixtureRow, LogRow, SendingRow, ShowRow

KEPT_SHOWS = 16
"""Saved shows kept in memory, by key and revision: neither ever comes back, so a kept one is right
for good."""


MOST_STEPS_LOOKED_BACK = 5000
"""How many steps back a moment may be that is looked at."""
SENDINGS_DAYS = 60
"""Days for which a sending is known, so that it is not saved twice."""
MOST_STEPS_BACK = 500
"""How many steps behind an edit may have begun and still be put on top of those saved since."""


class NoSuchShow(FenceError):  # noqa: N818 - it is a name for people first
    """There is no show of that id or name."""


class DamagedShow(FenceError):  # noqa: N818 - it is a name for people first
    """A show's rows do not make a show: the file was damaged, or written by something else."""


@dataclass(frozen=True)
class SavedShow:
    """A show as it is saved: its id, its revision, the value. ``key`` tells it from every other
    show there ever was."""

    id: int
    key: str
    revision: int
    show: Show

    @cached_property
    def analysis(self) -> Analysis:
        """What the rules say of it."""
        return analyse(self.show)

    @cached_property
    def standing(self) -> Standing:
        """How many of its fixtures are set, proven, to be set again."""
        return standing_of(self.show)


@dataclass(frozen=True, slots=True)
class ShowSummary:
    """A line of the list of shows. ``summary`` is None where the show cannot be read."""

    id: int
    name: str
    revision: int
    changed_at: datetime
    deleted_at: datetime | None
    summary: Summary | None


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
class EarlierPlan:
    """What the plan had for a fixture once. ``until`` is in UTC, without a zone, as all times of
    the store."""

    mode: str
    patch: tuple[Patch, ...]
    until: datetime


PATCHES = TypeAdapter(tuple[Patch, ...])

_EARLIER = text("""
    SELECT log.at AS at, json_extract(change.value, '$.before.mode') AS mode,
           json_extract(change.value, '$.before.patch') AS patch
    FROM log, json_each(log.difference, '$.fixtures') AS change
    WHERE log.show_id = :show
      AND json_extract(change.value, '$.before.id') = :fixture
      AND (
        json_extract(change.value, '$.before.patch')
          <> json_extract(change.value, '$.after.patch')
        OR json_extract(change.value, '$.before.mode')
          <> json_extract(change.value, '$.after.mode')
      )
    ORDER BY log.id DESC LIMIT :most
""")
"""What a fixture was before each step that moved it, looked up by the database itself."""


class StaleShow(FenceError):  # noqa: N818 - it is a name for people first
    """The show has moved on since the revision that an edit started from, and the two cannot be
    joined unseen.

    ``reasons`` says where they meet; empty where the edit began too long ago to tell.
    """

    def __init__(
        self, current: SavedShow, since: list[LogEntry], reasons: Sequence[str] = ()
    ) -> None:
        super().__init__(
            "This show was changed meanwhile by someone else. Nothing of yours is saved yet."
        )
        self.current = current
        self.since = since
        self.reasons = tuple(reasons)


Asked = Callable[[Show, Show, str], None]
"""What may stop a step: it is asked with the show before and after, and whose step it is."""


def anything(_before: Show, _after: Show, _whose: str) -> None:
    """Stop no step."""


def utc_now() -> datetime:
    """Now in UTC, without a zone, as all times of the store."""
    return datetime.now(UTC).replace(tzinfo=None)


class ShowStore:
    """All shows of one database file. Safe to use from several threads."""

    def __init__(self, engine: Engine, *, clock: Callable[[], datetime] = utc_now) -> None:
        self.engine = engine
        self.clock = clock
        self._kept: OrderedDict[tuple[str, int], SavedShow] = OrderedDict()
        self._lock = Lock()

    def list_shows(self, *, deleted: bool = False) -> list[ShowSummary]:
        """The shows, the last changed first; the deleted ones on request. Reads headings only,
        where they tell all."""
        found = select(ShowRow).where(
            ShowRow.deleted_at.is_not(None) if deleted else ShowRow.deleted_at.is_(None)
        )
        with reading(self.engine) as session:
            rows = session.scalars(found.order_by(ShowRow.changed_at.desc(), ShowRow.id)).all()
        told = {row.id: read_summary(row.summary, row.revision) for row in rows}
        if not deleted:
            told |= self._sum_up([row.id for row in rows if told[row.id] is None])
        return [
            ShowSummary(
                row.id, row.name, row.revision, row.changed_at, row.deleted_at, told[row.id]
            )
            for row in rows
        ]

    def _sum_up(self, ids: Sequence[int]) -> dict[int, Summary | None]:
        """What the rules say of shows that lack it, kept for the next time where the file takes
        it."""
        found: dict[int, Summary | None] = {}
        fresh = []
        for show_id in ids:
            try:
                saved = self.get(show_id)
            except FenceError:
                found[show_id] = None
                continue
            found[show_id] = summary_of(saved.show, saved.analysis)
            fresh.append(saved)
        try:
            if fresh:
                with writing(self.engine) as session:
                    for saved in fresh:
                        _write_summary(session, saved)
        except StorageError:
            pass  # it is computed again the next time
        return found

    def get(self, show_id: int) -> SavedShow:
        """The show as saved last; ``NoSuchShow`` if there is none or it is deleted, ``DamagedShow``
        if unsound."""
        with reading(self.engine) as session:
            return self._get(session, show_id)

    def of(self, saved: SavedShow, show: Show) -> SavedShow:
        """A show as it would be saved next, for what the rules say of it; nothing is kept."""
        return SavedShow(saved.id, saved.key, saved.revision + 1, show)

    def at_revision(self, show_id: int, revision: int | None) -> SavedShow:
        """The show as it was at ``revision``, for an edit that begins there.

        Raises ``EditError`` without a revision, and ``StaleShow`` for one that the log does not
        reach back to.
        """
        if revision is None:
            raise EditError(
                "This form does not say which state of the show it began at: load the page again."
            )
        with reading(self.engine) as session:
            current = self._get(session, show_id)
            if current.revision == revision:
                return current
            return self._recall(current.key, revision) or self._rolled_back(
                session, current, revision
            )

    def state_at(self, show_id: int, revision: int) -> SavedShow:
        """The show as it was at a revision, to be looked at; ``EditError`` for one that the log
        does not reach."""
        with reading(self.engine) as session:
            current = self._get(session, show_id)
            if current.revision == revision:
                return current
            kept = self._recall(current.key, revision)
            if kept is not None:
                return kept
            most = MOST_STEPS_LOOKED_BACK
            try:
                kept = self._rolled_back(session, current, revision, most)
            except StaleShow:
                raise EditError(
                    f"There is no state {revision} of this show within reach. Use the "
                    f"last {most:,} steps."
                ) from None
            self._keep(kept)
            return kept

    def _rolled_back(
        self, session: Session, current: SavedShow, revision: int, most: int = MOST_STEPS_BACK
    ) -> SavedShow:
        """The show of an earlier revision, from the log's differences."""
        found = select(LogRow.revision, LogRow.difference).where(
            LogRow.show_id == current.id, LogRow.revision > revision
        )
        steps = session.execute(found.order_by(LogRow.id.desc()).limit(most + 1)).all()
        show = current.show
        if not 0 < revision < current.revision or [step.revision for step in steps] != list(
            range(current.revision, revision, -1)
        ):
            raise StaleShow(current, self._history(session, current.id, revision, 20))
        for step in steps:
            show = apply_difference(show, DIFFERENCE.validate_json(step.difference).reversed())
        return SavedShow(current.id, current.key, revision, show)

    def _get(self, session: Session, show_id: int) -> SavedShow:
        row = session.get(ShowRow, show_id) if 0 < show_id < 2**63 else None
        if row is None or row.deleted_at is not None:
            raise NoSuchShow("There is no such show. It may have been deleted.")
        saved = self._recall(row.key, row.revision)
        if saved is None:
            try:
                saved = SavedShow(show_id, row.key, row.revision, load_show(session, row))
            except (ValueError, KeyError, TypeError) as error:
                reason = str(error).splitlines()[0][:200]
                raise DamagedShow(
                    f"{row.name} cannot be read: its rows are damaged ({reason})."
                ) from error
            self._keep(saved)
        return saved

    def find(self, name: str) -> SavedShow:
        """The show of that name, or of that id written as a number; ``NoSuchShow`` names those
        there are."""
        shows = self.list_shows()
        for summary in shows:
            if summary.name == name or (
                name.isascii() and name.isdigit() and summary.id == int(name)
            ):
                return self.get(summary.id)
        names = ", ".join(f"“{summary.name}”" for summary in shows) or "none yet"
        raise NoSuchShow(f"There is no show “{name}”. The shows are: {names}.")

    def history(self, show_id: int, *, after_revision: int = 0, most: int = 200) -> list[LogEntry]:
        """The log of a show, the newest first."""
        with reading(self.engine) as session:
            return self._history(session, show_id, after_revision, most)

    def _history(
        self, session: Session, show_id: int, after_revision: int, most: int
    ) -> list[LogEntry]:
        found = select(LogRow).where(LogRow.show_id == show_id, LogRow.revision > after_revision)
        return [
            _entry(row) for row in session.scalars(found.order_by(LogRow.id.desc()).limit(most))
        ]

    def earlier_plans(self, show_id: int, fixture_id: int, *, most: int = 12) -> list[EarlierPlan]:
        """The modes and addresses that the plan had for a fixture before, the newest first, each
        once."""
        with reading(self.engine) as session:
            rows = session.execute(
                _EARLIER, {"show": show_id, "fixture": fixture_id, "most": most * 4}
            ).all()
        plans: dict[tuple[str, tuple[Patch, ...]], EarlierPlan] = {}
        for row in rows:
            patch = PATCHES.validate_json(row.patch)
            plans.setdefault(
                (row.mode, patch), EarlierPlan(row.mode, patch, datetime.fromisoformat(row.at))
            )
        return list(plans.values())[:most]

    def steps(self, show_id: int) -> tuple[LogEntry | None, LogEntry | None]:
        """The edit that undo would take back, and the one that redo would bring again."""
        with reading(self.engine) as session:
            back, forth = _last_done(session, show_id), _first_undone(session, show_id)
            return _entry(back) if back else None, _entry(forth) if forth else None

    def create(self, show: Show, *, who: str) -> SavedShow:
        """Save a new show. Names are kept apart: a second one of a name gets a number."""
        with writing(self.engine) as session:
            taken = set(session.scalars(select(ShowRow.name).where(ShowRow.deleted_at.is_(None))))
            show = replace(show, name=free_name(show.name, taken))
            saved = SavedShow(_next_id(session), uuid4().hex, 1, show)
            now = self.clock()
            session.add(
                ShowRow(
                    id=saved.id,
                    key=saved.key,
                    revision=1,
                    created_at=now,
                    changed_at=now,
                    **heading_values(show),
                )
            )
            session.flush()
            found = difference(
                replace(
                    show, fixtures=(), profiles=(), universes=(), positions=(), lines=(), boxes=()
                ),
                show,
            )
            write_difference(session, saved.id, found, show)
            _write_summary(session, saved)
            self._log(session, saved, who, f"Show {show.name} made", "start", Difference())
        self._keep(saved)
        return saved

    def save(
        self,
        before: SavedShow,
        after: Show,
        *,
        who: str,
        on_top: int | None = None,
        origin: str = "",
        sending: str = "",
        note: str = "",
        first: Callable[[Analysis], None] = lambda analysis: None,
        last: Callable[[Show, Show], None] = lambda before, after: None,
        settle: Callable[[Show, Show], Show] = in_order,
        over_all: bool = False,
    ) -> SavedShow:
        """Save an edit that began at ``before``: rows, log entry and revision in one transaction.

        Nothing is written when nothing differs. Where others saved meanwhile, what this edit
        changed is done again on top of it; ``StaleShow`` where both touch the same, or make a stop
        together. With ``on_top`` the person has seen what was saved up to that revision and wants
        this step over it: only what it changed is then taken from it. ``origin`` is where in Fence
        it was made. A ``sending`` is saved once: the same one again changes nothing. ``note``
        stands beside the log entry. What is to go ``over_all`` is done over whatever was saved
        meanwhile. ``settle`` makes of what stands and what is to be written what is really written;
        it is asked within the transaction, where nobody else saves, and may raise to stop it.
        ``first`` is asked with what the rules say of the edit before anything is written, ``last``
        with what stands and what is written in its place, whatever was put together on the way;
        both may raise to stop it.
        """
        found = difference(before.show, after)
        if found.empty:
            return before
        saved = SavedShow(before.id, before.key, before.revision + 1, after)
        first(saved.analysis)  # the rules are asked before the lock is taken, not while others wait
        with writing(self.engine) as session:
            current = self._get(session, before.id)
            if current.key != before.key:
                raise NoSuchShow("There is no such show. It may have been deleted.")
            if sending and not self._first_time(session, before.id, sending):
                return current
            merged = after
            if current.revision != before.revision:
                merged = self._merged(session, before, after, current, on_top, over_all=over_all)
            settled = settle(current.show, merged)
            if current.revision != before.revision or settled is not after:
                found = difference(current.show, settled)
                if found.empty:
                    return current
                saved = SavedShow(current.id, current.key, current.revision + 1, settled)
            last(current.show, saved.show)
            self._write(session, current, saved, found)
            session.execute(
                update(LogRow)
                .where(LogRow.show_id == before.id, LogRow.kind == "edit", LogRow.state == "undone")
                .values(state="dropped")
            )
            self._log(
                session,
                saved,
                who,
                describe(current.show, saved.show, found),
                "edit",
                found,
                origin,
                note,
            )
        self._keep(saved)
        return saved

    def was_sent(self, show_id: int, sending: str) -> bool:
        """Whether a sending of that id has been saved."""
        with reading(self.engine) as session:
            return session.get(SendingRow, (show_id, sending)) is not None

    def _first_time(self, session: Session, show_id: int, sending: str) -> bool:
        """Note a sending inside the caller's transaction; whether it had not come before."""
        if session.get(SendingRow, (show_id, sending)) is not None:
            return False
        now = self.clock()
        session.execute(
            delete(SendingRow).where(SendingRow.at < now - timedelta(days=SENDINGS_DAYS))
        )
        session.add(SendingRow(show_id=show_id, id=sending, at=now))
        session.flush()
        return True

    def tell(
        self,
        show_id: int,
        words: str,
        *,
        who: str,
        origin: str,
        sending: str = "",
        about: int | None = None,
    ) -> SavedShow:
        """Write to the log what changed nothing, such as a mark for a fixture that is gone, as a
        state of its own.

        ``about`` is the fixture in whose history it stands.
        """
        with writing(self.engine) as session:
            before = self._get(session, show_id)
            if sending and not self._first_time(session, show_id, sending):
                return before
            saved = SavedShow(show_id, before.key, before.revision + 1, before.show)
            nothing = Difference()
            self._write(session, before, saved, nothing)
            self._log(session, saved, who, words, "told", nothing, origin)
            if about is not None:
                log_id = session.scalar(
                    select(func.max(LogRow.id)).where(LogRow.show_id == show_id)
                )
                session.execute(insert(LogFixtureRow), [{"fixture_id": about, "log_id": log_id}])
        self._keep(saved)
        return saved

    def end_waivers(self, saved: SavedShow, today: date) -> SavedShow:
        """Let no finding stand whose day is over, as a state of its own that undo passes over."""
        after = end_waivers(saved.show, today)
        if after is saved.show:
            return saved
        try:
            return self._ended(saved, today)
        except StorageError:
            return saved  # it is looked at all the same, where nothing can be saved

    def _ended(self, saved: SavedShow, today: date) -> SavedShow:
        with writing(self.engine) as session:
            before = self._get(session, saved.id)
            after = end_waivers(before.show, today)
            found = difference(before.show, after)
            if found.empty:
                return before
            ended = SavedShow(saved.id, before.key, before.revision + 1, after)
            self._write(session, before, ended, found)
            self._log(
                session,
                ended,
                "Fence",
                describe(before.show, after, found),
                "ended",
                found,
                "Findings",
            )
        self._keep(ended)
        return ended

    def _merged(
        self,
        session: Session,
        before: SavedShow,
        after: Show,
        current: SavedShow,
        on_top: int | None,
        *,
        over_all: bool = False,
    ) -> Show:
        if over_all:
            return merge(before.show, after, current.show, mine_wins=True).show
        since = self._history(session, current.id, before.revision, 20)
        if on_top not in (None, current.revision):
            raise StaleShow(current, since, ["More was changed since you looked."])
        merged = merge(before.show, after, current.show, mine_wins=on_top is not None)
        if merged.collisions and on_top is None:
            raise StaleShow(current, since, merged.collisions)
        return merged.show

    def undo(self, show_id: int, *, revision: int, who: str, first: Asked = anything) -> SavedShow:
        """Take back the last edit; ``EditError`` where there is none.

        ``first`` is asked with the show before and after, and whose edit it is; it may raise to
        stop it.
        """
        return self._step(show_id, revision, who, first, undo=True)

    def redo(self, show_id: int, *, revision: int, who: str, first: Asked = anything) -> SavedShow:
        """Bring back the edit that was undone last; ``EditError`` where there is none. ``first`` as
        for ``undo``."""
        return self._step(show_id, revision, who, first, undo=False)

    def _step(
        self, show_id: int, revision: int, who: str, first: Asked, *, undo: bool
    ) -> SavedShow:
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
            saved = SavedShow(
                show_id, before.key, revision + 1, apply_difference(before.show, found)
            )
            first(before.show, saved.show, row.who)
            self._write(session, before, saved, found)
            row.state = "undone" if undo else "done"
            kind = "undo" if undo else "redo"
            self._log(session, saved, who, f"{kind.capitalize()}: {row.words}", kind, found)
        self._keep(saved)
        return saved

    def copy(self, show_id: int, *, who: str) -> SavedShow:
        """A second show with the same plan and a log of its own."""
        original = self.get(show_id)
        return self.create(replace(original.show, name=f"{original.show.name} copy"), who=who)

    def delete(self, show_id: int) -> str:
        """Put a show aside, also one that cannot be read, and give its name; ``put_back`` brings it
        back."""
        with writing(self.engine) as session:
            row = self._row(session, show_id)
            row.deleted_at = self.clock()
            return row.name

    def put_back(self, show_id: int, *, who: str) -> SavedShow:
        """Bring back a deleted show. If its name was taken meanwhile it gets a number, which the
        log says."""
        with writing(self.engine) as session:
            row = self._row(session, show_id)
            row.deleted_at = None
            session.flush()
            before = self._get(session, show_id)
            others = select(ShowRow.name).where(ShowRow.deleted_at.is_(None), ShowRow.id != show_id)
            show = replace(
                before.show, name=free_name(before.show.name, set(session.scalars(others)))
            )
            saved = SavedShow(show_id, before.key, before.revision + 1, show)
            found = difference(before.show, show)
            self._write(session, before, saved, found)
            words = "Show put back" + (f" as {show.name}" if show.name != before.show.name else "")
            self._log(session, saved, who, words, "back", found)
        self._keep(saved)
        return saved

    def remove_for_good(self, show_id: int) -> None:
        """Remove a deleted show and its log; a show that is not deleted stays. Its id is never
        given again."""
        with writing(self.engine) as session:
            session.execute(
                delete(ShowRow).where(ShowRow.id == show_id, ShowRow.deleted_at.is_not(None))
            )

    def _row(self, session: Session, show_id: int) -> ShowRow:
        row = session.get(ShowRow, show_id) if 0 < show_id < 2**63 else None
        if row is None:
            raise NoSuchShow("There is no such show.")
        return row

    def _write(
        self, session: Session, before: SavedShow, saved: SavedShow, found: Difference
    ) -> None:
        """The revision check and the rows, inside the caller's transaction."""
        values = heading_values(saved.show) if found.heading else {}
        result = session.execute(
            update(ShowRow)
            .where(
                ShowRow.id == before.id,
                ShowRow.revision == before.revision,
                ShowRow.deleted_at.is_(None),
            )
            .values(revision=saved.revision, changed_at=self.clock(), **values)
            .execution_options(synchronize_session=False)
        )
        assert isinstance(result, CursorResult)
        if result.rowcount == 0:
            raise StaleShow(
                self._get(session, before.id),
                self._history(session, before.id, before.revision, 20),
            )
        write_difference(session, before.id, found, saved.show)
        _write_summary(session, saved)

    def _log(
        self,
        session: Session,
        saved: SavedShow,
        who: str,
        words: str,
        kind: str,
        found: Difference,
        origin: str = "",
        note: str = "",
    ) -> None:
        written = session.execute(
            insert(LogRow).values(
                origin=origin,
                note=note,
                show_id=saved.id,
                revision=saved.revision,
                at=self.clock(),
                who=who,
                words=words,
                kind=kind,
                state="done",
                difference=DIFFERENCE.dump_json(found, by_alias=True).decode(),
            )
        )
        assert isinstance(written, CursorResult)
        ids = [named.id for change in found.fixtures if (named := change.after or change.before)]
        if ids:
            (log_id,) = written.inserted_primary_key or (None,)
            session.execute(
                insert(LogFixtureRow), [{"fixture_id": one, "log_id": log_id} for one in ids]
            )

    def _recall(self, key: str, revision: int) -> SavedShow | None:
        with self._lock:
            saved = self._kept.get((key, revision))
            if saved is not None:
                self._kept.move_to_end((key, revision))
            return saved

    def _keep(self, saved: SavedShow) -> None:
        """Keep a saved show; what was worked out of the states before it is seldom asked again, and
        may be large."""
        with self._lock:
            for (key, revision), held in self._kept.items():
                if key == saved.key and revision < saved.revision:
                    held.show.worked_out.clear()
            self._kept[(saved.key, saved.revision)] = saved
            while len(self._kept) > KEPT_SHOWS:
                self._kept.popitem(last=False)


def _next_id(session: Session) -> int:
    """An id that no show had before, not even one that was removed for good."""
    row = session.get(CounterRow, "show")
    if row is None:
        row = CounterRow(name="show", value=0)
        session.add(row)
    row.value += 1
    return row.value


def _write_summary(session: Session, saved: SavedShow) -> None:
    """Keep what the rules say of a revision beside the show, as long as it is still at that
    revision."""
    session.execute(
        update(ShowRow)
        .where(ShowRow.id == saved.id, ShowRow.revision == saved.revision)
        .values(summary=write_summary(summary_of(saved.show, saved.analysis), saved.revision))
        .execution_options(synchronize_session=False)
    )


def _entry(row: LogRow) -> LogEntry:
    return LogEntry(row.id, row.revision, row.at, row.who, row.words, row.kind)


def _last_done(session: Session, show_id: int) -> LogRow | None:
    found = select(LogRow).where(
        LogRow.show_id == show_id, LogRow.kind == "edit", LogRow.state == "done"
    )
    return session.scalars(found.order_by(LogRow.id.desc()).limit(1)).first()


def _first_undone(session: Session, show_id: int) -> LogRow | None:
    found = select(LogRow).where(
        LogRow.show_id == show_id, LogRow.kind == "edit", LogRow.state == "undone"
    )
    return session.scalars(found.order_by(LogRow.id).limit(1)).first()
