"""Ready-made desks, described by their limits. All are invented."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.desk import Desk
from fence.core.model.profile import Function


@dataclass(frozen=True, slots=True)
class DeskType:
    """A kind of desk and, in one sentence, what it is good for."""

    desk: Desk
    words: str


F = Function

DESKS: dict[str, DeskType] = {
    "shed": DeskType(Desk("Shed desk", universes=8), "Patches freely on eight universes."),
    "barn": DeskType(Desk("Barn desk", universes=64), "Patches freely on 64 universes."),
    "bucket": DeskType(
        Desk("Bucket 12", universes=1, page=16, buttons=12),
        "Twelve fixture buttons, 16 slots each.",
    ),
    "trug": DeskType(
        Desk("Trug 24", universes=1, page=20, buttons=24, highest=480),
        "24 buttons of 20, up to 480.",
    ),
    "dibble": DeskType(
        Desk(
            "Dibble 4",
            universes=1,
            page=5,
            buttons=4,
            layout=(F.DIMMER, F.RED, F.GREEN, F.BLUE, F.SHUTTER),
        ),
        "Four colour washes, always dimmer, red, green, blue, strobe.",
    ),
    "cloche": DeskType(
        Desk("Cloche", universes=1, highest=192), "A plain fader desk that sends slots 1 to 192."
    ),
}
