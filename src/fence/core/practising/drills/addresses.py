"""Where the next one starts, and what is left in a universe."""

from __future__ import annotations

from random import Random

from fence.core.model.address import SLOTS, Address, bits_of, from_absolute
from fence.core.model.profile import Mode, Profile
from fence.core.model.show import Show
from fence.core.model.space import gaps
from fence.core.model.text import counted
from fence.core.practising.question import Kind, Question, question

LARGEST, SHORT = 200, 60
"""Channels of a mode from which on a question would be about one fixture only."""


def modes_in(rig: Show) -> list[tuple[Profile, Mode]]:
    """The modes of a rig's types that have one run of channels, each with its type."""
    return [
        (profile, mode)
        for profile in rig.profiles
        for mode in profile.modes
        if len(mode.parts) == 1 and 0 < mode.footprint <= LARGEST
    ]


def seat(at: Address, footprint: int) -> Address:
    """Where a fixture starts that is to follow at an address: there, or at slot 1 of the next
    universe where its channels would run past the end."""
    if at.slot + footprint - 1 > SLOTS:
        return Address(at.universe + 1, 1)
    return at


def behind(at: Address, footprint: int) -> Address:
    """The address right behind a fixture that starts at ``at``."""
    slot = at.slot + footprint
    return Address(at.universe, slot) if slot <= SLOTS else Address(at.universe + 1, 1)


def next_start(rig: Show, chance: Random, level: int) -> Question | None:
    """The start address behind some fixtures that stand one after the other. From level 2 on of two
    types; at level 3 the end of a universe comes in between."""
    known = modes_in(rig)
    if level == 3:
        known = [one for one in known if one[1].footprint <= SHORT] or known
    if not known:
        return None
    picks = [chance.choice(known) for _ in range(1 if level == 1 else 2)]
    counts = [chance.randint(2, 6) for _ in picks]
    whole = sum(count * mode.footprint for count, (_, mode) in zip(counts, picks, strict=True))
    follower = picks[-1] if level < 3 else chance.choice(known)
    first = chance.randint(1, 60) if level < 3 else _near_the_end(chance, whole)
    at, last, straddled = Address(1, first), Address(1, first), False
    for count, (_, mode) in zip(counts, picks, strict=True):
        for _ in range(count):
            last = seat(at, mode.footprint)
            straddled = straddled or last != at
            at = behind(last, mode.footprint)
    own = follower[1].footprint
    answer = seat(at, own)
    straddled = straddled or answer != at
    total = [f"{count} × {mode.footprint}" for count, (_, mode) in zip(counts, picks, strict=True)]
    sums = " + ".join(total)
    working = f"{first} + {sums} = {first + whole}"
    if straddled:
        working = (
            f"{working}; what does not fit whole before 512 starts at slot 1 of the next universe, "
            f"so the next one starts at {_said(answer)}"
        )
    plain = first + whole
    slips: list[tuple[object, str]] = [
        (_said(last), "that is where the last one starts, not the next"),
        (f"{answer.universe}.{answer.slot + 1}", "one too high: a slot would be left over"),
    ]
    if answer == at and answer.slot > 1:
        slips.append((f"{at.universe}.{at.slot - 1}", "one too low: that slot is the last one’s"))
    if straddled and plain <= SLOTS:
        slips.append((f"1.{plain}", "from there its channels would run past slot 512"))
    if straddled and plain > SLOTS:
        slips.append((_said(from_absolute(plain)), "a fixture is not split: it moves whole"))
    slips += _other_footprints(rig, picks, counts, first)
    facts = [
        f"{count} × {profile.title}, {mode.name} ({counted(mode.footprint, 'channel')})"
        for count, (profile, mode) in zip(counts, picks, strict=True)
    ]
    whom = "the next one"
    if level > 1:
        whom = f"{follower[0].title} in {follower[1].name} ({counted(own, 'channel')})"
    asks = (
        f"The first starts at 1.{first:03d}, one after the other without a gap. "
        f"Where does {whom} start?"
    )
    return question(asks, Kind.ADDRESS, _said(answer), working, slips, facts=facts)


