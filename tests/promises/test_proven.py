"""*Proven* can be taken at its word: each claim against all that could be tried, in rigs with
everything.

Where the claims stand in Fence, and what bounds them, is listed in docs/rules.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import permutations, product

from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.repair import RepairOptions, repair_rig
from fence.core.checks import Severity, check, news
from fence.core.edits import with_places
from fence.core.model.box import Box, Numbering, Port, Use
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile, Setter, SetterKind
from fence.core.model.show import Show, Universe
from fence.core.modes.combine import Goal, combine
from fence.core.network.ports import Wish, plan_ports
from tests.examples import examples

SIZE = 24
"""Slots that the desks of these rigs send, so that everything can be tried."""


def runs_fit(lengths: Sequence[int], gaps: Sequence[int]) -> bool:
    """Whether runs fit into gaps side by side, by trying every order into every gap."""
    if not lengths:
        return True
    first, rest = lengths[0], lengths[1:]
    seen = set()
    for place, room in enumerate(gaps):
        if room >= first and room not in seen:
            seen.add(room)
            if runs_fit(rest, [*gaps[:place], room - first, *gaps[place + 1 :]]):
                return True
    return False


def gaps_of(reserved: Sequence[int]) -> list[int]:
    """The lengths of the free stretches of a universe of so few slots."""
    found, run = [], 0
    for slot in range(1, SIZE + 1):
        run = 0 if slot in reserved else run + 1
        if slot == SIZE or slot + 1 in reserved:
            found.append(run)
    return [length for length in found if length]


@st.composite
def choices(draw: st.DrawFn) -> Show:
    """A few fixtures with modes of one and of several runs, universes of few slots, some of them
    reserved."""
    count = draw(st.integers(1, 2))
    profiles = tuple(
        Profile(
            f"t{number}",
            "Trowel",
            f"T{number}",
            tuple(
                Mode(
                    f"m{n}",
                    tuple(Part(draw(st.integers(1, 14))) for _ in range(draw(st.integers(1, 3)))),
                )
                for n in range(draw(st.integers(1, 3)))
            ),
        )
        for number in range(count)
    )
    fixtures = []
    for number in range(1, draw(st.integers(1, 3)) + 1):
        profile = draw(st.sampled_from(profiles))
        mode = draw(st.sampled_from(profile.modes))
        group = draw(st.sampled_from(["", "", "g"]))
        kin = next((held for held in fixtures if group and held.share == group), None)
        fixtures.append(
            replace(kin, id=number, label=f"F{number}", number=number)
            if kin
            else Fixture(
                number,
                f"F{number}",
                profile.id,
                mode.name,
                number,
                patch=(Patch(),) * len(mode.parts),
                share=group,
            )
        )
    universes = tuple(
        Universe(number, reserved=tuple(sorted(draw(st.sets(st.integers(1, SIZE), max_size=3)))))
        for number in (1, 2, 3)
    )
    return with_places(
        Show("S", tuple(fixtures), profiles, universes, desk=Desk("D", highest=SIZE), next_id=9)
    )


def fewest_by_trying(show: Show) -> int | None:
    """The fewest universes, 1 to 3, in which any choice of modes fits."""
    movers = {held.share or held.id: held for held in show.fixtures}
    for count in (1, 2, 3):
        gaps = [gap for universe in show.universes[:count] for gap in gaps_of(universe.reserved)]
        for modes in product(
            *((show.profile_of(held) or show.profiles[0]).modes for held in movers.values())
        ):
            if runs_fit(
                sorted((p.footprint for mode in modes for p in mode.parts), reverse=True), gaps
            ):
                return count
    return None


@examples(80)
@given(choices())
def test_a_proven_combination_is_the_best_of_all(show: Show) -> None:
    """Modes of several runs, reserved slots, groups: the fewest are so, and what is said not to fit
    does not."""
    wanted = fewest_by_trying(show)
    found = combine(show, Goal.FEWEST)
    if found.proven and wanted is not None:
        assert found.universes == wanted
    if wanted is not None:
        assert found.universes >= wanted
    for count in (1, 2, 3):
        within = combine(show, Goal.WITHIN, within=count)
        possible = wanted is not None and wanted <= count
        assert not within.fits or possible
        if within.proven:
            assert within.fits == possible


@st.composite
def docks(draw: st.DrawFn) -> Show:
    """Up to two boxes that number their ports one by one or as a range, with ports that take in and
    ports that are off, and fixtures on a few universes."""
    wanted = draw(st.lists(st.integers(1, 5), min_size=1, max_size=3, unique=True))
    par = Profile("p", "Trowel", "Par", (Mode("m", (Part(4),)),))
    fixtures = tuple(Fixture(u, f"F{u}", "p", "m", u, patch=(Patch(u, 1),)) for u in wanted)
    boxes = []
    for box_id in range(1, draw(st.integers(1, 2)) + 1):
        numbering = draw(st.sampled_from([Numbering.EACH, Numbering.RANGE]))
        first = draw(st.integers(1, 4))
        ports = []
        for place in range(draw(st.integers(1, 3))):
            use = draw(st.sampled_from([Use.OUT, Use.OUT, Use.IN, Use.OFF]))
            counted = first + place if numbering is Numbering.RANGE else draw(st.integers(1, 5))
            ports.append(Port(place + 1, draw(st.sampled_from([None, counted])), use=use))
        boxes.append(
            Box(
                box_id, f"b{box_id}", ip=f"10.0.0.{box_id}", numbering=numbering, ports=tuple(ports)
            )
        )
    return with_places(Show("S", fixtures, (par,), next_id=9, boxes=tuple(boxes)))


@given(docks())
def test_a_plan_of_ports_makes_no_stop(show: Show) -> None:
    """Input ports and ports that are off among them: a plan brings no stop at a port that was not
    there, no universe loses its port but for more that get one, and where it says that this is
    proven, no way gives more of them one."""
    plan = plan_ports(show, Wish(start_lines=False))
    stops = [f for f in news(check(show), check(plan.show)) if f.severity is Severity.STOP]
    assert all(f.box == "" for f in stops), "a range moved to where it gives more of them"
    before = {
        u for u in show.carried if all(u != p.universe for b in show.boxes for p in b.outputs)
    }
    assert len(plan.left) < len(before) or not stops
    if not plan.proven:
        return
    spare = [(box, port) for box in show.boxes for port in box.ports if port.use is Use.OUT]
    fewest = len(show.carried)
    for tried in product([None, *show.carried], repeat=len(spare)):
        if _counts_on(
            show, dict(zip([(box.id, port.number) for box, port in spare], tried, strict=True))
        ):
            fewest = min(fewest, len(set(show.carried) - set(tried)))
    assert len(plan.left) == fewest


def _counts_on(show: Show, given: dict[tuple[int, int], int | None]) -> bool:
    """Whether boxes that number their ports as a range do so, the ports that take in among them."""
    for box in show.boxes:
        firsts = set()
        for place, port in enumerate(box.ports):
            universe = given.get((box.id, port.number)) if port.use is Use.OUT else port.universe
            if universe is not None and port.use is not Use.OFF:
                firsts.add(universe - place)
        if box.numbering is Numbering.RANGE and len(firsts) > 1:
            return False
    return True


@st.composite
def tight(draw: st.DrawFn) -> Show:
    """A few short fixtures on two small universes, some beyond what the desk sends, pins, shares
    and small setters."""
    pairs = Profile(
        "q", "Trowel", "Q", (Mode("m", (Part(2),)),), setter=Setter(SetterKind.SWITCHES, switches=3)
    )
    fixtures: list[Fixture] = []
    for number in range(1, draw(st.integers(1, 4)) + 1):
        group = draw(st.sampled_from(["", "", "", "g"]))
        kin = next((held for held in fixtures if group and held.share == group), None)
        at = kin.patch if kin else (Patch(draw(st.integers(1, 2)), draw(st.integers(1, 8))),)
        pinned = draw(st.integers(0, 4)) == 0
        fixtures.append(
            Fixture(number, f"F{number}", "q", "m", number, patch=at, pinned=pinned, share=group)
        )
    desk = Desk("D", draw(st.sampled_from([1, 2])), highest=8)
    reserved = tuple(sorted(draw(st.sets(st.integers(1, 8), max_size=2))))
    return with_places(
        Show(
            "S",
            tuple(fixtures),
            (pairs,),
            (Universe(1, reserved=reserved), Universe(2)),
            desk=desk,
            next_id=9,
        )
    )


def places_of(show: Show, fixture: Fixture, stay: bool) -> list[tuple[int, int]]:
    """Every place where a fixture of this rig may stand, by itself."""
    limit = show.desk.universes or 2
    homes = [fixture.universe] if stay else [1, 2]
    return [
        (universe, slot)
        for universe in homes
        if universe and universe <= limit
        for slot in range(1, 8)
        if not set(show.reserved_in(universe)) & {slot, slot + 1}
    ]


@examples(80)
@given(tight(), st.booleans())
def test_a_proven_repair_moves_the_least(show: Show, stay: bool) -> None:
    """Against every way to seat them: as few are moved, all stand well, and told to stay nobody
    leaves its universe."""
    options = RepairOptions(stay=stay, new_universes=False)
    repair = repair_rig(show, options)
    after = {held.id: held for held in repair.show.fixtures}
    for fixture in show.fixtures:
        assert not stay or after[fixture.id].universe == fixture.universe
        assert not fixture.pinned or after[fixture.id].patch == fixture.patch
    groups: dict[object, list[Fixture]] = {}
    for fixture in show.fixtures:
        groups.setdefault(fixture.share or fixture.id, []).append(fixture)
    movers = [(held[0], len(held), any(one.pinned for one in held)) for held in groups.values()]
    best = None
    ways = [
        [(lead.universe or 0, lead.start or 0)] if pinned else places_of(show, lead, stay)
        for lead, _, pinned in movers
    ]
    for seats in product(*ways):
        clash = any(a[0] == b[0] and abs(a[1] - b[1]) < 2 for a, b in permutations(seats, 2))
        if not clash:
            moved = sum(
                count
                for (lead, count, _), seat in zip(movers, seats, strict=True)
                if seat != (lead.universe, lead.start)
            )
            best = moved if best is None else min(best, moved)
    moves = {move.fixture for move in repair.moves}
    if not repair.unplaced and not any(pinned for *_, pinned in movers):
        assert best is not None
        assert len(moves) >= best
    if repair.proven:
        assert len(moves) == best
        stops = [
            f
            for f in check(repair.show)
            if f.severity is Severity.STOP and f.rule in ("overlap", "reserved")
        ]
        assert not stops
