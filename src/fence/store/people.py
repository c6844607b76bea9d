"""Who may use a Fence that others can reach: people with roles, invitations, and the browsers they
are logged in with.

Nothing that opens a door is kept as it is: passwords are salted and hashed, codes and cookies are
hashed. A backup that is lost lets nobody in.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from functools import cache
from hashlib import sha256

from sqlalchemy import Engine, delete, func, select, update
from sqlalchemy.orm import Session
from werkzeug.security import check_password_hash, generate_password_hash

from fence.core.model.errors import EditError
from fence.store.database import reading, writing
from fence.store.errors import StorageError
from fence.store.naming import LONGEST_NAME, check_name
from fence.store.tables import InvitationRow, PersonRow, SittingRow

SHORTEST_PASSWORD, LONGEST_PASSWORD = 10, 200
"""Characters of a password, blanks at its ends not counted."""
FEWEST_UNLIKE = 4
"""Different characters that a password has at least: ten blanks are none. Long ones need no other
rules."""
HASHED_BY = "scrypt"
"""How passwords are hashed, as the package that does it calls it."""
MOST_PEOPLE = 200
MOST_INVITATIONS = 50
MOST_SITTINGS = 20
"""Browsers that one person is logged in with; the one not seen for longest is logged out for the
next."""
SITTING_DAYS = 30
"""Days after which a browser that was not used is logged out."""
SEEN_SECONDS = 60
"""How exactly it is kept when a browser was seen last."""
INVITED_HOURS = (1, 24, 72, 168)
"""Hours for which an invitation may be good."""
LETTERS = "23456789ABCDEFGHJKMNPQRSTVWXYZ"
"""What codes are made of: none that is taken for another."""
CODE_LENGTH = 12


class Role(StrEnum):
    """What somebody may do. Each may do all that those before it may."""

    READER = "reader"
    CREW = "crew"
    PLANNER = "planner"
    OWNER = "owner"

    @property
    def rank(self) -> int:
        """Roles in order, the one that may least first."""
        return RANKS[self]

    def may(self, needed: Role) -> bool:
        """Whether this role is enough where ``needed`` is asked for."""
        return self.rank >= needed.rank

    @property
    def means(self) -> str:
        """What it is for, in a few words."""
        return MEANS[self]


RANKS = {role: rank for rank, role in enumerate(Role)}
MEANS = {
    Role.READER: "looks at everything, changes nothing",
    Role.CREW: "marks what is set and proven, writes notes, sets fixtures over RDM, brings up the "
    "practice rig",
    Role.PLANNER: "changes the plan, sends to real fixtures, gives them factory defaults, too",
    Role.OWNER: "everything, people and backups, too",
}


@dataclass(frozen=True, slots=True)
class Person:
    """Somebody who may log in."""

    id: int
    name: str
    role: Role


@dataclass(frozen=True, slots=True)
class Sitting:
    """A browser that somebody is logged in with. Times are in UTC."""

    id: int
    person: Person
    device: str
    began: datetime
    seen: datetime


@dataclass(frozen=True, slots=True)
class Invitation:
    """A code that is still good; the code itself is known only to whoever made it."""

    id: int
    role: Role
    by: str
    until: datetime


def _hashed(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()


def _tidied(code: str) -> str:
    return "".join(letter for letter in code.upper()[:100] if letter.isalnum())


def spaced(code: str) -> str:
    """A code as a person reads it out, such as ``K7QM-2XWD-9FHT``."""
    return "-".join(code[place : place + 4] for place in range(0, len(code), 4))


@cache
def _nobodys() -> str:
    """A hash that no password has, so that an unknown name takes as long as a wrong password."""
    return generate_password_hash(secrets.token_hex(16), HASHED_BY)


class WrongPassword(EditError):  # noqa: N818 - it is an answer for people first
    """Another password than the one that is kept."""


class People:
    """Everybody who may use one Fence."""

    def __init__(self, engine: Engine, clock: Callable[[], datetime]) -> None:
        self.engine, self.clock = engine, clock

    # ---- people

    def owned(self) -> bool:
        """Whether there is an owner."""
        with reading(self.engine) as session:
            return bool(_owners(session))

    def all(self) -> list[Person]:
        """Everybody, by name."""
        with reading(self.engine) as session:
            return [
                _person(row)
                for row in session.scalars(select(PersonRow).order_by(PersonRow.folded))
            ]

    def id_of(self, name: str) -> int | None:
        """The id of whoever has that name."""
        with reading(self.engine) as session:
            return session.scalar(select(PersonRow.id).where(PersonRow.folded == _folded(name)))

    def known(self, name: str, password: str) -> Person | None:
        """The person of that name and password. It takes as long for a name that nobody has."""
        with reading(self.engine) as session:
            row = session.scalar(select(PersonRow).where(PersonRow.folded == _folded(name)))
        held = row.password if row is not None else _nobodys()
        right = check_password_hash(held, password[:LONGEST_PASSWORD])
        return _person(row) if row is not None and right else None

    def change_password(self, person_id: int, old: str, new: str) -> None:
        """Take another password; ``EditError`` where the old one is wrong or the new one will not
        do."""
        with reading(self.engine) as session:
            row = session.get(PersonRow, person_id)
        if row is None or not check_password_hash(row.password, old[:LONGEST_PASSWORD]):
            raise WrongPassword("That is not your password of now.")
        fresh = _password(new)
        with writing(self.engine) as session:
            session.execute(
                update(PersonRow).where(PersonRow.id == person_id).values(password=fresh)
            )

    def set_role(self, person_id: int, role: Role) -> Person:
        """Give somebody another role; ``EditError`` where no owner would be left."""
        with writing(self.engine) as session:
            row = _row(session, person_id)
            if role is not Role.OWNER:
                _check_owner_left(session, row)
            row.role = role
            return _person(row)

    def remove(self, person_id: int) -> Person:
        """Take somebody out, and end wherever they are logged in; what they did stays on the
        log."""
        with writing(self.engine) as session:
            row = _row(session, person_id)
            _check_owner_left(session, row)
            found = _person(row)
            session.delete(row)
            return found

    # ---- where they are logged in

    def begin(self, person_id: int, device: str) -> str:
        """Log somebody in with one more browser; gives what its cookie holds."""
        token, now = secrets.token_urlsafe(32), self.clock()
        with writing(self.engine) as session:
            session.execute(
                delete(SittingRow).where(SittingRow.seen < now - timedelta(days=SITTING_DAYS))
            )
            # where the clock went back, the others were seen later than it is now: the new one is
            # the last all the same
            seen = max(now, session.scalar(select(func.max(SittingRow.seen))) or now)
            session.add(
                SittingRow(
                    token=_hashed(token),
                    person_id=person_id,
                    device=device[:200],
                    began=now,
                    seen=seen,
                )
            )
            session.flush()
            newest = (
                select(SittingRow.id)
                .where(SittingRow.person_id == person_id)
                .order_by(SittingRow.seen.desc(), SittingRow.id.desc())
                .limit(MOST_SITTINGS)
            )
            session.execute(
                delete(SittingRow).where(
                    SittingRow.person_id == person_id, SittingRow.id.not_in(newest)
                )
            )
        return token

    def at(self, token: str) -> Sitting | None:
        """Who is logged in with the browser that holds ``token``; None once that has ended."""
        found = select(SittingRow, PersonRow).join(PersonRow, PersonRow.id == SittingRow.person_id)
        now = self.clock()
        with reading(self.engine) as session:
            row = session.execute(found.where(SittingRow.token == _hashed(token))).first()
            if row is None or row[0].seen < now - timedelta(days=SITTING_DAYS):
                return None
            sitting = _sitting(row[0], row[1])
        if sitting.seen < now - timedelta(seconds=SEEN_SECONDS):
            # it is there, also where that is not kept
            with suppress(StorageError), writing(self.engine) as session:
                session.execute(
                    update(SittingRow).where(SittingRow.id == sitting.id).values(seen=now)
                )
        return sitting

    def sitting(self, sitting_id: int) -> Sitting | None:
        """A log-in by its number; None once it has ended."""
        found = select(SittingRow, PersonRow).join(PersonRow, PersonRow.id == SittingRow.person_id)
        with reading(self.engine) as session:
            row = session.execute(found.where(SittingRow.id == sitting_id)).first()
            return _sitting(row[0], row[1]) if row is not None else None

    def sittings(self, person_id: int | None = None) -> list[Sitting]:
        """Where somebody, or everybody, is logged in; the last seen first."""
        found = select(SittingRow, PersonRow).join(PersonRow, PersonRow.id == SittingRow.person_id)
        if person_id is not None:
            found = found.where(PersonRow.id == person_id)
        with reading(self.engine) as session:
            rows = session.execute(
                found.order_by(SittingRow.seen.desc(), SittingRow.id.desc())
            ).all()
            return [_sitting(row, person) for row, person in rows]

    def end(self, sitting_id: int, *, of: int | None = None) -> None:
        """Log a browser out, at once; with ``of`` only if it is that person's."""
        ended = delete(SittingRow).where(SittingRow.id == sitting_id)
        with writing(self.engine) as session:
            session.execute(ended if of is None else ended.where(SittingRow.person_id == of))

    def end_others(self, person_id: int, kept: int) -> None:
        """Log a person out everywhere but at one browser."""
        with writing(self.engine) as session:
            session.execute(
                delete(SittingRow).where(SittingRow.person_id == person_id, SittingRow.id != kept)
            )

    # ---- invitations

    def invite(self, role: Role, *, hours: int, by: str) -> str:
        """A code that lets one person in, once, for some hours; it is shown now and never again."""
        if hours not in INVITED_HOURS:
            raise EditError(
                f"An invitation is good for {', '.join(map(str, INVITED_HOURS))} hours."
            )
        code, now = "".join(secrets.choice(LETTERS) for _ in range(CODE_LENGTH)), self.clock()
        with writing(self.engine) as session:
            session.execute(delete(InvitationRow).where(InvitationRow.until <= now))
            if (
                session.scalar(select(func.count()).select_from(InvitationRow)) or 0
            ) >= MOST_INVITATIONS:
                raise EditError(
                    f"{MOST_INVITATIONS} invitations are open already: withdraw some first."
                )
            session.add(
                InvitationRow(
                    code=_hashed(code), role=role, by=by, until=now + timedelta(hours=hours)
                )
            )
        return code

    def invite_owner(self, *, hours: int = 24) -> str:
        """The invitation of the first start, or for an owner who forgot the password: one of them
        at a time."""
        with writing(self.engine) as session:
            session.execute(
                delete(InvitationRow).where(
                    InvitationRow.role == Role.OWNER, InvitationRow.by == ""
                )
            )
        return self.invite(Role.OWNER, hours=hours, by="")

    def invited(self, code: str) -> Invitation | None:
        """The invitation behind a code, as long as it is good."""
        with reading(self.engine) as session:
            row = session.scalar(
                select(InvitationRow).where(InvitationRow.code == _hashed(_tidied(code)))
            )
            return _invitation(row) if row is not None and row.until > self.clock() else None

    def invitations(self) -> list[Invitation]:
        """Those that are open."""
        found = (
            select(InvitationRow)
            .where(InvitationRow.until > self.clock())
            .order_by(InvitationRow.id)
        )
        with reading(self.engine) as session:
            return [_invitation(row) for row in session.scalars(found)]

    def withdraw(self, invitation_id: int) -> None:
        """Take an invitation back."""
        with writing(self.engine) as session:
            session.execute(delete(InvitationRow).where(InvitationRow.id == invitation_id))

    def join(self, code: str, name: str, password: str) -> Person:
        """Take an invitation: its code is used up.

        ``EditError`` where it is not good, or where the name or the password will not do: then it
        stays good.
        """
        name = check_name(name)
        fresh = _password(password)
        with writing(self.engine) as session:
            found = select(InvitationRow).where(InvitationRow.code == _hashed(_tidied(code)))
            invitation = session.scalar(found.where(InvitationRow.until > self.clock()))
            if invitation is None:
                raise EditError(NOT_GOOD)
            check_name(name, session.scalars(select(PersonRow.name)))
            if (session.scalar(select(func.count()).select_from(PersonRow)) or 0) >= MOST_PEOPLE:
                raise EditError(
                    f"There are {MOST_PEOPLE} people already: the owner takes some out first."
                )
            row = PersonRow(
                name=name,
                folded=_folded(name),
                role=invitation.role,
                password=fresh,
                since=self.clock(),
            )
            session.add(row)
            session.delete(invitation)
            session.flush()
            return _person(row)


