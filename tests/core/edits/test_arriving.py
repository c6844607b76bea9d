"""A rig from a file beside the one that is there: who is who, and nothing that the file does not
speak of is lost."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.edits.arriving import ALL_COLUMNS, differing, take_over, who_is_who
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.formats.rig_csv import read_rig_csv, write_rig_csv
from tests.rigs import rich_rigs, rig, rigs


def as_read(show: Show, text: str) -> Show:
    """The show after an export of it, changed to ``text``, is read again."""
    reading = read_rig_csv(text.encode(), known=show.profiles)
    assert not reading.refused
    return take_over(show, reading.show, reading.columns)


def apart(show: Show) -> Show:
    """The show with numbers and labels that name one fixture each, so that all can be told
    apart."""
    fixtures = tuple(
        replace(f, number=n, label=f"Fixture {n}") for n, f in enumerate(show.fixtures, 1)
    )
    return edits.with_places(replace(show, fixtures=fixtures))


@given(rigs())
def test_an_export_read_again_changes_nothing(show: Show) -> None:
    """Whatever is exported is known again, row by row."""
    show = apart(show)
    again = as_read(show, write_rig_csv(show))
    assert [differing(a, b) for a, b in zip(show.fixtures, again.fixtures, strict=True)] == [
        []
    ] * len(show.fixtures)
    assert again.profiles == show.profiles


@given(rich_rigs(), st.data())
def test_a_whole_show_with_changes_is_matched(show: Show, data: st.DataObject) -> None:
    """Renamed, moved, dropped and new fixtures come out as such; the missing stay unless told; ids
    and settings too."""
    show = apart(show)
    if not show.fixtures:
        return
    ids = [fixture.id for fixture in show.fixtures]
    renamed = data.draw(st.sets(st.sampled_from(ids)))
    dropped = data.draw(st.sets(st.sampled_from(ids))) - renamed
    rows = tuple(
        replace(f, label=f"New {f.id}" if f.id in renamed else f.label)
        for f in show.fixtures
        if f.id not in dropped
    )
    coming = replace(show, fixtures=tuple(replace(f, id=1000 + f.id, set_to=None) for f in rows))
    arrivals = who_is_who(show, coming)
    assert {fixture.id for fixture in arrivals.missing} == dropped
    assert all(
        arrival.held and arrival.held.id == arrival.coming.id - 1000 for arrival in arrivals.each
    )
    after = take_over(show, coming)
    assert [f.id for f in after.fixtures] == ids
    assert {f.id for f in after.fixtures if f.label.startswith("New ")} == renamed
    assert all(f == show.fixture(f.id) for f in after.fixtures if f.id not in renamed)
    fewer = take_over(show, coming, drop_missing=True)
    assert {f.id for f in fewer.fixtures} == set(ids) - dropped


def test_ten_labels_and_two_addresses() -> None:
    """Twelve changes in a file are twelve changed fixtures, and one step."""
    show = rig(*((f"Oak {n}", 4, 1, n * 5 + 1) for n in range(20)))
    show = edits.pin(edits.mark_set(show, [1]), [20])
    text = write_rig_csv(show)
    for n in range(10):
        text = text.replace(f",Oak {n},", f",Elm {n},")
    text = text.replace(",1,96,,,yes", ",1,400,,,yes").replace(",1,91,", ",2,91,")
    after = as_read(show, text)
    changed = [(a, b) for a, b in zip(show.fixtures, after.fixtures, strict=True) if a != b]
    assert len(changed) == 12
    assert after.fixtures[0].set_to == show.fixtures[0].set_to is not None
    assert after.fixtures[19].patch[0].address == Address(1, 400)
    assert after.fixtures[18].patch[0].address == Address(2, 91)


def test_what_the_file_does_not_speak_of_stays() -> None:
    """A file of numbers, labels and channels leaves addresses, positions, pins, notes and modes as
    they are."""
    show = edits.set_note(
        edits.set_position(rig(("A", 4, 1, 1), ("B", 5, 1, 9)), [1], "Roof"), [2], "loose"
    )
    after = as_read(show, "No.;Name;Ch\n2;Bee;5\n1;A;4\n3;Cee;7,0;;\n")
    assert [f.label for f in after.fixtures] == ["A", "Bee", "Cee"]
    assert after.fixtures[:2] == (show.fixtures[0], replace(show.fixtures[1], label="Bee"))
    assert after.footprints_of(after.fixtures[2]) == (7,)


def test_heads_in_other_words() -> None:
    """Heads as people write them, decimal numbers, trailing delimiters, addresses with their
    universe."""
    reading = read_rig_csv(
        b"Unit,Name,Fixture Type,Chan,Univ,DMX,Location,Comments,,\n"
        b"7.0,Ash,Wash,6,2,11.0,Wall,hot,,\n8,Elm,Wash,6,,3.101,,,,\n"
    )
    assert not reading.refused
    ash, elm = reading.show.fixtures
    assert (ash.number, ash.label, str(ash.patch[0]), ash.position, ash.note) == (
        7,
        "Ash",
        "U2 011",
        "Wall",
        "hot",
    )
    assert str(elm.patch[0]) == "U3 101"
    assert set(reading.columns) & ALL_COLUMNS == {
        "number",
        "label",
        "model",
        "channels",
        "universe",
        "address",
        "position",
        "note",
    }
    both = read_rig_csv(b"name,label,channels\nX,Ash,6\n")
    assert (both.show.fixtures[0].label, both.show.fixtures[0].note) == ("Ash", "name: X")


def test_a_group_of_that_name_is_the_shows_only_if_a_member_is_known() -> None:
    """A stranger's group of a like name stays its own; that of an export is known."""
    show = edits.share(rig(("A", 4, 1, 1), ("B", 4, 1, 9)), [1, 2], "pair")
    stranger = edits.share(rig(("X", 4, 3, 1), ("Y", 4, 3, 9)), [1, 2], "pair")
    stranger = replace(
        stranger,
        fixtures=tuple(replace(f, number=f.number + 50) for f in stranger.fixtures if f.number),
    )
    after = take_over(show, stranger)
    assert [f.share for f in after.fixtures] == ["pair", "pair", "pair 2", "pair 2"]
    assert [f.share for f in as_read(show, write_rig_csv(show)).fixtures] == ["pair", "pair"]
