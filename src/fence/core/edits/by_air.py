"""A cabled line made wireless as a whole, and back."""

from __future__ import annotations

from dataclasses import replace

from fence.core.edits.cabling import chain, ended, linked, put_line, receives_only
from fence.core.model.errors import EditError
from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.show import Show


def make_wireless(show: Show, line_id: int) -> Show:
    """A transmitter at the start of a line, and every fixture that can receive linked to it.

    The others stay chained by cable behind the transmitter, as they run. What was only there for
    the cable (splitters, adapters, terminators) goes. Raises ``EditError`` where none of them
    receives, or all do so already.
    """
    line = show.line(line_id)
    hung = _fixtures_of(line)
    receiving = [stop for stop in hung if _can_receive(show, stop)]
    if not receiving:
        raise EditError(f"None of the fixtures on {line.name} receives by wireless.")
    if all(stop.cable is Cable.WIRELESS for stop in receiving):
        raise EditError(f"All on {line.name} that can receive are wireless already.")
    sender = next(
        (stop for stop in line.stops if stop.device is Device.TRANSMITTER),
        Stop(max(stop.id for stop in line.stops) + 1, None, device=Device.TRANSMITTER),
    )
    sender = replace(sender, after=None, output=None)
    if sender.cable is Cable.WIRELESS:
        sender = replace(sender, cable=Cable.DMX, plugs=None, length=None)
    stops, last = [sender], sender.id
    for stop in hung:
        if stop in receiving:
            stops.append(linked(replace(stop, after=sender.id)))
        else:
            stops.append(replace(stop, after=last, output=None))
            last = stop.id
    return ended(put_line(show, replace(line, stops=tuple(stops))), line_id)


def make_cabled(show: Show, line_id: int) -> Show:
    """The fixtures of a line chained by cable one behind the other, as they run.

    Those that receive by wireless alone stay with a transmitter at the end. Raises ``EditError``
    where nothing on the line is wireless but those.
    """
    line = show.line(line_id)
    hung = _fixtures_of(line)
    staying = [stop for stop in hung if stop.fixture and receives_only(show, stop.fixture)]
    if not any(stop.cable is Cable.WIRELESS for stop in hung if stop not in staying):
        raise EditError(f"Nothing on {line.name} that takes a cable is wireless.")
    stops: list[Stop] = []
    for stop in hung:
        if stop in staying:
            continue
        fresh = replace(stop, after=stops[-1].id if stops else None, output=None, link="")
        if stop.cable is Cable.WIRELESS:
            fresh = replace(fresh, cable=Cable.DMX, plugs=None, length=None)
        stops.append(fresh)
    show = ended(put_line(show, replace(line, stops=tuple(stops))), line_id)
    return chain(show, line_id, [stop.fixture for stop in staying if stop.fixture is not None])


def _fixtures_of(line: Line) -> list[Stop]:
    return [stop for stop in line.stops if stop.fixture is not None]


def _can_receive(show: Show, stop: Stop) -> bool:
    fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
    profile = show.profile_of(fixture) if fixture else None
    return profile is not None and profile.wireless