NOT_GOOD = (
    "This invitation is not good any more: it works once, and for a limited time. Ask the "
    "owner for another."
)


def _folded(name: str) -> str:
    return " ".join(name.split()).casefold()[: 4 * LONGEST_NAME]


def _password(password: str) -> str:
    if not SHORTEST_PASSWORD <= len(password.strip()) <= len(password) <= LONGEST_PASSWORD:
        raise EditError(
            f"A password has {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} characters beside blanks "
            "at its ends; "
            "a few words make a good one."
        )
    if len(set(password)) < FEWEST_UNLIKE:
        raise EditError(
            f"A password has at least {FEWEST_UNLIKE} different characters; a few words make a "
            "good one."
        )
    return generate_password_hash(password, HASHED_BY)


def _row(session: Session, person_id: int) -> PersonRow:
    row = session.get(PersonRow, person_id) if 0 < person_id < 2**63 else None
    if row is None:
        raise EditError("There is no such person any more: load the page again.")
    return row


def _owners(session: Session) -> int:
    return (
        session.scalar(
            select(func.count()).select_from(PersonRow).where(PersonRow.role == Role.OWNER)
        )
        or 0
    )


def _check_owner_left(session: Session, row: PersonRow) -> None:
    if row.role == Role.OWNER and _owners(session) == 1:
        raise EditError(f"{row.name} is the only owner: make somebody else one first.")


def _person(row: PersonRow) -> Person:
    return Person(row.id, row.name, Role(row.role))


def _sitting(row: SittingRow, person: PersonRow) -> Sitting:
    return Sitting(row.id, _person(person), row.device, row.began, row.seen)


def _invitation(row: InvitationRow) -> Invitation:
    return Invitation(row.id, Role(row.role), row.by, row.until)
