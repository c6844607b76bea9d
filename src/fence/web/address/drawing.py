"""The fence: a universe as rails of pickets, as plain numbers for the template.

Everything is computed here, in units of the drawing; the template only writes it down.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from fence.core.checks import Finding, Severity
from fence.core.model.address import SLOTS, Address, Run
from fence.core.model.show import PlacedRun, Show
from fence.core.model.space import Use, use_of
from fence.core.model.standing import AGAIN, DONE, state_of
from fence.web.address.rails import PICKET_HEIGHT, RAIL_PITCH, TOP, WIDE, Rails, Segment

RAIL_DROP = 19
ADDRESS_DROP = PICKET_HEIGHT + 15
NAME_DROP = PICKET_HEIGHT + 30
DIGIT_WIDTH = 8.4
LETTER_WIDTH = 7.0
HUES = 10


@dataclass(frozen=True, slots=True)
class Text:
    """Words at a place of the drawing."""

    x: float
    y: float
    words: str
    bad: bool = False


@dataclass(frozen=True, slots=True)
class RunDrawing:
    """A run of slots as it is drawn. ``fixtures`` has more than one entry where an address is
    shared on purpose."""

    fixture: int
    part: int
    start: int
    length: int
    hue: int
    body: str
    head: str
    clash: str
    segments: tuple[Segment, ...]
    title: str
    address: Text | None
    name: Text | None
    picked: bool
    bad: bool
    pinned: bool
    shared: bool
    fallen: str
    state: str
    nail: tuple[float, float]
    odd: bool
    moved: bool


@dataclass(frozen=True, slots=True)
class FenceDrawing:
    """A universe, drawn."""

    universe: int
    use: Use
    free: str
    reserved: str
    rails: tuple[Text, ...]
    runs: tuple[RunDrawing, ...]
    gaps: tuple[Text, ...]
    on: Rails = WIDE
    rail_pitch: int = RAIL_PITCH
    top: int = TOP
    rail_drop: int = RAIL_DROP


@dataclass(slots=True)
class _Rail:
    """How far the words on each line of a rail reach, so that none is written over another."""

    address_end: float = 0
    name_end: float = 0


@dataclass(slots=True)
class _Row:
    """The lines of words of all rails, and which fixture stood last in each colour, so that
    neighbours differ."""

    on: Rails
    rails: list[_Rail]
    odd: bool = False
    hue: int = -1


def hue_of(show: Show, position: str) -> int:
    """The number of a position's colour, 0 for none; colours repeat after ten positions."""
    names = [entry.name for entry in show.positions]
    return names.index(position) % HUES + 1 if position in names else 0


def draw_fence(
    show: Show,
    universe: int,
    findings: Sequence[Finding],
    *,
    picked: Collection[int] = (),
    moved: Collection[int] = (),
    on: Rails = WIDE,
) -> FenceDrawing:
    """Draw a universe with what the rules say of it.

    ``picked`` fixtures are drawn as such, ``moved`` ones as those that an edit puts there. Of
    neighbours in one colour every other one is drawn in a second shade.
    """
    use = use_of(show, universe)
    here: dict[int, list[Finding]] = {}
    for finding in findings:
        if finding.universe == universe:
            for fixture_id in finding.fixtures:
                here.setdefault(fixture_id, []).append(finding)
    grouped = _grouped(show.runs_in(universe))
    starts = sorted({group[0].run.first for group in grouped})
    row = _Row(on, [_Rail() for _ in range(on.count)])
    runs = tuple(_draw_run(show, group, here, picked, moved, starts, row) for group in grouped)
    reserved = show.reserved_in(universe)
    free = [slot for gap in use.gaps for slot in range(gap.first, gap.last + 1)]
    return FenceDrawing(
        universe=universe,
        use=use,
        free=on.picket_path(free),
        reserved=on.post_path(reserved),
        rails=tuple(
            Text(on.left - 8, TOP + rail * RAIL_PITCH + 22, f"{rail * on.pickets + 1:03d}")
            for rail in range(on.count)
        ),
        runs=runs,
        gaps=tuple(_gap_labels(use, row)),
        on=on,
    )


def draw_outline(run: Run, on: Rails = WIDE) -> str:
    """The path of the pickets of a run that is not there yet, while it is dragged."""
    return on.picket_path(range(run.first, min(run.last, SLOTS) + 1))


def _grouped(runs: Iterable[PlacedRun]) -> list[list[PlacedRun]]:
    """Runs one by one, those that share a place by declaration together."""
    groups: dict[object, list[PlacedRun]] = {}
    for placed in runs:
        share = placed.fixture.share
        key: object = (
            (share, placed.run, placed.part) if share else (placed.fixture.id, placed.part)
        )
        groups.setdefault(key, []).append(placed)
    return list(groups.values())


