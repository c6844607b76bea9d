"""Places of a rig as they are chosen from a list, and kinds of trouble with where they can be."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import islice

from fence.core.model.address import SLOTS
from fence.core.model.box import BoxKind
from fence.core.model.errors import EditError
from fence.core.model.line import Cable, Device, Line
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.model.wiring import name_of
from fence.core.practising.hidden import Claim
from fence.core.simulation.faults import (
    AT_A_BOX,
    AT_A_SPLITTER,
    OF_A_RUN,
    OF_A_UNIVERSE,
    ON_A_LINE,
    PUT_ON,
    Fault,
    Trouble,
)
from fence.core.troubleshooting.evidence import AT_A_FIXTURE, AT_A_STOP, Check, Kind
from fence.core.troubleshooting.told import KINDS

MOST_LISTED = 1000
PLACE = re.compile(r"(?P<kind>[fslbnu])(?P<one>\d{1,15})(?:\.(?P<other>\d{1,15}))?|d", re.ASCII)


class Sort(StrEnum):
    """What a place is."""

    FIXTURE = "f"
    STOP = "s"
    LINE = "l"
    NODE = "b"
    PORT = "n"
    UNIVERSE = "u"
    DESK = "d"


SORTS = {
    Sort.FIXTURE: "a fixture",
    Sort.STOP: "a device on a line",
    Sort.LINE: "a line",
    Sort.NODE: "a node",
    Sort.PORT: "a port of a node",
    Sort.UNIVERSE: "a universe",
    Sort.DESK: "the desk",
}


@dataclass(frozen=True, slots=True)
class Where:
    """A place, as it is chosen: its value and its words."""

    value: str
    words: str


@dataclass(frozen=True, slots=True)
class Places:
    """All places of a rig, by what they are."""

    fixtures: list[Where]
    stops: list[Where]
    lines: list[Where]
    nodes: list[Where]
    ports: list[Where]
    universes: list[Where]


def places(show: Show, most: int = MOST_LISTED) -> Places:
    """The places of a rig, in its order; of each sort so many at most."""
    nodes = [box for box in show.boxes if box.kind is BoxKind.NODE][:most]
    stops = (
        Where(f"s{line.id}.{stop.id}", f"{name_of(show, stop)}, {line.name}")
        for line in show.lines
        for stop in line.stops
        if stop.cable is not Cable.WIRELESS and stop.device is not Device.TERMINATOR
    )
    return Places(
        [Where(f"f{one.id}", one.label) for one in show.fixtures[:most]],
        list(islice(stops, most)),
        [Where(f"l{line.id}", line.name) for line in show.lines[:most]],
        [Where(f"b{box.id}", box.name) for box in nodes],
        [
            Where(f"n{box.id}.{port.number}", f"{box.name}, port {port.number}")
            for box in nodes
            for port in box.outputs
            if port.universe is not None
        ],
        [Where(f"u{number}", f"Universe {number}") for number in list(show.carried)[:most]],
    )


@dataclass(frozen=True, slots=True)
class Found:
    """A place that was chosen, of the rig."""

    sort: Sort
    fixture: int | None = None
    line: Line | None = None
    stop: int | None = None
    box: str = ""
    port: int | None = None
    universe: str = ""


def place_in(show: Show, value: str) -> Found:
    """The place of a value; ``EditError`` where there is none such."""
    match = PLACE.fullmatch(value)
    if match is None:
        raise EditError("Choose a place from the list.")
    if match["kind"] is None:
        return Found(Sort.DESK)
    sort, one, other = Sort(match["kind"]), int(match["one"]), int(match["other"] or 0)
    found: Found | None = None
    if sort is Sort.FIXTURE and one in show.fixture_by_id:
        found = Found(sort, fixture=one)
    line = next((line for line in show.lines if line.id == one), None)
    if line is not None and sort is Sort.LINE:
        found = Found(sort, line=line)
    if line is not None and sort is Sort.STOP:
        stop = next((stop for stop in line.stops if stop.id == other), None)
        found = Found(sort, stop.fixture, line, other) if stop is not None else None
    box = show.box_by_id.get(one)
    if box is not None and sort is Sort.NODE:
        found = Found(sort, box=box.name)
    if box is not None and sort is Sort.PORT and box.port(other) is not None:
        found = Found(sort, box=box.name, port=other)
    if sort is Sort.UNIVERSE and one in show.carried:
        found = Found(sort, universe=str(one))
    if found is None:
        raise EditError("That is not in this rig: choose a place from the list.")
    return found


def words_of(show: Show, value: str) -> str:
    """A place in words; empty where there is none such."""
    found = places(show)
    known = (
        *found.fixtures,
        *found.stops,
        *found.lines,
        *found.nodes,
        *found.ports,
        *found.universes,
        Where("d", "the desk"),
    )
    return next((one.words for one in known if one.value == value), "")


def sorts_of(trouble: Trouble) -> tuple[Sort, ...]:
    """Where a kind of trouble can be."""
    if trouble is Trouble.BLACKOUT:
        return (Sort.DESK,)
    if trouble in OF_A_UNIVERSE:
        return (Sort.UNIVERSE,)
    if trouble in ON_A_LINE:
        return (Sort.LINE,)
    if trouble is Trouble.OTHER_NETWORK:
        return (Sort.NODE, Sort.PORT)
    if trouble in AT_A_BOX:
        return (Sort.PORT, Sort.NODE)
    if trouble in AT_A_SPLITTER:
        return (Sort.STOP,)
    if trouble in OF_A_RUN:
        return (Sort.STOP, Sort.FIXTURE)
    return (Sort.FIXTURE, Sort.STOP)


def kinds() -> list[tuple[Trouble, str]]:
    """All kinds of trouble in words, in the order in which they are usually thought of."""
    return [(trouble, KINDS[trouble]) for trouble in PUT_ON]


def claim_of(show: Show, trouble: str, value: str) -> Claim:
    """What somebody says is wrong. ``EditError`` where a kind of trouble cannot be there."""
    if trouble not in set(PUT_ON):
        raise EditError("Choose what it is from the list.")
    kind = Trouble(trouble)
    found = Found(Sort.DESK) if kind is Trouble.BLACKOUT else place_in(show, value)
    sorts = sorts_of(kind)
    if found.sort not in sorts or (
        found.sort is Sort.STOP and sorts[0] == Sort.FIXTURE and found.fixture is None
    ):
        raise EditError(
            f"“{KINDS[kind]}” is at {' or '.join(SORTS[one] for one in sorts)}: choose one there."
        )
    name = found.line.name if found.line else ""
    if sorts[0] is Sort.FIXTURE:
        return Claim(kind, found.fixture)
    return Claim(kind, found.fixture, name, found.stop, found.box, found.port, found.universe)


def fault_of(show: Show, trouble: str, value: str, more: str) -> Fault:
    """A fault to be put on a rig: what it is, where, and with which mode, address or output."""
    claim = claim_of(show, trouble, value)
    words = more.strip()
    fault = Fault(
        claim.trouble,
        claim.fixture,
        claim.line,
        claim.box,
        claim.port,
        claim.universe,
        claim.stop,
    )
    if claim.trouble is Trouble.WRONG_MODE:
        profile = show.profile_of(show.fixture(claim.fixture or 0))
        known = [mode.name for mode in profile.modes] if profile else []
        if words not in known:
            raise EditError(f"Say which mode it is in. Use one of {', '.join(known) or 'none'}.")
        return replace(fault, value=words)
    if claim.trouble is Trouble.WRONG_ADDRESS:
        number = whole_number(words)
        if number is None or not 1 <= number <= SLOTS:
            raise EditError(f"Say where it stands. Use an address from 1 to {SLOTS}.")
        return replace(fault, value=str(number))
    if claim.trouble is Trouble.OUTPUT_DEAD:
        if whole_number(words) is None:
            raise EditError("Say which output of the splitter is dead, such as 2.")
        return replace(fault, value=words)
    if claim.trouble in AT_A_SPLITTER:
        _check_splitter(show, claim)
    return fault


def _check_splitter(show: Show, claim: Claim) -> None:
    line = next(line for line in show.lines if line.name == claim.line)
    stop = next(stop for stop in line.stops if stop.id == claim.stop)
    if stop.device not in (Device.SPLITTER, Device.TRANSMITTER):
        raise EditError("That is no splitter: choose one from the list.")


def value_of(show: Show, check: Check) -> str:
    """The place of a check, as it is chosen; empty for the desk."""
    if check.fixture:
        return f"f{check.fixture}"
    if check.line:
        line = next((one for one in show.lines if one.name == check.line), None)
        return f"s{line.id}.{check.stop}" if line else ""
    box = next((box for box in show.boxes if box.name == check.box), None)
    return f"n{box.id}.{check.port}" if box else ""


def check_of(show: Show, kind: str, value: str) -> Check:
    """A check as it is chosen; ``EditError`` where it cannot be made there."""
    if kind not in set(Kind):
        raise EditError("Choose what to look at.")
    what = Kind(kind)
    if what is Kind.DESK:
        return Check(what)
    found = place_in(show, value)
    if what is Kind.NODE and found.sort is Sort.PORT:
        return Check(what, box=found.box, port=found.port or 0)
    if what in AT_A_STOP and found.sort is Sort.STOP and found.line is not None:
        return Check(what, line=found.line.name, stop=found.stop or 0)
    if what in AT_A_FIXTURE and found.sort is Sort.FIXTURE:
        return Check(what, found.fixture or 0)
    raise EditError("That cannot be looked at there: choose a place from the list beside it.")
