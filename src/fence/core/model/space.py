"""Free and taken slots of a universe, as bits.

A universe is a whole number of 512 bits, bit 0 for slot 1. A search for a gap is then a handful of
shifts, whatever the number of fixtures.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from fence.core.model.address import EVERY_SLOT, SLOTS, Run, bits_of
from fence.core.model.fixture import Fixture
from fence.core.model.occupancy import slots_of
from fence.core.model.profile import Setter
from fence.core.model.show import Show


def bits_of_slots(slots: Iterable[int]) -> int:
    """The bits of single slots, each 1 to 512."""
    bits = 0
    for slot in slots:
        bits |= 1 << (slot - 1)
    return bits


def taken_bits(show: Show, universe: int, *, without: Collection[int] = ()) -> int:
    """The slots of a universe that fixtures take, leaving out the fixtures with the ids in
    ``without``."""
    if not without:
        return show.taken_in(universe)
    if len(without) == 1:
        return show.taken_by_others(universe, *without)
    fixtures, spans = show.fixtures, show.occupancy.spans.get(universe, ())
    return slots_of(span for span in spans if fixtures[span[2]].id not in without)


def reserved_bits(show: Show, universe: int) -> int:
    """The slots of a universe that are reserved, the tell-tale slot among them."""
    return bits_of_slots(show.reserved_in(universe))


def sent_bits(show: Show, universe: int) -> int:
    """The slots of a universe that the show's desk sends: none of a universe beyond its last
    one."""
    desk = show.desk
    if universe > desk.last_universe:
        return 0
    return EVERY_SLOT if desk.highest == SLOTS else bits_of(1, desk.highest)


def free_bits(show: Show, universe: int, *, without: Collection[int] = ()) -> int:
    """The slots of a universe that the desk sends and that are neither taken nor reserved."""
    return (
        sent_bits(show, universe)
        & ~taken_bits(show, universe, without=without)
        & ~reserved_bits(show, universe)
    )


def other_parts(show: Show, fixture: Fixture, part: int, universe: int) -> int:
    """The slots of a universe that the other parts of a fixture take, which a move of this part
    must not hit."""
    bits = 0
    if len(fixture.patch) == 1:
        return bits
    for other in show.runs_of(fixture):
        if other.part != part and other.run.universe == universe:
            bits |= bits_of(other.run.first, other.run.length)
    return bits


def starts(free: int, length: int, *, setter: Setter | None = None) -> int:
    """The slots at which ``length`` (1 or more) free slots begin, limited to what the setter can be
    set to."""
    fits, have = free, 1
    while have < length and fits:
        step = min(have, length - have)
        fits &= fits >> step
        have += step
    if setter is not None:
        lowest, highest = setter.settable
        if lowest > 1 or highest < SLOTS:
            fits &= bits_of(lowest, highest - lowest + 1)
    return fits


def every(step: int, *, last: int = SLOTS) -> int:
    """The slots 1, 1 + step, 1 + 2 step … up to ``last``."""
    bits = 0
    for slot in range(1, last + 1, step):
        bits |= 1 << (slot - 1)
    return bits


def page_rooms(free: int, page: int) -> list[int]:
    """How long a run each page of a desk can take from its first slot on, pages without a free
    first slot left out.

    The last page may be cut off by the end of the universe; a short run still has room there.
    """
    rooms = []
    for first in range(1, SLOTS + 1, page):
        here = free >> (first - 1) & ((1 << page) - 1)
        if length := (~here & (here + 1)).bit_length() - 1:
            rooms.append(length)
    return rooms


def desk_starts(show: Show, free: int, length: int, *, setter: Setter | None = None) -> int:
    """``starts``, limited to what the show's desk can control: its pages and its highest slot."""
    desk = show.desk
    reached = free if desk.highest == SLOTS else free & bits_of(1, desk.highest)
    fits = starts(reached, length, setter=setter)
    if desk.page is None:
        return fits
    return fits & every(desk.page, last=desk.highest) if length <= desk.page else 0


def first_from(bits: int, slot: int = 1) -> int | None:
    """The lowest set slot at or after ``slot``, or None."""
    later = bits >> (slot - 1)
    return slot - 1 + (later & -later).bit_length() if later else None


def last_before(bits: int, slot: int) -> int | None:
    """The highest set slot below ``slot``, or None."""
    return (bits & ((1 << (slot - 1)) - 1)).bit_length() or None


def nearest(bits: int, slot: int) -> int | None:
    """The set slot nearest to ``slot``; of two equally near, the later. None where none is set."""
    after, before = first_from(bits, slot), last_before(bits, slot)
    if after is None or before is None:
        return after or before
    return after if after - slot <= slot - before else before


def gaps(free: int, universe: int = 1) -> list[Run]:
    """The longest runs of free slots, in order."""
    found: list[Run] = []
    slot = first_from(free)
    while slot is not None:
        end = first_from(~free & ((1 << (SLOTS + 1)) - 1), slot) or SLOTS + 1
        found.append(Run(universe, slot, end - slot))
        slot = first_from(free, end) if end <= SLOTS else None
    return found


@dataclass(frozen=True, slots=True)
class Use:
    """How full a universe is. ``used`` counts distinct taken slots, ``free`` those that are sent
    and neither taken nor reserved, ``sent`` all that the desk sends.
    """

    universe: int
    used: int
    reserved: int
    free: int
    largest_gap: Run | None
    gaps: tuple[Run, ...]
    sent: int = SLOTS


def use_of(show: Show, universe: int) -> Use:
    """How full a universe is now."""
    taken = taken_bits(show, universe)
    reserved = reserved_bits(show, universe)
    sent = sent_bits(show, universe)
    free = sent & ~taken & ~reserved
    found = tuple(gaps(free, universe))
    largest = max(found, key=lambda gap: (gap.length, -gap.first), default=None)
    return Use(
        universe,
        taken.bit_count(),
        reserved.bit_count(),
        free.bit_count(),
        largest,
        found,
        sent.bit_count(),
    )


def starts_one_by_one(
    show: Show, universe: int, length: int, *, setter: Setter | None = None
) -> list[int]:
    """Where runs of a length (1 or more) would go one after the other into the gaps of a universe,
    moving nobody.

    At places that the fixture can be set to and the desk can control; how many fixture buttons are
    left is not asked.
    """
    fits, found, slot = (
        desk_starts(show, free_bits(show, universe), length, setter=setter),
        list[int](),
        1,
    )
    while (place := first_from(fits, slot)) is not None:
        found.append(place)
        slot = place + (show.desk.page or length)
    return found
