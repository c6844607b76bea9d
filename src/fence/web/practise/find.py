"""Find it: a rig with a hidden fault, which somebody looks for, mends, and shows to be gone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Blueprint, Flask, current_app, flash, redirect, url_for
from pydantic import TypeAdapter
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.core.practising.hidden import (
    LOOKING_OVER,
    MORNING,
    Claim,
    Step,
    minutes_to_mend,
)
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.asking import minutes_of
from fence.core.troubleshooting.evidence import Check, Kind
from fence.core.troubleshooting.told import (
    KINDS,
    cause_words,
    evidence_words,
    remedy,
    whom,
)
from fence.store.practising import Case, Search
from fence.web.frame import Frame
from fence.web.pages import pages, who
from fence.web.practise.forms import FindStep
from fence.web.practise.place import Practised, learner, practised
from fence.web.practise.where import Places, check_of, claim_of, kinds, places, value_of
from fence.web.showing import Showing
from fence.work.hunts import Did, Hunt, Hunts

blueprint = Blueprint("find_it", __name__)

LEVELS = {
    1: "One usual fault",
    2: "Any one of most kinds",
    3: "Any kind, or two at once",
    MORNING: "A morning with five",
}

ASKED = {
    Kind.LOOK: "Bring it up",
    Kind.POWER: "Power?",
    Kind.DISPLAY: "Read it",
    Kind.LISTENS: "Set to DMX?",
    Kind.RDM: "Ask by RDM",
}
"""What can be looked at at a fixture, on buttons."""


def hunts() -> Hunts:
    """The searches under way."""
    found: Hunts = current_app.extensions["fence_hunts"]
    return found


def attach(app: Flask) -> None:
    """Have a place for searches that are under way."""
    app.extensions["fence_hunts"] = Hunts()


@dataclass(frozen=True, slots=True)
class Line:
    """A step of a search in words, with its minutes; ``sign`` says how it came out."""

    words: str
    minutes: float
    sign: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseFind(Showing):
    """What is shown by ``practise/find.html``."""

    template = "practise/find.html"
    base: str
    frame: Frame | None
    show_id: int | None
    rig: str
    hunt: Hunt | None
    told: bool
    complaint: str
    lines: list[Line]
    others: list[Line]
    faults: list[tuple[str, str]]
    places: Places | None
    kinds: list[tuple[Trouble, str]]
    asked: dict[Kind, str]
    levels: dict[int, str]
    found: int
    cases: list[Case]
    picked: set[str]
    typed: dict[str, str]
    problem: str


@blueprint.get("/practise/find")
@blueprint.get("/shows/<int:show_id>/practise/find")
def index(show_id: int | None = None) -> str:
    """The search under way, or where one begins."""
    return _page(practised(show_id))


def _page(here: Practised, problem: str = "") -> str:
    hunt, kept = hunts().of(learner()), pages().cases
    told = hunt is not None and hunt.told  # it may be told while the page is made
    if hunt is not None and told:
        _keep(hunt)
    show = hunt.show if hunt else here.rig
    before = kept.searches(learner=learner()) if hunt is None else []
    return PractiseFind(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        rig=hunt.title or show.name if hunt else here.name,
        hunt=hunt,
        told=told,
        complaint=_complaint(hunt),
        lines=[line_of(show, did) for did in hunt.done] if hunt else [],
        others=[_of_troubleshoot(show, step) for step in hunt.steps] if hunt and told else [],
        faults=[(cause_words(show, [one]), remedy(show, one)) for one in hunt.faults]
        if hunt and told
        else [],
        places=places(show) if hunt else None,
        kinds=kinds(),
        asked=ASKED,
        levels=LEVELS,
        found=sum(kept_of(one).solved for one in before),
        cases=kept.all(),
        picked=_picked(hunt),
        typed=FindStep.sent().typed(),
        problem=problem,
    ).rendered()


def _picked(hunt: Hunt | None) -> set[str]:
    """The places that were looked at last, of each sort, so that nobody chooses them twice; to
    begin with what was noticed."""
    if hunt is None or hunt.complaint is None:
        return set()
    found: dict[str, str] = {}
    for check in (hunt.complaint.check, *(did.check for did in hunt.done if did.check)):
        value = value_of(hunt.show, check)
        found[value[:1]] = value
    return set(found.values())


def _complaint(hunt: Hunt | None) -> str:
    if hunt is None or hunt.complaint is None:
        return ""
    words = evidence_words(hunt.show, hunt.complaint)
    return words[:1].upper() + words[1:]


def line_of(show: Show, did: Did) -> Line:
    """A step in words."""
    if did.check is not None:
        told = "; ".join(evidence_words(show, one) for one in did.found)
        told = told or f"{whom(show, did.check)}: nothing to be read"
        return Line(told[:1].upper() + told[1:], did.minutes)
    if did.claim is not None:
        words = f"{KINDS[did.claim.trouble]}, {claim_place(show, did.claim)}".rstrip(", ")
        told = "mended" if did.right else "that was not it"
        return Line(f"{words[:1].upper() + words[1:]}: {told}", did.minutes, _sign(did.right))
    told = "All is in order" if did.right else "Something is still wrong"
    return Line(told, did.minutes, _sign(did.right))


def _sign(right: bool) -> str:
    return "clear" if right else "stop"


def claim_place(show: Show, claim: Claim) -> str:
    """Where a claim says that it is."""
    if claim.box:
        return f"{claim.box}, port {claim.port}" if claim.port else claim.box
    if claim.universe:
        return f"universe {claim.universe}"
    fixture = show.fixture_by_id.get(claim.fixture or 0)
    if fixture is not None:
        return fixture.label
    if claim.line and claim.stop is not None:
        return whom(show, Check(Kind.TESTER, line=claim.line, stop=claim.stop))
    return claim.line


def _of_troubleshoot(show: Show, step: Step) -> Line:
    return line_of(show, Did(step.minutes, step.check, step.found))


@dataclass(frozen=True, slots=True)
class Kept:
    """A search as it is kept: whether it was solved, its steps and those of Troubleshoot in words,
    and what was wrong."""

    rig: str
    solved: bool
    complaint: str
    lines: tuple[tuple[str, float, str], ...]
    others: tuple[tuple[str, float, str], ...]
    faults: tuple[str, ...]


KEPT = TypeAdapter(Kept)


def kept_of(search: Search) -> Kept:
    """What is kept of a search."""
    return KEPT.validate_json(search.document)


def _keep(hunt: Hunt) -> None:
    """Keep a search that has ended and been told, once."""
    if hunt.kept or not hunt.faults:
        return
    hunt.kept = True
    document = Kept(
        hunt.title or hunt.show.name,
        bool(hunt.solved),
        _complaint(hunt),
        _plain([line_of(hunt.show, did) for did in hunt.done]),
        _plain([_of_troubleshoot(hunt.show, step) for step in hunt.steps]),
        tuple(cause_words(hunt.show, [fault]) for fault in hunt.faults),
    )
    pages().cases.ended(
        learner(), who(), KEPT.dump_json(document).decode(), hunt.minutes, hunt.case
    )


def _plain(lines: Sequence[Line]) -> tuple[tuple[str, float, str], ...]:
    return tuple((line.words, line.minutes, line.sign) for line in lines)


def begin(here: Practised, hide: int | Sequence[Fault], hunt: Hunt | None = None) -> BaseResponse:
    """Begin a search, on the rig of the page or of a case."""
    hunts().begin(learner(), hunt or Hunt(here.rig), hide)
    return redirect(url_for("find_it.index", show_id=here.show_id))


STEPS = "/practise/find/<any(begin, check, claim, over, give_up, leave):do>"


@blueprint.post(STEPS)
@blueprint.post(f"/shows/<int:show_id>{STEPS}")
def take(do: str, show_id: int | None = None) -> BaseResponse | tuple[str, int]:
    """A step of a search: begin it, make a check, say what it is, say that all is in order, give
    up, or leave it."""
    here, form = practised(show_id), FindStep.sent()
    if do == "begin":
        level = form.level.data
        return begin(here, level if level in LEVELS else 1)
    hunt = hunts().of(learner())
    if do == "leave" or hunt is None:
        hunts().forget(learner())
        return redirect(url_for("find_it.index", show_id=show_id))
    try:
        _step(hunt, do, form)
    except FenceError as error:
        return _page(here, str(error)), 422
    return redirect(url_for("find_it.index", show_id=show_id) + "#latest")


def _step(hunt: Hunt, do: str, form: FindStep) -> None:
    show = hunt.show
    if do == "check":
        check = check_of(show, form.kind.data, form.place.data)
        hunt.check(check, minutes_of(show, check))
    elif do == "claim":
        claim = claim_of(show, form.trouble.data, form.where.data)
        did = hunt.claim(claim, minutes_to_mend(show, claim))
        if did.right:
            flash("It is mended. Show that it is gone.")
        else:
            flash("That was not it.", "stop")
    elif do == "over":
        if not hunt.over(LOOKING_OVER):
            flash("Something is still wrong.", "stop")
    elif do == "give_up":
        hunt.give_up()
