"""Other modes for some fixtures, or another type in their places: footprints, clashes and the
repair seen first, then made in one step."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.repair import Repair, repair_rig
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.core.modes.advice import recommend_all
from fence.core.modes.combine import Goal, combine
from fence.web.charts.forms import ChangeStep
from fence.web.frame import Frame, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import ids_in, load, load_for_edit, save
from fence.web.rig.kinds import kind_named
from fence.web.showing import Showing

blueprint = Blueprint("change", __name__, url_prefix="/shows/<int:show_id>/modes/change")


@dataclass(frozen=True, slots=True)
class SizeLine:
    """Fixtures that change alike: type, mode and channels before and after, and how many."""

    type_before: str
    mode_before: str
    channels_before: int
    type_after: str
    mode_after: str
    channels_after: int
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsChange(Showing):
    """What is shown by ``charts/change.html``."""

    template = "charts/change.html"
    frame: Frame
    title: str
    nothing: str
    lines: Sequence[SizeLine]
    plain: Outcome
    mended: Outcome
    lost: list[str]
    fields: list[tuple[str, str]]


WORDS = {
    False: ("Change modes", "They are all in these modes already."),
    True: ("Exchange the type", "They are all of this type and mode already."),
}
"""What the page is called, and what it says where nothing changes; for modes, and for types."""


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str:
    """Other modes for some fixtures: footprints, clashes and the mend, then made in one step.

    Asked for as ``ids`` with a ``mode`` or a ``kind``, as ``recommended``, or as a ``goal`` with
    ``within``.
    """
    form = ChangeStep.sent()
    saved = load(show_id)
    if request.method == "POST":
        saved = load_for_edit(show_id)
    plain = _asked(saved.show)
    changed = _changed(saved.show, plain)
    repair = repair_rig(plain)
    if request.method == "POST":
        after = repair.show if form.mend.data else plain
        save(saved, after)
        flash(describe(saved.show, after) or "Nothing to change.")
        one = changed[0] if len(changed) == 1 else None
        return redirect(url_for("address.index", show_id=show_id, pick=one))
    now = saved.analysis
    grown = {i for i in changed if _footprint(plain, i) > _footprint(saved.show, i)}
    fields = ("ids", "mode", "kind", "recommended", "goal", "within")
    title, nothing = WORDS["kind" in request.args]
    return ChartsChange(
        frame=frame(saved, "Charts"),
        title=title,
        nothing=nothing,
        lines=_sizes(saved.show, plain, changed),
        plain=outcome_of(saved.show, plain, now),
        mended=outcome_of(saved.show, repair.show, now, _why(plain, repair, grown)),
        lost=[plain.fixture(fixture_id).label for fixture_id in repair.unplaced],
        fields=[(name, request.args[name]) for name in fields if name in request.args],
    ).rendered()


def _asked(show: Show) -> Show:
    """The show with what was asked for."""
    ids = [show.fixture(fixture_id).id for fixture_id in ids_in(request.values.get("ids", ""))]
    values = request.values
    if kind := values.get("kind", ""):
        return edits.exchange(show, ids, *kind_named(show, kind))
    return _in_modes(
        show,
        tuple(ids),
        values.get("mode", ""),
        values.get("goal", ""),
        values.get("within", type=int),
        bool(values.get("recommended")),
    )


@once_a_show
def _in_modes(
    show: Show, ids: tuple[int, ...], mode: str, goal: str, within: int | None, recommended: bool
) -> Show:
    """The show with its fixtures in the modes that were asked for."""
    if goal in set(Goal):
        return edits.choose_modes(show, combine(show, Goal(goal), within=within).modes)
    if recommended:
        found = recommend_all(show)
        asked = {fixture_id: found[fixture_id] for fixture_id in ids} if ids else found
        return edits.choose_modes(
            show,
            {one: kind.mode for one, kind in asked.items() if kind.mode and kind.mode != kind.now},
        )
    if not ids or not mode:
        raise EditError("Select fixtures and the mode that they should take.")
    return edits.choose_modes(show, dict.fromkeys(ids, mode))


def _changed(before: Show, after: Show) -> list[int]:
    """The fixtures whose type or mode is another one."""
    return [
        fixture.id
        for fixture, then in zip(before.fixtures, after.fixtures, strict=True)
        if fixture is not then and (fixture.profile, fixture.mode) != (then.profile, then.mode)
    ]


def _footprint(show: Show, fixture_id: int) -> int:
    return sum(show.footprints_of(show.fixture_by_id[fixture_id]))


def _sizes(before: Show, after: Show, changed: Sequence[int]) -> Sequence[SizeLine]:
    """What changes, alike ones together."""
    kinds: Counter[tuple[str, str, int, str, str, int]] = Counter()
    for fixture_id in changed:
        kinds[(*_kind_of(before, fixture_id), *_kind_of(after, fixture_id))] += 1
    return [SizeLine(*kind, count) for kind, count in kinds.items()]


def _kind_of(show: Show, fixture_id: int) -> tuple[str, str, int]:
    fixture = show.fixture(fixture_id)
    profile = show.profile_of(fixture)
    title = profile.title if profile else "a type without a chart"
    return title, fixture.mode, _footprint(show, fixture_id)


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
