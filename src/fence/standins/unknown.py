"""A fixture without a manual, to practise on: it shows what it does, and can answer the probe by
itself."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fence.core.model.profile import Channel, Function, Mode
from fence.core.simulation.charted import IDLE
from fence.core.simulation.probe import AS_FULL, AS_ZERO, BETWEEN, ELSE, HAIR, NOTHING, Ask, Kind
from fence.core.simulation.sight import LAMP, SMOOTH, Sight, range_at, sight_of
from fence.library import shipped_profiles

VISIBLE = 0.002
"""The faintest light that an eye finds in the dark, of 1."""
A_HAIR = 0.02
"""The largest change that looks like a hair, of 1. Smaller ones of light that is already up are not
seen at all."""
SEEN_DARK = {Function.PAN, Function.TILT, Function.FAN}


@dataclass(frozen=True, slots=True)
class Unknown:
    """A practice fixture. Its name says nothing about it."""

    name: str
    mode: Mode

    def see(self, frame: Mapping[int, int]) -> Sight:
        """What it shows of a frame of levels by slot."""
        return sight_of(self.mode, frame)

    def answer(self, ask: Ask) -> str:
        """What someone looking at it would say."""
        if ask.kind is Kind.STEP:
            return self._doing(ask)
        if ask.kind is Kind.MIDDLE:
            return self._middle(ask)
        return self._change(ask)

    def _doing(self, ask: Ask) -> str:
        channel = self._channels[ask.slot - 1]
        found = range_at(channel, ask.level)
        if found is None:
            return IDLE if channel.ranges or not ask.level else str(channel.function)
        return found.meaning

    def _middle(self, ask: Ask) -> str:
        held = dict(ask.held)
        low, now, high = (self.see({**held, ask.slot: level}) for level in (0, ask.level, 255))
        if now.flashing != high.flashing or now.running != high.running:
            return ELSE
        if now == high:
            return AS_FULL
        return AS_ZERO if now == low else BETWEEN

    def _change(self, ask: Ask) -> str:
        if set(ask.choices) == {NOTHING, str(Function.SPEED)}:
            there = (
                ask.slot <= len(self._channels)
                and self._channels[ask.slot - 1].function is Function.SPEED
            )
            return str(Function.SPEED) if there else NOTHING
        before, after = self.see(ask.frame_before), self.see(ask.frame)
        if before.running != after.running:
            return str(Function.PROGRAM)
        if before.running:
            return self._while_running(ask)
        return _light_change(before, after) or _other_change(before, after)

    def _while_running(self, ask: Ask) -> str:
        if ask.slot <= len(self._channels):
            channel = self._channels[ask.slot - 1]
            if channel.function is Function.FUNCTION_SPEED:
                return str(Function.FUNCTION_SPEED)
        return NOTHING

    @property
    def _channels(self) -> tuple[Channel, ...]:
        return tuple(channel for part in self.mode.parts for channel in part.channels)


def _light_change(before: Sight, after: Sight) -> str:
    dark, lit = sorted((before, after), key=lambda sight: sight.intensity)
    was, now = dict(before.light), dict(after.light)
    changed = [emitter for emitter in now if abs(now[emitter] - was[emitter]) > A_HAIR]
    if before.flashing != after.flashing and (
        lit.intensity == dark.intensity or after.intensity > before.intensity
    ):
        return str(Function.SHUTTER)
    if not changed:
        faint = before.intensity < VISIBLE < after.intensity
        return (
            f"{HAIR}{_light_name([e for e in now if now[e] > was[e]], dict(lit.light))}"
            if faint
            else ""
        )
    return _light_name(changed, dict(lit.light))


def _light_name(changed: list[tuple[str, int]], lit: dict[tuple[str, int], float]) -> str:
    """One emitter has its colour's name; several at once, or a lamp, are all the light."""
    colours = {name for name, _ in changed}
    if (len(changed) == 1 and colours != {LAMP}) or (
        len(colours) == 1 and len(lit) > len(changed) > 1
    ):
        return colours.pop()
    return str(Function.DIMMER)


def _other_change(before: Sight, after: Sight) -> str:
    seen = SMOOTH if after.intensity > VISIBLE else SEEN_DARK
    for (function, was), (_, now) in zip(before.values, after.values, strict=True):
        if was != now and function in seen:
            return f"{HAIR}{function}" if abs(now - was) < A_HAIR else str(function)
    was_doing, now_doing = dict(before.doings), dict(after.doings)
    for function in {**was_doing, **now_doing}:
        heard = function in {Function.RESET, Function.OUTPUT}
        if was_doing.get(function) != now_doing.get(function) and (
            heard or after.intensity > VISIBLE
        ):
            return str(function)
    return NOTHING


def practice_fixtures() -> tuple[Unknown, ...]:
    """The unknown fixtures that ship with Fence."""
    profiles = {profile.id: profile for profile in shipped_profiles()}
    chosen = (
        ("tansy-pond-wash", "8 channel"),
        ("tansy-pond-wash", "10 channel"),
        ("sedge-parchment", "3 channel"),
        ("teasel-sway", "16 channel"),
        ("dibber-trellis", "27 channel"),
        ("dibber-furrow", "26 channel"),
        ("wheelhoe-mirror", "5 channel"),
        ("teasel-lance", "22 channel"),
    )
    found = []
    for place, (profile_id, mode_name) in enumerate(chosen, 1):
        mode = profiles[profile_id].mode(mode_name)
        assert mode is not None
        found.append(Unknown(f"Unknown {place}", mode))
    return tuple(found)
