"""What the desk cannot do: pages, fixture buttons, a fixed channel layout, its highest slot.

A desk that patches freely and takes any layout says nothing here.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from fence.core.checks.finding import Finding, Rule, Severity, which_parts
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Function, Mode
from fence.core.model.sharing import movers_in
from fence.core.model.show import PlacedRun, Show
from fence.core.model.text import counted

RULES = (
    Rule(
        "page-size",
        "Larger than a page",
        "Each fixture button controls one page; channels beyond it cannot be reached.",
    ),
    Rule(
        "page-grid",
        "Not on a page",
        "The desk's pages begin at fixed slots; a start between them answers two buttons.",
    ),
    Rule(
        "desk-fixtures",
        "More fixtures than buttons",
        "The desk has one button for each fixture or sharing group.",
    ),
    Rule(
        "desk-layout",
        "Not the desk's layout",
        "The desk sends fixed functions slot by slot; another mode reads them wrongly.",
    ),
)


def check_desk(show: Show) -> Iterator[Finding]:
    """All findings that follow from the desk's limits."""
    desk = show.desk
    if (
        desk.page is None
        and desk.buttons is None
        and not desk.layout
        and desk.highest == Desk().highest
    ):
        return
    for fixture in show.fixtures:
        runs = show.runs_of(fixture)
        for placed in runs:
            yield from _placed(desk, placed)
        mode = show.mode_of(fixture)
        if (
            mode is not None
            and desk.page is not None
            and any(part.footprint > desk.page for part in mode.parts)
        ):
            yield _too_large(show, fixture, mode)
        if (
            mode is not None
            and mode.footprint
            and desk.layout
            and not matches_layout(mode, desk.layout)
        ):
            yield _unlike(show, fixture, mode)
    yield from _buttons(show)


def matches_layout(mode: Mode, layout: Sequence[Function]) -> bool:
    """Whether a mode reads a desk's layout channel for channel: the same functions from the first
    slot on.

    A mode may be shorter than the layout, never longer; one without a chart cannot be told to
    match.
    """
    functions = [function for function, _, _ in mode.functions]
    return bool(functions) and functions == list(layout[: len(functions)])


def fits_page(mode: Mode, page: int | None) -> bool:
    """Whether each part of a mode has room on one page of the desk; anything has where there are no
    pages."""
    return page is None or all(part.footprint <= page for part in mode.parts)


def _placed(desk: Desk, placed: PlacedRun) -> Iterator[Finding]:
    run, fixture = placed.run, placed.fixture
    name = desk.name or "The desk"
    if desk.page is not None and (run.first - 1) % desk.page:
        before = run.first - (run.first - 1) % desk.page
        near = f"at {before}" + (
            f" and {before + desk.page}" if before + desk.page <= desk.highest else ""
        )
        yield Finding(
            "page-grid",
            Severity.STOP,
            f"{fixture.label} starts at {run.first}; the pages of {name} begin at 1 and every "
            f"{desk.page} slots, "
            f"here {near}.",
            (fixture.id,),
            run.universe,
            run.first,
            run.first,
            about=which_parts(placed.part),
        )
    if run.last > desk.highest and run.past_end == 0:
        yield Finding(
            "universe-limit",
            Severity.STOP,
            f"{name} sends slots 1 to {desk.highest}; {fixture.label} takes {run.first} to "
            f"{run.last}.",
            (fixture.id,),
            run.universe,
            run.first,
            run.last,
            about=which_parts(placed.part),
        )


def _too_large(show: Show, fixture: Fixture, mode: Mode) -> Finding:
    desk, profile = show.desk, show.profile_of(fixture)
    largest = max(part.footprint for part in mode.parts)
    fitting = (
        [other.name for other in profile.modes if fits_page(other, desk.page)] if profile else []
    )
    return Finding(
        "page-size",
        Severity.STOP,
        f"{fixture.label} takes {counted(largest, 'channel')} in {mode.name}; a page of "
        f"{desk.name or 'the desk'} "
        f"has {desk.page}. {_way_out(fitting)}",
        (fixture.id,),
        fixture.universe,
    )


def _way_out(fitting: Sequence[str]) -> str:
    if fitting:
        return f"Modes that fit: {', '.join(fitting)}."
    return "None of its modes fits: it is unusable on this desk."


def _unlike(show: Show, fixture: Fixture, mode: Mode) -> Finding:
    layout, profile = show.desk.layout, show.profile_of(fixture)
    fitting = (
        [other.name for other in profile.modes if matches_layout(other, layout)] if profile else []
    )
    wanted = ", ".join(layout)
    functions = [function for function, _, _ in mode.functions]
    if not functions:
        reason = f"what {mode.name} does is not known"
    else:
        place = next(
            (
                n
                for n, pair in enumerate(zip(functions, layout, strict=False))
                if pair[0] != pair[1]
            ),
            len(layout),
        )
        has = layout[place] if place < len(layout) else "nothing more"
        reason = f"channel {place + 1} of {mode.name} is {functions[place]}, the desk sends {has}"
    return Finding(
        "desk-layout",
        Severity.STOP,
        f"{fixture.label}: {reason} ({wanted}). {_way_out(fitting)}",
        (fixture.id,),
        fixture.universe,
        fixture.start,
        fixture.start,
    )


def _buttons(show: Show) -> Iterator[Finding]:
    if show.desk.buttons is None:
        return
    seen = movers_in(fixture for fixture in show.fixtures if any(show.footprints_of(fixture)))
    if len(seen) > show.desk.buttons:
        beyond = [
            fixture.id
            for members in list(seen.values())[show.desk.buttons :]
            for fixture in members
        ]
        first = show.fixture(beyond[0]).label
        yield Finding(
            "desk-fixtures",
            Severity.STOP,
            f"{show.desk.name or 'The desk'} has {counted(show.desk.buttons, 'fixture button')}; "
            f"the rig needs {len(seen)}. From {first} on there is none. "
            f"Fixtures that share an address need one button together.",
            tuple(beyond),
        )
