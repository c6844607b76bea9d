"""Who answers over RDM: asking, blinking, who is who, and setting one, a pick, or all that differ."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC

from flask import Blueprint, flash, make_response, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.changes import edits
from fence.core.changes.prose import describe
from fence.core.rdm.charting import SlotsOf, all_slots, chart_said, slots_of
from fence.core.rdm.course import Goal, run_bits
from fence.core.rdm.matching import Pair, Sure
from fence.core.rdm.packet import Parameter
from fence.core.rdm.said import FLAGS, Said, hear_out
from fence.core.rdm.setting import Wish, is_empty, slots_of_others, stands_said, wish_for
from fence.core.rdm.values import LONGEST_WORDS
from fence.core.words.address import SLOTS
from fence.core.words.box import as_ip
from fence.core.words.errors import EditError, FenceError
from fence.core.words.record import How, Witness
from fence.core.words.text import counted, whole_number
from fence.store.answers import Answers
from fence.store.shows import SavedShow
from fence.web.charts.entering import keep_told
from fence.web.frame import frame
from fence.web.network.look import likely_bind
from fence.web.pages import load, load_for_edit, pages, save, store, who
from fence.web.prove.sending import rigs
from fence.web.rdm.page import (
    ANSWERS,
    Look,
    Row,
    answers_of,
    bind_for,
    look_at,
    names_of,
    practice_place,
    somewheres,
    tabs,
    when_words,
    works,
)
from fence.web.rdm.work import record, with_readings
from fence.wire.answering import talking
from fence.wire.looking import interfaces

blueprint = Blueprint("rdm", __name__, url_prefix="/shows/<int:show_id>/rdm")

MOST_LISTED = 1000


@blueprint.get("")
def index(show_id: int) -> str:
    """Who answered last, beside the plan. Nothing is sent by looking."""
    return _page(load(show_id))


def _page(saved: SavedShow, problem: str = "") -> str:
    answers = answers_of(saved.id)
    return render_template(
        "rdm/index.html",
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
        bind=request.form.get("bind") or likely_bind(saved.show),
        here=interfaces(),
        problem=problem,
        most=MOST_LISTED,
    )


@blueprint.post("/ask")
def ask(show_id: int) -> BaseResponse | tuple[str, int]:
    """Ask who is there: the boxes that are ticked, or the practice rig, which is started if it does not run."""
    saved = load(show_id)
    wanted = request.form.getlist("place")
    try:
        chosen = [one for one in somewheres(saved) if one.key in wanted]
        if "practice" in wanted and not any(one.key == "practice" for one in chosen):
            chosen.append(practice_place(saved.show, rigs().start(saved)))
        if not chosen:
            raise EditError("Tick at least one box, or the practice rig.")
        if len(chosen) > 1 and any(one.key == "practice" for one in chosen):
            raise EditError("Ask the practice rig by itself: it is on this machine, and the boxes are not.")
        bind = str(as_ip(bind_for(saved, chosen)))
        works().ask(saved.key, show_id, bind, [p for one in chosen for p in one.places], flush=True)
    except FenceError as error:
        return _page(saved, str(error)), 422
    return redirect(url_for("rdm.index", show_id=show_id))


@blueprint.get("/progress")
def progress(show_id: int) -> BaseResponse | str:
    """How far the work is; when it is over the page is drawn anew."""
    saved = load(show_id)
    work = works().of(saved.key)
    answer = render_template("rdm/_progress.html", saved=saved, work=work, poll=True)
    if work is None or work.over:
        made = make_response(answer)
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


def _look(saved: SavedShow) -> Look:
    """Who answered; ``EditError`` where nobody has asked yet."""
    answers = answers_of(saved.id)
    if answers is None:
        raise EditError("Nobody has asked yet who is there: ask first.")
    return look_at(saved.show, answers)


def _row(look: Look, name: str) -> Row:
    found = next((row for row in (*look.rows, *look.strange) if row.name == name), None)
    if found is None:
        raise EditError("That device is not among those that answered last: ask once more.")
    return found


@blueprint.post("/blink")
def blink(show_id: int) -> BaseResponse:
    """Make a device show itself, or end that; with ``off`` for all, every one that answered stops."""
    saved = load(show_id)
    look, on = _look(saved), request.form.get("on") == "1"
    name = request.form.get("identity", "")
    rows = [_row(look, name)] if name else [*look.rows, *look.strange]
    if on and len(rows) > 1:
        raise EditError("One at a time shows itself: all at once say nothing.")
    failed = _blink(look.answers, [row.said for row in rows], on=on)
    if failed:
        flash(f"{failed[0]}: {failed[1]}", "stop")
    elif on:
        flash(f"{rows[0].title} shows itself now: it blinks or moves. End it when it was seen.")
    else:
        flash("It shows itself no more." if name else "Nobody shows itself any more.")
    return _back(show_id, name)


def _blink(answers: Answers, devices: list[Said], *, on: bool) -> tuple[str, str] | None:
    """Who did not do it, with why; None where all did."""
    failed = None
    with talking(answers.bind) as lines:
        for said in devices:
            try:
                lines.talk_with(said).set(said.identity, Parameter.IDENTIFY, bytes((on,)))
            except FenceError as error:
                failed = failed or (said.label or str(said.identity), str(error))
    return failed


def _back(show_id: int, name: str) -> BaseResponse:
    if name and request.form.get("from") == "one":
        return redirect(url_for("rdm.one", show_id=show_id, name=name))
    return redirect(url_for("rdm.index", show_id=show_id) + (f"#d-{name.replace(':', '-')}" if name else ""))


@blueprint.post("/set")
def put(show_id: int) -> BaseResponse:
    """Set devices as their fixtures are planned: those ticked, or all that differ."""
    saved = load(show_id)
    look = _look(saved)
    names, every = request.form.getlist("identity"), request.form.get("what") == "all"
    guesses = bool(request.form.get("guesses"))
    pairs = _chosen(look, names, every=every, guesses=guesses)
    if every:
        pairs = [pair for pair in pairs if not is_empty(_wish(saved, pair), pair.said)]
    if not pairs:
        raise EditError("Nobody differs." if every else "Tick those that are to be set, or choose all that differ.")
    unsure = [pair for pair in pairs if pair.sure in (Sure.GUESS, Sure.ANY)]
    if unsure and not guesses:
        raise EditError(
            f"{unsure[0].fixture.label} is only guessed: make it blink and say who it is, "
            "or tick that guesses are set as well."
        )
    wishes = {str(pair.said.identity): _wish(saved, pair) for pair in pairs}
    begin(saved, look, wishes)
    return redirect(url_for("rdm.index", show_id=show_id))


def _chosen(look: Look, names: list[str], *, every: bool, guesses: bool) -> list[Pair]:
    if not every:
        return [pair for pair in look.match.pairs if str(pair.said.identity) in names and not pair.said.problem]
    sure = {Sure.CERTAIN, Sure.LIKELY} | ({Sure.GUESS, Sure.ANY} if guesses else set())
    return [pair for pair in look.match.pairs if pair.sure in sure and not pair.said.problem]


def _wish(saved: SavedShow, pair: Pair) -> Wish:
    """What is to be set at a device, with what was ticked beside mode and address."""
    label, display = bool(request.form.get("labels")), bool(request.form.get("displays"))
    return wish_for(saved.show, pair, label=label, display=display)


def begin(saved: SavedShow, look: Look, wishes: dict[str, Wish]) -> None:
    """Begin to set devices as wished."""
    names = names_of(look)
    fixed = slots_of_others(saved.show, look.match.pairs)
    works().put(saved.key, saved.id, look.answers, wishes, names, fixed, who=who())


@blueprint.get("/device/<name>")
def one(show_id: int, name: str) -> str:
    """One device: all that it says, and what can be set."""
    return _one(load(show_id), name)


def _one(saved: SavedShow, name: str, problem: str = "") -> str:
    look = _look(saved)
    row = _row(look, name)
    taken = {held.fixture.id for held in look.rows if held.fixture and held.sure is Sure.CERTAIN}
    return render_template(
        "rdm/one.html",
        frame=frame(saved, "Prove"),
        saved=saved,
        row=row,
        look=look,
        words=ANSWERS,
        tabs=tabs(saved.id),
        typed=request.form,
        problem=problem,
        free=[f for f in saved.show.fixtures if f.id not in taken or (row.fixture and f.id == row.fixture.id)][:500],
        flags=[flag for flag in FLAGS if getattr(row.said, flag) is not None],
        longest=LONGEST_WORDS,
        reset=Parameter.RESET in row.said.knows,
        factory=Parameter.FACTORY_DEFAULTS in row.said.knows,
    )


@blueprint.post("/device/<name>/set")
def set_one(show_id: int, name: str) -> BaseResponse | tuple[str, int]:
    """Set one device by hand: its mode, address, label, how it is turned."""
    saved = load(show_id)
    look = _look(saved)
    row = _row(look, name)
    try:
        wish = _typed(look, saved, row)
    except EditError as error:
        return _one(saved, name, str(error)), 422
    begin(saved, look, {name: wish})
    return redirect(url_for("rdm.index", show_id=show_id))


def _typed(look: Look, saved: SavedShow, row: Row) -> Wish:
    """What was typed for one device; ``EditError`` for what it cannot take, or what others listen to."""
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
            raise EditError(f"“{typed}” cannot be its address: accepted are 1 to {last} in a mode of {footprint}.")
        bits = run_bits(address, footprint)
        for (identity, _), stand in stands_said([s for s in look.answers.said if s is not said]).items():
            mine = identity != said.identity and stand.universe == said.universe
            if mine and stand.bits & bits and not form.get("sure"):
                other = next(r.title for r in (*look.rows, *look.strange) if r.said.identity == identity)
                raise EditError(f"{other} listens there: choose another address, or tick that both shall.")
        goals = (Goal(said.identity, 0, personality, footprint, address, "by hand" if form.get("sure") else ""),)
    label = form.get("label", "").strip()
    if len(label.encode()) > LONGEST_WORDS:
        raise EditError(f"A label has up to {LONGEST_WORDS} characters: this one has {len(label.encode())}.")
    turned = tuple((f, bool(form.get(f))) for f in FLAGS if getattr(said, f) not in (None, bool(form.get(f))))
    return Wish(goals, label if label != said.label else None, turned)


@blueprint.post("/device/<name>/reset")
def reset(show_id: int, name: str) -> BaseResponse | tuple[str, int]:
    """Have a device start anew, or take the settings of its maker."""
    saved = load(show_id)
    look = _look(saved)
    row, factory = _row(look, name), request.form.get("what") == "factory"
    if not request.form.get("sure"):
        return _one(saved, name, "Tick first that it may move and go dark, and that nobody is near it."), 422
    parameter, data = (Parameter.FACTORY_DEFAULTS, b"") if factory else (Parameter.RESET, b"\xff")
    with talking(look.answers.bind) as lines:
        talk = lines.talk_with(row.said)
        talk.set(row.said.identity, parameter, data)
        now = hear_out(talk, row.said.identity, box=row.said.box, port=row.said.port, universe=row.said.universe)
    pages().answers.put(show_id, {name: now})
    words = "has the settings of its maker again" if factory else "starts anew"
    about = row.fixture.id if row.fixture else None
    if row.fixture is not None:
        record(store(), show_id, {row.fixture.id: now}, who())
    store().tell(show_id, f"{row.title} {words}", who=who(), origin="RDM", about=about)
    flash(f"{row.title} {words}.")
    return redirect(url_for("rdm.one", show_id=show_id, name=name))


@blueprint.post("/who")
def who_is(show_id: int) -> BaseResponse:
    """Say which fixture a device is; its identity is kept with the fixture from then on."""
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    name = request.form.get("identity", "")
    row = _row(_look(before), name)
    fixture = before.show.fixture(whole_number(request.form.get("fixture", "")) or 0)
    if request.form.get("spare"):
        after = edits.take_place(before.show, fixture.id, name)
    else:
        after = edits.keep_identities(before.show, {fixture.id: name})
    save(before, after)
    pages().answers.tell(show_id, name, fixture.id)
    flash(f"{row.said.title} {name} is {fixture.label}.")
    if request.form.get("spare"):
        saved = load(show_id)
        look = _look(saved)
        pairs = _chosen(look, [name], every=False, guesses=True)
        begin(saved, look, {str(pair.said.identity): wish_for(saved.show, pair, label=True) for pair in pairs})
        return redirect(url_for("rdm.index", show_id=show_id))
    return _back(show_id, name)


@blueprint.post("/keep")
def keep(show_id: int) -> BaseResponse:
    """Keep what was said: as read back, and who is who, for those that are surely known."""
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    look = _look(before)
    sure = [
        row for row in look.rows if row.sure in (Sure.CERTAIN, Sure.LIKELY) and row.fixture and not row.said.problem
    ]
    at = look.answers.at.replace(tzinfo=UTC) if look.answers.at else None
    by = Witness(who(), at or store().clock().replace(tzinfo=UTC), How.RDM)
    after = with_readings(before.show, {row.fixture.id: row.said for row in sure if row.fixture}, by)
    after = edits.keep_identities(after, {row.fixture.id: row.name for row in sure if row.fixture})
    after = edits.keep_newer(before.show, after)
    save(before, after)
    flash(describe(before.show, after) or "All of that is kept already.")
    return redirect(url_for("rdm.index", show_id=show_id))


@blueprint.post("/device/<name>/chart")
def chart(show_id: int, name: str) -> BaseResponse:
    """A chart from what a device says of its slots, to be completed where charts are pasted."""
    look = _look(load(show_id))
    said = _row(look, name).said
    slots: dict[int, SlotsOf] = {}
    with talking(look.answers.bind) as lines:
        talk = lines.talk_with(said)
        if request.form.get("modes"):
            slots = all_slots(talk, said)
        else:
            slots[said.personality] = slots_of(talk, said.identity, said.footprint)
    made = chart_said(said, slots)
    told = [mode for mode in made.modes if any(part.channels for part in mode.parts)]
    if not told:
        raise EditError(f"{said.title} says nothing of its slots: its chart has to be typed, or pasted.")
    flash(f"Said by the fixture: {counted(len(told), 'mode')} of {len(made.modes)}. Complete it by hand.")
    whole = replace(made, modes=tuple(told))
    return redirect(url_for("entering.paste", show_id=show_id, said=keep_told(whole)))
