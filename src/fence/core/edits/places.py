"""Where fixtures hang, in metres: one by one, or evenly along a position."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from fence.core.edits.records import change_each
from fence.core.model.errors import EditError
from fence.core.model.scene import Place
from fence.core.model.show import Show


def hang_at(show: Show, fixture_id: int, at: Place | None) -> Show:
    """A fixture hangs at a place; None where nobody knows any more."""
    return change_each(show, [fixture_id], lambda fixture: replace(fixture, at=at))


def set_out(show: Show, ids: Sequence[int], first: Place, last: Place) -> Show:
    """Fixtures evenly between two places, in the order in which they are named; a single one in
    the middle. ``EditError`` where none is named."""
    if not ids:
        raise EditError("No fixture hangs there: hang fixtures at the position first.")
    steps = len(ids) - 1
    for at, fixture_id in enumerate(ids):
        share = at / steps if steps else 0.5
        show = hang_at(
            show,
            fixture_id,
            Place(
                round(first.x + (last.x - first.x) * share, 3),
                round(first.y + (last.y - first.y) * share, 3),
                round(first.z + (last.z - first.z) * share, 3),
            ),
        )
    return show
