"""The find box, which stands on every page of a show."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint

from fence.store.shows import SavedShow
from fence.web.pages import load
from fence.web.rig.forms import FindLink
from fence.web.rig.page import Found, found_by
from fence.web.showing import Showing

blueprint = Blueprint("find", __name__, url_prefix="/shows/<int:show_id>/rig/find")


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedFound(Showing):
    """What is shown by ``shared/_found.html``."""

    template = "shared/_found.html"
    saved: SavedShow
    found: list[Found]
    words: str


@blueprint.get("")
def index(show_id: int) -> str:
    """Fixtures by label, number or address, for the find box."""
    link = FindLink.linked()
    saved = load(show_id)
    words = link.find.data
    return SharedFound(saved=saved, found=found_by(saved.show, words)[:12], words=words).rendered()
