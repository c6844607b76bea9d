"""Rules on single fixtures and on those that belong together: mode, address, switches, sharing,
names used twice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

from fence.core.checks.finding import Finding, Severity, which_parts
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Setter, SetterKind
from fence.core.model.show import Show
from fence.core.model.text import counted, from_to, joined


def no_mode(show: Show, fixtures: Iterable[Fixture]) -> Iterator[Finding]:
    """A finding for each of ``fixtures``, whose mode the chart lacks."""
    for fixture in fixtures:
        profile = show.profile_of(fixture)
        offered = ", ".join(mode.name for mode in profile.modes) if profile else ""
        yield Finding(
            "mode-missing",
            Severity.STOP,
            f"{fixture.label} has no mode"
            + (f" “{fixture.mode}”" if fixture.mode else " yet")
            + (
                f" in the chart of {profile.title}: choose one of {offered}."
                if profile
                else ": its chart is missing."
            ),
            (fixture.id,),
            fixture.universe,
        )


def no_address(fixtures: Iterable[Fixture]) -> Iterator[Finding]:
    """A finding for each of ``fixtures``, which have a part without an address."""
    for fixture in fixtures:
        yield Finding(
            "no-address",
            Severity.CAUTION,
            f"{fixture.label} has no start address yet.",
            (fixture.id,),
            fixture.universe,
        )


def unsettable(show: Show, parts: Iterable[tuple[Fixture, int]]) -> Iterator[Finding]:
    """A finding for each of ``parts``, whose planned address the fixture cannot be set to."""
    for fixture, part in parts:
        profile = show.profile_of(fixture)
        assert profile is not None
        slot = fixture.patch[part].slot
        lowest, highest = profile.setter.settable
        yield Finding(
            "setter-range",
            Severity.STOP,
            f"{fixture.label} is planned at {slot}, but {_setter_words(profile.setter)} "
            f"{from_to(lowest, highest)} only.",
            (fixture.id,),
            fixture.patch[part].universe,
            slot,
            slot,
            about=which_parts(part),
        )


def _setter_words(setter: Setter) -> str:
    if setter.kind is SetterKind.SWITCHES:
        return f"its {counted(setter.switches, 'switch', 'switches')} can be set to"
    if setter.kind is SetterKind.ROTARY:
        return "its wheels can be set to"
    return "it listens to"


def unlike_sharers(
    show: Show, groups: Iterable[tuple[str, Sequence[Fixture]]]
) -> Iterator[Finding]:
    """Findings where a member of a sharing group differs from the first."""
    for group, members in groups:
        lead = members[0]
        for member in members[1:]:
            yield from _compared(show, group, lead, member)


def _compared(show: Show, group: str, lead: Fixture, member: Fixture) -> Iterator[Finding]:
    severity, about, reason = Severity.STOP, "", ""
    lead_mode, mode = show.mode_of(lead), show.mode_of(member)
    assert lead_mode is not None
    assert mode is not None
    if member.patch != lead.patch:
        about = "address"
        reason = f"{lead.label} is at {lead.planned_at}, {member.label} at {member.planned_at}"
    elif (member.profile, member.mode) != (lead.profile, lead.mode):
        alike = bool(mode.functions) and mode.functions == lead_mode.functions
        if member.profile != lead.profile and alike:
            severity, about = Severity.CAUTION, "type alike"
            reason = (
                f"{member.label} is of another type than {lead.label}, though its channels "
                "are alike"
            )
        elif member.profile != lead.profile:
            about = "type"
            reason = (
                f"{member.label} is of another type than {lead.label} and reads the slots in "
                "another way"
            )
        else:
            about = "mode"
            reason = f"{lead.label} is in mode {lead.mode}, {member.label} in {member.mode}"
    if reason:
        start = member.start
        yield Finding(
            "share-mismatch",
            severity,
            f"{group} shares one address, but {reason}.",
            (lead.id, member.id),
            member.universe,
            start,
            start + max(mode.parts[0].footprint, 1) - 1 if start else None,
            about=about,
        )


def used_twice(show: Show) -> Iterator[Finding]:
    """Findings for numbers and labels that two fixtures bear."""
    numbers = [fixture.number for fixture in show.fixtures if fixture.number is not None]
    for number, twins in _twins(show, numbers, "number"):
        yield Finding(
            "duplicate-number",
            Severity.CAUTION,
            f"Number {number} is used by {joined([twin.label for twin in twins])}.",
            _ids(twins),
        )
    labels = [fixture.label for fixture in show.fixtures]
    for label, twins in _twins(show, labels, "label"):
        yield Finding(
            "duplicate-label",
            Severity.CAUTION,
            f"{len(twins)} fixtures are called {label}.",
            _ids(twins),
        )


def _twins(
    show: Show, names: Sequence[object], attribute: str
) -> Iterable[tuple[object, list[Fixture]]]:
    """Each name that occurs more than once, with the fixtures that bear it."""
    if len(set(names)) == len(names):
        return ()
    twins: dict[object, list[Fixture]] = {
        name: [] for name, count in Counter(names).items() if count > 1
    }
    for fixture in show.fixtures:
        held = twins.get(getattr(fixture, attribute))
        if held is not None:
            held.append(fixture)
    return twins.items()


def _ids(fixtures: Sequence[Fixture]) -> tuple[int, ...]:
    return tuple(fixture.id for fixture in fixtures)
