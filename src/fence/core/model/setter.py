"""Address switches: the pattern for an address, the address of a pattern, and how each is misread.

Switch *k* of those that carry the address has the weight 2**(k-1). Some fixtures show address - 1,
so that nine switches reach 512.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from fence.core.model.address import SLOTS, check_slot
from fence.core.model.errors import SetterError
from fence.core.model.profile import Setter, SetterKind
from fence.core.model.text import counted

NINE = Setter(SetterKind.SWITCHES)
"""The usual set: nine switches, value = address."""


@dataclass(frozen=True, slots=True)
class Switch:
    """One switch as the person at the fixture sees it. ``weight`` is 0 for one that carries no
    address."""

    number: int
    on: bool
    up: bool
    weight: int

    @property
    def words(self) -> str:
        """What it is, read out."""
        counts = f"counts {self.weight}" if self.weight else "carries no address"
        return f"Switch {self.number} {'on' if self.on else 'off'}, {counts}"


@dataclass(frozen=True, slots=True)
class Misreading:
    """A usual mistake at the switches and the address it leads to (None where it is no address)."""

    mistake: str
    address: int | None


def switches_on(address: int, setter: Setter = NINE) -> tuple[int, ...]:
    """The numbers of the switches that are on for ``address`` (1 to 512), those always on included.

    Raises ``SetterError`` when the switches cannot hold it, ``AddressError`` when it is no slot.
    """
    check_slot(address)
    value = address - 1 if setter.zero_based else address
    if value >= 2**setter.switches:
        lowest, highest = setter.settable
        raise SetterError(
            f"{counted(setter.switches, 'switch', 'switches')} cannot hold address {address}: "
            f"they hold {lowest} to {highest}"
            + (", showing address - 1." if setter.zero_based else ", showing the address itself.")
        )
    on = {number + 1 for number in range(setter.switches) if value >> number & 1}
    return tuple(sorted(on | set(setter.fixed_on)))


def address_of(on: Collection[int], setter: Setter = NINE) -> int:
    """The address that these switches say. Switches fixed on or off carry none of it.

    Raises ``SetterError`` for a switch that is not there or a pattern that is no address.
    """
    known = {*range(1, setter.switches + 1), *setter.fixed_on, *setter.fixed_off}
    if unknown := sorted(set(on) - known):
        raise SetterError(
            f"There is no switch {unknown[0]}: the address switches are 1 to {setter.switches}."
        )
    value = sum(1 << (number - 1) for number in set(on) if number <= setter.switches)
    address = value + 1 if setter.zero_based else value
    if not 1 <= address <= SLOTS:
        raise SetterError(
            f"These switches say {address}, which is not an address: they run from 1 to {SLOTS}."
        )
    return address


def as_seen(address: int, setter: Setter, *, turned: bool = False) -> tuple[Switch, ...]:
    """The switches from left to right as seen at the fixture, set to ``address``. Raises as
    ``switches_on``."""
    return row_of(switches_on(address, setter), setter, turned=turned)


def row_of(
    on: Collection[int], setter: Setter, *, turned: bool = False, mirrored: bool = False
) -> tuple[Switch, ...]:
    """The switches from left to right as seen at the fixture, those in ``on`` being on.

    ``turned`` is for a fixture hanging upside down: order and direction are both reversed.
    ``mirrored`` reverses the order only: a row seen in a mirror, or drawn as seen from the other
    side.
    """
    numbers = sorted({*range(1, setter.switches + 1), *setter.fixed_on, *setter.fixed_off})
    row = [
        Switch(
            number,
            number in on,
            up=(number in on) == (setter.on_is_up != turned),
            weight=2 ** (number - 1) if number <= setter.switches else 0,
        )
        for number in numbers
    ]
    return tuple(row if setter.first_is_left ^ turned ^ mirrored else reversed(row))


def sum_words(on: Collection[int], setter: Setter = NINE) -> str:
    """The sum done at the switches, such as ``64 + 32 + 1 = 97``; with the 1 that zero-based ones
    lack."""
    weights = sorted(
        (2 ** (number - 1) for number in set(on) if number <= setter.switches), reverse=True
    )
    value = sum(weights)
    words = " + ".join(map(str, weights)) or "0"
    words += f" = {value}" if len(weights) > 1 else ""
    return f"{words}, and 1 since they count from 0: {value + 1}" if setter.zero_based else words


def misreadings(address: int, setter: Setter = NINE) -> tuple[Misreading, ...]:
    """What the usual mistakes at the switches give instead of ``address``. Raises as
    ``switches_on``."""
    on = {number for number in switches_on(address, setter) if number <= setter.switches}
    count = setter.switches

    def read(mistake: str, pattern: Collection[int]) -> Misreading:
        try:
            return Misreading(mistake, address_of(pattern, setter))
        except SetterError:
            return Misreading(mistake, None)

    mistakes = [
        read("read from the wrong end", {count + 1 - number for number in on}),
        read("on and off taken for each other", set(range(1, count + 1)) - on),
        read("read upside down", set(range(1, count + 1)) - {count + 1 - number for number in on}),
        read("one switch too high", {number + 1 for number in on if number < count}),
        read("one switch too low", {number - 1 for number in on if number > 1}),
    ]
    return tuple(mistake for mistake in mistakes if mistake.address != address)
