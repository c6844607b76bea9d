"""The Switches page: tap switches and see the address, or type an address and see the switches."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, render_template, request

from fence.web.frame import frame
from fence.web.pages import asked_by_htmx, load
from fence.web.switches.page import as_query, asked_for, row_for, types_with_switches, words_of

blueprint = Blueprint("switches", __name__)


@blueprint.get("/switches")
def index() -> str:
    """The switches of any fixture, without a show."""
    return _page(None)


@blueprint.get("/shows/<int:show_id>/switches")
def of_show(show_id: int) -> str:
    """The same with the types of a show's rig at hand."""
    return _page(show_id)


def _page(show_id: int | None) -> str:
    saved = load(show_id) if show_id is not None else None
    asked = asked_for(request.args, saved.show if saved else None)
    values: dict[str, Any] = {
        "asked": asked,
        "row": row_for(asked),
        "types": types_with_switches(saved.show if saved else None),
        "words": words_of(asked.setter),
        "query": as_query(asked),
        "show_id": show_id,
        "extra": ", ".join(map(str, asked.setter.fixed_on)),
    }
    if asked_by_htmx():
        return render_template("switches/_row.html", **values)
    around = {"frame": frame(saved, "Switches")} if saved else {}
    base = "shared/show.html" if saved else "shared/plain.html"
    return render_template("switches/index.html", base=base, **around, **values)
