"""What changed in a box, a line, a desk or what is said of the whole show, field by field, for the
log."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from enum import Enum

from fence.core.model.box import Box, Port, Typed, Use
from fence.core.model.day import Day, as_clock
from fence.core.model.desk import Desk
from fence.core.model.ground import Ground
from fence.core.model.line import Line, Source, Stop
from fence.core.model.needs import Need, Scope
from fence.core.model.net import Net
from fence.core.model.show import Show
from fence.core.model.stock import Item
from fence.core.model.text import counted
from fence.core.model.wiring import name_of

MOST = 4
"""Changes of one thing that are told; of more it is said how many there are."""
BOX_FIELDS = {
    "name": "name",
    "kind": "kind",
    "model": "model",
    "ip": "address",
    "prefix": "network prefix",
    "gives": "address given by",
    "protocol": "protocol",
    "way": "way",
    "counts_from": "counts from",
    "numbering": "numbering",
    "priority": "priority",
    "merging": "with two senders",
    "sends": "universes that it may send",
    "only": "universes that it sends",
    "speed": "Mbit/s",
}
STOP_FIELDS = {
    "length": "m",
    "cable": "cable",
    "plugs": "plugs",
    "output": "output",
    "outputs": "outputs",
    "link": "link channel",
    "power": "power",
    "hours": "hours of its pack",
    "sign": "told apart by",
    "label": "name",
    "open_end": "left open, since",
}
YES_OR_NO = {"both": "speaks both protocols", "over_air": "over a wireless link"}
LIKE = {"boosted": "drives its outputs", "rdm": "passes RDM"}


def from_to(before: object, after: object) -> str:
    """A value before and after, such as ``10.0.0.4 → 10.0.0.5``."""
    return f"{_shown(before)} → {_shown(after)}"


def _shown(value: object) -> str:
    if value is None or value == "" or value == ():
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, tuple):
        return ", ".join(_shown(one) for one in value)
    return str(value.value if isinstance(value, Enum) else value)


def together(name: str, changes: Iterator[str] | Sequence[str]) -> str:
    """What changed of one thing, behind its name."""
    found = list(changes)
    more = f" and {len(found) - MOST} more" if len(found) > MOST else ""
    return f"{name}: {', '.join(found[:MOST])}{more}" if found else f"{name} changed"


def of_box(before: Box, after: Box) -> str:
    """What changed of a box and its ports."""
    return together(before.name, _of_box(before, after))


def _of_box(before: Box, after: Box) -> Iterator[str]:
    for name, words in BOX_FIELDS.items():
        old, new = getattr(before, name), getattr(after, name)
        if old != new:
            yield f"{words} {from_to(old, new)}"
    for name, words in YES_OR_NO.items():
        if getattr(before, name) != getattr(after, name):
            yield words if getattr(after, name) else f"not {words} after all"
    if len(before.ports) != len(after.ports):
        yield f"{counted(len(before.ports), 'port')} → {len(after.ports)}"
    held = {port.number: port for port in before.ports}
    for port in after.ports:
        yield from _of_port(held.get(port.number), port)
    yield from _of_typed("typed", before.typed, after.typed)
    yield from _of_typed("read back", before.read, after.read)


def _of_port(before: Port | None, after: Port) -> Iterator[str]:
    if before is None or before == after:
        return
    name = f"port {after.number}"
    if before.universe != after.universe:
        yield f"{name} {_universe(before.universe)} → {_universe(after.universe)}"
    if before.use is not after.use:
        words = {Use.OFF: "off", Use.OUT: "gives out", Use.IN: "takes in"}
        yield f"{name} {words[after.use]}"
    if before.says != after.says:
        yield f"{name} says {from_to(before.says, after.says)}"


def _universe(number: int | None) -> str:
    return f"U{number}" if number is not None else "spare"


def _of_typed(words: str, before: Typed | None, after: Typed | None) -> Iterator[str]:
    if before != after:
        yield words if after is not None else f"not {words} after all"


def of_line(before: Show, after: Show, old: Line, new: Line) -> str:
    """What changed of a line and its stops."""
    return together(old.name, _of_line(before, after, old, new))


def _of_line(before: Show, after: Show, old: Line, new: Line) -> Iterator[str]:
    if old.name != new.name:
        yield f"renamed {new.name}"
    if old.universe != new.universe:
        yield f"carries {_universe(old.universe)} → {_universe(new.universe)}"
    if old.source != new.source:
        yield f"starts at {_start(before, old.source)} → {_start(after, new.source)}"
    if old.open_end != new.open_end:
        yield f"left open, since {from_to(old.open_end, new.open_end)}"
    held, kept = {stop.id: stop for stop in old.stops}, {stop.id for stop in new.stops}
    hung = [name_of(after, stop) for stop in new.stops if stop.id not in held]
    gone = [name_of(before, stop) for stop in old.stops if stop.id not in kept]
    if hung:
        yield f"{_few(hung)} put in"
    if gone:
        yield f"{_few(gone)} taken off"
    for stop in new.stops:
        was = held.get(stop.id)
        if was is not None and was != stop:
            yield from _of_stop(before, after, was, stop)
    places = [stop.id for stop in old.stops if stop.id in kept]
    if places != [stop.id for stop in new.stops if stop.id in held]:
        yield "in another order"


def _few(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{names[0]} to {names[-1]}, {len(names)} in all"


def _start(show: Show, source: Source | None) -> str:
    box = show.box_by_id.get(source.box) if source else None
    return f"{box.name} port {source.port}" if box and source else "nowhere said"


def _of_stop(before: Show, after: Show, old: Stop, new: Stop) -> Iterator[str]:
    name = name_of(after, new)
    if old.fixture != new.fixture:
        yield f"{name} in the place of {name_of(before, old)}"
    if old.after != new.after:
        yield f"{name} hung elsewhere"
    for field, words in STOP_FIELDS.items():
        if getattr(old, field) != getattr(new, field) and not (
            field == "output" and old.after != new.after
        ):
            yield f"{name} {words} {from_to(getattr(old, field), getattr(new, field))}"
    for field, words in LIKE.items():
        if getattr(old, field) != getattr(new, field):
            yield f"{name} {words}" if getattr(new, field) else f"{name}: not {words}"


def of_desk(before: Desk, after: Desk) -> str:
    """What changed of the desk."""
    names = {
        "name": "name",
        "universes": "universes",
        "page": "page",
        "buttons": "fixture buttons",
        "highest": "highest slot",
        "layout": "layout",
    }
    changed = (
        (words, getattr(before, field), getattr(after, field)) for field, words in names.items()
    )
    return together(
        "Desk", (f"{words} {from_to(old, new)}" for words, old, new in changed if old != new)
    )


def of_needs(show: Show, before: Sequence[Need], then: Sequence[Need]) -> str:
    """What is needed now of whom, or no more."""
    held = {(need.scope, need.key): need for need in before}
    kept = {(need.scope, need.key) for need in then}
    for need in then:
        if held.get((need.scope, need.key)) != need:
            wanted = [*need.features, *([f"{need.school} modes"] if need.school else [])]
            return f"Needed of {_whom(show, need)}: {', '.join(wanted)}"
    gone = [need for key, need in held.items() if key not in kept]
    return f"Nothing special needed of {_whom(show, gone[0])}" if gone else "Needs in another order"


def _whom(show: Show, need: Need) -> str:
    if need.scope is Scope.SHOW:
        return "all"
    if need.scope is Scope.FIXTURE:
        fixture = show.fixture_by_id.get(int(need.key))
        return fixture.label if fixture else "a fixture that is gone"
    profile = show.profile_by_id.get(need.key) if need.scope is Scope.TYPE else None
    return f"{need.scope} {profile.title if profile else need.key}"


def of_ground(before: Ground, after: Ground) -> str:
    """Which distances changed."""
    return together("Distances", _of_ground(before, after))


def _of_ground(before: Ground, after: Ground) -> Iterator[str]:
    held = {way.ends: way.metres for way in before.distances}
    for way in after.distances:
        if held.get(way.ends) != way.metres:
            ends = f"{way.one or 'the desk'} to {way.other or 'the desk'}"
            yield f"{ends} {from_to(held.get(way.ends), float(way.metres))} m"
    left = {way.ends for way in after.distances}
    for way in before.distances:
        if way.ends not in left:
            yield f"{way.one or 'the desk'} to {way.other or 'the desk'} not known"
    if before.slack != after.slack:
        yield f"slack {from_to(before.slack, after.slack)} %"
    if before.sockets != after.sockets:
        yield f"sockets {from_to(before.sockets, after.sockets)}"


def of_stock(before: Sequence[Item], after: Sequence[Item]) -> str:
    """Which pieces are more or fewer."""
    return together("Stock", _of_stock(before, after))


def _of_stock(before: Sequence[Item], after: Sequence[Item]) -> Iterator[str]:
    held, left = ({_piece(item): item for item in items} for items in (before, after))
    for name, item in left.items():
        was = held.get(name)
        if was is None or was.count != item.count:
            yield f"{name} {from_to(was.count if was else 0, item.count)}"
        elif was.price != item.price:
            yield f"{name} price {from_to(was.price, item.price)}"
    for name in held.keys() - left.keys():
        yield f"no {name}"


def _piece(item: Item) -> str:
    if item.length is None:
        return str(item.kind)
    plugs = "" if item.plugs[0] is item.plugs[1] else f" {item.plugs[0]} to {item.plugs[1]}"
    return f"{item.length:g} m {item.cable} {item.plugs[0]}{plugs}"


def of_day(before: Day | None, after: Day | None) -> str:
    """What changed of the times of the day."""
    if after is None:
        return "Day plan taken away"
    times = {"set_up": "set-up", "doors": "doors", "end": "end", "next_set_up": "next set-up"}
    if before is None:
        return together(
            "Day", (f"{words} {as_clock(getattr(after, name))}" for name, words in times.items())
        )
    changed = [
        f"{words} {as_clock(getattr(before, name))} → {as_clock(getattr(after, name))}"
        for name, words in times.items()
        if getattr(before, name) != getattr(after, name)
    ]
    if before.reserve != after.reserve:
        changed.append(f"reserve {from_to(before.reserve, after.reserve)} %")
    if before.chargers != after.chargers:
        changed.append(f"chargers {from_to(before.chargers, after.chargers)}")
    if before.measured != after.measured:
        changed.append("measured running times")
    if before.further != after.further:
        changed.append(f"days {from_to(len(before.days), len(after.days))}")
        if len(before.days) == len(after.days):
            changed[-1] = "times of the further days"
    return together("Day", changed)


def of_net(before: Net, after: Net) -> str:
    """What changed of the network that the boxes share."""
    changed = []
    if before.shared != after.shared:
        changed.append("others use it too" if after.shared else "nobody else uses it")
    added = [held for held in after.reserved if held not in before.reserved]
    gone = [held for held in before.reserved if held not in after.reserved]
    changed += [f"{held.first} to {held.last} kept" for held in added]
    changed += [f"{held.first} to {held.last} free again" for held in gone]
    return together("Network", changed)
