"""The drill asks what can be set, marks rightly and names the mistake."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.profile import Setter, SetterKind
from fence.core.model.setter import address_of, misreadings, row_of, sum_words, switches_on
from fence.core.setting.drill import QUESTIONS, marked, questions

SETTERS = st.builds(
    Setter,
    st.just(SetterKind.SWITCHES),
    switches=st.integers(1, 10),
    zero_based=st.booleans(),
    on_is_up=st.booleans(),
    first_is_left=st.booleans(),
)


@given(st.integers(0, 10**6), st.lists(st.integers(1, 512), max_size=20), SETTERS)
def test_ten_questions_that_can_be_answered(
    seed: int, addresses: list[int], setter: Setter
) -> None:
    """The rig's own addresses first, none twice while there are others; reading and setting take
    turns."""
    asked = questions(seed, addresses, setter)
    assert asked == questions(seed, addresses, setter)
    assert [question.read for question in asked] == [True, False] * (QUESTIONS // 2)
    lowest, highest = setter.settable
    mine = {address for address in addresses if lowest <= address <= highest}
    assert len({question.address for question in asked}) == min(QUESTIONS, highest - lowest + 1)
    assert sum(question.address in mine for question in asked) >= min(QUESTIONS, len(mine))
    for question in asked:
        assert marked(question, question.address, setter).right
        assert marked(question, switches_on(question.address, setter), setter).right
        assert not marked(question, None, setter).right
        for known in misreadings(question.address, setter):
            mark = marked(question, known.address, setter)
            assert (mark.right, bool(mark.mistake)) == (False, True)


@given(st.integers(1, 511), SETTERS, st.booleans(), st.booleans())
def test_a_row_and_its_sum(address: int, setter: Setter, turned: bool, mirrored: bool) -> None:
    """Turned is upside down, mirrored left for right; both together leave the order. The sum is the
    address."""
    lowest, highest = setter.settable
    if not lowest <= address <= highest:
        return
    on = switches_on(address, setter)
    assert address_of(on, setter) == address
    row = row_of(on, setter, turned=turned, mirrored=mirrored)
    plain = row_of(on, setter)
    numbers = [switch.number for switch in plain]
    assert [switch.number for switch in row] == (numbers[::-1] if turned != mirrored else numbers)
    assert {switch.number: switch.up for switch in row} == {s.number: s.up != turned for s in plain}
    words = sum_words(on, setter)
    assert (
        sum(int(piece) for piece in words.split(" = ")[0].split(",")[0].split(" + "))
        == address - setter.zero_based
    )
    assert words.endswith(str(address))


def test_mistakes_in_words() -> None:
    """A row read from the wrong end, one switch wrong, off by one, and no address at all."""
    nine = Setter(SetterKind.SWITCHES)
    question = next(q for q in questions(3, [97], nine) if q.address == 97)
    assert marked(question, 268, nine).mistake == "read from the wrong end"
    assert marked(question, 97 + 128, nine).mistake == "the switch that counts 128"
    assert marked(question, 98, nine).mistake == "one too high"
    assert marked(question, 96, nine).mistake == "one too low"
    assert marked(question, (), nine).mistake == "no address"
    assert marked(question, 5, nine).mistake == ""
    assert sum_words((1, 6, 7)) == "64 + 32 + 1 = 97"
    assert sum_words((7,)) == "64"
    assert (
        sum_words((), Setter(SetterKind.SWITCHES, zero_based=True))
        == "0, and 1 since they count from 0: 1"
    )
