"""Limits of people and their passwords, on both sides."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest

from fence.core.model.errors import EditError
from fence.store.people import SITTING_DAYS, People, Role
from fence.store.shows import ShowStore

NOW = datetime(2026, 11, 29, 12)


@pytest.fixture
def people(store: ShowStore) -> People:
    return People(store.engine, lambda: NOW)


@pytest.mark.parametrize(
    ("password", "good"),
    [
        ("a quiet lo", True),
        ("a quiet l", False),
        ("   a quiet l   ", False),
        ("abcd" * 50, True),
        ("abcd" * 50 + "e", False),
        ("abcabcabca", False),
        ("abcdabcdab", True),
    ],
)
def test_a_password_is_long_enough_and_not_too_long(
    people: People, password: str, good: bool
) -> None:
    """10 to 200 characters beside blanks at its ends, at least four different ones."""
    code = people.invite(Role.CREW, hours=1, by="")
    if good:
        assert people.join(code, "Crew", password).name == "Crew"
    else:
        with pytest.raises(EditError, match="A password has"):
            people.join(code, "Crew", password)


def test_so_many_invitations_and_people(people: People, monkeypatch: pytest.MonkeyPatch) -> None:
    """The last that is taken and the first that is refused."""
    monkeypatch.setattr("fence.store.people.MOST_INVITATIONS", 2)
    monkeypatch.setattr("fence.store.people.MOST_PEOPLE", 2)
    first, second = (
        people.invite(Role.OWNER, hours=1, by=""),
        people.invite(Role.CREW, hours=1, by=""),
    )
    with pytest.raises(EditError, match="2 invitations"):
        people.invite(Role.CREW, hours=1, by="")
    people.join(first, "One", "a quiet long night")
    people.join(second, "Two", "a quiet long night")
    third = people.invite(Role.CREW, hours=1, by="")
    with pytest.raises(EditError, match="2 people"):
        people.join(third, "Three", "a quiet long night")


@pytest.mark.parametrize(("hours", "good"), [(0.99, True), (1.0, False)])
def test_an_invitation_ends_in_time(store: ShowStore, hours: float, good: bool) -> None:
    """Up to its hour, and not at it."""
    now = [NOW]
    people = People(store.engine, lambda: now[0])
    code = people.invite(Role.CREW, hours=1, by="")
    now[0] += timedelta(hours=hours)
    if good:
        assert people.join(code, "Crew", "a quiet long night")
    else:
        with pytest.raises(EditError, match="not good any more"):
            people.join(code, "Crew", "a quiet long night")


@pytest.mark.parametrize(("beyond", "there"), [(timedelta(0), True), (timedelta(seconds=1), False)])
def test_a_log_in_ends_after_its_days(store: ShowStore, beyond: timedelta, there: bool) -> None:
    """Who was not seen for so many days has to log in again, not a moment before."""
    now = [NOW]
    people = People(store.engine, lambda: now[0])
    person = people.join(people.invite(Role.OWNER, hours=1, by=""), "Owner", "a quiet long night")
    token = people.begin(person.id, "browser")
    now[0] += timedelta(days=SITTING_DAYS) + beyond
    assert (people.at(token) is not None) == there
