"""Laying many fixtures out by a way of counting on: seen first, then made in one step."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.addressing.schools import Layout, Order, Placement, School, Spill, lay_out
from fence.core.edits.prose import describe
from fence.core.model.address import SLOTS, parse_address
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.web.address.drawing import FenceDrawing, draw_fence
from fence.web.address.forms import LayoutEither
from fence.web.address.proposed import draw_then
from fence.web.address.rails import asked_rails
from fence.web.frame import Frame, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import ids_in, load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("layout", __name__, url_prefix="/shows/<int:show_id>/address/layout")


SCHOOLS = {
    School.BACK_TO_BACK: ("Back to back", "Next start = last end + 1. Uses the fewest channels."),
    School.PAGED: (
        "Paged",
        "Starts go up in whole pages, whatever the fixture uses. For desks with fixture buttons.",
    ),
    School.ROUND: ("Round starts", "Each position (or type) begins at a round number."),
    School.SPACED: ("Spaced", "Channels stay free after each fixture, for a larger mode later."),
    School.SHARED: (
        "Shared",
        "Fixtures of one kind take one address: fewer channels, no separate control.",
    ),
}


ORDERS = {
    Order.CABLE: "along the cable, as in the rig",
    Order.NUMBER: "by number",
    Order.POSITION: "position by position",
    Order.PICKED: "in the order selected",
}


SPILLS = {Spill.FILL: "when one is full", Spill.POSITION: "for each position"}


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressLayout(Showing):
    """What is shown by ``address/layout.html``."""

    template = "address/layout.html"
    frame: Frame
    schools: dict[School, tuple[str, str]]
    orders: dict[Order, str]
    spills: dict[Spill, str]
    values: dict[str, str]
    positions: list[str]
    ids: tuple[int, ...]
    picked: list[str]
    problem: str
    outcome: Outcome | None
    lost: list[str]
    drawing: tuple[FenceDrawing, FenceDrawing] | None
    asked: list[tuple[str, str]]


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Lay fixtures out by a school: seen first, then made in one step."""
    asked = LayoutEither.either()
    saved = load(show_id)
    problem, placement, outcome = "", None, None
    if asked.school.data:
        if request.method == "POST":
            saved = load_for_edit(show_id)
        try:
            wanted = _layout(saved.show)
            placement = lay_out(saved.show, wanted)
        except FenceError as error:
            problem = str(error)
        else:
            if request.method == "POST":
                save(saved, placement.show)
                flash(describe(saved.show, placement.show) or "Nothing to change.")
                return redirect(
                    url_for("address.index", show_id=show_id, u=_first_universe(placement))
                )
            outcome = outcome_of(saved.show, placement.show, saved.analysis)
    ids = ids_in(asked.ids.data)
    page = AddressLayout(
        frame=frame(saved, "Address"),
        schools=SCHOOLS,
        orders=ORDERS
        if ids
        else {order: words for order, words in ORDERS.items() if order is not Order.PICKED},
        spills=SPILLS,
        values=_layout_values(saved.show),
        positions=[position.name for position in saved.show.positions],
        ids=ids,
        picked=[saved.show.fixture_by_id[i].label for i in ids if i in saved.show.fixture_by_id],
        problem=problem,
        outcome=outcome,
        lost=[saved.show.fixture(i).label for i in placement.unplaced] if placement else [],
        drawing=_drawn(saved.show, placement) if placement else None,
        asked=[(name, value) for name, value in request.args.items() if name != "revision"],
    ).rendered()
    return (page, 422) if problem else page


def _layout_values(show: Show) -> dict[str, str]:
    """What the form shows: what was asked, else what suits the desk."""
    asked = LayoutEither.either()
    paged = show.desk.page is not None
    usual = {
        "school": str(School.PAGED if paged else School.BACK_TO_BACK),
        "page": str(show.desk.page or 16),
        "round": "50",
        "spare": "2",
        "order": str(Order.PICKED if asked.ids.data else Order.CABLE),
        "spill": str(Spill.FILL),
        "keep": "0",
        "keep_unit": "slots",
        "after_group": "0",
        "start": "1/1",
        "universes": str(show.desk.universes or ""),
        "whom": "",
    }
    return {name: request.values.get(name, value) for name, value in usual.items()}


def _layout(show: Show) -> Layout:
    """The layout that was asked for; ``EditError`` for what is no number or no choice."""
    asked = LayoutEither.either()
    values = _layout_values(show)
    if (
        values["school"] not in set(School)
        or values["order"] not in set(Order)
        or values["spill"] not in set(Spill)
    ):
        raise EditError(
            "Choose a way, an order and when the next universe is opened from the lists."
        )

    def number(name: str) -> int:
        words = values[name].strip()
        found = whole_number(words)
        if found is None or found > 99_999:
            raise EditError(
                f"“{words[:20]}” is not a whole number for {name.replace('_', ' ')}. Use 0 "
                f"to {SLOTS}."
            )
        return found

    keep = number("keep")
    if values["keep_unit"] == "percent":
        keep = -(-SLOTS * min(keep, 100) // 100)
    ids: tuple[int, ...] | None = ids_in(asked.ids.data) or None
    if ids is None and values["whom"]:
        ids = tuple(fixture.id for fixture in show.fixtures if fixture.position == values["whom"])
    return Layout(
        School(values["school"]),
        page=number("page"),
        round=number("round"),
        spare=number("spare"),
        universes=number("universes") if values["universes"].strip() else None,
        order=Order(values["order"]),
        spill=Spill(values["spill"]),
        keep=keep,
        after_group=number("after_group"),
        first=parse_address(values["start"], absolute=False),
        ids=ids,
    )


def _first_universe(placement: Placement) -> int | None:
    return placement.placed[0][2].universe if placement.placed else None


def _drawn(show: Show, placement: Placement) -> tuple[FenceDrawing, FenceDrawing] | None:
    """The first universe that the layout touches, as it is and as it would be."""
    universe = _first_universe(placement)
    if universe is None:
        return None
    return draw_fence(show, universe, (), on=asked_rails()), draw_then(
        show, placement.show, universe, asked_rails()
    )
