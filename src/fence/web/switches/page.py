"""The switches as values: what a query asks for, and the row, the sum and the address that
follow."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fence.core.model.address import SLOTS
from fence.core.model.errors import FenceError
from fence.core.model.profile import Profile, Setter, SetterKind
from fence.core.model.setter import (
    Misreading,
    Switch,
    address_of,
    misreadings,
    row_of,
    sum_words,
    switches_on,
)
from fence.core.model.show import Show
from fence.core.model.text import counted, joined, whole_number

MOST_SWITCHES = 16


@dataclass(frozen=True, slots=True)
class Asked:
    """What the page was asked to show: whose switches, how they are seen, and which are on.

    ``on`` is None where an address was typed; ``address`` is what was typed.
    """

    setter: Setter
    kind: str
    turned: bool
    mirrored: bool
    on: tuple[int, ...] | None
    address: str


@dataclass(frozen=True, slots=True)
class Row:
    """The switches as they stand: the row as seen, the sum, the address or what is wrong, what must
    be on besides."""

    switches: tuple[Switch, ...]
    on: tuple[int, ...]
    sum: str
    address: int | None
    problem: str
    besides: str
    misread: tuple[Misreading, ...]


def types_with_switches(show: Show | None) -> list[Profile]:
    """The types of a show's rig that are set by switches."""
    if show is None:
        return []
    used = {fixture.profile for fixture in show.fixtures}
    return [p for p in show.profiles if p.id in used and p.setter.kind is SetterKind.SWITCHES]


def asked_for(values: Mapping[str, str], show: Show | None) -> Asked:
    """What a query says. What is no number or not there is left at its usual: nine switches, value
    = address."""
    kind = values.get("kind", "")
    profile = next((profile for profile in types_with_switches(show) if profile.id == kind), None)
    setter = profile.setter if profile else _own_setter(values)
    on: tuple[int, ...] | None = _numbers(values.get("on", ""))
    address = values.get("address", "").strip()
    if tapped := whole_number(values.get("tap", "")):
        on = tuple(sorted(set(on or ()) ^ {tapped}))
    elif (address and address != values.get("was", "")) or "on" not in values:
        on = None
    return Asked(
        setter,
        profile.id if profile else "",
        bool(values.get("turned")),
        bool(values.get("mirrored")),
        on,
        address,
    )


def _own_setter(values: Mapping[str, str]) -> Setter:
    count = whole_number(values.get("switches", "")) or 9
    count = min(max(count, 1), MOST_SWITCHES)
    beyond = tuple(
        number for number in _numbers(values.get("extra", "")) if count < number <= MOST_SWITCHES
    )
    return Setter(
        SetterKind.SWITCHES,
        switches=count,
        zero_based=bool(values.get("zero")),
        fixed_on=beyond,
        on_is_up=not values.get("down"),
        first_is_left=not values.get("right"),
    )


def _numbers(words: str) -> tuple[int, ...]:
    found = (whole_number(piece) for piece in words[:200].split(","))
    return tuple(sorted({number for number in found if number is not None and 1 <= number <= 64}))


def row_for(asked: Asked) -> Row:
    """The row that an address needs, or the address that a row says; with the problem in words
    where there is none."""
    setter, problem, address = asked.setter, "", None
    on = asked.on
    if on is None:
        on = setter.fixed_on
        if asked.address:
            try:
                address = _address(asked.address)
                on = switches_on(address, setter)
            except FenceError as error:
                problem, address = str(error), None
    else:
        try:
            address = address_of(on, setter)
        except FenceError as error:
            problem = str(error)
    return Row(
        row_of(on, setter, turned=asked.turned, mirrored=asked.mirrored),
        tuple(sorted(on)),
        "" if problem and asked.on is None else sum_words(on, setter),
        address,
        problem,
        _besides(on, setter),
        misreadings(address, setter) if address else (),
    )


def _address(words: str) -> int:
    number = whole_number(words)
    if number is None or not 1 <= number <= SLOTS:
        raise FenceError(
            f"“{words[:20]}” is not a start address. Use whole numbers from 1 to {SLOTS}."
        )
    return number


def _besides(on: tuple[int, ...], setter: Setter) -> str:
    """Which switches beside those of the address must stand so, and whether they do."""
    missing = [str(number) for number in setter.fixed_on if number not in on]
    wrong = [str(number) for number in setter.fixed_off if number in on]
    if missing:
        return (
            f"Not yet: switch {joined(missing)} must be on besides, or the fixture does not listen."
        )
    if wrong:
        return f"Not yet: switch {joined(wrong)} must be off."
    words = []
    if setter.fixed_on:
        words.append(f"{joined([str(n) for n in setter.fixed_on])} must be on")
    if setter.fixed_off:
        words.append(f"{joined([str(n) for n in setter.fixed_off])} must be off")
    return f"Besides the address, switch {joined(words)}." if words else ""


def words_of(setter: Setter) -> str:
    """What kind of switches they are, in a few words."""
    lowest, highest = setter.settable
    base = "value = address - 1" if setter.zero_based else "value = address"
    return f"{counted(setter.switches, 'switch', 'switches')}, {base}, {lowest} to {highest}"
