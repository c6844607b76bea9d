"""The application factory."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from flask import Flask
from werkzeug.routing import IntegerConverter, Map

from fence.store.database import open_engine
from fence.store.shows import ShowStore
from fence.web import assets, compiled, errors, fields, frame, icons, security, terms
from fence.web.access import people
from fence.web.access import views as access
from fence.web.access.tries import Tries
from fence.web.address import blocks, layout, proposals, room, sheet, trial, universes, ways
from fence.web.address import views as address
from fence.web.charts import change, choose, entering, files, probe, update, words
from fence.web.charts import views as charts
from fence.web.findings import views as findings
from fence.web.lines import day, ground, links, pins, plans, pull, stock
from fence.web.lines import views as lines
from fence.web.lists import views as lists
from fence.web.log import handing
from fence.web.log import views as log
from fence.web.network import boxcard, hosts, look, numbers, ports
from fence.web.network import views as network
from fence.web.pages import Pages
from fence.web.practise import cases, challenges, drills, find, worksheet
from fence.web.practise import views as practise
from fence.web.prove import colour, faders, lesson, out, practice, tester, troubleshoot
from fence.web.prove import views as prove
from fence.web.rdm import device, first, holding
from fence.web.rdm import views as rdm
from fence.web.rig import add, bulk, fixture, hanging
from fence.web.rig import find as rig_find
from fence.web.rig import views as rig
from fence.web.routes import LateRule
from fence.web.serving import LARGEST_BODY
from fence.web.set import card, codes, here, labels, later, order, place, rounds, says
from fence.web.set import views as set_views
from fence.web.shows import imports, preferences, steps
from fence.web.shows import views as shows
from fence.web.switches import views as switches
from fence.work.rdm_jobs import Works

PAGES = (
    *(access, people),
    *(shows, imports, steps, preferences),
    *(charts, entering, update, files, words, choose, change, probe),
    *(rig, add, bulk, rig_find, fixture, hanging),
    *(address, proposals, blocks, layout, trial, room, sheet, universes, ways),
    *(lines, pull, plans, ground, stock, day, links, pins),
    *(network, ports, hosts, boxcard, look, numbers),
    *(set_views, later, here, card, says, place, order, rounds, labels, codes),
    *(prove, faders, colour, tester, troubleshoot, lesson, practice, out),
    *(rdm, device, first, holding),
    *(findings, lists, switches),
    *(practise, drills, worksheet, find, cases, challenges),
    *(log, handing),
)
"""Every file of views, step by step; each brings one blueprint of its own name."""


class Number(IntegerConverter):
    """A number in the address of a page: none that no row can have."""

    def __init__(self, url_map: Map) -> None:
        super().__init__(url_map, max=10**15)


def create_app(
    database: Path,
    config: Mapping[str, Any] | None = None,
    *,
    names: Sequence[str] = (),
    secure: bool = False,
) -> Flask:
    """Fence on a database file, which is made or migrated as needed.

    ``config`` overrides settings, for tests. ``names`` are the hosts that browsers may call it by,
    beside those of this machine to itself: with any other than its own it asks everyone to log in,
    and there is no way to have it reachable without. ``secure`` says that it is served by HTTPS.
    Raises ``DatabaseFileError`` if the file cannot be used.
    """
    # what ships is found under its version: browsers keep it for good, and ask anew after a change
    app = Flask(__name__, static_url_path=f"/static/{assets.shipped_version()}")
    key = security.secret_key(database)
    app.config.from_mapping(
        SECRET_KEY=key,
        SESSION_COOKIE_NAME=security.cookie_name(key),
        HOSTS=security.trusted(names),
        GUARDED=not all(map(security.is_own, names)),
        BASES=(),
        MAX_CONTENT_LENGTH=LARGEST_BODY,
        MAX_FORM_MEMORY_SIZE=LARGEST_BODY,
        MAX_FORM_PARTS=100_000,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SECURE=secure,
        SESSION_COOKIE_SAMESITE="Lax",
        PERMANENT_SESSION_LIFETIME=60 * 60 * 24 * 365,
        # an answer that comes late must not put an older cookie back
        SESSION_REFRESH_EACH_REQUEST=False,
        WTF_CSRF_TIME_LIMIT=None,
        SEND_FILE_MAX_AGE_DEFAULT=60 * 60 * 24 * 365,
    )
    app.config.from_mapping(config or {})
    app.url_map.converters["int"] = Number
    app.url_rule_class = LateRule
    app.session_interface = security.Sessions()
    attach(app, database)
    security.protect(app)
    errors.register(app, proposals.seen_first)
    compiled.register(app)
    frame.register(app)
    fields.register(app)
    icons.register(app)
    terms.register(app)
    assets.register(app)
    out.register(app)
    for page in PAGES:
        app.register_blueprint(page.blueprint)
    return app


def attach(app: Flask, database: Path) -> None:
    """Put an application on a database file, with all that belongs to it: the store, what sends,
    what talks."""
    pages = Pages(ShowStore(open_engine(database)))
    app.extensions["fence_pages"] = pages
    app.extensions["fence_tries"] = Tries()
    app.extensions["fence_works"] = Works(pages.store, pages.answers)
    out.attach(app)
    find.attach(app)
