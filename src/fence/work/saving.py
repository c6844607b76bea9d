"""Saving an edit: what is new of it is seen first, and what is really written is checked last."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from fence.core import edits
from fence.core.addressing.repair import RepairOptions, repair_rig
from fence.core.checks import Analysis, Finding, Severity, analyse, news
from fence.core.model.show import Show
from fence.core.network.ports import plan_ports
from fence.core.setting.walk import Again, again
from fence.store.shows import SavedShow, ShowStore

Check = Callable[[Show, Show], None]
"""Looks at a show before and after, and raises where its person may not do that."""


class UnseenStops(Exception):  # noqa: N818 - no error: an answer that is to be seen first
    """An edit that was not saved, since it makes stops that its person has not seen."""

    def __init__(self, before: SavedShow, after: Show, stops: Sequence[Finding]) -> None:
        super().__init__("This makes new stops: see them first.")
        self.before, self.after, self.stops = before, after, stops


@dataclass(frozen=True, slots=True)
class Asked:
    """Who asks for an edit, from which step of the work (``origin``), and how.

    ``seen`` says that its new stops were seen, ``repair`` that they are to be mended in the same
    step, ``on_top`` up to which revision of others it is wanted on top.
    """

    who: str
    origin: str
    may: Check
    seen: bool = False
    repair: bool = False
    on_top: int | None = None


@dataclass(frozen=True, slots=True)
class Done:
    """What became of an edit: the show, the new stops, and whom it sends people back to."""

    saved: SavedShow
    stops: tuple[Finding, ...]
    sent_back: Again
    joined: bool
    """Whether others had saved meanwhile, whose steps it was put together with."""


def save(store: ShowStore, before: SavedShow, after: Show, asked: Asked) -> Done:
    """Save an edit that began at ``before``.

    Where it makes new stops that were not seen, nothing is saved and ``UnseenStops`` is raised. Who
    may do it is checked before its stops are shown, and once more on what is really written. Raises
    ``StaleShow`` where others changed the same, and what ``asked.may`` raises.
    """
    if asked.repair:
        after = mended(before, after)
    asked.may(before.show, after)
    stops: list[Finding] = []

    def look(analysis: Analysis) -> None:
        found = news(before.analysis.findings, analysis.findings)
        stops.extend(finding for finding in found if finding.severity is Severity.STOP)
        if stops and not asked.seen:
            raise UnseenStops(before, after, stops)

    saved = store.save(
        before,
        after,
        who=asked.who,
        on_top=asked.on_top,
        origin=asked.origin,
        first=look,
        last=asked.may,
    )
    joined = saved.revision > before.revision + 1
    return Done(saved, tuple(stops), again(before.show, after), joined)


def mended(before: SavedShow, after: Show) -> Show:
    """An edit with the repair of what it broke.

    It takes the fewest moves, and those that the edit changed rather than others. What left the
    universe of its line goes to one that carries its own; a universe without a port gets a spare
    one.
    """
    held = before.show.fixture_by_id
    changed = frozenset(fixture.id for fixture in after.fixtures if held.get(fixture.id) != fixture)
    found = news(before.analysis.findings, analyse(after).findings)
    repaired = edits.rehang(repair_rig(after, RepairOptions(edited=changed)).show, changed)
    dark = any(finding.rule == "port-universe" and not finding.box for finding in found)
    return plan_ports(repaired).show if dark else repaired
