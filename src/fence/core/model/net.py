"""The network that the boxes share: whether others use it too, and the addresses that are kept for
them."""

from __future__ import annotations

from dataclasses import dataclass
from ipaddress import IPv4Address

from fence.core.model.box import as_ip
from fence.core.model.errors import EditError
from fence.core.model.text import check_text


@dataclass(frozen=True, slots=True)
class Reserved:
    """Addresses from ``first`` to ``last`` that are kept for somebody else, such as those that a
    server gives out."""

    first: str
    last: str
    why: str = ""

    def __post_init__(self) -> None:
        check_text("reason", self.why, required=False)
        if as_ip(self.first) > as_ip(self.last):
            raise EditError(
                f"{self.first} to {self.last} runs backwards. Use from the lower to the higher."
            )

    def holds(self, address: IPv4Address) -> bool:
        """Whether an address lies in it."""
        return IPv4Address(self.first) <= address <= IPv4Address(self.last)


MOST_RESERVED = 50


@dataclass(frozen=True, slots=True)
class Net:
    """The network that the boxes share. ``shared`` says that others use it too; ``reserved`` ranges
    are kept free."""

    shared: bool = False
    reserved: tuple[Reserved, ...] = ()

    def __post_init__(self) -> None:
        if len(self.reserved) > MOST_RESERVED:
            raise EditError(f"{len(self.reserved)} ranges are reserved. Use up to {MOST_RESERVED}.")

    def keeps(self, address: IPv4Address) -> Reserved | None:
        """The range in which an address is kept for somebody else."""
        return next((held for held in self.reserved if held.holds(address)), None)


NO_NET = Net()
