"""Corrections by eye of the emitters of types, which all shows share, as they share the charts."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy import Engine, delete, select

from fence.core.model.profile import Function
from fence.core.simulation.colour_matching import MODEL, check_trim
from fence.store.database import reading, writing
from fence.store.tables import TrimRow


class Trims:
    """The corrections of all types."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def all(self) -> dict[str, dict[Function, float]]:
        """Those that there are, by the id of the chart."""
        found: dict[str, dict[Function, float]] = {}
        with reading(self.engine) as session:
            for row in session.scalars(select(TrimRow)):
                if row.function in set(MODEL):
                    found.setdefault(row.profile, {})[Function(row.function)] = row.factor
        return found

    def put(self, profile: str, factors: Mapping[Function, float]) -> None:
        """Keep the corrections of a type instead of those there are; 1 is none. ``EditError`` for
        what cannot be."""
        for factor in factors.values():
            check_trim(factor)
        with writing(self.engine) as session:
            session.execute(delete(TrimRow).where(TrimRow.profile == profile))
            for function, factor in factors.items():
                if factor != 1 and function in MODEL:
                    session.add(TrimRow(profile=profile, function=str(function), factor=factor))
