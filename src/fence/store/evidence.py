"""What was seen while somebody looked for what is wrong: kept with the show, each by whom and
when."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Engine, delete, func, select

from fence.core.model.errors import EditError
from fence.core.simulation.faults import Trouble
from fence.core.troubleshooting.causes import WEIGHTS
from fence.core.troubleshooting.evidence import MOST_EVIDENCE, Evidence
from fence.store.database import reading, writing
from fence.store.tables import EvidenceRow, ShowRow, WeightsRow

DOCUMENT = TypeAdapter(Evidence)
AGAIN = -1
"""What evidence rests on that was mended since: it has to be looked at again."""
OF_KINDS = TypeAdapter(dict[Trouble, float])


@dataclass(frozen=True, slots=True)
class Noted:
    """A piece of evidence as it was noted: by whom, when (UTC), and a number for what it rests
    on."""

    id: int
    evidence: Evidence
    rests_on: int
    who: str
    at: datetime

    @property
    def again(self) -> bool:
        """Whether it was mended since, and has to be looked at again."""
        return self.rests_on == AGAIN


class EvidenceKept:
    """The evidence of all shows."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def of(self, show_id: int) -> list[Noted]:
        """That of one show, in the order in which it was noted. What an older Fence cannot have
        written is left out."""
        found = select(EvidenceRow).where(EvidenceRow.show_id == show_id).order_by(EvidenceRow.id)
        with reading(self.engine) as session:
            rows = list(session.scalars(found))
        told = ((row, _read(row)) for row in rows)
        return [
            Noted(row.id, evidence, row.rests_on, row.who, row.at)
            for row, evidence in told
            if evidence is not None
        ]

    def note(self, show_id: int, found: Sequence[tuple[Evidence, int]], *, who: str) -> None:
        """Add evidence, each with a number for what it rests on; what the same check answered
        before is forgotten. ``EditError`` where there is too much, or no such show."""
        with writing(self.engine) as session:
            if session.get(ShowRow, show_id) is None:
                raise EditError("That show is no longer there.")
            count = select(func.count()).select_from(EvidenceRow)
            held = session.scalar(count.where(EvidenceRow.show_id == show_id)) or 0
            if held + len(found) > MOST_EVIDENCE:
                raise EditError(
                    f"A search takes up to {MOST_EVIDENCE} pieces of evidence: begin anew."
                )
            checks = {evidence.check for evidence, _ in found}
            rows = session.scalars(select(EvidenceRow).where(EvidenceRow.show_id == show_id))
            for row in list(rows):
                known = _read(row)
                if known is not None and known.check in checks:
                    session.delete(row)
            for evidence, rests_on in found:
                session.add(
                    EvidenceRow(
                        show_id=show_id,
                        document=DOCUMENT.dump_json(evidence).decode(),
                        rests_on=rests_on,
                        who=who,
                        at=self.clock(),
                    )
                )

    def take_back(self, show_id: int, evidence_id: int) -> None:
        """Forget one piece; nothing where it is gone."""
        with writing(self.engine) as session:
            session.execute(
                delete(EvidenceRow).where(
                    EvidenceRow.show_id == show_id, EvidenceRow.id == evidence_id
                )
            )

    def weights(self, show_id: int) -> dict[Trouble, float]:
        """How likely each kind of trouble is to begin with: practice, unless somebody has said
        otherwise."""
        with reading(self.engine) as session:
            row = session.get(WeightsRow, show_id)
        try:
            return WEIGHTS | (OF_KINDS.validate_json(row.document) if row is not None else {})
        except ValidationError:
            return dict(WEIGHTS)

    def weigh(self, show_id: int, weights: Mapping[Trouble, float]) -> None:
        """Keep how likely each kind is; only what is not practice, so that practice can change."""
        own = {trouble: told for trouble, told in weights.items() if told != WEIGHTS[trouble]}
        with writing(self.engine) as session:
            if session.get(ShowRow, show_id) is None:
                raise EditError("That show is no longer there.")
            session.execute(delete(WeightsRow).where(WeightsRow.show_id == show_id))
            if own:
                document = OF_KINDS.dump_json(own).decode()
                session.add(WeightsRow(show_id=show_id, document=document))

    def begin_anew(self, show_id: int, again: Sequence[Evidence] = (), *, who: str = "") -> None:
        """Forget all of a show; what has to be looked at ``again`` stays, and counts no more."""
        with writing(self.engine) as session:
            session.execute(delete(EvidenceRow).where(EvidenceRow.show_id == show_id))
            for evidence in again:
                session.add(
                    EvidenceRow(
                        show_id=show_id,
                        document=DOCUMENT.dump_json(evidence).decode(),
                        rests_on=AGAIN,
                        who=who,
                        at=self.clock(),
                    )
                )


def _read(row: EvidenceRow) -> Evidence | None:
    """What a row says; None for what this Fence cannot read."""
    try:
        return DOCUMENT.validate_json(row.document)
    except ValidationError:
        return None
