"""What can be wrong with a rig: troubles, faults, and how they are typed."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fence.core.model.address import MAX_UNIVERSE, SLOTS
from fence.core.model.errors import EditError
from fence.core.model.line import Device, Stop
from fence.core.model.show import Show
from fence.core.model.text import joined, whole_number
from fence.core.model.wiring import name_of


class Trouble(StrEnum):
    """What can be wrong."""

    NOTHING = "nothing"
    WRONG_MODE = "wrong-mode"
    WRONG_ADDRESS = "wrong-address"
    DEAF = "deaf"
    NO_POWER = "no-power"
    NO_LAMP = "no-lamp"
    OWN_PROGRAM = "own-program"
    FLAT = "flat"
    UNLINKED = "unlinked"
    PLUG_OUT = "plug-out"
    WRONG_CABLE = "wrong-cable"
    SWAPPED_PAIR = "swapped-pair"
    NO_TERMINATOR = "no-terminator"
    SECOND_TERMINATOR = "second-terminator"
    TOO_MANY_LOADS = "too-many-loads"
    SPLITTER_OFF = "splitter-off"
    OUTPUT_DEAD = "output-dead"
    WRONG_UNIVERSE = "wrong-universe"
    OFF_BY_ONE = "off-by-one"
    PORT_OFF = "port-off"
    OTHER_NETWORK = "other-network"
    NOT_SENT = "not-sent"
    SECOND_SOURCE = "second-source"
    BLACKOUT = "blackout"


COUNTED_WRONG = {Trouble.WRONG_UNIVERSE, Trouble.OFF_BY_ONE}
"""A node gives out another universe than it should."""
GIVES_NOTHING = {Trouble.PORT_OFF, Trouble.OTHER_NETWORK}
AT_A_BOX = COUNTED_WRONG | GIVES_NOTHING
ON_A_LINE = {Trouble.NO_TERMINATOR, Trouble.SECOND_TERMINATOR, Trouble.TOO_MANY_LOADS}
"""Troubles of a whole line: its signal is not clean anywhere."""
OF_A_RUN = {Trouble.PLUG_OUT, Trouble.WRONG_CABLE, Trouble.SWAPPED_PAIR}
"""Troubles of the cable run that leads to a device."""
ON_THE_WAY = OF_A_RUN | {Trouble.NO_POWER, Trouble.FLAT, Trouble.UNLINKED}
"""Troubles of a fixture that may take the signal from others."""
AT_A_SPLITTER = {Trouble.SPLITTER_OFF, Trouble.OUTPUT_DEAD}
OF_A_UNIVERSE = {Trouble.NOT_SENT, Trouble.SECOND_SOURCE}
PUT_ON = tuple(trouble for trouble in Trouble if trouble is not Trouble.NOTHING)
"""What can be put on a rig."""


@dataclass(frozen=True, slots=True)
class Fault:
    """A trouble and where it is: a fixture (of a cable run: the one that it leads to), a line by
    name, a device on it by id, a node by name and its port.

    ``value`` is the mode, the address or the universe that is there instead, or the output of a
    splitter; empty for an address that nobody knows.
    """

    trouble: Trouble
    fixture: int | None = None
    line: str = ""
    box: str = ""
    port: int | None = None
    value: str = ""
    stop: int | None = None


def read_fault(show: Show, text: str) -> Fault:
    """A fault as typed: ``wrong-mode=Fern 5:3 channel``, ``plug-out=Fern 5``,
    ``no-terminator=Line A``, ``splitter-off=Fork 1``, ``output-dead=Fork 1:3``,
    ``wrong-universe=palm dock:4``, ``not-sent=2``, ``blackout``. ``EditError`` says what is
    accepted."""
    name, _, place = text.partition("=")
    if name not in set(PUT_ON):
        raise EditError(f"“{name[:40]}” is not a fault. Use {', '.join(PUT_ON)}.")
    trouble = Trouble(name)
    if trouble is Trouble.BLACKOUT:
        return Fault(trouble)
    if trouble in ON_A_LINE:
        lines = [line.name for line in show.lines]
        if place not in lines:
            raise EditError(
                f"There is no line “{place[:60]}”. Use one of "
                f"{joined(lines, most=8) or 'none yet'}."
            )
        return Fault(trouble, line=place)
    if trouble in OF_A_UNIVERSE:
        number = whole_number(place)
        if number is None or not 1 <= number <= MAX_UNIVERSE:
            raise EditError(f"“{place[:20]}” is not a universe. Use one such as {trouble}=2.")
        return Fault(trouble, value=str(number))
    head, colon, tail = place.rpartition(":")
    whole, value = (head, tail) if colon else (place, "")
    if trouble in AT_A_BOX:
        return _at_a_box(show, trouble, place, whole, value)
    if trouble in AT_A_SPLITTER:
        return _at_a_splitter(show, trouble, place, whole, value)
    return _at_a_fixture(show, trouble, place, whole, value)


def _at_a_splitter(show: Show, trouble: Trouble, place: str, whole: str, value: str) -> Fault:
    """At a splitter or transmitter, which is found by its name."""
    found: dict[str, tuple[str, Stop]] = {}
    for line in show.lines:
        for stop in line.stops:
            if stop.device in (Device.SPLITTER, Device.TRANSMITTER):
                found.setdefault(name_of(show, stop), (line.name, stop))
    name = whole if trouble is Trouble.OUTPUT_DEAD else place
    if name not in found:
        raise EditError(
            f"There is no splitter “{name[:60]}”. Use one of "
            f"{joined(list(found), most=8) or 'none yet'}."
        )
    line_name, stop = found[name]
    if trouble is Trouble.OUTPUT_DEAD and whole_number(value) is None:
        raise EditError(f"“{value[:20]}” is not an output. Use one such as {trouble}={name}:1.")
    return Fault(
        trouble, line=line_name, stop=stop.id, value=value if trouble is Trouble.OUTPUT_DEAD else ""
    )


def _at_a_box(show: Show, trouble: Trouble, place: str, whole: str, value: str) -> Fault:
    names = [box.name for box in show.boxes]
    box, port = (place, None) if place in names else (whole, whole_number(value))
    if box not in names:
        raise EditError(
            f"There is no node “{place[:60]}”. Use one of {joined(names, most=8) or 'none yet'}."
        )
    return Fault(trouble, box=box, port=port)


def _at_a_fixture(show: Show, trouble: Trouble, place: str, whole: str, value: str) -> Fault:
    by_label = {fixture.label: fixture for fixture in show.fixtures}
    needs = trouble in (Trouble.WRONG_MODE, Trouble.WRONG_ADDRESS)
    fixture = by_label.get(whole if needs else place)
    if fixture is None:
        raise EditError(f"There is no fixture “{place[:60]}”. Use its name, as {trouble}=NAME.")
    if trouble is Trouble.WRONG_MODE and (fixture.profile, value) not in show.modes:
        profile = show.profile_of(fixture)
        known = joined([mode.name for mode in profile.modes], most=8) if profile else "none"
        raise EditError(f"{fixture.label} has no mode “{value[:40]}”. Use one of {known}.")
    if trouble is Trouble.WRONG_ADDRESS and not 1 <= (whole_number(value) or 0) <= SLOTS:
        raise EditError(
            f"“{value[:20]}” is not an address. Use 1 to {SLOTS}, as wrong-address={whole}:161."
        )
    return Fault(trouble, fixture.id, value=value if needs else "")
