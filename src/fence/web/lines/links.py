"""Wireless links: who listens to whom on which channel, the steps to link, and a position by cable
beside by wireless."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint

from fence.core.checks.finding import Finding
from fence.core.lines.beside import Beside, beside
from fence.core.lines.wireless import Link, links_of
from fence.core.model.errors import EditError
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.lines.forms import LinksLink
from fence.web.pages import load
from fence.web.showing import Showing

blueprint = Blueprint("links", __name__, url_prefix="/shows/<int:show_id>/lines/wireless")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesLinks(Showing):
    """What is shown by ``lines/links.html``."""

    template = "lines/links.html"
    frame: Frame
    saved: SavedShow
    links: list[Link]
    problems: list[Finding]
    positions: list[str]
    position: str
    compared: Beside | None
    problem: str


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
    return LinesLinks(
        frame=frame(saved, "Lines"),
        saved=saved,
        links=links_of(saved.show),
        problems=[finding for finding in saved.analysis.findings if finding.rule in rules],
        positions=[held.name for held in saved.show.positions],
        position=position,
        compared=compared,
        problem=problem,
    ).rendered()
