"""Questions on paper, with the answers on a second page."""

from __future__ import annotations

from dataclasses import dataclass
from secrets import randbelow

from flask import Blueprint, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.core.practising.question import LEVELS, Question
from fence.core.practising.register import BY_KEY, DRILLS, HIGHEST_SEED, Drill, ask
from fence.demo import back_room
from fence.web.frame import Frame
from fence.web.practise.forms import SheetLink
from fence.web.practise.place import practised
from fence.web.set.drawing import Display, draw_lit
from fence.web.showing import Showing

blueprint = Blueprint("worksheet", __name__)

QUESTIONS = 12
"""On one page."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseSheet(Showing):
    """What is shown by ``practise/sheet.html``. ``drill`` is None for all drills mixed."""

    template = "practise/sheet.html"
    base: str
    frame: Frame | None
    show_id: int | None
    rig: str
    drills: tuple[Drill, ...]
    drill: Drill | None
    level: int
    levels: tuple[int, ...]
    seed: int
    questions: list[tuple[Question, Display | None]]


@blueprint.get("/practise/sheet")
@blueprint.get("/shows/<int:show_id>/practise/sheet")
def index(show_id: int | None = None) -> BaseResponse | str:
    """A work sheet: the same for the same number, so that it can be printed again."""
    link, here = SheetLink.linked(), practised(show_id)
    key, level, seed = link.drill.data, link.level.data, link.seed.data
    if key and key not in BY_KEY:
        raise EditError(f"There is no such drill. Use one of {', '.join(BY_KEY)}.")
    if seed is None:
        fresh = randbelow(HIGHEST_SEED // 1000)
        return redirect(
            url_for("worksheet.index", drill=key, level=level, seed=fresh, show_id=show_id)
        )
    keys = [key] * QUESTIONS if key else [DRILLS[n % len(DRILLS)].key for n in range(QUESTIONS)]
    asked = [
        ask(one, level, (seed * QUESTIONS + number) % HIGHEST_SEED, here.rig, back_room())
        for number, one in enumerate(keys)
    ]
    return PractiseSheet(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        rig=here.name,
        drills=DRILLS,
        drill=BY_KEY.get(key),
        level=level,
        levels=LEVELS,
        seed=seed,
        questions=[
            (one, draw_lit(one.lit, "a display, seen from below") if one.lit else None)
            for one in asked
        ],
    ).rendered()
