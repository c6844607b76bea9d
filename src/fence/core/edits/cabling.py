"""Edits of lines: chains of fixtures, devices between them, cable runs, ends."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace

from fence.core.edits.boxes import start_where_given
from fence.core.edits.records import free_name
from fence.core.model.errors import EditError
from fence.core.model.line import MOST_OUTPUTS, Cable, Device, Line, Plug, Power, Stop
from fence.core.model.show import Show
from fence.core.model.text import check_text
from fence.core.model.wiring import Wiring, wireless_only, wiring_of


def add_line(show: Show, name: str = "", universe: int | None = None) -> Show:
    """Add an empty line. Without a name it is called after its number."""
    number = max((line.id for line in show.lines), default=0) + 1
    taken = {line.name for line in show.lines}
    fresh = Line(number, free_name(name.strip() or f"Line {number}", taken), universe)
    return show.with_lines((*show.lines, fresh))


def remove_line(show: Show, line_id: int) -> Show:
    """Take a line out; its fixtures stay in the rig."""
    gone = show.line(line_id)
    return show.with_lines(tuple(line for line in show.lines if line is not gone))


def rename_line(show: Show, line_id: int, name: str, universe: int | None) -> Show:
    """Give a line another name and say which universe it carries."""
    check_text("name of a line", name.strip())
    return _change(show, line_id, lambda line: replace(line, name=name.strip(), universe=universe))


def leave_open(show: Show, line_id: int, reason: str, stop_id: int | None = None) -> Show:
    """Note why an end of a line is left without a terminator: the end behind that stop, or the only
    one that is open. Empty takes the reason away. Raises ``EditError`` where it is not said which
    of several ends is meant."""
    wiring = wiring_of(show.line(line_id))
    ends = {end.id for end in wiring.open_ends}
    if stop_id is None and reason.strip():
        if len(ends) != 1:
            raise EditError(
                f"{wiring.line.name} has {len(ends)} open ends: say at the end itself why it is "
                "left so."
            )
        stop_id = next(iter(ends))
    if stop_id is not None and stop_id not in ends and reason.strip():
        raise EditError("There is no open end: nothing has to be said of it.")
    taken = {held.id for held in wiring.line.stops} if stop_id is None else {stop_id}
    stops = tuple(
        replace(s, open_end=reason.strip()) if s.id in taken else s for s in wiring.line.stops
    )
    return _put(show, replace(wiring.line, open_end="", stops=stops))


def chain(show: Show, line_id: int, fixtures: Sequence[int], *, after: int | None = None) -> Show:
    """Hang fixtures one behind the other on a line, behind a stop or, without one, behind its last
    stop.

    A terminator there stays the end: they come before it. Those that receive by wireless alone are
    linked to the transmitter before them; where there is none, one is planned. Raises
    ``EditError`` for one that hangs on a line already.
    """
    line = show.line(line_id)
    for fixture_id in fixtures:
        on = [held for held in show.lines for stop in held.stops if stop.fixture == fixture_id]
        if on and not _has_another_way_in(show, line, fixture_id, on):
            label = show.fixture(fixture_id).label
            raise EditError(f"{label} hangs on {on[0].name} already: take it off there first.")
    number = _next_stop(line)
    last = _stop(wiring_of(line), after).id if after is not None else _last_of(line)
    last = _hands_on(show, wiring_of(line), last)
    ended = [
        stop for stop in line.stops if last is not None and stop.id == last and stop.terminates
    ]
    if ended:
        last = ended[0].after
    follow = [stop.id for stop in line.stops if stop.after == last and stop.terminates]
    fresh = []
    output = _free_output(wiring_of(line), last)
    sender = _transmitter_before(wiring_of(line), last)
    for fixture_id in fixtures:
        if not receives_only(show, fixture_id):
            fresh.append(Stop(number, last, output, fixture=fixture_id))
            last, number, output = number, number + 1, None
            continue
        if sender is None:
            fresh.append(Stop(number, last, output, device=Device.TRANSMITTER))
            last, sender, number, output = number, number, number + 1, None
        fresh.append(linked(Stop(number, sender, fixture=fixture_id)))
        number += 1
    moved = tuple(replace(stop, after=last) if stop.id in follow else stop for stop in line.stops)
    kept = [stop for stop in moved if stop.id not in follow]
    return _put(
        show, replace(line, stops=(*kept, *fresh, *(stop for stop in moved if stop.id in follow)))
    )


def receives_only(show: Show, fixture_id: int) -> bool:
    """Whether a fixture receives by wireless and takes no cable."""
    profile = show.profile_of(show.fixture(fixture_id))
    return profile is not None and wireless_only(profile)


def linked(stop: Stop) -> Stop:
    """The stop as one that receives by wireless what the stop before it sends."""
    unplugged = (Plug.WIRELESS, Plug.WIRELESS)
    return replace(stop, cable=Cable.WIRELESS, plugs=unplugged, length=None, output=None)


def _transmitter_before(wiring: Wiring, stop_id: int | None) -> int | None:
    """The last transmitter on the way to a stop, if there is one."""
    path = wiring.path_to(stop_id) if stop_id is not None else []
    return next((stop.id for stop in path[::-1] if stop.device is Device.TRANSMITTER), None)


def _hands_on(show: Show, wiring: Wiring, stop_id: int | None) -> int | None:
    """The stop itself, or the one before it where it receives by wireless and hands nothing on."""
    while stop_id is not None:
        stop = wiring.by_id[stop_id]
        if stop.fixture is None or stop.cable is not Cable.WIRELESS:
            break
        if not receives_only(show, stop.fixture):
            break
        stop_id = stop.after
    return stop_id


def _has_another_way_in(show: Show, line: Line, fixture_id: int, on: Sequence[Line]) -> bool:
    """Whether a fixture in several parts, which hangs on lines already, hangs on this one for
    another universe."""
    universes = show.universes_of(show.fixture(fixture_id))
    return line.universe in universes and all(
        held.universe not in (None, line.universe) for held in on
    )


def _free_output(wiring: Wiring, stop_id: int | None) -> int | None:
    """The first output of a splitter that nothing hangs on; None behind any other stop."""
    if stop_id is None or wiring.by_id[stop_id].device is not Device.SPLITTER:
        return None
    used = {child.output for child in wiring.children.get(stop_id, ())}
    return next(number for number in range(1, len(used) + 2) if number not in used)


def line_of(show: Show, fixture_id: int) -> Line | None:
    """The line that a fixture hangs on, the first where there are several."""
    return next(
        (line for line in show.lines for stop in line.stops if stop.fixture == fixture_id), None
    )


def nobody_waits(show: Show) -> EditError:
    """Why there is nobody to be hung on a line."""
    if any(map(show.universes_of, show.fixtures)):
        return EditError("Every fixture with a universe hangs on a line already.")
    return EditError("No fixture has a universe yet: add fixtures, and give them addresses first.")


def lines_by_position(show: Show) -> Show:
    """A line for each universe of each position, with those fixtures that hang on none yet, as the
    rig list runs."""
    hung = {stop.fixture for line in show.lines for stop in line.stops}
    groups: dict[tuple[str, int], list[int]] = {}
    for fixture in show.fixtures:
        for universe in show.universes_of(fixture) if fixture.id not in hung else ():
            groups.setdefault((fixture.position, universe), []).append(fixture.id)
    if not groups:
        raise nobody_waits(show)
    return _new_lines(
        show, {f"{place or 'Line'} U{u}": (u, ids) for (place, u), ids in groups.items()}
    )


def lines_by_universe(show: Show) -> Show:
    """A line for each universe, with those fixtures that hang on none yet, as the rig list runs,
    terminated."""
    hung = {stop.fixture for line in show.lines for stop in line.stops}
    groups: dict[int, list[int]] = {}
    for fixture in show.fixtures:
        for universe in show.universes_of(fixture) if fixture.id not in hung else ():
            groups.setdefault(universe, []).append(fixture.id)
    if not groups:
        raise nobody_waits(show)
    return _new_lines(show, {f"Line U{u}": (u, ids) for u, ids in groups.items()})


def _new_lines(show: Show, wanted: Mapping[str, tuple[int, list[int]]]) -> Show:
    for name, (universe, ids) in wanted.items():
        show = add_line(show, name, universe)
        line_id = show.lines[-1].id
        show = ended(chain(show, line_id, ids), line_id)
    return show


def insert(
    show: Show,
    line_id: int,
    device: Device,
    *,
    after: int | None = None,
    before: int | None = None,
    label: str = "",
    outputs: int | None = None,
    boosted: bool = True,
    rdm: bool = True,
) -> Show:
    """Put a device into a line: into the cable run to ``before``, or behind ``after`` (the last
    stop without either)."""
    line = show.line(line_id)
    number = _next_stop(line)
    wiring = wiring_of(line)
    if before is not None:
        target = _stop(wiring, before)
        fresh = Stop(
            number,
            target.after,
            target.output,
            device=device,
            label=label,
            outputs=outputs,
            boosted=boosted,
            rdm=rdm,
            length=target.length,
            cable=target.cable,
        )
        # it sits on the plug itself
        direct = 0.0 if device is Device.ADAPTER and target.length is not None else None
        moved = replace(
            target, after=number, output=1 if device is Device.SPLITTER else None, length=direct
        )
        stops = [s for stop in line.stops for s in ((fresh, moved) if stop is target else (stop,))]
        return _put(show, replace(line, stops=tuple(stops)))
    last = after if after is not None else _last_of(line)
    if last is not None and _stop(wiring, last).terminates:
        raise EditError(
            "A terminator is the end of a line: nothing hangs behind it. Put the device before it."
        )
    output = _free_output(wiring, last)
    fresh = Stop(
        number, last, output, device=device, label=label, outputs=outputs, boosted=boosted, rdm=rdm
    )
    return _put(show, replace(line, stops=(*line.stops, fresh)))


def terminate(show: Show, line_id: int, stop_id: int | None = None) -> Show:
    """Put a terminator on an end of a line: that stop, or every end that has none."""
    line = show.line(line_id)
    open_ends = wiring_of(line).open_ends
    wanted = [stop for stop in open_ends if stop_id in (None, stop.id)]
    if not wanted:
        raise EditError("There is no open end: every end has its terminator.")
    return _terminated(show, line, wanted, all_of_them=len(wanted) == len(open_ends))


def _terminated(show: Show, line: Line, wanted: Sequence[Stop], *, all_of_them: bool) -> Show:
    number = _next_stop(line)
    fresh = [
        Stop(number + at, stop.id, device=Device.TERMINATOR, length=0)
        for at, stop in enumerate(wanted)
    ]
    ended = {stop.id for stop in wanted}
    stops = tuple(
        replace(stop, open_end="") if stop.open_end and stop.id in ended else stop
        for stop in line.stops
    )
    reason = "" if all_of_them else line.open_end
    return _put(show, replace(line, open_end=reason, stops=(*stops, *fresh)))


def ended(show: Show, line_id: int) -> Show:
    """The show with a terminator on every open end of a line, if there are any."""
    line = show.line(line_id)
    open_ends = wiring_of(line).open_ends
    return _terminated(show, line, open_ends, all_of_them=True) if open_ends else show


def take_off(show: Show, line_id: int, stop_ids: Collection[int]) -> Show:
    """Take stops out of a line. What hung behind them hangs on the stop before; their cable runs
    are joined."""
    line = show.line(line_id)
    for stop_id in stop_ids:
        line = _without(line, _stop(wiring_of(line), stop_id))
    return _put(show, line)


def _without(line: Line, gone: Stop) -> Line:
    """The line without a stop. A terminator behind the last fixture moves up; two cable runs become
    one of both lengths."""

    def moved(stop: Stop) -> Stop:
        if stop.after != gone.id:
            return stop
        known = stop.length is not None and gone.length is not None and not stop.terminates
        length = (stop.length or 0) + (gone.length or 0) if known else stop.length
        return replace(stop, after=gone.after, output=gone.output, length=length)

    return replace(line, stops=tuple(moved(stop) for stop in line.stops if stop is not gone))


def step_along(show: Show, line_id: int, stop_id: int, by: int) -> Show:
    """Move a stop one place along its chain, towards the end (1) or towards the source (-1). Its
    neighbour changes places with it; the cable runs stay where they are.

    Raises ``EditError`` at an end, at a branch and beside a terminator.
    """
    line = show.line(line_id)
    wiring = wiring_of(line)
    first = _stop(wiring, stop_id)
    if by < 0:
        if first.after is None:
            raise EditError("It is the first device: it hangs on the source.")
        first = wiring.by_id[first.after]
    following = wiring.children.get(first.id, [])
    if len(following) != 1 or following[0].terminates or first.device is Device.SPLITTER:
        raise EditError(
            "It cannot go on there: a branch, a splitter or the end of the line is in the way."
        )
    second = following[0]
    swapped = {
        first.id: replace(first, fixture=second.fixture, device=second.device, label=second.label),
        second.id: replace(second, fixture=first.fixture, device=first.device, label=first.label),
    }
    if Device.SPLITTER in (first.device, second.device):
        raise EditError(
            "It cannot go on there: a branch, a splitter or the end of the line is in the way."
        )
    return _put(show, replace(line, stops=tuple(swapped.get(stop.id, stop) for stop in line.stops)))


def move_branch(
    show: Show, line_id: int, stop_id: int, after: int | None, output: int | None = None
) -> Show:
    """Hang a stop, with all behind it, on another stop of the line (or on its source): on a
    splitter at that output, or at the first one on which nothing hangs."""
    line = show.line(line_id)
    wiring = wiring_of(line)
    moved = _stop(wiring, stop_id)
    branch = {stop_id, *(stop.id for stop in wiring.behind(stop_id))}
    if output is None and after is not None and after not in branch:
        output = (
            moved.output if after == moved.after and moved.output else _free_output(wiring, after)
        )
    if after in branch:
        raise EditError("A branch cannot hang on itself: choose a device outside of it.")
    if after is not None and _stop(wiring, after).terminates:
        raise EditError("A terminator is the end of a line: nothing hangs behind it.")
    stay = [stop for stop in line.stops if stop.id not in branch]
    go = [
        replace(stop, after=after, output=output) if stop is moved else stop
        for stop in line.stops
        if stop.id in branch
    ]
    return _put(show, replace(line, stops=(*stay, *go)))


def join(show: Show, line_id: int, other_id: int) -> Show:
    """Hang a line behind the last stop of another one; its name goes, and the terminator between
    them."""
    line, other = show.line(line_id), show.line(other_id)
    if line is other:
        raise EditError("Choose two different lines to join.")
    last = _last_of(line)
    if last is not None and wiring_of(line).by_id[last].terminates:
        ended = wiring_of(line).by_id[last]
        line, last = (
            replace(line, stops=tuple(stop for stop in line.stops if stop is not ended)),
            ended.after,
        )
    shift = _next_stop(line)
    output = _free_output(wiring_of(line), last)
    fresh = [
        replace(stop, id=stop.id + shift, after=stop.after + shift)
        if stop.after is not None
        else replace(stop, id=stop.id + shift, after=last, output=output)
        for stop in other.stops
    ]
    return _put(remove_line(show, other_id), replace(line, stops=(*line.stops, *fresh)))


def set_cable_runs(show: Show, line_id: int, lengths: Mapping[int, float | None]) -> Show:
    """Say how long the cable runs to stops are, in metres; None where nobody knows."""
    return _change_stops(
        show, line_id, lengths, lambda stop: replace(stop, length=lengths[stop.id])
    )


def set_cable(
    show: Show,
    line_id: int,
    stop_ids: Collection[int],
    cable: Cable,
    plugs: tuple[Plug, Plug] | None = None,
) -> Show:
    """Say what the cable runs to stops are made of, and their plugs."""
    return _change_stops(
        show, line_id, stop_ids, lambda stop: replace(stop, cable=cable, plugs=plugs)
    )


def _change_stops(
    show: Show, line_id: int, ids: Collection[int], change: Callable[[Stop], Stop]
) -> Show:
    line = show.line(line_id)
    wiring = wiring_of(line)
    for stop_id in ids:
        _stop(wiring, stop_id)
    return _put(
        show,
        replace(line, stops=tuple(change(stop) if stop.id in ids else stop for stop in line.stops)),
    )


def set_device(
    show: Show,
    line_id: int,
    stop_id: int,
    *,
    link: str = "",
    outputs: int | None = None,
    boosted: bool = True,
    rdm: bool = True,
    power: Power | None = None,
    hours: float | None = None,
    sign: str = "",
    label: str | None = None,
) -> Show:
    """Say what a stop is like: its link channel, how many outputs it has or receivers it serves,
    whether it drives and passes RDM, where it takes its power from and how long that lasts, how it
    is told apart."""

    def changed(stop: Stop) -> Stop:
        name = stop.label if label is None or stop.device is None else label.strip()
        lasts = hours if power is Power.PACK else None
        return replace(
            stop,
            link=link.strip(),
            outputs=outputs,
            boosted=boosted,
            rdm=rdm,
            power=power,
            hours=lasts,
            sign=sign.strip(),
            label=name,
        )

    return _change_stops(show, line_id, [stop_id], changed)


def pass_rdm(show: Show, line_id: int, stop_id: int) -> Show:
    """Plan a device that passes RDM in the place of one that does not."""
    return _change_stops(show, line_id, [stop_id], lambda stop: replace(stop, rdm=True))


def set_links(show: Show, line_id: int, stop_ids: Collection[int], link: str) -> Show:
    """Set the link channel of a transmitter and its receivers."""
    return _change_stops(show, line_id, stop_ids, lambda stop: replace(stop, link=link.strip()))


def move_stop(show: Show, line_id: int, stop_id: int, to_line: int, after: int | None) -> Show:
    """Take a stop out of its place and put it behind another one, of the same line or of another
    (None: at the source). What followed there follows it now; what it leaves behind hangs on the
    stop before. Its cable run's length is not known any more.

    Raises ``EditError`` behind a terminator, beside itself, and for a splitter with branches.
    """
    moved = _stop(wiring_of(show.line(line_id)), stop_id)
    if after == stop_id and line_id == to_line:
        raise EditError("A device cannot hang on itself: choose another one.")
    if (
        moved.device is Device.SPLITTER
        and len(wiring_of(show.line(line_id)).children.get(stop_id, ())) > 1
    ):
        raise EditError(
            "Branches hang on this splitter: move them first, or move the branch as a whole."
        )
    target = wiring_of(show.line(to_line))
    if after is not None and _stop(target, after).terminates:
        raise EditError("A terminator is the end of a line: nothing hangs behind it.")
    show = take_off(show, line_id, [stop_id])
    line = show.line(to_line)
    wiring = wiring_of(line)
    number = _next_stop(line) if to_line != line_id else stop_id
    device = wiring.by_id[after].device if after is not None else None
    output = _free_output(wiring, after)
    follow = (
        []
        if device is Device.SPLITTER
        else [s for s in wiring.children.get(after, ()) if s.cable is not Cable.WIRELESS]
    )
    fresh = replace(
        moved, id=number, after=after, output=output, length=0 if moved.terminates else None
    )
    if moved.cable is Cable.WIRELESS and device is not Device.TRANSMITTER:  # nobody sends there
        fresh = replace(fresh, cable=Cable.DMX, plugs=None, link="")
    if follow and fresh.terminates:
        raise EditError("A terminator is the end of a line: put it behind the last device.")
    stops: list[Stop] = [] if after is not None else [fresh]
    for stop in line.stops:
        stops.append(replace(stop, after=number, output=None) if stop in follow else stop)
        if stop.id == after:
            stops.append(fresh)
    return _put(show, replace(line, stops=tuple(stops)))


def second_transmitter(show: Show, line_id: int, stop_id: int) -> Show:
    """Put another transmitter behind one that serves too many; those beyond what it serves are
    linked to the new one."""
    line = show.line(line_id)
    wiring = wiring_of(line)
    transmitter = _stop(wiring, stop_id)
    aired = [
        child.id for child in wiring.children.get(stop_id, ()) if child.cable is Cable.WIRELESS
    ]
    if not transmitter.outputs or len(aired) <= transmitter.outputs:
        raise EditError("This transmitter does not serve too many.")
    number = _next_stop(line)
    fresh = replace(
        transmitter,
        id=number,
        after=stop_id,
        output=None,
        link="",
        label=f"{transmitter.label} b".strip(),
        length=1,
        cable=Cable.DMX if transmitter.cable is Cable.WIRELESS else transmitter.cable,
    )
    beyond = aired[transmitter.outputs :]
    stay = [stop for stop in line.stops if stop.id not in beyond]
    at = next(place for place, stop in enumerate(stay) if stop.id == stop_id) + 1
    moved = [replace(stop, after=number, link="") for stop in line.stops if stop.id in beyond]
    rest = {stop.id for stop in moved for stop in wiring.behind(stop.id)}
    behind = [stop for stop in stay[at:] if stop.id in rest]
    others = [stop for stop in stay[at:] if stop.id not in rest]
    return _put(show, replace(line, stops=(*stay[:at], fresh, *moved, *behind, *others)))


def drive_at(show: Show, line_id: int, stop_id: int | None) -> Show:
    """Drive the branches at a stop, or at the source (None): a passive Y becomes a boosted
    splitter; behind any other stop one is put in that takes all its branches, an output each."""
    line = show.line(line_id)
    wiring = wiring_of(line)
    stop = _stop(wiring, stop_id) if stop_id is not None else None
    wired = [
        child for child in wiring.children.get(stop_id, ()) if child.cable is not Cable.WIRELESS
    ]
    if stop is not None and stop.device is Device.SPLITTER:
        changed = replace(stop, boosted=True, outputs=max(len(wired), stop.outputs or 4))
        return _put(
            show,
            _spread(
                replace(line, stops=tuple(changed if s is stop else s for s in line.stops)), changed
            ),
        )
    number = _next_stop(line)
    driver = Stop(
        number,
        stop_id,
        device=Device.SPLITTER,
        label="splitter",
        outputs=max(len(wired), 4),
        length=1,
    )
    hung = {child.id: replace(child, after=number, output=at) for at, child in enumerate(wired, 1)}
    stops = [] if stop is not None else [driver]
    for held in line.stops:
        stops += [stop, driver] if stop is not None and held is stop else [hung.get(held.id, held)]
    return _put(show, replace(line, stops=tuple(stops)))


def spread_outputs(show: Show, line_id: int, stop_id: int) -> Show:
    """Give each cable that hangs on a splitter an output of its own; ``EditError`` where it has not
    so many."""
    line = show.line(line_id)
    wiring = wiring_of(line)
    splitter = _stop(wiring, stop_id)
    wired = [
        child for child in wiring.children.get(stop_id, ()) if child.cable is not Cable.WIRELESS
    ]
    if splitter.device is not Device.SPLITTER or len(wired) > (splitter.outputs or MOST_OUTPUTS):
        raise EditError(
            "It has no output for each cable: put a larger splitter there, or a second one."
        )
    return _put(show, _spread(line, splitter))


def _spread(line: Line, splitter: Stop) -> Line:
    """The line with an output of its own for each cable on a splitter. Who has one alone keeps
    it."""
    wired = [
        child
        for child in wiring_of(line).children.get(splitter.id, ())
        if child.cable is not Cable.WIRELESS
    ]
    most = splitter.outputs or MOST_OUTPUTS
    given: dict[int, int] = {}
    for child in wired:
        if child.output is not None and child.output <= most and child.output not in given.values():
            given[child.id] = child.output
    free = iter(
        number for number in range(1, most + len(wired) + 1) if number not in given.values()
    )
    for child in wired:
        if child.id not in given:
            given[child.id] = next(free)
    stops = tuple(replace(s, output=given[s.id]) if s.id in given else s for s in line.stops)
    return replace(line, stops=stops)


def half_way(show: Show, line_id: int, stop_id: int) -> Show:
    """Put a boosted splitter into the middle of the cable run to a stop, as a driver."""
    length = _stop(wiring_of(show.line(line_id)), stop_id).length or 0
    show = insert(show, line_id, Device.SPLITTER, before=stop_id, label="driver", outputs=1)
    driver = (
        show.line(line_id)
        .stops[[stop.id for stop in show.line(line_id).stops].index(stop_id) - 1]
        .id
    )
    return set_cable_runs(show, line_id, {driver: length / 2, stop_id: length / 2})


def put_line(show: Show, line: Line) -> Show:
    """Put a whole line in the place of the one of its name, or add it. Where it says no start the
    old one stays."""
    held = next((known for known in show.lines if known.name == line.name), None)
    if held is not None:
        return _put(show, replace(line, id=held.id, source=line.source or held.source))
    number = max((known.id for known in show.lines), default=0) + 1
    return show.with_lines((*show.lines, replace(line, id=number)))


def rehang(show: Show, fixtures: Collection[int]) -> Show:
    """The show with its lines following fixtures that were planned on another universe.

    A line of which all are planned together on another universe carries that one; the others are
    hung anew.
    """
    for line in show.lines:
        planned = {
            stop.fixture: _planned(show, stop)
            for stop in line.stops
            if stop.fixture is not None and _planned(show, stop)
        }
        if line.universe is None or not any(held in fixtures for held in planned):
            continue
        common = set.intersection(*planned.values())
        if line.universe not in common and common:
            show = rename_line(show, line.id, line.name, min(common))
            show = start_where_given(show, line.id) if line.source else show
    return hang_anew(show, fixtures)


def hang_anew(show: Show, fixtures: Collection[int]) -> Show:
    """The show with those fixtures that are planned on another universe than their line carries
    hung behind the last stop of the first line that carries their own, or taken off where there is
    none."""
    for line in show.lines:
        for stop in line.stops:
            universes = _planned(show, stop) if stop.fixture in fixtures else set()
            if (
                line.universe is None
                or not universes
                or line.universe in universes
                or stop.fixture is None
            ):
                continue
            show = take_off(show, line.id, [stop.id])
            held = {
                other.universe
                for other in show.lines
                for s in other.stops
                if s.fixture == stop.fixture
            }
            target = next(
                (other for other in show.lines if other.universe in universes - held), None
            )
            if target is not None:
                show = chain(show, target.id, [stop.fixture])
    return show


def _planned(show: Show, stop: Stop) -> set[int]:
    """The universes that the fixture of a stop is planned on."""
    fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
    return (
        {patch.universe for patch in fixture.patch if patch.universe is not None}
        if fixture
        else set()
    )


def without_gone(show: Show) -> Show:
    """The show with no stop for a fixture that it has no more; what hung behind hangs on the stop
    before."""
    known = show.fixture_by_id
    for line in show.lines:
        gone = [
            stop.id for stop in line.stops if stop.fixture is not None and stop.fixture not in known
        ]
        show = take_off(show, line.id, gone) if gone else show
    return show


def _stop(wiring: Wiring, stop_id: int) -> Stop:
    if stop_id not in wiring.by_id:
        raise EditError(f"That device is no longer on {wiring.line.name}.")
    return wiring.by_id[stop_id]


def _next_stop(line: Line) -> int:
    return max((stop.id for stop in line.stops), default=0) + 1


def _last_of(line: Line) -> int | None:
    """The end of the longest chain: the last stop, going on by the last branch."""
    wiring, last = wiring_of(line), None
    while following := wiring.children.get(last):
        last = following[-1].id
    return last


def _change(show: Show, line_id: int, change: Callable[[Line], Line]) -> Show:
    return _put(show, change(show.line(line_id)))


def _put(show: Show, line: Line) -> Show:
    lines = tuple(line if held.id == line.id else held for held in show.lines)
    return show if lines == show.lines else show.with_lines(lines)
