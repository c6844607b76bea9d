"""What hangs behind what: the tree of a line, its driven sections, its ends.

A section is what one driver feeds. The source drives one; so do each output of a boosted splitter
and a wireless receiver that hands the signal on by cable.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache

from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.profile import Profile
from fence.core.model.show import Show

STANDARD = frozenset({"5-pin"})
"""The plugs of an output and of a splitter, transmitter or receiver, as the standard has them [ANSI
E1.11]."""
LOAD_OF_A_DEVICE = 1.0
"""Unit loads of the input of a boosted splitter, a transmitter or a tester [EIA-485]."""


@dataclass(frozen=True)
class Wiring:
    """A line as a tree."""

    line: Line

    @cached_property
    def by_id(self) -> dict[int, Stop]:
        """The stops by id."""
        return {stop.id: stop for stop in self.line.stops}

    @cached_property
    def children(self) -> dict[int | None, list[Stop]]:
        """The stops that follow each stop; None for those on the source. By output, then as they
        were added."""
        found: dict[int | None, list[Stop]] = {}
        for stop in self.line.stops:
            found.setdefault(stop.after, []).append(stop)
        for stops in found.values():
            if len(stops) > 1:
                stops.sort(key=lambda stop: stop.output or 0)
        return found

    def behind(self, stop_id: int | None) -> Iterator[Stop]:
        """All stops that follow a stop, near ones first; the stop itself is not among them."""
        waiting = list(reversed(self.children.get(stop_id, ())))
        while waiting:
            stop = waiting.pop()
            yield stop
            waiting += reversed(self.children.get(stop.id, ()))

    def path_to(self, stop_id: int) -> list[Stop]:
        """The stops from the source to a stop, the stop itself last."""
        path = [self.by_id[stop_id]]
        while path[-1].after is not None:
            path.append(self.by_id[path[-1].after])
        return path[::-1]

    def from_source(self, stop_id: int) -> float:
        """Metres of cable from the source to a stop, cable runs of unknown length left out."""
        return sum(
            stop.length or 0 for stop in self.path_to(stop_id) if stop.cable is not Cable.WIRELESS
        )

    @cached_property
    def sections(self) -> tuple[Section, ...]:
        """The driven sections, from the source on."""
        found = []
        waiting: list[tuple[Stop | None, int | None, list[Stop]]] = []
        if first := self.children.get(None):
            waiting.append((None, None, first))
        while waiting:
            driver, output, heads = waiting.pop(0)
            members: list[Stop] = []
            ahead = list(reversed(heads))
            while ahead:
                stop = ahead.pop()
                members.append(stop)
                following = self.children.get(stop.id, [])
                if not following:
                    continue
                if len(following) == 1 and stop.device is not Device.SPLITTER:
                    only = following[0]
                    if stop.cable is not Cable.WIRELESS and only.cable is not Cable.WIRELESS:
                        ahead.append(only)  # nearly every stop
                        continue
                aired = [child for child in following if child.cable is Cable.WIRELESS]
                wired = [child for child in following if child.cable is not Cable.WIRELESS]
                for child in aired:
                    waiting.append((stop, None, [child]))
                if stop.device is Device.SPLITTER and stop.boosted:
                    for number in sorted({child.output or 0 for child in wired}):
                        waiting.append(
                            (stop, number or None, [c for c in wired if (c.output or 0) == number])
                        )
                elif wired and stop.cable is Cable.WIRELESS:
                    # it received by wireless and drives what hangs on it
                    waiting.append((stop, None, wired))
                else:
                    ahead += reversed(wired)
            found.append(Section(driver, output, tuple(members)))
        return tuple(found)

    @cached_property
    def open_ends(self) -> tuple[Stop, ...]:
        """The ends that have no terminator."""
        return tuple(
            end for section in self.sections for end in self.ends(section) if not end.terminates
        )

    def reason_for(self, end: Stop) -> str:
        """Why an end is left open, as far as somebody has said it of this end."""
        return end.open_end or (self.line.open_end if self.open_ends == (end,) else "")

    def ends(self, section: Section) -> list[Stop]:
        """The last stops of a section to which a cable leads, and on which nothing hangs any more.

        A boosted splitter and a transmitter end a section themselves (practice); what is linked by
        wireless needs no end."""
        inside: set[int] | None = None
        found = []
        for stop in section.stops:
            if stop.cable is Cable.WIRELESS or stop.device is Device.TRANSMITTER:
                continue
            if stop.device is Device.SPLITTER and stop.boosted:
                continue
            if following := self.children.get(stop.id):
                inside = inside or {member.id for member in section.stops}
                if following[0].id in inside or any(child.id in inside for child in following):
                    continue
            found.append(stop)
        return found


@dataclass(frozen=True, slots=True)
class Section:
    """What one driver feeds: the driver (None for the source), which of its outputs, and the
    stops."""

    driver: Stop | None
    output: int | None
    stops: tuple[Stop, ...]

    @property
    def wired(self) -> bool:
        """Whether any cable belongs to it."""
        return any(stop.cable is not Cable.WIRELESS for stop in self.stops)


def wiring_of(line: Line) -> Wiring:
    """The tree of a line."""
    return Wiring(line)


def load_of(show: Show, section: Section) -> float:
    """Unit loads on a section: those of its fixtures, and one for each splitter, transmitter and
    tester."""
    total = 0.0
    for stop in section.stops:
        if stop.cable is Cable.WIRELESS:
            continue
        if stop.fixture is not None:
            fixture = show.fixture_by_id.get(stop.fixture)
            profile = show.profile_of(fixture) if fixture else None
            total += profile.unit_load if profile else 1.0
        elif stop.device in (Device.TRANSMITTER, Device.TESTER) or (
            stop.device is Device.SPLITTER and stop.boosted
        ):
            total += LOAD_OF_A_DEVICE
    return total


def is_least(section: Section) -> bool:
    """Whether a section may be longer than ``length_of`` says, since a cable run of it is of
    unknown length."""
    return any(stop.length is None and stop.cable is not Cable.WIRELESS for stop in section.stops)


def length_of(section: Section) -> float:
    """Metres from the driver of a section to its farthest end; cable runs of unknown length count
    nothing."""
    far: dict[int | None, float] = {}
    for stop in section.stops:
        run = 0.0 if stop.cable is Cable.WIRELESS else stop.length or 0.0
        far[stop.id] = far.get(stop.after, 0.0) + run
    return max(far.values(), default=0.0)


def name_of(show: Show, stop: Stop) -> str:
    """What people call a stop."""
    if stop.fixture is not None:
        fixture = show.fixture_by_id.get(stop.fixture)
        return fixture.label if fixture else "a fixture that is gone"
    return stop.label or (str(stop.device) if stop.device else "stop")


def fixtures_behind(show: Show, line: Line, stop_id: int) -> list[int]:
    """The fixtures that go dark, or run on their own, when the cable run to a stop fails: at the
    stop and behind it."""
    wiring = wiring_of(line)
    stops = [wiring.by_id[stop_id], *wiring.behind(stop_id)]
    return [
        stop.fixture
        for stop in stops
        if stop.fixture is not None and stop.fixture in show.fixture_by_id
    ]


def without_power(show: Show, line: Line, stop_id: int) -> list[int]:
    """The fixtures that fail when a stop has no power: itself, and what is behind where it passes
    nothing on then."""
    wiring = wiring_of(line)
    stop = wiring.by_id[stop_id]
    if stop.fixture is not None:
        fixture = show.fixture_by_id.get(stop.fixture)
        profile = show.profile_of(fixture) if fixture else None
        passes = profile is None or profile.passes_unpowered
        return [stop.fixture] if passes else fixtures_behind(show, line, stop_id)
    powered = stop.device in (Device.TRANSMITTER, Device.RECEIVER) or (
        stop.device is Device.SPLITTER and stop.boosted
    )
    return fixtures_behind(show, line, stop_id) if powered else []


def worst_break(show: Show, line: Line) -> tuple[Stop, list[int]] | None:
    """The cable run behind the first stop whose failure takes the most fixtures, and which; None
    for a line without any.

    The cable run from the source always takes all: it is not counted where there is another.
    """
    later = [stop for stop in line.stops if stop.after is not None] or list(line.stops)
    lost: dict[int | None, int] = {}
    for stop in reversed(line.stops):  # every stop comes after the one that it hangs on
        lost[stop.id] = lost.get(stop.id, 0) + (stop.fixture in show.fixture_by_id)
        lost[stop.after] = lost.get(stop.after, 0) + lost[stop.id]
    worst = max(later, key=lambda stop: lost[stop.id], default=None)
    return (worst, fixtures_behind(show, line, worst.id)) if worst and lost[worst.id] else None


def plugs_in(show: Show, stop: Stop) -> frozenset[str]:
    """The plugs that a stop takes a cable on; empty where they are not known, or do not matter."""
    return _plugs(show, stop)[0]


def plugs_out(show: Show, stop: Stop) -> frozenset[str]:
    """The plugs on which a stop hands the signal on; empty where they are not known."""
    return _plugs(show, stop)[1]


NOT_KNOWN: tuple[frozenset[str], frozenset[str]] = (frozenset(), frozenset())
"""Plugs in and out where nothing is known of either."""


def _plugs(show: Show, stop: Stop) -> tuple[frozenset[str], frozenset[str]]:
    if stop.fixture is None:
        boxed = stop.device in (Device.SPLITTER, Device.TRANSMITTER, Device.RECEIVER)
        return (STANDARD, STANDARD) if boxed else NOT_KNOWN
    fixture = show.fixture_by_id.get(stop.fixture)
    profile = show.profile_by_id.get(fixture.profile) if fixture else None
    if profile is None:
        return NOT_KNOWN
    return plugs_of(profile.connectors_in), plugs_of(profile.connectors_out)


@lru_cache(1024)
def plugs_of(words: str) -> frozenset[str]:
    """The plugs that a chart names, in whatever words."""
    return frozenset(name for name in ("5-pin", "3-pin", "rj45") if name in words.casefold())


def wireless_only(profile: Profile) -> bool:
    """Whether a type of fixture receives by wireless and has no socket for a cable."""
    return profile.wireless and not plugs_of(profile.connectors_in)


def needs_adapter(show: Show, wiring: Wiring, stop: Stop) -> tuple[str, str] | None:
    """The plugs that do not meet on the way to a stop (what comes, what it takes); None where they
    do."""
    if stop.cable is Cable.WIRELESS or stop.device is Device.ADAPTER:
        return None
    before = wiring.by_id.get(stop.after) if stop.after is not None else None
    if before is not None and before.device is Device.ADAPTER:
        return None
    taken = plugs_in(show, stop)
    if stop.plugs is None:  # nearly every cable
        out = plugs_out(show, before) if before else STANDARD
        meet = not out or not taken or not out.isdisjoint(taken)
        return None if meet else (min(out), min(taken))
    near, far = map(str, stop.plugs)
    out = plugs_out(show, before) if before else frozenset()
    if out and near not in out:
        return min(out), near
    if taken and far not in taken:
        return far, min(taken)
    return None
