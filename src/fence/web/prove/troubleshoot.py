"""Troubleshoot: what was seen, what it most likely is, and what to check next."""

from __future__ import annotations

from collections.abc import Sequence

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers.response import Response as BaseResponse

from fence.core import edits
from fence.core.model.calling import called
from fence.core.model.errors import EditError
from fence.core.model.record import How
from fence.core.model.record import Seen as Sign
from fence.core.model.show import Show
from fence.core.model.text import counted, joined, whole_number
from fence.core.simulation.bringing import Look
from fence.core.simulation.faults import Fault
from fence.core.troubleshooting.causes import WEIGHTS, weights_of
from fence.core.troubleshooting.evidence import (
    ANSWERS,
    AT_A_FIXTURE,
    AT_A_STOP,
    Answer,
    Check,
    Evidence,
    Kind,
)
from fence.core.troubleshooting.heard import of_nodes, of_rdm
from fence.core.troubleshooting.search import rests_on
from fence.core.troubleshooting.told import cause_words, evidence_words
from fence.formats.troubleshooting import mode_of, number_read
from fence.web.network.look import kept_look
from fence.web.pages import load, pages, save, store, who, witness
from fence.web.prove.forms import TroubleshootLink, TroubleshootStep, TroubleshootWeights
from fence.web.prove.page import order
from fence.web.prove.troubleshoot_page import SET_AT_IT, finding_of, page, seen_of
from fence.web.prove.views import bring_up
from fence.web.rdm.page import answers_of, look_at

blueprint = Blueprint(
    "troubleshoot", __name__, url_prefix="/shows/<int:show_id>/prove/troubleshoot"
)

MOST_AT_ONCE = 60
"""Fixtures of which the same is said at once."""
SIGNS = {
    Answer.DARK: Sign.DARK,
    Answer.OTHER_COLOUR: Sign.WRONG,
    Answer.FLICKER: Sign.WRONG,
    Answer.OWN_PROGRAM: Sign.WRONG,
}
"""What a look that was not right is as an open sign of a fixture."""


@blueprint.get("")
def index(show_id: int) -> str:
    """What was seen so far, the likeliest causes, and the next check."""
    return page(load(show_id), TroubleshootLink.linked())


@blueprint.post("/note")
def note(show_id: int) -> BaseResponse | tuple[str, int]:
    """Keep what was seen."""
    form, saved = TroubleshootStep.sent(), load(show_id)
    try:
        told = [
            one
            for whom in _whom(saved.show, form)
            for one in _answered(saved.show, _check(saved.show, form, whom), form)
        ]
        _keep(show_id, saved.show, told)
    except EditError as error:
        return page(saved, _anew_with(form), typed=form.typed(), problem=str(error)), 422
    return redirect(url_for("troubleshoot.index", show_id=show_id))


def _anew_with(form: TroubleshootStep) -> TroubleshootLink:
    """The page again, with who was meant."""
    whom = form.whom.data if form.whom.data.isdigit() else form.fixture.data
    return TroubleshootLink(MultiDict({"fixture": str(whom or "")}))


def _keep(show_id: int, show: Show, told: Sequence[Evidence]) -> None:
    """Keep evidence with what it rests on, and tell the log."""
    found = [(one, rests_on(show, one.check)) for one in told]
    pages().evidence.note(show_id, found, who=who())
    words = joined([evidence_words(show, one) for one in told])
    store().tell(show_id, f"Troubleshooting: {words}", who=who(), origin="Prove")


@blueprint.post("/take-rdm")
def take_rdm(show_id: int) -> BaseResponse:
    """Take over as evidence who answered over RDM when it was asked last, and who did not."""
    saved, answers = load(show_id), answers_of(show_id)
    if answers is None:
        raise EditError("Nobody was asked over RDM yet: look who answers first.")
    told = of_rdm(saved.show, look_at(saved.show, answers).match)
    return _taken(show_id, saved.show, told, "No answer over RDM can be expected in this show.")


@blueprint.post("/take-nodes/<draft_id>")
def take_nodes(show_id: int, draft_id: str) -> BaseResponse:
    """Take over as evidence what the nodes said that were found on the network."""
    saved, found = load(show_id), kept_look(draft_id)
    told = of_nodes(saved.show, found.boxes)
    return _taken(show_id, saved.show, told, "No node of the plan said what its ports give out.")


