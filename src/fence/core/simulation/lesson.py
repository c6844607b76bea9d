"""A first lesson in six short steps: something to do in each, and something to see, on a practice
rig of one or two.

The fixtures are of a type of the person's own rig where one fits, else of a shipped one.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from fence.core import edits
from fence.core.model.address import SLOTS, Address
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.simulation.practice import PracticeRig, Seen

STEPS = 6
MIX = (Function.DIMMER, Function.RED, Function.GREEN, Function.BLUE)
MOST_CHANNELS = 8
PLAIN = Profile(
    "lesson-lamp",
    "",
    "A lamp",
    (Mode("4 channel", (Part(4, tuple(Channel(one) for one in MIX)),)),),
)
UP = 40
"""A level from which on a channel counts as up."""


@dataclass(frozen=True, slots=True)
class Lesson:
    """One step: what is there and what is to be done.

    ``second`` is where the second fixture stands, None where there is only one; ``chooses`` says
    whether its address, or the universe that is sent, is the person's to choose. ``begin`` are the
    levels at the start, by slot.
    """

    number: int
    title: str
    words: str
    done: str
    profile: Profile
    mode: Mode
    labels: tuple[str, str]
    second: Address | None = None
    chooses: str = ""
    begin: Mapping[int, int] | None = None

    @property
    def width(self) -> int:
        """Slots of one fixture."""
        return self.mode.footprint

    @property
    def slots(self) -> int:
        """Slots that have a fader."""
        return self.width * (2 if self.number == 4 else 1)

    def place(self, function: Function) -> int:
        """The slot of the first fixture that carries a function."""
        channels = self.mode.parts[0].channels
        return next(at for at, channel in enumerate(channels, 1) if channel.function is function)


def type_for(show: Show | None) -> tuple[Profile, Mode, tuple[str, str]]:
    """A type to learn on: the first of the show with a dimmer and three colours on few channels,
    with its own names."""
    if show is None:
        return PLAIN, PLAIN.modes[0], ("Lamp 1", "Lamp 2")
    for fixture in show.fixtures:
        profile, mode = show.profile_of(fixture), show.mode_of(fixture)
        if (
            profile is None
            or mode is None
            or len(mode.parts) != 1
            or mode.footprint > MOST_CHANNELS
        ):
            continue
        functions = {channel.function for channel in mode.parts[0].channels}
        if functions >= set(MIX) and Function.SHUTTER not in functions:
            alike = [
                one.label
                for one in show.fixtures
                if (one.profile, one.mode) == (fixture.profile, fixture.mode)
            ]
            first, second = next(pairwise([*alike, f"{fixture.label} again"]))
            return profile, mode, (first, second)
    return PLAIN, PLAIN.modes[0], ("Lamp 1", "Lamp 2")


def lesson(number: int, show: Show | None = None) -> Lesson:
    """A step, 1 to 6; numbers beyond are drawn in."""
    number = min(max(number, 1), STEPS)
    profile, mode, labels = type_for(show)
    one, two = labels
    width = mode.footprint
    red, dimmer = (
        next(at for at, c in enumerate(mode.parts[0].channels, 1) if c.function is wanted)
        for wanted in (Function.RED, Function.DIMMER)
    )
    made = {
        1: (
            "One fixture, its channels",
            f"{one} listens to slots 1 to {width}, one for each thing that it can do. Raise its "
            "dimmer and its red.",
            "It is lit and red: two slots of a cable did that.",
            None,
            "",
            None,
        ),
        2: (
            "A mix",
            f"Light adds up. Keep {one}’s dimmer and red, and add green until it is yellow.",
            "Red and green make yellow. With blue as well it would be white.",
            None,
            "",
            None,
        ),
        3: (
            "The same address twice",
            f"{two} has been set to address 1, too. Raise something, and look at both.",
            "Both do the same: on the cable there is one set of levels, and both listen to it. "
            "Good if it is meant.",
            Address(1, 1),
            "",
            None,
        ),
        4: (
            "Another address",
            f"Give {two} an address of its own, so that it begins where {one} ends, and light "
            f"{two} alone.",
            f"{one} takes 1 to {width}, so the next one begins at {width + 1}: last start plus "
            "channels.",
            Address(1, 1),
            "address",
            None,
        ),
        5: (
            "Colour up, dimmer at zero",
            f"{one}’s red is at full, and it is dark. Find out why, and light it.",
            "With a dimmer in the mode nothing is seen until the dimmer is up, too.",
            None,
            "",
            {red: 255, dimmer: 0},
        ),
        6: (
            "A second universe",
            f"{two} stands at address 1 as well, but its cable carries universe 2. Light {two} "
            f"and leave {one} dark.",
            "A universe has 512 slots; the next one begins again at 1. So an address is a "
            "universe and a slot.",
            Address(2, 1),
            "universe",
            None,
        ),
    }[number]
    title, words, done, second, chooses, begin = made
    return Lesson(number, title, words, done, profile, mode, labels, second, chooses, begin)


def rig_of(step: Lesson, second: Address | None) -> PracticeRig:
    """The practice rig of a step: one fixture at universe 1, slot 1, and the second where it
    stands."""
    show = Show("Lesson", profiles=(step.profile,))
    for label, at in zip(step.labels, (Address(1, 1), second), strict=True):
        if at is not None:
            show = edits.add_fixtures(
                show, edits.AddRun(step.profile, step.mode.name, 1, label, None, "", 0, at)
            )
    return PracticeRig(show)


@dataclass(frozen=True, slots=True)
class Outcome:
    """What is seen in a step: the one or two fixtures, whether what was asked for is done, and a
    hint if it is not."""

    seen: tuple[Seen, ...]
    reached: bool
    hint: str


def outcome(
    step: Lesson, levels: Mapping[int, int], *, universe: int = 1, address: int = 1
) -> Outcome:
    """What comes of levels by slot, sent on a universe, with the second fixture at an address where
    that is chosen."""
    second = step.second
    if step.chooses == "address":
        second = Address(1, min(max(address, 1), SLOTS + 1 - step.width))
    frame = bytearray(SLOTS)
    for slot, level in levels.items():
        if 1 <= slot <= SLOTS:
            frame[slot - 1] = min(max(level, 0), 255)
    frames = {
        1: bytes(SLOTS),
        2: bytes(SLOTS),
        (universe if step.chooses == "universe" else 1): bytes(frame),
    }
    seen = tuple(rig_of(step, second).seen(frames).values())
    reached, hint = _judged(step, seen, levels, second)
    return Outcome(seen, reached, "" if reached else hint)


def _judged(
    step: Lesson, seen: tuple[Seen, ...], levels: Mapping[int, int], second: Address | None
) -> tuple[bool, str]:
    """Whether a step is done, and what helps where it is not."""
    red, green, blue = seen[0].colour
    dimmer = levels.get(step.place(Function.DIMMER), 0)
    if step.number == 1:
        return red > UP and red > 2 * max(green, blue), _why_dark(
            seen[0], dimmer
        ) or "Red alone, please."
    if step.number == 2:
        yellow = red > UP and green > 0.45 * red and blue < 0.5 * min(red, green)
        return yellow, _why_dark(seen[0], dimmer) or "Add green, and leave blue down."
    if step.number == 3:
        return all(one.lit for one in seen), "Raise the dimmer and a colour."
    if step.number == 4:
        apart = second is not None and second.slot > step.width
        hint = (
            f"{step.labels[1]}’s slots still meet those of {step.labels[0]}." if not apart else ""
        )
        exact = second is not None and second.slot == step.width + 1
        light = "Its dimmer and a colour are among the next slots; leave the first ones down."
        return apart and seen[1].lit and not seen[0].lit, hint or (
            light if exact else "A gap works, too. " + light
        )
    if step.number == 5:
        return seen[0].lit, "Which channel does all light go through?"
    return seen[1].lit and not seen[0].lit, "Choose the universe that is sent."


def _why_dark(seen: Seen, dimmer: int) -> str:
    if seen.lit:
        return ""
    return "The dimmer is up, and no colour is." if dimmer else "It is dark: the dimmer is down."
