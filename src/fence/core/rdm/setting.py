"""Setting devices, one or many: step by step, each heard back, with an end in the middle that
leaves all well."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from fence.core.model.show import Show
from fence.core.model.standing import stands
from fence.core.model.text import joined
from fence.core.rdm.controller import Controller, RdmError, UnansweredError
from fence.core.rdm.course import Course, Goal, Key, Stand, Step, run_bits
from fence.core.rdm.device_info import FLAGS, DeviceInfo, heard_again
from fence.core.rdm.device_matching import Pair, personality_for
from fence.core.rdm.packet import Identity, Parameter
from fence.core.rdm.values import build_words

TalkOf = Callable[[DeviceInfo], Controller]
"""The talk with the line that a device is on."""


@dataclass(frozen=True, slots=True)
class Wish:
    """What is to be set at a device, beside its mode and address: its label, and what is turned
    (see ``FLAGS``)."""

    goals: tuple[Goal, ...] = ()
    label: str | None = None
    turned: tuple[tuple[str, bool], ...] = ()


@dataclass(frozen=True, slots=True)
class Progress:
    """How far it is: devices done of so many, and what was done last, in words."""

    done: int
    of: int
    words: str


@dataclass
class Result:
    """What came of it: what devices said back, who was not set and why, who met whom for a while,
    in words."""

    said: dict[str, DeviceInfo] = field(default_factory=dict)
    failed: dict[str, str] = field(default_factory=dict)
    met: list[str] = field(default_factory=list)
    stopped: bool = False


def wish_for(show: Show, pair: Pair, *, label: bool = False, display: bool = False) -> Wish:
    """What makes a device stand as its fixture is planned, on request with its label, and its
    display the way up in which it can be read where it hangs. What it has no mode for is left as it
    is."""
    fixture, said = pair.fixture, pair.said
    wish = _planned_wish(show, pair)
    named = build_words(fixture.label).decode()
    turned = (
        (("display_invert", fixture.turned),)
        if said.display_invert not in (None, fixture.turned)
        else ()
    )
    return replace(
        wish,
        label=named if label and said.label != named else None,
        turned=turned if display else (),
    )


def is_empty(wish: Wish, said: DeviceInfo) -> bool:
    """Whether a device stands as wished already."""
    now = stands_said([said])
    reached = all(
        goal.personality in (None, now[goal.key].personality)
        and goal.address in (None, now[goal.key].address)
        for goal in wish.goals
        if goal.key in now
    )
    return reached and wish.label is None and not wish.turned


def _planned_wish(show: Show, pair: Pair) -> Wish:
    fixture, said = pair.fixture, pair.said
    profile, mode = show.profile_of(fixture), show.mode_of(fixture)
    if profile is None or mode is None:
        return Wish()
    if len(fixture.patch) > 1 and len(said.subs) == len(fixture.patch):
        goals = tuple(
            Goal(said.identity, sub.number, None, sub.footprint, entry.slot, fixture.share)
            for sub, entry in zip(said.subs, fixture.patch, strict=True)
        )
        return Wish(goals)
    personality = personality_for(mode, profile, said)
    footprint = mode.parts[0].footprint if personality is not None else said.footprint
    goal = Goal(said.identity, 0, personality, footprint, fixture.start, fixture.share)
    return Wish((goal,))


def in_words(wish: Wish, said: DeviceInfo) -> list[str]:
    """What would change at a device, each as it says and as it is wished: ``address 012 → 101``."""
    now, found = stands_said([said]), []
    modes = {held.number: held.name for held in said.personalities}
    for goal in wish.goals:
        stands, part = now[goal.key], f"part {goal.sub}: " if goal.sub else ""
        if goal.personality not in (None, stands.personality):
            name = modes.get(goal.personality or 0, "") if not goal.sub else ""
            to = f"{goal.personality} ({name})" if name else f"{goal.personality}"
            found.append(f"{part}mode {stands.personality} → {to}")
        if goal.address not in (None, stands.address):
            before = "none" if stands.address is None else f"{stands.address:03d}"
            found.append(f"{part}address {before} → {goal.address:03d}")
    if wish.label is not None:
        found.append(f"label “{said.label}” → “{wish.label}”")
    turned = (f"{name.replace('_', ' ')} {'on' if on else 'off'}" for name, on in wish.turned)
    return [*found, *turned]


def stands_said(said: Sequence[DeviceInfo]) -> dict[Key, Stand]:
    """How devices stand by what they said."""
    found: dict[Key, Stand] = {}
    for one in said:
        found[one.identity, 0] = Stand(one.universe, one.personality, one.footprint, one.address)
        for sub in one.subs:
            found[one.identity, sub.number] = Stand(
                one.universe, sub.personality, sub.footprint, sub.address
            )
    return found


def slots_of_others(show: Show, paired: Sequence[Pair]) -> dict[int | None, int]:
    """The slots that fixtures take who do not answer: where they are known to stand, else where
    they are planned. Those that share an address with one who answers take it together."""
    answering = {pair.fixture.id for pair in paired}
    together = {pair.fixture.share for pair in paired if pair.fixture.share}
    found: dict[int | None, int] = {}
    for fixture in show.fixtures:
        if fixture.id in answering or fixture.share in together or show.profile_of(fixture) is None:
            continue
        known = stands(fixture)
        slots = known.slots if known is not None else tuple(entry.slot for entry in fixture.patch)
        for footprint, entry, slot in zip(
            show.footprints_of(fixture), fixture.patch, slots, strict=False
        ):
            if slot is not None and slot <= 512:
                found[entry.universe] = found.get(entry.universe, 0) | run_bits(slot, footprint)
    return found


def carry_out(
    wishes: Mapping[str, Wish],
    said: Sequence[DeviceInfo],
    talk_of: TalkOf,
    result: Result,
    *,
    fixed: Mapping[int | None, int] | None = None,
    stop: Callable[[], bool] = lambda: False,
    names: Mapping[str, str] | None = None,
    shares: Mapping[Identity, str] | None = None,
) -> Iterator[Progress]:
    """Set devices as wished; ``wishes`` are by identity. What comes of it is in ``result`` as it
    goes on.

    Every device that was touched is asked what it says afterwards. ``stop`` is asked before every
    step: a device is never left between two addresses that others have, for each step by itself
    meets nobody.
    """
    by_name = {str(one.identity): one for one in said}
    goals = {goal.key: goal for wish in wishes.values() for goal in wish.goals}
    called = _Names(names or {})
    course = Course(stands_said(said), goals, fixed or {}, shares or {}, called=called.of)
    of, pending = len(wishes), {goal.identity for goal in course.waiting}
    result.stopped = False
    while (step := course.next_step()) is not None:
        if stop():
            result.stopped = True
            break
        one = by_name[str(step.key[0])]
        words = _take(course, step, talk_of(one), called, result)
        left = {goal.identity for goal in course.waiting}
        for identity in pending - left:
            _hear_back(talk_of(by_name[str(identity)]), by_name[str(identity)], result)
        pending = left
        yield Progress(of - len(pending), of, words)
    for key, why in course.left.items():
        result.failed.setdefault(str(key[0]), f"Not set: {why}.")
    for name, wish in wishes.items():
        if not (wish.label is not None or wish.turned):
            continue
        if result.stopped or stop():
            result.stopped = True
            break
        _beside(talk_of(by_name[name]), by_name[name], wish, result)
        yield Progress(of - len(pending), of, f"{called(by_name[name])}: label and directions")
    # where it was stopped: those that were on their way say where they are
    for identity in pending:
        if str(identity) not in result.failed:
            _hear_back(talk_of(by_name[str(identity)]), by_name[str(identity)], result)


class _Names:
    """What devices are called."""

    def __init__(self, names: Mapping[str, str]) -> None:
        self.names = names

    def __call__(self, one: DeviceInfo) -> str:
        name = str(one.identity)
        return self.names.get(name) or one.label or name

    def of(self, key: Key) -> str:
        """The name of a device by its key."""
        return self.names.get(str(key[0]), str(key[0]))


def _take(course: Course, step: Step, talk: Controller, called: _Names, result: Result) -> str:
    """Take one step, and say what it was."""
    identity, sub = step.key
    if step.personality is not None:
        parameter, data, words = (
            Parameter.PERSONALITY,
            bytes((step.personality,)),
            f"mode {step.personality}",
        )
    else:
        address = step.address or 1
        parameter, data = Parameter.START_ADDRESS, address.to_bytes(2)
        words = f"{address:03d}" + (" for a while, out of the way" if step.parks else "")
    try:
        talk.set(identity, parameter, data, sub=sub)
    except UnansweredError as error:
        if not _took_it(talk, step):
            course.failed(step, "it does not answer")
            result.failed[str(identity)] = str(error)
            return f"{called.of(step.key)} does not answer"
    except RdmError as error:
        course.left[step.key] = "it refuses"
        result.failed[str(identity)] = str(error)
        return f"{called.of(step.key)}: {error}"
    course.took(step)
    if step.meets or step.meets_others:
        names = [called.of(key) for key in step.meets[:4]]
        names += ["a fixture that cannot be asked"] * step.meets_others
        met = joined(names, most=5)
        result.met.append(
            f"{called.of(step.key)} met {met} for a while: there was no gap to go round by."
        )
    return f"{called.of(step.key)}: {words}"


def _took_it(talk: Controller, step: Step) -> bool:
    """Whether a device that did not say so has done what a step asked for."""
    identity, sub = step.key
    try:
        if step.personality is not None:
            return talk.get(identity, Parameter.PERSONALITY, sub=sub)[:1] == bytes(
                (step.personality,)
            )
        return (
            int.from_bytes(talk.get(identity, Parameter.START_ADDRESS, sub=sub)[:2]) == step.address
        )
    except RdmError:
        return False


def _hear_back(talk: Controller, one: DeviceInfo, result: Result) -> None:
    name = str(one.identity)
    try:
        result.said[name] = replace(heard_again(talk, one), label=result.said.get(name, one).label)
    except RdmError as error:
        result.failed.setdefault(name, str(error))


def _beside(talk: Controller, one: DeviceInfo, wish: Wish, result: Result) -> None:
    """Set label and directions."""
    name = str(one.identity)
    try:
        if wish.label is not None:
            talk.set(one.identity, Parameter.LABEL, build_words(wish.label))
        for flag, on in wish.turned:
            talk.set(one.identity, FLAGS[flag], bytes((on,)))
        now = heard_again(talk, result.said.get(name, one))
        label = build_words(wish.label).decode() if wish.label is not None else now.label
        result.said[name] = replace(now, label=label)
    except RdmError as error:
        result.failed.setdefault(name, str(error))
