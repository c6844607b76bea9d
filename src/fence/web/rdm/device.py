"""One device that answers: all that it says, who it is, and what can be set at it by hand."""

from __future__ import annotations

from dataclasses import dataclass, replace
from uuid import uuid4

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.datastructures.structures import ImmutableMultiDict
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.address import SLOTS
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.text import counted, whole_number
from fence.core.rdm.charting import all_slots, chart_said, slots_of
from fence.core.rdm.course import Goal, run_bits
from fence.core.rdm.device_info import FLAGS, hear_out
from fence.core.rdm.device_matching import Sure
from fence.core.rdm.packet import Parameter
from fence.core.rdm.setting import Wish, in_words, stands_said, wish_for
from fence.core.rdm.values import LONGEST_WORDS
from fence.store.people import Role
from fence.store.shows import SavedShow
from fence.web.access.guard import NotYours, role, seat
from fence.web.charts.entering import keep_told
from fence.web.frame import Frame, frame
from fence.web.pages import drafts, load, load_for_edit, pages, save, store, who, works
from fence.web.rdm.forms import DeviceStep
from fence.web.rdm.page import (
    ANSWERS,
    Look,
    RdmSet,
    Row,
    WouldSet,
    asked_again,
    begin,
    look_now,
    row_of,
    tabs,
)
from fence.web.showing import Showing
from fence.wire.rdm_ports import talking
from fence.work.rdm_jobs import SHORT_SECONDS, Work
from fence.work.rdm_recording import record

FACTORY, ANEW = (Parameter.FACTORY_DEFAULTS, b""), (Parameter.RESET, b"\xff")
CHART_SECONDS = 180.0
"""How long reading a chart through all modes may take."""

blueprint = Blueprint("device", __name__, url_prefix="/shows/<int:show_id>/rdm/device/<name>")


@blueprint.get("")
def index(show_id: int, name: str) -> str:
    """One device: all that it says, and what can be set."""
    return _page(load(show_id), name)


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmOne(Showing):
    """What is shown by ``rdm/one.html``."""

    template = "rdm/one.html"
    frame: Frame
    saved: SavedShow
    row: Row
    words: dict[Sure, tuple[str, str]]
    tabs: list[tuple[str, str]]
    typed: ImmutableMultiDict[str, str]
    problem: str
    free: list[Fixture]
    flags: list[str]
    reset: bool
    factory: bool
    work: Work | None


def _page(saved: SavedShow, name: str, problem: str = "") -> str:
    look = look_now(saved)
    row = row_of(look, name)
    taken = {held.fixture.id for held in look.rows if held.fixture and held.sure is Sure.CERTAIN}
    return RdmOne(
        frame=frame(saved, "Prove"),
        saved=saved,
        row=row,
        words=ANSWERS,
        tabs=tabs(saved.id),
        typed=request.form,
        problem=problem,
        free=[
            f
            for f in saved.show.fixtures
            if f.id not in taken or (row.fixture and f.id == row.fixture.id)
        ][:500],
        flags=[flag for flag in FLAGS if getattr(row.said, flag) is not None],
        reset=Parameter.RESET in row.said.knows,
        factory=Parameter.FACTORY_DEFAULTS in row.said.knows and role().may(Role.PLANNER),
        work=works().of(saved.key),
    ).rendered()


@blueprint.post("/set")
def put(show_id: int, name: str) -> BaseResponse | str | tuple[str, int]:
    """Set one device by hand: its mode, address, label, how it is turned. It is seen before it is
    done."""
    form = DeviceStep.sent()
    saved = load(show_id)
    look = look_now(saved)
    row = row_of(look, name)
    try:
        wish = _typed(look, saved, row)
    except EditError as error:
        return _page(saved, name, str(error)), 422
    changes = in_words(wish, row.said)
    if not changes:
        return _page(saved, name, "It stands like that already: nothing would change."), 422
    if not form.seen.data:
        return RdmSet(
            frame=frame(saved, "Prove"),
            saved=saved,
            rows=[WouldSet(row.title, row.name, changes)],
            asked=asked_again(),
            action=url_for("device.put", show_id=show_id, name=name),
            back=url_for("device.index", show_id=show_id, name=name),
        ).rendered()
    begin(saved, look, {name: wish}, by_hand=form.sure.data)
    return redirect(url_for("rdm.index", show_id=show_id))


