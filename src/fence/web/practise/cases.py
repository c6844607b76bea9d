"""Cases: faults that somebody hides for others by clicking, shared as a file or on paper; and who
solved each, how."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, request, url_for
from pydantic import ValidationError
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.core.model.text import check_text, slug
from fence.core.practising.hidden import Hidden
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.told import cause_words, evidence_words, remedy
from fence.formats.cases import FAULTS, MOST_FAULTS, CaseFile, read_case, write_case
from fence.formats.errors import FileError
from fence.store.practising import Case, Search
from fence.web.frame import Frame
from fence.web.pages import pages, who
from fence.web.practise.find import Kept, begin, kept_of
from fence.web.practise.forms import CaseLink, CaseStep
from fence.web.practise.place import Practised, practised
from fence.web.practise.where import Places, fault_of, kinds, places
from fence.web.showing import Showing
from fence.work.hunts import Hunt

blueprint = Blueprint("cases", __name__)

LARGEST = 20 * 2**20


@dataclass(frozen=True, slots=True)
class Set:
    """A fault that is to be hidden: what it is, and what will be noticed of it."""

    words: str
    looks: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseCaseNew(Showing):
    """What is shown by ``practise/case_new.html``."""

    template = "practise/case_new.html"
    base: str
    frame: Frame | None
    show_id: int | None
    rig: str
    places: Places
    kinds: list[tuple[Trouble, str]]
    chosen: list[Set]
    faults: str
    most: int
    typed: dict[str, str]
    title: str
    problem: str


@blueprint.get("/practise/cases/new")
@blueprint.get("/shows/<int:show_id>/practise/cases/new")
def new(show_id: int | None = None) -> str:
    """Choose what is to be hidden."""
    return _new(practised(show_id), ())


def _new(here: Practised, faults: tuple[Fault, ...], problem: str = "", title: str = "") -> str:
    show = here.rig
    return PractiseCaseNew(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        rig=here.name,
        places=places(show),
        kinds=kinds(),
        chosen=[Set(cause_words(show, [one]), looks_like(show, (one,))) for one in faults],
        faults=FAULTS.dump_json(faults).decode(),
        most=MOST_FAULTS,
        typed=CaseLink.sent().typed(),
        title=title,
        problem=problem,
    ).rendered()


def looks_like(show: Show, faults: tuple[Fault, ...]) -> str:
    """What will be noticed of faults first, in a sentence."""
    seen = Hidden(show, faults).complaint()
    if seen is None:
        return "Nothing will be noticed of it when fixtures are brought up."
    words = evidence_words(show, seen)
    return f"It will look like this: {words[:1].lower() + words[1:]}."


def _sent(show: Show, text: str) -> tuple[Fault, ...]:
    """The faults chosen so far, as the form carries them; what is no longer in the rig is left
    out."""
    try:
        found = FAULTS.validate_json(text or "[]")
    except ValidationError:
        return ()
    ids = show.fixture_by_id
    return tuple(one for one in found[:MOST_FAULTS] if one.fixture is None or one.fixture in ids)


@blueprint.post("/practise/cases/new")
@blueprint.post("/shows/<int:show_id>/practise/cases/new")
def take(show_id: int | None = None) -> BaseResponse | str | tuple[str, int]:
    """Add a fault, take one out, or keep the case."""
    here, form, link = practised(show_id), CaseStep.sent(), CaseLink.sent()
    show, title = here.rig, form.title.data
    faults = _sent(show, form.faults.data)
    try:
        if link.add.data or (link.enter.data and not title):
            if len(faults) >= MOST_FAULTS:
                raise EditError(f"{MOST_FAULTS} faults are enough.")
            fault = fault_of(show, link.trouble.data, link.where.data, link.more.data)
            if fault not in faults:
                faults = (*faults, fault)
            return _new(here, faults, title=title)
        if link.out.data is not None:
            left = tuple(one for at, one in enumerate(faults) if at != link.out.data)
            return _new(here, left, title=title)
        check_text("title", title)
        if not faults:
            raise EditError("Hide at least one fault.")
        if Hidden(show, faults).complaint() is None:
            raise EditError("Nothing of it would be noticed: hide something that can be seen.")
    except FenceError as error:
        return _new(here, faults, str(error), title), 422
    case_id = pages().cases.put(title, write_case(CaseFile(title, show, faults)), who())
    flash(f"“{title}” is there to be found.")
    return redirect(url_for("cases.of", case_id=case_id, show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseCase(Showing):
    """What is shown by ``practise/case.html``."""

    template = "practise/case.html"
    base: str
    frame: Frame | None
    show_id: int | None
    case: Case
    rig: str
    searches: list[tuple[Search, Kept]]


def _case(case_id: int) -> tuple[Case, CaseFile]:
    case = pages().cases.get(case_id)
    return case, read_case(case.document.encode())


@blueprint.get("/practise/cases/<int:case_id>")
@blueprint.get("/shows/<int:show_id>/practise/cases/<int:case_id>")
def of(case_id: int, show_id: int | None = None) -> str:
    """A case: begin it, share it, and see who solved it, how. Nothing here says what is wrong
    before somebody has ended it."""
    here, (case, file) = practised(show_id), _case(case_id)
    return PractiseCase(
        base=here.base,
        frame=here.frame,
        show_id=here.show_id,
        case=case,
        rig=file.show.name,
        searches=[(one, kept_of(one)) for one in pages().cases.searches(case=case_id)],
    ).rendered()


@blueprint.post("/practise/cases/<int:case_id>/begin")
@blueprint.post("/shows/<int:show_id>/practise/cases/<int:case_id>/begin")
def start(case_id: int, show_id: int | None = None) -> BaseResponse:
    """Begin to search a case."""
    case, file = _case(case_id)
    return begin(practised(show_id), file.faults, Hunt(file.show, case.id, case.title))


@blueprint.post("/practise/cases/<int:case_id>/remove")
@blueprint.post("/shows/<int:show_id>/practise/cases/<int:case_id>/remove")
def remove(case_id: int, show_id: int | None = None) -> BaseResponse:
    """Remove a case with what is known of who solved it."""
    pages().cases.remove(case_id)
    flash("The case is removed.")
    return redirect(url_for("find_it.index", show_id=show_id))


@blueprint.get("/practise/cases/<int:case_id>.json")
def as_file(case_id: int) -> Response:
    """The case as a file, its faults sealed."""
    case, _ = _case(case_id)
    name = f"{slug(case.title, 'case')}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(case.document, content_type="application/json", headers=headers)


@blueprint.post("/practise/cases")
@blueprint.post("/shows/<int:show_id>/practise/cases")
def upload(show_id: int | None = None) -> BaseResponse:
    """Take a case from a file."""
    sent = request.files.get("file")
    data = sent.stream.read(LARGEST + 1) if sent else b""
    if not data or len(data) > LARGEST:
        raise FileError("Choose the file of a case, up to 20 MB.")
    file = read_case(data)
    if Hidden(file.show, file.faults).complaint() is None:
        raise FileError("Nothing of this case can be noticed: its faults do not fit its rig.")
    case_id = pages().cases.put(file.title, write_case(file), who())
    flash(f"“{file.title}” is there to be found.")
    return redirect(url_for("cases.of", case_id=case_id, show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class PractiseCaseSheet(Showing):
    """What is shown by ``practise/case_sheet.html``."""

    template = "practise/case_sheet.html"
    base: str
    frame: Frame | None
    case: Case
    show: Show
    complaint: str
    lines: list[tuple[str, str]]
    answers: list[tuple[str, str]]


@blueprint.get("/practise/cases/<int:case_id>/sheet")
@blueprint.get("/shows/<int:show_id>/practise/cases/<int:case_id>/sheet")
def sheet(case_id: int, show_id: int | None = None) -> str:
    """A case on paper, for whoever teaches: what is noticed and the rig on the first page, what is
    wrong on the second."""
    here, (case, file) = practised(show_id), _case(case_id)
    show = file.show
    seen = Hidden(show, file.faults).complaint()
    return PractiseCaseSheet(
        base=here.base,
        frame=here.frame,
        case=case,
        show=show,
        complaint=evidence_words(show, seen) if seen else "",
        lines=[
            (line.name, " → ".join(name for name in _names(show, line.id))) for line in show.lines
        ],
        answers=[(cause_words(show, [one]), remedy(show, one)) for one in file.faults],
    ).rendered()


def _names(show: Show, line_id: int) -> list[str]:
    return [
        place.words.rpartition(", ")[0]
        for place in places(show).stops
        if place.value.startswith(f"s{line_id}.")
    ]
