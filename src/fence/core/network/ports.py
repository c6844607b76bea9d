"""Planning which port gives out which universe: fewest changes, then fewest boxes; ranges stay
together.

The order in which plans are judged: universes without a port; lines that start at a port with
another universe; ports that change; boxes in use; universes that come out of another box than the
one where their lines start.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from fence.core.edits import boxes as edits
from fence.core.model.box import Box, Numbering, Use
from fence.core.model.show import Show
from fence.core.model.text import counted, joined

PATIENCE = 30_000
"""How many steps the search for something better than the first good plan takes."""

Key = tuple[int, int]
"""A port: the id of its box and its own number."""
Plan = dict[Key, int | None]
Cost = tuple[int, int, int, int, int]


@dataclass(frozen=True, slots=True)
class Wish:
    """How it is planned: ``duplicates`` fills spare ports, ``start_lines`` says at the lines where
    they begin."""

    duplicates: bool = False
    start_lines: bool = True


@dataclass(frozen=True, slots=True)
class PortMove:
    """A port that gets another universe, and why."""

    box: str
    port: int
    before: int | None
    after: int | None
    why: str


@dataclass(frozen=True, slots=True)
class PortPlan:
    """A show with its ports planned. ``left`` are universes without a port; ``proven`` that no plan
    is better."""

    show: Show
    moved: tuple[PortMove, ...]
    started: tuple[str, ...]
    left: tuple[int, ...]
    cost: Cost
    proven: bool

    @property
    def remarks(self) -> tuple[str, ...]:
        """The plan in sentences, its worth first."""
        size = (
            f"{counted(self.cost[2], 'port changes', 'ports change')}, "
            f"{counted(self.cost[3], 'node', 'nodes')} in use."
        )
        sure = "Proven: no plan changes or uses less."
        told = [f"{size} {sure if self.proven else 'The best found; not proven.'}"]
        if self.left:
            names = joined([f"U{universe}" for universe in self.left])
            told.append(
                f"No port is left for {names}: {counted(len(self.left), 'port')} more would do."
            )
        if self.cost[1]:
            told.append(
                f"{counted(self.cost[1], 'line starts', 'lines start')} at a port that gives "
                "something else."
            )
        if self.started:
            told.append(f"Said where they start: {joined(self.started)}.")
        return tuple(told)


class Layout:
    """The ports of a show, what is wanted of them, and what a plan is worth."""

    def __init__(self, show: Show) -> None:
        self.show = show
        self.boxes = [box for box in show.boxes if box.outputs]
        self.needed = tuple(show.carried)
        self.now: Plan = {
            (box.id, port.number): port.universe for box in self.boxes for port in box.outputs
        }
        self.wanted = [
            ((line.source.box, line.source.port), line.universe)
            for line in show.lines
            if line.source
            and line.universe is not None
            and (line.source.box, line.source.port) in self.now
        ]
        self.home: dict[int, set[int]] = {}
        for (box_id, _), universe in self.wanted:
            self.home.setdefault(universe, set()).add(box_id)

    def cost(self, plan: Plan) -> Cost:
        """What a plan is worth; less is better."""
        given = set(plan.values())
        used = {box_id for (box_id, _), universe in plan.items() if universe is not None}
        near: dict[int, set[int]] = {}
        for (box_id, _), universe in plan.items():
            if universe is not None:
                near.setdefault(universe, set()).add(box_id)
        return (
            sum(universe not in given for universe in self.needed),
            sum(plan[key] != universe for key, universe in self.wanted),
            sum(plan[key] != held for key, held in self.now.items()),
            len(used),
            sum(
                bool(near.get(universe)) and not near[universe] & homes
                for universe, homes in self.home.items()
            ),
        )

    def allowed(self, box: Box, plan: Plan) -> bool:
        """Whether the ports of a box that numbers them as a range really count on."""
        if box.numbering is Numbering.EACH:
            return True
        firsts = {
            universe - place
            for place, port in enumerate(box.ports)
            if (universe := plan.get((box.id, port.number))) is not None
        }
        return len(firsts | _held_by_inputs(box)) <= 1


def _held_by_inputs(box: Box) -> set[int]:
    """The universes from which a box that numbers its ports as a range counts on, by those ports
    that take one in: they are not planned here, and count all the same."""
    return {
        port.universe - place
        for place, port in enumerate(box.ports)
        if port.use is Use.IN and port.universe is not None
    }


def _firsts(box: Box, universes: Iterable[tuple[int, int]]) -> list[int]:
    """Where the range of a box could begin, so that it gives some of these universes at these
    places in it."""
    held = _held_by_inputs(box)
    found = {universe - place for universe, place in universes}
    return sorted(found & held if held else found) if len(held) < 2 else []


def plan_ports(show: Show, wish: Wish | None = None) -> PortPlan:
    """Give every universe with fixtures a port; see the module for what is best."""
    wish = wish or Wish()
    layout = Layout(show)
    plan = _first(layout)
    best, cost, proven = _better(layout, plan)
    moved = [
        PortMove(
            show.box(box_id).name,
            number,
            layout.now[box_id, number],
            after,
            _why(layout, (box_id, number), after),
        )
        for (box_id, number), after in best.items()
        if after != layout.now[box_id, number]
    ]
    after = show
    for box in layout.boxes:
        changed = {
            n: u
            for (box_id, n), u in best.items()
            if box_id == box.id and u != layout.now[box_id, n]
        }
        after = edits.give(after, box.id, changed) if changed else after
    started: tuple[str, ...] = ()
    if wish.duplicates:
        after, more = _duplicates(after)
        moved += more
    if wish.start_lines:
        after, started = _start_lines(after)
    given = {port.universe for box in after.boxes for port in box.outputs}
    left = tuple(universe for universe in layout.needed if universe not in given)
    return PortPlan(after, tuple(moved), started, left, cost, proven)


def _why(layout: Layout, key: Key, after: int | None) -> str:
    ranged = next(box for box in layout.boxes if box.id == key[0]).numbering is Numbering.RANGE
    if after is None:
        return "the range moves on" if ranged else "it comes out at another port"
    if (key, after) in layout.wanted:
        return "its line starts here"
    if key[0] in layout.home.get(after, ()):
        return "its line starts at this node"
    if after not in layout.now.values():
        return "had no port"
    return "counts on in the range" if ranged else "its port is needed for another"


def _first(layout: Layout) -> Plan:
    """A good plan, found in one go: lines first, then ranges that fit, then spare ports, then ports
    nobody needs."""
    plan = dict(layout.now)
    box_of = {box.id: box for box in layout.boxes}

    def missing() -> list[int]:
        given = set(plan.values())
        return [universe for universe in layout.needed if universe not in given]

    for key, universe in layout.wanted:
        held = plan[key]
        free = held not in layout.needed or sum(u == held for u in plan.values()) > 1
        if held != universe and free and universe in layout.needed:
            _try(layout, box_of[key[0]], plan, key, universe)
    in_use = _used(plan)
    for universe in missing():
        homes = [
            box_of[box_id] for box_id in sorted(layout.home.get(universe, ())) if box_id in in_use
        ]
        _put_somewhere(layout, homes, plan, universe)
    used = [box for box in layout.boxes if box.id in in_use]
    for universe in missing():
        ranges = sorted(used, key=lambda box: box.numbering is Numbering.EACH)
        _put_somewhere(layout, ranges, plan, universe)
    fresh = [box for box in layout.boxes if box.id not in in_use]
    while (lost := missing()) and fresh:
        box = max(fresh, key=lambda box: (len(_fill(box, lost)), -len(box.outputs)))
        plan.update(_fill(box, lost))
        fresh.remove(box)
    for universe in missing():
        for key, held in plan.items():
            spare = held is not None and (
                held not in layout.needed or sum(u == held for u in plan.values()) > 1
            )
            if spare and _try(layout, box_of[key[0]], plan, key, universe):
                break
    return plan


def _used(plan: Plan) -> set[int]:
    return {box_id for (box_id, _), universe in plan.items() if universe is not None}


def _try(layout: Layout, box: Box, plan: Plan, key: Key, universe: int) -> bool:
    """Put a universe on a port, unless the range of its box does not allow it."""
    held = plan[key]
    plan[key] = universe
    if layout.allowed(box, plan):
        return True
    plan[key] = held
    return False


def _put_somewhere(layout: Layout, boxes: Iterable[Box], plan: Plan, universe: int) -> None:
    for box in boxes:
        for port in box.outputs:
            if plan[box.id, port.number] is None and _try(
                layout, box, plan, (box.id, port.number), universe
            ):
                return


def _fill(box: Box, lost: list[int]) -> Plan:
    """What an unused box gives of the universes that have no port: the first ones, or the best
    range."""
    keys = [(box.id, port.number) for port in box.outputs]
    if box.numbering is Numbering.EACH:
        return dict(zip(keys, lost, strict=False))
    places = {port.number: place for place, port in enumerate(box.ports)}
    wanted = set(lost)
    firsts = _firsts(box, ((universe, places[number]) for universe in lost for _, number in keys))
    windows: list[Plan] = [
        {key: first + places[key[1]] for key in keys if first + places[key[1]] in wanted}
        for first in firsts
    ]
    return max(windows, key=len, default={})


def _better(layout: Layout, plan: Plan) -> tuple[Plan, Cost, bool]:
    """Look for a better plan, within limits; says whether all were looked at."""
    best, cost = plan, layout.cost(plan)
    if cost == _floor(layout):
        return best, cost, True
    search = _Search(layout, best, cost)
    done = search.run()
    return search.best, search.cost, done


def _floor(layout: Layout) -> Cost:
    """What no plan can be below: as many changes as universes or lines need, as many boxes as hold
    the universes."""
    given = set(layout.now.values())
    lost = [universe for universe in layout.needed if universe not in given]
    wrong = {(key, universe) for key, universe in layout.wanted if layout.now[key] != universe}
    short = max(0, len(layout.needed) - len(layout.now))
    asked = {universe for _, universe in wrong}
    changes = len({key for key, _ in wrong}) + sum(universe not in asked for universe in lost)
    used = _used(layout.now)
    room = sum(len(box.outputs) for box in layout.boxes if box.id in used)
    more, extra = len(layout.needed) - short - room, 0
    for size in sorted(
        (len(box.outputs) for box in layout.boxes if box.id not in used), reverse=True
    ):
        if more > 0:
            more, extra = more - size, extra + 1
    boxes = max(len(used | {key[0] for key, _ in wrong}), len(used) + extra)
    return short, 0, max(changes - short, 0), boxes, 0


class _Search:
    """Every plan, box by box, cut where what is decided is already as dear as the best that is
    known."""

    def __init__(self, layout: Layout, best: Plan, cost: Cost) -> None:
        self.layout, self.best, self.cost = layout, best, cost
        self.steps = 0
        self.order = layout.boxes
        self.room = [0] * (len(self.order) + 1)
        for place in range(len(self.order) - 1, -1, -1):
            self.room[place] = self.room[place + 1] + len(self.order[place].outputs)

    def run(self) -> bool:
        """Look at all plans; False where patience ended before."""
        if len(self.order) > 40:
            return False
        self._box(0, {})
        return self.steps <= PATIENCE

    def _box(self, place: int, plan: Plan) -> None:
        if self.steps > PATIENCE:
            return
        self.steps += 1
        if place == len(self.order):
            cost = self.layout.cost(plan)
            if cost < self.cost:
                self.best, self.cost = plan, cost
            return
        if self._bound(place, plan) > self.cost:
            return
        for chosen in self._ways(self.order[place], plan):
            self._box(place + 1, {**plan, **chosen})
            if self.steps > PATIENCE:
                return

    def _bound(self, place: int, plan: Plan) -> Cost:
        """What every plan that goes on from here costs at least."""
        layout = self.layout
        given = set(plan.values())
        later = {layout.now[b.id, p.number] for b in self.order[place:] for p in b.outputs}
        lost = [u for u in layout.needed if u not in given]
        unmet = sum(plan[key] != universe for key, universe in layout.wanted if key in plan)
        changes = sum(plan[key] != layout.now[key] for key in plan)
        uncovered = max(0, len(lost) - self.room[place])
        changes += max(0, sum(u not in later for u in lost) - uncovered)
        return uncovered, unmet, changes, len(_used(plan)), 0

    def _ways(self, box: Box, plan: Plan) -> Iterator[Plan]:
        """What a box could give out: for each port what it has, what it lacks, nothing; a range as
        a whole."""
        layout = self.layout
        keys = [(box.id, port.number) for port in box.outputs]
        useful = [u for u in layout.needed if u not in plan.values()]
        asked = {key: [u for k, u in layout.wanted if k == key] for key in keys}
        if box.numbering is Numbering.EACH:
            yield from self._each(keys, useful, asked, {})
            return
        places = {port.number: place for place, port in enumerate(box.ports)}
        held = [layout.now[key] for key in keys]
        firsts = _firsts(
            box,
            (
                (universe, places[key[1]])
                for key in keys
                for universe in (*useful, *asked[key], layout.now[key])
                if universe is not None
            ),
        )
        if all(universe is None for universe in held) or not firsts:
            yield dict.fromkeys(keys)
        for first in firsts:
            choices: dict[Key, list[int]] = {}
            for key in keys:
                value = first + places[key[1]]
                if value in useful or value in asked[key] or value == layout.now[key]:
                    choices[key] = [value]
            yield from self._each(keys, [], choices, {}, ranged=True)

    def _each(
        self,
        keys: list[Key],
        useful: list[int],
        asked: dict[Key, list[int]],
        done: Plan,
        *,
        ranged: bool = False,
    ) -> Iterator[Plan]:
        if len(done) == len(keys):
            yield dict(done)
            return
        key = keys[len(done)]
        now = self.layout.now[key]
        choices: list[int | None] = [
            *asked.get(key, ()),
            *(u for u in useful if u not in done.values()),
        ]
        choices = [*choices, None] if ranged else [now, *choices]
        for choice in dict.fromkeys(choices):
            self.steps += 1
            if self.steps > PATIENCE:
                return
            yield from self._each(keys, useful, asked, {**done, key: choice}, ranged=ranged)


def _duplicates(show: Show) -> tuple[Show, list[PortMove]]:
    """Spare ports of boxes in use give out again what feeds most fixtures a port, in place of a
    splitter."""
    moved: list[PortMove] = []
    ports: dict[int, int] = {}
    for box in show.boxes:
        for port in box.outputs:
            if port.universe is not None:
                ports[port.universe] = ports.get(port.universe, 0) + 1
    for box in show.boxes:
        if box.numbering is Numbering.RANGE or all(port.universe is None for port in box.outputs):
            continue
        here = {port.universe for port in box.outputs if port.universe in show.carried}
        for port in box.outputs:
            if port.universe is None and here:
                busiest = max(here, key=lambda u: (show.carried[u or 0] / ports[u or 0], -(u or 0)))
                assert busiest is not None
                ports[busiest] += 1
                show = edits.give(show, box.id, {port.number: busiest})
                moved.append(
                    PortMove(box.name, port.number, None, busiest, "again, in place of a splitter")
                )
    return show, moved


def _start_lines(show: Show) -> tuple[Show, tuple[str, ...]]:
    """Lines that start nowhere, or at a port with another universe, start where theirs comes
    out."""
    told: list[str] = []
    for line in show.lines:
        after = edits.start_where_given(show, line.id)
        source = after.line(line.id).source
        if after is not show and source is not None:
            told.append(f"{line.name} at {show.box(source.box).name} port {source.port}")
        show = after
    return show, tuple(told)
