"""Let them speak first: from who answers to a planned rig, and devices whose mode has grown; both
are seen before."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.addressing.schools import Layout, School
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.rdm.device_matching import Sure
from fence.core.rdm.rig_from_devices import Spoken, refit, settable, speak_first
from fence.core.rdm.setting import wish_for
from fence.store.answers import Answers
from fence.store.shows import SavedShow
from fence.web.address.layout import SCHOOLS
from fence.web.frame import Frame, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import library, load, load_for_edit, pages, save, works
from fence.web.rdm.page import Look, Row, answers_of, begin, look_at, tabs, told_in, when_words
from fence.web.showing import Showing

blueprint = Blueprint("speak", __name__, url_prefix="/shows/<int:show_id>/rdm/first")

AS_THEY_SAY = "as they say"


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmFirst(Showing):
    """What is shown by ``rdm/first.html``."""

    template = "rdm/first.html"
    frame: Frame
    saved: SavedShow
    answers: Answers | None
    at: str
    tabs: list[tuple[str, str]]
    values: dict[str, str]
    schools: dict[str, tuple[str, str]]
    spoken: Spoken | None
    outcome: Outcome | None
    lost: list[str]
    alike: int
    problem: str


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """The rig that those who answer would make: seen first, then planned and set in one step."""
    saved = load(show_id)
    answers = answers_of(show_id)
    problem, spoken, outcome = "", None, None
    values = _values(saved.show)
    if answers is not None and answers.said:
        if request.method == "POST":
            works().check_free(saved.key)
            saved = load_for_edit(show_id)
        try:
            spoken = speak_first(
                saved.show,
                answers.said,
                library=library().profiles(),
                layout=_layout(values),
                anew=bool(values["anew"]),
                told=told_in(saved.show, answers),
            )
        except FenceError as error:
            problem = str(error)
        else:
            if request.method == "POST":
                return _made(saved, spoken)
            outcome = outcome_of(saved.show, spoken.show, saved.analysis)
    elif request.method == "POST":
        raise EditError("Nobody has answered yet: ask who is there first.")
    page = RdmFirst(
        frame=frame(saved, "Prove"),
        saved=saved,
        answers=answers,
        at=when_words(answers) if answers else "",
        tabs=tabs(show_id),
        values=values,
        schools={
            AS_THEY_SAY: ("As they say", "Each keeps its address; what clashes is moved."),
            **_ways(),
        },
        spoken=spoken,
        outcome=outcome,
        lost=[spoken.show.fixture(i).label for i in spoken.unplaced] if spoken else [],
        alike=sum(pair.sure is Sure.ANY for pair in spoken.match.pairs) if spoken else 0,
        problem=problem,
    ).rendered()
    return (page, 422) if problem else page


def _ways() -> dict[str, tuple[str, str]]:
    return {str(school): words for school, words in SCHOOLS.items() if school is not School.SHARED}


def _values(show: Show) -> dict[str, str]:
    paged = show.desk.page is not None
    usual = {
        "school": str(School.PAGED if paged else School.BACK_TO_BACK),
        "page": str(show.desk.page or 16),
        "round": "10",
        "spare": "2",
        "anew": "",
    }
    return {name: request.values.get(name, value) for name, value in usual.items()}


def _layout(values: dict[str, str]) -> Layout | None:
    if values["school"] == AS_THEY_SAY:
        return None
    if values["school"] not in _ways():
        raise EditError("Choose a way from the list.")
    numbers = {name: whole_number(values[name]) for name in ("page", "round", "spare")}
    for name, number in numbers.items():
        if number is None or not 0 <= number <= 512:
            raise EditError(
                f"“{values[name][:20]}” is not a number for {name}. Use whole numbers up to 512."
            )
    return Layout(
        School(values["school"]),
        page=numbers["page"] or 1,
        round=numbers["round"] or 1,
        spare=numbers["spare"] or 0,
    )


def _made(saved: SavedShow, spoken: Spoken) -> BaseResponse:
    """Save the plan, keep who is who, and set all of them."""
    after = save(saved, spoken.show)
    for pair in spoken.match.pairs:
        pages().answers.tell(saved.id, str(pair.said.identity), pair.fixture.id)
    answers = answers_of(saved.id)
    assert answers is not None
    look = look_at(after.show, answers)
    pairs = settable(look.match, guesses=True)
    begin(
        after,
        look,
        {str(pair.said.identity): wish_for(after.show, pair, label=True) for pair in pairs},
    )
    flash(describe(saved.show, spoken.show) or "All of them were planned already.")
    return redirect(url_for("rdm.index", show_id=saved.id))


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmGrown(Showing):
    """What is shown by ``rdm/grown.html``."""

    template = "rdm/grown.html"
    frame: Frame
    saved: SavedShow
    tabs: list[tuple[str, str]]
    rows: list[Row]
    outcome: Outcome


@blueprint.route("/grown", methods=["GET", "POST"])
def grown(show_id: int) -> BaseResponse | str:
    """Devices whose mode has more channels, or fewer, than planned: what makes room, seen first."""
    saved = load(show_id)
    if request.method == "POST":
        works().check_free(saved.key)
        saved = load_for_edit(show_id)
    answers = answers_of(show_id)
    if answers is None:
        raise EditError("Nobody has asked yet who is there: ask first.")
    look = look_at(saved.show, answers)
    pairs = [pair for pair in look.match.pairs if pair.fixture.id in _grown_in(look)]
    after = refit(saved.show, pairs)
    if request.method == "POST":
        kept = save(saved, after)
        flash(describe(saved.show, after) or "Nothing to change.")
        look = look_at(kept.show, answers)
        moved = {f.id for f in kept.show.fixtures if saved.show.fixture_by_id.get(f.id) != f}
        again = [
            pair for pair in look.match.pairs if pair.fixture.id in moved and not pair.said.problem
        ]
        if again:
            begin(
                kept, look, {str(pair.said.identity): wish_for(kept.show, pair) for pair in again}
            )
        return redirect(url_for("rdm.index", show_id=show_id))
    return RdmGrown(
        frame=frame(saved, "Prove"),
        saved=saved,
        tabs=tabs(show_id),
        rows=[row for row in look.rows if row.grown],
        outcome=outcome_of(saved.show, after, saved.analysis),
    ).rendered()


def _grown_in(look: Look) -> set[int]:
    return {row.fixture.id for row in look.rows if row.grown and row.fixture}
