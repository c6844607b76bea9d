"""Where fixtures hang: the plan from above and from the front; setting a position out evenly."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.scene import read_place
from fence.core.model.show import Show
from fence.core.model.text import counted, slug
from fence.core.setting.walk import places_in_order
from fence.formats.on_paper import Heading
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save, store
from fence.web.rig.forms import HangingLink, HangingStep
from fence.web.rig.hanging_drawing import VIEWS, HangingDrawing, draw_hanging
from fence.web.showing import Showing

blueprint = Blueprint("hanging", __name__, url_prefix="/shows/<int:show_id>/rig/plan")

ZOOMS = (1, 2, 4, 8)
SIZES = ("a4", "a3", "a2", "a1")
"""Of paper [ISO 216]."""
MOST_ON_PAPER = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class RigPlan(Showing):
    """What is shown by ``rig/plan.html``."""

    template = "rig/plan.html"
    frame: Frame
    saved: SavedShow
    view: str
    zoom: int
    zooms: tuple[int, ...]
    drawing: HangingDrawing | None
    position: str
    picked: Fixture | None
    placed: int
    positions: list[str]
    sizes: tuple[str, ...]
    typed: dict[str, str]
    problem: str


@blueprint.get("")
def index(show_id: int) -> str:
    """The plan of everything that has a place."""
    return _page(load(show_id), HangingLink.linked(), {}, "")


def _page(saved: SavedShow, link: HangingLink, typed: dict[str, str], problem: str) -> str:
    show = saved.show
    view = link.view.data if link.view.data in VIEWS else "above"
    zoom = link.zoom.data if link.zoom.data in ZOOMS else 1
    picked = show.fixture_by_id.get(link.fixture.data or 0)
    order = places_in_order(show)
    position = link.position.data if link.position.data in order else ""
    return RigPlan(
        frame=frame(saved, "Rig"),
        saved=saved,
        view=view,
        zoom=zoom,
        zooms=ZOOMS,
        drawing=draw_hanging(
            show,
            order,
            view=view,
            position=position,
            picked=picked.id if picked else None,
            zoom=zoom,
        ),
        position=position,
        picked=picked,
        placed=sum(one.at is not None for one in show.fixtures),
        positions=[name for name in order if name],
        sizes=SIZES,
        typed=typed,
        problem=problem,
    ).rendered()


@blueprint.post("")
def set_out(show_id: int) -> BaseResponse | tuple[str, int]:
    """Set the fixtures of a position out evenly between two places, or forget their places."""
    form = HangingStep.sent()
    before = load_for_edit(show_id)
    try:
        after = _set_out(before.show, form)
    except FenceError as error:
        return _page(before, HangingLink.linked(), form.typed(), str(error)), 422
    save(before, after)
    flash(describe(before.show, after) or "Nothing to change.")
    return redirect(url_for("hanging.index", show_id=show_id))


def _set_out(show: Show, form: HangingStep) -> Show:
    ids = [one.id for one in show.fixtures if one.position and one.position == form.position.data]
    if not ids:
        raise EditError("No fixture hangs there: choose a position of the list.")
    if form.forget.data:
        for fixture_id in ids:
            show = edits.hang_at(show, fixture_id, None)
        return show
    first, last = read_place(form.first.data), read_place(form.last.data)
    if first is None or last is None:
        raise EditError("Type where the first and the last one hang, such as -4 / 2.5 / 6.")
    return edits.set_out(show, ids, first, last)


@blueprint.get("/plan.pdf")
def pdf(show_id: int) -> Response:
    """The plan on paper: a page for each position."""
    # what draws on paper is loaded when it is needed
    from fence.formats.plan_paper import plan_pdf

    saved, link = load(show_id), HangingLink.linked()
    size = link.size.data if link.size.data in SIZES else "a4"
    show = saved.show
    placed = sum(one.at is not None for one in show.fixtures)
    if not placed:
        raise EditError("No fixture has a place in metres yet, so there is nothing to draw.")
    if placed > MOST_ON_PAPER:
        raise EditError(
            f"That would be {counted(placed, 'fixture')}: a PDF takes up to {MOST_ON_PAPER}."
        )
    heading = Heading(show.name, "Where it hangs", saved.revision, store().clock())
    order = places_in_order(show)
    response = Response(plan_pdf(heading, show, order, size), content_type="application/pdf")
    name = f"{slug(show.name, 'show')}-plan.pdf"
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
