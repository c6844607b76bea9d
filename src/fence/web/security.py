"""The secret key, the headers, and protection of every write."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from flask import Flask
from flask_talisman import Talisman
from flask_wtf import CSRFProtect

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
    """The key that signs sessions: made on first start, kept beside the data, readable by its owner only."""
    path = database.with_name(database.name + ".key")
    try:
        return path.read_text(encoding="ascii").strip()
    except FileNotFoundError:
        path.parent.mkdir(parents=True, exist_ok=True)
        partial = path.with_name(f"{path.name}.{os.getpid()}.partial")
        with os.fdopen(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as stream:
            stream.write(secrets.token_hex(32))
        try:
            os.link(partial, path)  # of two processes that start at once, one key wins
        except FileExistsError:
            pass
        finally:
            partial.unlink()
        return path.read_text(encoding="ascii").strip()


def protect(app: Flask) -> None:
    """A strict content policy and the usual headers on every answer; a CSRF token on every write."""
    CSRFProtect(app)
    Talisman(
        app,
        force_https=False,
        strict_transport_security=False,
        session_cookie_secure=False,
        content_security_policy=CONTENT_POLICY,
        frame_options="DENY",
        referrer_policy="same-origin",
        permissions_policy={"camera": "()", "microphone": "()", "geolocation": "()"},
    )
