"""Edits: named functions that take a show and give another one. This is the list of them all; the
stub beside this file is the same for type checkers.

A preview is an edit that is not saved. Every function raises ``EditError`` with a sentence for the
person, and never leaves a show half changed.

Each is loaded when it is first asked for: a command needs one or none of them.
"""

from __future__ import annotations

from importlib import import_module

EDITS = {
    "arriving": ("take_over",),
    "boxes": (
        "add_box",
        "change_box",
        "count_ports",
        "give",
        "have_typed",
        "put_box",
        "remove_box",
        "say",
        "set_net",
        "start_line",
        "type_in",
        "untype",
        "use_port",
    ),
    "by_air": (
        "make_cabled",
        "make_wireless",
    ),
    "cabling": (
        "add_line",
        "chain",
        "drive_at",
        "half_way",
        "insert",
        "join",
        "leave_open",
        "line_of",
        "lines_by_position",
        "lines_by_universe",
        "move_branch",
        "move_stop",
        "put_line",
        "rehang",
        "remove_line",
        "rename_line",
        "second_transmitter",
        "set_cable",
        "set_cable_runs",
        "set_device",
        "set_links",
        "step_along",
        "take_off",
        "terminate",
        "without_gone",
    ),
    "compare": ("gone_back",),
    "copies": (
        "duplicate",
        "exchange",
    ),
    "house": (
        "add_need",
        "add_universe",
        "remove_universe",
        "rename_show",
        "rename_universe",
        "reserve",
        "set_day",
        "set_desk",
        "set_ground",
        "set_hard",
        "set_need",
        "set_stock",
        "set_tell_tale",
    ),
    "marking": (
        "forget_reading",
        "in_order",
        "keep_identities",
        "keep_newer",
        "mark_proven",
        "mark_proven_as",
        "mark_set",
        "mark_set_to",
        "mark_sign",
        "mark_unproven",
        "mark_unset",
        "plan_as_read",
        "read_all_back",
        "read_back",
        "set_height",
        "set_serial",
        "set_turned",
        "set_walk",
        "skip_steps",
        "take_place",
        "tick",
    ),
    "places": (
        "hang_at",
        "set_out",
    ),
    "placing": (
        "change_mode",
        "choose_modes",
        "nudge",
        "pin",
        "place",
        "share",
        "unpin",
        "unplace",
        "unshare",
    ),
    "records": (
        "free_name",
        "free_names",
        "with_parts",
        "with_places",
    ),
    "rig": (
        "MOST_AT_ONCE",
        "AddRun",
        "add_fixtures",
        "labels_from",
        "next_number",
        "relabel",
        "remove_fixtures",
        "rename",
        "renumber",
        "set_note",
        "set_number",
        "set_position",
        "update_chart",
        "with_profile",
    ),
    "waiving": (
        "end_waivers",
        "unwaive",
        "waive",
    ),
}
"""All edits, by the module in which each stands."""

_MODULE_OF = {name: module for module, names in EDITS.items() for name in names}


def __getattr__(name: str) -> object:
    """The edit of that name, from its module [PEP 562]."""
    if name not in _MODULE_OF:
        raise AttributeError(f"There is no edit {name}.")
    edit = globals()[name] = getattr(import_module(f"{__name__}.{_MODULE_OF[name]}"), name)
    return edit


def __dir__() -> list[str]:
    return sorted(_MODULE_OF)
