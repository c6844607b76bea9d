"""Choosing modes: what the show needs, what is recommended, the best combination, a change seen
before it is made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Blueprint, redirect, request, url_for
from werkzeug.datastructures.structures import ImmutableMultiDict
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.needs import FEATURES, ModeSchool, Need, Scope, features_of
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.modes.advice import Recommendation, recommend_all
from fence.core.modes.combine import Combination, Goal, combine
from fence.web.charts.forms import ChooseLink, ChooseStep
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("choose", __name__, url_prefix="/shows/<int:show_id>/modes")

GOALS = {
    Goal.FEWEST: "Fewest universes with all that is needed",
    Goal.FULL: "Everything full",
    Goal.WITHIN: "Full where it still fits in",
}


@dataclass(frozen=True, slots=True)
class NeedLine:
    """A need, and whom it speaks of in words."""

    need: Need
    whom: str


@dataclass(frozen=True, slots=True)
class Advice:
    """Alike fixtures with one recommendation: how many, what they take now and then."""

    title: str
    fixtures: tuple[Fixture, ...]
    found: Recommendation
    now: int
    then: int | None

    @property
    def better(self) -> bool:
        """Whether another mode than theirs is recommended."""
        return self.found.mode is not None and self.found.mode != self.found.now

    @property
    def ids(self) -> str:
        """Their ids, as the preview of the change wants them."""
        return ",".join(str(fixture.id) for fixture in self.fixtures)


@blueprint.get("")
def index(show_id: int) -> str:
    """Needs, recommendations, and the combination that was asked for."""
    return _page(show_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsChoose(Showing):
    """What is shown by ``charts/choose.html``."""

    template = "charts/choose.html"
    frame: Frame
    needs: list[NeedLine]
    features: list[str]
    whom: list[tuple[str, str]]
    advice: Sequence[Advice]
    goals: dict[Goal, str]
    combination: Combination | None
    problem: str
    goal: str
    within: int
    schools: list[ModeSchool]
    typed: ImmutableMultiDict[str, str]
    ticked: list[str]


def _page(show_id: int, problem: str = "") -> str:
    form = ChooseStep.sent()
    link = ChooseLink.linked()
    saved = load(show_id)
    show = saved.show
    combination, words = _asked_combination(show)
    return ChartsChoose(
        frame=frame(saved, "Charts"),
        needs=[NeedLine(need, _whom(show, need)) for need in show.needs],
        features=_features_in(show),
        whom=_whom_choices(show),
        advice=advice_for(show),
        goals=GOALS,
        combination=combination,
        problem=problem or words,
        goal=link.goal.data,
        within=link.within.data or show.desk.universes or len(show.universes) or 1,
        schools=list(ModeSchool),
        typed=request.form,
        ticked=form.features.data,
    ).rendered()


def _asked_combination(show: Show) -> tuple[Combination | None, str]:
    link = ChooseLink.linked()
    goal = link.goal.data
    if goal not in set(Goal):
        return None, ""
    try:
        return combine(show, Goal(goal), within=request.args.get("within", type=int)), ""
    except FenceError as error:
        return None, str(error)


def _features_in(show: Show) -> list[str]:
    """The features that some mode of the show's profiles has, and those that its needs name."""
    held = {
        feature
        for profile in show.profiles
        for mode in profile.modes
        for feature in features_of(mode)
    }
    held |= {feature for need in show.needs for feature in need.features}
    return [feature for feature in FEATURES if feature in held]


def _whom_choices(show: Show) -> list[tuple[str, str]]:
    used = {fixture.profile for fixture in show.fixtures}
    groups = dict.fromkeys(fixture.share for fixture in show.fixtures if fixture.share)
    return [
        (f"{Scope.SHOW}|", "the whole show"),
        *((f"{Scope.POSITION}|{entry.name}", f"at {entry.name}") for entry in show.positions),
        *(
            (f"{Scope.TYPE}|{entry.id}", f"type {entry.title}")
            for entry in show.profiles
            if entry.id in used
        ),
        *((f"{Scope.GROUP}|{group}", f"sharing group {group}") for group in groups),
    ]


def _whom(show: Show, need: Need) -> str:
    if need.scope is Scope.FIXTURE:
        fixture = show.fixture_by_id.get(int(need.key))
        return fixture.label if fixture else "a fixture that is gone"
    return dict(_whom_choices(show)).get(
        f"{need.scope}|{need.key}", f"{need.scope} {need.key}, not in the rig"
    )


@once_a_show
def advice_for(show: Show) -> Sequence[Advice]:
    """Recommendations, alike ones together: same type, mode now and then, reasons."""
    found = recommend_all(show)
    grouped: dict[tuple[object, ...], list[Fixture]] = {}
    asked = {
        profile.id for profile in show.profiles if any(mode.footprint for mode in profile.modes)
    }
    for fixture in show.fixtures:
        if fixture.profile in asked:
            one = found[fixture.id]
            alike = (fixture.profile, one.now, one.mode, one.reasons)
            grouped.setdefault(alike, []).append(fixture)
    advice = [_advice(show, members, found[members[0].id]) for members in grouped.values()]
    return sorted(advice, key=lambda line: (line.found.mode == line.found.now, line.title))


def _advice(show: Show, members: Sequence[Fixture], found: Recommendation) -> Advice:
    profile = show.profile_by_id[members[0].profile]
    now, then = profile.mode(found.now), profile.mode(found.mode) if found.mode else None
    return Advice(
        profile.title,
        tuple(members),
        found,
        now.footprint if now else 0,
        then.footprint if then else None,
    )


@blueprint.post("/needs")
def need(show_id: int) -> BaseResponse | tuple[str, int]:
    """Say what is needed of whom, or take it back."""
    form = ChooseStep.sent()
    before = load_for_edit(show_id)
    try:
        scope, _, key = form.whom.data.partition("|")
        if label := form.fixture.data:
            scope, key = Scope.FIXTURE, str(_named(before.show, label).id)
        if scope not in set(Scope):
            raise EditError(
                "Say of whom this is needed: choose one of the list, or name a fixture."
            )
        school = form.school.data
        said = Need(
            Scope(scope),
            key,
            tuple(form.features.data),
            ModeSchool(school) if school in set(ModeSchool) else None,
        )
        if not said.features and said.school is None and "clear" not in request.form:
            raise EditError("Tick at least one feature, or choose lean or full.")
    except FenceError as error:
        return _page(show_id, str(error)), 422
    change = edits.set_need if "clear" in request.form else edits.add_need
    save(before, change(before.show, said))
    return redirect(url_for("choose.index", show_id=show_id))


def _named(show: Show, words: str) -> Fixture:
    found = [
        f for f in show.fixtures if f.label.casefold() == words.casefold() or str(f.number) == words
    ]
    if not found:
        raise EditError(f"No fixture is called “{words[:60]}”. Use a label or a number of the rig.")
    return found[0]
