"""The place to practise: what is due, every drill at its levels, and how far somebody is."""

from __future__ import annotations

from dataclasses import dataclass
from secrets import randbelow

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.practising.question import LEVELS
from fence.core.practising.register import DRILLS, HIGHEST_SEED, Drill
from fence.core.practising.schedule import BOXES, Held, Progress, Skill, due_now
from fence.web.frame import Frame
from fence.web.pages import pages
from fence.web.practise.place import KEYS, learner, practised
from fence.web.showing import Showing

blueprint = Blueprint("practise", __name__)


@dataclass(frozen=True, slots=True)
class Step:
    """A drill at a level: how it is held (None where it was never asked), and whether it is due."""

    level: int
    held: Held | None
    due: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseIndex(Showing):
    """What is shown by ``practise/index.html``."""

    template = "practise/index.html"
    base: str
    frame: Frame | None
    show_id: int | None
    rig: str
    own: bool
    rows: list[tuple[Drill, list[Step]]]
    due: int
    round: int
    safe: int
    of: int
    boxes: int
    begun: bool


@blueprint.get("/practise")
@blueprint.get("/shows/<int:show_id>/practise")
def index(show_id: int | None = None) -> str:
    """All drills, and what is due."""
    here, progress = practised(show_id), pages().practice.of(learner())
    due = due_now(progress, KEYS)
    rows = [
        (drill, [_step(progress, Skill(drill.key, level), due) for level in LEVELS])
        for drill in DRILLS
    ]
    return PractiseIndex(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        rig=here.name,
        own=here.saved is not None and here.rig is here.saved.show,
        rows=rows,
        due=len(due),
        round=progress.round,
        safe=sum(1 for held in progress.skills.values() if held.box == BOXES),
        of=len(DRILLS) * len(LEVELS),
        boxes=BOXES,
        begun=bool(progress.skills),
    ).rendered()


def _step(progress: Progress, skill: Skill, due: list[Skill]) -> Step:
    return Step(skill.level, progress.skills.get(skill), skill in due)


@blueprint.get("/practise/next")
@blueprint.get("/shows/<int:show_id>/practise/next")
def go_on(show_id: int | None = None) -> BaseResponse:
    """The question that is due first; back to the list where nothing is."""
    due = due_now(pages().practice.of(learner()), KEYS)
    if not due:
        return redirect(url_for("practise.index", show_id=show_id))
    skill, seed = due[0], randbelow(HIGHEST_SEED)
    return redirect(
        url_for(
            "drills.index", key=skill.drill, level=skill.level, seed=seed, round=1, show_id=show_id
        )
    )


@blueprint.post("/practise/forget")
@blueprint.post("/shows/<int:show_id>/practise/forget")
def forget(show_id: int | None = None) -> BaseResponse:
    """Begin again."""
    pages().practice.forget(learner())
    flash("Everything is asked anew, from the first level on.")
    return redirect(url_for("practise.index", show_id=show_id))
