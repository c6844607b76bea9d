"""Uploaded files that wait to be imported, until somebody has looked at them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from uuid import uuid4

from sqlalchemy import Engine, delete, select

from fence.store.database import reading, writing
from fence.store.shows import NoSuchShow
from fence.store.tables import DraftRow

DRAFTS_KEPT = 20


@dataclass(frozen=True, slots=True)
class Draft:
    """An uploaded file that waits to be imported."""

    id: str
    filename: str
    content: bytes


class Drafts:
    """The waiting files; the newest are kept."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def keep(self, filename: str, content: bytes, *, draft_id: str | None = None) -> Draft:
        """Keep an uploaded file until it is imported. Only the newest are kept."""
        draft = Draft(draft_id or uuid4().hex, filename, content)
        with writing(self.engine) as session:
            session.execute(delete(DraftRow).where(DraftRow.id == draft.id))
            session.add(
                DraftRow(id=draft.id, filename=filename, content=content, created_at=self.clock())
            )
            session.flush()
            newest = select(DraftRow.id).order_by(DraftRow.created_at.desc()).limit(DRAFTS_KEPT)
            session.execute(delete(DraftRow).where(DraftRow.id.not_in(newest)))
        return draft

    def get(self, draft_id: str) -> Draft:
        """The waiting file; ``NoSuchShow`` if it is not kept any more."""
        with reading(self.engine) as session:
            row = session.get(DraftRow, draft_id)
            if row is None:
                raise NoSuchShow("That file is not waiting any more: choose it once again.")
            return Draft(row.id, row.filename, row.content)

    def drop(self, draft_id: str) -> None:
        """Forget a waiting file."""
        with writing(self.engine) as session:
            session.execute(delete(DraftRow).where(DraftRow.id == draft_id))
