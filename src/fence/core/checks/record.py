"""What was done at the fixtures, held against the plan: set before a change, says something else,
never set.

These speak of what stands in the rig, so they are told position by position. Nothing is said of a
show at which nobody has begun to set.
"""

from __future__ import annotations

from collections.abc import Iterator

from fence.core.checks.finding import Finding, Rule, Severity
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.standing import State, stands_words, state_of
from fence.core.model.text import agreeing, counted, joined

RULES = (
    Rule(
        "sign",
        "Did not answer as it should",
        "Until it is proven right, it may stay dark, or another one light up.",
    ),
    Rule(
        "set-differs",
        "Says something else",
        "It listens where the plan has somebody else, or nobody.",
    ),
    Rule(
        "set-before-change",
        "Set before the plan changed",
        "It still stands in what the plan said then.",
    ),
    Rule("never-set", "Not set yet", "The plan is only paper until it stands in the fixture."),
)


def check_record(show: Show) -> Iterator[Finding]:
    """All findings that follow from what was set and read back."""
    for index in show.occupancy.signed:
        yield _sign(show.fixtures[index])
    if not show.occupancy.recorded:
        return
    again: dict[str, list[Fixture]] = {}
    never: dict[str, list[Fixture]] = {}
    for fixture in show.fixtures:
        state = state_of(show, fixture)
        if state is State.DIFFERS:
            yield _differs(fixture)
        elif state is State.RE_SET:
            again.setdefault(fixture.position, []).append(fixture)
        elif state is State.TO_SET:
            never.setdefault(fixture.position, []).append(fixture)
    for place, fixtures in again.items():
        were = agreeing(len(fixtures), "was", "were")
        words = f"{_names(fixtures)}{_at(place)} {were} set before the plan changed."
        yield Finding("set-before-change", Severity.CAUTION, words, tuple(f.id for f in fixtures))
    for place, fixtures in never.items():
        words = f"{counted(len(fixtures), 'fixture')}{_at(place)} not set yet: {_names(fixtures)}."
        yield Finding("never-set", Severity.NOTE, words, tuple(f.id for f in fixtures))


def _sign(fixture: Fixture) -> Finding:
    """What was seen when it was brought up, until it is proven right."""
    assert fixture.sign is not None
    by = f" ({fixture.sign.by.who})" if fixture.sign.by.who else ""
    words = f"{fixture.label} {fixture.sign.words}{by}."
    return Finding("sign", Severity.CAUTION, words, (fixture.id,), about=str(fixture.sign.seen))


def _differs(fixture: Fixture) -> Finding:
    """One finding a fixture: each has its own cause. Where a reason is noted it is no more than a
    note."""
    plan = fixture.planned_at
    words = f"{fixture.label} says {stands_words(fixture)}; the plan says {plan}, {fixture.mode}."
    reason = fixture.read_back.reason if fixture.read_back else ""
    if reason:
        words += f" Left so: {reason}"
    return Finding(
        "set-differs", Severity.NOTE if reason else Severity.CAUTION, words, (fixture.id,)
    )


def _names(fixtures: list[Fixture]) -> str:
    return joined([fixture.label for fixture in fixtures])


def _at(place: str) -> str:
    return f" at {place}" if place else ""
