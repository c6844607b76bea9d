"""What is done at a fixture before it is hung and when it is set: the steps, what each needs, and
the cautions."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from fence.core.edits.marking import tick_of
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Function, Profile, SetterKind
from fence.core.model.record import NOBODY, Prep, ReadBack, Tick, Witness
from fence.core.model.show import Position, Show
from fence.core.model.standing import State, newest, state_of
from fence.core.model.text import joined
from fence.core.setting.walk import SameForAll


@dataclass(frozen=True, slots=True)
class Step:
    """A step at one fixture: what to do in the words of that fixture, and whether it was done."""

    step: Prep
    words: str
    done: bool
    by: Witness = NOBODY


def steps_for(show: Show, fixture: Fixture) -> tuple[Step, ...]:
    """The steps that this show and this fixture need, in order. The address is not among them: it
    has the card."""
    profile = show.profile_of(fixture)
    mode = show.mode_of(fixture)
    # it takes no channels
    silent = {Prep.LISTENS} if mode is not None and not mode.footprint else set()
    wanted = [step for step in Prep if step not in {*show.skipped, *silent, Prep.ADDRESS}]
    return tuple(
        Step(step, words, is_done(show, fixture, step), ticked_by(fixture, step))
        for step in wanted
        if (words := words_for(profile, fixture, step))
    )


def ticked_by(fixture: Fixture, step: Prep) -> Witness:
    """Who ticked a step for what the plan says now; nobody where it was not ticked."""
    wanted = Tick(step, tick_of(fixture, step))
    return next((held.by for held in fixture.ticked if held == wanted), NOBODY)


def is_done(show: Show, fixture: Fixture, step: Prep) -> bool:
    """Whether a step was ticked for what the plan says now, or follows from what the fixture said
    or showed: its mode was read, or it was proven, and so listens in that mode. That it was set
    says neither."""
    if Tick(step, tick_of(fixture, step)) in fixture.ticked:
        return True
    if step not in (Prep.MODE, Prep.LISTENS):
        return False
    if state_of(show, fixture) is State.PROVEN:
        return True
    last = newest(fixture)
    return step is Prep.MODE and isinstance(last, ReadBack) and last.mode == fixture.mode


def words_for(profile: Profile | None, fixture: Fixture, step: Prep) -> str:
    """What a step is at a fixture, in the words of its chart; empty where it needs no such step."""
    if profile is None:
        return {
            Prep.NAME: f"Its name on it: {fixture.label}",
            Prep.LABEL: "Label on",
            Prep.BOND: "Safety bond on",
        }.get(step, "")
    switches = profile.setter.kind is SetterKind.SWITCHES
    listens = _listens(profile)
    return {
        Prep.FIRMWARE: "" if switches else "Newest firmware",
        Prep.RESET: ""
        if switches or profile.setter.kind is SetterKind.FIXED
        else "Back to factory settings",
        Prep.LISTENS: listens,
        Prep.MODE: f"Mode: {fixture.mode}" if len(profile.modes) > 1 else "",
        Prep.LINK: "Unlink it from its old transmitter, link it to the new one"
        if profile.wireless
        else "",
        Prep.NAME: "" if switches else f"Its own name or number: {fixture.label}",
        Prep.ADDRESS: "Address",
        Prep.LABEL: "Label on it",
        Prep.BOND: "Secondary safety bond on",
    }[step]


def _listens(profile: Profile) -> str:
    """What it needs before it listens to DMX; empty where it always does."""
    words = profile.listens.strip()
    if words.casefold().startswith("always"):
        return ""
    setter = profile.setter
    if not words and setter.kind is SetterKind.SWITCHES:
        on = f"{joined([str(n) for n in setter.fixed_on])} on" if setter.fixed_on else ""
        off = f"{joined([str(n) for n in setter.fixed_off])} off" if setter.fixed_off else ""
        words = f"switch {' and '.join(filter(None, (on, off)))}" if on or off else ""
    return f"Listens to DMX: {words[:1].lower() + words[1:]}".rstrip(".") if words else ""


def same_for_all(show: Show, fixtures: Sequence[Fixture]) -> tuple[SameForAll, ...]:
    """Steps that several alike fixtures take in the same way, so that they can be ticked for all of
    them at once."""
    kinds: dict[tuple[str, str], list[Fixture]] = {}
    for fixture in fixtures:
        kinds.setdefault((fixture.profile, fixture.mode), []).append(fixture)
    found = []
    for members in kinds.values():
        if len(members) < 2:
            continue
        for step in steps_for(show, members[0]):
            if step.step is Prep.NAME:
                continue
            left = tuple(member for member in members if not is_done(show, member, step.step))
            found.append(SameForAll(step.step, step.words, tuple(members), left))
    return tuple(found)


def cautions_for(show: Show, fixture: Fixture, position: Position | None) -> tuple[str, ...]:
    """What can hurt here, in short sentences: the fixture's own dangers first."""
    return tuple(
        _cautions(show.profile_of(fixture), {f for f, _, _ in _functions(show, fixture)}, position)
    )


def _functions(show: Show, fixture: Fixture) -> Sequence[tuple[Function, int | None, object]]:
    profile = show.profile_of(fixture)
    return [function for mode in profile.modes for function in mode.functions] if profile else []


def _cautions(
    profile: Profile | None, functions: set[Function], position: Position | None
) -> Iterator[str]:
    if functions & {Function.PAN, Function.TILT}:
        yield "It may swing when it loses signal: keep clear."
    if Function.SHUTTER in functions:
        yield "It can strobe: keep tests short."
    if functions & {Function.DIMMER, Function.WHITE, Function.RED, Function.UV, Function.PIXEL}:
        yield "Hot; do not look into the beam."
    if profile is not None and profile.setter.kind is SetterKind.SWITCHES:
        yield "Isolate power before a cover is opened."
    if position is not None and position.height is not None and position.height >= 2:
        yield "At height: trained people, the floor below clear."
    yield "Secondary safety bond on."
