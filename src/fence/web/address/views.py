"""The Address page: the fence of one universe, the picked fixture, mends and moves."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass, replace

from flask import Blueprint, Response, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.moves import move_block, next_gap_for, place_block
from fence.core.model.address import parse_address
from fence.core.model.show import Show
from fence.store.shows import SavedShow
from fence.web.address.asked import Asked
from fence.web.address.drawing import Card, draw_card
from fence.web.address.forms import AddressLink, FixtureForm, MoveForm, NudgeForm, valid
from fence.web.address.page import Board, make_board
from fence.web.address.proposed import ProposedEdit
from fence.web.address.rails import asked_rails
from fence.web.frame import Frame, frame
from fence.web.pages import asked_by_htmx, ids_in, load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("address", __name__, url_prefix="/shows/<int:show_id>/address")

CARDS_A_PAGE = 96


@blueprint.get("")
def index(show_id: int) -> str:
    """One universe as a fence, with the picked fixture beside it."""
    saved = load(show_id)
    return board_page(saved, asked_for())


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressOverview(Showing):
    """What is shown by ``address/_overview.html``."""

    template = "address/_overview.html"
    cards: list[Card]
    saved: SavedShow
    current: int | None
    at: int
    last: int
    pages: list[tuple[int, int, int]]


@blueprint.get("/overview")
def overview(show_id: int) -> str:
    """All universes, small, a page of them at a time: that of the current one unless another is
    asked for.

    Asked for by the page once it stands, so that a page does not grow with them.
    """
    link = AddressLink.linked()
    saved = load(show_id)
    analysis, current = saved.analysis, link.u.data
    numbers = saved.show.universe_numbers
    last = max(0, (len(numbers) - 1) // CARDS_A_PAGE)
    at = bisect_left(numbers, current) // CARDS_A_PAGE if current else 0
    at = min(max(at if link.page.data is None else link.page.data, 0), last)
    troubled = analysis.stopped
    shown = numbers[at * CARDS_A_PAGE : (at + 1) * CARDS_A_PAGE]
    cards = [
        draw_card(saved.show, number, analysis.stops_in.get(number, 0), troubled)
        for number in shown
    ]
    pages = [
        (
            place,
            numbers[place * CARDS_A_PAGE],
            numbers[min(len(numbers), (place + 1) * CARDS_A_PAGE) - 1],
        )
        for place in (at - 1, at, at + 1)
        if 0 <= place <= last and numbers
    ]
    return AddressOverview(
        cards=cards,
        saved=saved,
        current=current,
        at=at,
        last=last,
        pages=pages,
    ).rendered()


def asked_for() -> Asked:
    """What the address of the page, or a step's form, asks to be shown."""
    values = request.values
    return Asked(
        universe=values.get("u", type=int),
        pick=values.get("pick", type=int) or values.get("fixture", type=int),
        part=values.get("part", 0, type=int),
        finding=values.get("finding", ""),
        turned=bool(values.get("turned")),
        also=ids_in(values.get("also", "")),
        on=asked_rails(),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressIndex(Showing):
    """What is shown by ``address/index.html``."""

    template = "address/index.html"
    board: Board
    asked: Asked
    frame: Frame


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressUpdate(Showing):
    """What is shown by ``address/_update.html``."""

    template = "address/_update.html"
    card: Card | None
    saved: SavedShow
    current: int
    whole: AddressIndex


def board_page(
    saved: SavedShow, asked: Asked, proposed: ProposedEdit | None = None, *, changed: bool = False
) -> str:
    """The whole page, or for htmx the board with those pieces of the frame that an edit changes."""
    analysis = saved.analysis
    board = make_board(saved, analysis, asked, proposed)
    whole = AddressIndex(board=board, asked=asked, frame=frame(saved, "Address", analysis))
    if not asked_by_htmx():
        return whole.rendered()
    card = None
    if changed:
        number = board.universe.number
        card = draw_card(saved.show, number, analysis.stops_in.get(number, 0), analysis.stopped)
    return AddressUpdate(
        card=card, saved=saved, current=board.universe.number, whole=whole
    ).rendered()


def universe_after(before: Show, after: Show, asked: Asked) -> Asked:
    """What was asked for, in the universe to which the first changed fixture would go, where the
    show has it."""
    for fixture in after.fixtures:
        old = before.fixture_by_id.get(fixture.id)
        if old is not None and old.patch != fixture.patch:
            for entry, held in zip(fixture.patch, old.patch, strict=False):
                if entry != held and entry.universe in before.universe_by_number:
                    return replace(asked, universe=entry.universe)
    return asked


def saved_board(
    before: SavedShow, after: Show, asked: Asked, *, seen: bool = False
) -> BaseResponse | str:
    """Save and show the board; the universe follows the picked fixture. See ``save`` for
    ``seen``."""
    saved = save(before, after, seen=seen)
    fixture = saved.show.fixture_by_id.get(asked.pick or 0)
    if (
        fixture is not None
        and asked.part < len(fixture.patch)
        and fixture.patch[asked.part].universe is not None
    ):
        asked = replace(asked, universe=fixture.patch[asked.part].universe)
    asked = replace(asked, finding="")
    also = ",".join(map(str, asked.also)) or None
    page = url_for("address.index", show_id=saved.id, u=asked.universe, pick=asked.pick, also=also)
    if not asked_by_htmx():
        return redirect(page)
    if (
        saved.revision > before.revision + 1
        or saved.show.universe_numbers != before.show.universe_numbers
    ):
        # more than this step has changed: the whole page is drawn anew
        return Response(headers={"HX-Redirect": page})
    return board_page(saved, asked, changed=True)


@blueprint.post("/nudge")
def nudge(show_id: int) -> BaseResponse | str:
    """Move the picked fixture by some slots."""
    form = valid(NudgeForm())
    before = load_for_edit(show_id)
    asked = asked_for()
    if asked.also:
        after = move_block(before.show, asked.picks, form.by.data or 0)
    else:
        after = edits.nudge(
            before.show, form.fixture.data or 0, form.by.data or 0, part=form.part.data or 0
        )
    # key by key, with the finding and its mend beside it at once
    return saved_board(before, after, asked, seen=True)


@blueprint.post("/move")
def move(show_id: int) -> BaseResponse | str:
    """Move the picked fixture to an address as typed or dropped."""
    form = valid(MoveForm())
    before = load_for_edit(show_id)
    target = parse_address(
        form.address.data or "", current_universe=form.u.data or 1, absolute=False
    )
    asked = asked_for()
    if asked.also:
        after = place_block(before.show, asked.picks, target)
    else:
        after = edits.place(before.show, form.fixture.data or 0, target, part=form.part.data or 0)
    return saved_board(before, after, asked)


@blueprint.post("/gap")
def next_gap(show_id: int) -> BaseResponse | str:
    """Move the picked fixture to the next free run that is long enough for it."""
    form = valid(FixtureForm())
    before = load_for_edit(show_id)
    fixture_id, part = form.fixture.data or 0, form.part.data or 0
    target = next_gap_for(before.show, fixture_id, part)
    return saved_board(before, edits.place(before.show, fixture_id, target, part=part), asked_for())


@blueprint.post("/pin")
def pin(show_id: int) -> BaseResponse | str:
    """Pin the picked fixture, or take the pin out."""
    form = valid(FixtureForm())
    before = load_for_edit(show_id)
    fixture = before.show.fixture(form.fixture.data or 0)
    change = edits.unpin if fixture.pinned else edits.pin
    return saved_board(before, change(before.show, [fixture.id]), asked_for())
