"""The owner's page: who may get on and as what, invitations, where people are logged in, a copy of
everything."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

import segno
from flask import (
    Blueprint,
    Response,
    current_app,
    flash,
    redirect,
    request,
    url_for,
)
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.core.model.text import whole_number
from fence.store.backups import backup as make_backup
from fence.store.people import INVITED_HOURS, Invitation, Person, Role, Sitting, spaced
from fence.web.access.forms import PeopleStep
from fence.web.access.guard import people, person
from fence.web.pages import local_time, store
from fence.web.security import host_of, is_own
from fence.web.showing import Showing

blueprint = Blueprint("people", __name__, url_prefix="/people")


@blueprint.get("")
def index() -> str:
    """Everybody, and what is open."""
    return _page("", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class AccessPeople(Showing):
    """What is shown by ``access/people.html``."""

    template = "access/people.html"
    people: list[Person]
    at: defaultdict[int, list[Sitting]]
    me: Person | None
    invitations: list[Invitation]
    roles: list[Role]
    hours: tuple[int, ...]
    asked: tuple[str, object]
    code: str
    link: str
    picture: str
    problem: str
    secure: bool


def _page(code: str, problem: str) -> str:
    form = PeopleStep.sent()
    at: defaultdict[int, list[Sitting]] = defaultdict(list)
    for one in people().sittings():
        at[one.person.id].append(one)
    link = _for_phones(url_for("access.join", code=code)) if code else ""
    return AccessPeople(
        people=people().all(),
        at=at,
        me=person(),
        invitations=people().invitations(),
        roles=list(Role),
        hours=INVITED_HOURS,
        asked=(request.form.get("role", Role.CREW), form.hours.data),
        code=spaced(code),
        link=link,
        picture=_picture(link) if link else "",
        problem=problem,
        secure=request.is_secure,
    ).rendered()


def _for_phones(path: str) -> str:
    """A page as others in the network call it: an owner who sits at this machine itself has another
    name for it."""
    bases = current_app.config["BASES"]
    here = request.url_root.rstrip("/")
    return (bases[0] if bases and is_own(host_of(request.host)) else here) + path


def _picture(link: str) -> str:
    """The link as a code for cameras, as an image that needs no further request."""
    return segno.make(link, error="m").svg_data_uri(scale=5, border=4, dark="#000", light="#fff")


@blueprint.post("/invite")
def invite() -> str | tuple[str, int]:
    """Make an invitation; its code is shown on the page that answers, and never again."""
    form = PeopleStep.sent()
    asked, mine = form.role.data, person()
    assert mine is not None
    try:
        if asked not in set(Role):
            raise EditError("Choose what the person may do.")
        code = people().invite(
            Role(asked), hours=request.form.get("hours", 0, type=int), by=mine.name
        )
    except EditError as error:
        return _page("", str(error)), 422
    return _page(code, "")


@blueprint.post("/withdraw")
def withdraw() -> BaseResponse:
    """Take an invitation back."""
    people().withdraw(_number("invitation"))
    flash("That invitation is good no more.")
    return _back()


@blueprint.post("/role")
def role() -> BaseResponse:
    """Give somebody another role, from their next step on."""
    form = PeopleStep.sent()
    asked = form.role.data
    if asked not in set(Role):
        raise EditError("Choose what the person may do.")
    found = people().set_role(_number("person"), Role(asked))
    flash(f"{found.name} is {found.role} now: {found.role.means}.")
    return _back()


@blueprint.post("/remove")
def remove() -> BaseResponse:
    """Take somebody out."""
    found = people().remove(_number("person"))
    flash(
        f"{found.name} is out, and logged out everywhere. What {found.name} did stays on the log."
    )
    return _back()


@blueprint.post("/end")
def end() -> BaseResponse:
    """Log a browser out, at once."""
    people().end(_number("sitting"))
    flash("That browser is logged out.")
    return _back()


@blueprint.get("/backup")
def backup() -> Response:
    """A whole copy of the database, as it is now."""
    with TemporaryDirectory(prefix="fence-backup-") as folder:
        path = Path(folder) / "fence.db"
        make_backup(Path(store().engine.url.database or ""), path)
        data = path.read_bytes()
    name = f"fence-{local_time():%Y-%m-%d-%H%M}.db"
    response = Response(data, content_type="application/vnd.sqlite3")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _number(name: str) -> int:
    return whole_number(request.form.get(name, "")) or 0


def _back() -> BaseResponse:
    return redirect(url_for("people.index"))
