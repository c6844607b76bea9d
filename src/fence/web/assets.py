"""The shipped styles and scripts: what a page asks for, in which order."""

from __future__ import annotations

import gzip
import json
from functools import cache
from hashlib import sha256
from pathlib import Path

from flask import Flask, Response, current_app, request, url_for

from fence.web.keys import Key, keys_on, map_of
from fence.web.security import SHIPPED, host_of, is_own

STATIC = Path(__file__).parent / "static"
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
    "plan",
    "people",
    "reach",
    "prove",
    "rdm",
    "practise",
)
"""The style sheets in ``static/css``: what comes later wins where two say something of the same
thing."""


def styles() -> list[str]:
    """The addresses of the style sheets, Bootstrap first; Fence's own are sent as one."""
    bootstrap = url_for("static", filename="vendor/bootstrap/bootstrap.min.css")
    return [bootstrap, url_for("assets.stylesheet")]


def modules() -> list[str]:
    """The addresses of all modules of the script, to be fetched at once."""
    names = sorted(path.name for path in (STATIC / "js").glob("*.js"))
    return [url_for("static", filename=f"js/{name}") for name in names]


@cache
def _joined() -> str:
    return "\n".join((STATIC / "css" / f"{name}.css").read_text("utf-8") for name in STYLES)


def stylesheet() -> Response:
    """All style sheets in the order of the cascade: one request instead of sixteen."""
    answer = Response(_joined(), mimetype="text/css")
    answer.cache_control.public = True
    answer.cache_control.max_age = current_app.config["SEND_FILE_MAX_AGE_DEFAULT"]
    return answer


PACKED = ("text/css", "text/javascript", "application/javascript", "image/svg+xml")
"""What becomes much smaller on its way. Fonts are packed already; pages are not, since they hold
what is secret beside what others typed."""
SMALL = 1000
"""Bytes that are sent as they are."""


@cache
def _packed(whole: bytes) -> bytes:
    return gzip.compress(whole, mtime=0)


def pack(response: Response) -> Response:
    """Send styles and scripts packed to browsers that take them so: a phone loads them over
    whatever network a venue has."""
    if request.endpoint not in SHIPPED or response.mimetype not in PACKED:
        return response
    response.vary.add("Accept-Encoding")
    if response.status_code != 200 or not request.accept_encodings["gzip"]:
        return response
    response.direct_passthrough = False
    if len(whole := response.get_data()) > SMALL:
        response.set_data(_packed(whole))
        response.headers["Content-Encoding"] = "gzip"
        tag, _ = response.get_etag()
        if tag:
            response.set_etag(f"{tag}-packed")
    return response


PAGES_NOT_FILES = {
    "and": [
        {"href_matches": "/*"},
        {"not": {"href_matches": "/*.*"}},
        {"not": {"selector_matches": "[hx-get], [target], [download]"}},
    ]
}
"""Links that lead to a page; what is saved as a file has an ending."""
AHEAD = {"prefetch": [{"where": PAGES_NOT_FILES, "eagerness": "conservative"}]}
"""Browsers that can ask for a page while its link is still pressed down, not sooner: a page tells
how a show stands."""


def ahead() -> Response:
    """The rules by which browsers ask for pages ahead."""
    answer = Response(json.dumps(AHEAD), mimetype="application/speculationrules+json")
    answer.cache_control.public = True
    answer.cache_control.max_age = current_app.config["SEND_FILE_MAX_AGE_DEFAULT"]
    return answer


def ask_ahead(response: Response) -> Response:
    """Pages carry the rules; with a change, all that was asked for before it is let go. Only where
    browsers keep both: encrypted, or at this machine itself."""
    if not (request.is_secure or is_own(host_of(request.host))):
        return response
    if request.method == "POST":
        response.headers["Clear-Site-Data"] = '"prefetchCache", "prerenderCache"'
    elif response.mimetype == "text/html":
        response.headers["Speculation-Rules"] = f'"{url_for("assets.ahead")}"'
    return response


@cache
def shipped_version() -> str:
    """A word that changes with any style, script or font that ships."""
    found = sha256()
    for path in sorted(path for path in STATIC.rglob("*") if path.is_file()):
        found.update(path.relative_to(STATIC).as_posix().encode())
        found.update(path.read_bytes())
    return found.hexdigest()[:12]


def keys_here() -> list[Key]:
    """The keys that act on the page that is asked for."""
    return keys_on(request.blueprint or "")


def key_map() -> dict[str, list[str]]:
    """What each key does on the page that is asked for."""
    return map_of(keys_here())


def register(app: Flask) -> None:
    """Make them known to templates."""
    for known in (styles, modules, keys_here, key_map):
        app.add_template_global(known)
    # beside the files that it is made of, so that what they name is found from here, too
    app.add_url_rule(f"{app.static_url_path}/css/all.css", "assets.stylesheet", stylesheet)
    app.add_url_rule(f"{app.static_url_path}/ahead.json", "assets.ahead", ahead)
    app.after_request(ask_ahead)
    app.after_request(pack)
