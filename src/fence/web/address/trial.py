"""What if: fixtures, a mode or another number of universes, tried on a copy."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.addressing.room import Room, room_for_more
from fence.core.addressing.trial import Trial, TrialResult, try_out
from fence.core.checks import analyse
from fence.core.edits import AddRun
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError, FenceError
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.web.address.drawing import FenceDrawing, draw_fence
from fence.web.address.forms import TrialEither
from fence.web.address.proposed import draw_then
from fence.web.address.rails import asked_rails
from fence.web.frame import Frame, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import library, load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("trial", __name__, url_prefix="/shows/<int:show_id>/address/trial")


JOIN = " | "


TRIAL_NAMES = ("kind", "quantity", "label", "position", "change", "universes")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressTrial(Showing):
    """What is shown by ``address/trial.html``."""

    template = "address/trial.html"
    frame: Frame
    values: dict[str, str]
    kinds: list[tuple[str, str]]
    changes: list[tuple[str, str]]
    positions: list[str]
    problem: str
    result: TrialResult | None
    outcome: Outcome | None
    drawing: tuple[FenceDrawing, FenceDrawing] | None
    moved: list[str]
    lost: list[str]
    rooms: list[Room]
    asked: list[tuple[str, str]]


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Try fixtures, a mode or another desk on a copy; keep it or drop it."""
    asked = TrialEither.either()
    saved = load(show_id)
    problem, result, outcome = "", None, None
    if request.method == "POST":
        saved = load_for_edit(show_id)
    if asked.tried.data:
        try:
            trial = _trial(saved.show)
            modes = tuple(trial.modes.items())
            result = _tried(saved.show, trial.add, modes, trial.universes)
        except FenceError as error:
            problem = str(error)
        else:
            if request.method == "POST":
                save(saved, result.show)
                flash(describe(saved.show, result.show) or "Nothing to change.")
                return redirect(url_for("address.index", show_id=show_id))
            outcome = _trial_outcome(saved.show, result)
    page = AddressTrial(
        frame=frame(saved, "Address"),
        values={name: request.values.get(name, "") for name in TRIAL_NAMES},
        kinds=_kinds(saved.show),
        changes=_changes(saved.show),
        positions=[position.name for position in saved.show.positions],
        problem=problem,
        result=result,
        outcome=outcome,
        drawing=_drawn(saved.show, outcome, result) if result and outcome else None,
        moved=[saved.show.fixture(i).label for i in result.moved] if result else [],
        lost=[result.show.fixture(i).label for i in result.without] if result else [],
        rooms=room_for_more(saved.show),
        asked=[(name, value) for name, value in request.args.items() if name != "revision"],
    ).rendered()
    return (page, 422) if problem else page


@once_a_show
def _tried(
    show: Show, add: AddRun | None, modes: tuple[tuple[int, str], ...], universes: int | None
) -> TrialResult:
    return try_out(show, Trial(add, dict(modes), universes))


def _trial_outcome(show: Show, result: TrialResult) -> Outcome:
    return outcome_of(show, result.show, analyse(show), result.moved)


def _drawn(
    show: Show, outcome: Outcome, result: TrialResult
) -> tuple[FenceDrawing, FenceDrawing] | None:
    """The first universe that the trial touches, as it is and as it would be."""
    if not outcome.touched:
        return None
    universe = outcome.touched[0].after.number
    return draw_fence(show, universe, (), on=asked_rails()), draw_then(
        show, result.show, universe, asked_rails()
    )


def _trial(show: Show) -> Trial:
    values = {name: request.values.get(name, "").strip() for name in TRIAL_NAMES}
    for name in ("quantity", "universes"):
        if values[name] and not 1 <= (whole_number(values[name]) or 0) <= 63_999:
            raise EditError(
                f"“{values[name][:20]}” is not a number of {name}. Use whole numbers from 1."
            )
    add = None
    if values["kind"]:
        profile_id, _, mode = values["kind"].partition(JOIN)
        profile = show.profile_by_id.get(profile_id) or library().newest(profile_id)
        if profile is None:
            raise EditError("Choose a fixture and its mode from the list.")
        label = values["label"] or profile.model
        add = AddRun(
            profile, mode, int(values["quantity"] or 1), label, position=values["position"]
        )
    modes = {}
    if values["change"]:
        profile_id, _, mode = values["change"].partition(JOIN)
        modes = {fixture.id: mode for fixture in show.fixtures if fixture.profile == profile_id}
    universes = int(values["universes"]) if values["universes"] else None
    if add is None and not modes and universes is None:
        raise EditError(
            "Say what to try: fixtures to add, another mode, or another number of universes."
        )
    return Trial(add, modes, universes)


def _kinds(show: Show) -> list[tuple[str, str]]:
    held = {profile.id for profile in show.profiles}
    profiles = [
        *show.profiles,
        *(profile for profile in library().profiles() if profile.id not in held),
    ]
    return [
        (f"{profile.id}{JOIN}{mode.name}", f"{profile.title}, {mode.name} ({mode.footprint} ch)")
        for profile in sorted(profiles, key=lambda profile: (profile.title.casefold(), profile.id))
        for mode in profile.modes
    ]


def _changes(show: Show) -> list[tuple[str, str]]:
    used = {fixture.profile for fixture in show.fixtures}
    return [
        (
            f"{profile.id}{JOIN}{mode.name}",
            f"all {profile.title} to {mode.name} ({mode.footprint} ch)",
        )
        for profile in show.profiles
        if profile.id in used and len(profile.modes) > 1
        for mode in profile.modes
    ]
