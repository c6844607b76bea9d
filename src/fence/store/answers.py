"""Who answered on the lines of a show when it was asked last, and what they said: one look a show,
the newest."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Engine, delete

from fence.core.rdm.device_info import DeviceInfo
from fence.store.database import reading, writing
from fence.store.tables import AnswersRow


@dataclass(frozen=True, slots=True)
class Answers:
    """A look. ``bind`` is the address of this machine that it was made from, ``asked`` the
    universes asked in, ``notes`` what was in the way. ``told`` are pairs that somebody made:
    identities with ids of fixtures. ``at`` in UTC, None before it is kept.
    """

    said: tuple[DeviceInfo, ...] = ()
    bind: str = "127.0.0.1"
    asked: tuple[int, ...] = ()
    notes: tuple[str, ...] = ()
    told: Mapping[str, int] = field(default_factory=dict)
    at: datetime | None = None

    def by_name(self) -> dict[str, DeviceInfo]:
        """What each said, by its identity."""
        return {str(one.identity): one for one in self.said}


DOCUMENT = TypeAdapter(Answers)


class AnswersKept:
    """The looks of all shows."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def of(self, show_id: int) -> Answers | None:
        """The look of a show; None where nobody has asked yet."""
        with reading(self.engine) as session:
            row = session.get(AnswersRow, show_id)
            if row is None:
                return None
            try:
                return replace(DOCUMENT.validate_json(row.document), at=row.at)
            except ValidationError:
                return None

    def keep(self, show_id: int, answers: Answers) -> None:
        """Keep a look in place of the one before."""
        document = DOCUMENT.dump_json(replace(answers, at=None)).decode()
        with writing(self.engine) as session:
            session.execute(delete(AnswersRow).where(AnswersRow.show_id == show_id))
            session.add(AnswersRow(show_id=show_id, document=document, at=self.clock()))

    def put(self, show_id: int, said: Mapping[str, DeviceInfo]) -> None:
        """Keep what some said anew, beside what the others did; the time of the look stays."""
        with writing(self.engine) as session:
            row = session.get(AnswersRow, show_id)
            if row is None:
                return
            held = DOCUMENT.validate_json(row.document)
            newer = tuple(said.get(str(one.identity), one) for one in held.said)
            row.document = DOCUMENT.dump_json(replace(held, said=newer)).decode()

    def tell(self, show_id: int, identity: str, fixture_id: int | None) -> None:
        """Keep that a device is a fixture, or that nobody says who it is any more."""
        with writing(self.engine) as session:
            row = session.get(AnswersRow, show_id)
            if row is None:
                return
            held = DOCUMENT.validate_json(row.document)
            told = {
                name: one
                for name, one in held.told.items()
                if name != identity and one != fixture_id
            }
            if fixture_id is not None:
                told[identity] = fixture_id
            row.document = DOCUMENT.dump_json(replace(held, told=told)).decode()
