"""Other modes for some fixtures: footprints, clashes and the repair seen first, then made in one
step."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing import Repair, repair_rig
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.core.modes.advice import recommend
from fence.core.modes.combine import Goal, combine
from fence.web.charts.forms import ChangeStep
from fence.web.frame import Frame, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import ids_in, load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("change", __name__, url_prefix="/shows/<int:show_id>/modes/change")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsChange(Showing):
    """What is shown by ``charts/change.html``."""

    template = "charts/change.html"
    frame: Frame
    lines: Sequence[tuple[str, str, int, str, int, int]]
    plain: Outcome
    mended: Outcome
    lost: list[str]
    fields: list[tuple[str, str]]


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str:
    """Other modes for some fixtures: footprints, clashes and the mend, then made in one step.

    Asked for as ``ids`` with a ``mode``, as ``recommended``, or as a ``goal`` with ``within``.
    """
    form = ChangeStep.sent()
    saved = load(show_id)
    if request.method == "POST":
        saved = load_for_edit(show_id)
    modes = _asked_modes(saved.show)
    plain = edits.choose_modes(saved.show, modes)
    repair = repair_rig(plain)
    if request.method == "POST":
        after = repair.show if form.mend.data else plain
        save(saved, after)
        flash(describe(saved.show, after) or "Nothing to change.")
        one = next(iter(modes)) if len(modes) == 1 else None
        return redirect(url_for("address.index", show_id=show_id, pick=one))
    now = saved.analysis
    grown = {i for i in modes if _footprint(plain, i) > _footprint(saved.show, i)}
    fields = ("ids", "mode", "recommended", "goal", "within")
    return ChartsChange(
        frame=frame(saved, "Charts"),
        lines=_sizes(saved.show, modes),
        plain=outcome_of(saved.show, plain, now),
        mended=outcome_of(saved.show, repair.show, now, _why(plain, repair, grown)),
        lost=[plain.fixture(fixture_id).label for fixture_id in repair.unplaced],
        fields=[(name, request.args[name]) for name in fields if name in request.args],
    ).rendered()


def _asked_modes(show: Show) -> dict[int, str]:
    """The modes that were asked for, by fixture id."""
    values = request.values
    goal = values.get("goal", "")
    if goal in set(Goal):
        return combine(show, Goal(goal), within=values.get("within", type=int)).modes
    ids = [show.fixture(fixture_id).id for fixture_id in ids_in(values.get("ids", ""))]
    if values.get("recommended"):
        chosen = ids or list(show.fixture_by_id)
        found = (recommend(show, show.fixture_by_id[fixture_id]) for fixture_id in chosen)
        return {entry.fixture: entry.mode for entry in found if entry.mode is not None}
    mode = values.get("mode", "")
    if not ids or not mode:
        raise EditError("Select fixtures and the mode that they should take.")
    return dict.fromkeys(ids, mode)


def _footprint(show: Show, fixture_id: int) -> int:
    return sum(show.footprints_of(show.fixture_by_id[fixture_id]))


def _sizes(show: Show, modes: Mapping[int, str]) -> Sequence[tuple[str, str, int, str, int, int]]:
    """Type, mode now and its channels, mode then and its channels, how many: for those that
    change."""
    counted: dict[tuple[str, str, int, str, int], int] = {}
    for fixture_id, name in modes.items():
        fixture = show.fixture(fixture_id)
        profile, after = show.profile_of(fixture), show.modes.get((fixture.profile, name))
        if profile is None or after is None or name == fixture.mode:
            continue
        key = (profile.title, fixture.mode, sum(show.footprints_of(fixture)), name, after.footprint)
        counted[key] = counted.get(key, 0) + 1
    return [(*key, count) for key, count in counted.items()]


def _why(show: Show, repair: Repair, grown: set[int]) -> dict[int, str]:
    """Why each fixture moves and why to there; of one that grew that comes first."""
    why = {}
    for move in repair.moves:
        gap = move.why[move.why.find("A gap of") :] if "A gap of" in move.why else ""
        channels = sum(show.footprints_of(show.fixture_by_id[move.fixture]))
        why[move.fixture] = (
            f"It takes {counted(channels, 'channel')} in the new mode. {gap}".strip()
            if move.fixture in grown
            else move.why
        )
    return why
