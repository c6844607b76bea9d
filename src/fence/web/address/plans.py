"""Pages about many addresses at once: laying out, trials on a copy, the sheet of a universe, where there is room."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.addressing import Layout, Order, Placement, School, Spill, lay_out
from fence.core.addressing.room import room_for_more
from fence.core.addressing.sheet import slot_sheet
from fence.core.addressing.trial import Trial, TrialResult, try_out
from fence.core.changes import edits
from fence.core.changes.edits import AddRun
from fence.core.changes.prose import describe
from fence.core.checks import analyse
from fence.core.words.address import SLOTS, Address, Run, parse_address
from fence.core.words.desk import Scale, TellTale
from fence.core.words.errors import EditError, FenceError
from fence.core.words.fixture import Fixture
from fence.core.words.show import Show, Universe
from fence.core.words.space import desk_starts, first_from, free_bits, use_of
from fence.core.words.text import whole_number
from fence.formats.slot_csv import write_slot_csv
from fence.web.address.drawing import FenceDrawing, draw_fence
from fence.web.frame import frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import ids_in, library, load, load_for_edit, save

blueprint = Blueprint("plans", __name__, url_prefix="/shows/<int:show_id>/address")

SCHOOLS = {
    School.BACK_TO_BACK: ("Back to back", "Next start = last end + 1. Uses the fewest channels."),
    School.PAGED: ("Paged", "Starts step by the page, whatever the fixture uses. For desks with fixture buttons."),
    School.ROUND: ("Round starts", "Each position, else each type, begins at a number that people remember."),
    School.SPACED: ("Spaced", "Channels stay free after each fixture, for a larger mode later."),
    School.SHARED: ("Shared", "Alike fixtures take one address: fewer channels, but they cannot be controlled apart."),
}
ORDERS = {
    Order.CABLE: "along the cable, as in the rig",
    Order.NUMBER: "by number",
    Order.POSITION: "position by position",
    Order.PICKED: "as they were picked",
}
SPILLS = {Spill.FILL: "when the one before is full", Spill.POSITION: "for each position"}
JOIN = " | "


# ---- laying out


@blueprint.route("/layout", methods=["GET", "POST"])
def layout(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Lay fixtures out by a school: seen first, then made in one step."""
    saved = load(show_id)
    problem, placement, outcome = "", None, None
    if request.values.get("school"):
        if request.method == "POST":
            saved = load_for_edit(show_id, request.form.get("revision", type=int))
        try:
            wanted = _layout(saved.show)
            placement = lay_out(saved.show, wanted)
        except FenceError as error:
            problem = str(error)
        else:
            if request.method == "POST":
                save(saved, placement.show)
                flash(describe(saved.show, placement.show) or "Nothing to change.")
                return redirect(url_for("address.index", show_id=show_id, u=_first_universe(placement)))
            outcome = outcome_of(saved.show, placement.show, saved.analysis)
    ids = ids_in(request.values.get("ids", ""))
    page = render_template(
        "address/layout.html",
        frame=frame(saved, "Address"),
        schools=SCHOOLS,
        orders=ORDERS if ids else {order: words for order, words in ORDERS.items() if order is not Order.PICKED},
        spills=SPILLS,
        values=_layout_values(saved.show),
        positions=[position.name for position in saved.show.positions],
        ids=ids,
        picked=[saved.show.fixture_by_id[i].label for i in ids if i in saved.show.fixture_by_id],
        problem=problem,
        placement=placement,
        outcome=outcome,
        lost=[saved.show.fixture(i).label for i in placement.unplaced] if placement else [],
        drawing=_drawn(saved.show, placement) if placement else None,
        asked=[(name, value) for name, value in request.args.items() if name != "revision"],
    )
    return (page, 422) if problem else page


