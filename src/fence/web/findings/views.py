"""The panel of findings, reachable from every page of a show."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.checks import OF_THE_RECORD, RULES, Finding, Rule, Severity
from fence.core.checks.finding import Verdict
from fence.core.model.dates import written_day
from fence.core.model.errors import EditError
from fence.core.model.text import printable
from fence.core.model.waiver import Waiver
from fence.store.shows import SavedShow
from fence.web.findings.forms import FindingsLink, FindingsStep
from fence.web.frame import back_to
from fence.web.pages import load, load_for_edit, local_time, save, witness
from fence.web.showing import Showing

blueprint = Blueprint("findings", __name__, url_prefix="/shows/<int:show_id>/findings")

SHOWN = 200


@dataclass(frozen=True, slots=True)
class FindingLine:
    """A finding with the place it leads to."""

    finding: Finding
    rule: Rule
    url: str


def place_of(show_id: int, finding: Finding) -> str:
    """The page on which the finding's fixture is picked: on the fence, on its line, or on the
    walk."""
    pick = finding.fixtures[-1] if finding.fixtures else None
    if finding.box is not None:
        return url_for("network.index", show_id=show_id, **_in_the_network(finding))
    if finding.line is not None:
        return url_for("lines.index", show_id=show_id, name=finding.line, stop=finding.stop)
    if finding.rule == "not-on-line":
        return url_for("lines.index", show_id=show_id)
    if finding.rule in OF_THE_RECORD:
        alone = len(finding.fixtures) == 1
        return (
            url_for("card.index", show_id=show_id, fixture_id=pick)
            if alone
            else url_for("set.index", show_id=show_id)
        )
    return url_for(
        "address.index", show_id=show_id, u=finding.universe, pick=pick, finding=finding.key
    )


def _in_the_network(finding: Finding) -> dict[str, Any]:
    """What is picked there: the port or the box, else the universe."""
    if finding.box:
        return {"name": finding.box, "port": finding.port}
    return {"u": finding.universe}


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingsList(Showing):
    """What is shown by ``findings/_list.html``."""

    template = "findings/_list.html"
    saved: SavedShow
    lines: list[FindingLine]
    hidden: int
    cut: bool
    severities: list[Severity]
    verdict: Verdict
    waived: list[tuple[Finding, Waiver, Rule]]


class FindingsPanel(FindingsList):
    """The same with the fields that narrow it."""

    template = "findings/_panel.html"


@blueprint.get("")
def panel(show_id: int) -> str:
    """The findings, worst first, filtered by words and severity."""
    link = FindingsLink.linked()
    saved = load(show_id)
    analysis = saved.analysis
    words = link.q.data.casefold().strip()
    severity = link.severity.data
    matching = [
        finding
        for finding in analysis.findings
        if (
            not words or words in f"{finding.message} {finding.rule} u{finding.universe}".casefold()
        )
        and (not severity or finding.severity == severity)
    ]
    lines = [
        FindingLine(finding, RULES[finding.rule], place_of(show_id, finding))
        for finding in matching[:SHOWN]
    ]
    waived = [
        (finding, waiver, RULES[finding.rule])
        for finding, waiver in analysis.waived
        if not words or words in f"{finding.message} {waiver.reason}".casefold()
    ]
    whole = link.part.data != "list"
    shown = FindingsPanel if whole else FindingsList
    return shown(
        saved=saved,
        lines=lines,
        hidden=len(matching) - len(lines),
        cut=analysis.cut,
        severities=list(Severity),
        verdict=analysis.verdict,
        waived=waived[:SHOWN],
    ).rendered()


@blueprint.post("/waive")
def waive(show_id: int) -> BaseResponse:
    """Let a finding stand, for a reason."""
    form = FindingsStep.sent()
    before = load_for_edit(show_id)
    finding = before.analysis.by_key.get(form.finding.data)
    if finding is None:
        raise EditError("That finding is not there any more: load the page again.")
    until = _until()
    save(before, edits.waive(before.show, finding, form.reason.data, witness(), until))
    back = f" or {written_day(until)} is over" if until else ""
    flash(f"Accepted, with your reason. It comes back when what it is about changes{back}.")
    return redirect(back_to(url_for("shows.open_show", show_id=show_id)))


def _until() -> date | None:
    """The last day on which it may stand, where one was typed; ``EditError`` for what is none, or
    is over."""
    form = FindingsStep.sent()
    words, today = form.until.data, local_time().date()
    if not words:
        return None
    try:
        until = date.fromisoformat(words)
    except ValueError:
        raise EditError(
            f"“{printable(words[:20])}” is not a day: type one such as {today.isoformat()}."
        ) from None
    if until < today:
        raise EditError(f"{until.isoformat()} is over. Use {today.isoformat()} and later.")
    return until


@blueprint.post("/unwaive")
def unwaive(show_id: int) -> BaseResponse:
    """Take back that a finding is let stand."""
    form = FindingsStep.sent()
    before = load_for_edit(show_id)
    save(before, edits.unwaive(before.show, form.finding.data))
    return redirect(back_to(url_for("shows.open_show", show_id=show_id)))
