"""Where a fixture hangs in metres, and what a designer's scene says of it beside its address."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

from fence.core.model.errors import EditError
from fence.core.model.text import check_finite, check_text, check_whole

FARTHEST = 10_000.0
"""Metres from the origin of a scene in which anything can hang."""
MOST_COMMANDS = 100


@dataclass(frozen=True, slots=True)
class Place:
    """A place in metres from the origin of the plan: ``x`` to stage left as the audience sees it to
    the right, ``y`` away from the audience, ``z`` up from the floor [DIN SPEC 15801]."""

    x: float
    y: float
    z: float = 0.0

    def __post_init__(self) -> None:
        for name, number in (("x", self.x), ("y", self.y), ("z", self.z)):
            if abs(check_finite(f"place {name}", number)) > FARTHEST:
                raise EditError(
                    f"{number:g} m is too far away. Use {-FARTHEST:g} to {FARTHEST:g} metres."
                )

    @property
    def words(self) -> str:
        """The three numbers, such as ``1.5 / -2 / 6 m``."""
        return f"{self.x:g} / {self.y:g} / {self.z:g} m"

    def distance(self, other: Place) -> float:
        """Metres between two places, as the crow flies."""
        parts = (self.x - other.x, self.y - other.y, self.z - other.z)
        return hypot(*parts)

    def along(self, other: Place) -> float:
        """Metres of cable between two places that run level and upright, not slantwise."""
        return abs(self.x - other.x) + abs(self.y - other.y) + abs(self.z - other.z)


@dataclass(frozen=True, slots=True)
class InScene:
    """What a scene says of a fixture: its identity there, its fixture ID as it is written, unit
    number, layer and class, commands of its own, and how it is turned (the nine numbers of a
    rotation, row by row; none for not at all). Fence keeps it and gives it back."""

    uuid: str = ""
    fixture_id: str = ""
    unit: int | None = None
    layer: str = ""
    group: str = ""
    commands: tuple[str, ...] = ()
    turn: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if self.uuid:
            check_uuid(self.uuid)
        for what, text in (
            ("fixture ID", self.fixture_id),
            ("layer", self.layer),
            ("class", self.group),
            *(("command", command) for command in self.commands),
        ):
            check_text(what, text, required=False)
        if len(self.commands) > MOST_COMMANDS:
            raise EditError(f"{len(self.commands)} commands. Use up to {MOST_COMMANDS}.")
        if self.unit is not None:
            check_whole("unit number", self.unit, -(2**31), 2**31 - 1)
        if len(self.turn) not in (0, 9):
            raise EditError(f"A rotation has nine numbers, not {len(self.turn)}.")
        for number in self.turn:
            check_finite("rotation", number)


def check_uuid(text: str) -> str:
    """An identity of a scene; ``EditError`` where it is none."""
    from uuid import UUID  # only here: it asks what machine this is

    try:
        return str(UUID(text))
    except ValueError:
        raise EditError(
            f"“{text[:40]}” is not a UUID. Use one such as 8ea2c6ab-1f05-4c2c-9f0c-2a4d4a3e2b10."
        ) from None


def read_place(text: str) -> Place | None:
    """A place as typed: two or three numbers in metres with a slash, a semicolon or blanks between,
    a point or a comma in them; None for nothing. ``EditError`` says what is accepted."""
    words = text.casefold().removesuffix("m").replace("/", " ").replace(";", " ").split()
    if not words:
        return None
    try:
        numbers = [float(word.removesuffix("m").replace(",", ".")) for word in words]
    except ValueError:
        numbers = []
    if len(numbers) not in (2, 3):
        raise EditError(
            f"“{text[:40]}” is not a place. Use metres across, back and up, such as -4 / 2.5 / 6."
        )
    return Place(*numbers)
