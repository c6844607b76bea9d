"""The charts as values: lines of the shelf, the effect of another chart, what a text was understood
as."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from fence.core import edits
from fence.core.charts.draft import NOT_IN_TEXT, Draft, LineReading, Taken
from fence.core.charts.remarks import ChartRemark
from fence.core.charts.roles import Role
from fence.core.charts.weighing import CLOSE
from fence.core.checks import Verdict, analyse, news
from fence.core.model.profile import Channel, Function, Profile
from fence.core.model.show import Show
from fence.core.model.text import counted, joined
from fence.web.charts.answers import ChartAnswers


@dataclass(frozen=True, slots=True)
class ChartLine:
    """A chart in the list. ``newer``: the library's revision, where it is newer than the show's."""

    profile: Profile
    used: int
    newer: Profile | None
    remarks: tuple[ChartRemark, ...]


@dataclass(frozen=True, slots=True)
class Effect:
    """What another chart does to the show: channels mode by mode, and what the rules would say."""

    footprints: tuple[tuple[str, int, int | None, int], ...]
    before: Verdict
    after: Verdict
    new: tuple[str, ...]


MOST_LISTED = 40
"""Channels of a mode that are listed one by one."""


def listed(channels: Sequence[Channel]) -> list[tuple[int, Channel]]:
    """Channels with their numbers, as far as they are listed: of a mode of many alike cells the
    first two of them."""
    numbered = list(enumerate(channels, 1))
    if len(numbered) <= MOST_LISTED:
        return numbered
    return [(n, one) for n, one in numbered if one.cell is None or one.cell <= 2][:MOST_LISTED]


def effect_on(show: Show, profile: Profile) -> Effect:
    """What the show would be like with this chart in the place of its own."""
    used = Counter(fixture.mode for fixture in show.fixtures if fixture.profile == profile.id)
    old = show.profile_by_id[profile.id]
    changed = []
    for name, count in used.items():
        before, after = old.mode(name), profile.mode(name)
        if before and (after is None or after.footprint != before.footprint):
            changed.append((name, before.footprint, after.footprint if after else None, count))
    then, now = analyse(edits.update_chart(show, profile)), analyse(show)
    new = tuple(finding.message for finding in news(now.findings, then.findings))[:6]
    return Effect(tuple(changed), now.verdict, then.verdict, new)


OPEN_TO_ANSWERS = (Taken.GUESS, Taken.LOST, Taken.LEFT)


MOST_LINES_SHOWN = 500


MOST_COUNTS = 6
"""Modes of another reading whose channels are counted."""


MOST_CHANNELS_SHOWN = 1500


MOST_RANGES_SHOWN = 2500


MOST_REMARKS = 100


MOST_TABLES_SHOWN, MOST_COLUMNS_SHOWN = 12, 24


MOST_SETTLED = 150
"""Lines that a person can say something of on one page."""


@dataclass(frozen=True, slots=True)
class ModeShown:
    """A mode of the draft as far as it is shown: channels with as many of their ranges as there is
    room for."""

    name: str
    count: int
    score: str
    doubts: tuple[str, ...]
    channels: tuple[Channel, ...]


AS_IT_STANDS = "as it stands"


@dataclass(frozen=True, slots=True)
class WayShown:
    """A way in which the text can be meant: what stands for it in the form, what comes of it, and
    whether it is the one that is shown, or nearly as good."""

    value: str
    words: str
    modes: str
    taken: bool
    close: bool


@dataclass(frozen=True, slots=True)
class LineShown:
    """A line with what it was taken for, and what the person said that it is ("" for nothing, None:
    cannot be said)."""

    line: LineReading
    said: str | None


@dataclass(frozen=True, slots=True)
class TableShown:
    """A table that was found: the line of its head with its words, and its columns."""

    line: int
    words: str
    columns: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True, slots=True)
class Reading:
    """What the text was understood as, and what that would mean.

    ``wordings`` are those of the text that no function is known for, and what the person said that
    others mean.
    """

    draft: Draft
    ways: tuple[WayShown, ...]
    modes: tuple[ModeShown, ...]
    lines: tuple[LineShown, ...]
    more_lines: int
    tables: tuple[TableShown, ...]
    wordings: tuple[tuple[str, str], ...]
    profile: Profile | None
    remarks: tuple[ChartRemark, ...]
    effect: Effect | None
    sure: int
    guessed: int
    lost: int

    @property
    def first_doubt(self) -> int | None:
        """The first guessed line that nothing was said of; else the first that was not understood
        behind a channel."""
        open_lines = [shown.line for shown in self.lines if shown.said == ""]
        guessed = next((line.number for line in open_lines if line.taken is Taken.GUESS), None)
        read = next(
            (shown.line.number for shown in self.lines if shown.line.taken is Taken.SURE), 0
        )
        lost = (
            line.number for line in open_lines if line.taken is Taken.LOST and line.number > read
        )
        return guessed or next(lost, None)


def ways_shown(draft: Draft, *, asked: bool) -> Iterator[WayShown]:
    """How the text was read, and how else it can be. What nobody ``asked`` for is sent as nothing,
    so that it is found anew when the text changes."""
    made = [(mode.name, len(mode.channels)) for mode in draft.modes]
    taken = _way_shown(draft.read_as, made, taken=True, close=False)
    yield taken if asked else replace(taken, value="")
    for other in draft.others:
        yield _way_shown(other.way, other.modes, taken=False, close=other.behind < CLOSE)


def _way_shown(way: str, modes: Sequence[tuple[str, int]], *, taken: bool, close: bool) -> WayShown:
    words = way or AS_IT_STANDS
    counts = joined([str(count) for _, count in modes], most=MOST_COUNTS)
    of = "channel" if [count for _, count in modes] == [1] else "channels"
    said = f"{counted(len(modes), 'mode')} of {counts} {of}" if modes else "nothing"
    return WayShown(words, words[:1].upper() + words[1:], said, taken, close)


def modes_shown(draft: Draft) -> Iterator[ModeShown]:
    """The modes with channels and ranges cut to what a page can hold."""
    channels_left, ranges_left = MOST_CHANNELS_SHOWN, MOST_RANGES_SHOWN
    for mode in draft.modes:
        shown = []
        for channel in mode.channels[:channels_left]:
            kept = channel.ranges[:ranges_left]
            ranges_left -= len(kept)
            shown.append(
                channel if len(kept) == len(channel.ranges) else replace(channel, ranges=kept)
            )
        channels_left -= len(shown)
        yield ModeShown(mode.name, len(mode.channels), mode.score, mode.doubts, tuple(shown))


def lines_shown(draft: Draft, said: ChartAnswers) -> Iterator[LineShown]:
    """The lines that hold something; one in doubt or left out, or that something was said of, can
    be settled."""
    left = MOST_SETTLED
    for line in draft.lines:
        if line.taken is Taken.BLANK:
            continue
        answer = said.lines.get(line.number)
        open_to = (
            left > 0
            and bool(line.text.strip())
            and (answer is not None or line.taken in OPEN_TO_ANSWERS)
        )
        left -= open_to
        yield LineShown(line, (str(answer) if answer else "") if open_to else None)


def tables_shown(draft: Draft) -> Iterator[TableShown]:
    """The tables of the draft with their columns; those that number a mode are as they are."""
    roles = {str(role) for role in Role}
    for table in draft.tables[:MOST_TABLES_SHOWN]:
        columns = tuple(
            (head, holds, holds == "" or holds in roles)
            for head, holds in table.columns[:MOST_COLUMNS_SHOWN]
        )
        yield TableShown(table.line, draft.lines[table.line - 1].text, columns)


def is_unclear(channel: Channel) -> bool:
    """Whether a channel has words, but no function is known for them."""
    return channel.function is Function.OTHER and bool(channel.name) and channel.name != NOT_IN_TEXT
