"""An edit that is shown before it is made, as values."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field

from fence.core.checks import Analysis, Finding, Verdict, analyse, news_of_the_plan
from fence.core.edits.difference import difference
from fence.core.model.show import Show
from fence.core.setting.walk import again
from fence.web.address.drawing import FenceDrawing, draw_fence
from fence.web.address.rails import Rails

MOVES_LISTED = 12


@dataclass(frozen=True, slots=True)
class MoveLine:
    """One fixture of a proposal: where it is and where it would be."""

    label: str
    before: str
    after: str
    why: str


@dataclass(frozen=True, slots=True)
class Proposal:
    """An edit that is shown before it is made."""

    title: str
    why: str
    before: Verdict
    after: Verdict
    moves: tuple[MoveLine, ...]
    more_moves: int
    new_findings: tuple[Finding, ...]
    again: str
    action: str
    fields: tuple[tuple[str, str], ...]
    button: str
    alternatives: tuple[tuple[str, str], ...]
    others_url: str
    with_repair: str


@dataclass(frozen=True, slots=True)
class ProposedEdit:
    """An edit to be shown: the show it would make, its words, and the form that makes it.
    ``alternatives`` are other ways, as words and addresses, ``others_url`` is where they are told
    with what each of them touches. ``with_repair`` is what a repair of it would do, in words, empty
    where none is offered."""

    after: Show
    title: str
    why: str
    action: str
    fields: tuple[tuple[str, str], ...]
    button: str
    reasons: Mapping[int, str] = field(default_factory=dict)
    alternatives: tuple[tuple[str, str], ...] = ()
    others_url: str = ""
    with_repair: str = ""


def proposal_of(show: Show, analysis: Analysis, proposed: ProposedEdit) -> Proposal:
    then = analyse(proposed.after)
    moves = [
        MoveLine(change.after.label, str(old), str(new), proposed.reasons.get(change.after.id, ""))
        for change in difference(show, proposed.after).fixtures
        if change.before and change.after
        for old, new in zip(change.before.patch, change.after.patch, strict=False)
        if old != new
    ]
    return Proposal(
        title=proposed.title,
        why=proposed.why,
        before=analysis.verdict,
        after=then.verdict,
        moves=tuple(moves[:MOVES_LISTED]),
        more_moves=max(0, len(moves) - MOVES_LISTED),
        new_findings=news_of_the_plan(analysis, then)[:5],
        again=again(show, proposed.after).words,
        action=proposed.action,
        fields=proposed.fields,
        button=proposed.button,
        alternatives=proposed.alternatives,
        others_url=proposed.others_url,
        with_repair=proposed.with_repair,
    )


def draw_then(
    show: Show, after: Show, universe: int, on: Rails, picked: Collection[int] = ()
) -> FenceDrawing:
    """A universe as an edit would make it, with those framed that it puts there."""
    here = {(placed.fixture.id, placed.part): placed.run for placed in show.runs_in(universe)}
    moved = {
        p.fixture.id for p in after.runs_in(universe) if here.get((p.fixture.id, p.part)) != p.run
    }
    return draw_fence(after, universe, analyse(after).findings, picked=picked, moved=moved, on=on)
