"""Rigs of a given size for the benches."""

from __future__ import annotations

import random

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.library import shipped_profiles

WIDTHS = (1, 4, 5, 7, 8, 10, 12)


def clashing_rig(fixtures: int, universes: int, share: float = 0.05) -> Show:
    """Fixtures back to back in shuffled order; ``share`` of them start one slot early and so
    clash."""
    chance = random.Random(7)
    profiles = {
        width: Profile(f"p{width}", "Trowel", f"T{width}", (Mode("m", (Part(width),)),))
        for width in WIDTHS
    }
    rows = []
    for universe in range(1, universes + 1):
        slot = 1
        for _ in range(fixtures // universes):
            width = chance.choice(WIDTHS)
            start = slot - 1 if slot > 1 and chance.random() < share else slot
            rows.append((width, universe, start))
            slot += width
    chance.shuffle(rows)
    made = tuple(
        Fixture(place, f"F{place}", f"p{width}", "m", place, patch=(Patch(universe, start),))
        for place, (width, universe, start) in enumerate(rows, 1)
    )
    return Show("Bench", made, tuple(profiles.values()), next_id=len(made) + 1)


def large_show(fixtures: int = 2000, universes: int = 64) -> Show:
    """A clean show of pars, spread evenly."""
    profile = next(profile for profile in shipped_profiles() if profile.id == "tansy-pond-wash")
    show = Show("Large")
    each, over = divmod(fixtures, universes)
    for universe in range(1, universes + 1):
        show = edits.add_universe(show, universe)
        count = each + (universe <= over)
        run = edits.AddRun(
            profile, "10 channel", count, f"U{universe} par 1", start=Address(universe, 1)
        )
        show = edits.add_fixtures(show, run)
    return show