def _taken(show_id: int, show: Show, told: Sequence[Evidence], nothing: str) -> BaseResponse:
    if told:
        _keep(show_id, show, told)
    flash(f"{counted(len(told), 'piece')} of evidence taken over." if told else nothing)
    return redirect(url_for("troubleshoot.index", show_id=show_id))


def _whom(show: Show, form: TroubleshootStep) -> list[int]:
    """The fixtures of whom something is said: those that are ticked on the picture, else one, all
    at a position, or all of a universe."""
    ticked = [one for one in form.at.data if one in show.fixture_by_id]
    if ticked:
        return list(dict.fromkeys(ticked))[:MOST_AT_ONCE]
    kind, _, name = form.whom.data.partition(":")
    if kind == "at":
        found = [f.id for f in order(show) if f.position == name]
    elif kind == "u":
        found = [f.id for f in order(show) if name in map(str, show.universes_of(f))]
    elif words := form.whom_called.data or form.fixture_called.data:
        found = called(show, words)
    else:
        return [whole_number(form.whom.data) or form.fixture.data or 0]
    if not found:
        raise EditError("No fixture hangs there any more: pick one of the list.")
    return found[:MOST_AT_ONCE]


def _check(show: Show, form: TroubleshootStep, whom: int) -> Check:
    """What was checked, and where; the place as it was asked for, or as somebody picked it."""
    kind = _kind(form)
    if kind in AT_A_FIXTURE:
        if not whom:
            raise EditError("Say which fixture: pick one of the list.")
        return Check(kind, show.fixture(whom).id)
    if kind in AT_A_STOP:
        line, stop = _stop(show, form)
        return Check(kind, line=line, stop=stop)
    if kind is Kind.NODE:
        box, port = _port(show, form)
        return Check(kind, box=box, port=port)
    return Check(kind)


def _kind(form: TroubleshootStep) -> Kind:
    named = form.reading.data.partition(":")[0]
    if named in set(Kind):
        return Kind(named)
    kind: Kind | None = form.kind.data
    if kind is None:
        raise EditError(f"Say what was checked: {', '.join(Kind)}.")
    return kind


def _picked(form: TroubleshootStep, what: str) -> tuple[int, int] | None:
    """A place as a list names it: what it is, and two numbers."""
    kind, _, numbers = form.place.data.partition(":")
    one, _, other = numbers.partition(":")
    first, second = whole_number(one), whole_number(other)
    if kind != what or first is None or second is None:
        return None
    return first, second


def _stop(show: Show, form: TroubleshootStep) -> tuple[str, int]:
    name, stop_id = form.line.data, form.stop.data or 0
    if (picked := _picked(form, "stop")) is not None:
        name = next((line.name for line in show.lines if line.id == picked[0]), "")
        stop_id = picked[1]
    lines = {line.name: {stop.id for stop in line.stops} for line in show.lines}
    if stop_id not in lines.get(name, ()):
        raise EditError("That device is not on the line: pick one of the list.")
    return name, stop_id


def _port(show: Show, form: TroubleshootStep) -> tuple[str, int]:
    name, number = form.box.data, form.port.data or 0
    if (picked := _picked(form, "port")) is not None:
        name = next((box.name for box in show.boxes if box.id == picked[0]), "")
        number = picked[1]
    ports = {box.name: {port.number for port in box.ports} for box in show.boxes}
    if number not in ports.get(name, ()):
        raise EditError("That port is not there: pick one of the list.")
    return name, number


def _answered(show: Show, check: Check, form: TroubleshootStep) -> list[Evidence]:
    """What was answered; a display says an address, a mode, or both."""
    answer = form.answer.data
    named = form.reading.data.partition(":")[2]
    if named in set(ANSWERS[check.kind]):
        answer = Answer(named)
    if check.kind is Kind.DISPLAY:
        found = []
        if form.says.data:
            found.append(Evidence(check, Answer.SAYS, number_read(form.says.data)))
        if form.mode.data:
            mode = mode_of(show, check.fixture, form.mode.data)
            found.append(Evidence(check, Answer.MODE, mode))
        if not found:
            raise EditError("Type the address that it says, or choose the mode that it shows.")
        return found
    if check.kind is Kind.NODE and answer is not Answer.OFF:
        if not form.says.data:
            raise EditError("Type the number that the port says, such as 4, or say that it is off.")
        return [Evidence(check, Answer.SAYS, number_read(form.says.data))]
    other = form.other.data
    if form.other_called.data:
        other = called(show, form.other_called.data)[0]
    if check.kind is Kind.LOOK and other:
        return [Evidence(check, Answer.ANOTHER, str(show.fixture(other).id))]
    if answer is None or answer not in ANSWERS[check.kind]:
        raise EditError(f"Say what was seen: {', '.join(ANSWERS[check.kind])}.")
    return [Evidence(check, answer)]


