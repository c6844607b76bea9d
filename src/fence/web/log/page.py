"""The log as values: entries by day, what narrows them, snapshots to choose from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from itertools import groupby

from werkzeug.datastructures import MultiDict

from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.text import whole_number
from fence.store.journal import Entry, Journal, Snapshot, Wanted
from fence.store.shows import SavedShow

ORIGINS = (
    "Charts",
    "Rig",
    "Address",
    "Lines",
    "Network",
    "Set",
    "Shows",
    "Findings",
    "Log",
    "Command",
)
"""From where a step can come: the steps of the work, files and settings, mends of findings, the
log, the command."""
MOST_FIXTURES_OFFERED = 500


@dataclass(frozen=True, slots=True)
class Filters:
    """What narrows the log, as it was typed."""

    fixture: str
    who: str
    origin: str
    words: str
    day: str

    @property
    def any(self) -> bool:
        """Whether anything narrows it."""
        return any((self.fixture, self.who, self.origin, self.words, self.day))


@dataclass(frozen=True, slots=True)
class Day:
    """The entries of one day, on the clock of this machine."""

    day: date
    entries: tuple[Entry, ...]


@dataclass(frozen=True, slots=True)
class LogPage:
    """The page of the log."""

    filters: Filters
    problem: str
    days: tuple[Day, ...]
    older: int | None
    people: tuple[str, ...]
    snapshots: tuple[Snapshot, ...]
    names: dict[int, str]
    fixtures: tuple[Fixture, ...]


def local(at: datetime) -> datetime:
    """A time of the store on the clock of this machine."""
    return at.replace(tzinfo=UTC).astimezone()


def filters_of(form: MultiDict[str, str]) -> Filters:
    """What the address of the page narrows the log by."""
    return Filters(
        *(form.get(name, "").strip()[:80] for name in ("fixture", "who", "origin", "words", "day"))
    )


def log_page(saved: SavedShow, journal: Journal, filters: Filters, before: int | None) -> LogPage:
    """The page of the log, narrowed as the filters say; a filter that says nothing is told and left
    out."""
    problem, wanted = "", Wanted()
    try:
        wanted = _wanted(saved, filters, before)
    except EditError as error:
        problem = str(error)
    page = journal.page(saved.id, wanted)
    snapshots = journal.snapshots(saved.id)
    names: dict[int, str] = {}
    for snapshot in snapshots:
        names[snapshot.revision] = (
            f"{names[snapshot.revision]}, {snapshot.name}"
            if snapshot.revision in names
            else snapshot.name
        )
    days = tuple(
        Day(day, tuple(entries))
        for day, entries in groupby(page.entries, key=lambda entry: local(entry.at).date())
    )
    return LogPage(
        filters,
        problem,
        days,
        page.entries[-1].id if page.more else None,
        tuple(journal.people(saved.id)),
        tuple(snapshots),
        names,
        saved.show.fixtures[:MOST_FIXTURES_OFFERED],
    )


def _wanted(saved: SavedShow, filters: Filters, before: int | None) -> Wanted:
    since = until = None
    if filters.day:
        try:
            day = date.fromisoformat(filters.day)
            since = datetime.combine(day, time()).astimezone().astimezone(UTC).replace(tzinfo=None)
            until = (
                datetime.combine(day + timedelta(days=1), time())
                .astimezone()
                .astimezone(UTC)
                .replace(tzinfo=None)
            )
        except (ValueError, OverflowError):
            raise EditError(
                f"“{filters.day}” is not a day. Use a date such as 2026-11-28."
            ) from None
    fixture = _fixture_id(saved.show.fixtures, filters.fixture) if filters.fixture else None
    origin = filters.origin if filters.origin in ORIGINS else ""
    return Wanted(fixture, filters.who, origin, filters.words, since, until, before)


def _fixture_id(fixtures: Sequence[Fixture], words: str) -> int:
    """The fixture of that label, else of that number, or that was known by the id ``#7``."""
    for fixture in fixtures:
        if fixture.label.casefold() == words.casefold():
            return fixture.id
    number = whole_number(words.removeprefix("#"))
    if number is not None and words.startswith("#"):
        return number
    named = next(
        (fixture.id for fixture in fixtures if number is not None and fixture.number == number),
        None,
    )
    if named is None:
        raise EditError(
            f"No fixture is called “{words}” now. Use a label or a number of the rig list."
        )
    return named


def revision_in(words: str, saved: SavedShow, snapshots: Sequence[Snapshot]) -> int:
    """The state that a form names: ``now``, a revision, or a snapshot's name; ``EditError`` for
    none of them."""
    if words in ("", "now"):
        return saved.revision
    named = next((snapshot.revision for snapshot in snapshots if snapshot.name == words), None)
    number = whole_number(words)
    if named is None and (number is None or not 1 <= number <= saved.revision):
        raise EditError(
            f"“{words[:40]}” is not a snapshot of this show. Use 1 to {saved.revision}, or a name."
        )
    return named if named is not None else number or 1
