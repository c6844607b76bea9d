"""What people said that the wordings of manuals mean, for all charts that are pasted later, and the
heads of tables, for all files."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from sqlalchemy import Engine, delete, select

from fence.core.charts.vocabulary import tidy_words
from fence.core.model.errors import EditError
from fence.core.model.profile import Function
from fence.core.model.text import printable
from fence.store.database import reading, writing
from fence.store.tables import HeadRow, WordingRow

LONGEST_WORDING = 60
LONGEST_HEAD = 200


class Wordings:
    """The taught wordings, each with one meaning."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def all(self) -> list[tuple[str, Function]]:
        """The wordings that were taught, by wording; they come before the shipped ones."""
        with reading(self.engine) as session:
            found = session.execute(
                select(WordingRow.wording, WordingRow.function).order_by(WordingRow.wording)
            )
            return [(wording, Function(function)) for wording, function in found]

    def teach(self, wording: str, function: Function) -> None:
        """Say what a wording means, from now on; ``EditError`` for one without letters or figures,
        or too long."""
        words = tidy_words(wording)
        if not words or len(words) > LONGEST_WORDING:
            raise EditError(f"A wording has 1 to {LONGEST_WORDING} letters and figures.")
        with writing(self.engine) as session:
            session.merge(WordingRow(wording=words, function=str(function)))

    def forget(self, wording: str) -> None:
        """Take a taught wording back."""
        with writing(self.engine) as session:
            session.execute(delete(WordingRow).where(WordingRow.wording == wording))


class Heads:
    """Heads of columns as somebody has said which is which, for all tables that come later."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def all(self) -> dict[str, str]:
        """The heads, each with the column that it is."""
        with reading(self.engine) as session:
            found = session.execute(select(HeadRow.head, HeadRow.column).order_by(HeadRow.head))
            return {row.head: row.column for row in found}

    def teach(self, told: Mapping[str, str], columns: Collection[str]) -> None:
        """Say which of the ``columns`` of a rig some heads are; an empty one takes it back.
        ``EditError`` for a head that is too long, or for a column that a rig does not have."""
        for head, column in told.items():
            if not 0 < len(head) <= LONGEST_HEAD:
                raise EditError(f"A head has 1 to {LONGEST_HEAD} characters.")
            if column and column not in columns:
                raise EditError(f"A rig has no column “{printable(column[:40])}”.")
        with writing(self.engine) as session:
            for head, column in told.items():
                session.execute(delete(HeadRow).where(HeadRow.head == head))
                if column:
                    session.add(HeadRow(head=head, column=column))