@blueprint.post("/take-back/<int:evidence_id>")
def take_back(show_id: int, evidence_id: int) -> BaseResponse:
    """Forget a piece of evidence."""
    pages().evidence.take_back(show_id, evidence_id)
    return redirect(url_for("troubleshoot.index", show_id=show_id))


@blueprint.post("/found")
def found(show_id: int) -> BaseResponse:
    """Write the cause to the log, keep it as an open point of its fixture until that is proven
    right, and put the evidence away, but for what has to be looked at again once it is mended."""
    saved = load(show_id)
    finding = finding_of(saved, seen_of(saved))
    if finding is None or not finding.settled:
        raise EditError("No cause stands out any more: look at the page again.")
    counting = finding.belief.evidence
    fault = finding.suspects[0].fault
    words = cause_words(saved.show, [fault])
    store().tell(show_id, f"Found: {words}", who=who(), origin="Prove")
    before = load(show_id)
    marked = _marked(before.show, fault, counting, was_set=TroubleshootStep.sent().was_set.data)
    if marked != before.show:
        save(before, marked)
    wrong = [e for e in counting if e.check.kind is Kind.LOOK and e.answer is not Answer.RIGHT]
    pages().evidence.begin_anew(show_id, wrong, who=who())
    flash(f"Noted: {words} Mend it, then look again: it stays open until it is proven right.")
    return redirect(url_for("troubleshoot.index", show_id=show_id))


def _marked(show: Show, fault: Fault, counting: Sequence[Evidence], *, was_set: bool) -> Show:
    """The show with what was found as an open sign of its fixture, else of the one that was looked
    at; and with the mark that the fixture was set to what is planned, where somebody says so."""
    dark = next((e for e in counting if e.check.kind is Kind.LOOK and e.answer in SIGNS), None)
    open_one = fault.fixture or (dark.check.fixture if dark else None)
    if open_one is not None and show.fixture(open_one).sign is None:
        seen = SIGNS[dark.answer] if dark and dark.check.fixture == open_one else Sign.DARK
        show = edits.mark_sign(show, open_one, seen, str(Look.OPEN), witness(How.SEEN))
    if was_set and fault.fixture is not None and fault.trouble in SET_AT_IT:
        show = edits.mark_set(show, [fault.fixture], witness())
    return show


@blueprint.post("/anew")
def anew(show_id: int) -> BaseResponse:
    """Begin a new search: all evidence is forgotten; the log keeps it."""
    saved = load(show_id)
    count = len(pages().evidence.of(show_id))
    pages().evidence.begin_anew(show_id)
    flash(
        f"{counted(count, 'piece')} of evidence put away; the log of {saved.show.name} keeps them."
    )
    return redirect(url_for("troubleshoot.index", show_id=show_id))


@blueprint.post("/weights")
def weigh(show_id: int) -> BaseResponse | tuple[str, int]:
    """Keep how likely each kind of trouble is to begin with, or go back to practice."""
    form, saved = TroubleshootWeights.sent(), load(show_id)
    if form.practice.data:
        pages().evidence.weigh(show_id, WEIGHTS)
        return redirect(url_for("troubleshoot.index", show_id=show_id))
    typed = dict(zip(form.trouble.data, form.weight.data, strict=False))
    try:
        pages().evidence.weigh(show_id, weights_of(typed))
    except EditError as error:
        link = TroubleshootLink(MultiDict())
        return page(saved, link, weighed=typed, problem=str(error)), 422
    flash("Kept for this show.")
    return redirect(url_for("troubleshoot.index", show_id=show_id))


@blueprint.post("/bring")
def bring(show_id: int) -> BaseResponse:
    """Bring the fixture of the next check up alone, in open white."""
    saved = load(show_id)
    fixture = saved.show.fixture(whole_number(request.form.get("fixture", "")) or 0)
    bring_up(saved, fixture, Look.OPEN)
    return redirect(url_for("troubleshoot.index", show_id=show_id))