def _near_the_end(chance: Random, whole: int) -> int:
    """A slot from which so many channels end about where the universe does."""
    return min(SLOTS, max(1, SLOTS - whole + chance.randint(-20, 40)))


def _other_footprints(
    rig: Show, picks: list[tuple[Profile, Mode]], counts: list[int], first: int
) -> list[tuple[object, str]]:
    """The sums with another mode’s channels in place of the right ones."""
    found: list[tuple[object, str]] = []
    for profile, mode in picks:
        for other in profile.modes:
            if other.footprint == mode.footprint or len(other.parts) != 1:
                continue
            total = first
            for count, pick in zip(counts, picks, strict=True):
                taken = other if pick == (profile, mode) else pick[1]
                total += count * taken.footprint
            if total <= SLOTS:
                found.append(
                    (
                        f"1.{total}",
                        f"you took {other.footprint} for the channels of {profile.title}; "
                        f"in {mode.name} it is {mode.footprint}",
                    )
                )
    return found


def _said(at: Address) -> str:
    return f"{at.universe}.{at.slot}"


def room_left(rig: Show, chance: Random, level: int) -> Question | None:
    """What is left in a universe. Level 1: slots behind the last; level 2: how many more of a type
    fit behind; level 3: how many fit with a gap in between and slot 512 kept free."""
    known = modes_in(rig)
    if not known:
        return None
    profile, mode = chance.choice(known)
    most = max(1, min(20, (SLOTS - 120) // mode.footprint))
    count = chance.randint(1, most)
    used = count * mode.footprint
    facts = [f"{count} × {profile.title}, {mode.name} ({counted(mode.footprint, 'channel')})"]
    if level == 1:
        free = _lengths(bits_of(1, used))
        right = free[0] if free else 0
        return question(
            "They start at slot 1, one after the other. How many slots are left in the universe?",
            Kind.NUMBER,
            str(right),
            f"{SLOTS} − {count} × {mode.footprint} = {right}",
            [
                (right + 1, f"a universe has {SLOTS} slots, not 513"),
                (right - 1, "one too few: slots are counted from 1 to 512"),
                (used, "that is what is taken"),
                (SLOTS - 1 - used, "a universe has 512 slots, 1 to 512; not 511"),
            ],
            facts=facts,
        )
    other, asked = chance.choice(known)
    own = asked.footprint
    gap = chance.randint(1, 60) if level == 3 else 0
    taken = bits_of(gap + 1, used)
    if level == 3:
        taken |= bits_of(SLOTS, 1)
        facts.append("Slot 512 is kept free.")
    right = sum(length // own for length in _lengths(taken))
    left = SLOTS - used - (1 if level == 3 else 0)
    behind_it = SLOTS - used - gap - (1 if level == 3 else 0)
    begin = f"They start at slot {gap + 1}, one after the other. "
    sums = f"{behind_it} slots are left behind: {behind_it} ÷ {own} = {behind_it // own} whole ones"
    if gap:
        sums += f"; {gap} before: {gap // own}"
    return question(
        f"{begin}How many {other.title} in {asked.name} ({counted(own, 'channel')}) fit as well?",
        Kind.NUMBER,
        str(right),
        f"{sums}. Together {right}.",
        [
            (
                left // own,
                "gap and rest do not add up: each fixture needs a run of its own",
            ),
            (right + 1, "one too many: the last would run past the end"),
            (behind_it // own, "there is room before the first, too"),
            (-(-behind_it // own), "rounded up: a part of a fixture does not fit"),
            ((SLOTS - used - gap) // own, "slot 512 is kept free"),
        ],
        facts=facts,
    )


def _lengths(taken: int) -> list[int]:
    """The lengths of the free runs of a universe."""
    return [gap.length for gap in gaps(((1 << SLOTS) - 1) & ~taken)]
