"""Handing over: all that a successor needs, as one PDF and as one ZIP."""

from __future__ import annotations

from flask import Blueprint, Response

from fence.core.model.errors import EditError
from fence.core.model.text import counted, slug
from fence.formats.on_paper import Heading, Logged
from fence.store.journal import Wanted
from fence.store.shows import SavedShow
from fence.web.log.page import local
from fence.web.pages import journal, load, local_time

blueprint = Blueprint("handing", __name__, url_prefix="/shows/<int:show_id>/log")

MOST_FIXTURES = 2000


@blueprint.get("/handover.<any(pdf, zip):ending>")
def document(show_id: int, ending: str) -> Response:
    """The papers of a show, or the papers with its files."""
    saved = load(show_id)
    if len(saved.show.fixtures) > MOST_FIXTURES:
        many = counted(len(saved.show.fixtures), "fixture")
        raise EditError(f"That would be {many} on paper. Use up to {MOST_FIXTURES}.")
    # what draws on paper is loaded when it is needed
    from fence.formats.handover import handover_pdf, handover_zip

    makers = {"pdf": (handover_pdf, "application/pdf"), "zip": (handover_zip, "application/zip")}
    make, kind = makers[ending]
    heading = Heading(saved.show.name, "handing over", saved.revision, local_time())
    response = Response(make(heading, saved.show, saved.analysis, _log(saved)), content_type=kind)
    name = f"{slug(saved.show.name, 'show')}-handover.{ending}"
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _log(saved: SavedShow) -> list[Logged]:
    """The last page of the log, with the notes that were written to it."""
    entries = journal().page(saved.id, Wanted()).entries
    return [
        Logged(
            e.revision, local(e.at), e.who, e.origin, f"{e.words}. {e.note}" if e.note else e.words
        )
        for e in entries
    ]
