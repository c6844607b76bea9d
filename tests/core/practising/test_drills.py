"""Every drill beside a second, naive reading of what is asked: from the words of the question
alone."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from itertools import chain
from math import ceil, floor
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.edits import AddRun, add_fixtures
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.practising.drills.addresses import behind, seat
from fence.core.practising.drills.colours import BY_EMITTERS, BY_FILTERS, mixed
from fence.core.practising.question import LEVELS, Kind, Question, mark
from fence.core.practising.register import BY_KEY, DRILLS, ask
from fence.demo import back_room, clean_show
from fence.library import shipped_profiles
from tests.examples import DEEP

RIGS = {"demo": clean_show(), "back room": back_room()}
NUMBER = r"(\d+)"
QUESTIONS = 250 * DEEP


def numbers(text: str) -> list[int]:
    """The whole numbers in a text."""
    return [int(one) for one in re.findall(NUMBER, text)]


def placed(sizes: list[int], universe: int, slot: int) -> tuple[int, int]:
    """Where the last of some fixtures starts, slot by slot."""
    start = (universe, slot)
    for size in sizes:
        while slot + size - 1 > 512:
            slot += 1
            if slot > 512:
                universe, slot = universe + 1, 1
        start = (universe, slot)
        slot += size
        if slot > 512:
            universe, slot = universe + 1, slot - 512
    return start


def groups_of(asked: Question) -> list[tuple[int, int]]:
    """How many fixtures of how many channels, as the facts say."""
    found = [re.match(r"(\d+) × .*\((\d+) channels?\)$", fact) for fact in asked.facts]
    return [(int(one[1]), int(one[2])) for one in found if one]


def next_start(asked: Question) -> set[str]:
    groups = groups_of(asked)
    first = int(re.search(r"1\.(\d+)", asked.asks)[1])  # type: ignore[index]
    own = re.search(r"\((\d+) channels?\) start", asked.asks)
    follower = int(own[1]) if own else groups[-1][1]
    sizes = [*chain.from_iterable([size] * count for count, size in groups), follower]
    return {"{}.{}".format(*placed(sizes, 1, first))}


def room(asked: Question) -> set[str]:
    ((count, size),) = groups_of(asked)
    first = numbers(asked.asks)[0]
    taken = set(range(first, first + count * size))
    if "Slot 512 is kept free." in asked.facts:
        taken.add(512)
    own = re.search(r"\((\d+) channels?\) fit", asked.asks)
    if own is None:
        return {str(512 - len(taken))}
    fits, slot = 0, 1
    while slot + int(own[1]) - 1 <= 512:
        run = set(range(slot, slot + int(own[1])))
        if run & taken:
            slot += 1
        else:
            fits, slot = fits + 1, slot + int(own[1])
    return {str(fits)}


def switches_read(asked: Question) -> set[str]:
    told = " ".join(asked.facts)
    upside, down = "upside down" in told, "On is down" in told
    besides = re.search(r"Switch ([\d, ]+) must be on", told)
    extra = set(numbers(besides[1])) if besides else set()
    row = list(asked.row)
    leftmost = 1 if row[0].number < row[-1].number else -1
    assert (leftmost == -1) == (("Switch 1 is on the right" in told) != upside)
    on = {one.number for one in row if one.up != (down != upside)}
    assert extra <= on
    value = sum(2 ** (number - 1) for number in on - extra)
    return {str(value + ("count from 0" in told))}


def switches_set(asked: Question) -> set[str]:
    told = " ".join(asked.facts)
    besides = re.search(r"Switch ([\d, ]+) must be on", told)
    extra = set(numbers(besides[1])) if besides else set()
    value = numbers(asked.asks)[0] - ("count from 0" in told)
    on = {place + 1 for place, bit in enumerate(reversed(f"{value:b}")) if bit == "1"}
    return {", ".join(map(str, sorted(on | extra))) or "0"}


UPSIDE_DOWN = dict(zip("abcdefg", "defabcg", strict=True))
LIT = {"abcdef": 0, "bc": 1, "abdeg": 2, "abcdg": 3, "bcfg": 4, "acdfg": 5, "acdefg": 6}
LIT |= {"abc": 7, "abcdefg": 8, "abcdfg": 9}


def display(asked: Question) -> set[str]:
    turned = ["".join(sorted(UPSIDE_DOWN[one] for one in place)) for place in reversed(asked.lit)]
    if asked.kind is Kind.CHOICE:
        assert turned[0] == "bcdeg"
        turned = turned[1:]
    shown = int("".join(str(LIT[place]) for place in turned))
    if asked.kind is Kind.CHOICE:
        return {"yes" if shown == numbers(asked.asks)[0] else "no"}
    return {str(shown)}


def universes(asked: Question) -> set[str]:
    if "as net.sub-net" in asked.asks:
        number = numbers(asked.asks)[0] - 1
        return {f"{number // 256}.{number % 256 // 16}.{number % 16}"}
    if "says" in asked.asks:
        net, sub, low = numbers(re.search(r"\d+\.\d+\.\d+", asked.asks)[0])  # type: ignore[index]
        return {str(net * 256 + sub * 16 + low + 1)}
    mine, said, theirs = re.search(  # type: ignore[union-attr]
        r"from (\d) and calls one (\d+)\..*from (\d)\.", asked.asks
    ).groups()
    return {str(int(said) - int(mine) + int(theirs))}


def networks(asked: Question) -> set[str]:
    one, other, mask = (
        int.from_bytes(bytes(map(int, found.split("."))), "big")
        for found in re.findall(r"\d+\.\d+\.\d+\.\d+", asked.asks)
    )
    return {
        next(
            c for c in asked.choices if c.startswith("yes" if one & mask == other & mask else "no")
        )
    }


def levels(asked: Question) -> set[str]:
    found = numbers(asked.asks)
    if "%. Which level" in asked.asks or " %. " in asked.asks:
        exact = found[0] / 100 * 255
        return {str(floor(exact)), str(ceil(exact))}
    if "tester" in asked.asks:
        exact = found[0] / 255 * 100
        return {str(floor(exact)), str(ceil(exact))}
    if "coarse byte" in asked.asks or "fine byte" in asked.asks:
        high, low = found[0].to_bytes(2, "big")
        return {str(high if "coarse" in asked.asks else low)}
    return {str(int.from_bytes(bytes(found[:2]), "big"))}


def listed(words: str) -> set[str]:
    """The things in ``a, b and c``."""
    return set(re.split(r", | and ", words))


def modes(asked: Question) -> set[str]:
    wanted = listed(re.search(r"needs (.*) of .*, and channels", asked.asks)[1])  # type: ignore[index]
    found = {}
    for fact in asked.facts:
        name, size, has = re.match(r"(.*): (\d+) channels?, (.*)", fact).groups()  # type: ignore[union-attr]
        if wanted <= listed(has):
            found[name] = int(size)
    return {name for name, size in found.items() if size == min(found.values())}


OF_A_PIN = {
    "5-pin": {1: "common", 2: "minus", 3: "plus", 4: "second minus", 5: "second plus"},
    "3-pin": {1: "common", 2: "minus", 3: "plus"},
    "rj45": {
        1: "plus",
        2: "minus",
        3: "second",
        4: "",
        5: "",
        6: "second",
        7: "common",
        8: "common",
    },
}


def plugs(asked: Question) -> set[str]:
    if "resistor" in asked.asks:
        return {"pins 2 and 3"}
    if "Which adapter" in asked.asks:
        comes, takes = re.search(r"with (.*) plugs .* input is (.*)\.", asked.asks).groups()  # type: ignore[union-attr]
        male = comes if comes == "rj45" else f"{comes} male"
        return {f"{male} to {takes if takes == 'rj45' else takes + ' female'}"}
    if "An adapter from" in asked.asks:
        one, other, pin = re.search(  # type: ignore[union-attr]
            r"from (.*) to (.*) is made.*goes pin (\d)", asked.asks
        ).groups()
        carried = OF_A_PIN[one][int(pin)]
        return {str(n) for n, what in OF_A_PIN[other].items() if what == carried}
    plug, what = re.search(r"of a (.*) plug carries (.*) of DMX", asked.asks).groups()  # type: ignore[union-attr]
    name = {"common (shield)": "common", "data −": "minus", "data +": "plus"}[what]
    return {str(n) for n, carried in OF_A_PIN[plug].items() if carried == name}


def loads(asked: Question) -> set[str]:
    if asked.kind is Kind.CHOICE:
        ends = [fact.split(" → ")[-1] for fact in asked.facts]
        ends = [end for end in ends if end != "Fork"]
        return {" and ".join([", ".join(ends[:-1]), ends[-1]]) if len(ends) > 1 else ends[0]}
    units = {
        fact.rpartition(": ")[0]: float(re.search(r": ([\d.]+) unit", fact)[1])  # type: ignore[index]
        for fact in asked.facts
        if " unit loads each" in fact
    }
    hang, other = re.search(r"\((.*)\) hang .* many (.*) may", asked.asks).groups()  # type: ignore[union-attr]
    left = 32 - numbers(asked.asks)[0] * units.get(hang, 1.0)
    more = 0
    while left >= units.get(other, units.get(hang, 1.0) if other == hang else 1.0) - 1e-9:
        left -= units.get(other, units.get(hang, 1.0) if other == hang else 1.0)
        more += 1
    return {str(more)}


def colours(asked: Question) -> set[str]:
    known = {
        **{frozenset(map(str, mix)): name for mix, name in BY_EMITTERS.items()},
        **{frozenset(map(str, mix)): name for mix, name in BY_FILTERS.items()},
    }
    if asked.asks.startswith("Wanted"):
        wanted = re.search(r"Wanted is (.*) from", asked.asks)[1]  # type: ignore[index]
        filters = "before white light" in asked.asks
        return {
            one
            for one in asked.choices
            if known[frozenset(one.split(" + "))] == wanted
            and (set(one.split(" + ")) <= {"cyan", "magenta", "yellow"}) == filters
        }
    up = re.search(r" has (.*) (?:up at full|in at full)", asked.asks)[1]  # type: ignore[index]
    return {known[frozenset(listed(up.rpartition(" has ")[2]))]}


def charts(asked: Question) -> set[str]:
    if "Which slot" in asked.asks:
        start, title = re.search(r"stands at (\d+)\. Which slot is its (.*)\?", asked.asks).groups()  # type: ignore[union-attr]
        told = [fact.partition(" ") for fact in asked.facts]
        return {str(int(start) + int(n) - 1) for n, _, name in told if name == title}
    ranges = [re.match(r"(\d+) to (\d+): (.*)", fact) for fact in asked.facts]
    held = [(int(one[1]), int(one[2]), one[3]) for one in ranges if one]
    if "do “" in asked.asks:
        wanted = re.search(r"do “(.*)”", asked.asks)[1]  # type: ignore[index]
        return {str(n) for a, b, name in held if name == wanted for n in range(a, b + 1)}
    opens = ("open", "no function", "no strobe", "off", "steady", "shutter open", "full on")
    steady = [one for one in held if one[2].lower().startswith(opens)]
    return {str(n) for a, b, _ in steady for n in range(a, b + 1)}


def off_by_one(asked: Question) -> set[str]:
    planned = int(re.search(r"planned at (\d+)", asked.asks)[1])  # type: ignore[index]
    moved = re.search(r"set to (\d+)", asked.asks)
    stands = int(moved[1]) if moved else planned
    slot = int(re.search(r"\(slot (\d+)\)", asked.asks)[1])  # type: ignore[index]
    chart = {int(n): name for n, _, name in (fact.partition(" ") for fact in asked.facts)}
    return {chart.get(slot - stands + 1, "none: that slot is not its own")}


READ: dict[str, Callable[[Question], set[str]]] = {
    "next-start": next_start,
    "room": room,
    "switches-read": switches_read,
    "switches-set": switches_set,
    "display": display,
    "universes": universes,
    "networks": networks,
    "levels": levels,
    "modes": modes,
    "plugs": plugs,
    "loads": loads,
    "colours": colours,
    "charts": charts,
    "off-by-one": off_by_one,
}


@pytest.mark.parametrize("key", BY_KEY)
def test_each_answer_is_that_of_a_naive_reading(key: str) -> None:
    """Whatever is asked, at each level and of each rig: the same answers are right, all of them; no
    slip is right, each is there once, and can be given."""
    chance = Random()
    for _ in range(QUESTIONS):
        seed, level = chance.randrange(10**9), chance.choice(LEVELS)
        asked = ask(key, level, seed, chance.choice(list(RIGS.values())), RIGS["back room"])
        wanted = READ[key](asked)
        where = f"{key} level {level} seed {seed}: {asked.asks} {asked.facts}"
        assert wanted, where
        assert set(asked.right) == wanted & set(asked.right), where
        assert wanted == set(asked.right), where
        _sound(asked, where)


def _sound(asked: Question, where: str) -> None:
    """What holds of every question."""
    given_ = [slip.answer for slip in asked.slips]
    assert not set(given_) & set(asked.right), where
    assert len(set(given_)) == len(given_), where
    assert all(mark(asked, one).right for one in asked.right), where
    for slip in asked.slips:
        found = mark(asked, slip.answer)
        assert (found.right, found.why) == (False, slip.why), where
    if asked.choices:
        assert set(asked.right) <= set(asked.choices), where
        assert set(given_) <= set(asked.choices), where
        assert len(set(asked.choices)) == len(asked.choices), where
    assert asked.working, where


def test_a_run_stands_as_the_rig_has_it() -> None:
    """The sums of the drill are those of adding fixtures to a show."""
    profile = next(one for one in shipped_profiles() if one.id == "dibber-furrow")
    chance = Random()
    for _ in range(60):
        mode = chance.choice(profile.modes)
        size = mode.footprint
        start = chance.randint(1, 513 - size)
        run = AddRun(profile, mode.name, 20, "Row 1", None, "", 1, Address(1, start))
        at, wanted = Address(1, start), []
        for _ in range(20):
            here = seat(at, size)
            wanted.append((here.universe, here.slot))
            at = behind(here, size)
        added = add_fixtures(Show("S"), run).fixtures
        assert [(one.universe, one.start) for one in added] == wanted


@pytest.mark.parametrize("mix", [*BY_EMITTERS, *BY_FILTERS], ids=lambda mix: "+".join(sorted(mix)))
def test_mixes_are_what_the_practice_rig_shows(mix: frozenset[str]) -> None:
    """The name of a mix fits the colour that the rig shows for it."""
    name = (BY_EMITTERS | BY_FILTERS)[mix]  # type: ignore[index]
    red, green, blue = mixed(mix)  # type: ignore[arg-type]
    high, low = max(red, green, blue), min(red, green, blue)
    fits = {
        "yellow": min(red, green) > 1.5 * blue,
        "cyan": min(green, blue) > 1.5 * red,
        "magenta": min(red, blue) > 1.5 * green,
        "white": low > 0.7 * high,
        "orange": red > green > blue,
        "green": green > 2 * max(red, blue),
        "red": red > 2 * max(green, blue),
        "blue": blue > 2 * max(red, green),
        "nearly dark": high < 10,
        "pale red": red > green and low > 0.4 * high,
        "pale green": green > red and low > 0.4 * high,
        "pale blue": blue > red and low > 0.4 * high,
    }
    assert fits[name], (red, green, blue)


def test_the_same_seed_asks_the_same() -> None:
    """A question can be drawn again from its seed."""
    for drill in DRILLS:
        draw = partial(ask, drill.key, 2, 77, RIGS["demo"], RIGS["back room"])
        assert draw() == draw()


@pytest.mark.parametrize(
    ("key", "level", "seed"), [("juggling", 1, 1), ("levels", 0, 1), ("levels", 4, 1)]
)
def test_what_is_no_drill(key: str, level: int, seed: int) -> None:
    """It is said which there are."""
    with pytest.raises(EditError, match="next-start"):
        ask(key, level, seed, RIGS["demo"], RIGS["demo"])


def test_an_empty_rig_is_asked_about_the_other() -> None:
    """Every drill has a question, at each level, without any show."""
    for drill in DRILLS:
        for level in LEVELS:
            assert ask(drill.key, level, 5, Show("Empty"), back_room()).right


@given(st.sampled_from(sorted(BY_KEY)), st.text(max_size=80))
def test_any_answer_is_marked_or_refused(key: str, typed: str) -> None:
    """Nothing that is typed fails; what cannot be read is told what is accepted."""
    asked = ask(key, 1, 3, RIGS["demo"], RIGS["demo"])
    try:
        mark(asked, typed)
    except EditError as error:
        assert "Use " in str(error)  # noqa: PT017


def slip_of_a_footprint(asked: Question, why: str) -> str:
    """What comes of taking other channels for a type, as a slip says that somebody did."""
    taken, title = re.search(r"you took (\d+) for the channels of (.*);", why).groups()  # type: ignore[union-attr]
    first = int(re.search(r"1\.(\d+)", asked.asks)[1])  # type: ignore[index]
    right = re.search(r"in (.*) it is (\d+)$", why)
    assert right is not None
    total = first
    for fact, (count, size) in zip(asked.facts, groups_of(asked), strict=True):
        mine = f" × {title}, {right[1]} (" in fact and size == int(right[2])
        total += count * (int(taken) if mine else size)
    return f"1.{total}"


def test_slips_come_of_what_they_say() -> None:
    """Each mistake that is named, made on purpose, gives the very answer that it is named for."""
    chance, met = Random(), set[str]()
    for _ in range(QUESTIONS):
        key = chance.choice(("next-start", "universes", "charts", "levels", "display"))
        level, seed = chance.choice((1, 2)), chance.randrange(10**9)
        asked = ask(key, level, seed, RIGS["demo"], RIGS["back room"])
        found = numbers(asked.asks)
        for slip in asked.slips:
            if "you took" in slip.why and len(set(asked.facts)) == len(asked.facts):
                made = slip_of_a_footprint(asked, slip.why)
            elif slip.why.startswith("one too high"):
                universe, slot = asked.right[0].split(".")
                made = f"{universe}.{int(slot) + 1}"
            elif slip.why.startswith("that is the desk’s own number"):
                made = str(found[1])
            elif slip.why.startswith("its first channel is the start address"):
                made = str(int(asked.right[0]) + 1)
            elif slip.why.startswith("that is the percentage: full is 255"):
                made = str(found[0])
            elif slip.why.startswith("that is what it looks like"):
                made = str(int("".join(str((LIT | {"ef": 1})[place]) for place in asked.lit)))
            else:
                continue
            met.add(slip.why[:8])
            assert made == slip.answer, (key, level, seed, slip)
    assert len(met) > 3