def _typed(look: Look, saved: SavedShow, row: Row) -> Wish:
    """What was typed for one device; ``EditError`` for what it cannot take, or what others listen
    to."""
    form, said = request.form, row.said
    personality = whole_number(form.get("personality", "")) or said.personality
    held = next((one for one in said.personalities if one.number == personality), None)
    if held is None:
        raise EditError(f"It has modes 1 to {len(said.personalities)}: choose one of them.")
    footprint = held.footprint or said.footprint
    goals: tuple[Goal, ...] = ()
    if said.address is not None:
        address = whole_number(form.get("address", ""))
        last = SLOTS + 1 - max(1, footprint)
        if address is None or not 1 <= address <= last:
            typed = form.get("address", "")[:20]
            raise EditError(
                f"“{typed}” cannot be its address. Use 1 to {last} in a mode of {footprint}."
            )
        bits = run_bits(address, footprint)
        for (identity, _), stand in stands_said(
            [s for s in look.answers.said if s is not said]
        ).items():
            mine = identity != said.identity and stand.universe == said.universe
            if mine and stand.bits & bits and not form.get("sure"):
                other = next(
                    r.title for r in (*look.rows, *look.strange) if r.said.identity == identity
                )
                raise EditError(
                    f"{other} listens there: choose another address, or tick that both shall."
                )
        goals = (Goal(said.identity, 0, personality, footprint, address),)
    label = form.get("label", said.label).strip()
    if len(label.encode()) > LONGEST_WORDS:
        raise EditError(
            f"A label has up to {LONGEST_WORDS} characters: this one has {len(label.encode())}."
        )
    turned = tuple(
        (f, bool(form.get(f))) for f in FLAGS if getattr(said, f) not in (None, bool(form.get(f)))
    )
    return Wish(goals, label if label != said.label else None, turned)


@blueprint.post("/reset")
def reset(show_id: int, name: str) -> BaseResponse | tuple[str, int]:
    """Have a device start anew, or take the settings of its maker."""
    form = DeviceStep.sent()
    if form.what.data == "factory" and not role().may(Role.PLANNER):
        raise NotYours(role(), Role.PLANNER)
    saved = load(show_id)
    look = look_now(saved)
    row, factory = row_of(look, name), form.what.data == "factory"
    if not form.sure.data:
        return _page(
            saved, name, "Tick first that it may move and go dark, and that nobody is near it."
        ), 422
    words = "has its factory defaults again" if factory else "starts anew"
    store_, answers, whose = store(), pages().answers, who()

    def act(work: Work) -> None:
        with talking(look.answers.bind, SHORT_SECONDS) as lines:
            talk = lines.talk_with(row.said)
            talk.set(row.said.identity, *(FACTORY if factory else ANEW))
            now = hear_out(
                talk,
                row.said.identity,
                box=row.said.box,
                port=row.said.port,
                universe=row.said.universe,
            )
        answers.put(show_id, {name: now})
        if row.fixture is not None:
            record(store_, show_id, {row.fixture.id: now}, whose)
        about = row.fixture.id if row.fixture else None
        store_.tell(show_id, f"{row.title} {words}", who=whose, origin="RDM", about=about)
        work.told = f"{row.title} {words}."

    works().do(saved.key, f"Reset of {row.title}", act)
    return redirect(url_for("device.index", show_id=show_id, name=name))


@blueprint.post("/who")
def who_is(show_id: int, name: str) -> BaseResponse:
    """Say which fixture a device is; its identity is kept with the fixture from then on."""
    form = DeviceStep.sent()
    before = load_for_edit(show_id)
    row = row_of(look_now(before), name)
    if form.spare.data:
        works().check_free(before.key)
    fixture = before.show.fixture(form.fixture.data or 0)
    if form.spare.data:
        after = edits.take_place(before.show, fixture.id, name)
    else:
        after = edits.keep_identities(before.show, {fixture.id: name})
    save(before, after)
    pages().answers.tell(show_id, name, fixture.id)
    flash(f"{row.said.title} {name} is {fixture.label}.")
    if form.spare.data:
        saved = load(show_id)
        look = look_now(saved)
        pairs = [pair for pair in look.match.pairs if str(pair.said.identity) == name]
        begin(
            saved,
            look,
            {str(pair.said.identity): wish_for(saved.show, pair, label=True) for pair in pairs},
        )
        return redirect(url_for("rdm.index", show_id=show_id))
    return redirect(url_for("device.index", show_id=show_id, name=name))


@blueprint.post("/chart")
def chart(show_id: int, name: str) -> BaseResponse:
    """A chart from what a device says of its slots, to be completed where charts are pasted."""
    form = DeviceStep.sent()
    saved = load(show_id)
    look = look_now(saved)
    said, every = row_of(look, name).said, form.modes.data
    draft_id, kept = uuid4().hex, drafts()
    to = url_for("entering.paste", show_id=show_id, said=draft_id)

    def act(work: Work) -> None:
        with talking(look.answers.bind, CHART_SECONDS) as lines:
            talk = lines.talk_with(said)
            if every:
                slots = all_slots(talk, said)
            else:
                slots = {said.personality: slots_of(talk, said.identity, said.footprint)}
        made = chart_said(said, slots)
        told = tuple(mode for mode in made.modes if any(part.channels for part in mode.parts))
        if not told:
            raise EditError(
                f"{said.title} says nothing of its slots: its chart has to be typed, or pasted."
            )
        keep_told(kept, replace(made, modes=told), draft_id)
        work.told = (
            f"Said by the fixture: {counted(len(told), 'mode')} of {len(made.modes)}. "
            "Complete it by hand."
        )
        work.to = to

    works().do(saved.key, f"Chart of {said.title}", act, seat=seat())
    return redirect(url_for("device.index", show_id=show_id, name=name))
