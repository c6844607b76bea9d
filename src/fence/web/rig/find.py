"""The find box, which stands on every page of a show."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint

from fence.store.shows import SavedShow
from fence.web.pages import load
from fence.web.places import Place, places_for
from fence.web.rig.forms import FindLink
from fence.web.rig.page import Found, found_by
from fence.web.showing import Showing

MOST_FIXTURES, MOST_PLACES = 12, 5
"""How many of each are shown."""
blueprint = Blueprint("find", __name__, url_prefix="/shows/<int:show_id>/rig/find")


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedFound(Showing):
    """What is shown by ``shared/_found.html``."""

    template = "shared/_found.html"
    saved: SavedShow
    found: list[Found]
    places: list[tuple[Place, dict[str, object]]]
    words: str


@blueprint.get("")
def index(show_id: int) -> str:
    """Fixtures by label, number or address, and pages by the words of the trade, for the find
    box: what is meant exactly first, then pages, then fixtures whose name has the words in it."""
    link = FindLink.linked()
    saved = load(show_id)
    words = link.find.data
    found = found_by(saved.show, words)
    places = [(place, place.asked(words)) for place in places_for(words)[:MOST_PLACES]]
    return SharedFound(
        saved=saved, found=found[:MOST_FIXTURES], places=places, words=words
    ).rendered()
