"""The charts as values: lines of the shelf, the effect of another chart, what a text was understood as."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace

from fence.core.changes import edits
from fence.core.charts.draft import NOT_IN_TEXT, Draft, LineReading
from fence.core.charts.remarks import ChartRemark
from fence.core.checks import Verdict, analyse, news
from fence.core.words.profile import Channel, Function, Profile
from fence.core.words.show import Show


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


MOST_LINES_SHOWN = 500


MOST_CHANNELS_SHOWN = 1500


MOST_RANGES_SHOWN = 2500


MOST_REMARKS = 100


@dataclass(frozen=True, slots=True)
class ModeShown:
    """A mode of the draft as far as it is shown: channels with as many of their ranges as there is room for."""

    name: str
    count: int
    doubts: tuple[str, ...]
    channels: tuple[Channel, ...]


@dataclass(frozen=True, slots=True)
class Reading:
    """What the text was understood as, and what that would mean.

    ``wordings`` are those of the text that no function is known for, and what the person said that others mean.
    """

    draft: Draft
    modes: tuple[ModeShown, ...]
    lines: tuple[LineReading, ...]
    more_lines: int
    wordings: tuple[tuple[str, str], ...]
    profile: Profile | None
    remarks: tuple[ChartRemark, ...]
    effect: Effect | None
    sure: int
    guessed: int
    lost: int


def modes_shown(draft: Draft) -> Iterator[ModeShown]:
    """The modes with channels and ranges cut to what a page can hold."""
    channels_left, ranges_left = MOST_CHANNELS_SHOWN, MOST_RANGES_SHOWN
    for mode in draft.modes:
        shown = []
        for channel in mode.channels[:channels_left]:
            kept = channel.ranges[:ranges_left]
            ranges_left -= len(kept)
            shown.append(channel if len(kept) == len(channel.ranges) else replace(channel, ranges=kept))
        channels_left -= len(shown)
        yield ModeShown(mode.name, len(mode.channels), mode.doubts, tuple(shown))


def is_unclear(channel: Channel) -> bool:
    """Whether a channel has words, but no function is known for them."""
    return channel.function is Function.OTHER and bool(channel.name) and channel.name != NOT_IN_TEXT
