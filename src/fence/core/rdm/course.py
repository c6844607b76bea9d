"""In which order devices of a line are set, so that two never come to listen to one slot who did
not before.

Each step changes one thing at one device. A device goes to its place when that is free; of those
that wait for each other in a circle one is parked in a gap. Where there is no gap the step is taken
all the same, and it is said who meets whom.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from fence.core.model.address import EVERY_SLOT, SLOTS, bits_of
from fence.core.rdm.packet import Identity

Key = tuple[Identity, int]
"""A device, or one of its sub-devices."""


@dataclass(frozen=True, slots=True)
class Goal:
    """How a device shall stand: None for what stays as it is. ``footprint`` is that of the mode it
    shall be in. Those of one ``share`` group may listen to the same slots."""

    identity: Identity
    sub: int = 0
    personality: int | None = None
    footprint: int = 0
    address: int | None = None
    share: str = ""

    @property
    def key(self) -> Key:
        """What it is about."""
        return self.identity, self.sub


@dataclass(frozen=True, slots=True)
class Stand:
    """How a device stands. ``footprint`` belongs to ``personality``; ``also`` are slots that it may
    listen to as well, since it did not say whether it took what was set."""

    universe: int | None
    personality: int
    footprint: int
    address: int | None
    also: int = 0

    @property
    def bits(self) -> int:
        """The slots that it listens to; those past the end are none."""
        return self.also | run_bits(self.address, self.footprint)


def run_bits(address: int | None, footprint: int) -> int:
    """The slots of a run, as bits, as far as they exist."""
    return bits_of(address, footprint) & EVERY_SLOT if address is not None and footprint else 0


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to set: a mode, or an address. ``parks``: the address is only for a while.
    ``meets`` are those that it comes to share slots with, until they are set, too;
    ``meets_others``: fixtures that cannot be asked are among them."""

    key: Key
    personality: int | None = None
    address: int | None = None
    footprint: int = 0
    parks: bool = False
    meets: tuple[Key, ...] = ()
    meets_others: bool = False


