"""Who answers over RDM: asking, blinking, who is who, and setting one, a pick, or all that
differ."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC
from ipaddress import IPv4Interface

from flask import Blueprint, flash, make_response, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.model.box import as_ip
from fence.core.model.errors import EditError, FenceError
from fence.core.model.record import How, Witness
from fence.core.model.text import counted
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.device_matching import Pair, Sure
from fence.core.rdm.packet import Parameter
from fence.core.rdm.rig_from_devices import settable
from fence.core.rdm.setting import Wish, in_words, is_empty, wish_for
from fence.store.answers import Answers
from fence.store.shows import SavedShow
from fence.web.access.guard import seat
from fence.web.frame import Frame, frame
from fence.web.network.look import likely_bind
from fence.web.pages import load, load_for_edit, save, store, who, works
from fence.web.prove.sending import rigs
from fence.web.rdm.forms import RdmStep
from fence.web.rdm.page import (
    ANSWERS,
    Look,
    RdmSet,
    Somewhere,
    WouldSet,
    answers_of,
    asked_again,
    begin,
    bind_for,
    look_at,
    look_now,
    practice_place,
    row_of,
    somewheres,
    tabs,
    when_words,
)
from fence.web.showing import Showing
from fence.wire.interfaces import interfaces
from fence.wire.node_discovery import check_bind
from fence.wire.rdm import TooLong
from fence.wire.rdm_ports import talking
from fence.wire.targets import Reach
from fence.work.rdm_jobs import SHORT_SECONDS, Hold, Work
from fence.work.rdm_recording import with_readings

blueprint = Blueprint("rdm", __name__, url_prefix="/shows/<int:show_id>/rdm")

MOST_LISTED = 1000
ALL_SECONDS = 120.0
"""How long it may take until nobody blinks any more."""


@blueprint.get("")
def index(show_id: int) -> str:
    """Who answered last, beside the plan. Nothing is sent by looking."""
    return _page(load(show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmIndex(Showing):
    """What is shown by ``rdm/index.html``."""

    template = "rdm/index.html"
    frame: Frame
    saved: SavedShow
    look: Look | None
    at: str
    places: list[Somewhere]
    practice: bool
    work: Work | None
    hold: Hold | None
    tabs: list[tuple[str, str]]
    words: dict[Sure, tuple[str, str]]
    bind: str
    here: list[IPv4Interface]
    problem: str
    most: int


def _page(saved: SavedShow, problem: str = "") -> str:
    form = RdmStep.sent()
    answers = answers_of(saved.id)
    return RdmIndex(
        frame=frame(saved, "Prove"),
        saved=saved,
        look=look_at(saved.show, answers) if answers else None,
        at=when_words(answers) if answers else "",
        places=somewheres(saved),
        practice=rigs().of(saved) is not None,
        work=works().of(saved.key),
        hold=works().hold_of(saved.key),
        tabs=tabs(saved.id),
        words=ANSWERS,
        bind=form.bind.data or likely_bind(saved.show),
        here=interfaces(),
        problem=problem,
        most=MOST_LISTED,
    ).rendered()


@blueprint.post("/ask")
def ask(show_id: int) -> BaseResponse | tuple[str, int]:
    """Ask who is there: the boxes that are ticked, or the practice rig, which is started if it does
    not run."""
    form = RdmStep.sent()
    saved = load(show_id)
    wanted = form.place.data
    try:
        if "practice" in wanted and form.anew.data:
            rigs().start(saved)
        chosen = [one for one in somewheres(saved) if one.key in wanted]
        if "practice" in wanted and not any(one.key == "practice" for one in chosen):
            chosen.append(practice_place(saved.show, rigs().start(saved)))
        practice = rigs().of(saved) if "practice" in wanted else None
        if not chosen:
            raise EditError("Tick at least one node, or the practice rig.")
        if len(chosen) > 1 and any(one.key == "practice" for one in chosen):
            raise EditError(
                "Ask the practice rig by itself: it is on this machine, and the nodes are not."
            )
        bind = str(as_ip(bind_for(saved, chosen)))
        check_bind(bind)
        reach = Reach.here()
        for one in chosen:
            reach.check(one.ip)
        works().ask(
            saved.key,
            show_id,
            bind,
            [place for one in chosen for place in one.places],
            first=practice.wait if practice is not None else _at_once,
        )
    except FenceError as error:
        return _page(saved, str(error)), 422
    return redirect(url_for("rdm.index", show_id=show_id))


def _at_once() -> None:
    """There is nothing to wait for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmProgress(Showing):
    """What is shown by ``rdm/_progress.html``."""

    template = "rdm/_progress.html"
    saved: SavedShow
    work: Work | None


@blueprint.get("/progress")
def progress(show_id: int) -> BaseResponse | str:
    """How far the work is; when it is over the page is drawn anew, or it is gone on to where the
    work leads."""
    saved = load(show_id)
    work = works().of(saved.key)
    answer = RdmProgress(saved=saved, work=work).rendered()
    if work is None or work.over:
        made = make_response(answer)
        if work is not None and work.to and work.seat == seat():
            made.headers["HX-Redirect"] = work.to
        else:
            made.headers["HX-Refresh"] = "true"
        return made
    return answer


@blueprint.post("/stop")
def stop(show_id: int) -> BaseResponse:
    """Stop the work after the step that it is at."""
    work = works().of(load(show_id).key)
    if work is not None:
        work.stop.set()
    return redirect(url_for("rdm.index", show_id=show_id))