def _draw_run(
    show: Show,
    group: list[PlacedRun],
    findings: Mapping[int, Sequence[Finding]],
    picked: Collection[int],
    moved: Collection[int],
    starts: Sequence[int],
    row: _Row,
) -> RunDrawing:
    lead, run, on = group[0].fixture, group[0].run, row.on
    hue = hue_of(show, lead.position)
    row.odd, row.hue = hue == row.hue and not row.odd, hue
    ids = {placed.fixture.id for placed in group}
    mine = [finding for fixture_id in sorted(ids) for finding in findings.get(fixture_id, ())]
    clash = sorted(
        {
            slot
            for finding in mine
            if finding.rule in ("overlap", "reserved") and finding.first and finding.last
            for slot in range(max(finding.first, run.first), min(finding.last, run.last) + 1)
        }
    )
    stops = [finding for finding in mine if finding.severity is Severity.STOP]
    name = " + ".join(placed.fixture.label for placed in group)
    address, label = _labels(run, name, bool(stops), starts, row)
    return RunDrawing(
        fixture=lead.id,
        part=group[0].part,
        start=run.first,
        length=run.length,
        hue=hue,
        body=on.picket_path(range(run.first + 1, run.last + 1)),
        head=on.picket_path([run.first]),
        clash=on.picket_path(clash),
        segments=on.segments_of(run.first, run.last),
        title=_title(show, group, stops),
        address=address,
        name=label,
        picked=bool(ids & set(picked)),
        bad=bool(stops),
        pinned=any(placed.fixture.pinned for placed in group),
        shared=bool(lead.share),
        fallen=on.fallen_path(run.past_end),
        state=set_state(show, group),
        nail=(on.x_of(run.first) + on.width / 2, on.y_of(run.first) + 11),
        odd=row.odd,
        moved=bool(ids & set(moved)),
    )


def set_state(show: Show, group: Sequence[PlacedRun]) -> str:
    """``set`` when all stand as the plan says, ``differs`` when one stands in something else, else
    ``unset``."""
    states = {state_of(show, placed.fixture) for placed in group}
    if states & AGAIN:
        return "differs"
    return "set" if states <= DONE else "unset"


STATES = {"set": "set at the fixture", "differs": "stands in something else", "unset": ""}


def _title(show: Show, group: list[PlacedRun], stops: Sequence[Finding]) -> str:
    fixture, run = group[0].fixture, group[0].run
    names = " and ".join(placed.fixture.label for placed in group)
    words = [f"{names}, {Address(run.universe, run.first)} to {run.last}"]
    if fixture.position:
        words.append(f"at {fixture.position}")
    if fixture.share:
        words.append("shared on purpose")
    if any(placed.fixture.pinned for placed in group):
        words.append("pinned")
    if state := STATES[set_state(show, group)]:
        words.append(state)
    words += [finding.message for finding in stops[:2]]
    return ". ".join(words)


def _labels(
    run: Run, name: str, bad: bool, starts: Sequence[int], row: _Row
) -> tuple[Text | None, Text | None]:
    """The start address and the name below a run, where they find room."""
    on = row.on
    rail = row.rails[on.rail_of(run.first)]
    x, y = on.x_of(run.first), on.y_of(run.first)
    address = None
    if x >= rail.address_end:
        address = Text(x, y + ADDRESS_DROP, f"{run.first:03d}", bad)
        rail.address_end = x + 3 * DIGIT_WIDTH + 4
    after = starts[bisect_right(starts, run.first) :][:1]
    on_rail = after and on.rail_of(after[0]) == on.rail_of(run.first)
    until = on.x_of(after[0]) if on_rail else on.end + 6
    shown = clipped(name, (until - x - 4) / LETTER_WIDTH)
    if not shown or x < rail.name_end:
        return address, None
    rail.name_end = x + len(shown) * LETTER_WIDTH + 3
    return address, Text(x, y + NAME_DROP, shown)


def clipped(name: str, room: float) -> str:
    """``name`` cut to ``room`` letters with an ellipsis; empty where less than four would be
    left."""
    if len(name) <= room:
        return name
    return name[: int(room) - 1].rstrip() + "…" if room >= 5 else ""


def _gap_labels(use: Use, row: _Row) -> Iterable[Text]:
    """How many slots a gap has, on its first rail with room for the words."""
    for gap in use.gaps:
        if gap.length < 4:
            continue
        words = f"{gap.length} free"
        for segment in row.on.segments_of(gap.first, gap.last):
            rail = row.rails[(segment.y - TOP) // RAIL_PITCH]
            x = max(float(segment.x1), rail.address_end + 4)
            if x + len(words) * LETTER_WIDTH <= segment.x2 + row.on.pitch:
                rail.address_end = x + len(words) * LETTER_WIDTH
                yield Text(x, segment.y + ADDRESS_DROP, words)
                break


@dataclass(frozen=True, slots=True)
class Bar:
    """A run in a small universe, one unit a slot."""

    first: int
    length: int
    hue: int
    bad: bool


@dataclass(frozen=True, slots=True)
class Card:
    """A universe in the overview."""

    number: int
    name: str
    free: int
    stops: int
    bars: tuple[Bar, ...]


def draw_card(show: Show, universe: int, stops: int, troubled: Collection[int]) -> Card:
    """A small universe; ``troubled`` are the ids of fixtures with a stop."""
    hues = {entry.name: place % HUES + 1 for place, entry in enumerate(show.positions)}
    bars = tuple(
        Bar(
            placed.run.first,
            min(placed.run.length, SLOTS + 1 - placed.run.first),
            hues.get(placed.fixture.position, 0),
            placed.fixture.id in troubled,
        )
        for placed in show.runs_in(universe)
    )
    known = show.universe_by_number.get(universe)
    return Card(universe, known.name if known else "", use_of(show, universe).free, stops, bars)
