"""The drill: ten questions at the switches, marked at the end."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.setter import row_of, sum_words, switches_on
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.setting.drill import QUESTIONS, Mark, Question, marked, questions
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.showing import Showing
from fence.web.switches.forms import DrillLink
from fence.web.switches.page import Asked, as_query, asked_for, words_of

blueprint = Blueprint("drill", __name__)

LONGEST_ANSWER = 40


@blueprint.get("/switches/drill")
def index() -> BaseResponse | str:
    """Ten questions without a show."""
    return _page(None)


@blueprint.get("/shows/<int:show_id>/switches/drill")
def of_show(show_id: int) -> BaseResponse | str:
    """Ten questions from the rig's own addresses."""
    return _page(show_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchesDrill(Showing):
    """What is shown by ``switches/drill.html``."""

    template = "switches/drill.html"
    base: str
    frame: Frame | None
    asked: Asked
    query: dict[str, str]
    seed: int
    answers: list[str]
    marks: list[Mark]
    last: Mark | None
    question: Question | None
    number: int
    of: int
    row: tuple[object, ...]
    words: str
    right: int
    sums: list[str]
    from_rig: bool
    show_id: int | None
    here: str


def _page(show_id: int | None) -> BaseResponse | str:
    link = DrillLink.linked()
    saved = load(show_id) if show_id is not None else None
    asked = asked_for(request.args, saved.show if saved else None)
    here = "drill.of_show" if saved else "drill.index"
    seed = link.seed.data
    if seed is None:
        fresh: dict[str, Any] = {"seed": secrets.randbelow(1_000_000), **as_query(asked)}
        return redirect(url_for(here, show_id=show_id, **fresh))
    asks = questions(seed, _addresses(saved.show, asked) if saved else (), asked.setter)
    answers = [answer[:LONGEST_ANSWER] for answer in link.answer.data[:QUESTIONS]]
    marks = [
        _marked(question, answer, asked) for question, answer in zip(asks, answers, strict=False)
    ]
    question = asks[len(marks)] if len(marks) < len(asks) else None
    return SwitchesDrill(
        frame=frame(saved, "Switches") if saved else None,
        base="shared/show.html" if saved else "shared/plain.html",
        asked=asked,
        query=as_query(asked),
        seed=seed,
        answers=answers,
        marks=marks,
        last=marks[-1] if marks else None,
        question=question,
        number=len(marks) + 1,
        of=len(asks),
        row=_row(question, asked) if question else (),
        words=words_of(asked.setter),
        right=sum(mark.right for mark in marks),
        sums=[
            sum_words(switches_on(mark.question.address, asked.setter), asked.setter)
            for mark in marks
        ],
        from_rig=saved is not None,
        show_id=show_id,
        here=here,
    ).rendered()


def _addresses(show: Show, asked: Asked) -> tuple[int, ...]:
    """The rig's own addresses: of the type whose switches are drilled, else of all."""
    fixtures = [
        fixture for fixture in show.fixtures if fixture.profile == asked.kind
    ] or show.fixtures
    return tuple(entry.slot for fixture in fixtures for entry in fixture.patch if entry.slot)


def _marked(question: Question, answer: str, asked: Asked) -> Mark:
    if question.read:
        return marked(question, whole_number(answer), asked.setter)
    on = [number for number in map(whole_number, answer.split(",")) if number is not None]
    return marked(question, tuple(on), asked.setter)


def _row(question: Question, asked: Asked) -> tuple[object, ...]:
    """The row to be read; or one with all off, to be set."""
    on = switches_on(question.address, asked.setter) if question.read else asked.setter.fixed_on
    return row_of(on, asked.setter, turned=question.turned)
