"""What is wrong with the cable: loads, lengths, ends, plugs, universes.

Nothing is said of a show without lines. Limits are of the standard named, or practice.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Sequence, Set
from functools import partial
from itertools import chain, islice
from typing import TYPE_CHECKING, NamedTuple

from fence.core.checks.finding import Finding, Rule, Severity
from fence.core.model.day import Day, as_clock
from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.looks import Looks
from fence.core.model.show import Show
from fence.core.model.text import counted, joined
from fence.core.model.wiring import (
    Section,
    Wiring,
    is_least,
    length_of,
    load_of,
    name_of,
    needs_adapter,
    wireless_only,
    wiring_of,
)

if TYPE_CHECKING:  # few shows say when their batteries must last
    from fence.core.model.battery import Lasting

MOST_LOADS = 32
"""Unit loads on one driven section [EIA-485]."""
MANY_LOADS = 20
"""From here on it is said (practice)."""
LONG_LINE = 300
"""Metres of one driven section (practice)."""
LONG_RUN = 100
"""Metres between two devices (practice)."""
CROWDED = 16
"""Loads from which microphone cable will not do (practice); as many metres over 100."""

RULES = (
    Rule(
        "line-load",
        "Too many loads",
        "One driver feeds 32 unit loads; beyond that the signal is too weak.",
    ),
    Rule("line-length", "Long line", "The signal grows weaker and rounder with every metre."),
    Rule("hop-length", "Long cable run", "A very long cable between two devices invites trouble."),
    Rule(
        "unterminated",
        "Open end",
        "The signal comes back from an open end; fixtures may lock up or flicker.",
    ),
    Rule(
        "double-terminated",
        "Terminated twice",
        "Two terminators halve the resistance and weaken the signal.",
    ),
    Rule(
        "split-passive",
        "Passive Y",
        "A Y-cable splits the line without a driver: echoes come back from each branch.",
    ),
    Rule(
        "connector-mismatch",
        "Plugs do not meet",
        "An adapter is needed, or it cannot be plugged together.",
    ),
    Rule(
        "audio-cable", "Microphone cable", "It is not 120 ohm: echoes, and errors that come and go."
    ),
    Rule(
        "universe-mixed",
        "Another universe",
        "The cable carries another universe than the fixture is planned on.",
    ),
    Rule(
        "wireless-channel",
        "Another link channel",
        "A receiver hears only the transmitter on its own channel.",
    ),
    Rule("wireless-receivers", "Too many receivers", "The transmitter serves only so many."),
    Rule(
        "air-only",
        "No socket for a cable",
        "What receives by wireless alone hears nothing of a cable.",
    ),
    Rule(
        "rdm-path",
        "RDM does not pass",
        "Fixtures behind it neither answer nor can be set from the ground.",
    ),
    Rule("battery-day", "Battery too short", "It goes dark before the day is over."),
    Rule(
        "battery-turnaround",
        "Not full again",
        "There is too little time on the charger between two days.",
    ),
    Rule("unpowered", "Needs power to pass on", "It hands the signal on only while it has power."),
    Rule("not-on-line", "On no line", "Nothing brings the signal there."),
    Rule("twice-on-line", "On two lines", "A fixture has one way in."),
)


def check_lines(show: Show) -> Iterator[Finding]:
    """All findings about the lines of a show."""
    if not show.lines:
        yield from _batteries(show)
        return
    holders, look = _HOLDING.begin(), _KEPT.begin()
    holding = [holders.at(line.id, (line,), partial(_holding, line)) for line in show.lines]
    for line, held in zip(show.lines, holding, strict=True):
        found = look.at(line.id, _made_of(show, line, held), partial(_kept_of, show, line))
        yield from found if found is not None else _of_line(show, line)
    yield from _channels(show, holding)
    yield from _batteries(show)
    yield from _hung(show, holding)


MOST_KEPT = 100
"""Findings of a line that are kept; what more of them say is found anew."""

_KEPT = Looks[tuple[Finding, ...] | None]()


class _Holding(NamedTuple):
    """What is asked of a line beside others: the fixtures on it, by their ids, and the transmitters
    whose channel is known."""

    fixtures: tuple[int, ...]
    senders: tuple[Stop, ...]


_HOLDING = Looks[_Holding]()


def _holding(line: Line) -> _Holding:
    return _Holding(
        tuple(stop.fixture for stop in line.stops if stop.fixture is not None),
        tuple(stop for stop in line.stops if stop.device is Device.TRANSMITTER and stop.link),
    )


def _made_of(show: Show, line: Line, held: _Holding) -> tuple[object, ...]:
    """All that the findings of a line are made of: itself, its fixtures, their types."""
    fixtures = tuple(map(show.fixture_by_id.get, held.fixtures))
    names = dict.fromkeys(fixture.profile for fixture in fixtures if fixture is not None)
    return (line, *fixtures, *map(show.profile_by_id.get, names))


def _kept_of(show: Show, line: Line) -> tuple[Finding, ...] | None:
    """The findings of a line, None where they are too many to be kept."""
    found = tuple(islice(_of_line(show, line), MOST_KEPT + 1))
    return found if len(found) <= MOST_KEPT else None


def _of_line(show: Show, line: Line) -> Iterator[Finding]:
    """What is to be said of one line, whatever the others are."""
    wiring = wiring_of(line)
    for section in wiring.sections:
        yield from _section(show, wiring, section)
    for stop in line.stops:
        yield from _stop(show, wiring, stop)
    yield from _at_source(show, wiring)
    yield from _senders(show, wiring)


def _found(
    show: Show,
    line: Line,
    rule: str,
    severity: Severity,
    words: str,
    stop: Stop | None = None,
    about: str = "",
) -> Finding:
    fixtures = (stop.fixture,) if stop is not None and stop.fixture in show.fixture_by_id else ()
    return Finding(
        rule,
        severity,
        words,
        tuple(f for f in fixtures if f is not None),
        line=line.name,
        stop=stop.id if stop else None,
        about=about,
        line_id=line.id,
    )


def _section(show: Show, wiring: Wiring, section: Section) -> Iterator[Finding]:
    if not section.wired:
        return
    line, loads, length = wiring.line, load_of(show, section), length_of(section)
    begin = f"{line.name} from {name_of(show, section.driver)} on" if section.driver else line.name
    first = section.stops[0]
    if loads > MOST_LOADS:
        words = (
            f"{begin} has {loads:g} unit loads; one driver feeds {MOST_LOADS}. Put a boosted "
            "splitter in."
        )
        yield _found(show, line, "line-load", Severity.STOP, words, first)
    elif loads >= MANY_LOADS:
        yield _found(
            show,
            line,
            "line-load",
            Severity.NOTE,
            f"{begin} has {loads:g} of {MOST_LOADS} unit loads.",
            first,
        )
    if length > LONG_LINE:
        least = "at least " if is_least(section) else ""
        words = f"{begin} is {least}{length:g} m long; {LONG_LINE} m is what practice allows."
        yield _found(show, line, "line-length", Severity.CAUTION, words, first)
    yield from _ends(show, wiring, section)
    poor = [stop for stop in section.stops if stop.cable is Cable.MICROPHONE]
    if poor:
        bad = loads > CROWDED or length > LONG_RUN
        words = f"{begin} has microphone cable to {joined([name_of(show, stop) for stop in poor])}."
        words += (
            " In a line so long or crowded it will not do."
            if bad
            else " It may do on a short line."
        )
        yield _found(
            show, line, "audio-cable", Severity.STOP if bad else Severity.CAUTION, words, poor[0]
        )


def _ends(show: Show, wiring: Wiring, section: Section) -> Iterator[Finding]:
    line = wiring.line
    for end in wiring.ends(section):
        if not end.terminates:
            words = f"{line.name} ends open behind {name_of(show, end)}."
            if reason := wiring.reason_for(end):
                yield _found(
                    show, line, "unterminated", Severity.NOTE, f"{words} Left so: {reason}", end
                )
            else:
                yield _found(show, line, "unterminated", Severity.CAUTION, words, end)
    closed = [stop for stop in section.stops if stop.terminates]
    for stop in closed:
        if following := wiring.children.get(stop.id):
            words = (
                f"{line.name} goes on to {name_of(show, following[0])} behind a "
                f"{stop.device}: only the end has one."
            )
            yield _found(show, line, "double-terminated", Severity.CAUTION, words, stop, "goes on")
    if len(closed) > 1:
        words = (
            f"{line.name} has {counted(len(closed), 'terminator')} on one section; it takes "
            "one, at the end."
        )
        yield _found(show, line, "double-terminated", Severity.CAUTION, words, closed[1])


def _stop(show: Show, wiring: Wiring, stop: Stop) -> Iterator[Finding]:
    """What is to be said of one stop. Of nearly every one it is nothing, so that is seen first."""
    line = wiring.line
    if stop.cable is not Cable.WIRELESS and (stop.length or 0) > LONG_RUN:
        words = (
            f"The cable run to {name_of(show, stop)} on {line.name} is {stop.length:g} m; "
            f"{LONG_RUN} m is practice."
        )
        yield _found(show, line, "hop-length", Severity.CAUTION, words, stop)
    following = wiring.children.get(stop.id, ())
    passive = stop.device is not Device.SPLITTER or not stop.boosted
    if not passive or len(following) > 1:
        wired = [child for child in following if child.cable is not Cable.WIRELESS]
        if not passive:
            yield from _outputs(show, line, stop, wired)
        elif len(wired) > 1:
            words = (
                f"{line.name} splits at {name_of(show, stop)} without a driver: a boosted "
                "splitter belongs there."
            )
            yield _found(show, line, "split-passive", Severity.CAUTION, words, stop)
    if stop.device is not None and not stop.rdm:
        yield from _no_rdm(show, wiring, stop)
    fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
    profile = show.profile_of(fixture) if fixture else None
    if profile and not profile.passes_unpowered:
        yield from _unpowered(show, wiring, stop)
    if profile and wireless_only(profile) and stop.cable is not Cable.WIRELESS:
        words = (
            f"{name_of(show, stop)} takes its signal by wireless only; {line.name} leads a cable "
            "to it."
        )
        yield _found(show, line, "air-only", Severity.CAUTION, words, stop)
    if plugs := needs_adapter(show, wiring, stop):
        words = (
            f"To {name_of(show, stop)} on {line.name} {plugs[0]} meets {plugs[1]}: an adapter "
            "is needed."
        )
        yield _found(show, line, "connector-mismatch", Severity.CAUTION, words, stop)
    planned = show.universes_of(fixture) if fixture else ()
    if fixture and line.universe is not None and planned and line.universe not in planned:
        on = joined([f"U{universe}" for universe in planned])
        words = f"{fixture.label} is planned on {on}, and {line.name} carries U{line.universe}."
        yield _found(show, line, "universe-mixed", Severity.STOP, words, stop)


def _outputs(show: Show, line: Line, splitter: Stop, wired: Sequence[Stop]) -> Iterator[Finding]:
    """Outputs of a boosted splitter: as many as there are, each with one cable."""
    name, has = name_of(show, splitter), splitter.outputs
    if has and (len(wired) > has or any((child.output or 1) > has for child in wired)):
        beyond = [child for child in wired if (child.output or 1) > has]
        words = f"{name} on {line.name} has {counted(has, 'output')}, and more are used."
        if beyond and len(wired) <= has:
            hangs = f"{name_of(show, beyond[0])} hangs on output {beyond[0].output}"
            words = f"{hangs} of {name} on {line.name}, which has {counted(has, 'output')}."
        yield _found(show, line, "split-passive", Severity.STOP, words, splitter, "outputs")
    by_output: dict[int | None, list[Stop]] = {}
    for child in wired:
        by_output.setdefault(child.output, []).append(child)
    for output, heads in by_output.items():
        if len(heads) > 1:
            where = f"output {output}" if output else "one output"
            names = joined([name_of(show, head) for head in heads])
            words = f"{names} all hang" if len(heads) > 2 else f"{names} both hang"
            words += f" on {where} of {name} on {line.name}: an output takes one cable."
            yield _found(
                show, line, "split-passive", Severity.CAUTION, words, heads[1], "one output"
            )


def _at_source(show: Show, wiring: Wiring) -> Iterator[Finding]:
    """Two cables out of the socket at which a line starts."""
    wired = [stop for stop in wiring.children.get(None, ()) if stop.cable is not Cable.WIRELESS]
    if len(wired) > 1:
        line, names = wiring.line, joined([name_of(show, stop) for stop in wired])
        words = (
            f"{line.name} leaves its source by {len(wired)} cables, to {names}: a socket "
            "takes one. "
        )
        words += "A boosted splitter belongs there."
        yield _found(show, line, "split-passive", Severity.CAUTION, words, wired[1], "source")


def _no_rdm(show: Show, wiring: Wiring, stop: Stop) -> Iterator[Finding]:
    """A device that does not pass RDM, with fixtures behind it that would answer."""
    ids = [
        behind.fixture for behind in wiring.behind(stop.id) if behind.fixture in show.fixture_by_id
    ]
    names = [
        show.fixture(i).label
        for i in ids
        if i and (p := show.profile_of(show.fixture(i))) and p.rdm
    ]
    if names:
        line, name = wiring.line, name_of(show, stop)
        words = f"{name} on {line.name} does not pass RDM: {joined(names)} will not answer."
        yield _found(show, line, "rdm-path", Severity.NOTE, words, stop)


def _unpowered(show: Show, wiring: Wiring, stop: Stop) -> Iterator[Finding]:
    """A fixture that hands nothing on without power, with others behind it."""
    behind = sum(s.fixture in show.fixture_by_id for s in wiring.behind(stop.id))
    if behind:
        line, name = wiring.line, name_of(show, stop)
        words = (
            f"Without power at {name} on {line.name} the {counted(behind, 'fixture')} "
            "behind it get no signal."
        )
        yield _found(show, line, "unpowered", Severity.NOTE, words, stop)


def _channels(show: Show, holding: Sequence[_Holding]) -> Iterator[Finding]:
    """Two transmitters on one link channel."""
    first: dict[str, str] = {}
    for line, held in zip(show.lines, holding, strict=True):
        for stop in held.senders:
            name = f"{name_of(show, stop)} on {line.name}"
            if stop.link in first:
                words = (
                    f"{name} sends on channel {stop.link}, as {first[stop.link]} does: "
                    "receivers hear either."
                )
                yield _found(
                    show, line, "wireless-channel", Severity.STOP, words, stop, "two senders"
                )
            first.setdefault(stop.link, name)


def _batteries(show: Show) -> Iterator[Finding]:
    if show.day is None:
        return
    from fence.core.model.battery import battery_day, packs_of

    hung = {
        s.fixture: (line, s) for line in show.lines for s in line.stops if s.fixture is not None
    }
    boxes = {
        (line.id, s.id): (line, s)
        for line in show.lines
        for s in line.stops
        if s.device is not None
    }
    for held in battery_day(packs_of(show), show.day).packs:
        pack = held.pack
        line, stop = (
            hung.get(pack.fixture, (None, None))
            if pack.fixture
            else boxes[pack.line or 0, pack.stop or 0]
        )
        told = _told_of(held, show.day)
        if told is not None:
            rule, severity, words = told
            fixtures = (pack.fixture,) if pack.fixture else ()
            yield Finding(
                rule,
                severity,
                words,
                fixtures,
                line=line.name if line else None,
                stop=stop.id if stop else None,
                line_id=line.id if line else None,
            )


def _told_of(held: Lasting, day: Day) -> tuple[str, Severity, str] | None:
    name, hours = held.pack.name, (day.end - day.set_up) / 60
    ways = [f"charge it by {as_clock(held.charge_by)}"] if held.charge_by is not None else []
    if held.reaches is not None:
        if held.swaps[0]:
            ways.append(f"swap it at {joined([as_clock(time) for time in held.swaps[0]])}")
        if not ways:
            ways.append("it is built in, so have it off for a while, or feed it from the mains")
        words = f"{name} lasts {held.pack.hours:g} of {hours:g} hours: {', or '.join(ways)}."
        if held.flat is not None:
            return "battery-day", Severity.CAUTION, words
        return (
            "battery-day",
            Severity.NOTE,
            f"{name} ends the day below the reserve of {day.reserve} %.",
        )
    if held.later_flat is not None and (held.pack.charge is not None or day.further):
        at = held.later_flats.index(held.later_flat)
        which = "the next set-up" if not at else f"set-up of day {at + 2}"
        words = (
            f"{name} is at {held.mornings[at] * 100:.0f} % at {which} and flat at "
            f"{as_clock(held.later_flat)}."
        )
        return "battery-turnaround", Severity.CAUTION, words
    return None


def _senders(show: Show, wiring: Wiring) -> Iterator[Finding]:
    line = wiring.line
    for stop in line.stops:
        aired = [
            child for child in wiring.children.get(stop.id, ()) if child.cable is Cable.WIRELESS
        ]
        if stop.device is not Device.TRANSMITTER:
            continue
        if stop.outputs and len(aired) > stop.outputs:
            serves = counted(stop.outputs, "receiver")
            words = (
                f"{name_of(show, stop)} on {line.name} serves {serves}; {len(aired)} are linked."
            )
            yield _found(show, line, "wireless-receivers", Severity.STOP, words, stop)
        for child in aired:
            if child.link and stop.link and child.link != stop.link:
                hears = f"{name_of(show, child)} listens on channel {child.link}"
                words = f"{hears}; {name_of(show, stop)} sends on {stop.link}."
                yield _found(show, line, "wireless-channel", Severity.STOP, words, child)


def _hung(show: Show, holding: Sequence[_Holding]) -> Iterator[Finding]:
    """Fixtures on no line, position by position and universe by universe, and on two.

    One in parts on several universes has a way in for each.
    """
    hung = Counter(chain.from_iterable(held.fixtures for held in holding))
    # nearly all have one address and hang once: one way in is all that they can want
    others = [f for f in show.fixtures if hung.get(f.id) != 1 or len(f.patch) != 1]
    if not others:
        return
    ways = _ways_to(show, holding, {fixture.id for fixture in others})
    lost: dict[tuple[str, int], list[int]] = {}
    for fixture in others:
        on = ways.get(fixture.id, [])
        wanted = show.universes_of(fixture)
        carried = [line.universe for line, _ in on]
        if len(on) > 1 and not _a_way_in_each(carried, wanted):
            words = (
                f"{fixture.label} hangs on {joined([line.name for line, _ in on])}: it has "
                "one way in."
            )
            line, stop = on[-1]
            yield _found(show, line, "twice-on-line", Severity.CAUTION, words, stop)
        elif any(show.footprints_of(fixture)) and (not on or len(wanted) > 1):
            for universe in wanted:
                if not on or universe not in carried:
                    lost.setdefault((fixture.position, universe), []).append(fixture.id)
    if not lost:
        return
    homes = {line.universe for line in show.lines if line.stops}
    places = {show.fixture_by_id[f].position for f in hung if f in show.fixture_by_id}
    for (place, universe), ids in lost.items():
        names = joined([show.fixture(fixture_id).label for fixture_id in ids])
        words = (
            f"{counted(len(ids), 'fixture')}{f' at {place}' if place else ''} on no line of "
            f"U{universe}: {names}."
        )
        forgotten = universe in homes or (place and place in places)
        severity = Severity.CAUTION if forgotten else Severity.NOTE
        yield Finding("not-on-line", severity, words, tuple(ids), universe)


def _ways_to(
    show: Show, holding: Sequence[_Holding], wanted: Set[int]
) -> dict[int, list[tuple[Line, Stop]]]:
    """The lines on which some fixtures hang, with the stops at which they do."""
    ways: dict[int, list[tuple[Line, Stop]]] = {}
    for line, held in zip(show.lines, holding, strict=True):
        if wanted.isdisjoint(held.fixtures):
            continue
        for stop in line.stops:
            if stop.fixture is not None and stop.fixture in wanted:
                ways.setdefault(stop.fixture, []).append((line, stop))
    return ways


def _a_way_in_each(carried: Sequence[int | None], wanted: Collection[int]) -> bool:
    """Whether each of several lines brings a fixture another universe of its own."""
    return len(set(carried)) == len(carried) and set(carried) <= set(wanted)
