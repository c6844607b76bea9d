"""The day of an event, for what runs on batteries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import zip_longest

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.battery import BatteryDay, Lasting, Pack, battery_day, packs_of
from fence.core.model.day import Day, Measured, as_clock, day_of, further_words, hours_of
from fence.core.model.errors import EditError
from fence.core.model.profile import Profile
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.lines.forms import DayStep
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("day", __name__, url_prefix="/shows/<int:show_id>/lines/day")

MOST_TYPED = 2000
WIDE, HIGH = 330, 34
"""Of the picture of one battery over two days; each further one makes it as much wider again."""


@dataclass(frozen=True, slots=True)
class Course:
    """A battery as a row: its level over two days as a path, and what is to be done."""

    held: Lasting
    path: str
    reserve: float
    state: str


@blueprint.get("")
def index(show_id: int) -> str:
    """How long each battery lasts, when to charge or swap, how many chargers."""
    saved = load(show_id)
    day = saved.show.day
    typed = {}
    if day is not None:
        for name in ("set_up", "doors", "end", "next_set_up"):
            typed[name] = as_clock(getattr(day, name)).split(" ")[0]
        typed.update(reserve=str(day.reserve), chargers=str(day.chargers or ""))
        typed["further"] = further_words(day)
        typed.update({f"hours-{held.fixture}": f"{held.hours:g}" for held in day.measured})
    return _page(saved, typed, "")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesDay(Showing):
    """What is shown by ``lines/day.html``."""

    template = "lines/day.html"
    frame: Frame
    saved: SavedShow
    typed: dict[str, str]
    problem: str
    packs: list[Pack]
    types: list[Profile]
    plan: BatteryDay | None
    courses: list[Course]
    marks: list[tuple[float, str]]
    wide: int
    high: int
    clock: Callable[..., object]


def _page(saved: SavedShow, typed: dict[str, str], problem: str) -> str:
    show, day = saved.show, saved.show.day
    packs = packs_of(show)
    plan = battery_day(packs, day) if day else None
    return LinesDay(
        frame=frame(saved, "Lines"),
        saved=saved,
        typed=typed,
        problem=problem,
        packs=packs,
        types=[profile for profile in show.profiles if profile.battery_hours],
        plan=plan,
        courses=[_course(held, plan.day) for held in plan.packs] if plan else [],
        marks=_marks(day) if day else [],
        wide=_wide(day),
        high=HIGH,
        clock=as_clock,
    ).rendered()


def _wide(day: Day | None) -> int:
    return WIDE * (len(day.days) if day else 2) // 2


def _x(day: Day, minutes: float) -> float:
    whole = day.days[-1].end - day.set_up
    return round((minutes - day.set_up) / whole * _wide(day), 1)


def _marks(day: Day) -> list[tuple[float, str]]:
    """Where the times stand, in words as far as there is room: doors on the first day only."""
    found = [(_x(day, day.set_up), "set-up"), (_x(day, day.doors), "doors")]
    found.append((_x(day, day.end), "end"))
    for one in day.days[1:]:
        found += [(_x(day, one.set_up), "set-up"), (_x(day, one.end), "end")]
    return found


def _course(held: Lasting, day: Day) -> Course:
    """The level as it falls and rises, without swaps."""
    points: list[tuple[float, float]] = []
    mornings, flats = (1.0, *held.mornings), (held.flat, *held.later_flats)
    for one, morning, flat, left, span in zip_longest(
        day.days, mornings, flats, held.left, held.charges
    ):
        points.append((one.set_up, morning))
        if flat is not None:
            points.append((flat, 0.0))
        points.append((one.end, left))
        if span:
            points.append((span[0], left))
            points.append((span[1], left + (span[1] - span[0]) / 60 / (held.pack.charge or 1)))
    path = "M" + " L".join(
        f"{_x(day, minutes):g} {(1 - min(1.0, level)) * HIGH:.1f}" for minutes, level in points
    )
    bad = held.flat is not None or held.later_flat is not None
    state = "caution" if bad else "note" if held.reaches is not None else "clear"
    return Course(held, path, (1 - day.reserve / 100) * HIGH, state)


@blueprint.post("")
def take(show_id: int) -> BaseResponse | tuple[str, int]:
    """Keep the times, the chargers, and what batteries really last."""
    form = DayStep.sent()
    before = load_for_edit(show_id)
    try:
        after = edits.set_day(before.show, None if form.do.data == "away" else _day(before.show))
    except EditError as error:
        return _page(
            before, {name: value[:100] for name, value in request.form.items()}, str(error)
        ), 422
    save(before, after)
    flash("Saved." if after != before.show else "Nothing to change.")
    return redirect(url_for("day.index", show_id=show_id))


def _day(show: Show) -> Day:
    form = request.form
    day = day_of(
        form.get("set_up", "")[:20],
        form.get("doors", "")[:20],
        form.get("end", "")[:20],
        form.get("next_set_up", "")[:20],
        form.get("further", "")[:MOST_TYPED],
    )
    reserve, words = whole_number(form.get("reserve", "") or "20"), form.get("chargers", "").strip()
    chargers = whole_number(words) if words else None
    if reserve is None or (words and chargers is None):
        raise EditError(
            "The reserve is a whole number of percent, and chargers a whole number from 1, or "
            "empty."
        )
    measured = []
    for fixture in show.fixtures:
        own = form.get(f"hours-{fixture.id}", "").strip()
        if typed := own or form.get(f"hours-type-{fixture.profile}", "").strip():
            try:
                measured.append(Measured(fixture.id, hours_of(typed)))
            except EditError as error:
                raise EditError(f"{fixture.label}: {error}") from None
    return replace(day, reserve=reserve, chargers=chargers, measured=tuple(measured))