@dataclass
class Course:
    """The way from how devices stand to how they shall.

    ``fixed`` are slots of each universe that others take, who cannot be asked; ``shares`` the
    groups of devices that share an address, beside those of the goals; ``left`` are goals that are
    given up, with why, in which others are ``called`` by their names.
    """

    stands: dict[Key, Stand]
    goals: dict[Key, Goal]
    fixed: Mapping[int | None, int] = field(default_factory=dict)
    shares: Mapping[Identity, str] = field(default_factory=dict)
    parked: set[Key] = field(default_factory=set)
    left: dict[Key, str] = field(default_factory=dict)
    called: Callable[[Key], str] = lambda key: str(key[0])

    def __post_init__(self) -> None:
        self._near: dict[int | None, list[Key]] = {}
        for key, stand in self.stands.items():
            self._near.setdefault(stand.universe, []).append(key)

    @property
    def waiting(self) -> list[Goal]:
        """Goals that are not reached, and not given up."""
        return [
            goal
            for key, goal in self.goals.items()
            if key not in self.left and not self._reached(goal)
        ]

    def _reached(self, goal: Goal) -> bool:
        stand = self.stands[goal.key]
        mode = goal.personality in (None, stand.personality)
        return mode and goal.address in (None, stand.address)

    def next_step(self) -> Step | None:
        """The next thing to set; None where all are set, or nothing more can be."""
        waiting = self.waiting
        ready = (self._towards(goal) for goal in waiting if self._is_free(goal))
        found = next((step for step in ready if step is not None), None) or self._parking(waiting)
        return self._seen(found) if found is not None else self._forced(waiting)

    def took(self, step: Step) -> None:
        """A device did what a step says."""
        stand = self.stands[step.key]
        if step.personality is not None:
            stand = replace(stand, personality=step.personality, footprint=step.footprint)
        if step.address is not None:
            stand = replace(stand, address=step.address)
        self.stands[step.key] = stand
        if step.parks:
            self.parked.add(step.key)

    def failed(self, step: Step, why: str) -> None:
        """A device did not say that it did: it may listen to its old slots or to the new ones from
        now on."""
        stand = self.stands[step.key]
        footprint = step.footprint if step.personality is not None else stand.footprint
        new = run_bits(step.address if step.address is not None else stand.address, footprint)
        self.stands[step.key] = replace(stand, also=stand.bits | new)
        self.left[step.key] = why

    # ---- who meets whom

    def _others(self, key: Key) -> Iterable[tuple[Key, int]]:
        mine = self._share(key)
        for other in self._near[self.stands[key].universe]:
            if other == key:
                continue
            stand = self.stands[other]
            if mine and self._share(other) == mine:
                continue
            yield other, stand.bits

    def _share(self, key: Key) -> str:
        """The group that a device shares its address with; empty for none."""
        goal = self.goals.get(key)
        return (goal.share if goal is not None else "") or self.shares.get(key[0], "")

    def _met(self, key: Key, bits: int) -> tuple[Key, ...]:
        """Those that listen to one of these slots and do not share with it already."""
        now = self.stands[key].bits
        return tuple(
            other for other, theirs in self._others(key) if theirs & bits and not theirs & now
        )

    def _meets_others(self, key: Key, bits: int) -> bool:
        """Whether a fixture that cannot be asked listens to one of these slots, to which the device
        does not yet."""
        stand = self.stands[key]
        return bool(bits & self.fixed.get(stand.universe, 0) & ~stand.bits)

    def _seen(self, step: Step) -> Step:
        """The step with all whom it meets."""
        stand = self.stands[step.key]
        footprint = step.footprint if step.personality is not None else stand.footprint
        bits = run_bits(step.address if step.address is not None else stand.address, footprint)
        return replace(
            step, meets=self._met(step.key, bits), meets_others=self._meets_others(step.key, bits)
        )

    def _steps(self, goal: Goal) -> list[Step]:
        """What is left to do towards a goal, mode and address, each with those whom it meets if it
        is done first."""
        stand, key = self.stands[goal.key], goal.key
        found = []
        if goal.personality not in (None, stand.personality):
            found.append(Step(key, personality=goal.personality, footprint=goal.footprint))
        if goal.address is not None and goal.address != stand.address:
            found.append(Step(key, address=goal.address))
        return [self._seen(step) for step in found]

    def _is_free(self, goal: Goal) -> bool:
        """Whether nobody else listens to where a device shall go."""
        stand = self.stands[goal.key]
        address = stand.address if goal.address is None else goal.address
        footprint = stand.footprint if goal.personality is None else goal.footprint
        bits = run_bits(address, footprint)
        if self._meets_others(goal.key, bits):
            return False
        return not any(theirs & bits for _, theirs in self._others(goal.key))

    def _towards(self, goal: Goal) -> Step | None:
        """A step to a place that is free: mode or address first, whichever meets nobody; else by
        way of a gap."""
        stand = self.stands[goal.key]
        steps = self._steps(goal)
        for step in steps:
            ends = step.address is None or step.address + stand.footprint - 1 <= SLOTS
            if not step.meets and not step.meets_others and (ends or len(steps) == 1):
                return step
        if goal.key in self.parked:
            return min(steps, key=_harm)
        return self._park(goal)

    def _park(self, goal: Goal) -> Step | None:
        """A step into a gap that takes a device in its mode of now and in the one that it shall
        have."""
        stand = self.stands[goal.key]
        length = max(stand.footprint, goal.footprint, 1)
        taken = self.fixed.get(stand.universe, 0)
        for _, bits in self._others(goal.key):
            taken |= bits
        later = 0
        for other in self.waiting:
            if other.key != goal.key and self.stands[other.key].universe == stand.universe:
                later |= run_bits(
                    other.address, other.footprint or self.stands[other.key].footprint
                )
        for busy in (taken | later, taken):
            for first in range(SLOTS - length + 1, 0, -1):
                if not bits_of(first, length) & busy and first != stand.address:
                    return Step(goal.key, address=first, parks=True)
        return None

    def _parking(self, waiting: Sequence[Goal]) -> Step | None:
        """Take one out of the way of the others: they wait for each other in a circle."""
        for goal in waiting:
            if goal.key in self.parked or goal.address is None:
                continue
            mine = self.stands[goal.key].bits
            in_the_way = any(
                run_bits(other.address, other.footprint) & mine
                for other in waiting
                if other.key != goal.key
            )
            if in_the_way and (step := self._park(goal)) is not None:
                return step
        return None

    def _forced(self, waiting: Sequence[Goal]) -> Step | None:
        """The step that meets the fewest, where there is no way round; devices that hold a place
        for good are not met: who would go there is left, with the reason."""
        best: Step | None = None
        for goal in waiting:
            stand = self.stands[goal.key]
            address = stand.address if goal.address is None else goal.address
            footprint = stand.footprint if goal.personality is None else goal.footprint
            bits = run_bits(address, footprint)
            holders = [other for other, theirs in self._others(goal.key) if theirs & bits]
            stay = [other for other in holders if other not in self.goals or other in self.left]
            if stay or self._meets_others(goal.key, bits):
                name = f"by {self.called(stay[0])}" if stay else "by a fixture that cannot be asked"
                self.left[goal.key] = f"its place is held {name}"
                continue
            for step in self._steps(goal):
                if best is None or _harm(step) < _harm(best):
                    best = step
        return best


def _harm(step: Step) -> tuple[bool, int]:
    """How bad a step is: above all one that meets somebody who does not go away."""
    return step.meets_others, len(step.meets)
