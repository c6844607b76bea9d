"""Edits: named functions that take a show and give another one. This is the list of them all.

A preview is an edit that is not saved. Every function raises ``EditError`` with a sentence for the person, and never
leaves a show half changed.
"""

from __future__ import annotations

from fence.core.changes.arriving import take_over
from fence.core.changes.house import (
    add_universe,
    remove_universe,
    rename_show,
    rename_universe,
    reserve,
    set_desk,
    set_hard,
    set_need,
    set_tell_tale,
)
from fence.core.changes.placing import (
    change_mode,
    choose_modes,
    mark_set,
    mark_unset,
    nudge,
    pin,
    place,
    share,
    unpin,
    unplace,
    unshare,
)
from fence.core.changes.records import free_name, with_parts, with_places
from fence.core.changes.rig import (
    MOST_AT_ONCE,
    AddRun,
    add_fixtures,
    labels_from,
    next_number,
    relabel,
    remove_fixtures,
    rename,
    renumber,
    set_note,
    set_number,
    set_position,
    update_chart,
    with_profile,
)

__all__ = [
    "MOST_AT_ONCE",
    "AddRun",
    "add_fixtures",
    "add_universe",
    "change_mode",
    "choose_modes",
    "free_name",
    "labels_from",
    "mark_set",
    "mark_unset",
    "next_number",
    "nudge",
    "pin",
    "place",
    "relabel",
    "remove_fixtures",
    "remove_universe",
    "rename",
    "rename_show",
    "rename_universe",
    "renumber",
    "reserve",
    "set_desk",
    "set_hard",
    "set_need",
    "set_note",
    "set_number",
    "set_position",
    "set_tell_tale",
    "share",
    "take_over",
    "unpin",
    "unplace",
    "unshare",
    "update_chart",
    "with_parts",
    "with_places",
    "with_profile",
]
