"""Rigs for tests: small builders, and random rigs for Hypothesis."""

from __future__ import annotations

from hypothesis import strategies as st

from fence.core.edits import with_places
from fence.core.model.address import SLOTS
from fence.core.model.desk import Desk, Scale, TellTale
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile, Setter, SetterKind
from fence.core.model.show import Position, Show, Universe


def bare(channels: int) -> Profile:
    """A profile known by its footprint only."""
    return Profile(f"p{channels}", "Trowel", f"T{channels}", (Mode("m", (Part(channels),)),))


def rig(*rows: tuple[str, int, int | None, int | None], **extra: object) -> Show:
    """A show from rows of label, channels, universe, slot."""
    profiles = {channels: bare(channels) for _, channels, _, _ in rows}
    fixtures = tuple(
        Fixture(place, label, f"p{channels}", "m", place, patch=(Patch(universe, slot),))
        for place, (label, channels, universe, slot) in enumerate(rows, 1)
    )
    show = Show("Test", fixtures, tuple(profiles.values()), next_id=len(rows) + 1, **extra)  # type: ignore[arg-type]
    return with_places(show)


@st.composite
def rigs(
    draw: st.DrawFn, most: int = 12, universes: int = 3, widest: int = 60, reserved: bool = True
) -> Show:
    """Rigs with clashes, runs past the end, shares, pins, fixtures without an address and without
    channels."""
    widths = draw(st.lists(st.integers(0, widest), min_size=1, max_size=4, unique=True))
    # starts cluster at both ends, so that clashes and runs past the end are common
    slot = st.one_of(st.integers(1, 80), st.integers(470, SLOTS), st.integers(1, SLOTS))
    fixtures = []
    groups: dict[str, tuple[str, Patch]] = {}
    for place in range(1, draw(st.integers(0, most)) + 1):
        width = draw(st.sampled_from(widths))
        patch = draw(st.one_of(st.builds(Patch, st.integers(1, universes), slot), st.just(Patch())))
        share = draw(st.sampled_from(["", "", "", "g1", "g2"]))
        pinned = draw(st.integers(0, 5)) == 0 and patch.slot is not None
        profile = f"p{width}"
        if share in groups:
            profile, patch = groups[share]
        elif share:
            groups[share] = (profile, patch)
        fixtures.append(
            Fixture(
                place, f"F{place}", profile, "m", place, patch=(patch,), pinned=pinned, share=share
            )
        )
    kept = tuple(sorted(draw(st.sets(st.integers(1, SLOTS), max_size=3)))) if reserved else ()
    numbers = range(1, universes + 1)
    return Show(
        "Random",
        tuple(fixtures),
        tuple(bare(width) for width in widths),
        tuple(Universe(number, reserved=kept) for number in numbers),
        next_id=len(fixtures) + 1,
    )


PARTS = st.lists(st.sampled_from([0, 1, 3, 5, 12, 40]), min_size=1, max_size=3)
SETTERS = st.sampled_from(
    [Setter()] * 5
    + [
        Setter(SetterKind.SWITCHES),
        Setter(SetterKind.SWITCHES, switches=5, zero_based=True),
        Setter(SetterKind.ROTARY, highest=99),
        Setter(SetterKind.FIXED, highest=17),
    ]
)
DESKS = st.one_of(
    st.just(Desk()),
    st.builds(
        Desk,
        st.just("Small desk"),
        st.sampled_from([None, 1, 2]),
        st.sampled_from([None, None, 16, 20, 64]),
        st.sampled_from([None, 2, 6]),
        st.sampled_from([512, 512, 192]),
    ),
)


@st.composite
def rich_rigs(draw: st.DrawFn, most: int = 8) -> Show:
    """Rigs with all that a rig can have, everywhere: fixtures in several parts, some without
    channels or without an address, sharing groups that match and that do not, pins, hard places,
    setters with limits, modes that are missing, reserved slots, the tell-tale slot, and desks with
    pages, buttons, few universes and few slots.
    """
    profiles = tuple(
        Profile(
            f"t{place}",
            "Trowel",
            f"T{place}",
            tuple(
                Mode(f"m{n}", tuple(Part(width) for width in draw(PARTS)))
                for n in range(draw(st.integers(1, 2)))
            ),
            setter=draw(SETTERS),
        )
        for place in range(draw(st.integers(1, 3)))
    )
    slot = st.one_of(
        st.integers(1, 40), st.integers(180, 200), st.integers(495, SLOTS), st.integers(1, SLOTS)
    )
    patch = st.one_of(
        *[st.builds(Patch, st.integers(1, 3), slot)] * 4, st.just(Patch()), st.just(Patch(2))
    )
    fixtures: list[Fixture] = []
    for fixture_id in range(1, draw(st.integers(0, most)) + 1):
        profile = draw(st.sampled_from(profiles))
        mode = draw(st.sampled_from(profile.modes))
        entries = tuple(draw(patch) for _ in mode.parts)
        group = draw(st.sampled_from(["", "", "", "2", "g"]))
        kin = next((f for f in fixtures if f.share == group), None) if group else None
        like = kin is not None and draw(st.integers(0, 3)) > 0
        fixtures.append(
            Fixture(
                fixture_id,
                f"F{fixture_id}",
                kin.profile if kin and like else profile.id,
                kin.mode if kin and like else draw(st.sampled_from([mode.name] * 9 + ["gone"])),
                draw(st.sampled_from([fixture_id, fixture_id, None, 1])),
                draw(st.sampled_from(["", "P1", "P2"])),
                kin.patch if kin and like else entries,
                draw(st.integers(0, 4)) == 0 and any(entry.slot for entry in entries),
                group,
            )
        )
    reserved = tuple(sorted(draw(st.sets(st.integers(1, SLOTS), max_size=3))))
    show = Show(
        "Rich",
        tuple(fixtures),
        profiles,
        tuple(Universe(number, reserved=reserved if number == 1 else ()) for number in (1, 2, 3)),
        (Position("P2", hard=True),),
        draw(DESKS),
        next_id=len(fixtures) + 1,
        tell_tale=draw(st.sampled_from([None, None, TellTale(512), TellTale(1, Scale.RAW)])),
    )
    return with_places(show)
