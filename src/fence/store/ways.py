"""Where a show may be sent to: addresses that somebody has confirmed. Nothing is ever sent anywhere
else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Engine, delete, select

from fence.core.model.box import Protocol, as_ip
from fence.core.model.errors import EditError
from fence.store.database import reading, writing
from fence.store.tables import WayRow

MULTICAST = "multicast"
MOST_WAYS = 64


@dataclass(frozen=True, slots=True)
class ConfirmedWay:
    """An address that a show may be sent to, by which protocol, who confirmed it and when (UTC)."""

    protocol: Protocol
    to: str
    who: str
    at: datetime


class Ways:
    """The confirmed addresses of all shows."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    def of(self, show_id: int) -> list[ConfirmedWay]:
        """Those of one show, in the order in which they were confirmed."""
        found = select(WayRow).where(WayRow.show_id == show_id).order_by(WayRow.id)
        with reading(self.engine) as session:
            return [
                ConfirmedWay(Protocol(row.protocol), row.to, row.who, row.at)
                for row in session.scalars(found)
            ]

    def confirm(self, show_id: int, protocol: Protocol, to: str, *, who: str) -> ConfirmedWay:
        """Let a show be sent to an address, or to the groups of sACN; ``EditError`` for what is
        none."""
        to = to.strip().lower()
        if to != MULTICAST:
            to = str(as_ip(to))
        elif protocol is not Protocol.SACN:
            raise EditError("Groups are sACN’s: for Art-Net give the address of the node.")
        held = self.of(show_id)
        if len(held) >= MOST_WAYS:
            raise EditError(f"A show is sent to up to {MOST_WAYS} addresses: take one away first.")
        made = ConfirmedWay(protocol, to, who, self.clock())
        if not any((one.protocol, one.to) == (protocol, to) for one in held):
            with writing(self.engine) as session:
                session.add(
                    WayRow(show_id=show_id, protocol=str(protocol), to=to, who=who, at=made.at)
                )
        return made

    def take_away(self, show_id: int, protocol: str, to: str) -> None:
        """Let a show be sent there no more."""
        with writing(self.engine) as session:
            session.execute(
                delete(WayRow).where(
                    WayRow.show_id == show_id, WayRow.protocol == protocol, WayRow.to == to
                )
            )
