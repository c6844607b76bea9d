"""A first lesson: six short steps with something to do and to see, to be left at any time. Nothing
is sent."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, request

from fence.core.model.text import whole_number
from fence.core.simulation.lesson import STEPS, Lesson, Outcome, lesson, outcome
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.prove.forms import LessonLink
from fence.web.prove.page import hexed
from fence.web.showing import Showing

blueprint = Blueprint("lesson", __name__, url_prefix="/shows/<int:show_id>/prove/lesson")


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveLesson(Showing):
    """What is shown by ``prove/lesson.html``."""

    template = "prove/lesson.html"
    frame: Frame
    saved: SavedShow
    step: Lesson
    steps: int
    faders: list[tuple[int, str, int]]
    lights: list[tuple[str, str, str]]
    found: Outcome
    universe: int
    address: int
    moved: bool


@blueprint.get("")
def index(show_id: int) -> str:
    """One step; what is moved stands in the address of the page, so that going back goes back."""
    link = LessonLink.linked()
    saved = load(show_id)
    step = lesson(_number("step", 1), saved.show)
    levels = _levels(step)
    universe, address = min(max(_number("universe", 1), 1), 2), _number("address", 1)
    found = outcome(step, levels, universe=universe, address=address)
    return ProveLesson(
        frame=frame(saved, "Prove"),
        saved=saved,
        step=step,
        steps=STEPS,
        faders=[
            (slot, _title(step, slot), levels.get(slot, 0)) for slot in range(1, step.slots + 1)
        ],
        lights=[
            (label, hexed(seen), seen.state)
            for label, seen in zip(step.labels, found.seen, strict=False)
        ],
        found=found,
        universe=universe,
        address=address,
        moved=link.level.data or "address" in request.args,
    ).rendered()


def _number(name: str, default: int) -> int:
    found = whole_number(request.args.get(name, ""))
    return default if found is None else found


def _levels(step: Lesson) -> dict[int, int]:
    """The levels of the faders in the address, slot after slot; those of the beginning without
    any."""
    link = LessonLink.linked()
    told = link.level.data[: step.slots]
    if not told:
        return dict(step.begin or {})
    return {slot: min(whole_number(words) or 0, 255) for slot, words in enumerate(told, 1)}


def _title(step: Lesson, slot: int) -> str:
    """What a fader moves: a channel of the first fixture; beyond its last, what stands there once
    the second does."""
    channels = step.mode.parts[0].channels
    return channels[slot - 1].title if slot <= len(channels) else "nobody’s yet"
