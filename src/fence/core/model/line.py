"""A line: a tree of stops with the cable between them, from an output to its ends [ANSI E1.11,
E1.27]."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from fence.core.model.address import check_universe
from fence.core.model.errors import EditError
from fence.core.model.former import Renamed
from fence.core.model.profile import MOST_HOURS
from fence.core.model.text import check_finite, check_text, check_whole

MOST_STOPS = 2000
"""Stops of one line; beyond that it is surely a slip."""
MOST_OUTPUTS = 256
LONGEST_RUN = 10_000
"""Metres of one cable run that are still believed."""
HIGHEST_NUMBER = 2**31 - 1


class Device(Renamed):
    """What a stop is, where it is no fixture."""

    SPLITTER = "splitter"
    TRANSMITTER = "transmitter"
    RECEIVER = "receiver"
    COUPLER = "coupler"
    ADAPTER = "adapter"
    TERMINATOR = "terminator"
    TESTER = "tester"


class Cable(Renamed):
    """What the cable run to a stop is made of. ``dmx`` is 120 ohm cable made for it; ``wireless``
    is a link."""

    DMX = "dmx"
    NETWORK = "network"
    MICROPHONE = "microphone"
    WIRELESS = "wireless"


class Power(StrEnum):
    """Where a small box such as a transmitter or receiver takes its power from."""

    MAINS = "mains"
    USB = "fixture's USB"
    PACK = "battery pack"


class Plug(Renamed):
    """The end of a cable run."""

    FIVE = "5-pin"
    THREE = "3-pin"
    RJ45 = "rj45"
    WIRELESS = "wireless"


@dataclass(frozen=True, slots=True)
class Stop:
    """A stop of a line and the cable run that leads to it.

    ``after`` is the stop before it, None where it hangs on the source; ``output`` which output of a
    splitter it hangs on. It is a fixture (by id) or a ``device``. ``outputs`` is how many outputs a
    splitter has, or how many receivers a transmitter serves. A splitter that is not ``boosted`` is
    a passive Y. ``rdm`` says whether it passes RDM. ``link`` is the channel of a wireless link.
    ``length`` in metres and ``plugs`` (at the far end of the cable run and at this stop) belong to
    the cable run, None where not known. ``power`` is where a device takes its own from, ``hours``
    how long a pack lasts, ``sign`` how it is told apart (a blink, a colour). ``open_end`` is why no
    terminator stands behind it."""

    id: int
    after: int | None = None
    output: int | None = None
    fixture: int | None = None
    device: Device | None = None
    label: str = ""
    outputs: int | None = None
    boosted: bool = True
    rdm: bool = True
    link: str = ""
    length: float | None = None
    cable: Cable = Cable.DMX
    plugs: tuple[Plug, Plug] | None = None
    power: Power | None = None
    hours: float | None = None
    sign: str = ""
    open_end: str = ""

    def __post_init__(self) -> None:
        check_whole("stop", self.id, 1, HIGHEST_NUMBER)
        if (self.fixture is None) == (self.device is None):
            raise EditError("A stop of a line is either a fixture or a device.")
        if self.label or self.link or self.sign or self.open_end:
            check_text("label of a device", self.label, required=False)
            check_text("link channel", self.link, required=False, most=60)
            check_text("sign of a device", self.sign, required=False)
            check_text("reason", self.open_end, required=False)
        if (
            self.hours is not None
            and not 0 < check_finite("hours of a pack", self.hours) <= MOST_HOURS
        ):
            raise EditError(
                f"{self.hours:g} h is not a time of a battery pack. Use more than 0 to "
                f"{MOST_HOURS}."
            )
        if self.output is not None:
            check_whole("output of a splitter", self.output, 1, MOST_OUTPUTS)
        if self.outputs is not None:
            check_whole("number of outputs", self.outputs, 1, MOST_OUTPUTS)
        if (
            self.length is not None
            and not 0 <= check_finite("length in metres", self.length) <= LONGEST_RUN
        ):
            raise EditError(
                f"{self.length:g} m is not a length of a cable. Use 0 to {LONGEST_RUN} m."
            )

    @property
    def terminates(self) -> bool:
        """Whether it puts 120 ohm across the pair."""
        return self.device in (Device.TERMINATOR, Device.TESTER)


@dataclass(frozen=True, slots=True)
class Source:
    """Where a line starts: a port of a box."""

    box: int
    port: int

    def __post_init__(self) -> None:
        check_whole("box", self.box, 1, HIGHEST_NUMBER)
        check_whole("port", self.port, 1, 100_000)


@dataclass(frozen=True, slots=True)
class Line:
    """A line. ``universe`` is what it carries. ``open_end`` is a reason from before each end had
    its own: it counts for the only open end, where there is no more than one."""

    id: int
    name: str
    universe: int | None = None
    source: Source | None = field(default=None, metadata={"alias": "from"})
    open_end: str = ""
    stops: tuple[Stop, ...] = ()

    def __post_init__(self) -> None:
        check_whole("line", self.id, 1, HIGHEST_NUMBER)
        check_text("name of a line", self.name)
        check_text("reason", self.open_end, required=False)
        if self.universe is not None:
            check_universe(self.universe)
        if len(self.stops) > MOST_STOPS:
            raise EditError(f"{self.name} has {len(self.stops)} stops. Use up to {MOST_STOPS}.")
        known: set[int] = set()
        for stop in self.stops:
            if stop.id in known:
                raise EditError(
                    f"{self.name} has two devices with the id {stop.id}: each has its own."
                )
            if stop.after is not None and stop.after not in known:
                raise EditError(
                    f"Stop {stop.id} of {self.name} follows {stop.after}, which does not come "
                    "before it."
                )
            known.add(stop.id)