@blueprint.post("/blink")
def blink(show_id: int) -> BaseResponse:
    """Make a device show itself, or end that; with ``off`` for all, every one that answered
    stops."""
    form = RdmStep.sent()
    saved = load(show_id)
    look, on = look_now(saved), form.on.data == "1"
    name = form.identity.data
    rows = [row_of(look, name)] if name else [*look.rows, *look.strange]
    if on and len(rows) > 1:
        raise EditError("One at a time shows itself: all at once say nothing.")
    devices = [row.said for row in rows]

    def act(work: Work) -> None:
        failed = _blink(look.answers, devices, on=on, work=work)
        work.failed = tuple(failed)
        if on and not failed:
            work.told = (
                f"{rows[0].title} shows itself now: it flashes or moves. Stop it when it was seen."
            )
        elif not on:
            work.told = "It shows itself no more." if name else "Nobody shows itself any more."
        if failed:
            work.told = f"{counted(len(failed), 'device')} did not do it."
        if work.done < work.of:
            work.told = f"Stopped: {work.done} of {counted(work.of, 'device')} were told."

    works().do(saved.key, "Identify" if on else "Identify off", act, about=name)
    return _back(show_id, name)


def _blink(
    answers: Answers, devices: Sequence[DeviceInfo], *, on: bool, work: Work
) -> list[tuple[str, str]]:
    """Who did not do it, with why."""
    failed = []
    work.of = len(devices)
    with talking(answers.bind, SHORT_SECONDS if len(devices) == 1 else ALL_SECONDS) as lines:
        for said in devices:
            if work.stop.is_set():
                break
            try:
                lines.talk_with(said).set(said.identity, Parameter.IDENTIFY, bytes((on,)))
            except TooLong:
                raise
            except FenceError as error:
                failed.append((said.label or str(said.identity), str(error)))
            work.done += 1
    return failed


def _back(show_id: int, name: str) -> BaseResponse:
    form = RdmStep.sent()
    if name and form.origin.data == "one":
        return redirect(url_for("device.index", show_id=show_id, name=name))
    return redirect(
        url_for("rdm.index", show_id=show_id) + (f"#d-{name.replace(':', '-')}" if name else "")
    )


@blueprint.post("/set")
def put(show_id: int) -> BaseResponse | str:
    """Set devices as their fixtures are planned: those ticked, or all that differ. It is seen
    before it is done."""
    form = RdmStep.sent()
    saved = load(show_id)
    look = look_now(saved)
    names, every = form.identities.data, form.what.data == "all"
    guesses = form.guesses.data
    if every:
        pairs = [
            p
            for p in settable(look.match, guesses=guesses)
            if not is_empty(_wish(saved, p), p.said)
        ]
    else:
        pairs = [
            pair for pair in settable(look.match, guesses=True) if str(pair.said.identity) in names
        ]
    if not pairs:
        raise EditError(_why_nobody(look, every=every, guesses=guesses))
    unsure = [pair for pair in pairs if pair.sure in (Sure.GUESS, Sure.ANY)]
    if unsure and not guesses:
        raise EditError(
            f"{unsure[0].fixture.label} is only guessed: identify it and say who it is, "
            "or tick that guesses are set as well."
        )
    wishes = {str(pair.said.identity): _wish(saved, pair) for pair in pairs}
    if not form.seen.data:
        return RdmSet(
            frame=frame(saved, "Prove"),
            saved=saved,
            rows=[
                WouldSet(
                    pair.fixture.label,
                    str(pair.said.identity),
                    in_words(wishes[str(pair.said.identity)], pair.said),
                )
                for pair in pairs
            ],
            asked=asked_again(),
            action=url_for("rdm.put", show_id=show_id),
            back=url_for("rdm.index", show_id=show_id),
        ).rendered()
    begin(saved, look, wishes)
    return redirect(url_for("rdm.index", show_id=show_id))


def _why_nobody(look: Look, *, every: bool, guesses: bool) -> str:
    """Why there is nobody to set, in words."""
    if not every:
        return "Tick those that are to be set, or choose all that differ."
    if look.unsure and not guesses:
        return (
            "Nobody differs of those that are surely known, and the others are only guessed: make "
            "them identify and say "
            "who is who, or tick that the guessed ones are set, too."
        )
    return "Nobody differs."


def _wish(saved: SavedShow, pair: Pair) -> Wish:
    """What is to be set at a device, with what was ticked beside mode and address."""
    form = RdmStep.sent()
    label, display = form.labels.data, form.displays.data
    return wish_for(saved.show, pair, label=label, display=display)


@blueprint.post("/keep")
def keep(show_id: int) -> BaseResponse:
    """Keep what was said: as read back, and who is who, for those that are surely known."""
    before = load_for_edit(show_id)
    look = look_now(before)
    sure = [
        row
        for row in look.rows
        if row.sure in (Sure.CERTAIN, Sure.LIKELY) and row.fixture and not row.said.problem
    ]
    at = look.answers.at.replace(tzinfo=UTC) if look.answers.at else None
    by = Witness(who(), at or store().clock().replace(tzinfo=UTC), How.RDM)
    after = with_readings(
        before.show, {row.fixture.id: row.said for row in sure if row.fixture}, by
    )
    after = edits.keep_identities(after, {row.fixture.id: row.name for row in sure if row.fixture})
    after = edits.keep_newer(before.show, after)
    save(before, after)
    flash(describe(before.show, after) or "All of that is kept already.")
    return redirect(url_for("rdm.index", show_id=show_id))
