"""Match a colour: the levels for each type of a selection, how far off each stays; sent, and
written down."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.address import SLOTS
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Byte, Channel, Function, Mode
from fence.core.model.show import Show
from fence.core.simulation.bringing import put_in
from fence.core.simulation.colour_matching import (
    HIGHEST,
    LOWEST,
    MODEL,
    Match,
    Point,
    Trim,
    levels_with,
    match,
    of_kelvin,
    of_rgb,
    of_xy,
)
from fence.store.shows import SavedShow
from fence.web.frame import Frame, back_to, frame
from fence.web.pages import load, pages
from fence.web.prove.forms import ColourLink, ColourStep
from fence.web.prove.page import order, universes_of
from fence.web.prove.sending import send
from fence.web.showing import Showing

blueprint = Blueprint("colour", __name__, url_prefix="/shows/<int:show_id>/prove/colour")

HEX = re.compile(r"#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})", re.ASCII | re.IGNORECASE)
KELVIN = re.compile(r"(\d{3,5})\s*k", re.ASCII | re.IGNORECASE)
NUMBER = re.compile(r"\d*[.,]?\d+", re.ASCII)
ACCEPTED = (
    f"Type #ff8800, {LOWEST} K to {HIGHEST} K, x 0.31 y 0.33, or 255 136 0 as red, green and blue"
)


@dataclass(frozen=True, slots=True)
class TypeMatch:
    """A type in a mode: its fixtures, and how they come nearest."""

    title: str
    profile: str
    mode: Mode
    trim: Trim
    fixtures: tuple[Fixture, ...]
    found: Match | None

    @property
    def emitters(self) -> list[tuple[Function, float]]:
        """The emitters of the type with their corrections."""
        functions = {channel.function for part in self.mode.parts for channel in part.channels}
        return [
            (function, self.trim.get(function, 1.0)) for function in MODEL if function in functions
        ]

    @property
    def written(self) -> list[tuple[str, int, int]]:
        """Channel by channel, as it is written down for the desk: its name, percent (as most
        displays cut), level."""
        channels = [channel for part in self.mode.parts for channel in part.channels]
        levels = self.found.levels if self.found else {}
        return [
            (_named(channels[place]), 100 * level // 255, level)
            for place, level in sorted(levels.items())
            if channels[place].byte is not Byte.FINE and channels[place].cell in (None, 1)
        ]


def _named(channel: Channel) -> str:
    """A channel as it is written down: the cells of a fixture all take the same."""
    plain = replace(channel, cell=None).title
    return plain if channel.cell is None else f"each cell {plain}"


def target_of(words: str) -> Point:
    """A colour as typed; ``EditError`` says what is accepted."""
    words = words.strip()[:60]
    if found := HEX.fullmatch(words):
        return of_rgb(*(int(part, 16) for part in found.groups()))
    if found := KELVIN.fullmatch(words):
        return of_kelvin(float(found[1]))
    numbers = [
        piece.replace(",", ".")
        for piece in NUMBER.findall(words.lower().replace("x", " ").replace("y", " "))
    ]
    if len(numbers) == 2:
        return of_xy(float(numbers[0]), float(numbers[1]))
    if len(numbers) == 3 and all(piece.isdigit() and int(piece) <= 255 for piece in numbers):
        return of_rgb(*map(int, numbers))
    raise EditError(f"“{words}” is not a colour. {ACCEPTED}.")


def matches(
    show: Show,
    fixtures: list[Fixture],
    target: Point,
    trims: Mapping[str, Trim] = MappingProxyType({}),
) -> list[TypeMatch]:
    """Each type in each of its modes, the farthest off first; ``trims`` are corrections by the id
    of the chart."""
    groups: dict[tuple[str, str], list[Fixture]] = {}
    for fixture in fixtures:
        groups.setdefault((fixture.profile, fixture.mode), []).append(fixture)
    found = []
    for held in groups.values():
        mode, profile = show.mode_of(held[0]), show.profile_of(held[0])
        if mode is not None and profile is not None:
            trim = trims.get(profile.id, {})
            found.append(
                TypeMatch(
                    profile.title,
                    profile.id,
                    mode,
                    trim,
                    tuple(held),
                    match(mode, target, trim, profile.emitters),
                )
            )
    return sorted(found, key=lambda one: -one.found.off if one.found else 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveColour(Showing):
    """What is shown by ``prove/colour.html``."""

    template = "prove/colour.html"
    frame: Frame
    saved: SavedShow
    at: str | None
    words: str
    positions: list[str]
    found: list[TypeMatch]
    problem: str
    picked: str


@blueprint.get("")
def index(show_id: int) -> str | tuple[str, int]:
    """The colour that is asked for, and how each type of the selection comes nearest."""
    link = ColourLink.linked()
    saved = load(show_id)
    at, words = request.args.get("at"), link.colour.data
    fixtures = order(
        saved.show, at if at in {one.position for one in saved.show.fixtures} else None
    )
    found, problem = [], ""
    try:
        found = (
            matches(saved.show, fixtures, target_of(words), pages().trims.all()) if words else []
        )
    except FenceError as error:
        problem = str(error)
    body = ProveColour(
        frame=frame(saved, "Prove"),
        saved=saved,
        at=at,
        words=words[:60],
        positions=list(dict.fromkeys(one.position for one in order(saved.show))),
        found=found,
        problem=problem,
        picked=words if HEX.fullmatch(words) and words.startswith("#") else "#ff8800",
    ).rendered()
    return (body, 422) if problem else body


@blueprint.post("")
def take(show_id: int) -> BaseResponse:
    """Send the colour to all fixtures of the selection at once."""
    form = ColourStep.sent()
    saved = load(show_id)
    at, words = request.form.get("at"), form.colour.data
    show = saved.show
    fixtures = order(show, at if at in {one.position for one in show.fixtures} else None)
    frames = {universe: bytearray(SLOTS) for universe in universes_of(show)}
    for one in matches(show, fixtures, target_of(words), pages().trims.all()):
        if one.found is None:
            continue
        levels = levels_with(one.mode, one.found)
        for fixture in one.fixtures:
            put_in(frames, fixture, one.mode, levels)
    send(saved, {universe: bytes(held) for universe, held in frames.items()})
    flash(f"All {len(fixtures)} go to {words}.")
    here = {} if at is None else {"at": at}
    return redirect(url_for("colour.index", show_id=show_id, colour=words, **here))  # type: ignore[arg-type]


@blueprint.post("/trim")
def trim(show_id: int) -> BaseResponse:
    """Correct the model for a type by eye: how bright each emitter is beside what is reckoned; for
    all shows."""
    form = ColourStep.sent()
    saved = load(show_id)
    profile = saved.show.profile_by_id.get(form.profile.data)
    if profile is None:
        raise EditError("There is no such type in this show: load the page again.")
    factors = {}
    for function in MODEL:
        words = request.form.get(str(function), "").strip().replace(",", ".")
        if not words:
            continue
        try:
            factors[function] = float(words)
        except ValueError:
            raise EditError(
                f"“{words[:20]}” is not a correction: type a number such as 0.8, 1 for none."
            ) from None
    pages().trims.put(profile.id, factors)
    flash(f"{profile.title} is calculated so from now on.")
    return redirect(back_to(url_for("colour.index", show_id=show_id)))
