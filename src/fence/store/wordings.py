"""What people said that the wordings of manuals mean, for all charts that are pasted later."""

from __future__ import annotations

from sqlalchemy import Engine, delete, select

from fence.core.charts.vocabulary import tidy_words
from fence.core.model.errors import EditError
from fence.core.model.profile import Function
from fence.store.database import reading, writing
from fence.store.tables import WordingRow

LONGEST_WORDING = 60


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
