"""It says …: what the display or the switches say, what that most likely is, and what to do about
it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile, Setter, SetterKind
from fence.core.model.record import HIGHEST_READING
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.setting.readback import (
    Earlier,
    Kind,
    Reading,
    odd_switches,
    reading_of_switches,
    setter_of,
    stands_really,
)
from fence.core.setting.segments import TURNED, read_segments
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, save, sending, store, witness
from fence.web.set.forms import SaysEither, SaysLink, SaysStep
from fence.web.set.page import SaysPage, patch_of, patch_words, says_page
from fence.web.set.views import at_query, place_asked
from fence.web.showing import Showing

blueprint = Blueprint("says", __name__, url_prefix="/shows/<int:show_id>/set/<int:fixture_id>/says")

MOST_SEGMENTS = 80

KINDS = {
    Kind.RIGHT: "Right",
    Kind.UPSIDE_DOWN: "Seen upside down",
    Kind.WRONG_END: "From the wrong end",
    Kind.INVERTED: "On and off swapped",
    Kind.ONE_SWITCH: "One switch is wrong",
    Kind.FIXED_SWITCHES: "Switches beside the address are wrong",
    Kind.OFF_BY_ONE: "Off by one",
    Kind.OFF_BY_PAGE: "Off by a page",
    Kind.NEIGHBOUR: "Another fixture’s address",
    Kind.EARLIER_PLAN: "An earlier plan",
    Kind.OTHER_MODE: "Another mode",
    Kind.UNKNOWN: "Mis-set",
}
"""What a cause is called above its sentence."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SetSays(Showing):
    """What is shown by ``set/says.html``."""

    template = "set/says.html"
    frame: Frame
    saved: SavedShow
    fixture: Fixture
    page: SaysPage
    kinds: dict[Kind, str]
    problem: str
    profile: Profile | None
    setter: Setter
    part: int
    query: dict[str, object]
    typed: str
    upright: str
    lit: bool
    seen_patch: str
    keep: list[tuple[str, str]]
    here: dict[str, int]


@blueprint.get("")
def index(show_id: int, fixture_id: int) -> str | tuple[str, int]:
    """Ask what it says; with an answer, say what that means."""
    link = SaysLink.linked()
    saved = load(show_id)
    fixture = saved.show.fixture(fixture_id)
    problem = note = ""
    reading = None
    try:
        reading, note = _reading(saved.show, fixture)
    except FenceError as error:
        problem = str(error)
    part = _part(fixture)
    at = place_asked(saved.show)
    page = says_page(
        saved.show,
        fixture,
        reading,
        problem,
        note,
        _earlier(saved, fixture, part) if reading else (),
        part,
    )
    body = SetSays(
        frame=frame(saved, "Set"),
        saved=saved,
        fixture=fixture,
        page=page,
        kinds=KINDS,
        problem=problem,
        profile=saved.show.profile_of(fixture),
        setter=setter_of(saved.show, fixture),
        part=part,
        query=at_query(at),
        typed=link.says.data,
        upright=link.upright.data,
        lit=link.lit.data,
        seen_patch=patch_words(fixture.patch),
        keep=[],
        here={"fixture": fixture_id},
    ).rendered()
    return (body, 422) if problem else body


def _part(fixture: Fixture) -> int:
    asked = SaysEither.either()
    part = asked.part.data
    return part if 0 <= part < len(fixture.patch) else 0


def _reading(show: Show, fixture: Fixture) -> tuple[Reading | None, str]:
    """What was typed or tapped, and a remark on it; ``EditError`` where it cannot be read."""
    asked = SaysEither.either()
    setter = setter_of(show, fixture)
    mode = asked.mode.data
    mode = mode if (fixture.profile, mode) in show.modes else ""
    typed = asked.says.data
    tapped = request.values.get("on")
    lit = asked.lit.data.strip(", ")
    if typed:
        digits = typed.lower().strip().removeprefix(setter.shown_before.lower())
        digits = digits.lstrip("adu.- ") or typed
        number = whole_number(digits)
        if number is None or number > HIGHEST_READING:
            raise EditError(
                f"“{typed[:20]}” is not a number: type the digits that it shows, such as 097 or "
                "d097."
            )
        return Reading(number, mode=mode, upright=_upright()), ""
    if tapped is not None and setter.kind is SetterKind.SWITCHES and "look" in request.values:
        on = [number for number in map(whole_number, tapped[:200].split(",")) if number is not None]
        return reading_of_switches(setter, on, mode), ""
    if lit:
        return _of_segments(lit, mode)
    return None, ""


