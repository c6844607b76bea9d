"""What a fixture does that stands one too high, one too low, or in another mode."""

from __future__ import annotations

from random import Random

from fence.core.model.profile import Mode, Profile
from fence.core.model.show import Show, slot_meaning
from fence.core.practising.drills.charts import charted
from fence.core.practising.question import Kind, Question, question

NOTHING = "none: that slot is not its own"


def hears(mode: Mode, offset: int) -> str:
    """What a fixture does with the slot so many behind its start (0 the first); ``NOTHING`` where
    it does not listen there."""
    return slot_meaning(mode, 0, offset) if 0 <= offset < mode.footprint else NOTHING


def off_by_one(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: it stands one too high; level 2: one too high or too low; level 3: it is in another
    mode as well, or only that."""
    known = charted(rig)
    if level == 3:
        known = [one for one in known if _others(one[0], one[1])] or known
    if not known:
        return None
    profile, mode = chance.choice(known)
    stands, off = mode, 1 if level == 1 else chance.choice((1, -1))
    if level == 3 and (others := _others(profile, mode)):
        stands, off = chance.choice(others), chance.choice((0, 1, -1))
    start = chance.randint(2, 300)
    place = chance.randrange(mode.footprint)
    right = hears(stands, place - off)
    meant = slot_meaning(mode, 0, place)
    how = []
    if off:
        how.append(f"set to {start + off:03d}")
    if stands is not mode:
        how.append(f"in {stands.name}")
    choices = dict.fromkeys(
        [right, meant, hears(stands, place + off), hears(stands, place), hears(mode, place - off)]
    )
    shown = [*choices, NOTHING] if NOTHING not in choices else list(choices)
    chance.shuffle(shown)
    slot = start + place
    at = place - off + 1
    inside = 1 <= at <= stands.footprint
    return question(
        f"{profile.title} is planned at {start:03d} in {mode.name}, but it is "
        f"{' and '.join(how)}. The desk raises its {meant} (slot {slot}). Which of its channels "
        "gets that?",
        Kind.CHOICE,
        right,
        f"Slot {slot} is channel {at} of a fixture at {start + off:03d}: {right}."
        if inside
        else f"At {start + off:03d} it listens to {start + off} to "
        f"{start + off + stands.footprint - 1}, not to {slot}.",
        [
            (meant, "so it would be if it stood as planned"),
            (hears(stands, place + off), "the other way: count from where it stands"),
            (hears(stands, place), "its start is off as well"),
            (hears(mode, place - off), "its mode is another one as well"),
            (NOTHING, "it does listen to that slot"),
        ],
        choices=shown,
        facts=[
            f"{number} {channel.title}"
            for number, channel in enumerate(stands.parts[0].channels, 1)
        ],
    )


def _others(profile: Profile, mode: Mode) -> list[Mode]:
    return [
        one
        for one in profile.modes
        if one.name != mode.name and len(one.parts) == 1 and one.parts[0].channels
    ]
