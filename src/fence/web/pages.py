"""What every page of a show needs: the show, what the rules say of it, and saving an edit."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from flask import current_app, flash, request, session

from fence.core.addressing import RepairOptions, repair_rig
from fence.core.changes import edits
from fence.core.changes.records import only_marks
from fence.core.checks import Analysis, Finding, Severity, analyse, news
from fence.core.network.ports import plan_ports
from fence.core.setting.walk import again
from fence.core.words.errors import EditError
from fence.core.words.record import How, Witness
from fence.core.words.show import Show
from fence.core.words.text import counted, printable, whole_number
from fence.library import shipped_profiles
from fence.store.answers import AnswersKept
from fence.store.drafts import Drafts
from fence.store.journal import Journal
from fence.store.library import Library
from fence.store.people import People
from fence.store.shows import SavedShow, ShowStore
from fence.store.trims import Trims
from fence.store.ways import Ways
from fence.store.wordings import Wordings
from fence.web.access.guard import check_marks_only, person

DEFAULT_WHO = "Crew"
ORIGINS = {"rdm": "RDM"}
"""Packages of views whose step is not called as they are."""
SENDING = re.compile(r"[0-9a-f-]{16,40}", re.ASCII)


class Pages:
    """The store, the library of charts, the wordings that people taught, and files that wait to be
    imported."""

    def __init__(self, store: ShowStore) -> None:
        self.store = store
        self.library = Library(store.engine, shipped_profiles(), store.clock)
        self.wordings = Wordings(store.engine)
        self.drafts = Drafts(store.engine, store.clock)
        self.journal = Journal(store.engine, store.clock)
        self.people = People(store.engine, store.clock)
        self.ways = Ways(store.engine, store.clock)
        self.trims = Trims(store.engine)
        self.answers = AnswersKept(store.engine, store.clock)


def pages() -> Pages:
    """The pages of the running application."""
    found: Pages = current_app.extensions["fence_pages"]
    return found


def store() -> ShowStore:
    """The store of the running application."""
    return pages().store


def library() -> Library:
    """The library of charts that all shows share."""
    return pages().library


def wordings() -> Wordings:
    """The wordings that were taught, for all shows."""
    return pages().wordings


def drafts() -> Drafts:
    """The files that wait to be imported."""
    return pages().drafts


def journal() -> Journal:
    """The logs as they are read."""
    return pages().journal


def origin() -> str:
    """From which step of the work this request comes: the package of its views."""
    blueprint = current_app.blueprints.get(request.blueprint or "")
    package = blueprint.import_name.split(".")[2] if blueprint is not None else ""
    return ORIGINS.get(package, package.capitalize())


def who() -> str:
    """What the person at this browser is called on the log: the name of the log-in, where there is
    one."""
    if found := person():
        return found.name
    return str(session.get("who") or DEFAULT_WHO)


def load(show_id: int) -> SavedShow:
    """The one loader of shows: ``NoSuchShow``, which becomes a 404, where there is none."""
    return store().end_waivers(store().get(show_id), local_time().date())


LATE = timedelta(minutes=1)
"""From when on the log says that a mark has waited."""
LONGEST_WAIT = timedelta(days=14)
"""How old a mark may be that comes from out of reach; older ones count as that old."""


def witness(how: How = How.HAND) -> Witness:
    """Who records a fact at this browser, and when: now, or before as many seconds as a mark has
    waited there."""
    return Witness(who(), store().clock().replace(tzinfo=UTC) - waited(), how)


def waited() -> timedelta:
    """How long a mark has waited at a browser that was out of reach."""
    seconds = request.form.get("ago", 0.0, type=float) if sending() else 0.0
    return min(timedelta(seconds=seconds), LONGEST_WAIT) if 0 < seconds < 1e9 else timedelta()


def sending() -> str:
    """The id of a mark that a browser's script sends, as often as it takes until it is answered;
    empty for a form."""
    if request.headers.get("X-Sending") != "mark":
        return ""
    found = request.form.get("sending", "")
    return found if SENDING.fullmatch(found) else ""


def local_time() -> datetime:
    """Now, on the clock of the machine that Fence runs on: the time that stands on paper."""
    return store().clock().replace(tzinfo=UTC).astimezone()


class UnseenStops(Exception):  # noqa: N818 - no error: an answer that is to be seen first
    """An edit that was not saved, since it makes stops that its person has not seen."""

    def __init__(self, before: SavedShow, after: Show, stops: Sequence[Finding]) -> None:
        super().__init__("This makes new stops: see them first.")
        self.before, self.after, self.stops = before, after, stops


def save(before: SavedShow, after: Show, *, seen: bool = False) -> SavedShow:
    """Save an edit under the name of the person at this browser.

    ``before`` is the show that the edit began at; see ``load_for_edit``. Where the person has seen
    what others saved meanwhile and wants this step on top of it, the form says up to which
    revision. Where the step joined others' the next page says so, whichever way it came.

    An edit that makes new stops is not saved but raised as ``UnseenStops``, to be shown first: the
    same for every way to an edit. It is saved where the form says that its preview was ``seen``, or
    where the page of the step shows what it did at once; the next page then names the new stops. A
    form that asks for the ``repair`` gets it in one step.
    """
    if sending() and only_marks(before.show, after):
        return _save_mark(before, after)
    if request.form.get("repair"):
        after = mended(before, after)
    # before its stops are shown; what is really written is looked at once more
    check_marks_only(before.show, after)
    seen = seen or bool(request.form.get("seen"))
    stops: list[Finding] = []

    def look(analysis: Analysis) -> None:
        found = news(before.analysis.findings, analysis.findings)
        stops.extend(finding for finding in found if finding.severity is Severity.STOP)
        if stops and not seen:
            raise UnseenStops(before, after, stops)

    on_top = request.form.get("on_top", type=int)
    saved = store().save(
        before, after, who=who(), on_top=on_top, origin=origin(), first=look, last=check_marks_only
    )
    if stops and not asked_by_htmx():
        flash(f"{counted(len(stops), 'new stop')}. {stops[0].message}", "stop")
    sent_back = again(before.show, after)
    if sent_back.fixtures and not asked_by_htmx():
        flash(sent_back.told, "stop")
    if saved.revision > before.revision + 1:
        flash("Saved, together with what others have saved meanwhile.")
    return saved


def _save_mark(before: SavedShow, after: Show) -> SavedShow:
    """Save what a browser's script sends of marks: once, and over what others saved meanwhile, for
    it is what was done and seen. A mark that is older than what is known by now goes to the log
    only."""
    made = witness().at
    late = waited() > LATE and made is not None
    note = f"Made at {made.astimezone():%H:%M}, sent when back in reach." if late and made else ""
    return store().save(
        before,
        after,
        who=who(),
        origin=origin(),
        sending=sending(),
        note=note,
        last=check_marks_only,
        settle=_newest if waited() else edits.in_order,
        over_all=True,
    )


def _newest(current: Show, after: Show) -> Show:
    """What is written of a mark that has waited: only what nobody has said better since.
    ``EditError`` where that is nothing: the log keeps it then."""
    kept = edits.keep_newer(current, after)
    if kept == current != after:
        raise EditError("Something newer is known of it by now.")
    return kept


def tell(show_id: int, words: str) -> SavedShow:
    """Write to the log what a mark said that could not be kept as one."""
    at = witness().at
    when = f" ({at:%Y-%m-%d %H:%M} UTC)" if at is not None and waited() else ""
    return store().tell(
        show_id, printable(words) + when, who=who(), origin=origin(), sending=sending()
    )


def mended(before: SavedShow, after: Show) -> Show:
    """An edit with the repair of what it broke: with the fewest moves, and those that it changed
    rather than others. What left the universe of its line goes to one that carries its own; a
    universe without a port gets a spare one."""
    held = before.show.fixture_by_id
    changed = frozenset(fixture.id for fixture in after.fixtures if held.get(fixture.id) != fixture)
    found = news(before.analysis.findings, analyse(after).findings)
    repaired = edits.rehang(repair_rig(after, RepairOptions(edited=changed)).show, changed)
    dark = any(finding.rule == "port-universe" and not finding.box for finding in found)
    return plan_ports(repaired).show if dark else repaired


def load_for_edit(show_id: int, revision: int | None) -> SavedShow:
    """The show as it was at the revision that a form was drawn with, for the edit that the form
    asks for.

    Others may have saved since: ``save`` joins the two. Raises ``EditError`` for a form that names
    no revision.
    """
    return store().at_revision(show_id, revision)


def asked_by_htmx() -> bool:
    """Whether a fragment is wanted rather than a page."""
    return request.headers.get("HX-Request") == "true"


def ids_in(words: str) -> tuple[int, ...]:
    """The fixture ids in a list such as ``3,4``; whatever is no number is passed over."""
    found = map(whole_number, words.split(","))
    return tuple(dict.fromkeys(number for number in found if number is not None))
