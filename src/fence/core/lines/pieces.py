"""Which pieces from the store make up each cable run: as few cable runs rented as can be, then the
fewest joints, then the least surplus, within the counts that there are.

A choice for a cable run is a set of pieces that reaches it and of which none can be spared. While
no count is exceeded the best choice of every cable run is the best of all: that is proven. Else
three steps follow. *Prices*: each length gets one that grows while too many are asked for and falls
while some are left (a Lagrangian bound, by subgradients). *Along the prices*: cable run by cable
run, the longest first, the most promising states of the store are kept. *Anew*: a few cable runs
give their pieces back and choose together again, until nothing comes of it any more. What comes out
is proven only where all that is left to try was tried within a bound. ``bench/pieces.py`` holds it
against a constraint solver. A cable run is made of up to ``MOST_PIECES`` pieces."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from heapq import nsmallest
from math import comb
from random import Random

RENT, JOINT = 10**12, 10**7
"""What a rented cable run and a joint cost, in centimetres of surplus: more than any surplus can
be."""
MOST_PIECES = 8
KEPT = (8, 12, 8)
"""Choices of a cable run that are kept of those with the fewest pieces, with one and with two more:
the shortest ones."""
TURNS, BEAM, AHEAD = 80, 100, 8
"""How often prices are turned; how many states are kept along them, with how many choices for each
cable run."""
ENOUGH = 40
"""For few cable runs: after how many turns for each, without a gain, it is enough."""
ANEW = ((5, 12, 200, 2000), (6, 14, 600, 1000))
"""How many cable runs choose anew at a time, among how many choices each, how many are looked at,
and after how many turns without a gain it is enough; first one, then the other."""

FEW_RUNS, MOST_SETS, MOST_LOOKED_AT = 40, 50_000, 100_000
"""What is proven by looking at every way: for how many cable runs it is tried, of how many sets of
pieces, and after how many choices it is given up."""

Pieces = tuple[int, ...]
"""The pieces of a choice: places in the list of lengths, longest first. Empty for a cable run that
is rented."""


@dataclass(frozen=True, slots=True)
class Made:
    """What a cable run is made of, in metres, longest first; ``rented`` where the store has it
    not."""

    pieces: tuple[float, ...]
    rented: bool
    surplus: float


@dataclass(frozen=True, slots=True)
class Cut:
    """All cable runs, in the order in which they were asked for; how many are rented, joints and
    surplus over all; whether it is ``proven`` that no choice of up to ``MOST_PIECES`` pieces a
    cable run is better."""

    runs: tuple[Made, ...]
    rented: int
    joints: int
    surplus: float
    proven: bool


def make_up(runs: Sequence[float], stock: Mapping[float, int]) -> Cut:
    """Choose pieces for cable runs (metres) from a stock of lengths (metres) with their counts. To
    the centimetre."""
    counts: dict[int, int] = {}
    for length, count in stock.items():
        if count > 0 and round(length * 100) > 0:
            counts[round(length * 100)] = counts.get(round(length * 100), 0) + count
    wants = [round(run * 100) for run in runs]
    chosen, proven = _chosen(tuple(sorted(counts.items())), tuple(wants))
    lengths = sorted(counts)
    made = [_made(lengths, want, choice) for want, choice in zip(wants, chosen, strict=True)]
    return Cut(
        tuple(made),
        sum(run.rented for run in made),
        sum(max(0, len(run.pieces) - 1) for run in made),
        sum(run.surplus for run in made),
        proven,
    )


@lru_cache(maxsize=64)
def _chosen(
    stock: tuple[tuple[int, int], ...], wants: tuple[int, ...]
) -> tuple[list[Pieces], bool]:
    """The search, not made twice for one question: a scarce store takes up to a second."""
    return _Choosing(dict(stock), wants).best()


def _made(lengths: Sequence[int], want: int, choice: Pieces) -> Made:
    if choice or not want:
        found = [lengths[at] for at in choice]
        return Made(
            tuple(length / 100 for length in found), rented=False, surplus=(sum(found) - want) / 100
        )
    longer = next((length for length in lengths if length >= want), want)
    return Made((longer / 100,), rented=True, surplus=0.0)


def choices_for(
    stock: Mapping[int, int], want: int, *, every: bool = False
) -> list[tuple[Pieces, int]]:
    """Sets of pieces that reach ``want`` and of which none can be spared, with their length: of
    those with the fewest pieces, and with one and two more, the shortest ones; ``every`` one of up
    to ``MOST_PIECES``. ``stock`` has the lengths, as whole numbers, with how many there are of
    each: no set takes more."""
    lengths = sorted(stock)
    found: list[tuple[Pieces, int]] = []
    fewest = _fewest(stock, want)
    if fewest is None or not want:
        return found

    def add(
        longest: int, total: int, picked: Pieces, left: int, into: list[tuple[int, Pieces]]
    ) -> None:
        if total >= want or not left:
            if total >= want and not left:
                into.append((total, picked))
            return
        for at in range(longest, -1, -1):
            if total + lengths[at] * left < want:
                break
            if picked.count(at) < stock[lengths[at]]:
                add(at, total + lengths[at], (*picked, at), left - 1, into)

    if every:
        for pieces in range(fewest, MOST_PIECES + 1):
            able: list[tuple[int, Pieces]] = []
            add(len(lengths) - 1, 0, (), pieces, able)
            found += [(picked, total) for total, picked in able]
        return found
    for more, kept in enumerate(KEPT):
        if fewest + more <= MOST_PIECES:
            able = []
            add(len(lengths) - 1, 0, (), fewest + more, able)
            found += [(picked, total) for total, picked in nsmallest(kept, able)]
    return found


def _fewest(stock: Mapping[int, int], want: int) -> int | None:
    """How few pieces of a store reach a length; None where all that may be joined do not."""
    total = pieces = 0
    for length in sorted(stock, reverse=True):
        for _ in range(min(stock[length], MOST_PIECES - pieces)):
            if total >= want:
                break
            total, pieces = total + length, pieces + 1
    return pieces if total >= want else None


@dataclass(frozen=True, slots=True)
class _Choice:
    """A choice with its true cost, a cost of a nearer scale for prices, and its pieces packed into
    one number."""

    cost: int
    near: int
    pieces: Pieces
    packed: int


@dataclass(frozen=True, slots=True)
class _State:
    """What is left of the store after some cable runs, and the choice that led here from another
    state."""

    value: float
    left: int
    at: int
    before: _State | None = None
    choice: _Choice | None = None

    def choices(self) -> list[_Choice]:
        """All choices on the way here, the first first."""
        found: list[_Choice] = []
        state: _State | None = self
        while state is not None and state.choice is not None:
            found.append(state.choice)
            state = state.before
        return found[::-1]


class _Choosing:
    """The search. Counts of all lengths are packed into one whole number, a field each with a guard
    bit above it, so that "is there enough of each" is one subtraction."""

    def __init__(self, stock: Mapping[int, int], wants: Sequence[int]) -> None:
        lengths = sorted(stock)
        self.wants = wants
        self.counts = [stock[length] for length in lengths]
        self.lengths = stock
        self.field = field = max([*self.counts, 1]).bit_length() + 1
        self.guard = sum(1 << (at * field + field - 1) for at in range(len(lengths)))
        self.stock = sum(count << (at * field) for at, count in enumerate(self.counts)) | self.guard
        self.order = sorted(range(len(wants)), key=lambda at: -wants[at])
        self.joint = joint = 2 * lengths[-1] if lengths else 1
        self.open: dict[int, list[_Choice]] = {}
        for want in set(wants):
            able = [_Choice(RENT, 15 * joint, (), 0)] if want else [_Choice(0, 0, (), 0)]
            able += [
                self._choice(pieces, total - want) for pieces, total in choices_for(stock, want)
            ]
            self.open[want] = sorted(able, key=lambda choice: choice.cost)

    def _choice(self, pieces: Pieces, surplus: int) -> _Choice:
        joints, packed = len(pieces) - 1, sum(1 << (at * self.field) for at in pieces)
        return _Choice(joints * JOINT + surplus, joints * self.joint + surplus, pieces, packed)

    def best(self) -> tuple[list[Pieces], bool]:
        """The pieces of each cable run, and whether nothing can be better."""
        first = [self.open[want][0] for want in self.wants]
        left = self.stock
        for choice in first:
            left -= choice.packed
            if left & self.guard != self.guard:
                break
        else:
            return [choice.pieces for choice in first], True
        price, bound, built = self._prices()
        chosen = min(built, self._along(price), key=_cost)
        if sum(choice.near for choice in built) - bound >= 1:
            chosen = self._bettered(chosen, price)
        chosen, proven = self._looked_through(chosen)
        found: list[Pieces] = [()] * len(self.wants)
        for at, choice in zip(self.order, chosen, strict=True):
            found[at] = choice.pieces
        return found, proven

    def _looked_through(self, chosen: list[_Choice]) -> tuple[list[_Choice], bool]:
        """The best of all ways to hand the store out, where so few are left to look at that each is
        looked at; else what was chosen, not proven."""
        if (
            len(self.wants) > FEW_RUNS
            or comb(len(self.counts) + MOST_PIECES, MOST_PIECES) > MOST_SETS
        ):
            return chosen, False
        lists = {}
        for want in set(self.wants):
            able = [_Choice(RENT, 15 * self.joint, (), 0)] if want else [_Choice(0, 0, (), 0)]
            able += [
                self._choice(p, total - want)
                for p, total in choices_for(self.lengths, want, every=True)
            ]
            lists[want] = sorted(able, key=lambda choice: choice.cost)
        budget = _Budget(MOST_LOOKED_AT)
        ways = [lists[self.wants[at]] for at in self.order]
        better = self._together(ways, self.stock, _cost(chosen) - 1, budget)
        return (chosen if budget.spent or better is None else better), not budget.spent

    def _prices(self) -> tuple[list[float], float, list[_Choice]]:
        """A price for each length, the bound that the prices prove, and the best that was built
        along them."""
        price = [0.0] * len(self.counts)
        bound, step = float("-inf"), 1.0
        built: list[_Choice] = []
        for turn in range(TURNS):
            asked = [0] * len(price)
            value = -sum(p * count for p, count in zip(price, self.counts, strict=True))
            cheapest = {}
            for want, choices in self.open.items():
                cheapest[want] = min(
                    (_priced(choice, price), at) for at, choice in enumerate(choices)
                )
            for want in self.wants:
                cost, at = cheapest[want]
                value += cost
                for length in self.open[want][at].pieces:
                    asked[length] += 1
            step = step if value > bound else step * 0.9
            bound = max(bound, value)
            if turn % 5 in (0, 4):
                built = min(
                    [built, self._built(price)] if built else [self._built(price)], key=_cost
                )
            over = [
                used - count if used > count or p > 0 else 0
                for used, count, p in zip(asked, self.counts, price, strict=True)
            ]
            norm = sum(o * o for o in over)
            goal = sum(choice.near for choice in built)
            if not norm or goal - bound < 1:
                break
            move = step * max(goal - value, goal * 0.02) / norm
            price = [max(0.0, p + move * o) for p, o in zip(price, over, strict=True)]
        return price, bound, built

    def _built(self, price: Sequence[float]) -> list[_Choice]:
        """The longest cable runs first, each with the cheapest choice that is still there."""
        left, guard = self.stock, self.guard
        sorted_ = {
            want: sorted(c, key=lambda choice: _priced(choice, price))
            for want, c in self.open.items()
        }
        chosen = []
        for at in self.order:
            for choice in sorted_[self.wants[at]]:
                if (left - choice.packed) & guard == guard:
                    left -= choice.packed
                    chosen.append(choice)
                    break
        return chosen

    def _along(self, price: Sequence[float]) -> list[_Choice]:
        """Cable run by cable run the states of the store that cost least at the prices; of like
        cable runs the order does not matter."""
        guard = self.guard
        states = [_State(0.0, self.stock, 0)]
        near: dict[int, list[tuple[float, _Choice]]] = {}
        for want, choices in self.open.items():
            ranked = sorted(
                ((_priced(choice, price), choice) for choice in choices), key=lambda entry: entry[0]
            )
            near[want] = [(cost - ranked[0][0], choice) for cost, choice in ranked[:AHEAD]]
            if all(choice.cost < RENT for _, choice in near[want]):
                near[want].append(
                    (float(RENT), next(choice for choice in choices if choice.cost >= RENT))
                )
        last = -1
        for run in self.order:
            want = self.wants[run]
            found: dict[tuple[int, int], _State] = {}
            for state in states:
                begin = state.at if want == last else 0
                for at, (cost, choice) in enumerate(near[want][begin:], begin):
                    left = state.left - choice.packed
                    if left & guard == guard:
                        value = state.value + cost
                        held = found.get((left, at))
                        if held is None or value < held.value:
                            found[left, at] = _State(value, left, at, state, choice)
            states = nsmallest(BEAM, found.values(), key=lambda state: state.value)
            last = want
        return min((state.choices() for state in states), key=_cost)

    def _bettered(self, chosen: list[_Choice], price: Sequence[float]) -> list[_Choice]:
        """Chosen anew. Where cable runs are still rented, once more after a search that saves
        metres and not joints."""
        for size in ANEW:
            chosen = self._anew(chosen, self.open, price, *size)
        if _cost(chosen) >= RENT:
            thrifty = {
                want: [_thrifty(choice) for choice in choices]
                for want, choices in self.open.items()
            }
            saved = self._anew([_thrifty(choice) for choice in chosen], thrifty, price, *ANEW[0])
            known = {(want, c.packed): c for want, choices in self.open.items() for c in choices}
            again = [
                known[self.wants[at], choice.packed]
                for at, choice in zip(self.order, saved, strict=True)
            ]
            for size in ANEW:
                again = self._anew(again, self.open, price, *size)
            chosen = min(chosen, again, key=_cost)
        return chosen

    def _anew(
        self,
        chosen: list[_Choice],
        open_: Mapping[int, Sequence[_Choice]],
        price: Sequence[float],
        group_of: int,
        among: int,
        nodes: int,
        most_idle: int,
    ) -> list[_Choice]:
        """A few cable runs give their pieces back and choose again together. What costs as much is
        taken as well, since it may lead on. The dice are loaded: the same question has the same
        answer."""
        chance, wants = Random(len(chosen)), [self.wants[at] for at in self.order]
        chosen, near = list(chosen), {}
        for want, choices in open_.items():
            ranked = sorted(choices, key=lambda choice: _priced(choice, price))[:among]
            near[want] = sorted(ranked, key=lambda choice: choice.cost)
        left = self.stock - sum(choice.packed for choice in chosen)
        idle = 0
        while idle <= min(most_idle, ENOUGH * len(chosen)):
            sorry = [
                at for at, choice in enumerate(chosen) if choice.cost > near[wants[at]][0].cost
            ]
            if not sorry:
                break
            first = chance.choice(sorry)
            group = [first, *chance.sample(range(len(chosen)), min(len(chosen), group_of))]
            group = list(dict.fromkeys(group))[:group_of]
            before = [chosen[at] for at in group]
            free = left + sum(choice.packed for choice in before)
            after = self._together(
                [near[wants[at]] for at in group], free, _cost(before), _Budget(nodes)
            )
            idle += 1
            if after is not None:
                idle = idle if _cost(after) == _cost(before) else 0
                for at, choice in zip(group, after, strict=True):
                    chosen[at] = choice
                left = free - sum(choice.packed for choice in after)
        return chosen

    def _together(
        self, lists: Sequence[Sequence[_Choice]], free: int, most: int, budget: _Budget
    ) -> list[_Choice] | None:
        """The cheapest choices, one of each list, from what is free, for up to ``most``; None where
        there are none. No more choices than the ``budget`` has are looked at: once it is spent
        there may be cheaper ones."""
        guard = self.guard
        least = [0] * (len(lists) + 1)
        for at in range(len(lists) - 1, -1, -1):
            least[at] = least[at + 1] + lists[at][0].cost
        best: list[_Choice] | None = None
        taken: list[_Choice] = []

        def choose(at: int, left: int, cost: int) -> None:
            nonlocal best, most
            if at == len(lists):
                best, most = list(taken), cost - 1
                return
            for choice in lists[at]:
                if choice.cost > most - cost - least[at + 1] or not budget.take():
                    return
                if (left - choice.packed) & guard == guard:
                    taken.append(choice)
                    choose(at + 1, left - choice.packed, cost + choice.cost)
                    taken.pop()

        choose(0, free, 0)
        return best


@dataclass(slots=True)
class _Budget:
    """How many choices may still be looked at; ``spent`` where there was one too many."""

    left: int
    spent: bool = False

    def take(self) -> bool:
        """Whether one more may be looked at."""
        self.left -= 1
        self.spent = self.spent or self.left < 0
        return not self.spent


def _cost(chosen: Sequence[_Choice]) -> int:
    return sum(choice.cost for choice in chosen)


def _priced(choice: _Choice, price: Sequence[float]) -> float:
    cost = float(choice.near)
    for at in choice.pieces:
        cost += price[at]
    return cost


def _thrifty(choice: _Choice) -> _Choice:
    """The choice where metres count before joints."""
    return replace(choice, cost=choice.cost // RENT * RENT + choice.cost % JOINT)
