"""What every page of a show needs: the show, what the rules say of it, and saving an edit."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from functools import cached_property
from threading import Lock

from flask import current_app, request, session

from fence.core.checks import MOST_FINDINGS, Finding, Severity, Verdict, findings_of, tally
from fence.core.show import Show
from fence.core.text import whole_number
from fence.library import shipped_profiles
from fence.store.library import Library
from fence.store.shows import SavedShow, ShowStore

DEFAULT_WHO = "Crew"
KEPT = 16


@dataclass(frozen=True)
class Analysis:
    """What the rules say of one revision of a show. ``cut`` when there were more findings than are kept."""

    findings: tuple[Finding, ...]
    verdict: Verdict
    cut: bool

    @cached_property
    def by_fixture(self) -> dict[int, list[Finding]]:
        """The findings that name each fixture, worst first."""
        found: dict[int, list[Finding]] = {}
        for finding in self.findings:
            for fixture_id in finding.fixtures:
                found.setdefault(fixture_id, []).append(finding)
        return found

    @cached_property
    def by_key(self) -> dict[str, Finding]:
        """The findings by their keys."""
        return {finding.key: finding for finding in self.findings}

    @cached_property
    def stops_in(self) -> dict[int, int]:
        """How many stops each universe has."""
        stops: dict[int, int] = {}
        for finding in self.findings:
            if finding.severity is Severity.STOP and finding.universe is not None:
                stops[finding.universe] = stops.get(finding.universe, 0) + 1
        return stops


def analyse(show: Show) -> Analysis:
    """Run the rules over a show."""
    found = findings_of(show)
    return Analysis(tuple(found), tally(found, len(show.fixtures)), cut=len(found) >= MOST_FINDINGS)


class Pages:
    """The store, the library of charts, and the analyses of the last shows seen.

    Values never change, so a kept analysis stays right.
    """

    def __init__(self, store: ShowStore) -> None:
        self.store = store
        self.library = Library(store.engine, shipped_profiles(), store.clock)
        self._kept: OrderedDict[tuple[int, int], Analysis] = OrderedDict()
        self._lock = Lock()

    def analysis(self, saved: SavedShow) -> Analysis:
        """The analysis of a saved show."""
        key = (saved.id, saved.revision)
        with self._lock:
            kept = self._kept.get(key)
        if kept is None:
            kept = analyse(saved.show)
            with self._lock:
                self._kept[key] = kept
                while len(self._kept) > KEPT:
                    self._kept.popitem(last=False)
        return kept


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


def who() -> str:
    """What the person at this browser is called on the log."""
    return str(session.get("who") or DEFAULT_WHO)


def load(show_id: int) -> SavedShow:
    """The one loader of shows: ``NoSuchShow``, which becomes a 404, where there is none."""
    return store().get(show_id)


def save(before: SavedShow, after: Show) -> SavedShow:
    """Save an edit under the name of the person at this browser.

    ``before`` must be at the revision that the form was drawn with; see ``load_for_edit``.
    """
    return store().save(before, after, who=who())


def load_for_edit(show_id: int, revision: int | None) -> SavedShow:
    """The show for an edit that started from ``revision``; ``StaleShow`` if it has moved on since."""
    return store().at_revision(show_id, revision)


def asked_by_htmx() -> bool:
    """Whether a fragment is wanted rather than a page."""
    return request.headers.get("HX-Request") == "true"


def ids_in(words: str) -> tuple[int, ...]:
    """The fixture ids in a list such as ``3,4``; whatever is no number is passed over."""
    found = map(whole_number, words.split(","))
    return tuple(dict.fromkeys(number for number in found if number is not None))
