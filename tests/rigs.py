"""Rigs for tests: small builders, and random rigs for Hypothesis."""

from __future__ import annotations

from hypothesis import strategies as st

from fence.core.changes.edits import with_places
from fence.core.words.address import SLOTS
from fence.core.words.profile import Mode, Part, Profile
from fence.core.words.show import Fixture, Patch, Show, Universe


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
def rigs(draw: st.DrawFn, most: int = 12, universes: int = 3, widest: int = 60, reserved: bool = True) -> Show:
    """Rigs with clashes, runs past the end, shares, pins, fixtures without an address and without channels."""
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
        fixtures.append(Fixture(place, f"F{place}", profile, "m", place, patch=(patch,), pinned=pinned, share=share))
    kept = tuple(sorted(draw(st.sets(st.integers(1, SLOTS), max_size=3)))) if reserved else ()
    numbers = range(1, universes + 1)
    return Show(
        "Random",
        tuple(fixtures),
        tuple(bare(width) for width in widths),
        tuple(Universe(number, reserved=kept) for number in numbers),
        next_id=len(fixtures) + 1,
    )
