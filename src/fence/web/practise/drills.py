"""A question of a drill, and the answer to it, marked."""

from __future__ import annotations

from dataclasses import dataclass
from secrets import randbelow

from flask import Blueprint, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.core.practising.question import ACCEPTED, Kind, Mark, Question, mark
from fence.core.practising.register import BY_KEY, HIGHEST_SEED, Drill, ask
from fence.core.practising.schedule import Skill, due_now
from fence.demo import back_room
from fence.web.frame import Frame
from fence.web.pages import pages
from fence.web.practise.forms import DrillLink, DrillStep
from fence.web.practise.place import KEYS, Practised, learner, practised
from fence.web.set.drawing import Display, draw_lit
from fence.web.showing import Showing

blueprint = Blueprint("drills", __name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseDrill(Showing):
    """What is shown by ``practise/drill.html``. ``mark`` is None before the answer."""

    template = "practise/drill.html"
    base: str
    frame: Frame | None
    show_id: int | None
    drill: Drill
    level: int
    seed: int
    round: bool
    due: int
    asked: Question
    kinds: type[Kind]
    accepted: str
    display: Display | None
    mark: Mark | None
    typed: str
    problem: str


@blueprint.get("/practise/drill/<key>")
@blueprint.get("/shows/<int:show_id>/practise/drill/<key>")
def index(key: str, show_id: int | None = None) -> BaseResponse | str:
    """A question, drawn anew where no seed is named; with an answer, what is right and why."""
    link, here = DrillLink.linked(), practised(show_id)
    level, seed = link.level.data, link.seed.data
    if seed is None:
        fresh = randbelow(HIGHEST_SEED)
        return redirect(
            url_for(
                "drills.index",
                key=key,
                level=level,
                seed=fresh,
                round=1 if link.round.data else None,
                show_id=show_id,
            )
        )
    asked = ask(key, level, seed, here.rig, back_room())
    said = link.said.data
    marked = mark(asked, said) if said else None
    return _page(here, key, level, seed, asked, marked=marked, round=link.round.data)


@blueprint.post("/practise/drill/<key>")
@blueprint.post("/shows/<int:show_id>/practise/drill/<key>")
def answer(key: str, show_id: int | None = None) -> BaseResponse | tuple[str, int]:
    """Mark an answer, and note it for whoever practises. What cannot be read is no wrong answer."""
    form, here = DrillStep.sent(), practised(show_id)
    level, seed, typed = form.level.data, form.seed.data, form.answer.data
    if seed is None:
        raise EditError("That question is no longer there: take the next one.")
    asked = ask(key, level, seed, here.rig, back_room())
    try:
        marked = mark(asked, typed)
    except EditError as error:
        page = _page(
            here, key, level, seed, asked, typed=typed, problem=str(error), round=form.round.data
        )
        return page, 422
    pages().practice.answer(learner(), Skill(key, level), KEYS, right=marked.right)
    return redirect(
        url_for(
            "drills.index",
            key=key,
            level=level,
            seed=seed,
            said=marked.said,
            round=1 if form.round.data else None,
            show_id=show_id,
        )
    )


def _page(
    here: Practised,
    key: str,
    level: int,
    seed: int,
    asked: Question,
    *,
    marked: Mark | None = None,
    typed: str = "",
    problem: str = "",
    round: bool = False,
) -> str:
    return PractiseDrill(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        drill=BY_KEY[key],
        level=level,
        seed=seed,
        round=round,
        due=len(due_now(pages().practice.of(learner()), KEYS)) if round else 0,
        asked=asked,
        kinds=Kind,
        accepted=ACCEPTED.get(asked.kind, ""),
        display=draw_lit(asked.lit, "a display, seen from below") if asked.lit else None,
        mark=marked,
        typed=typed,
        problem=problem,
    ).rendered()
