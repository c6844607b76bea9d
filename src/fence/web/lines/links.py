"""Links by air: who listens to whom on which channel, the steps to link, and a position by cable
beside by air."""

from __future__ import annotations

from flask import Blueprint, render_template

from fence.core.lines.beside import beside
from fence.core.lines.wireless import links_of
from fence.core.model.errors import EditError
from fence.web.frame import frame
from fence.web.lines.forms import LinksLink
from fence.web.pages import load

blueprint = Blueprint("links", __name__, url_prefix="/shows/<int:show_id>/lines/air")


@blueprint.get("")
def index(show_id: int) -> str:
    """All links, with what is wrong with them."""
    link = LinksLink.linked()
    saved = load(show_id)
    position, compared, problem = link.position.data, None, ""
    if position:
        try:
            compared = beside(saved.show, position)
        except EditError as error:
            problem = str(error)
    rules = ("wireless-channel", "wireless-receivers")
    return render_template(
        "lines/links.html",
        frame=frame(saved, "Lines"),
        saved=saved,
        links=links_of(saved.show),
        problems=[finding for finding in saved.analysis.findings if finding.rule in rules],
        positions=[held.name for held in saved.show.positions],
        position=position,
        compared=compared,
        problem=problem,
    )
