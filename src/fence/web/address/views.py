"""The Address page: the fence of one universe, the picked fixture, mends and moves."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import replace
from typing import TypeVar

from flask import Blueprint, Response, jsonify, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse
from wtforms import Form

from fence.core.addressing import Repair, RepairOptions, repair_rig
from fence.core.addressing.mends import Mend, apply_mend, mends_for
from fence.core.addressing.moves import move_block, place_block
from fence.core.changes import edits
from fence.core.checks import Analysis, Severity, analyse
from fence.core.words.address import Address, parse_address, parse_slots
from fence.core.words.errors import EditError, FenceError
from fence.core.words.show import Show
from fence.core.words.space import desk_starts, free_bits, nearest
from fence.store.shows import SavedShow, StaleShow
from fence.web.address.drawing import draw_card, draw_ghost
from fence.web.address.forms import FixtureForm, MendForm, MoveForm, NudgeForm, StepForm, UniverseForm
from fence.web.address.page import Asked, ProposedEdit, make_board
from fence.web.frame import frame
from fence.web.pages import asked_by_htmx, ids_in, load, load_for_edit, save

blueprint = Blueprint("address", __name__, url_prefix="/shows/<int:show_id>/address")

AnyForm = TypeVar("AnyForm", bound=Form)

CARDS_A_PAGE = 96


# ---- the page


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


# ---- proposals: seen before they are made


@blueprint.get("/mend")
def preview_mend(show_id: int) -> str:
    """What a mend would do."""
    saved = load(show_id)
    asked = asked_for()
    mend = _mend_of(saved, asked.finding, request.args.get("mend", 0, type=int))
    after = apply_mend(saved.show, mend)
    fields = (("finding", asked.finding), ("mend", request.args.get("mend", "0")), ("pick", str(asked.pick or "")))
    proposed = ProposedEdit(after, mend.text, mend.why, url_for("address.mend", show_id=show_id), fields, "Do it")
    asked = replace(asked, universe=_universe_after(saved.show, after, asked))
    return board_page(saved, asked, proposed)


def _mend_of(saved: SavedShow, key: str, index: int) -> Mend:
    finding = saved.analysis.by_key.get(key)
    mends = mends_for(saved.show, finding) if finding else []
    if not 0 <= index < len(mends):
        raise EditError("That problem is no longer there: the show has changed.")
    return mends[index]


def _universe_after(before: Show, after: Show, asked: Asked) -> int | None:
    """The universe to which the picked (or else the first) changed fixture would go, where the show has it."""
    for fixture in after.fixtures:
        old = before.fixture_by_id.get(fixture.id)
        if old is not None and old.patch != fixture.patch and fixture.universe in before.universe_by_number:
            return fixture.universe
    return asked.universe


@blueprint.get("/drop")
def preview_drop(show_id: int) -> str:
    """What a drop at a slot would do, with the nearest place that is clear."""
    saved = load(show_id)
    asked = asked_for()
    target = _target(saved.show, asked.pick or 0)
    after = edits.place(saved.show, asked.pick or 0, target, part=asked.part)
    fixture = saved.show.fixture(asked.pick or 0)
    fields = (("fixture", str(asked.pick)), ("part", str(asked.part)), ("address", f"{target.universe}/{target.slot}"))
    proposed = ProposedEdit(
        after,
        f"Put {fixture.label} at {target}",
        _landing_words(after, fixture.id),
        url_for("address.move", show_id=show_id),
        fields,
        "Put it there anyway",
    )
    return board_page(saved, replace(asked, universe=target.universe), proposed)


@blueprint.get("/try")
def try_drop(show_id: int) -> Response:
    """While a fixture is dragged: whether the slot under the pointer is clear, in words, and its outline."""
    saved = load(show_id)
    asked = asked_for()
    try:
        target = _target(saved.show, asked.pick or 0)
        after = edits.place(saved.show, asked.pick or 0, target, part=asked.part)
    except FenceError as error:
        return jsonify(legal=False, words=str(error), body="")
    runs = [placed.run for placed in after.runs_of(after.fixture(asked.pick or 0)) if placed.part == asked.part]
    words = _landing_words(after, asked.pick or 0)
    return jsonify(
        legal=not words,
        words=words or f"Clear: {target} to {runs[0].last if runs else target.slot}",
        body=draw_ghost("", runs[0]).body if runs else "",
        address=f"{target.universe}/{target.slot}",
    )


def _target(show: Show, fixture_id: int) -> Address:
    """The address that a drag points at; a fixture is never dragged past the last picket."""
    show.fixture(fixture_id)
    universe, slot = request.args.get("u", 1, type=int), request.args.get("slot", 1, type=int)
    return Address(universe, min(max(slot, 1), 512))


def _landing_words(after: Show, fixture_id: int) -> str:
    """The worst stop that a landing would have; empty where it is clear."""
    for finding in analyse(after).findings:
        if finding.severity is Severity.STOP and fixture_id in finding.fixtures:
            return finding.message
    return ""


@blueprint.get("/repair")
def preview_repair(show_id: int) -> str:
    """The repair of the whole show, with other ways to go about it."""
    saved = load(show_id)
    options = _options()
    repair = repair_rig(saved.show, options)
    fields = tuple((name, request.args[name]) for name in OPTION_NAMES if request.args.get(name))
    proposed = ProposedEdit(
        repair.show,
        f"Move {len(repair.moves)} of {len(saved.show.fixtures)}",
        _repair_words(saved.show, repair),
        url_for("address.repair", show_id=show_id),
        fields,
        "Move them",
        reasons={move.fixture: move.why for move in repair.moves},
        alternatives=_alternatives(show_id, options),
    )
    return board_page(saved, replace(asked_for(), pick=None, also=()), proposed)


OPTION_NAMES = ("stay", "closed", "willing")


def _options() -> RepairOptions:
    values = request.values
    willing = frozenset(ids_in(values.get("willing", "")))
    return RepairOptions(bool(values.get("stay")), not values.get("closed"), willing)


def _alternatives(show_id: int, options: RepairOptions) -> tuple[tuple[str, str], ...]:
    """The other ways to go about a repair, as words and addresses."""
    willing = ",".join(map(str, sorted(options.willing))) or None
    u = request.args.get("u")
    ways = (
        ("Keep each in its universe", "1", "1"),
        ("Only in the universes that are there", None, "1"),
        ("A new universe may be opened", None, None),
    )
    now = ("1" if options.stay else None, None if options.new_universes else "1")
    return tuple(
        (words, url_for("address.preview_repair", show_id=show_id, u=u, stay=stay, closed=closed, willing=willing))
        for words, stay, closed in ways
        if (stay, closed) != now
    )


def _repair_words(show: Show, repair: Repair) -> str:
    lost = [show.fixture(fixture_id).label for fixture_id in repair.unplaced]
    words = f"{repair.kept} fixtures stay where they are."
    if repair.proven and repair.moves:
        words += " Proven: no repair moves less."
    elif repair.moves:
        words += " The best that was found; a smaller repair is not ruled out."
    if lost:
        words += f" No gap is left for {', '.join(lost[:5])}{' and more' if len(lost) > 5 else ''}."
    if not repair.moves:
        words += " No move of addresses mends what is left: look at each finding."
    return words


# ---- steps


def valid(form: AnyForm) -> AnyForm:
    """The form, or ``EditError`` with its first message."""
    if not form.validate():
        field, messages = next(iter(form.errors.items()))
        raise EditError(f"{form[field].label.text if field else 'Form'}: {messages[0]}")
    return form


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


@blueprint.post("/mend")
def mend(show_id: int) -> BaseResponse | str:
    """Take a mend."""
    form = valid(MendForm())
    before = load_for_edit(show_id, form.revision.data)
    chosen = _mend_of(before, form.finding.data or "", form.mend.data or 0)
    return saved_board(before, apply_mend(before.show, chosen), asked_for())


@blueprint.post("/repair")
def repair(show_id: int) -> BaseResponse | str:
    """Take the repair of the whole show."""
    form = valid(StepForm())
    before = load_for_edit(show_id, form.revision.data)
    return saved_board(before, repair_rig(before.show, _options()).show, replace(asked_for(), pick=None, also=()))


@blueprint.post("/pin")
def pin(show_id: int) -> BaseResponse | str:
    """Pin the picked fixture, or take the pin out."""
    form = valid(FixtureForm())
    before = load_for_edit(show_id, form.revision.data)
    fixture = before.show.fixture(form.fixture.data or 0)
    change = edits.unpin if fixture.pinned else edits.pin
    return saved_board(before, change(before.show, [fixture.id]), asked_for())


# ---- universes


@blueprint.route("/universes", methods=["GET", "POST"])
@blueprint.route("/universes/<int:number>", methods=["GET", "POST"])
def universe(show_id: int, number: int | None = None) -> BaseResponse | str | tuple[str, int]:
    """Add a universe, or rename one and say which slots it reserves."""
    saved = load(show_id)
    held = saved.show.universe_by_number.get(number or 0)
    if number is not None and held is None:
        raise EditError(f"The show has no universe {number}.")
    if request.method == "GET":
        fresh = max(saved.show.universe_by_number, default=0) + 1
        form = UniverseForm(
            formdata=None,
            number=held.number if held else fresh,
            name=held.name if held else "",
            reserved=", ".join(map(str, held.reserved)) if held else "",
            revision=saved.revision,
        )
        return render_template("address/universe.html", frame=frame(saved, "Address"), form=form, held=held)
    form = UniverseForm()
    try:
        valid(form)
        before = load_for_edit(show_id, form.revision.data)
        target = number or form.number.data or 0
        show = before.show if number else edits.add_universe(before.show, target)
        show = edits.rename_universe(show, target, form.name.data or "")
        show = edits.reserve(show, target, parse_slots(form.reserved.data or ""))
    except StaleShow:
        raise
    except FenceError as error:
        page = render_template(
            "address/universe.html", frame=frame(saved, "Address"), form=form, held=held, problem=str(error)
        )
        return page, 422
    save(before, show)
    return redirect(url_for("address.index", show_id=show_id, u=target))


@blueprint.post("/universes/<int:number>/remove")
def remove_universe(show_id: int, number: int) -> BaseResponse:
    """Remove an empty universe."""
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    save(before, edits.remove_universe(before.show, number))
    return redirect(url_for("address.index", show_id=show_id))
