"""What every page of a show needs: the show, what the rules say of it, and saving an edit."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

from flask import current_app, flash, request, session

from fence.core.edits.records import only_marks
from fence.core.model.record import How, Witness
from fence.core.model.show import Show
from fence.core.model.text import counted, whole_number
from fence.library import shipped_profiles
from fence.store.answers import AnswersKept
from fence.store.drafts import Drafts
from fence.store.evidence import EvidenceKept
from fence.store.journal import Journal
from fence.store.library import Library
from fence.store.people import People
from fence.store.practising import CasesKept, PracticeKept
from fence.store.shows import SavedShow, ShowStore
from fence.store.trims import Trims
from fence.store.ways import Ways
from fence.store.wordings import Heads, Wordings
from fence.web.access.guard import check_marks_only, person
from fence.work import marks, saving
from fence.work.rdm_jobs import Works

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
        self.evidence = EvidenceKept(store.engine, store.clock)
        self.heads = Heads(store.engine)
        self.practice = PracticeKept(store.engine, store.clock)
        self.cases = CasesKept(store.engine, store.clock)


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


def works() -> Works:
    """What goes on beside the pages of the running application: asking, setting, holding."""
    found: Works = current_app.extensions["fence_works"]
    return found


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


def witness(how: How = How.HAND) -> Witness:
    """Who records a fact at this browser, and when: now, or before as many seconds as a mark has
    waited there."""
    return Witness(who(), store().clock().replace(tzinfo=UTC) - waited(), how)


def waited() -> timedelta:
    """How long a mark has waited at a browser that was out of reach."""
    return marks.longest(request.form.get("ago", 0.0, type=float) if sending() else 0.0)


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
        return marks.save_mark(store(), before, after, _mark())
    done = saving.save(
        store(),
        before,
        after,
        saving.Asked(
            who(),
            origin(),
            check_marks_only,
            seen=seen or bool(request.form.get("seen")),
            repair=bool(request.form.get("repair")),
            on_top=request.form.get("on_top", type=int),
        ),
    )
    if not asked_by_htmx():
        if done.stops:
            flash(f"{counted(len(done.stops), 'new stop')}. {done.stops[0].message}", "stop")
        if done.sent_back.fixtures:
            flash(done.sent_back.told, "stop")
    if done.joined:
        flash("Saved, together with what others have saved meanwhile.")
    return done.saved


def _mark() -> marks.Mark:
    """How the mark came that this request brings."""
    return marks.Mark(witness(), origin(), sending(), waited(), check_marks_only)


def tell(show_id: int, words: str) -> SavedShow:
    """Write to the log what a mark said that could not be kept as one."""
    return marks.tell(store(), show_id, words, _mark())


def load_for_edit(show_id: int) -> SavedShow:
    """The show as it was at the revision that a form was drawn with, for the edit that the form
    asks for.

    Others may have saved since: ``save`` joins the two. Raises ``EditError`` for a form that names
    no revision.
    """
    return store().at_revision(show_id, request.form.get("revision", type=int))


def asked_by_htmx() -> bool:
    """Whether a fragment is wanted rather than a page."""
    return request.headers.get("HX-Request") == "true"


def ids_in(words: str) -> tuple[int, ...]:
    """The fixture ids in a list such as ``3,4``; whatever is no number is passed over."""
    found = map(whole_number, words.split(","))
    return tuple(dict.fromkeys(number for number in found if number is not None))
