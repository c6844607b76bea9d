"""Whose rig is practised on, and who practises."""

from __future__ import annotations

from dataclasses import dataclass

from flask import session

from fence.core.model.show import Show
from fence.core.practising.register import DRILLS
from fence.demo import back_room
from fence.store.shows import SavedShow
from fence.web.access.guard import person, seat
from fence.web.frame import Frame, frame
from fence.web.pages import load, who

MOST_PRACTISED = 500
"""Fixtures of a rig that is practised on; a larger one is too much for one search."""
KEYS = tuple(drill.key for drill in DRILLS)
PLAIN, OF_A_SHOW = "shared/plain.html", "shared/show.html"


@dataclass(frozen=True, slots=True)
class Practised:
    """The show that is practised on, None for the built-in rig; and the frame around its pages."""

    saved: SavedShow | None
    frame: Frame | None

    @property
    def show_id(self) -> int | None:
        """The number of the show, for links."""
        return self.saved.id if self.saved else None

    @property
    def base(self) -> str:
        """The template around the page."""
        return OF_A_SHOW if self.saved else PLAIN

    @property
    def rig(self) -> Show:
        """What is asked about."""
        show = self.saved.show if self.saved else back_room()
        return show if 0 < len(show.fixtures) <= MOST_PRACTISED else back_room()

    @property
    def name(self) -> str:
        """What the rig is called."""
        return self.rig.name


def practised(show_id: int | None) -> Practised:
    """The show of a page, or none."""
    saved = load(show_id) if show_id is not None else None
    return Practised(saved, frame(saved, "Practise") if saved else None)


def learner() -> str:
    """Who practises at this browser, by a name that no other has: the person who is logged in, the
    name that was given, else the browser itself."""
    if (found := person()) is not None:
        return f"person {found.id}"
    if session.get("who"):
        return f"called {who().casefold()}"
    return f"browser {seat()}"
