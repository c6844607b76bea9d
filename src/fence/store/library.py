"""The library of charts that all shows share: revisions, retiring, and what ships with Fence
beneath it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy import Engine, func, select, update

from fence.core.model.errors import EditError
from fence.core.model.profile import Profile
from fence.store.database import reading, writing
from fence.store.rows import PROFILE
from fence.store.tables import ChartRow


@dataclass(frozen=True, slots=True)
class Chart:
    """A chart as the library holds it. ``shipped``: it is as Fence ships it."""

    profile: Profile
    shipped: bool
    retired: bool = False


class Library:
    """The newest revision of each chart, by id. A chart saved here stands before a shipped one of
    its id."""

    def __init__(
        self, engine: Engine, shipped: Iterable[Profile], clock: Callable[[], datetime]
    ) -> None:
        self.engine = engine
        self.shipped = {profile.id: profile for profile in shipped}
        self.clock = clock

    def charts(self, *, retired: bool = False) -> list[Chart]:
        """The newest revisions by maker and model; the retired ones on request, else the others."""
        newest = (
            select(ChartRow.id, func.max(ChartRow.revision).label("newest"))
            .group_by(ChartRow.id)
            .subquery()
        )
        found = select(ChartRow).join(
            newest, (ChartRow.id == newest.c.id) & (ChartRow.revision == newest.c.newest)
        )
        with reading(self.engine) as session:
            saved = {
                row.id: Chart(
                    PROFILE.validate_json(row.document), shipped=False, retired=row.retired
                )
                for row in session.scalars(found)
            }
        charts = {
            **{key: Chart(profile, shipped=True) for key, profile in self.shipped.items()},
            **saved,
        }
        wanted = (chart for chart in charts.values() if chart.retired == retired)
        return sorted(wanted, key=lambda chart: (chart.profile.title.casefold(), chart.profile.id))

    def profiles(self) -> list[Profile]:
        """The charts that can be planned with."""
        return [chart.profile for chart in self.charts()]

    def newest(self, chart_id: str) -> Profile | None:
        """The newest revision of a chart, retired or not; None if the library never had it."""
        revisions = self.revisions(chart_id)
        return revisions[0] if revisions else None

    def revisions(self, chart_id: str) -> list[Profile]:
        """All revisions of a chart, the newest first. Old ones stay readable."""
        found = (
            select(ChartRow.document)
            .where(ChartRow.id == chart_id)
            .order_by(ChartRow.revision.desc())
        )
        with reading(self.engine) as session:
            saved = [PROFILE.validate_json(document) for document in session.scalars(found)]
        shipped = self.shipped.get(chart_id)
        return (
            [*saved, shipped]
            if shipped and all(p.revision != shipped.revision for p in saved)
            else saved
        )

    def save(self, profile: Profile, *, who: str) -> Profile:
        """Save a chart as the next revision of its id; the first of an id is revision 1.

        Gives the chart as saved. One that says nothing new is not saved again.
        """
        newest = self.newest(profile.id)
        if newest is not None and replace(profile, revision=newest.revision) == newest:
            return newest
        saved = replace(profile, revision=newest.revision + 1 if newest else 1)
        with writing(self.engine) as session:
            if session.get(ChartRow, (saved.id, saved.revision)):
                raise EditError(
                    f"{saved.title} was changed meanwhile by someone else: look at it and repeat "
                    "the step."
                )
            session.add(
                ChartRow(
                    id=saved.id,
                    revision=saved.revision,
                    document=PROFILE.dump_json(saved).decode(),
                    retired=False,
                    at=self.clock(),
                    who=who,
                )
            )
        return saved

    def retire(self, chart_id: str, *, who: str) -> None:
        """Offer a chart no more; shows that use it keep it. A shipped one is saved as retired."""
        newest = self.newest(chart_id)
        if newest is None:
            raise EditError("There is no such chart in the library.")
        self._mark(newest, True, who)

    def bring_back(self, chart_id: str, *, who: str) -> None:
        """Offer a retired chart again."""
        newest = self.newest(chart_id)
        if newest is None:
            raise EditError("There is no such chart in the library.")
        self._mark(newest, False, who)

    def _mark(self, newest: Profile, retired: bool, who: str) -> None:
        match = (ChartRow.id == newest.id, ChartRow.revision == newest.revision)
        with writing(self.engine) as session:
            if session.get(ChartRow, (newest.id, newest.revision)) is None:
                document = PROFILE.dump_json(newest).decode()
                session.add(
                    ChartRow(
                        id=newest.id,
                        revision=newest.revision,
                        document=document,
                        retired=retired,
                        at=self.clock(),
                        who=who,
                    )
                )
                return
            session.execute(update(ChartRow).where(*match).values(retired=retired))