def _layout_values(show: Show) -> dict[str, str]:
    """What the form shows: what was asked, else what suits the desk."""
    paged = show.desk.page is not None
    usual = {
        "school": str(School.PAGED if paged else School.BACK_TO_BACK),
        "page": str(show.desk.page or 16),
        "round": "50",
        "spare": "2",
        "order": str(Order.PICKED if request.values.get("ids") else Order.CABLE),
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
    values = _layout_values(show)
    if values["school"] not in set(School) or values["order"] not in set(Order) or values["spill"] not in set(Spill):
        raise EditError("Choose a school, an order and when the next universe is opened from the lists.")

    def number(name: str) -> int:
        words = values[name].strip()
        found = whole_number(words)
        if found is None or found > 99_999:
            raise EditError(
                f"“{words[:20]}” is no whole number for {name.replace('_', ' ')}: accepted are 0 to {SLOTS}."
            )
        return found

    keep = number("keep")
    if values["keep_unit"] == "percent":
        keep = -(-SLOTS * min(keep, 100) // 100)
    ids: tuple[int, ...] | None = ids_in(request.values.get("ids", "")) or None
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
        first=parse_address(values["start"]),
        ids=ids,
    )


def _first_universe(placement: Placement) -> int | None:
    return placement.placed[0][2].universe if placement.placed else None


def _drawn(show: Show, placement: Placement) -> FenceDrawing | None:
    """The first universe that the layout touches, now, with the new places drawn over it."""
    universe = _first_universe(placement)
    if universe is None:
        return None
    laid = {owner for owner, _, _ in placement.placed}
    ghosts: list[tuple[str, Run]] = [
        (f"{placed.run.first:03d}", placed.run)
        for placed in placement.show.runs_in(universe)
        if placed.fixture.id in laid
    ]
    return draw_fence(show, universe, (), ghosts=list(dict.fromkeys(ghosts)))


# ---- trying on a copy


@blueprint.route("/trial", methods=["GET", "POST"])
def trial(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Try fixtures, a mode or another desk on a copy; keep it or drop it."""
    saved = load(show_id)
    problem, result, outcome = "", None, None
    if request.method == "POST":
        saved = load_for_edit(show_id, request.form.get("revision", type=int))
    if request.values.get("tried"):
        try:
            result = try_out(saved.show, _trial(saved.show))
        except FenceError as error:
            problem = str(error)
        else:
            if request.method == "POST":
                save(saved, result.show)
                flash(describe(saved.show, result.show) or "Nothing to change.")
                return redirect(url_for("address.index", show_id=show_id))
            outcome = _trial_outcome(saved.show, result)
    page = render_template(
        "address/trial.html",
        frame=frame(saved, "Address"),
        values={name: request.values.get(name, "") for name in TRIAL_NAMES},
        kinds=_kinds(saved.show),
        changes=_changes(saved.show),
        positions=[position.name for position in saved.show.positions],
        problem=problem,
        result=result,
        outcome=outcome,
        moved=[saved.show.fixture(i).label for i in result.moved] if result else [],
        lost=[result.show.fixture(i).label for i in result.without] if result else [],
        rooms=room_for_more(saved.show),
        asked=[(name, value) for name, value in request.args.items() if name != "revision"],
    )
    return (page, 422) if problem else page


TRIAL_NAMES = ("kind", "quantity", "label", "position", "change", "universes")


def _trial_outcome(show: Show, result: TrialResult) -> Outcome:
    return outcome_of(show, result.show, analyse(show), result.moved)


def _trial(show: Show) -> Trial:
    values = {name: request.values.get(name, "").strip() for name in TRIAL_NAMES}
    for name in ("quantity", "universes"):
        if values[name] and not 1 <= (whole_number(values[name]) or 0) <= 63_999:
            raise EditError(f"“{values[name][:20]}” is no number of {name}: accepted are whole numbers from 1.")
    add = None
    if values["kind"]:
        profile_id, _, mode = values["kind"].partition(JOIN)
        profile = show.profile_by_id.get(profile_id) or library().newest(profile_id)
        if profile is None:
            raise EditError("Choose a fixture and its mode from the list.")
        label = values["label"] or profile.model
        add = AddRun(profile, mode, int(values["quantity"] or 1), label, position=values["position"])
    modes = {}
    if values["change"]:
        profile_id, _, mode = values["change"].partition(JOIN)
        modes = {fixture.id: mode for fixture in show.fixtures if fixture.profile == profile_id}
    universes = int(values["universes"]) if values["universes"] else None
    if add is None and not modes and universes is None:
        raise EditError("Say what to try: fixtures to add, another mode, or another number of universes.")
    return Trial(add, modes, universes)


def _kinds(show: Show) -> list[tuple[str, str]]:
    held = {profile.id for profile in show.profiles}
    profiles = [*show.profiles, *(profile for profile in library().profiles() if profile.id not in held)]
    return [
        (f"{profile.id}{JOIN}{mode.name}", f"{profile.title}, {mode.name} ({mode.footprint} ch)")
        for profile in sorted(profiles, key=lambda profile: (profile.title.casefold(), profile.id))
        for mode in profile.modes
    ]


def _changes(show: Show) -> list[tuple[str, str]]:
    used = {fixture.profile for fixture in show.fixtures}
    return [
        (f"{profile.id}{JOIN}{mode.name}", f"all {profile.title} to {mode.name} ({mode.footprint} ch)")
        for profile in show.profiles
        if profile.id in used and len(profile.modes) > 1
        for mode in profile.modes
    ]


# ---- a universe slot by slot, and where there is room


@blueprint.get("/sheet/<int:number>")
def sheet(show_id: int, number: int) -> str:
    """All slots of a universe, to print."""
    saved = load(show_id)
    known = _known(saved.show, number)
    return render_template(
        "address/sheet.html",
        frame=frame(saved, "Address"),
        universe=known,
        rows=slot_sheet(saved.show, known.number),
        use=use_of(saved.show, known.number),
        numbers=[universe.number for universe in saved.show.universes],
    )


@blueprint.get("/sheet/<int:number>.csv")
def sheet_csv(show_id: int, number: int) -> Response:
    """The same as a file."""
    saved = load(show_id)
    known = _known(saved.show, number)
    response = Response(write_slot_csv(saved.show, known.number), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = f'attachment; filename="universe-{known.number}.csv"'
    return response


def _known(show: Show, number: int) -> Universe:
    found = show.universe_by_number.get(number)
    if found is None:
        raise EditError(f"The show has no universe {number}.")
    return found


@dataclass(frozen=True, slots=True)
class RoomLine:
    """A universe's free slots: how many, its gaps, and the first place for a run of the length that was asked for."""

    number: int
    name: str
    free: int
    gaps: tuple[Run, ...]
    largest: int
    first: Address | None
    times: int


LINES_A_PAGE = 200


@blueprint.get("/room")
def room(show_id: int) -> str:
    """Where there is room: the free slots of the universes, a page at a time, and which take a run of some length."""
    saved = load(show_id)
    show = saved.show
    length = min(max(request.args.get("length", 0, type=int) or 0, 0), SLOTS)
    words = request.args.get("q", "").strip().casefold()
    found = [u for u in show.universes if words in f"u{u.number} {u.name}".casefold()]
    order = request.args.get("sort", "number")
    if order in {"free", "largest"}:
        found.sort(key=lambda universe: -_room_in(show, universe.number, order))
    last = max(0, (len(found) - 1) // LINES_A_PAGE)
    at = min(max(request.args.get("page", 0, type=int), 0), last)
    shown = found[at * LINES_A_PAGE : (at + 1) * LINES_A_PAGE]
    return render_template(
        "address/room.html",
        frame=frame(saved, "Address"),
        lines=[_room_line(show, universe, length) for universe in shown],
        length=length or "",
        sort=order,
        q=request.args.get("q", ""),
        at=at,
        last=last,
        found=len(found),
    )


def _room_in(show: Show, number: int, order: str) -> int:
    """What a list of room is sorted by: the free slots of a universe, or its largest gap."""
    if order == "free" or not show.fixtures_in.get(number):
        return free_bits(show, number).bit_count()
    largest = use_of(show, number).largest_gap
    return largest.length if largest else 0


def _room_line(show: Show, universe: Universe, length: int) -> RoomLine:
    use = use_of(show, universe.number)
    slot = first_from(desk_starts(show, free_bits(show, universe.number), length)) if length else None
    largest = use.largest_gap.length if use.largest_gap else 0
    first = Address(universe.number, slot) if slot else None
    times = use.room_for(length) or 0 if length else 0
    return RoomLine(universe.number, universe.name, use.free, use.gaps, largest, first, times)


# ---- the tell-tale slot, and which positions are hard to reach


@blueprint.route("/ways", methods=["GET", "POST"])
def ways(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """The tell-tale slot of all universes, and the positions that are hard to reach."""
    saved, problem = load(show_id), ""
    if request.method == "POST":
        saved = load_for_edit(show_id, request.form.get("revision", type=int))
        try:
            after = saved.show
            if "tell_tale" in request.form:
                slot, scale = request.form.get("slot", type=int), request.form.get("scale", "")
                on = request.form.get("on") == "1"
                if on and (slot is None or scale not in set(Scale)):
                    raise EditError(f"A slot of 1 to {SLOTS} and a scale are needed.")
                after = edits.set_tell_tale(after, TellTale(slot or SLOTS, Scale(scale)) if on else None)
            else:
                hard = set(request.form.getlist("hard"))
                for position in after.positions:
                    after = edits.set_hard(after, position.name, hard=position.name in hard)
        except FenceError as error:
            problem = str(error)
        else:
            save(saved, after)
            flash(describe(saved.show, after) or "Nothing to change.")
            return redirect(url_for("plans.ways", show_id=show_id))
    levels = []
    if saved.show.tell_tale:
        levels = [(u, saved.show.tell_tale.level(u.number)) for u in saved.show.universes[:128]]
    page = render_template(
        "address/ways.html",
        frame=frame(saved, "Address"),
        show=saved.show,
        levels=levels,
        scales=list(Scale),
        hung=_hung(saved.show.fixtures),
        problem=problem,
        typed=request.form,
    )
    return (page, 422) if problem else page


def _hung(fixtures: tuple[Fixture, ...]) -> dict[str, int]:
    counted: dict[str, int] = {}
    for fixture in fixtures:
        counted[fixture.position] = counted.get(fixture.position, 0) + 1
    return counted
