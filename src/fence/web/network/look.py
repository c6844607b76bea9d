"""Looking for boxes on the network, only when somebody asks for it; what was found beside the plan;
taking it over."""

from __future__ import annotations

from dataclasses import dataclass
from ipaddress import IPv4Interface
from uuid import uuid4

from flask import Blueprint, current_app, flash, redirect, request, url_for
from pydantic import TypeAdapter, ValidationError
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.checks import analyse, news_of_the_plan
from fence.core.checks.finding import Finding, Verdict
from fence.core.edits.prose import describe
from fence.core.model.box import as_ip
from fence.core.model.errors import EditError, FenceError
from fence.core.model.network import desk_of
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.core.network.found import (
    Beside,
    Found,
    FoundBox,
    FoundSource,
    add_found,
    compare,
    compare_sources,
    note_found,
)
from fence.store.shows import SavedShow
from fence.web.access.guard import seat
from fence.web.frame import Frame, frame
from fence.web.network.forms import LookStep
from fence.web.pages import drafts, load, load_for_edit, save, witness, works
from fence.web.showing import Showing
from fence.wire.interfaces import interfaces
from fence.wire.node_discovery import SECONDS, check_bind, look
from fence.wire.targets import Reach
from fence.work.rdm_jobs import Work

blueprint = Blueprint("look", __name__, url_prefix="/shows/<int:show_id>/network/look")

FOUND = TypeAdapter(Found)
FILE = "found on the network"
LOOKING = "Looking for nodes"
MOST_ASKED = 250


@blueprint.get("")
def index(show_id: int) -> str:
    """Choose where to look from."""
    saved = load(show_id)
    return _page(saved, {"bind": likely_bind(saved.show), "to": "", "sources": "1"}, "")


def _looking(saved: SavedShow) -> Work | None:
    """The look that goes on, or has ended without anything to lead on to."""
    work = works().of(saved.key)
    return work if work is not None and work.title == LOOKING and not work.to else None


def likely_bind(show: Show) -> str:
    """The address of this machine that is in the desk's network, else its first outside address,
    else its own."""
    desk, here = desk_of(show), interfaces()
    if desk and desk.interface:
        near = [held for held in here if held.ip in desk.interface.network]
        if near:
            return str(near[0].ip)
    outside = [held for held in here if not held.ip.is_loopback]
    return str((outside or here)[0].ip) if here else "127.0.0.1"


def _found_last(saved: SavedShow) -> str:
    """Where stands what the last look of this browser found; empty where it has found nothing
    lately."""
    work = works().of(saved.key)
    return work.to if work is not None and work.title == LOOKING and work.seat == seat() else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkLook(Showing):
    """What is shown by ``network/look.html``."""

    template = "network/look.html"
    frame: Frame
    saved: SavedShow
    typed: dict[str, str]
    problem: str
    here: list[IPv4Interface]
    work: Work | None
    last: str
    seconds: float


def _page(saved: SavedShow, typed: dict[str, str], problem: str) -> str:
    return NetworkLook(
        frame=frame(saved, "Network"),
        saved=saved,
        typed=typed,
        problem=problem,
        here=interfaces(),
        work=_looking(saved),
        last=_found_last(saved),
        seconds=current_app.config.get("LOOK_SECONDS", SECONDS),
    ).rendered()


@blueprint.post("")
def ask(show_id: int) -> BaseResponse | tuple[str, int]:
    """Begin to look, once, for a few seconds; what was found is kept until other files take its
    place."""
    saved = load(show_id)
    typed = {name: request.form.get(name, "")[:5000] for name in ("bind", "to", "sources")}
    try:
        bind = str(as_ip(typed["bind"]))
        to = [str(as_ip(word)) for word in typed["to"].replace(",", " ").split()]
        if len(to) > MOST_ASKED:
            raise EditError(f"{len(to)} addresses were typed. Use up to {MOST_ASKED}.")
        universes = tuple(saved.show.carried) if typed["sources"] else None
        check_bind(bind)
        reach = Reach.here()
        for target in to:
            reach.check(target)
        _begin(saved, bind, to, universes)
    except FenceError as error:
        return _page(saved, typed, str(error)), 422
    return redirect(url_for("look.index", show_id=show_id))


