"""What goes on by itself for somebody: why it may not any more, looked up anew every time."""

from __future__ import annotations

from collections.abc import Callable

from fence.store.people import Role
from fence.store.shows import NoSuchShow
from fence.web.access.guard import guarded, sitting
from fence.web.pages import pages


def still(show_id: int, needed: Role) -> Callable[[], str]:
    """A question for later, for what was begun at this browser: why it may not go on, in words;
    nothing while it may.

    It may not once the show is gone, or who began it is logged out, or is less than ``needed``. It
    raises ``StorageError`` where that cannot be looked up.
    """
    kept, held = pages(), sitting() if guarded() else None

    def why_not() -> str:
        try:
            kept.store.get(show_id)
        except NoSuchShow:
            return "the show was deleted"
        if held is None:
            return ""
        now = kept.people.sitting(held.id)
        if now is None:
            return f"{held.person.name} is not logged in any more"
        return "" if now.person.role.may(needed) else f"{held.person.name} may not do that any more"

    return why_not
