"""The Address page: the fence of one universe, the picked fixture, mends and moves."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import replace

from flask import Blueprint, Response, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.addressing.moves import move_block, place_block
from fence.core.changes import edits
from fence.core.checks import Analysis, Severity
from fence.core.words.address import Address, parse_address
from fence.core.words.errors import EditError
from fence.core.words.show import Show
from fence.core.words.space import desk_starts, free_bits, nearest
from fence.store.shows import SavedShow
from fence.web.address.drawing import draw_card
from fence.web.address.forms import FixtureForm, MoveForm, NudgeForm, valid
from fence.web.address.page import Asked, ProposedEdit, make_board
from fence.web.frame import frame
from fence.web.pages import asked_by_htmx, ids_in, load, load_for_edit, save

blueprint = Blueprint("address", __name__, url_prefix="/shows/<int:show_id>/address")

CARDS_A_PAGE = 96


@blueprint.get("")
def index(show_id: int) -> str:
    """One universe as a fence, with the picked fixture beside it."""
    saved = load(show_id)
    return board_page(saved, asked_for())


@blueprint.get("/overview")
def overview(show_id: int) -> str:
    """All universes, small, a page of them at a time: that of the current one unless another is asked for.

    Asked for by the page once it stands, so that a page does not grow with them.
    """
    saved = load(show_id)
    analysis, current = saved.analysis, request.args.get("u", type=int)
    numbers = saved.show.universe_numbers
    last = max(0, (len(numbers) - 1) // CARDS_A_PAGE)
    at = bisect_left(numbers, current) // CARDS_A_PAGE if current else 0
    at = min(max(request.args.get("page", at, type=int), 0), last)
    troubled = _troubled(analysis)
    shown = numbers[at * CARDS_A_PAGE : (at + 1) * CARDS_A_PAGE]
    cards = [draw_card(saved.show, number, analysis.stops_in.get(number, 0), troubled) for number in shown]
    pages = [
        (place, numbers[place * CARDS_A_PAGE], numbers[min(len(numbers), (place + 1) * CARDS_A_PAGE) - 1])
        for place in (at - 1, at, at + 1)
        if 0 <= place <= last and numbers
    ]
    return render_template(
        "address/_overview.html", cards=cards, saved=saved, current=current, at=at, last=last, pages=pages
    )


def _troubled(analysis: Analysis) -> set[int]:
    return {
        fixture_id
        for finding in analysis.findings
        if finding.severity is Severity.STOP
        for fixture_id in finding.fixtures
    }


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
    )


def board_page(saved: SavedShow, asked: Asked, proposed: ProposedEdit | None = None, *, changed: bool = False) -> str:
    """The whole page, or for htmx the board with those pieces of the frame that an edit changes."""
    analysis = saved.analysis
    board = make_board(saved, analysis, asked, proposed)
    values = {"board": board, "asked": asked, "frame": frame(saved, "Address", analysis)}
    if not asked_by_htmx():
        return render_template("address/index.html", **values)
    card = None
    if changed:
        number = board.universe.number
        card = draw_card(saved.show, number, analysis.stops_in.get(number, 0), _troubled(analysis))
    return render_template("address/_update.html", card=card, saved=saved, current=board.universe.number, **values)


def saved_board(before: SavedShow, after: Show, asked: Asked) -> BaseResponse | str:
    """Save and show the board; the universe follows the picked fixture."""
    saved = save(before, after)
    fixture = saved.show.fixture_by_id.get(asked.pick or 0)
    if fixture is not None and asked.part < len(fixture.patch) and fixture.patch[asked.part].universe is not None:
        asked = replace(asked, universe=fixture.patch[asked.part].universe)
    asked = replace(asked, finding="")
    also = ",".join(map(str, asked.also)) or None
    page = url_for("address.index", show_id=saved.id, u=asked.universe, pick=asked.pick, also=also)
    if not asked_by_htmx():
        return redirect(page)
    if saved.revision > before.revision + 1:
        return Response(headers={"HX-Redirect": page})  # more than this step has changed: the whole page is drawn anew
    return board_page(saved, asked, changed=True)


@blueprint.post("/nudge")
def nudge(show_id: int) -> BaseResponse | str:
    """Move the picked fixture by some slots."""
    form = valid(NudgeForm())
    before = load_for_edit(show_id, form.revision.data)
    asked = asked_for()
    if asked.also:
        after = move_block(before.show, asked.picks, form.by.data or 0)
    else:
        after = edits.nudge(before.show, form.fixture.data or 0, form.by.data or 0, part=form.part.data or 0)
    return saved_board(before, after, asked)


@blueprint.post("/move")
def move(show_id: int) -> BaseResponse | str:
    """Move the picked fixture to an address as typed or dropped."""
    form = valid(MoveForm())
    before = load_for_edit(show_id, form.revision.data)
    target = parse_address(form.address.data or "", current_universe=form.u.data or 1)
    asked = asked_for()
    if asked.also:
        after = place_block(before.show, asked.picks, target)
    else:
        after = edits.place(before.show, form.fixture.data or 0, target, part=form.part.data or 0)
    return saved_board(before, after, asked)


@blueprint.post("/gap")
def next_gap(show_id: int) -> BaseResponse | str:
    """Move the picked fixture to the nearest gap that fits it."""
    form = valid(FixtureForm())
    before = load_for_edit(show_id, form.revision.data)
    target = _nearest_gap(before.show, form.fixture.data or 0, form.part.data or 0)
    return saved_board(
        before, edits.place(before.show, form.fixture.data or 0, target, part=form.part.data or 0), asked_for()
    )


def _nearest_gap(show: Show, fixture_id: int, part: int) -> Address:
    fixture = show.fixture(fixture_id)
    profile, footprints = show.profile_of(fixture), show.footprints_of(fixture)
    length = footprints[part] if part < len(footprints) else 0
    universe, slot = fixture.patch[min(part, len(fixture.patch) - 1)].universe or 1, fixture.start or 1
    if not length:
        raise EditError(f"{fixture.label} takes no channels, so it needs no gap.")
    sharers = {sharer.id for sharer in show.sharers_of(fixture)}
    free = free_bits(show, universe, without=sharers)
    fits = desk_starts(show, free, length, setter=profile.setter if profile else None)
    at = fixture.patch[part].slot
    if at is not None and fits >> (at - 1) & 1:
        fits &= ~(1 << (at - 1))
    found = nearest(fits, slot)
    if found is None:
        raise EditError(f"U{universe} has no other gap of {length} channels for {fixture.label}.")
    return Address(universe, found)


@blueprint.post("/pin")
def pin(show_id: int) -> BaseResponse | str:
    """Pin the picked fixture, or take the pin out."""
    form = valid(FixtureForm())
    before = load_for_edit(show_id, form.revision.data)
    fixture = before.show.fixture(form.fixture.data or 0)
    change = edits.unpin if fixture.pinned else edits.pin
    return saved_board(before, change(before.show, [fixture.id]), asked_for())
