"""What devices said as readings of their fixtures, recorded over whatever others save meanwhile."""

from __future__ import annotations

import time
from collections.abc import Mapping
from datetime import UTC

from fence.core import edits
from fence.core.model.record import How, Witness
from fence.core.model.show import Show
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.device_matching import addresses_said, mode_said
from fence.store.shows import ShowStore, StaleShow

ORIGIN = "RDM"
TURNS = 5
"""How often it is tried while others save at the same moment."""


def reading_of(
    show: Show, fixture_id: int, said: DeviceInfo
) -> tuple[tuple[int | None, ...], str] | None:
    """What a device says as a reading of its fixture: the number of each part and its mode; None
    for no reading."""
    fixture = show.fixture_by_id.get(fixture_id)
    profile = show.profile_of(fixture) if fixture else None
    if fixture is None or profile is None:
        return None
    numbers: list[int | None] = [None] * len(fixture.patch)
    for part, number in addresses_said(fixture, said):
        numbers[part] = number
    if all(number is None for number in numbers):
        return None
    mode = mode_said(profile, said)
    return tuple(numbers), mode.name if mode else said.mode


def with_readings(show: Show, readings: Mapping[int, DeviceInfo], by: Witness) -> Show:
    """The show with what devices said as read back; by id of the fixture."""
    for fixture_id, said in readings.items():
        found = reading_of(show, fixture_id, said)
        if found is not None:
            show = edits.read_all_back(show, fixture_id, found[0], mode=found[1], by=by)
    return show


def record(store: ShowStore, show_id: int, readings: Mapping[int, DeviceInfo], who: str) -> None:
    """Record what devices said, over whatever others save meanwhile: it is what was read."""
    if not readings:
        return
    by = Witness(who, store.clock().replace(tzinfo=UTC), How.RDM)
    for turn in range(TURNS):
        before = store.get(show_id)
        after = with_readings(before.show, readings, by)
        if after == before.show:
            return
        try:
            store.save(before, after, who=who, origin=ORIGIN, settle=edits.keep_newer)
            return
        except StaleShow:
            if turn == TURNS - 1:
                raise
            time.sleep(0.02)
