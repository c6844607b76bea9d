"""Challenges: a heap addressed by hand against the clock, and a cable with the fewest splitters,
each beside what Fence does."""

from __future__ import annotations

import re
import time
from dataclasses import dataclass
from random import Random
from secrets import randbelow

from flask import Blueprint, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.practising.challenges import (
    OUTPUTS,
    Cable,
    Judged,
    Laid,
    Run,
    addressed,
    best_of,
    by_fence,
    cable_of,
    heap_of,
    judged,
    laid,
)
from fence.core.practising.question import LEVELS
from fence.core.practising.register import HIGHEST_SEED
from fence.web.frame import Frame
from fence.web.practise.forms import ChallengeLink
from fence.web.practise.place import Practised, practised
from fence.web.showing import Showing

blueprint = Blueprint("challenges", __name__)

LONGEST = 24 * 3600
BEHIND = re.compile(r"(?P<splitter>s?)(?P<at>\d{1,2}|d)", re.ASCII)


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseHeap(Showing):
    """What is shown by ``practise/heap.html``. ``mine`` and ``fences`` are None before it is
    handed in."""

    template = "practise/heap.html"
    base: str
    frame: Frame | None
    show_id: int | None
    level: int
    levels: tuple[int, ...]
    seed: int
    began: int
    heap: Show
    typed: dict[int, str]
    mine: Judged | None
    fences: Judged | None
    better: Show
    seconds: int
    problem: str


@blueprint.get("/practise/heap")
@blueprint.get("/shows/<int:show_id>/practise/heap")
def heap(show_id: int | None = None) -> BaseResponse | str:
    """A heap to be addressed."""
    return _drawn("challenges.heap", show_id) or _heap(practised(show_id), {})


def _drawn(endpoint: str, show_id: int | None) -> BaseResponse | None:
    """A link with a seed, where none is named yet."""
    link = ChallengeLink.linked()
    if link.seed.data is not None and link.level.data in LEVELS:
        return None
    level = link.level.data if link.level.data in LEVELS else 1
    seed = randbelow(HIGHEST_SEED)
    return redirect(url_for(endpoint, level=level, seed=seed, show_id=show_id))


def _heap(here: Practised, typed: dict[int, str], problem: str = "", *, done: bool = False) -> str:
    link = ChallengeLink.either()
    level, seed = link.level.data, link.seed.data
    made = heap_of(here.rig, Random(f"heap {level} {seed}"), level)
    began = link.began.data or int(time.time())
    better = by_fence(made)
    return PractiseHeap(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        level=level,
        levels=LEVELS,
        seed=seed,
        began=began,
        heap=made,
        typed=typed,
        mine=judged(addressed(made, typed)) if done else None,
        fences=judged(better) if done else None,
        better=better,
        seconds=max(0, min(LONGEST, int(time.time()) - began)),
        problem=problem,
    ).rendered()


@blueprint.post("/practise/heap")
@blueprint.post("/shows/<int:show_id>/practise/heap")
def hand_in(show_id: int | None = None) -> str | tuple[str, int]:
    """The heap as it was addressed, beside Fence's layout."""
    here, link = practised(show_id), ChallengeLink.sent()
    _check(link)
    typed = {
        int(name[3:]): value[:20]
        for name, value in request.form.items()
        if re.fullmatch(r"at-\d{1,3}", name)
    }
    made = heap_of(here.rig, Random(f"heap {link.level.data} {link.seed.data}"), link.level.data)
    try:
        addressed(made, typed)
    except EditError as error:
        return _heap(here, typed, str(error)), 422
    return _heap(here, typed, done=True)


def _check(link: ChallengeLink) -> None:
    if link.level.data not in LEVELS or link.seed.data is None:
        raise EditError("That challenge is no longer there: take another one.")


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseCable(Showing):
    """What is shown by ``practise/cable.html``."""

    template = "practise/cable.html"
    base: str
    frame: Frame | None
    show_id: int | None
    level: int
    levels: tuple[int, ...]
    seed: int
    cable: Cable
    outputs: int
    typed: dict[int, str]
    mine: Laid | None
    fences: Laid | None
    problem: str


@blueprint.get("/practise/cable")
@blueprint.get("/shows/<int:show_id>/practise/cable")
def cable(show_id: int | None = None) -> BaseResponse | str:
    """Positions to be cabled."""
    return _drawn("challenges.cable", show_id) or _cable(practised(show_id), {})


def _made(link: ChallengeLink) -> Cable:
    level, seed = link.level.data, link.seed.data
    return cable_of(Random(f"cable {level} {seed}"), level)


def _cable(
    here: Practised, typed: dict[int, str], problem: str = "", mine: Laid | None = None
) -> str:
    link = ChallengeLink.either()
    made = _made(link)
    return PractiseCable(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        level=link.level.data,
        levels=LEVELS,
        seed=link.seed.data,
        cable=made,
        outputs=OUTPUTS,
        typed=typed,
        mine=mine,
        fences=best_of(made) if mine else None,
        problem=problem,
    ).rendered()


@blueprint.post("/practise/cable")
@blueprint.post("/shows/<int:show_id>/practise/cable")
def lay(show_id: int | None = None) -> str | tuple[str, int]:
    """The cable as it was planned, beside Fence's plan."""
    here, link = practised(show_id), ChallengeLink.sent()
    _check(link)
    made = _made(link)
    typed = {unit: request.form.get(f"behind-{unit}", "")[:10] for unit in range(len(made.spots))}
    try:
        mine = laid(made, [_run(made, words) for words in typed.values()])
    except EditError as error:
        return _cable(here, typed, str(error)), 422
    return _cable(here, typed, mine=mine)


def _run(made: Cable, words: str) -> Run:
    found = BEHIND.fullmatch(words)
    if found is None or (found["at"] != "d" and int(found["at"]) >= len(made.spots)):
        raise EditError("Say of each position what it hangs on.")
    return Run(None if found["at"] == "d" else int(found["at"]), bool(found["splitter"]))