def _upright() -> bool | None:
    """Whether the number was said to be meant as it reads upright, or as it hangs; None where
    nothing was said."""
    asked = SaysEither.either()
    return {"1": True, "0": False}.get(asked.upright.data)


def _of_segments(lit: str, mode: str) -> tuple[Reading, str]:
    """The number of tapped segments; where they only make digits upside down, of the display turned
    over."""
    places = tuple(
        "".join(sorted(set(place) & set("abcdefg"))) for place in lit[:MOST_SEGMENTS].split(",")
    )
    places = tuple(place for place in places if place)
    read = read_segments(places)
    if not places:
        raise EditError("No segment is tapped: tap those that are lit.")
    if read is not None:
        return Reading(int(read), mode=mode, upright=_upright()), ""
    over = read_segments(
        tuple("".join(sorted(place.translate(TURNED))) for place in reversed(places))
    )
    if over is None:
        raise EditError(
            "These segments are no digits, neither upright nor upside down: tap those that are lit."
        )
    return Reading(
        int(over), mode=mode, upright=True
    ), f"You saw it upside down: turned over it reads {over}."


def _earlier(saved: SavedShow, fixture: Fixture, part: int) -> list[Earlier]:
    """What the log tells of earlier plans."""
    plans = store().earlier_plans(saved.id, fixture.id)
    return [
        Earlier(plan.patch[part].slot or 0, plan.mode, plan.until.replace(tzinfo=UTC))
        for plan in plans
        if part < len(plan.patch) and plan.patch[part].slot
    ]


def _seen_plan() -> tuple[str, tuple[Patch, ...]] | None:
    """The plan that the person had before them, of a reading that comes late."""
    form = SaysStep.sent()
    seen = form.seen_patch.data if sending() else ""
    return (form.seen_mode.data, patch_of(seen)) if seen else None


@blueprint.post("")
def take(show_id: int, fixture_id: int) -> BaseResponse:
    """Record what it says, and do what was chosen: set it now, plan what it says, or leave it with
    a reason."""
    form = SaysStep.sent()
    saved = load(show_id)
    fixture = saved.show.fixture(fixture_id)
    reading, _ = _reading(saved.show, fixture)
    if reading is None:
        raise EditError("Type what it shows first.")
    part, action = _part(fixture), form.action.data
    reason = form.reason.data
    if action == "leave" and not reason:
        raise EditError("Say in a few words why it is left so: whoever comes next will ask.")
    show = saved.show
    holds = stands_really(show, fixture, reading, part=part)
    odd = odd_switches(setter_of(show, fixture), reading)
    if action == "plan":
        show = edits.plan_as_read(show, fixture_id, holds, part=part, mode=reading.mode)
    show = edits.read_back(
        show,
        fixture_id,
        0 if odd else holds,  # with a wrong switch beside the address it listens to none
        part=part,
        mode=reading.mode,
        by=witness(),
        reason=reason[:300] if action == "leave" else "",
        against=_seen_plan(),
    )
    done = save(saved, show)
    at = place_asked(done.show)
    if action == "plan":
        flash(
            f"{fixture.label} is planned at {done.show.fixture(fixture_id).patch[part]}, as it "
            "says."
        )
    elif action == "leave":
        flash(f"Noted: {fixture.label} stays at {holds:03d}.")
    elif action == "now":
        flash(f"Noted: it said {holds:03d}. Now set it to {fixture.patch[part]}, then mark it.")
    elif odd:
        flash(f"Noted: switch {odd[0][0]} of {fixture.label} does not stand as it must.")
    else:
        flash(f"Noted: {fixture.label} says {holds:03d}.")
    return redirect(url_for("card.index", show_id=show_id, fixture_id=fixture_id, **at_query(at)))
