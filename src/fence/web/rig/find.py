"""The find box, which stands on every page of a show."""

from __future__ import annotations

from flask import Blueprint, render_template

from fence.web.pages import load
from fence.web.rig.forms import FindLink
from fence.web.rig.page import found_by

blueprint = Blueprint("find", __name__, url_prefix="/shows/<int:show_id>/rig/find")


@blueprint.get("")
def index(show_id: int) -> str:
    """Fixtures by label, number or address, for the find box."""
    link = FindLink.linked()
    saved = load(show_id)
    words = link.find.data
    return render_template(
        "shared/_found.html", saved=saved, found=found_by(saved.show, words)[:12], words=words
    )
