"""Reading a chart: which slot does what, and at which level."""

from __future__ import annotations

from random import Random

from fence.core.model.address import SLOTS
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show, slot_meaning
from fence.core.model.text import counted
from fence.core.practising.question import Kind, Question, question
from fence.core.simulation.sight import CLOSED_WORDS, OPEN_WORDS, sight_of

MOST_SHOWN = 24
"""Channels of a mode that is asked about: its chart is shown."""


def charted(rig: Show) -> list[tuple[Profile, Mode]]:
    """The modes of one run with a chart that can be shown whole."""
    return [
        (profile, mode)
        for profile in rig.profiles
        for mode in profile.modes
        if len(mode.parts) == 1 and 1 < len(mode.parts[0].channels) <= MOST_SHOWN
    ]


def reading(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: which slot is a function; level 2: at which level the shutter is open; level 3: a
    fine byte's slot, or a level for what a range means."""
    known = charted(rig)
    if not known:
        return None
    if level == 2 or (level == 3 and chance.random() < 0.5):
        return _level(known, chance, steady=level == 2) or _slot(known, chance, fine=False)
    return _slot(known, chance, fine=level == 3)


def _slot(known: list[tuple[Profile, Mode]], chance: Random, *, fine: bool) -> Question:
    having = [one for one in known if any(_is_fine(c) for c in one[1].parts[0].channels)]
    profile, mode = chance.choice(having if fine and having else known)
    channels = mode.parts[0].channels
    once = [
        place
        for place in range(len(channels))
        if sum(one.title == channels[place].title for one in channels) == 1
        and (not (fine and having) or _is_fine(channels[place]))
    ]
    place = chance.choice(once or [0])
    start = chance.randint(1, SLOTS + 1 - mode.footprint)
    right = [
        str(start + at)
        for at in range(len(channels))
        if slot_meaning(mode, 0, at) == slot_meaning(mode, 0, place)
    ]
    slips: list[tuple[object, str]] = [
        (start + place + 1, "its first channel is the start address itself: take 1 off the sum"),
        (start + place - 1, "one too low: that is the channel before"),
        (place + 1, "that is the channel of the chart: add the start address, less 1"),
    ]
    for other in profile.modes:
        if other.name != mode.name and len(other.parts) == 1:
            for at, channel in enumerate(other.parts[0].channels):
                if channel.title == channels[place].title:
                    slips.append((start + at, f"that is its slot in {other.name}"))
    return question(
        f"{profile.title} in {mode.name} stands at {start:03d}. Which slot is its "
        f"{slot_meaning(mode, 0, place)}?",
        Kind.NUMBER,
        right,
        f"Channel {place + 1} of the chart: {start} + {place + 1} − 1 = {start + place}",
        slips,
        facts=_chart(mode),
    )


def _is_fine(channel: Channel) -> bool:
    return channel.byte is Byte.FINE


def _chart(mode: Mode) -> list[str]:
    return [f"{number} {channel.title}" for number, channel in enumerate(mode.parts[0].channels, 1)]


def passes(channel: Channel, level: int) -> bool:
    """Whether light passes steadily at a level of a shutter, as the practice rig has it."""
    mode = Mode("one", _only(channel))
    seen = sight_of(mode, {1: level})
    return seen.intensity > 0 and not seen.flashing


def _only(channel: Channel) -> tuple[Part, ...]:
    return (Part(1, (channel,)),)


def _level(known: list[tuple[Profile, Mode]], chance: Random, *, steady: bool) -> Question | None:
    """At which level a shutter is open, or what a range means; None where no chart says it."""
    found = [
        (profile, mode, place, channel)
        for profile, mode in known
        for place, channel in enumerate(mode.parts[0].channels)
        if len(channel.ranges) > 1
        and (not steady or channel.function is Function.SHUTTER)
        and len({one.meaning for one in channel.ranges}) == len(channel.ranges)
    ]
    if steady:
        found = [one for one in found if any(_opens(held.meaning) for held in one[3].ranges)]
    if not found:
        return None
    profile, mode, place, channel = chance.choice(found)
    facts = [f"Channel {place + 1}, {channel.title}:"]
    facts += [f"{one.first} to {one.last}: {one.meaning}" for one in channel.ranges]
    if steady:
        right = [str(level) for level in range(256) if passes(channel, level)]
        best = next(one for one in channel.ranges if _opens(one.meaning))
        right.sort(key=lambda one: not best.first <= int(one) <= best.last)
        wrong = [
            (level, f"{level} is {one.meaning}")
            for one in channel.ranges
            if not _opens(one.meaning)
            for level in range(one.first, one.last + 1)
        ]
        asks = f"At which level does the light of {profile.title} ({mode.name}) stay on, steadily?"
        return question(
            asks,
            Kind.NUMBER,
            right,
            f"{best.first} to {best.last} is {best.meaning}.",
            wrong,
            facts=facts,
        )
    best = chance.choice(channel.ranges)
    count = best.last - best.first + 1
    return question(
        f"Which level of {channel.title} makes {profile.title} do “{best.meaning}”?",
        Kind.NUMBER,
        [str(level) for level in range(best.first, best.last + 1)],
        f"{best.first} to {best.last}: {counted(count, 'level')}.",
        [
            (level, f"{level} is {one.meaning}")
            for one in channel.ranges
            if one is not best
            for level in range(one.first, one.last + 1)
        ],
        facts=facts,
    )


def _opens(meaning: str) -> bool:
    words = meaning.lower()
    shut = any(words.startswith(one) for one in CLOSED_WORDS)
    return not shut and any(words.startswith(one) for one in OPEN_WORDS)