def _begin(saved: SavedShow, bind: str, to: list[str], universes: tuple[int, ...] | None) -> None:
    """Begin to look, in a thread; what was found is seen on a page of its own."""
    seconds = current_app.config.get("LOOK_SECONDS", SECONDS)
    draft_id, kept = uuid4().hex, drafts()
    there = url_for("look.found", show_id=saved.id, draft_id=draft_id)

    def act(work: Work) -> None:
        found = look(bind, to, seconds=seconds, universes=universes)
        kept.keep(FILE, FOUND.dump_json(found), draft_id=draft_id)
        work.told = f"{counted(len(found.boxes), 'node', 'nodes')} answered."
        work.to = there

    works().do(saved.key, LOOKING, act, seat=seat())


def kept_look(draft_id: str) -> Found:
    """What a look found; ``EditError`` where that is gone."""
    draft = drafts().get(draft_id)
    try:
        return FOUND.validate_json(draft.content)
    except ValidationError:
        raise EditError("That is nothing that was found on the network: look once more.") from None


@blueprint.get("/<draft_id>")
def found(show_id: int, draft_id: str) -> str:
    """What was found, beside the plan."""
    return _found_page(load(show_id), draft_id, kept_look(draft_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkFound(Showing):
    """What is shown by ``network/found.html``."""

    template = "network/found.html"
    frame: Frame
    saved: SavedShow
    draft_id: str
    kept: Found
    beside: list[Beside]
    sources: list[str]
    heard: tuple[FoundSource, ...]
    chosen: int | None
    what: str
    told: str
    before: Verdict
    after: Verdict | None
    new_findings: tuple[Finding, ...]


def _found_page(
    saved: SavedShow, draft_id: str, kept: Found, chosen: int | None = None, what: str = ""
) -> str:
    beside = compare(saved.show, kept.boxes)
    proposed = _taken(saved.show, beside, chosen, what) if chosen is not None else None
    then = analyse(proposed) if proposed else None
    return NetworkFound(
        frame=frame(saved, "Network"),
        saved=saved,
        draft_id=draft_id,
        kept=kept,
        beside=beside,
        sources=compare_sources(saved.show, kept.sources),
        heard=kept.sources,
        chosen=chosen,
        what=what,
        told=describe(saved.show, proposed) if proposed else "",
        before=saved.analysis.verdict,
        after=then.verdict if then else None,
        new_findings=news_of_the_plan(saved.analysis, then)[:6] if then else (),
    ).rendered()


@blueprint.post("/<draft_id>")
def take(show_id: int, draft_id: str) -> BaseResponse | str:
    """Take over what a box says: seen first, then done."""
    form = LookStep.sent()
    before = load_for_edit(show_id)
    kept = kept_look(draft_id)
    place, what = form.place.data, form.what.data
    if not form.seen.data:
        return _found_page(before, draft_id, kept, place, what)
    after = _taken(before.show, compare(before.show, kept.boxes), place, what)
    save(before, after)
    flash(describe(before.show, after) or "Nothing to change.")
    return redirect(url_for("look.found", show_id=show_id, draft_id=draft_id))


def _taken(show: Show, beside: list[Beside], place: int, what: str) -> Show:
    """The show with one of the boxes, or all, taken over. ``place`` is where it stands on the page;
    -1 is all."""
    chosen = beside if place == -1 else beside[place : place + 1]
    for held in chosen:
        if held.found is not None:
            show = _one(show, held, held.found, what)
    return show


def _one(show: Show, held: Beside, found: FoundBox, what: str) -> Show:
    if held.box is None:
        return add_found(show, found, witness()) if what in ("add", "plan") else show
    if what == "note":
        return note_found(show, held.box.id, found, witness())
    if what == "plan":
        return note_found(show, held.box.id, found, witness(), as_plan=True)
    raise EditError("Say what to take over: what the node says, or all of it as the plan.")


@blueprint.post("/by-hand")
def by_hand(show_id: int) -> BaseResponse:
    """Add a box that never answers, by its address."""
    form = LookStep.sent()
    before = load_for_edit(show_id)
    ip = str(as_ip(form.ip.data))
    after = edits.add_box(before.show, form.name.data or f"Node at {ip}")
    after = edits.change_box(after, after.boxes[-1].id, ip=ip)
    save(before, after, seen=True)
    flash(describe(before.show, after))
    return redirect(url_for("network.index", show_id=show_id, box=after.boxes[-1].id))
