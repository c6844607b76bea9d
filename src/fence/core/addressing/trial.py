"""Trying something on a copy: does it fit, and what does it take."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from fence.core import edits
from fence.core.addressing.repair import RepairOptions, repair_rig
from fence.core.checks import Severity, analyse, news
from fence.core.edits import AddRun
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.show import Show


@dataclass(frozen=True, slots=True)
class Trial:
    """What to try: fixtures to ``add``, other ``modes`` by fixture id, another number of
    ``universes`` on the desk."""

    add: AddRun | None = None
    modes: Mapping[int, str] = field(default_factory=dict)
    universes: int | None = None


@dataclass(frozen=True, slots=True)
class TrialResult:
    """The show as it would be. ``fits`` when all have a place and the rules find no stop that was
    not there before.

    ``stops`` says what they find otherwise. ``moved`` why others had to move for it, by id;
    ``without`` names the ids that found no place; ``opened`` the universes that the show did not
    have, ``ports`` what its network lacks for them. What clashed before is left as it is.
    """

    show: Show
    fits: bool
    moved: Mapping[int, str]
    without: tuple[int, ...]
    opened: tuple[int, ...]
    stops: tuple[str, ...] = ()
    ports: tuple[str, ...] = ()


def try_out(show: Show, trial: Trial) -> TrialResult:
    """Try it: first into the gaps as they are, then by moving others, then in further universes.

    Raises ``EditError`` where the trial itself cannot be: no such mode, a quantity out of range.
    """
    tried = show
    if trial.universes is not None:
        tried = edits.set_desk(tried, replace(tried.desk, universes=trial.universes))
    tried = edits.choose_modes(tried, trial.modes)
    added: frozenset[int] = frozenset()
    if trial.add is not None:
        before = tried.next_id
        tried = _into_known_universes(edits.add_fixtures(tried, trial.add), show, before)
        added = frozenset(range(before, tried.next_id))
    waiting = _waiting(tried, added)
    held = _troubled(show).difference(trial.modes) if trial.universes is None else frozenset[int]()
    lined_up = _lined_up(tried, waiting)
    for open_more in (False, True):
        options = RepairOptions(new_universes=open_more, willing=waiting, held=held)
        repair = repair_rig(lined_up, options)
        if not repair.unplaced:
            break
    without = frozenset(repair.unplaced)
    after = edits.unplace(repair.show, without & waiting)
    moved = {m.fixture: m.why for m in repair.moves if m.fixture not in waiting | without}
    known = show.universe_by_number
    taken = after.taken
    stops, ports = _new_stops(show, after)
    return TrialResult(
        after,
        not without and not stops,
        moved,
        tuple(fixture.id for fixture in after.fixtures if fixture.id in without),
        tuple(number for number in sorted(taken) if number not in known),
        stops,
        ports,
    )


def _new_stops(before: Show, after: Show) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The stops of a show that another one did not have; those of the network apart: a port mends
    them."""
    found = [
        f
        for f in news(analyse(before).findings, analyse(after).findings)
        if f.severity is Severity.STOP
    ]
    stops = tuple(finding.message for finding in found if finding.box is None)
    return stops, tuple(finding.message for finding in found if finding.box is not None)


def _troubled(show: Show) -> frozenset[int]:
    """Those that a stop names already: a trial leaves them where they are. All, where the stops
    cannot be counted."""
    found = analyse(show)
    return frozenset(show.fixture_by_id) if found.cut else found.stopped


def _waiting(show: Show, added: frozenset[int]) -> frozenset[int]:
    """The added fixtures that have no place yet and need one."""
    return frozenset(
        fixture_id
        for fixture_id in added
        if any(
            footprint and patch.slot is None
            for footprint, patch in zip(
                show.footprints_of(show.fixture_by_id[fixture_id]),
                show.fixture_by_id[fixture_id].patch,
                strict=False,
            )
        )
    )


def _into_known_universes(show: Show, before: Show, first_new: int) -> Show:
    """Take back the places of added fixtures in universes that the show does not have: others move
    first."""
    known = before.universe_by_number
    far = [
        f.id
        for f in show.fixtures
        if f.id >= first_new and any(p.universe not in known for p in f.patch)
    ]
    return replace(edits.unplace(show, far), universes=before.universes) if far else show


def _lined_up(show: Show, waiting: frozenset[int]) -> Show:
    """The show with the waiting ones at the first slot of their universe, from where the repair
    seats them."""

    def placed(fixture: Fixture) -> Fixture:
        home = fixture.universe or min(show.universe_by_number, default=1)
        return replace(fixture, patch=tuple(Patch(home, 1) for _ in fixture.patch))

    if not waiting:
        return show
    return replace(show, fixtures=tuple(placed(f) if f.id in waiting else f for f in show.fixtures))
