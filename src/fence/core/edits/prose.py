"""The words of the log: what an edit did, as one short sentence."""

from __future__ import annotations

from collections.abc import Sequence

from fence.core.edits import told
from fence.core.edits.difference import Change, Difference, Heading, difference
from fence.core.model.address import format_slots
from fence.core.model.box import Box
from fence.core.model.fixture import Fixture
from fence.core.model.line import Line
from fence.core.model.show import Position, Show, Universe
from fence.core.model.standing import hangs_words

LONGEST_SAID = 300
"""Characters of a finding that the log repeats."""


def describe(before: Show, after: Show, found: Difference | None = None) -> str:
    """What was done, as one short sentence without a full stop; empty when nothing differs.

    ``found`` is the difference between the two, where it is known already.
    """
    found = found or difference(before, after)
    words = _told_of_fixtures(before, after, found) or _told_of_the_rest(before, after, found)
    return words[:LONGEST_SAID] or ("Changed the show" if not found.empty else "")


def _names(fixtures: Sequence[Fixture]) -> str:
    if len(fixtures) == 1:
        return fixtures[0].label
    if len(fixtures) == 2:
        return f"{fixtures[0].label} and {fixtures[1].label}"
    return f"{len(fixtures)} fixtures, {fixtures[0].label} to {fixtures[-1].label}"


def _told_of_fixtures(before: Show, after: Show, found: Difference) -> str:
    added = [c.after for c in found.fixtures if c.before is None and c.after]
    removed = [c.before for c in found.fixtures if c.after is None and c.before]
    changed = [(c.before, c.after) for c in found.fixtures if c.before and c.after]
    if added and not removed:
        return f"Added {_names(added)}"
    if removed:
        return f"Removed {_names(removed)}"
    if found.reorder:
        return "Put the rig in another order"
    return _told_of_changed(after, changed) if changed else ""


def _told_of_changed(after: Show, changed: Sequence[tuple[Fixture, Fixture]]) -> str:
    who = _names([new for _, new in changed])
    old, new = changed[0]

    def any_differs(attribute: str) -> bool:
        return any(getattr(a, attribute) != getattr(b, attribute) for a, b in changed)

    if any_differs("share"):
        return f"{who} share {new.planned_at}" if new.share else f"{who} no longer share an address"
    if any_differs("profile"):
        return _type_words(after, changed)
    if any_differs("mode"):
        return _mode_words(changed)
    if any_differs("patch"):
        target = _patch_words(old, new) if len(changed) == 1 else ""
        return f"{who} moved{target}"
    if any_differs("pinned"):
        return f"{who} {'pinned' if new.pinned else 'unpinned'}"
    if any_differs("label"):
        return f"{old.label} renamed {new.label}" if len(changed) == 1 else f"Renamed {who}"
    if any_differs("number"):
        return f"Renumbered {who}"
    if marks := _told_of_marks(changed, who):
        return marks
    if any_differs("position"):
        return (
            f"{who} hung at {new.position}" if new.position else f"{who} taken off {old.position}"
        )
    return f"Note of {who}"


def _told_of_marks(changed: Sequence[tuple[Fixture, Fixture]], who: str) -> str:
    """What became known of fixtures, without a change of the plan."""
    old, new = changed[0]

    def any_differs(attribute: str) -> bool:
        return any(getattr(a, attribute) != getattr(b, attribute) for a, b in changed)

    if any_differs("set_to"):
        if new.set_to is None:
            return f"{who} not set after all"
        late = len(changed) == 1 and (new.set_to.mode, new.set_to.patch) != (new.mode, new.patch)
        return f"{who} set at the fixture" + (
            f" to {' + '.join(map(str, new.set_to.patch))}" if late else ""
        )
    if any_differs("read_back"):
        if new.read_back is None:
            return f"Reading of {who} taken back"
        said = [f"{number:03d}" for number in new.read_back.says if number is not None]
        return f"{who} says {' and '.join(said)}" + (
            f", left so: {new.read_back.reason}" * bool(new.read_back.reason)
        )
    if any_differs("sign") and new.sign is not None:
        return f"{who} {new.sign.words}"
    if any_differs("proven"):
        return f"{who} proven" if new.proven else f"{who} not proven after all"
    if any_differs("ticked"):
        before, after = ({held.step for held in fixture.ticked} for fixture in (old, new))
        steps = sorted(after - before) or sorted(before - after) or sorted(after)
        return (
            f"{who}: {', '.join(steps)} "
            f"{'done' if after - before or after == before else 'not done'}"
        )
    if any_differs("serial"):
        return f"Serial number of {who}" + (f" is {new.serial}" if new.serial else " forgotten")
    return _told_of_places(changed, who)


def _told_of_places(changed: Sequence[tuple[Fixture, Fixture]], who: str) -> str:
    """How and where fixtures hang."""
    new = changed[0][1]

    def any_differs(name: str) -> bool:
        return any(getattr(old, name) != getattr(now, name) for old, now in changed)

    if any_differs("turned") or any_differs("upright"):
        told = hangs_words(new)
        return f"{who} {told.replace('hangs', 'hang', 1) if len(changed) > 1 else told}"
    if any_differs("at"):
        if len(changed) > 1:
            return f"{who} placed"
        return f"{who} hangs at {new.at.words}" if new.at else f"Place of {who} forgotten"
    if any_differs("scene"):
        return f"What a scene says of {who}"
    return ""


