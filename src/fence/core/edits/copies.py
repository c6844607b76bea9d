"""Edits that make more of what is there: copies of fixtures, and another type in their places."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

from fence.core.edits.cabling import chain, line_of
from fence.core.edits.records import change_each, check_known, mode_names, with_places
from fence.core.edits.rig import (
    COUNTED,
    MOST_AT_ONCE,
    next_number,
    patches_free,
    with_profile,
)
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile
from fence.core.model.show import Show


def duplicate(show: Show, ids: Sequence[int], times: int = 1, *, on_line: bool = False) -> Show:
    """Copies of fixtures: as many of each as ``times`` says, in the order of ``ids``.

    A copy is of the same type and mode and hangs at the same position the same way up. Its label
    and number count on; it takes the next free address from the universe of its original on, and
    none where no gap is left. What was set, read and proven is of the original alone, and so are
    its note, its pin and what it shares. With ``on_line`` it hangs behind the last fixture of its
    original's line.
    """
    check_known(show, ids)
    many = len(ids) * times
    if not ids:
        raise EditError("Select the fixtures to duplicate.")
    if times < 1 or many > MOST_AT_ONCE:
        raise EditError(
            f"{many} copies cannot be made at once. Accepted are 1 to {MOST_AT_ONCE} in all."
        )
    labels = _labels_on(show, ids, times)
    first = next_number(show, many)
    made: list[Fixture] = []
    originals = [show.fixture(fixture_id) for _ in range(times) for fixture_id in ids]
    patches = patches_free(show, originals)
    for step, (original, label, patch) in enumerate(zip(originals, labels, patches, strict=True)):
        copy = replace(
            original,
            id=show.next_id + step,
            label=label,
            number=first + step if original.number is not None else None,
            patch=patch,
            pinned=False,
            share="",
            note="",
            set_to=None,
            read_back=None,
            proven=None,
            ticked=(),
            serial="",
            sign=None,
            at=None,
            scene=None,
        )
        made.append(copy)
    after = with_places(
        replace(show, fixtures=(*show.fixtures, *made), next_id=show.next_id + many)
    )
    return _hung_behind(after, originals, made) if on_line else after


def _labels_on(show: Show, ids: Sequence[int], times: int) -> Iterator[str]:
    """Labels for copies: each counts on from the highest number that its stem has anywhere."""
    highest: dict[str, int] = {}
    for fixture in show.fixtures:
        stem, digits = _stem(fixture.label)
        highest[stem] = max(highest.get(stem, 1), int(digits or 1))
    for _ in range(times):
        for fixture_id in ids:
            stem, digits = _stem(show.fixture(fixture_id).label)
            highest[stem] += 1
            blank = "" if digits or stem.endswith(" ") else " "
            yield f"{stem}{blank}{highest[stem]:0{len(digits)}d}"


def _stem(label: str) -> tuple[str, str]:
    """A label without the number at its end, and that number's digits."""
    counted = COUNTED.match(label)
    stem, digits = counted.groups() if counted else (label, "")
    return (stem, digits) if len(digits) < 10 else (label, "")


def _hung_behind(show: Show, originals: Sequence[Fixture], made: Sequence[Fixture]) -> Show:
    """The copies behind the last fixture of their originals' lines."""
    behind: dict[int, list[int]] = {}
    for original, copy in zip(originals, made, strict=True):
        if (line := line_of(show, original.id)) is not None:
            behind.setdefault(line.id, []).append(copy.id)
    for line_id, copies in behind.items():
        show = chain(show, line_id, copies)
    return show


def exchange(show: Show, ids: Collection[int], profile: Profile, mode_name: str) -> Show:
    """Fixtures of another type in the places of those that are there.

    Names, numbers, positions, lines, starts and what was recorded stay; longer runs may then clash.
    ``EditError`` for a mode that the type has not, and for some of those that share an address.
    """
    check_known(show, ids)
    chosen = set(ids)
    if not chosen:
        raise EditError("Select the fixtures that another type takes the places of.")
    show, held = with_profile(show, profile)
    mode = held.mode(mode_name)
    if mode is None:
        raise EditError(f"{held.title} has no mode “{mode_name}”. Accepted: {mode_names(held)}.")
    for fixture_id in sorted(chosen):
        fixture = show.fixture(fixture_id)
        left = [other for other in show.sharers_of(fixture) if other.id not in chosen]
        if left:
            raise EditError(
                f"{fixture.label} shares its address with {left[0].label}: "
                "select all that share, or end the sharing first."
            )

    def changed(fixture: Fixture) -> Fixture:
        patch = fixture.patch[: len(mode.parts)]
        patch += (Patch(),) * (len(mode.parts) - len(patch))
        return replace(fixture, profile=held.id, mode=mode.name, patch=patch)

    return change_each(show, chosen, changed)
