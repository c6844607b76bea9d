"""Logging in and out, taking an invitation, and a person's own page."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, session, url_for
from flask_login import login_user, logout_user
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.core.model.text import printable
from fence.store.people import NOT_GOOD, Invitation, Person, Role, Sitting, WrongPassword
from fence.web.access.forms import (
    AccessEither,
    AccessLink,
    AccessStep,
    JoinForm,
    LogInForm,
    PasswordForm,
)
from fence.web.access.guard import Visitor, own_way, people, person, sitting
from fence.web.access.tries import (
    OF_ONE_PLACE,
    Counted,
    against_name,
    against_place,
    know_browser,
    tries,
)
from fence.web.showing import Showing

blueprint = Blueprint("access", __name__)

WRONG = "This name and this password do not belong together."
DEVICES = (
    ("iPhone", "phone"),
    ("Android", "phone"),
    ("iPad", "tablet"),
    ("Windows", "Windows"),
    ("Mac OS", "Mac"),
    ("Linux", "Linux"),
)
BROWSERS = (("Firefox", "Firefox"), ("Edg", "Edge"), ("Chrom", "Chromium"), ("Safari", "Safari"))


@blueprint.route("/log-in", methods=["GET", "POST"])
def log_in() -> BaseResponse | str | tuple[str, int]:
    """Ask for name and password."""
    asked = AccessEither.either()
    way = own_way(asked.next.data)
    if person() is not None:
        return redirect(way or url_for("shows.index"))
    form = LogInForm()
    if request.method == "GET":
        return _log_in_page(LogInForm(formdata=None), way, "")
    if not form.validate():
        return _log_in_page(form, way, ""), 422
    name = form.name.data or ""
    with tries().trying(*against_name(name, people().id_of(name))) as attempt:
        found = people().known(name, form.password.data or "")
        attempt.right = found is not None
    if found is None:
        return _log_in_page(form, way, WRONG), 422
    _let_in(found)
    return redirect(way or url_for("shows.index"))


@dataclass(frozen=True, slots=True, kw_only=True)
class AccessLogIn(Showing):
    """What is shown by ``access/log_in.html``."""

    template = "access/log_in.html"
    form: LogInForm
    way: str
    problem: str
    owned: bool
    secure: bool


def _log_in_page(form: LogInForm, way: str, problem: str) -> str:
    return AccessLogIn(
        form=form,
        way=way,
        problem=problem,
        owned=people().owned(),
        secure=request.is_secure,
    ).rendered()


def _let_in(found: Person) -> None:
    """Log somebody in with this browser, whose theme stays."""
    kept = {name: session[name] for name in ("theme",) if name in session}
    session.clear()
    session.update(kept)
    session.permanent = True
    token = people().begin(found.id, _device())
    held = people().at(token)
    assert held is not None
    login_user(Visitor(held, token))
    know_browser(found.id)


def _device() -> str:
    """What kind of browser this is, as somebody would tell it from others."""
    agent = request.headers.get("User-Agent", "")[:1000]
    device = next((words for sign, words in DEVICES if sign in agent), "")
    browser = next((words for sign, words in BROWSERS if sign in agent), "")
    return printable(" on ".join(filter(None, (browser, device))) or "a browser")


@dataclass(frozen=True, slots=True, kw_only=True)
class AccessJoin(Showing):
    """What is shown by ``access/join.html``."""

    template = "access/join.html"
    invitation: Invitation | None
    form: JoinForm | None = None
    code: str | None = None
    problem: str
    secure: bool


@blueprint.get("/join")
@blueprint.route("/join/<code>", methods=["GET", "POST"])
def join(code: str = "") -> BaseResponse | str | tuple[str, int]:
    """Take an invitation: choose a name and a password."""
    link = AccessLink.linked()
    if typed := link.code.data:
        return redirect(url_for("access.join", code=typed[:60].replace("/", "-")))
    invitation = None
    if code:
        with tries().trying(against_place()) as attempt:
            invitation = people().invited(code)
            attempt.right = invitation is not None
    if invitation is None:
        problem = NOT_GOOD if code else ""
        body = AccessJoin(invitation=None, problem=problem, secure=request.is_secure).rendered()
        return (body, 404) if code else body
    form, problem = JoinForm(), ""
    if request.method == "POST" and form.validate():
        try:
            found = people().join(code, form.name.data or "", form.password.data or "")
        except EditError as error:
            problem = str(error)
        else:
            _let_in(found)
            flash(f"You are on, {found.name}: {found.role}, {found.role.means}.")
            return redirect(url_for("people.index" if found.role is Role.OWNER else "shows.index"))
    body = AccessJoin(
        invitation=invitation,
        form=form if request.method == "POST" else JoinForm(formdata=None),
        code=code,
        problem=problem,
        secure=request.is_secure,
    ).rendered()
    return (body, 422) if request.method == "POST" else body


@blueprint.post("/log-out")
def log_out() -> BaseResponse:
    """End the log-in of this browser."""
    held = sitting()
    if held is not None:
        people().end(held.id)
    logout_user()
    session.pop("who", None)
    return redirect(url_for("access.log_in"))


@dataclass(frozen=True, slots=True, kw_only=True)
class AccessMine(Showing):
    """What is shown by ``access/mine.html``."""

    template = "access/mine.html"
    form: PasswordForm
    problem: str
    held: Sitting
    sittings: list[Sitting]
    secure: bool


@blueprint.route("/me", methods=["GET", "POST"])
def mine() -> BaseResponse | str | tuple[str, int]:
    """A person's own page: where they are logged in, and another password."""
    held, form, problem = sitting(), PasswordForm(), ""
    assert held is not None
    if request.method == "POST" and form.validate():
        try:
            _change_password(held, form)
        except EditError as error:
            problem = str(error)
        else:
            people().end_others(held.person.id, held.id)
            flash("Your password is another one now. You are logged out everywhere else.")
            return redirect(url_for("access.mine"))
    body = AccessMine(
        form=form if request.method == "POST" else PasswordForm(formdata=None),
        problem=problem,
        held=held,
        sittings=people().sittings(held.person.id),
        secure=request.is_secure,
    ).rendered()
    return (body, 422) if request.method == "POST" else body


def _change_password(held: Sitting, form: PasswordForm) -> None:
    """Take another password; wrong ones of now count against this log-in."""
    with tries().trying(Counted(OF_ONE_PLACE, ("sitting", str(held.id)))) as attempt:
        try:
            people().change_password(held.person.id, form.old.data or "", form.password.data or "")
            attempt.right = True
        except EditError as error:
            attempt.right = not isinstance(error, WrongPassword)
            raise


@blueprint.post("/me/end")
def end() -> BaseResponse:
    """Log one of the person's own browsers out."""
    form = AccessStep.sent()
    held = sitting()
    assert held is not None
    people().end(form.sitting.data, of=held.person.id)
    flash("That browser is logged out.")
    return redirect(url_for("access.mine"))
