"""What is said of a reading, word for word and in its order: the cases of ``said.txt``.

After a change that is meant, ``python -m tests.core.setting.test_said`` writes the file anew; its
difference shows what would be said otherwise.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile, Setter, SetterKind
from fence.core.model.setter import switches_on
from fence.core.model.show import Show
from fence.core.setting.readback import (
    Earlier,
    Reading,
    causes_of,
    doubt_of,
    is_right,
    reading_of_switches,
    stands_really,
    would_do,
)

SAID = Path(__file__).with_name("said.txt")
MODES = (Mode("8 ch", (Part(8),)), Mode("12 ch", (Part(12),)), Mode("20 ch", (Part(20),)))
PAR = Profile("par", "Trowel", "Par", MODES)
SWITCHED = Profile(
    "switched",
    "Trowel",
    "Scoop",
    MODES,
    setter=Setter(SetterKind.SWITCHES, fixed_on=(10,), fixed_off=(11,)),
)
TWO = Profile("two", "Trowel", "Twin", (Mode("8 ch", (Part(4), Part(4))),))
TALK = Profile("talk", "Trowel", "Caw", MODES, setter=Setter(SetterKind.RDM))


def show() -> Show:
    """Seven pars back to back at one position, three elsewhere, switches and a twin beside them."""
    rows = [
        *((f"Fern {n}", PAR, "Fern Gully", 1, 101 + 8 * (n - 1)) for n in range(1, 8)),
        ("Palm 1", PAR, "Palm House", 1, 301),
        ("Palm 2", PAR, "Palm House", 1, 505),
        ("Lily 1", PAR, "Lily Pond", 2, 101),
        ("Lily 2", PAR, "Fern Gully", 2, 45),
        ("Moss 1", SWITCHED, "Fern Gully", 1, 201),
        ("Moss 2", SWITCHED, "Fern Gully", 1, 209),
        ("Rook 1", TALK, "Palm House", 1, 401),
    ]
    fixtures = [
        Fixture(place, label, profile.id, "8 ch", place, position, patch=(Patch(universe, slot),))
        for place, (label, profile, position, universe, slot) in enumerate(rows, 1)
    ]
    twin = Fixture(
        20, "Twin 1", "two", "8 ch", 20, "Palm House", patch=(Patch(1, 106), Patch(3, 105))
    )
    bare = Fixture(21, "Palm 3", "par", "8 ch", 21, "Palm House", patch=(Patch(),))
    return Show(
        "S", (*fixtures, twin, bare), (PAR, SWITCHED, TWO, TALK), desk=Desk(page=120), next_id=30
    )


def said(
    rig: Show, label: str, reading: Reading, *earlier: Earlier, part: int = 0
) -> Iterator[str]:
    """What is said of one reading."""
    fixture = next(one for one in rig.fixtures if one.label == label)
    planned = fixture.patch[part].slot
    on = f", on: {' '.join(map(str, reading.on)) or 'none'}" if reading.on is not None else ""
    mode = f", in {reading.mode}" if reading.mode else ""
    part_words = f", part {part + 1}" if part else ""
    hangs = ", upside down" if fixture.turned else ", upright" if fixture.upright else ""
    meant = {None: "", True: ", read upright", False: ", read as it hangs"}[reading.upright]
    mode += hangs + meant
    yield f"{label}{part_words}, planned {planned or 'nowhere'}, says {reading.says}{on}{mode}"
    part_said = {"part": part} if part else {}
    causes = causes_of(rig, fixture, reading, earlier, **part_said)
    for cause in causes:
        whose = f" [{cause.fixture.label}]" if cause.fixture else ""
        yield f"    {cause.kind}, {cause.address}{whose}: {cause.message}"
    right = is_right(rig, fixture, reading, **part_said)
    doubt = doubt_of(rig, fixture, reading, causes, **part_said)
    stands = stands_really(rig, fixture, reading, **part_said)
    yield f"    => {'right' if right else 'not right'}, stands at {stands}, asked: {doubt or '-'}"
    for sentence in would_do(rig, fixture, reading.says, reading.mode, **part_said):
        yield f"    would: {sentence}"
    yield ""


def hung(rig: Show, label: str, **how: bool) -> Show:
    """The rig with one fixture noted as hanging so."""
    fixtures = tuple(replace(f, **how) if f.label == label else f for f in rig.fixtures)  # type: ignore[arg-type]
    return replace(rig, fixtures=fixtures)


def everything() -> Iterator[str]:
    """All cases."""
    rig = show()
    for number in (
        125,
        124,
        126,
        117,
        133,
        109,
        141,
        101,
        149,
        301,
        45,
        521,
        245,
        5,
        137,
        512,
        505,
    ):
        yield from said(rig, "Fern 4", Reading(number))
    for number in (0, 513, 637, 1149, 201):
        yield from said(rig, "Fern 4", Reading(number))
    for mode in ("12 ch", "20 ch"):
        for number in (125, 137, 161, 133, 77, 124):
            yield from said(rig, "Fern 4", Reading(number, mode=mode))
    for number in (101, 102, 613, 1125, 221, 109):
        yield from said(rig, "Lily 1", Reading(number))
    old = [
        Earlier(slot, mode, datetime(2026, 2, day, tzinfo=UTC))
        for slot, mode, day in (
            (77, "8 ch", 9),
            (61, "12 ch", 5),
            (117, "8 ch", 3),
            (90, "8 ch", 1),
        )
    ]
    for number, mode in (
        (77, ""),
        (61, ""),
        (61, "12 ch"),
        (117, ""),
        (90, ""),
        (76, ""),
        (91, ""),
    ):
        yield from said(rig, "Fern 4", Reading(number, mode=mode), *old)
    fifth = [*(Earlier(n, "8 ch") for n in (480, 470, 460, 450)), Earlier(440, "12 ch")]
    for number in (440, 450, 441):
        yield from said(rig, "Fern 4", Reading(number, mode="12 ch"), *fifth)
    far = replace(
        rig,
        fixtures=(
            *rig.fixtures,
            *(
                replace(
                    rig.fixtures[7],
                    id=100 + n,
                    label=f"Palm {n}",
                    number=100 + n,
                    patch=(Patch(1, 330 + 8 * n),),
                )
                for n in range(8)
            ),
        ),
    )
    for n in range(8):
        yield from said(far, "Palm 3", Reading(330 + 8 * n))
    many = [Earlier(n, "8 ch") for n in range(480, 468, -1)]
    ninth = [*(Earlier(n, "8 ch") for n in range(480, 464, -2)), Earlier(124, "8 ch")]
    yield from said(rig, "Fern 4", Reading(124), *ninth)
    for number in (480, 473, 472, 471, 469):
        yield from said(rig, "Fern 1", Reading(number), *many)
    for turned in ({"turned": True}, {"upright": True}, {}):
        over = hung(replace(rig), "Palm 1", **turned)
        for number, upright in ((301, None), (105, None), (109, None), (601, None), (109, True)):
            yield from said(over, "Palm 1", Reading(number, upright=upright))
    upside = hung(rig, "Fern 1", turned=True)
    for number, upright in (
        *((101, None), (101, True), (101, False), (160, None)),
        *((519, None), (215, None), (5, None), (2, None), (82, None)),
    ):
        yield from said(upside, "Fern 1", Reading(number, upright=upright))
    yield from switched(rig)
    for part, number in ((0, 106), (0, 901), (0, 501), (1, 105), (1, 501), (1, 1129), (1, 104)):
        yield from said(rig, "Twin 1", Reading(number), part=part)
    for number in (401, 402, 104, 0):
        yield from said(rig, "Rook 1", Reading(number))
        yield from said(rig, "Palm 3", Reading(number))
    yield from said(rig, "Palm 2", Reading(505))
    yield from said(rig, "Palm 2", Reading(506, mode="20 ch"))


def switched(rig: Show) -> Iterator[str]:
    """Readings of switches."""
    setter = SWITCHED.setter
    right = set(switches_on(201, setter))
    every = set(range(1, 10))
    address = {number for number in right if number <= 9}
    from_end = {10 - number for number in address}
    rows = [
        right,
        right - {10},
        right | {11},
        (right - {10}) | {11},
        right ^ {1},
        right ^ {9},
        right ^ {1, 2},
        (right ^ {1}) - {10},
        from_end | {10},
        (every - address) | {10},
        (every - from_end) | {10},
        set(switches_on(209, setter)),
        set(switches_on(200, setter)),
        {10},
        set(),
        every | {10, 11},
    ]
    for row in rows:
        yield from said(rig, "Moss 1", reading_of_switches(setter, row))
        if row in (right, right - {10}):
            hanging = hung(rig, "Moss 1", turned=True)
            yield from said(hanging, "Moss 1", reading_of_switches(setter, row))
    for number in (201, 202, 209, 310, 54, 0):
        yield from said(rig, "Moss 1", Reading(number))


def test_what_is_said() -> None:
    """As it stands in the file."""
    assert list(everything()) == SAID.read_text().split("\n")[:-1]


if __name__ == "__main__":
    SAID.write_text("".join(f"{line}\n" for line in everything()))
