"""How often a password or a code is tried in vain: counted by who tries and from where, so that
nobody locks out others.

A try is counted before it is looked at, and taken off the count again when it was right: so of many
that come at once no more are looked at than of those that come one after the other.
"""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from ipaddress import IPv6Address, ip_address, ip_network

from flask import Response, after_this_request, current_app, request
from itsdangerous import BadSignature, URLSafeSerializer
from limits import RateLimitItem, parse_many
from limits.storage import MemoryStorage
from limits.strategies import FixedWindowRateLimiter
from werkzeug.exceptions import TooManyRequests

OF_ONE_PLACE = tuple(parse_many("10 per minute; 60 per hour"))
"""Wrong tries from one place in the network, or from one browser that is known."""
OF_ONE_NAME = tuple(parse_many("30 per hour"))
"""Wrong tries for one name from one place."""
MOST_KNOWN = 20
"""People that one browser is known for."""
KNOWN_SECONDS = 60 * 60 * 24 * 365


@dataclass(frozen=True)
class Counted:
    """What a try counts against: some limits, for one key."""

    limits: tuple[RateLimitItem, ...]
    key: tuple[str, ...]


@dataclass
class Attempt:
    """A try that is under way; ``right`` is said when it was not in vain."""

    right: bool = False


@dataclass
class Tries:
    """The tries of one Fence, in memory: they are counted anew when it starts."""

    enabled: bool = True
    _windows: FixedWindowRateLimiter = field(
        default_factory=lambda: FixedWindowRateLimiter(MemoryStorage())
    )

    @contextmanager
    def trying(self, *against: Counted) -> Iterator[Attempt]:
        """One try; ``TooManyRequests`` where there were too many in vain."""
        attempt, taken = Attempt(), list[tuple[RateLimitItem, tuple[str, ...]]]()
        pairs = (
            [(limit, one.key) for one in against for limit in one.limits] if self.enabled else []
        )
        try:
            for limit, key in pairs:
                free = self._windows.hit(limit, *key)
                taken.append((limit, key))
                if not free:
                    attempt.right = True  # it was not looked at, so it is no try in vain
                    raise TooManyRequests
            yield attempt
        finally:
            if attempt.right:
                for limit, key in taken:
                    self._windows.hit(limit, *key, cost=-1)


def tries() -> Tries:
    """The tries of the running application."""
    found: Tries = current_app.extensions["fence_tries"]
    return found


def from_here() -> str:
    """The place in the network that a request comes from: an address, and of IPv6 the network that
    one site has."""
    try:
        address = ip_address(request.remote_addr or "")
    except ValueError:
        return ""
    if isinstance(address, IPv6Address):
        return str(address.ipv4_mapped or ip_network(f"{address}/64", strict=False))
    return str(address)


def against_place() -> Counted:
    """What a code counts against."""
    return Counted(OF_ONE_PLACE, ("place", from_here()))


def against_name(name: str, person_id: int | None) -> tuple[Counted, ...]:
    """What a password counts against: of a browser that this person has been on with before only
    its own tries."""
    device, known = known_browser()
    if person_id is not None and person_id in known:
        return (Counted(OF_ONE_PLACE, ("browser", device, str(person_id))),)
    return against_place(), Counted(
        OF_ONE_NAME, ("name", from_here(), " ".join(name.split()).casefold()[:240])
    )


# ---- browsers that are known


def _cookie() -> str:
    return f"{current_app.config['SESSION_COOKIE_NAME']}_known"


def _signer() -> URLSafeSerializer:
    return URLSafeSerializer(current_app.config["SECRET_KEY"], salt="known browser")


def known_browser() -> tuple[str, tuple[int, ...]]:
    """A name for this browser that no other has, and the ids of those who have been on with it;
    empty for a new one."""
    try:
        device, ids = _signer().loads(request.cookies.get(_cookie(), "")[:2000])
        return str(device), tuple(map(int, ids))
    except (BadSignature, ValueError, TypeError):
        return "", ()


def know_browser(person_id: int) -> None:
    """Have this browser known for a person, from the answer to this request on."""
    device, known = known_browser()
    ids = [person_id, *(one for one in known if one != person_id)][:MOST_KNOWN]
    signed = _signer().dumps([device or secrets.token_hex(8), ids])

    @after_this_request
    def keep(response: Response) -> Response:
        response.set_cookie(
            _cookie(),
            str(signed),
            max_age=KNOWN_SECONDS,
            httponly=True,
            samesite="Lax",
            secure=bool(current_app.config["SESSION_COOKIE_SECURE"]),
        )
        return response
