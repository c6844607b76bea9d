"""Let them speak first: from who answers to a rig that is planned and addressed, in one edit that
is seen before.

Types come from the charts that there are, else from what a device says of its modes; modes from
what the show needs, else from the mode that it is in; addresses by a way of laying out, or as they
are, clashes moved by the repair. Fixtures that do not speak stay where they are.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from fence.core import edits
from fence.core.addressing.repair import RepairOptions, repair_rig
from fence.core.addressing.schools import Layout, lay_out
from fence.core.model.address import Address
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.modes.advice import recommend
from fence.core.rdm.charting import chart_said
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.device_matching import Match, Pair, Sure, is_type, match, mode_said, plain

USUAL_UNIVERSE = 1
"""Where a device goes whose box says no universe that the show knows."""


@dataclass(frozen=True, slots=True)
class Spoken:
    """A show with all who speak in it. ``match`` pairs them with it, ``added`` are new fixtures,
    ``unplaced`` those without room, ``charts`` the types that were taken from what devices say."""

    show: Show
    match: Match
    added: tuple[int, ...]
    unplaced: tuple[int, ...]
    charts: tuple[Profile, ...]


def type_key(said: DeviceInfo) -> tuple[str, str]:
    """What devices of one type have in common."""
    return plain(said.maker), plain(said.model) or f"{said.model_number:04x}"


def type_of(said: DeviceInfo, profiles: Sequence[Profile]) -> Profile | None:
    """The chart that a device is of, out of several: one that has the mode it is in before
    others."""
    fitting = [profile for profile in profiles if is_type(profile, said)]
    return next(
        (p for p in fitting if mode_said(p, said) is not None), fitting[0] if fitting else None
    )


def speak_first(
    show: Show,
    said: Sequence[DeviceInfo],
    *,
    library: Sequence[Profile] = (),
    layout: Layout | None = None,
    anew: bool = False,
    told: Mapping[str, int] | None = None,
) -> Spoken:
    """Plan all who answer. ``layout`` None keeps the addresses that they say; ``anew`` lays those
    out as well that are planned already, ``told`` are pairs that somebody made."""
    before = match(show, said, told=told)
    fresh = [one for one in before.strange if not one.problem]
    charts: dict[tuple[str, str], Profile] = {}
    for one in fresh:
        if type_of(one, show.profiles) is None and type_key(one) not in charts:
            charts[type_key(one)] = type_of(one, library) or chart_said(one)
    show, added = _added(show, fresh, charts)
    pairs = {pair.fixture.id: str(pair.said.identity) for pair in before.pairs} | added
    told = {name: fixture_id for fixture_id, name in pairs.items()}
    show = edits.keep_identities(show, pairs)
    show = _moded(show, added)
    by_name = {str(one.identity): one for one in said}
    loose = [i for i in pairs if anew or any(entry.slot is None for entry in show.fixture(i).patch)]
    unplaced: tuple[int, ...] = ()
    if layout is None:
        show = _as_they_say(show, loose, {i: by_name[pairs[i]] for i in loose})
    else:
        show, unplaced = _laid_out(show, loose, layout)
    show = _repaired(show, pairs)
    made = {show.fixture(fixture_id).profile for fixture_id in added}
    new_charts = tuple(
        profile for profile in show.profiles if profile.id in made and profile.source
    )
    return Spoken(show, match(show, said, told=told), tuple(added), unplaced, new_charts)


def _added(
    show: Show, fresh: Sequence[DeviceInfo], charts: Mapping[tuple[str, str], Profile]
) -> tuple[Show, dict[int, str]]:
    """The show with a fixture for each device, type by type; ids with identities."""
    labels = {fixture.label for fixture in show.fixtures}
    made: dict[int, str] = {}
    fixtures = list(show.fixtures)
    number = edits.next_number(show, max(1, len(fresh)))
    for one in sorted(
        fresh, key=lambda one: (one.universe or 0, one.title, plain(one.label), one.identity)
    ):
        profile = type_of(one, show.profiles)
        if profile is None:
            show, profile = edits.with_profile(show, charts[type_key(one)])
        if not profile.modes:
            continue
        mode = mode_said(profile, one) or profile.modes[0]
        wanted = one.label if one.label and one.label not in labels else ""
        label = wanted or _counted(one.model or "Device", labels)
        labels.add(label)
        fixture_id = show.next_id + len(made)
        patch = (Patch(one.universe or USUAL_UNIVERSE),) * len(mode.parts)
        fixtures.append(
            Fixture(
                fixture_id, label, profile.id, mode.name, number=number + len(made), patch=patch
            )
        )
        made[fixture_id] = str(one.identity)
    show = replace(show, fixtures=tuple(fixtures), next_id=show.next_id + len(made))
    return edits.with_places(show), made


def _counted(stem: str, labels: Collection[str]) -> str:
    number = 1
    while f"{stem} {number}" in labels:
        number += 1
    return f"{stem} {number}"


def _moded(show: Show, ids: Collection[int]) -> Show:
    """Fixtures in the mode that the show needs of them, where it says what it needs."""
    for fixture_id in ids:
        fixture = show.fixture(fixture_id)
        found = recommend(show, fixture)
        if found.wanted.said and found.mode is not None and found.mode != fixture.mode:
            show = edits.change_mode(show, [fixture_id], found.mode)
    return show


def _as_they_say(show: Show, ids: Collection[int], said: Mapping[int, DeviceInfo]) -> Show:
    """Fixtures planned at the addresses that their devices say."""
    loose = set(ids)

    def said_so(fixture: Fixture) -> Fixture:
        one = said.get(fixture.id)
        universe = fixture.universe or (one.universe if one else None) or USUAL_UNIVERSE
        if fixture.id not in loose or one is None or one.address is None:
            return fixture
        numbers = [one.address, *[None] * (len(fixture.patch) - 1)]
        if len(one.subs) == len(fixture.patch) > 1:
            numbers = [sub.address for sub in one.subs]
        return replace(fixture, patch=tuple(Patch(universe, number) for number in numbers))

    return edits.with_places(replace(show, fixtures=tuple(map(said_so, show.fixtures))))


def _laid_out(show: Show, ids: Sequence[int], layout: Layout) -> tuple[Show, tuple[int, ...]]:
    """Fixtures laid out universe by universe: a device cannot leave the cable that it hangs on."""
    unplaced: list[int] = []
    by_universe: dict[int, list[int]] = {}
    for fixture_id in ids:
        fixture = show.fixture(fixture_id)
        by_universe.setdefault(fixture.universe or USUAL_UNIVERSE, []).append(fixture_id)
    for universe, members in by_universe.items():
        show = replace(
            show,
            fixtures=tuple(
                replace(f, patch=tuple(Patch(e.universe or universe) for e in f.patch))
                if f.id in members
                else f
                for f in show.fixtures
            ),
        )
        wanted = replace(layout, first=Address(universe, 1), universes=universe, ids=tuple(members))
        placement = lay_out(show, wanted)
        show = placement.show
        unplaced += placement.unplaced
    return show, tuple(unplaced)


def _repaired(show: Show, speaking: Collection[int]) -> Show:
    """Clashes moved by the repair: those that speak move, and stay on their cable; the others are
    held fast."""
    pins = {fixture.id: fixture.pinned for fixture in show.fixtures}
    held = replace(
        show,
        fixtures=tuple(f if f.id in speaking else replace(f, pinned=True) for f in show.fixtures),
    )
    mended = repair_rig(held, RepairOptions(stay=True, willing=frozenset(speaking))).show
    return replace(mended, fixtures=tuple(replace(f, pinned=pins[f.id]) for f in mended.fixtures))


# ---- a spare in its place, and a mode that has grown


def spares_of(show: Show, found: Match) -> dict[str, tuple[Fixture, ...]]:
    """For each device that is not planned: the fixtures of its type whose own device does not
    answer."""
    gone = [m.fixture for m in found.missing if m.expected]
    offered: dict[str, tuple[Fixture, ...]] = {}
    for one in found.strange:
        fitting = [f for f in gone if (p := show.profile_of(f)) is not None and is_type(p, one)]
        if fitting and not one.problem:
            offered[str(one.identity)] = tuple(fitting)
    return offered


def grown(show: Show, pair: Pair) -> bool:
    """Whether a device has the planned mode by its name, with another number of channels."""
    mode = show.mode_of(pair.fixture)
    if mode is None or pair.said.problem:
        return False
    named = [one for one in pair.said.personalities if plain(one.name) == plain(mode.name)]
    return len(named) == 1 and 0 < named[0].footprint != mode.footprint


def refit(show: Show, pairs: Sequence[Pair]) -> Show:
    """Plan devices whose mode has grown with what they say now, and move what disturbs least to
    make room."""
    for pair in pairs:
        fixture = show.fixture(pair.fixture.id)
        profile, mode = show.profile_of(fixture), show.mode_of(fixture)
        if profile is None or mode is None or not grown(show, pair):
            continue
        told = {plain(one.name): one.footprint for one in pair.said.personalities}
        modes = tuple(_resized(held, told.get(plain(held.name), 0)) for held in profile.modes)
        software = f" (software {pair.said.software})" if pair.said.software else ""
        source = f"modes as said by the fixture{software}"
        show, newer = edits.with_profile(show, replace(profile, modes=modes, source=source))
        changed = replace(fixture, profile=newer.id)
        show = edits.with_parts(
            replace(
                show, fixtures=tuple(changed if f.id == fixture.id else f for f in show.fixtures)
            )
        )
    willing = frozenset(pair.fixture.id for pair in pairs)
    return repair_rig(show, RepairOptions(stay=True, willing=willing)).show


def _resized(mode: Mode, footprint: int) -> Mode:
    """A mode with the footprint that a device says; its channels are not known any more where that
    is another."""
    if not footprint or footprint == mode.footprint or len(mode.parts) > 1:
        return mode
    return Mode(mode.name, (Part(footprint),))


def settable(found: Match, *, guesses: bool = False) -> list[Pair]:
    """The pairs that can be set together: those that are surely who they are taken to be, on
    request the others."""
    sure = {Sure.CERTAIN, Sure.LIKELY} | ({Sure.GUESS, Sure.ANY} if guesses else set())
    return [pair for pair in found.pairs if pair.sure in sure and not pair.said.problem]
