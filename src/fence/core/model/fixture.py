"""A fixture of the rig: what people call it, where it is planned, what was set at it."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.errors import EditError
from fence.core.model.patch import Patch
from fence.core.model.record import Proof, ReadBack, SetTo, Sign, Tick
from fence.core.model.scene import InScene, Place
from fence.core.model.text import LONGEST_TEXT, check_text, check_whole

HIGHEST_NUMBER = 999_999_999
"""Highest number that people may give a fixture."""
HIGHEST_ID = 2**53 - 1
"""Highest fixture id: whole numbers up to here are exact in every program that reads JSON."""


@dataclass(frozen=True, slots=True)
class Fixture:
    """One fixture of the rig.

    ``id`` tells it apart for good; ``number`` and ``label`` are what people call it. ``patch`` has
    one entry a part of its mode. Fixtures of one ``share`` group listen to the same address on
    purpose.

    What is known of the thing itself stands beside the plan: ``set_to``, ``read_back`` and
    ``proven`` (None while nobody has), ``ticked`` steps of the preparation, ``serial``, and how it
    hangs: ``turned`` is upside down, ``upright`` the other way, neither while nobody has said.
    ``sign`` is what was seen that should not be, None once it is proven. ``at`` is where it hangs
    in metres, None where nobody knows; ``scene`` what a designer's scene says of it.
    """

    id: int
    label: str
    profile: str
    mode: str
    number: int | None = None
    position: str = ""
    patch: tuple[Patch, ...] = (Patch(),)
    pinned: bool = False
    share: str = ""
    note: str = ""
    set_to: SetTo | None = None
    read_back: ReadBack | None = None
    proven: Proof | None = None
    ticked: tuple[Tick, ...] = ()
    serial: str = ""
    turned: bool = False
    upright: bool = False
    sign: Sign | None = None
    at: Place | None = None
    scene: InScene | None = None

    def __post_init__(self) -> None:
        words = (
            self.label
            + self.profile
            + self.mode
            + self.position
            + self.share
            + self.note
            + self.serial
        )
        if len(words) > LONGEST_TEXT or not words.isprintable() or not self.label.strip():
            self._check_words()
        if not 1 <= self.id <= HIGHEST_ID:
            check_whole("fixture id", self.id, 1, HIGHEST_ID)
        if self.number is not None and not 0 <= self.number <= HIGHEST_NUMBER:
            check_whole("fixture number", self.number, 0, HIGHEST_NUMBER)
        if self.turned and self.upright:
            raise EditError(f"{self.label} hangs either upright or upside down, not both.")
        if not self.patch:
            raise EditError(
                f"{self.label} has no patch entry: there is one for each part of its mode."
            )

    def _check_words(self) -> None:
        """Each text by itself. One look at all of them together is enough for nearly every
        fixture."""
        check_text("label", self.label)
        check_text("profile", self.profile, required=False)
        check_text("mode", self.mode, required=False)
        check_text("position", self.position, required=False)
        check_text("sharing group", self.share, required=False)
        check_text("note", self.note, required=False)
        check_text("serial number", self.serial, required=False)

    @property
    def universe(self) -> int | None:
        """Universe of its first part."""
        return self.patch[0].universe

    @property
    def planned_at(self) -> str:
        """Where it is planned, part by part, such as ``U1 001`` or ``U1 001 + U2 040``."""
        return " + ".join(map(str, self.patch))

    def uuid_in(self, key: str) -> str:
        """Its identity in scenes: that of the scene it came from, else one of its own, which stays
        as long as the fixture does; ``key`` is that of its show, which no other has."""
        if self.scene is not None and self.scene.uuid:
            return self.scene.uuid
        from uuid import NAMESPACE_URL, uuid5  # only here: it asks what machine this is

        return str(uuid5(NAMESPACE_URL, f"fence:{key}:fixture:{self.id}"))

    @property
    def start(self) -> int | None:
        """Start slot of its first part."""
        return self.patch[0].slot
