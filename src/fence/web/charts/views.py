"""The charts: the profiles that a show uses, the shelf that all shows share, and entering a chart
as text."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.charts.remarks import check_chart
from fence.core.checks import MOST_FINDINGS
from fence.core.model.errors import EditError
from fence.core.model.profile import Channel, Profile
from fence.core.modes.beside import Comparison, compare_modes
from fence.store.library import Chart
from fence.web.charts.choose import Advice, advice_for
from fence.web.charts.entering import free_id
from fence.web.charts.page import (
    ChartLine,
    listed,
)
from fence.web.frame import Frame, frame
from fence.web.pages import library, load, who
from fence.web.showing import Showing

blueprint = Blueprint("charts", __name__, url_prefix="/shows/<int:show_id>/charts")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsIndex(Showing):
    """What is shown by ``charts/index.html``."""

    template = "charts/index.html"
    frame: Frame
    in_show: list[ChartLine]
    on_shelf: list[ChartLine]
    retired: list[Chart]
    used_modes: Counter[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsOne(Showing):
    """What is shown by ``charts/one.html``: the channels of a chart, mode by mode."""

    template = "charts/one.html"
    frame: Frame
    profile: Profile
    used_modes: Counter[tuple[str, str]]
    listed: Callable[[Sequence[Channel]], list[tuple[int, Channel]]]


@blueprint.get("/<chart_id>/channels")
def one(show_id: int, chart_id: str) -> str:
    """One chart as it stands in the show, else in the library; the list of charts takes its modes
    from here once they are looked at."""
    saved = load(show_id)
    profile = saved.show.profile_by_id.get(chart_id) or library().newest(chart_id)
    if profile is None:
        raise EditError("There is no such chart.")
    return ChartsOne(
        frame=frame(saved, "Charts"),
        profile=profile,
        used_modes=Counter((fixture.profile, fixture.mode) for fixture in saved.show.fixtures),
        listed=listed,
    ).rendered()


@blueprint.get("")
def index(show_id: int) -> str:
    """All charts that can be planned with."""
    saved = load(show_id)
    used = Counter(fixture.profile for fixture in saved.show.fixtures)
    charts = library().charts()
    newest = {chart.profile.id: chart.profile for chart in charts}
    held = saved.show.profile_by_id

    def line(profile: Profile) -> ChartLine:
        newer = newest.get(profile.id)
        newer = newer if newer and newer.revision > profile.revision else None
        return ChartLine(profile, used[profile.id], newer, check_chart(profile))

    return ChartsIndex(
        frame=frame(saved, "Charts"),
        in_show=[line(profile) for profile in saved.show.profiles],
        on_shelf=[line(chart.profile) for chart in charts if chart.profile.id not in held],
        retired=library().charts(retired=True),
        used_modes=Counter((fixture.profile, fixture.mode) for fixture in saved.show.fixtures),
    ).rendered()


@blueprint.post("/<chart_id>/retire")
def retire(show_id: int, chart_id: str) -> BaseResponse:
    """Offer a chart no more; shows that use it keep it."""
    library().retire(chart_id, who=who())
    flash("Retired: it is offered no more. Shows that use it keep it.")
    return redirect(url_for("charts.index", show_id=show_id))


@blueprint.post("/<chart_id>/bring-back")
def bring_back(show_id: int, chart_id: str) -> BaseResponse:
    """Offer a retired chart again."""
    library().bring_back(chart_id, who=who())
    return redirect(url_for("charts.index", show_id=show_id))


@blueprint.post("/<chart_id>/copy")
def copy(show_id: int, chart_id: str) -> BaseResponse:
    """Copy a chart, with all its modes, and open the copy."""
    chart = load(show_id).show.profile_by_id.get(chart_id) or library().newest(chart_id)
    if chart is None:
        raise EditError("There is no such chart.")
    model = f"{chart.model} copy"
    made = library().save(replace(chart, id=free_id(chart.maker, model), model=model), who=who())
    return redirect(url_for("entering.edit", show_id=show_id, chart_id=made.id))


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsModes(Showing):
    """What is shown by ``charts/modes.html``."""

    template = "charts/modes.html"
    frame: Frame
    profile: Profile
    found: Comparison
    most: int
    ids: str
    advice: list[Advice]


@blueprint.get("/<chart_id>/modes")
def modes(show_id: int, chart_id: str) -> str:
    """All modes of a chart side by side, for the fixtures of this show."""
    saved = load(show_id)
    profile = saved.show.profile_by_id.get(chart_id) or library().newest(chart_id)
    if profile is None or not profile.modes:
        raise EditError("There is no such chart.")
    return ChartsModes(
        frame=frame(saved, "Charts"),
        profile=profile,
        found=compare_modes(saved.show, profile),
        most=MOST_FINDINGS,
        ids=",".join(
            str(fixture.id) for fixture in saved.show.fixtures if fixture.profile == profile.id
        ),
        advice=[line for line in advice_for(saved.show) if line.fixtures[0].profile == profile.id],
    ).rendered()
