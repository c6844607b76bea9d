"""What comes of colours that are mixed, with the emitters or filters that there are."""

from __future__ import annotations

from random import Random

from fence.core.model.profile import Function, Profile
from fence.core.model.show import Show
from fence.core.model.text import joined
from fence.core.practising.question import Kind, Question, question
from fence.core.simulation.sight import HUES, Sight, colour_of

F = Function
BY_EMITTERS: dict[frozenset[Function], str] = {
    frozenset({F.RED, F.GREEN}): "yellow",
    frozenset({F.GREEN, F.BLUE}): "cyan",
    frozenset({F.RED, F.BLUE}): "magenta",
    frozenset({F.RED, F.GREEN, F.BLUE}): "white",
    frozenset({F.RED, F.WHITE}): "pale red",
    frozenset({F.BLUE, F.WHITE}): "pale blue",
    frozenset({F.GREEN, F.WHITE}): "pale green",
    frozenset({F.RED, F.AMBER}): "orange",
}
BY_FILTERS: dict[frozenset[Function], str] = {
    frozenset({F.CYAN, F.YELLOW}): "green",
    frozenset({F.MAGENTA, F.YELLOW}): "red",
    frozenset({F.CYAN, F.MAGENTA}): "blue",
    frozenset({F.CYAN, F.MAGENTA, F.YELLOW}): "nearly dark",
}
ALONE = {
    F.RED: "red",
    F.GREEN: "green",
    F.BLUE: "blue",
    F.WHITE: "white",
    F.AMBER: "amber",
    F.CYAN: "cyan",
    F.MAGENTA: "magenta",
    F.YELLOW: "yellow",
}


def mixed(functions: frozenset[Function]) -> tuple[int, int, int]:
    """Red, green and blue (0 to 255) of emitters or filters at full, as the practice rig shows
    them."""
    filters = functions & set(BY_FILTERS_ALL)
    lights = [str(one) for one in functions if str(one) in HUES] or ["lamp"]
    light = tuple(((name, 0), 1.0) for name in lights)
    return colour_of(Sight(light, "", "", tuple((one, 1.0) for one in sorted(filters)), ()))


BY_FILTERS_ALL = (F.CYAN, F.MAGENTA, F.YELLOW)


def in_order(functions: frozenset[Function]) -> list[Function]:
    """As they are usually named: red before green before blue."""
    return [one for one in Function if one in functions]


def _functions(profile: Profile) -> frozenset[Function]:
    return frozenset(
        channel.function
        for mode in profile.modes
        for part in mode.parts
        for channel in part.channels
    )


def mixing(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: two of red, green and blue; level 2: any emitters of a type of the rig, or filters;
    level 3: the other way round, which to raise."""
    rgb = frozenset({F.RED, F.GREEN, F.BLUE})
    known = BY_EMITTERS | BY_FILTERS
    types = [one for one in rig.profiles if any(mix <= _functions(one) for mix in known)]
    if level == 1 or not types:
        here = {mix: name for mix, name in BY_EMITTERS.items() if mix <= rgb}
        title = "A fixture with red, green and blue"
    else:
        profile = chance.choice(types)
        here = {mix: name for mix, name in known.items() if mix <= _functions(profile)}
        title = profile.title
    mix = chance.choice(list(here))
    filters = mix <= set(BY_FILTERS_ALL)
    verb = "in at full before white light" if filters else "up at full"
    rule = (
        "Each filter takes its opposite out of the light: cyan takes red, magenta green, yellow "
        "blue."
        if filters
        else "Light adds up: red and green are yellow, green and blue cyan, red and blue magenta."
    )
    if level == 3:
        return _which(chance, here, mix, title, filters=filters, rule=rule)
    names = [str(one) for one in in_order(mix)]
    wrong = _wrong_names(mix, here[mix], filters=filters)
    choices = [here[mix], *wrong]
    chance.shuffle(choices)
    return question(
        f"{title} has {joined(names)} {verb}, all other colours out. What is seen?",
        Kind.CHOICE,
        here[mix],
        f"{rule} So {joined(names)} give {here[mix]}.",
        list(wrong.items()),
        choices=choices,
    )


def _wrong_names(mix: frozenset[Function], right: str, *, filters: bool) -> dict[str, str]:
    """Colours that it is not, with the way to each."""
    found: dict[str, str] = {}
    other = BY_EMITTERS if filters else BY_FILTERS
    for name in ("yellow", "cyan", "magenta", "white", "red", "green", "blue"):
        reason = "another pair makes that"
        if any(ALONE.get(one) == name for one in mix):
            reason = "that is one of them alone"
        found[name] = reason
    if mix in other:
        found[other[mix]] = "that is how filters mix, not lights"
    found.pop(right, None)
    return dict(list(found.items())[:5])


def _which(
    chance: Random,
    here: dict[frozenset[Function], str],
    mix: frozenset[Function],
    title: str,
    *,
    filters: bool,
    rule: str,
) -> Question:
    wanted = here[mix]
    right = [_set_words(one) for one, name in here.items() if name == wanted]
    others = [one for one, name in (BY_FILTERS if filters else BY_EMITTERS).items()]
    wrong = {
        _set_words(one): f"{joined([str(f) for f in in_order(one)])} give "
        f"{(BY_FILTERS if filters else BY_EMITTERS)[one]}"
        for one in others
        if _set_words(one) not in right
    }
    shown = dict(list(wrong.items())[:4])
    choices = [*right, *shown]
    chance.shuffle(choices)
    return question(
        f"Wanted is {wanted} from {title}. Which colours go "
        + ("in before white light?" if filters else "up?"),
        Kind.CHOICE,
        right,
        f"{rule} So {right[0]} for {wanted}.",
        list(shown.items()),
        choices=choices,
    )


def _set_words(mix: frozenset[Function]) -> str:
    return " + ".join(str(one) for one in in_order(mix))
