"""Wireless links: who sends on which channel, who listens, and the steps to link them."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.line import Cable, Device, Line, Power, Stop
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.core.model.wiring import name_of, wiring_of


@dataclass(frozen=True, slots=True)
class Ear:
    """A receiver: a stop that is linked by wireless. ``hears`` is its channel, empty where nobody
    has noted one."""

    stop: Stop
    name: str
    hears: str
    start: str
    mode: str
    others: bool

    @property
    def is_box(self) -> bool:
        """Whether it is a small box of its own, which could send as well."""
        return self.stop.device is not None


@dataclass(frozen=True, slots=True)
class Link:
    """A transmitter with all that listen to it. ``serves`` how many receivers its maker states,
    None where not known."""

    line: Line
    transmitter: Stop
    name: str
    channel: str
    serves: int | None
    ears: tuple[Ear, ...]

    @property
    def steps(self) -> tuple[str, ...]:
        """What to do, in order."""
        channel = f"channel {self.channel}" if self.channel else "a free channel, and note which"
        universe = f"U{self.line.universe}" if self.line.universe else "its universe"
        found = [
            f"{self.name}: on its sending side, {universe} at its input, "
            f"{channel}{_power(self.transmitter)}."
        ]
        found.append(
            "Unlink every receiver from its old transmitter first: one that keeps it stays dark."
        )
        for ear in self.ears:
            side = "receiving side, " if ear.is_box else ""
            words = f"{ear.name}: {side}link to {channel_of(self)}{_power(ear.stop)}"
            words += f", {ear.stop.sign} when it is linked" if ear.stop.sign else ""
            words += f"; mode {ear.mode}, start {ear.start}, as the card says" if ear.start else ""
            found.append(f"{words}.")
        found.append(
            f"Count: {counted(len(self.ears), 'receiver shows', 'receivers show')} a link, and no "
            "others do."
        )
        return tuple(found)


def channel_of(link: Link) -> str:
    """What a receiver is linked to, in words."""
    return f"channel {link.channel}" if link.channel else link.name


def _power(stop: Stop) -> str:
    if stop.power is None:
        return ""
    hours = f", {stop.hours:g} h" if stop.power is Power.PACK and stop.hours is not None else ""
    return f", power from {'the mains' if stop.power is Power.MAINS else f'a {stop.power}'}{hours}"


def links_of(show: Show) -> list[Link]:
    """Every transmitter of the lines with those that are linked to it, in the order of the
    lines."""
    found = []
    for line in show.lines:
        wiring = wiring_of(line)
        for stop in line.stops:
            aired = [
                child for child in wiring.children.get(stop.id, ()) if child.cable is Cable.WIRELESS
            ]
            if stop.device is Device.TRANSMITTER or aired:
                ears = tuple(_ear(show, stop, child) for child in aired)
                found.append(Link(line, stop, name_of(show, stop), stop.link, stop.outputs, ears))
    return found


def _ear(show: Show, transmitter: Stop, stop: Stop) -> Ear:
    fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
    start = (
        " + ".join(str(patch) for patch in fixture.patch if patch.slot is not None)
        if fixture
        else ""
    )
    hears = stop.link or transmitter.link
    return Ear(
        stop,
        name_of(show, stop),
        hears,
        start,
        fixture.mode if fixture else "",
        hears != transmitter.link,
    )


def link_to(show: Show, fixture_id: int) -> tuple[Link, Ear] | None:
    """The link by which a fixture gets its signal, where it listens itself; None for one on a
    cable."""
    for link in links_of(show):
        for ear in link.ears:
            if ear.stop.fixture == fixture_id:
                return link, ear
    return None
