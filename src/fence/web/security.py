"""The secret key, the headers, and protection of every write."""

from __future__ import annotations

import os
import re
import secrets
import socket
from collections.abc import Iterable
from hashlib import sha256
from ipaddress import ip_address
from pathlib import Path
from urllib.parse import urlsplit

from flask import Flask, Request, Response, request
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface, SessionMixin
from flask_talisman import Talisman
from flask_wtf import CSRFProtect
from itsdangerous import BadSignature
from werkzeug.exceptions import SecurityError

from fence.disk import DiskError
from fence.web.access import guard
from fence.wire.interfaces import interfaces

KEY = re.compile(rb"[0-9a-f]{64}")

CONTENT_POLICY = {
    "default-src": "'self'",
    "script-src": "'self'",
    "style-src": "'self'",
    "img-src": ["'self'", "data:"],
    "font-src": "'self'",
    "object-src": "'none'",
    "base-uri": "'none'",
    "form-action": "'self'",
    "frame-ancestors": "'none'",
}


def secret_key(database: Path) -> str:
    """The key that signs sessions: made on first start, kept beside the data, readable by its owner
    only."""
    path = database.with_name(database.name + ".key")
    try:
        if not path.exists():
            if not os.access(path.parent, os.W_OK) and database.exists():
                # the folder can only be looked at: sessions end with this start
                return secrets.token_hex(32)
            _make_key(path)
        key = path.read_bytes()[:1000].strip()
    except OSError as error:
        raise DiskError(
            f"{path}: the key that signs sessions cannot be read or made ({error.strerror})."
        ) from None
    if not KEY.fullmatch(key):
        raise DiskError(
            f"{path}: this is not a key that Fence made. Move it away, and a fresh one is made."
        )
    return key.decode("ascii")


def _make_key(path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(f"{path.name}.{secrets.token_hex(6)}.partial")
    with os.fdopen(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as stream:
        stream.write(secrets.token_hex(32))
    try:
        os.link(partial, path)  # of two processes that start at once, one key wins
    except FileExistsError:
        pass
    finally:
        partial.unlink()


def cookie_name(key: str) -> str:
    """The name of the cookie of sessions: one for each database, since browsers keep no cookies
    apart by port."""
    return f"fence_{sha256(key.encode()).hexdigest()[:10]}"


SHIPPED = frozenset({"static", "assets.stylesheet", "assets.ahead"})
"""What ships with Fence: the same for everybody, and kept by browsers."""


class Sessions(SecureCookieSessionInterface):
    """Sessions in signed cookies, as Flask has them, but for their age: how long a log-in lasts the
    database keeps.

    By the clock a cookie can be from the future, when the clock of the machine went back: it is
    taken all the same.
    """

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        """The session of a request; an empty one where there is none, or it was not signed here."""
        signer = self.get_signing_serializer(app)
        if signer is None:
            return None
        try:
            return self.session_class(
                signer.loads(request.cookies.get(self.get_cookie_name(app), ""))
            )
        except BadSignature:
            return self.session_class()

    def save_session(self, app: Flask, session: SessionMixin, response: Response) -> None:
        """Send the cookie where it changed; what ships is the same for everybody."""
        if request.endpoint not in SHIPPED:
            super().save_session(app, session, response)


OWN = frozenset({"localhost", "127.0.0.1", "::1"})
"""What this machine is called by itself."""
EVERYWHERE = frozenset({"0.0.0.0", "::", ""})
"""Addresses to listen on that mean all; none is a name."""


def is_own(host: str | None) -> bool:
    """Whether a host name or address leads from a machine to that machine itself, and nobody else
    in."""
    try:
        return host in OWN or ip_address(host or "").is_loopback
    except ValueError:
        return False


def here_called() -> frozenset[str]:
    """What others in the network may call this machine: its addresses there, and its own name."""
    name = socket.gethostname().lower()
    return frozenset(
        {name, f"{name}.local", *(str(one.ip) for one in interfaces() if not one.ip.is_loopback)}
    )


def trusted(names: Iterable[str]) -> frozenset[str]:
    """The host names that are answered, as browsers send them: this machine's own, and those that
    Fence was told.

    An address to listen on that means "all" is no name.
    """
    told = {*OWN, *(name.strip("[]").lower() for name in names)} - EVERYWHERE
    return frozenset(
        name if name.isascii() else name.encode("idna").decode("ascii") for name in told
    )


def host_of(header: str) -> str | None:
    """The host name of a ``Host`` header, without the port; None for what is none."""
    try:
        return urlsplit(f"//{header}").hostname
    except ValueError:
        return None


def protect(app: Flask) -> None:
    """Trusted host names only, the door, a token on every write, a strict content policy and the
    usual headers."""

    @app.before_request
    def known_by_that_name() -> None:
        """Refuse any other, so that a page elsewhere whose name was pointed at this machine cannot
        reach it."""
        if host_of(request.headers.get("Host", "")) not in app.config["HOSTS"]:
            raise SecurityError("This host name is not trusted.")

    guard.register(app)
    CSRFProtect(app)
    Talisman(
        app,
        force_https=False,
        strict_transport_security=False,
        session_cookie_secure=bool(app.config["SESSION_COOKIE_SECURE"]),
        content_security_policy=CONTENT_POLICY,
        frame_options="DENY",
        referrer_policy="same-origin",
        permissions_policy={"camera": "()", "microphone": "()", "geolocation": "()"},
    )

    @app.after_request
    def kept_nowhere(response: Response) -> Response:
        """Pages show a plan as it was a moment ago: they are not kept on the way, and asked for
        anew.

        Where people log in no browser keeps them at all, so that nobody goes back to them after a
        log-out.
        """
        if request.endpoint not in SHIPPED:
            response.headers.setdefault(
                "Cache-Control", "no-store" if guard.guarded() else "private, no-cache"
            )
        return response
