"""Planning the ports, seen before it is done."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.checks import analyse, news_of_the_plan
from fence.core.checks.finding import Finding, Verdict
from fence.core.edits.prose import describe
from fence.core.network.ports import PortPlan, Wish, plan_ports
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.network.forms import PortsEither
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("ports", __name__, url_prefix="/shows/<int:show_id>/network/ports")


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkPorts(Showing):
    """What is shown by ``network/ports.html``."""

    template = "network/ports.html"
    frame: Frame
    saved: SavedShow
    wish: Wish
    plan: PortPlan
    before: Verdict
    after: Verdict
    new_findings: tuple[Finding, ...]
    changes: bool


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str:
    """Which port would give out which universe, and why; then do it."""
    asked = PortsEither.either()
    saved = load(show_id)
    if request.method == "POST":
        saved = load_for_edit(show_id)
    wish = Wish(
        duplicates=asked.duplicates.data,
        start_lines=not request.values.get("no_lines"),
    )
    plan = plan_ports(saved.show, wish)
    if request.method == "POST":
        save(saved, plan.show)
        flash(describe(saved.show, plan.show) or "Nothing to change.")
        return redirect(url_for("network.index", show_id=show_id))
    then = analyse(plan.show)
    return NetworkPorts(
        frame=frame(saved, "Network"),
        saved=saved,
        wish=wish,
        plan=plan,
        before=saved.analysis.verdict,
        after=then.verdict,
        new_findings=news_of_the_plan(saved.analysis, then)[:6],
        changes=plan.show != saved.show,
    ).rendered()
