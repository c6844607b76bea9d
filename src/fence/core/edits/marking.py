"""Edits of what is known of fixtures: set, read back, proven, prepared; and the order in which a
crew goes to them.

The plan is never changed here, nor does one fact overwrite another.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from datetime import timedelta
from typing import TypeVar

from fence.core.edits.placing import change_mode, place
from fence.core.edits.records import change_each, check_known
from fence.core.model.address import Address
from fence.core.model.box import Box, Typed
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.record import (
    NOBODY,
    Prep,
    Proof,
    ReadBack,
    Seen,
    SetTo,
    Sign,
    Tick,
    Witness,
    is_identity,
)
from fence.core.model.show import Show
from fence.core.model.standing import planned_for
from fence.core.model.text import check_text

FACT = TypeVar("FACT", SetTo | None, ReadBack | None, Proof | None, Sign | None)
FACTS = ("set_to", "read_back", "proven", "sign")


def mark_set(show: Show, ids: Collection[int], by: Witness = NOBODY) -> Show:
    """Record that fixtures were set as the plan says now."""
    _check_planned(show, ids, "set")
    return change_each(
        show, ids, lambda fixture: replace(fixture, set_to=SetTo(fixture.mode, fixture.patch, by))
    )


def mark_set_to(
    show: Show, fixture_id: int, mode: str, patch: tuple[Patch, ...], by: Witness = NOBODY
) -> Show:
    """Record what was set at one fixture, whatever the plan says by now: a mark that comes late is
    kept as it was."""
    if not patch or all(entry.slot is None for entry in patch):
        raise EditError(
            f"{show.fixture(fixture_id).label} has no address yet, so it cannot have been set."
        )
    return change_each(
        show, [fixture_id], lambda fixture: replace(fixture, set_to=SetTo(mode, patch, by))
    )


def mark_unset(show: Show, ids: Collection[int]) -> Show:
    """Record that fixtures were not set after all. What they said, or proved, stays."""
    return change_each(show, ids, lambda fixture: replace(fixture, set_to=None))


def read_back(
    show: Show,
    fixture_id: int,
    says: int,
    *,
    part: int = 0,
    mode: str = "",
    by: Witness = NOBODY,
    reason: str = "",
    against: tuple[str, tuple[Patch, ...]] | None = None,
) -> Show:
    """Record what a fixture says of itself: the number of one part, and its mode where it was read.

    ``against`` is the mode and the addresses of the plan that it was read against, where that is
    not the plan of now. What was read of its other parts stays while the plan is the one it was
    read against.
    """
    fixture = show.fixture(fixture_id)
    planned_mode, planned = against or (fixture.mode, fixture.patch)
    if not 0 <= part < len(planned):
        raise EditError(f"{fixture.label} has no part {part + 1}.")
    old = fixture.read_back
    same = old is not None and (old.planned_mode, old.planned) == (planned_mode, planned)
    kept = old.says if old is not None and same and len(old.says) == len(planned) else ()
    numbers = [*(kept or (None,) * len(planned))]
    numbers[part] = says
    reading = ReadBack(tuple(numbers), planned_mode, planned, mode.strip(), by, reason.strip())
    return change_each(show, [fixture_id], lambda held: replace(held, read_back=reading))


def forget_reading(show: Show, ids: Collection[int]) -> Show:
    """Take back what fixtures were said to say."""
    return change_each(show, ids, lambda fixture: replace(fixture, read_back=None))


def mark_proven(show: Show, ids: Collection[int], by: Witness = NOBODY) -> Show:
    """Record that fixtures answered in the right way, in the mode and at the addresses of the
    plan."""
    _check_planned(show, ids, "proven")
    way = show.way_in

    def proven(fixture: Fixture) -> Fixture:
        return replace(
            fixture,
            proven=Proof(fixture.mode, fixture.patch, by, way.get(fixture.id, 0)),
            sign=None,
        )

    return change_each(show, ids, proven)


def mark_proven_as(
    show: Show, fixture_id: int, mode: str, patch: tuple[Patch, ...], way: int, by: Witness = NOBODY
) -> Show:
    """Record that one fixture answered so, and by which way (see ``Show.way_in``), whatever the
    plan says by now."""
    if not patch or all(entry.slot is None for entry in patch):
        raise EditError(
            f"{show.fixture(fixture_id).label} has no address yet, so it cannot have been proven."
        )
    return change_each(
        show,
        [fixture_id],
        lambda held: replace(held, proven=Proof(mode, patch, by, way), sign=None),
    )


def mark_sign(
    show: Show, fixture_id: int, seen: Seen, look: str = "", by: Witness = NOBODY
) -> Show:
    """Record that a fixture did not answer as it should. What was proven of it before holds no
    more."""
    return change_each(
        show, [fixture_id], lambda held: replace(held, proven=None, sign=Sign(seen, look, by))
    )


def keep_newer(before: Show, after: Show) -> Show:
    """An edit of marks that come late, without those that are older than what is known: the newest
    word counts."""
    held = before.fixture_by_id

    def newest_of(fixture: Fixture) -> Fixture:
        known = held.get(fixture.id)
        if known is None or known is fixture:
            return fixture
        proven, sign = _later_of(known.proven, fixture.proven), _later_of(known.sign, fixture.sign)
        if known.sign is not None and proven is not None and _older(proven, known.sign):
            proven, sign = known.proven, known.sign  # the proof is from before that was seen
        if known.proven is not None and sign is not None and _older(sign, known.proven):
            proven, sign = known.proven, known.sign
        return _one_of_both(
            replace(
                fixture,
                set_to=_later_of(known.set_to, fixture.set_to),
                read_back=_later_of(known.read_back, fixture.read_back),
                proven=proven,
                sign=sign,
            )
        )

    fixtures = tuple(map(newest_of, after.fixtures))
    boxes = tuple(_newest_of_box(before.box_by_id.get(box.id), box) for box in after.boxes)
    if (fixtures, boxes) == (after.fixtures, after.boxes):
        return after
    return replace(after, fixtures=fixtures, boxes=boxes)


def _newest_of_box(known: Box | None, box: Box) -> Box:
    """A box with the newest of what was typed and read at it; what its ports say belongs to what
    was read."""
    if known is None or known is box:
        return box
    kept = replace(box, typed=_later_typed(known.typed, box.typed))
    if (
        box.read is not None
        and known.read is not None
        and _later_typed(known.read, box.read) is known.read
    ):
        says = {port.number: port.says for port in known.ports}
        ports = tuple(replace(port, says=says.get(port.number, port.says)) for port in box.ports)
        return replace(kept, read=known.read, ports=ports)
    return kept


def _later_typed(known: Typed | None, fresh: Typed | None) -> Typed | None:
    if known is None or fresh is None or known.by.at is None or fresh.by.at is None:
        return fresh
    return known if known.by.at > fresh.by.at else fresh


def _one_of_both(fixture: Fixture) -> Fixture:
    """A fixture that two people proved, and saw otherwise, at one time: what was seen last
    holds."""
    if fixture.proven is None or fixture.sign is None:
        return fixture
    return (
        replace(fixture, proven=None)
        if _older(fixture.proven, fixture.sign)
        else replace(fixture, sign=None)
    )


def _older(one: Proof | Sign, other: Proof | Sign) -> bool:
    return one.by.at is not None and other.by.at is not None and one.by.at < other.by.at


def in_order(before: Show, after: Show) -> Show:
    """An edit of marks that are made now: none bears an earlier time than what was known of its
    fixture, also where the clock went back meanwhile."""
    held = before.fixture_by_id

    def timed(fixture: Fixture) -> Fixture:
        known = held.get(fixture.id)
        if known is None or known is fixture:
            return fixture
        times = [
            fact.by.at
            for name in FACTS
            if (fact := getattr(known, name)) is not None and fact.by.at is not None
        ]
        if not times:
            return fixture
        last, changed = max(times), {}
        for name in FACTS:
            fact = getattr(fixture, name)
            fresh = fact is not None and fact != getattr(known, name)
            if fresh and fact.by.at is not None and fact.by.at <= last:
                changed[name] = replace(
                    fact, by=replace(fact.by, at=last + timedelta(microseconds=1))
                )
        return _one_of_both(replace(fixture, **changed) if changed else fixture)

    fixtures = tuple(map(timed, after.fixtures))
    return after if fixtures == after.fixtures else replace(after, fixtures=fixtures)


def _later_of(known: FACT, fresh: FACT) -> FACT:
    """The later of what is known and what arrives; what takes a fact back, or has no time, stands
    as it arrives."""
    if known is None or fresh is None or known.by.at is None or fresh.by.at is None:
        return fresh
    return known if known.by.at > fresh.by.at else fresh


def mark_unproven(show: Show, ids: Collection[int]) -> Show:
    """Take a proof back."""
    return change_each(show, ids, lambda fixture: replace(fixture, proven=None))


def _check_planned(show: Show, ids: Collection[int], what: str) -> None:
    for fixture_id in ids:
        fixture = show.fixture(fixture_id)
        if not planned_for(show, fixture):
            raise EditError(
                f"{fixture.label} has no mode or no address yet, so it cannot have been {what}."
            )


def plan_as_read(show: Show, fixture_id: int, says: int, *, part: int = 0, mode: str = "") -> Show:
    """Plan what a fixture says: its number in the universe that it is planned in, and its mode
    where that is known.

    Raises ``EditError`` for a number that is no slot, a fixture without a universe, and one that is
    pinned.
    """
    if mode and mode != show.fixture(fixture_id).mode:
        show = change_mode(show, [fixture_id], mode)
    fixture = show.fixture(fixture_id)
    universe = fixture.patch[min(part, len(fixture.patch) - 1)].universe
    if universe is None:
        raise EditError(f"{fixture.label} has no universe yet: plan it on one first.")
    if fixture.patch[part].slot == says:
        return show
    return place(show, fixture_id, Address(universe, says), part=part)


def tick(
    show: Show,
    ids: Collection[int],
    step: Prep,
    *,
    done: bool = True,
    by: Witness = NOBODY,
) -> Show:
    """Record that a step of the preparation was done at fixtures, by whom, or was not. A fixture
    keeps its other ticks."""

    def ticked(fixture: Fixture) -> Fixture:
        kept = tuple(held for held in fixture.ticked if held.step is not step)
        held = Tick(step, tick_of(fixture, step), by)
        return replace(fixture, ticked=(*kept, held) if done else kept)

    return change_each(show, ids, ticked)


def tick_of(fixture: Fixture, step: Prep) -> str:
    """What a step is done for at a fixture as it is planned: a tick for another mode or address
    counts no more."""
    if step is Prep.MODE:
        return fixture.mode
    if step in (Prep.ADDRESS, Prep.LABEL):
        return fixture.planned_at
    return fixture.label if step is Prep.NAME else ""


def set_serial(show: Show, fixture_id: int, serial: str) -> Show:
    """Keep the serial number of the thing itself; empty forgets it. No two fixtures have the same
    one."""
    serial = check_text("serial number", serial.strip(), required=False, most=60)
    for other in show.fixtures:
        if serial and other.serial == serial and other.id != fixture_id:
            raise EditError(
                f"Serial number {serial} is {other.label}’s already: look again, or take it away "
                "there."
            )
    return change_each(show, [fixture_id], lambda fixture: replace(fixture, serial=serial))


def keep_identities(show: Show, identities: Mapping[int, str]) -> Show:
    """Keep who fixtures are (fixture ids with identities) as their serial numbers; one typed by
    hand stays.

    A fixture that had an identity until now gives it up, where another one has it.
    """
    theirs = {name: fixture_id for fixture_id, name in identities.items()}

    def kept(fixture: Fixture) -> Fixture:
        mine = identities.get(fixture.id)
        if mine is not None and (not fixture.serial or is_identity(fixture.serial)):
            return replace(fixture, serial=mine)
        lost = fixture.serial in theirs and theirs[fixture.serial] != fixture.id
        return replace(fixture, serial="") if lost else fixture

    check_known(show, identities)
    return change_each(show, [fixture.id for fixture in show.fixtures], kept)


def take_place(show: Show, fixture_id: int, identity: str) -> Show:
    """Put another thing of the same type in the place of a fixture: what was known of the old one
    is known no more."""
    show = change_each(
        show,
        [fixture_id],
        lambda held: replace(
            held, serial="", set_to=None, read_back=None, proven=None, ticked=(), sign=None
        ),
    )
    return keep_identities(show, {fixture_id: identity})


def read_all_back(
    show: Show,
    fixture_id: int,
    says: tuple[int | None, ...],
    *,
    mode: str = "",
    by: Witness = NOBODY,
) -> Show:
    """Record what a fixture says of all its parts at once, and in which mode."""
    fixture = show.fixture(fixture_id)
    if len(says) != len(fixture.patch):
        raise EditError(
            f"{fixture.label} has {len(fixture.patch)} parts: {len(says)} numbers were read."
        )
    reading = ReadBack(says, fixture.mode, fixture.patch, mode.strip(), by)
    return change_each(show, [fixture_id], lambda held: replace(held, read_back=reading))


def set_turned(show: Show, ids: Collection[int], *, turned: bool) -> Show:
    """Say whether fixtures hang upside down, so that their switches and displays are drawn as they
    are seen."""
    return change_each(
        show, ids, lambda fixture: replace(fixture, turned=turned, upright=not turned)
    )


def set_walk(show: Show, names: Sequence[str]) -> Show:
    """Say in which order a crew goes to the positions. Those that are not named come after, in the
    show's order."""
    known = {position.name for position in show.positions}
    if missing := [name for name in names if name not in known]:
        raise EditError(f"The show has no position “{missing[0][:60]}”.")
    return replace(show, walk=tuple(dict.fromkeys(names)))


def set_height(show: Show, position: str, height: float | None) -> Show:
    """Say how high above the floor a position is, in metres; None where nobody knows."""
    if position not in {held.name for held in show.positions}:
        raise EditError(f"The show has no position “{position[:60]}”.")
    places = tuple(
        replace(held, height=height) if held.name == position else held for held in show.positions
    )
    return replace(show, positions=places)


def skip_steps(show: Show, steps: Collection[Prep]) -> Show:
    """Say which steps of the preparation the show does without."""
    return replace(show, skipped=tuple(step for step in Prep if step in steps))
