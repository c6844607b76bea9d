"""Seating units where gaps are tight, in universes of a few slots, against trying every place for
everybody."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass

from fence.core.addressing.seating import LONGEST_QUEUE, Seat, Unit, seat_all
from fence.core.model.address import Address, Run
from fence.core.model.desk import Desk
from fence.core.model.profile import Setter, SetterKind
from fence.core.model.show import Show, Universe

CASES = 240
LOW = Setter(SetterKind.FIXED, highest=3)


@dataclass(frozen=True)
class Case:
    """A show of small universes, who stands in it, and who needs a place."""

    show: Show
    keep: tuple[Unit, ...]
    move: tuple[Unit, ...]
    universes: tuple[int, ...]
    stay: bool


def unit(
    number: int, run: Run, weight: int = 2, setter: Setter | None = None, *, pinned: bool = False
) -> Unit:
    return Unit((number,), 0, run, setter, pinned, weight, run)


def house(
    slots: int,
    universes: Sequence[int] = (1,),
    reserved: tuple[int, ...] = (),
    page: int | None = None,
) -> Show:
    return Show(
        "House",
        (),
        (),
        tuple(Universe(n, reserved=reserved) for n in universes),
        desk=Desk("", None, page, None, slots),
    )


def random_case(number: int) -> Case:
    """Tight by intent: little is free, and what is free is in pieces."""
    chance = random.Random(number)
    slots, universes = chance.choice([6, 8, 9]), tuple(range(1, chance.choice([1, 1, 2]) + 1))
    reserved = tuple(sorted(chance.sample(range(1, slots + 1), chance.choice([0, 0, 1]))))
    show = house(slots, universes, reserved, chance.choice([None, None, None, 3]))
    page = show.desk.page
    keep: list[Unit] = []
    for universe in universes:
        slot = 1
        while slot <= slots and len(keep) < 4:
            length = chance.choice([1, 2, 2, 3])
            on_page = page is None or (slot - 1) % page == 0
            run = Run(universe, slot, length)
            if (
                on_page
                and run.last <= slots
                and not set(range(slot, run.last + 1)) & set(reserved)
                and chance.random() < 0.6
            ):
                keep.append(
                    unit(
                        len(keep) + 1, run, chance.choice([2, 2, 4]), pinned=chance.random() < 0.15
                    )
                )
                slot += length
            else:
                slot += 1
    move = []
    for at in range(chance.choice([1, 1, 2])):
        length = chance.choice([1, 2, 3, 4])
        run = Run(chance.choice(universes), chance.randint(1, slots), length)
        move.append(unit(10 + at, run, 2, chance.choice([None, None, LOW])))
    return Case(show, tuple(keep), tuple(move), universes, chance.random() < 0.3)


def places(case: Case, wanted: Unit) -> list[Address]:
    """Every place where a unit could stand alone."""
    length, setter, desk = wanted.run.length, wanted.setter, case.show.desk
    if wanted.pinned:
        return [Address(wanted.run.universe, wanted.run.first)]
    return [
        Address(universe, slot)
        for universe in ([wanted.run.universe] if case.stay else case.universes)
        for slot in range(1, desk.highest - length + 2)
        if not set(range(slot, slot + length)) & set(case.show.reserved_in(universe))
        and (setter is None or setter.settable[0] <= slot <= setter.settable[1])
        and (desk.page is None or ((slot - 1) % desk.page == 0 and length <= desk.page))
    ]


def cheapest(case: Case) -> int | None:
    """What it costs at least to seat everybody: weights of the kept that move, less those that need
    not."""
    best: list[int] = []

    def put(units: Sequence[Unit], taken: frozenset[tuple[int, int]], cost: int) -> None:
        if not units:
            best[:] = [min([*best, cost])]
            return
        head = units[0]
        for address in places(case, head):
            slots = {
                (address.universe, slot)
                for slot in range(address.slot, address.slot + head.run.length)
            }
            if slots & taken:
                continue
            at_home = address == Address(head.run.universe, head.run.first)
            if best and cost - sum(other.weight for other in case.move) >= best[0]:
                return
            more = (
                (-head.weight if at_home else 0)
                if head in case.move
                else (0 if at_home else head.weight)
            )
            put(units[1:], taken | slots, cost + more)

    put([*case.move, *case.keep], frozenset(), 0)
    return best[0] if best else None


def cost_of(case: Case, seats: dict[Unit, Seat]) -> int:
    """What a seating costs; it fails where two stand on a slot, or somebody where they must not."""
    taken: set[tuple[int, int]] = set()
    cost = 0
    for each in (*case.keep, *case.move):
        at = seats[each].at if each in seats else Address(each.run.universe, each.run.first)
        assert each in seats or each in case.keep
        assert each not in seats or (at in places(case, each) and not each.pinned)
        slots = {(at.universe, slot) for slot in range(at.slot, at.slot + each.run.length)}
        assert not slots & taken
        taken |= slots
        at_home = at == Address(each.run.universe, each.run.first)
        cost += (
            (-each.weight if at_home else 0)
            if each in case.move
            else (0 if at_home else each.weight)
        )
    return cost


def test_against_trying_everything() -> None:
    """Whoever can be seated is seated, at the least cost; where nobody can, nothing is found."""
    found, tight, never = 0, 0, 0
    for number in range(CASES):
        case = random_case(number)
        least = cheapest(case)
        seats = seat_all(case.show, case.keep, case.move, case.universes, stay=case.stay)
        assert (seats is None) == (least is None), number
        if seats is None or least is None:
            never += 1
            continue
        found += 1
        tight += least > 0
        assert max(0, cost_of(case, seats)) == max(0, least), number
    assert (found > 90, tight > 20, never > 60) == (True, True, True), (found, tight, never)


def seated(
    show: Show,
    keep: Sequence[Unit],
    *move: Unit,
    universes: Sequence[int] = (1,),
    stay: bool = False,
) -> dict[int, str] | None:
    seats = seat_all(show, keep, move, universes, stay=stay)
    return (
        None if seats is None else {unit.members[0]: str(seat.at) for unit, seat in seats.items()}
    )


def test_which_place_is_taken() -> None:
    """Of gaps the tightest, at home before elsewhere, from its beginning; long runs and narrow
    setters first."""
    wall = [unit(1, Run(1, 3, 1)), unit(2, Run(1, 7, 1))]
    assert seated(house(12), wall, unit(5, Run(1, 3, 2))) == {5: "U1 001"}
    assert seated(house(12), wall, unit(5, Run(1, 3, 3))) == {5: "U1 004"}
    assert seated(house(12), wall, unit(5, Run(1, 12, 4))) == {5: "U1 008"}
    assert seated(house(12), wall, unit(5, Run(1, 7, 4))) == {5: "U1 008"}
    assert seated(
        house(4, (1, 2)), [unit(1, Run(1, 1, 2))], unit(5, Run(1, 2, 2)), universes=(2, 1)
    ) == {5: "U1 003"}
    assert seated(house(9), [], unit(5, Run(1, 9, 2)), unit(6, Run(1, 9, 3))) == {
        6: "U1 001",
        5: "U1 004",
    }
    assert seated(house(9), [], unit(5, Run(1, 9, 2)), unit(6, Run(1, 9, 2), setter=LOW)) == {
        6: "U1 003",
        5: "U1 001",
    }
    assert (
        seated(
            house(3, (1, 2)),
            [unit(1, Run(1, 1, 3), pinned=True)],
            unit(5, Run(1, 1, 3)),
            universes=(1, 2),
            stay=True,
        )
        is None
    )
    assert seated(
        house(3, (1, 2)), [unit(1, Run(1, 1, 3))], unit(5, Run(1, 1, 3)), universes=(1, 2)
    ) == {5: "U2 001"}


def test_limits() -> None:
    """The last slot of a full universe can be gone back to; so many units and no more are searched
    for."""
    whole = house(512)
    assert seated(whole, [unit(1, Run(1, 1, 510))], unit(5, Run(1, 511, 2))) == {5: "U1 511"}
    assert seated(whole, [unit(1, Run(1, 1, 511))], unit(5, Run(1, 512, 2))) is None
    many = [unit(n, Run(1, 1, 1)) for n in range(LONGEST_QUEUE)]
    assert len(seated(whole, [], *many) or {}) == LONGEST_QUEUE
    assert seated(whole, [], *many, unit(999, Run(1, 1, 1))) is None
