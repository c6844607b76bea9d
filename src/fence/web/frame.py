"""The frame of every page: steps of the work, verdict, undo, theme, who is here."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, datetime
from urllib.parse import urlsplit

from flask import Flask, request, session, url_for
from markupsafe import Markup

from fence.core.checks import Analysis, Severity, Verdict
from fence.core.model.box import BoxKind
from fence.core.model.dates import iso, written_day, written_time
from fence.core.model.day import as_clock
from fence.core.model.text import agreeing, counted
from fence.store.shows import LogEntry, SavedShow
from fence.web.address.rails import asked_rails
from fence.web.pages import store, who

THEMES = ("dark", "light")


@dataclass(frozen=True, slots=True)
class Step:
    """One of the eight steps. ``url`` is None for a step that is not there yet."""

    number: int
    title: str
    state: str
    url: str | None
    bad: bool = False

    @property
    def go(self) -> str:
        """The letter that leads to it, after the key ``g``."""
        # l and p are taken
        return {"Log": "o", "Prove": "v"}.get(self.title, self.title[0].lower())


@dataclass(frozen=True, slots=True)
class Tool:
    """A page that belongs to no single step; ``go`` is the letter that leads to it."""

    title: str
    url: str
    go: str


@dataclass(frozen=True, slots=True)
class Frame:
    """What the frame around a show's page needs."""

    saved: SavedShow
    verdict: Verdict
    cut: bool
    undo: LogEntry | None
    redo: LogEntry | None
    steps: tuple[Step, ...]
    tools: tuple[Tool, ...]
    current: str


def frame(saved: SavedShow, current: str, analysis: Analysis | None = None) -> Frame:
    """The frame around a page of a show; ``current`` is the step it belongs to, such as ``Rig``."""
    analysis = analysis or saved.analysis
    undo, redo = store().steps(saved.id)
    return Frame(
        saved,
        analysis.verdict,
        analysis.cut,
        undo,
        redo,
        _steps(saved, analysis),
        _tools(saved.id),
        current,
    )


def _steps(saved: SavedShow, analysis: Analysis) -> tuple[Step, ...]:
    show = saved.show
    stops = _stops(analysis, "Address")
    if stops:
        address, bad = counted(stops, "stop"), True
    else:
        address, bad = ("no stops" if show.fixtures else "empty"), False
    return (
        Step(
            1, "Charts", f"{len(show.profiles)} in use", url_for("charts.index", show_id=saved.id)
        ),
        Step(
            2, "Rig", counted(len(show.fixtures), "fixture"), url_for("rig.index", show_id=saved.id)
        ),
        Step(3, "Address", address, url_for("address.index", show_id=saved.id), bad),
        _lines_step(saved, analysis),
        _network_step(saved, analysis),
        _set_step(saved),
        Step(
            7, "Prove", f"{saved.standing.proven} proven", url_for("prove.index", show_id=saved.id)
        ),
        Step(8, "Log", f"state {saved.revision}", url_for("log.index", show_id=saved.id)),
    )


def _stops(analysis: Analysis, step: str) -> int:
    """How many stops are mended at a step."""
    return sum(
        1
        for finding in analysis.findings
        if finding.severity is Severity.STOP and finding.step == step
    )


def _lines_step(saved: SavedShow, analysis: Analysis) -> Step:
    """How many lines, or how many stops they have."""
    lines = saved.show.lines
    stops = _stops(analysis, "Lines")
    words = (
        counted(stops, "stop") if stops else counted(len(lines), "line") if lines else "none yet"
    )
    return Step(4, "Lines", words, url_for("lines.index", show_id=saved.id), bool(stops))


def _network_step(saved: SavedShow, analysis: Analysis) -> Step:
    """How many boxes, or how many stops the network has."""
    boxes = [box for box in saved.show.boxes if box.kind is BoxKind.NODE]
    stops = _stops(analysis, "Network")
    words = (
        counted(stops, "stop")
        if stops
        else counted(len(boxes), "node", "nodes")
        if saved.show.boxes
        else "none yet"
    )
    return Step(5, "Network", words, url_for("network.index", show_id=saved.id), bool(stops))


def _set_step(saved: SavedShow) -> Step:
    """How many are set; how many have to be gone back to comes first."""
    standing = saved.standing
    words = f"{standing.again} again, {standing.words}" if standing.again else standing.words
    return Step(6, "Set", words, url_for("set.index", show_id=saved.id), bool(standing.again))


def _tools(show_id: int) -> tuple[Tool, ...]:
    return (
        Tool("Lists", url_for("lists.index", show_id=show_id), "p"),
        Tool("Switches", url_for("switches.of_show", show_id=show_id), "w"),
        Tool("Converter", url_for("numbers.of_show", show_id=show_id), "u"),
        Tool("Practise", url_for("practise.index", show_id=show_id), "d"),
    )


def back_to(default: str) -> str:
    """The page of Fence that a form was sent from, or ``default``."""
    try:
        referrer = urlsplit(request.referrer or "")
    except ValueError:
        return default
    # a path that begins with two slashes (or backslashes, to some browsers) would lead to another
    # host
    if referrer.netloc == request.host and re.match(r"/(?![/\\])", referrer.path):
        return referrer.path + (f"?{referrer.query}" if referrer.query else "")
    return default


def theme() -> str:
    """``dark`` or ``light``, as chosen at this browser."""
    chosen = session.get("theme")
    return chosen if chosen in THEMES else THEMES[0]


def rendered() -> str:
    """When this page was made, for a page that is kept and looked at later."""
    return store().clock().replace(tzinfo=UTC).isoformat(timespec="seconds")


def time_here(at: datetime, *, short: bool = False) -> Markup:
    """A time that the page's script turns into the browser's own form and zone; ``short`` without
    its day where that is today. Without the script it is read in UTC."""
    told = Markup('<time datetime="{}"{}>{} UTC</time>')
    return told.format(iso(at), Markup(" data-short") if short else "", written_time(at))


def register(app: Flask) -> None:
    """Make the frame's small facts known to templates."""
    app.add_template_filter(time_here)
    app.add_template_filter(written_day)
    app.add_template_filter(written_time)
    app.add_template_global(theme)
    app.add_template_global(asked_rails)
    app.add_template_filter(counted)
    app.add_template_filter(agreeing)
    app.add_template_filter(as_clock, "clocked")
    app.add_template_global(who)
    app.add_template_global(rendered)
