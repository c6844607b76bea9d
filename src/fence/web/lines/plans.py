"""Steps on many lines at once, seen first: planning the cable, chains by position or universe,
lengths, a CSV file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.lines.measure import measure
from fence.core.lines.plan import CablePlan, Wanted, plan_cable
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.core.model.text import counted, slug, whole_number
from fence.formats.lines_csv import COLUMNS, read_lines_csv, write_lines_csv
from fence.store.shows import SavedShow
from fence.web.downloads import csv_file
from fence.web.frame import Frame, frame
from fence.web.lines.forms import PlansEither, PlansStep
from fence.web.lines.outcome import LinesOutcome, lines_outcome
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("plans", __name__, url_prefix="/shows/<int:show_id>/lines")


@dataclass(frozen=True, slots=True)
class Proposed:
    """A show that is proposed, and what is to be said of it."""

    show: Show
    told: tuple[str, ...] = ()


WAYS = {
    "plan": (
        "Plan the cable",
        "Fewest splitters, then least cable, from distances, spacing and loads.",
    ),
    "by-position": (
        "A line for each position",
        "For each universe there, chained as the rig list runs.",
    ),
    "by-universe": ("A line for each universe", "Chained as the rig list runs."),
    "wireless": (
        "A line by wireless",
        "A transmitter at its start; all that can receive are linked to it.",
    ),
    "cabled": ("A line by cable", "What takes a cable is chained as the line runs."),
    "measure": (
        "Calculate the lengths",
        "Cable runs without a length, from distances, spacing and slack.",
    ),
    "measure-all": ("Calculate all lengths anew", "Also those that were typed."),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesPlan(Showing):
    """What is shown by ``lines/plan.html``."""

    template = "lines/plan.html"
    frame: Frame
    saved: SavedShow
    ways: dict[str, tuple[str, str]]
    what: str
    values: dict[str, str]
    proposed: Proposed | None
    outcome: LinesOutcome | None
    problem: str
    asked: list[tuple[str, str]]


@blueprint.route("/plan", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Choose a way, see what it would do, do it."""
    asked = PlansEither.either()
    saved = load(show_id)
    what = asked.what.data
    problem, proposed, outcome = "", None, None
    if request.method == "POST":
        saved = load_for_edit(show_id)
    try:
        proposed = _proposed(saved.show, what) if what in WAYS else None
    except FenceError as error:
        problem = str(error)
    if proposed and request.method == "POST":
        save(saved, proposed.show)
        flash(describe(saved.show, proposed.show) or "Nothing to change.")
        return redirect(url_for("lines.index", show_id=show_id))
    if proposed:
        outcome = lines_outcome(saved.show, proposed.show, saved.analysis)
    page = LinesPlan(
        frame=frame(saved, "Lines"),
        saved=saved,
        ways=WAYS,
        what=what if what in WAYS else "plan",
        values=_values(),
        proposed=proposed,
        outcome=outcome,
        problem=problem,
        asked=[(name, value) for name, value in request.args.items() if name != "revision"],
    ).rendered()
    return (page, 422) if problem else page


def _values() -> dict[str, str]:
    usual = {"loads": "32", "outputs": "8", "anew": "", "line": ""}
    return {name: request.values.get(name, value) for name, value in usual.items()}


def _proposed(show: Show, what: str) -> Proposed:
    makers: dict[str, Callable[[], Proposed]] = {
        "plan": lambda: _planned(show),
        "by-position": lambda: Proposed(edits.lines_by_position(show)),
        "by-universe": lambda: Proposed(edits.lines_by_universe(show)),
        "wireless": lambda: Proposed(edits.make_wireless(show, _line())),
        "cabled": lambda: Proposed(edits.make_cabled(show, _line())),
        "measure": lambda: Proposed(measure(show)),
        "measure-all": lambda: Proposed(measure(show, only_unknown=False)),
    }
    return makers[what]()


def _line() -> int:
    """The line that was chosen. Raises ``EditError`` where none was."""
    line_id = whole_number(_values()["line"])
    if line_id is None:
        raise EditError("Choose the line first.")
    return line_id


def _planned(show: Show) -> Proposed:
    values = _values()
    loads, outputs = whole_number(values["loads"]), whole_number(values["outputs"])
    if loads is None or outputs is None:
        raise EditError("Loads and outputs are whole numbers. Use 2 to 32 loads, 2 to 64 outputs.")
    plan = plan_cable(show, Wanted(loads, outputs, anew=bool(values["anew"])))
    return Proposed(plan.show, (_verdict(plan), *plan.remarks))


def _verdict(plan: CablePlan) -> str:
    size = f"{counted(plan.splitters, 'splitter')}, {plan.metres} m of cable"
    if plan.proven:
        return f"{size}. Proven: no plan has fewer splitters, and none of those less cable."
    if plan.fewest:
        return f"{size}. Fewer splitters are not possible; the cable is the least that was found."
    return f"{size}. The best that was found; not proven."


@blueprint.get("/lines.csv")
def as_csv(show_id: int) -> Response:
    """Every stop as a row, to be read back."""
    show = load(show_id).show
    return csv_file(write_lines_csv(show), f"{slug(show.name, 'show')}-lines")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesRead(Showing):
    """What is shown by ``lines/read.html``."""

    template = "lines/read.html"
    frame: Frame
    saved: SavedShow
    text: str
    columns: tuple[str, ...]
    problem: str
    outcome: LinesOutcome | None


@blueprint.route("/read", methods=["GET", "POST"])
def read(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Lines from a CSV file or from pasted text, seen first."""
    form = PlansStep.sent()
    saved = load(show_id)
    text, problem, outcome = "", "", None
    if request.method == "POST":
        saved = load_for_edit(show_id)
        file = request.files.get("file")
        data = file.read() if file and file.filename else form.text.data.encode()
        text = data.decode("utf-8-sig", "replace").replace("\0", "�")
        try:
            after = read_lines_csv(data, saved.show)
        except FenceError as error:
            problem = str(error)
        else:
            if form.do.data == "it":
                save(saved, after)
                flash(describe(saved.show, after) or "Nothing to change.")
                return redirect(url_for("lines.index", show_id=show_id))
            outcome = lines_outcome(saved.show, after, saved.analysis)
    page = LinesRead(
        frame=frame(saved, "Lines"),
        saved=saved,
        text=text,
        columns=COLUMNS,
        problem=problem,
        outcome=outcome,
    ).rendered()
    return (page, 422) if problem else page
