"""Days and times as they are written on paper, in the log and on pages before the browser turns
them into its own form."""

from __future__ import annotations

from datetime import UTC, date, datetime

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def written_day(day: date) -> str:
    """A day, such as ``29 Nov 2025``, whatever language the machine speaks."""
    return f"{day.day} {MONTHS[day.month - 1]} {day.year}"


def written_time(at: datetime) -> str:
    """A time with its day, such as ``29 Nov 2025, 18:05``, on the clock that it is given in."""
    return f"{written_day(at)}, {at:%H:%M}"


def iso(at: datetime) -> str:
    """A time as files and browsers have it, in UTC: ``2025-11-29T18:05:00Z``. One without a zone is
    taken in UTC."""
    known = at if at.tzinfo else at.replace(tzinfo=UTC)
    return f"{known.astimezone(UTC):%Y-%m-%dT%H:%M:%SZ}"
