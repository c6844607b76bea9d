"""The door: who is at this browser, and whether that is enough for the place that is asked for.

Fence on the machine of one person has no door. The moment that others can reach it, it asks
everyone to log in.
"""

from __future__ import annotations

import re
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urlsplit

from flask import (
    Flask,
    abort,
    current_app,
    flash,
    make_response,
    redirect,
    request,
    session,
    url_for,
)
from flask_login import LoginManager, UserMixin, current_user
from werkzeug.routing import Rule
from werkzeug.wrappers import Response as BaseResponse

from fence.core.edits.records import only_marks
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.store.people import People, Person, Role, Sitting
from fence.web.access.rights import ANYBODY, needed

OF_THE_DOOR = ("access", "people")
"""Blueprints that are only there where there is a door."""

VARIES = re.compile(r"<[^<>]*>")


class NotYours(FenceError):  # noqa: N818 - it is an answer for people first
    """What this person's role does not take."""

    def __init__(self, role: Role, asked: Role) -> None:
        super().__init__(
            f"This is for a {asked}: you are logged in as {role} ({role.means}). The owner can "
            "give you another role."
        )


@dataclass
class Visitor(UserMixin):  # type: ignore[misc]  # the package has no types
    """Who is logged in, as the log-in package keeps it."""

    sitting: Sitting
    token: str

    @property
    def person(self) -> Person:
        """Who it is."""
        return self.sitting.person

    def get_id(self) -> str:
        """What the cookie holds: the token of this one log-in, so that it can be ended by
        itself."""
        return self.token


def guarded() -> bool:
    """Whether this Fence asks people to log in."""
    return bool(current_app.config["GUARDED"])


def people() -> People:
    """Everybody who may use this Fence."""
    found: People = current_app.extensions["fence_pages"].people
    return found


def person() -> Person | None:
    """Who is logged in at this browser; None where nobody is, or nobody has to."""
    return current_user.person if guarded() and current_user.is_authenticated else None


def sitting() -> Sitting | None:
    """The log-in of this browser."""
    return current_user.sitting if guarded() and current_user.is_authenticated else None


def role() -> Role:
    """What may be done at this browser: everything, where there is no door."""
    if not guarded():
        return Role.OWNER
    found = person()
    return found.role if found else Role.READER


def seat() -> str:
    """A name for this browser that no other has."""
    if (held := sitting()) is not None:
        return f"sitting {held.id} {held.began}"
    if "seat" not in session:
        session["seat"] = secrets.token_hex(8)
    return str(session["seat"])


def may(endpoint: str, method: str = "GET") -> bool:
    """Whether a place takes this person."""
    return allows(role(), endpoint, method)


def allows(held: Role, endpoint: str, method: str = "GET") -> bool:
    """Whether a place takes those of a role."""
    asked = needed(endpoint, method)
    return endpoint in ANYBODY or (asked is not None and held.may(asked))


def check_marks_only(before: Show, after: Show) -> None:
    """Refuse a change of the plan by those who mark; ``NotYours`` says who may."""
    found = role()
    if not found.may(Role.PLANNER) and not only_marks(before, after):
        raise NotYours(found, Role.PLANNER)


def check_own_step(before: Show, after: Show, whose: str) -> None:
    """Refuse to those who mark that they take back, or bring back, anything but marks of their
    own."""
    check_marks_only(before, after)
    found = person()
    if found is not None and not found.role.may(Role.PLANNER) and whose != found.name:
        raise EditError(
            f"The last step is by {whose}: you take back what you marked yourself. A planner may."
        )


def own_way(path: str) -> str:
    """A path of this Fence to go on to; empty for anything that would lead elsewhere."""
    try:
        parts = urlsplit(path[:2000])
    except ValueError:
        return ""
    if (
        parts.scheme
        or parts.netloc
        or not parts.path.startswith("/")
        or parts.path[:2] in ("//", "/\\")
    ):
        return ""
    return parts.path + (f"?{parts.query}" if parts.query else "")


def open_to() -> list[str]:
    """What this person may send to, as patterns of paths: the page's script puts away what would be
    refused."""
    return patterns(role())[0]


def closed_to() -> list[str]:
    """Pages that this person may not open, as patterns of paths."""
    return patterns(role())[1]


def patterns(held: Role) -> tuple[list[str], list[str]]:
    """What a role may send to and what it may not open; the table of addresses stays, so each role
    is read once."""
    kept: dict[Role, tuple[list[str], list[str]]] = current_app.extensions.setdefault(
        "fence_patterns", {}
    )
    if held not in kept:
        rules = list(current_app.url_map.iter_rules())
        kept[held] = (
            [
                pattern_of(one)
                for one in rules
                if "POST" in (one.methods or ()) and allows(held, one.endpoint, "POST")
            ],
            [
                pattern_of(one)
                for one in rules
                if "GET" in (one.methods or ()) and not allows(held, one.endpoint)
            ],
        )
    return kept[held]


def pattern_of(rule: Rule) -> str:
    """A rule of the address table as a pattern for a script: a part that varies is anything but a
    slash."""
    return "^" + "[^/]+".join(map(re.escape, VARIES.split(rule.rule))) + "$"


def register(app: Flask) -> None:
    """Put the door in, before anything else looks at a request."""
    login = LoginManager(app)
    # a phone changes its address from mast to mast; sittings are ended by name
    login.session_protection = None

    @login.user_loader  # type: ignore[untyped-decorator]
    def who_is(token: str) -> Visitor | None:
        found = people().at(token)
        return Visitor(found, token) if found else None

    @app.before_request
    def through_the_door() -> BaseResponse | None:
        if request.blueprint in OF_THE_DOOR and not guarded():
            abort(404)
        if not guarded() or request.endpoint in ANYBODY:
            return None
        if not current_user.is_authenticated:
            return _log_in_first()
        if request.endpoint is None:
            return None  # nothing is there, which is said to those inside only
        asked = needed(request.endpoint, request.method)
        if asked is None or not role().may(asked):
            raise NotYours(role(), asked or Role.OWNER)
        return None

    tools: dict[str, Callable[..., object]] = {
        "person": person,
        "guarded": guarded,
        "may": may,
        "open_to": open_to,
        "closed_to": closed_to,
    }
    for name, tool in tools.items():
        app.add_template_global(tool, name)


def _log_in_first() -> BaseResponse:
    """To the log-in, and back here after it. A step that was sent is not lost silently: it is
    said."""
    here = (
        request.full_path.rstrip("?")
        if request.method == "GET" and not request.headers.get("HX-Request")
        else ""
    )
    way = url_for("access.log_in", next=here if own_way(here) not in ("", "/") else None)
    if request.headers.get("HX-Request"):
        answer = make_response("Log in first.", 401)
        answer.headers["HX-Redirect"] = way
        return answer
    if request.headers.get("X-Sending"):
        return make_response("Log in first.", 401)
    if request.method != "GET":
        flash(
            "You are not logged in any more: nothing of that step is saved. Log in, then do it "
            "again."
        )
    session.pop("_user_id", None)
    return redirect(way)
