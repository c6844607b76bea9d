"""Edits of the board that are seen before they are made: a mend, a drop, the repair."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import NamedTuple
from urllib.parse import urlencode

from flask import Blueprint, Response, jsonify, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.mends import Mend, apply_mend, mends_for
from fence.core.addressing.neighbours import keep_together, push_along
from fence.core.addressing.repair import Repair, RepairOptions, repair_rig
from fence.core.checks import Severity, analyse
from fence.core.model.address import Address
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.core.model.text import counted, joined
from fence.core.setting.walk import again
from fence.store.shows import SavedShow
from fence.web.address.drawing import draw_outline
from fence.web.address.forms import MendForm, ProposalsEither, ProposalsLink, StepForm, valid
from fence.web.address.proposed import ProposedEdit
from fence.web.address.rails import asked_rails
from fence.web.address.views import asked_for, board_page, saved_board, universe_after
from fence.web.pages import ids_in, load, load_for_edit
from fence.web.showing import Showing
from fence.work.saving import UnseenStops, mended

blueprint = Blueprint("proposals", __name__, url_prefix="/shows/<int:show_id>/address")


@blueprint.get("/mend")
def mend(show_id: int) -> str:
    """What a mend would do."""
    link = ProposalsLink.linked()
    saved = load(show_id)
    asked = asked_for()
    mend = _mend_of(saved, asked.finding, link.mend.data)
    after = apply_mend(saved.show, mend)
    fields = (
        ("finding", asked.finding),
        ("mend", request.args.get("mend", "0")),
        ("pick", str(asked.pick or "")),
    )
    proposed = ProposedEdit(
        after, mend.text, mend.why, url_for("proposals.take_mend", show_id=show_id), fields, "Apply"
    )
    return board_page(saved, universe_after(saved.show, after, asked), proposed)


def _mend_of(saved: SavedShow, key: str, index: int) -> Mend:
    finding = saved.analysis.by_key.get(key)
    mends = mends_for(saved.show, finding) if finding else []
    if not 0 <= index < len(mends):
        raise EditError("That problem is no longer there: the show has changed.")
    return mends[index]


@blueprint.get("/drop")
def drop(show_id: int) -> str:
    """What a drop at a slot would do, with the nearest place that is clear."""
    saved = load(show_id)
    asked = asked_for()
    target = _target(saved.show, asked.pick or 0)
    after = edits.place(saved.show, asked.pick or 0, target, part=asked.part)
    fixture = saved.show.fixture(asked.pick or 0)
    fields = (
        ("fixture", str(asked.pick)),
        ("part", str(asked.part)),
        ("address", f"{target.universe}/{target.slot}"),
    )
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
    """While a fixture is dragged: whether the slot under the pointer is clear, in words, and its
    outline."""
    saved = load(show_id)
    asked = asked_for()
    try:
        target = _target(saved.show, asked.pick or 0)
        after = edits.place(saved.show, asked.pick or 0, target, part=asked.part)
    except FenceError as error:
        return jsonify(legal=False, words=str(error), body="")
    runs = [
        placed.run
        for placed in after.runs_of(after.fixture(asked.pick or 0))
        if placed.part == asked.part
    ]
    words = _landing_words(after, asked.pick or 0)
    return jsonify(
        legal=not words,
        words=words or f"Clear: {target} to {runs[0].last if runs else target.slot}",
        body=draw_outline(runs[0], asked_rails()) if runs else "",
        address=f"{target.universe}/{target.slot}",
    )


def _target(show: Show, fixture_id: int) -> Address:
    """The address that a drag points at; a fixture is never dragged past the last picket."""
    link = ProposalsLink.linked()
    show.fixture(fixture_id)
    universe, slot = link.u.data, link.slot.data
    return Address(universe, min(max(slot, 1), 512))


def _landing_words(after: Show, fixture_id: int) -> str:
    """The worst stop that a landing would have; empty where it is clear."""
    for finding in analyse(after).findings:
        if finding.severity is Severity.STOP and fixture_id in finding.fixtures:
            return finding.message
    return ""


@blueprint.get("/repair")
def repair(show_id: int) -> str:
    """The repair of the whole show, with other ways to go about it. What those would touch is told
    when it is asked for: each takes as long as the repair itself."""
    saved = load(show_id)
    options = _options()
    repair = _repair(saved.show, options)
    fields = tuple((name, request.args[name]) for name in OPTION_NAMES if request.args.get(name))
    proposed = ProposedEdit(
        repair.show,
        _repair_title(saved, repair),
        _repair_words(saved, repair),
        url_for("proposals.take_repair", show_id=show_id),
        fields,
        "Move them",
        reasons={move.fixture: move.why for move in repair.moves},
        alternatives=tuple((way.words, way.url) for way in _other_ways(show_id, options)),
        others_url=f"{url_for('proposals.others', show_id=show_id)}?{urlencode(request.args)}",
    )
    return board_page(saved, replace(asked_for(), pick=None, also=()), proposed)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressOthers(Showing):
    """What is shown by ``address/_others.html``."""

    template = "address/_others.html"
    alternatives: tuple[tuple[str, str], ...]


@blueprint.get("/repair/others")
def others(show_id: int) -> str:
    """The other ways to go about a repair, each with what it touches."""
    show, options = load(show_id).show, _options()
    told = [
        (
            f"{way.words}: {_touched(show, way.compute(show, options))}"
            if way.compute
            else way.words,
            way.url,
        )
        for way in _other_ways(show_id, options)
    ]
    return AddressOthers(alternatives=tuple(told)).rendered()


OPTION_NAMES = ("stay", "closed", "willing", "way")

WAYS: dict[str, tuple[str, Callable[[Show, RepairOptions], Repair]]] = {
    "": ("Move as few as possible", repair_rig),
    "together": ("Keep neighbours of one kind together, in order", keep_together),
    "along": ("Move everything behind along", push_along),
}
"""The ways to repair: a person chooses. The order along the cable is what a crew sets by."""


def _repair(show: Show, options: RepairOptions) -> Repair:
    asked = ProposalsEither.either()
    return WAYS.get(asked.way.data, WAYS[""])[1](show, options)


def _options() -> RepairOptions:
    values = request.values
    willing = frozenset(ids_in(values.get("willing", "")))
    return RepairOptions(bool(values.get("stay")), not values.get("closed"), willing)


class OtherWay(NamedTuple):
    """Another way to go about a repair: its words, its address, and what works it out, where it
    moves others than the one that is seen."""

    words: str
    url: str
    compute: Callable[[Show, RepairOptions], Repair] | None = None


def _other_ways(show_id: int, options: RepairOptions) -> list[OtherWay]:
    """The other ways to go about a repair than the one that is asked for."""
    way = ProposalsLink.linked().way.data
    way = way if way in WAYS else ""
    stay, closed = "1" if options.stay else None, None if options.new_universes else "1"
    link = partial(
        url_for,
        "proposals.repair",
        show_id=show_id,
        u=request.args.get("u"),
        willing=",".join(map(str, sorted(options.willing))) or None,
    )
    found = [
        OtherWay(words, link(way=name or None, stay=stay, closed=closed), compute)
        for name, (words, compute) in WAYS.items()
        if name != way
    ]
    bounds = (
        ("Keep each in its universe", "1", "1"),
        ("Only in the universes that are there", None, "1"),
        ("A new universe may be opened", None, None),
    )
    found += [
        OtherWay(words, link(way=way or None, stay=stays, closed=shut))
        for words, stays, shut in bounds
        if (stays, shut) != (stay, closed)
    ]
    return found


def _touched(show: Show, repair: Repair) -> str:
    """What a repair touches: how many move, and how many of these are set at the fixture
    already."""
    done = len(again(show, repair.show).fixtures)
    moves = counted(len(repair.moves), "move")
    lost = f", {len(repair.unplaced)} without a place" if repair.unplaced else ""
    return f"{moves}, {done} of them set already{lost}"


def _repair_title(saved: SavedShow, repair: Repair) -> str:
    if repair.moves:
        return f"Move {len(repair.moves)} of {len(repair.moves) + repair.kept}"
    return "Nothing can be moved" if saved.analysis.address_stops else "Nothing to move"


def _repair_words(saved: SavedShow, repair: Repair) -> str:
    show = saved.show
    asked = ProposalsEither.either()
    lost = [show.fixture(fixture_id).label for fixture_id in repair.unplaced]
    words = _why_nothing_moves(saved) if not repair.moves else ""
    words += f"{counted(repair.kept, 'fixture stays where it is', 'fixtures stay where they are')}"
    words += " (those with an address, sharing ones counted once)."
    if repair.proven and repair.moves:
        words += " Proven: no repair moves less."
    elif repair.moves:
        fewest = not asked.way.data
        words += " The best that was found; a smaller repair is not ruled out." if fewest else ""
    if lost:
        words += f" No gap is left for {', '.join(lost[:5])}{' and more' if len(lost) > 5 else ''}."
    return words


def _why_nothing_moves(saved: SavedShow) -> str:
    """Why no move mends the stops that there are, the pinned ones by name; empty without stops."""
    stops = saved.analysis.address_stops
    if not stops:
        return ""
    held = dict.fromkeys(fixture for stop in stops for fixture in stop.fixtures)
    pinned = [one.label for one in map(saved.show.fixture, held) if one.pinned]
    why = (
        f"{joined(pinned, most=5)} {'is' if len(pinned) == 1 else 'are'} pinned. " if pinned else ""
    )
    return f"No move of addresses mends what is left: look at each finding. {why}"


@blueprint.post("/mend")
def take_mend(show_id: int) -> BaseResponse | str:
    """Take a mend."""
    form = valid(MendForm())
    before = load_for_edit(show_id)
    chosen = _mend_of(before, form.finding.data or "", form.mend.data or 0)
    return saved_board(before, apply_mend(before.show, chosen), asked_for())


@blueprint.post("/repair")
def take_repair(show_id: int) -> BaseResponse | str:
    """Take the repair of the whole show."""
    valid(StepForm())
    before = load_for_edit(show_id)
    return saved_board(
        before, _repair(before.show, _options()).show, replace(asked_for(), pick=None, also=())
    )


def seen_first(error: UnseenStops, title: str, fields: Sequence[tuple[str, str]]) -> str:
    """An edit that makes new stops, as a preview on the board."""
    words = f"Not done yet: it makes {counted(len(error.stops), 'new stop')}."
    carried = ("revision", "u", "also", "turned")
    shown = tuple((name, value) for name, value in fields if name not in carried)
    proposed = ProposedEdit(
        error.after,
        title,
        words,
        request.path,
        shown,
        "Apply anyway",
        with_repair=moves_of_repair(error.before, error.after),
    )
    around = universe_after(error.before.show, error.after, asked_for())
    return board_page(error.before, around, proposed)


def moves_of_repair(before: SavedShow, after: Show) -> str:
    """Who would move to where if an edit is repaired, in words; empty where that ends no stop."""
    repaired = mended(before, after)
    if repaired == after or analyse(repaired).verdict.stops >= analyse(after).verdict.stops:
        return ""
    held = after.fixture_by_id
    moves = [
        f"{new.label} goes to {new.planned_at}"
        for new in repaired.fixtures
        if (old := held.get(new.id)) is not None and old.patch != new.patch
    ]
    left = analyse(repaired).verdict.stops
    ends = f" {counted(left, 'stop')} left." if left else ""
    return f"{joined(moves, most=4) or 'Lines and ports follow'}.{ends}"
