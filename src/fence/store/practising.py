"""How far people are with the drills, cases that somebody set for others, and searches that have
ended."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Engine, delete, func, select
from sqlalchemy.orm import Session

from fence.core.model.errors import EditError
from fence.core.practising.schedule import Held, Progress, Skill, answered, next_round
from fence.store.database import reading, writing
from fence.store.tables import CaseRow, PracticeRow, SearchRow

MOST_LEARNERS, MOST_CASES, MOST_SEARCHES = 10_000, 500, 5_000


@dataclass(frozen=True, slots=True)
class _Held:
    skill: Skill
    held: Held


@dataclass(frozen=True, slots=True)
class _Progress:
    round: int
    skills: tuple[_Held, ...]


DOCUMENT = TypeAdapter(_Progress)


class PracticeKept:
    """The progress of everybody. A learner is named by whoever asks: a person, or a browser."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def of(self, learner: str) -> Progress:
        """How far somebody is; at the beginning where nothing is known."""
        with reading(self.engine) as session:
            return _read(session.get(PracticeRow, learner))

    def answer(self, learner: str, skill: Skill, drills: Sequence[str], *, right: bool) -> Progress:
        """Note an answer, and go on to the next round where this one is done."""
        with writing(self.engine) as session:
            row = session.get(PracticeRow, learner)
            after = next_round(answered(_read(row), skill, right=right), drills)
            document = DOCUMENT.dump_json(
                _Progress(after.round, tuple(_Held(*one) for one in after.skills.items()))
            ).decode()
            if row is None:
                _make_room(session)
                row = PracticeRow(learner=learner)
                session.add(row)
            row.document, row.at = document, self.clock()
        return after

    def forget(self, learner: str) -> None:
        """Begin again."""
        with writing(self.engine) as session:
            session.execute(delete(PracticeRow).where(PracticeRow.learner == learner))


def _read(row: PracticeRow | None) -> Progress:
    """Progress as it was kept; what an older Fence cannot have written is left out."""
    if row is None:
        return Progress()
    try:
        found = DOCUMENT.validate_json(row.document)
    except ValidationError:
        return Progress()
    return Progress(found.round, {one.skill: one.held for one in found.skills})


def _make_room(session: Session) -> None:
    """Forget whoever has not practised for longest, where there are too many."""
    count = session.scalar(select(func.count()).select_from(PracticeRow)) or 0
    if count >= MOST_LEARNERS:
        oldest = select(PracticeRow.learner).order_by(PracticeRow.at).limit(1)
        session.execute(delete(PracticeRow).where(PracticeRow.learner.in_(oldest)))


@dataclass(frozen=True, slots=True)
class Case:
    """A case as it is kept: its title, its document (as ``formats.cases`` writes it), who set it
    and when (UTC)."""

    id: int
    title: str
    document: str
    who: str
    at: datetime


@dataclass(frozen=True, slots=True)
class Search:
    """A search that has ended: who made it, its document, and its minutes."""

    id: int
    case: int | None
    who: str
    document: str
    minutes: float
    at: datetime


class CasesKept:
    """Cases, and how they were solved."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def all(self) -> list[Case]:
        """All cases, the newest first."""
        with reading(self.engine) as session:
            return [_case(row) for row in session.scalars(select(CaseRow).order_by(-CaseRow.id))]

    def get(self, case_id: int) -> Case:
        """One case; ``EditError`` where it is no longer there."""
        with reading(self.engine) as session:
            row = session.get(CaseRow, case_id)
            if row is None:
                raise EditError("That case is no longer there.")
            return _case(row)

    def put(self, title: str, document: str, who: str) -> int:
        """Keep a case; gives its id."""
        with writing(self.engine) as session:
            count = session.scalar(select(func.count()).select_from(CaseRow)) or 0
            if count >= MOST_CASES:
                raise EditError(f"There are {MOST_CASES} cases: remove some first.")
            row = CaseRow(title=title, document=document, who=who, at=self.clock())
            session.add(row)
            session.flush()
            return row.id

    def remove(self, case_id: int) -> None:
        """Remove a case with its searches."""
        with writing(self.engine) as session:
            session.execute(delete(SearchRow).where(SearchRow.case_id == case_id))
            session.execute(delete(CaseRow).where(CaseRow.id == case_id))

    def ended(
        self, learner: str, who: str, document: str, minutes: float, case: int | None
    ) -> None:
        """Keep a search that has ended; the oldest of all goes where there are too many."""
        with writing(self.engine) as session:
            if case is not None and session.get(CaseRow, case) is None:
                case = None
            count = session.scalar(select(func.count()).select_from(SearchRow)) or 0
            if count >= MOST_SEARCHES:
                oldest = select(SearchRow.id).order_by(SearchRow.id).limit(1)
                session.execute(delete(SearchRow).where(SearchRow.id.in_(oldest)))
            session.add(
                SearchRow(
                    case_id=case,
                    learner=learner,
                    who=who,
                    document=document,
                    minutes=minutes,
                    at=self.clock(),
                )
            )

    def searches(self, *, case: int | None = None, learner: str = "") -> list[Search]:
        """Searches of a case, or of somebody, the newest first."""
        asked = select(SearchRow).order_by(-SearchRow.id).limit(200)
        if case is not None:
            asked = asked.where(SearchRow.case_id == case)
        if learner:
            asked = asked.where(SearchRow.learner == learner)
        with reading(self.engine) as session:
            return [
                Search(row.id, row.case_id, row.who, row.document, row.minutes, row.at)
                for row in session.scalars(asked)
            ]


def _case(row: CaseRow) -> Case:
    return Case(row.id, row.title, row.document, row.who, row.at)
