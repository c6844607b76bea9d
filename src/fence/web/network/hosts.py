"""Planning network addresses, seen before it is done; what is kept for others."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.checks import analyse, news_of_the_plan
from fence.core.checks.finding import Finding, Verdict
from fence.core.edits.prose import describe
from fence.core.model.box import as_ip
from fence.core.model.errors import EditError
from fence.core.model.net import Net, Reserved
from fence.core.model.show import Show
from fence.core.model.text import printable
from fence.core.network.addresses import (
    USUAL,
    AddressPlan,
    plan_addresses,
    read_network,
    usual_network,
)
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.network.forms import HostsEither, HostsStep
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("hosts", __name__, url_prefix="/shows/<int:show_id>/network/addresses")


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Which address each box would get, and why; then do it."""
    saved = load(show_id)
    if request.method == "POST":
        saved = load_for_edit(show_id)
    typed = _typed(saved.show)
    problem, plan = "", None
    try:
        plan = plan_addresses(saved.show, read_network(typed["network"]), anew=bool(typed["anew"]))
    except EditError as error:
        problem = str(error)
    if plan and request.method == "POST":
        save(saved, plan.show)
        flash(describe(saved.show, plan.show) or "Nothing to change.")
        return redirect(url_for("network.index", show_id=show_id))
    page = _page(saved, typed, plan, problem)
    return (page, 422) if problem else page


def _typed(show: Show) -> dict[str, str]:
    asked = HostsEither.either()
    usual = usual_network(show)
    return {
        "network": asked.network.data or str(usual or USUAL),
        "anew": asked.anew.data,
        "reserved": "\n".join(
            f"{held.first} - {held.last}{f' {held.why}' if held.why else ''}"
            for held in show.net.reserved
        ),
        "shared": "1" if show.net.shared else "",
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkHosts(Showing):
    """What is shown by ``network/hosts.html``."""

    template = "network/hosts.html"
    frame: Frame
    saved: SavedShow
    typed: dict[str, str]
    plan: AddressPlan | None
    problem: str
    before: Verdict
    after: Verdict | None
    new_findings: tuple[Finding, ...]
    changes: bool


def _page(saved: SavedShow, typed: dict[str, str], plan: AddressPlan | None, problem: str) -> str:
    then = analyse(plan.show) if plan else None
    return NetworkHosts(
        frame=frame(saved, "Network"),
        saved=saved,
        typed=typed,
        plan=plan,
        problem=problem,
        before=saved.analysis.verdict,
        after=then.verdict if then else None,
        new_findings=news_of_the_plan(saved.analysis, then)[:6] if then else (),
        changes=plan is not None and plan.show != saved.show,
    ).rendered()


@blueprint.post("/kept")
def keep(show_id: int) -> BaseResponse | tuple[str, int]:
    """Keep what is said of the network; a line that is no range is named, and nothing of the form
    is lost."""
    form = HostsStep.sent()
    before = load_for_edit(show_id)
    text = form.reserved.data
    try:
        net = Net(
            bool(form.shared.data),
            tuple(_range(line) for line in text.splitlines() if line.strip()),
        )
        after = edits.set_net(before.show, net)
    except EditError as error:
        typed = {**_typed(before.show), "reserved": text, "shared": form.shared.data}
        return _page(before, typed, None, str(error)), 422
    save(before, after)
    flash("Saved." if after != before.show else "Nothing to change.")
    return redirect(url_for("hosts.index", show_id=show_id))


def _range(line: str) -> Reserved:
    """A range from ``192.168.40.100 - 192.168.40.199 house server``, or one address."""
    words = line.replace("–", " - ").replace("-", " - ").split()
    first = words[0] if words else ""
    last, rest = first, words[1:]
    if len(words) >= 3 and words[1] in ("-", "to"):
        last, rest = words[2], words[3:]
    try:
        low, high = as_ip(first), as_ip(last)
    except EditError:
        shown = printable(line.strip()[:60])
        accepted = "Type lines such as 192.168.40.100 - 192.168.40.199 house server"
        raise EditError(f"“{shown}” is not a range of addresses. {accepted}.") from None
    return Reserved(str(low), str(high), " ".join(rest).replace(" - ", "-"))