def _type_words(after: Show, changed: Sequence[tuple[Fixture, Fixture]]) -> str:
    """Which fixtures are of which type now, and how many others moved for that."""
    into = [new for old, new in changed if old.profile != new.profile]
    moved = sum(1 for old, new in changed if old.profile == new.profile)
    kinds = {(new.profile, new.mode) for new in into}
    words = f"Types of {_names(into)} exchanged"
    if len(kinds) == 1:
        profile = after.profile_of(into[0])
        title = profile.title if profile else "a type without a chart"
        words = f"{_names(into)} exchanged for {title}, {into[0].mode}"
    return f"{words}, {moved} more moved" if moved else words


def _mode_words(changed: Sequence[tuple[Fixture, Fixture]]) -> str:
    into = [new for old, new in changed if old.mode != new.mode]
    moved = sum(1 for old, new in changed if old.mode == new.mode)
    modes = {new.mode for new in into}
    words = (
        f"{_names(into)} to mode {modes.pop()}"
        if len(modes) == 1
        else f"Modes of {_names(into)} changed"
    )
    return f"{words}, {moved} more moved" if moved else words


def _patch_words(old: Fixture, new: Fixture) -> str:
    for before, after in zip(old.patch, new.patch, strict=False):
        if before != after:
            return f" from {before} to {after}"
    return ""


def _told_of_the_rest(before: Show, after: Show, found: Difference) -> str:
    words = next(filter(None, map(_told_of_universe, found.universes)), "")
    if words:
        return words
    for chart in found.profiles:
        if chart.before is not None and chart.after is not None:
            return f"Chart of {chart.after.title} brought to revision {chart.after.revision}"
    for place in found.positions:
        if place.before is not None and place.after is not None:
            return _told_of_place(place.before, place.after)
    if found.lines:
        return _told_of_lines(before, after, found)
    if found.boxes:
        return _told_of_boxes(found)
    if found.heading and found.heading.before and found.heading.after:
        return _told_of_heading(after, found.heading.before, found.heading.after)
    return ""


def _told_of_universe(change: Change[Universe]) -> str:
    old, new = change.before, change.after
    if old is None:
        return f"Added {new.title}" if new is not None else ""
    if new is None:
        return f"Removed {old.title}"
    if old.name != new.name:
        return f"U{new.number} renamed {new.name or 'without a name'}"
    return f"U{new.number} reserves {format_slots(new.reserved) or 'nothing'}"


def _told_of_lines(before: Show, after: Show, found: Difference) -> str:
    changed = [
        told.of_line(before, after, change.before, change.after)
        for change in found.lines
        if change.before and change.after
    ]
    return _and_more(changed, *_come_and_gone("line", found.lines))


def _told_of_boxes(found: Difference) -> str:
    changed = [
        told.of_box(change.before, change.after)
        for change in found.boxes
        if change.before and change.after
    ]
    return _and_more(changed, *_come_and_gone("node", found.boxes))


def _come_and_gone(what: str, changes: Sequence[Change[Line]] | Sequence[Change[Box]]) -> list[str]:
    """What was added and removed of lines or boxes, each with the first by name."""
    found = []
    for words, names in (
        (
            "Added",
            [change.after.name for change in changes if change.before is None and change.after],
        ),
        (
            "Removed",
            [change.before.name for change in changes if change.after is None and change.before],
        ),
    ):
        if names:
            found.append(
                f"{words} {what} {names[0]}"
                + (f" and {len(names) - 1} more" if len(names) > 1 else "")
            )
    return found


def _and_more(changed: Sequence[str], *others: str) -> str:
    """The first of several changes, how many more there are, and what came and went."""
    first = (
        [changed[0] + (f"; and {len(changed) - 1} more" if len(changed) > 1 else "")]
        if changed
        else []
    )
    return "; ".join([*first, *others])


def _told_of_place(old: Position, new: Position) -> str:
    if old.hard != new.hard:
        return f"{new.name} is {'hard' if new.hard else 'easy'} to reach"
    if old.spacing != new.spacing:
        said = f"{new.spacing:g} m apart" if new.spacing is not None else "at a spacing not known"
        return f"Fixtures at {new.name} are {said}"
    return (
        f"{new.name} is {new.height:g} m up"
        if new.height is not None
        else f"Height of {new.name} not known"
    )


def _told_of_waivers(old: Heading, new: Heading) -> str:
    """Which finding is let stand, or no longer."""
    added = [waiver for waiver in new.waivers if waiver not in old.waivers]
    if added:
        return f"Let stand, since {added[0].reason}: {added[0].said}"[:LONGEST_SAID]
    gone = [waiver for waiver in old.waivers if waiver not in new.waivers]
    return (
        f"No longer accepted: {gone[0].said}"[:LONGEST_SAID]
        if gone
        else "Accepted findings in another order"
    )


def _told_of_heading(show: Show, old: Heading, new: Heading) -> str:
    if old.name != new.name:
        return f"Show renamed {new.name}"
    if old.desk != new.desk:
        return told.of_desk(old.desk, new.desk)
    if old.tell_tale != new.tell_tale:
        if new.tell_tale is None:
            return "Tell-tale slot off"
        return f"Tell-tale slot {new.tell_tale.slot}, {new.tell_tale.scale}"
    if old.walk != new.walk:
        return f"Order of the walk: {', '.join(new.walk) or 'as the positions come'}"
    if old.skipped != new.skipped:
        return f"Steps of the preparation left out: {', '.join(new.skipped) or 'none'}"
    if old.ground != new.ground:
        return told.of_ground(old.ground, new.ground)
    if old.stock != new.stock:
        return told.of_stock(old.stock, new.stock)
    if old.day != new.day:
        return told.of_day(old.day, new.day)
    if old.net != new.net:
        return told.of_net(old.net, new.net)
    if old.waivers != new.waivers:
        return _told_of_waivers(old, new)
    return told.of_needs(show, old.needs, new.needs) if old.needs != new.needs else ""
