"""The shipped styles and scripts: what a page asks for, in which order."""

from __future__ import annotations

from flask import Flask, request, url_for

from fence.web.keys import Key, keys_on, map_of

STYLES = (
    "tokens",
    "frame",
    "fence",
    "lists",
    "charts",
    "address",
    "switches",
    "print",
    "touch",
    "set",
    "lines",
    "network",
    "people",
    "reach",
    "prove",
    "rdm",
)
"""The style sheets in ``static/css``: what comes later wins where two say something of the same
thing."""


def styles() -> list[str]:
    """The addresses of all style sheets, Bootstrap first."""
    bootstrap = url_for("static", filename="vendor/bootstrap/bootstrap.min.css")
    return [bootstrap, *(url_for("static", filename=f"css/{name}.css") for name in STYLES)]


def keys_here() -> list[Key]:
    """The keys that act on the page that is asked for."""
    return keys_on(request.blueprint or "")


def key_map() -> dict[str, list[str]]:
    """What each key does on the page that is asked for."""
    return map_of(keys_here())


def register(app: Flask) -> None:
    """Make them known to templates."""
    for known in (styles, keys_here, key_map):
        app.add_template_global(known)
