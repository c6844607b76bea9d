"""What lies in the venue's store for the cable: pieces, how many, what they cost."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.errors import EditError
from fence.core.model.former import Renamed
from fence.core.model.line import LONGEST_RUN, Cable, Plug
from fence.core.model.text import check_finite, check_text, check_whole

MOST_ITEMS = 2000


class Kind(Renamed):
    """What a piece is."""

    CABLE = "cable"
    ADAPTER = "adapter"
    TERMINATOR = "terminator"
    SPLITTER = "splitter"
    COUPLER = "coupler"
    TRANSMITTER = "transmitter"
    RECEIVER = "receiver"
    CHARGER = "charger"
    PACK = "battery pack"


@dataclass(frozen=True, slots=True)
class Item:
    """Pieces of one kind. Cables have a ``cable``, ``plugs`` and a ``length`` in metres; ``price``
    is for one piece, in whatever the venue reckons in, None where it is not known."""

    kind: Kind
    count: int
    cable: Cable = Cable.DMX
    plugs: tuple[Plug, Plug] = (Plug.FIVE, Plug.FIVE)
    length: float | None = None
    price: float | None = None
    note: str = ""

    def __post_init__(self) -> None:
        check_whole("count", self.count, 0, 1_000_000)
        check_text("note", self.note, required=False)
        if self.cable is Cable.WIRELESS or Plug.WIRELESS in self.plugs:
            raise EditError("Air does not lie in a store.")
        if (self.kind is Kind.CABLE) != (self.length is not None):
            raise EditError("A cable has a length in metres; nothing else in the store has.")
        if (
            self.length is not None
            and not 0 < check_finite("length in metres", self.length) <= LONGEST_RUN
        ):
            raise EditError(
                f"{self.length:g} m is not a length of a cable. Use more than 0 to {LONGEST_RUN} m."
            )
        if self.price is not None and not 0 <= check_finite("price", self.price) <= 10**9:
            raise EditError(f"{self.price:g} is not a price. Use 0 to 1000000000.")
