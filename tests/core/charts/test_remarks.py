"""Checks on a chart."""

from __future__ import annotations

import pytest

from fence.core import edits
from fence.core.charts.draft import profile_from
from fence.core.charts.reading import read_chart_text
from fence.core.charts.remarks import check_chart
from fence.core.checks import Severity, check
from fence.core.model.errors import EditError
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile, Range
from fence.demo import clean_show
from fence.library import shipped_profiles

F = Function


def remarks(*channels: Channel) -> list[tuple[str, int | None, str]]:
    profile = Profile("x", "T", "T", (Mode("m", (Part(len(channels), channels),)),))
    return [(str(remark.severity), remark.channel, remark.text) for remark in check_chart(profile)]


CASES = [
    ("nothing wrong", [Channel(F.DIMMER)], []),
    (
        "no light",
        [Channel(F.PAN)],
        [("caution", None, "Has neither a dimmer nor colours: is it complete?")],
    ),
    (
        "fine alone",
        [Channel(F.DIMMER, byte=Byte.FINE)],
        [("stop", 1, "dimmer fine has no coarse byte before it.")],
    ),
    (
        "fine apart",
        [Channel(F.DIMMER, byte=Byte.COARSE), Channel(F.RED), Channel(F.DIMMER, byte=Byte.FINE)],
        [("note", 3, "dimmer fine does not stand right behind its coarse byte.")],
    ),
    (
        "two meanings",
        [Channel(F.DIMMER, ranges=(Range(0, 20, "a"), Range(10, 255, "b")))],
        [("stop", 1, "Levels 10 to 20 have two meanings.")],
    ),
    (
        "a gap",
        [Channel(F.DIMMER, ranges=(Range(0, 9, "a"), Range(20, 255, "b")))],
        [("note", 1, "Levels 10 to 19 have no meaning.")],
    ),
    (
        "default outside",
        [Channel(F.DIMMER, default=200, ranges=(Range(0, 9, "a"),))],
        [("caution", 1, "The default 200 lies in no range.")],
    ),
    (
        "own show",
        [
            Channel(F.DIMMER),
            Channel(F.PROGRAM, default=50, ranges=(Range(0, 9, "off"), Range(10, 255, "chase"))),
        ],
        [("caution", 2, "The default 50 is “chase”: the fixture would run its own show.")],
    ),
]


@pytest.mark.parametrize(
    ("channels", "expected"), [case[1:] for case in CASES], ids=[case[0] for case in CASES]
)
def test_each_check(channels: list[Channel], expected: list[tuple[str, int | None, str]]) -> None:
    """Each check speaks where it should and is silent elsewhere."""
    assert remarks(*channels) == expected


def test_modes_of_one_size_are_told_apart_by_name() -> None:
    """Two modes of one footprint are a note."""
    draft = read_chart_text(
        "3 channel mode\n1 Red\n2 Green\n3 Blue\n3 channel mode\n1 Cyan\n2 Magenta\n3 Yellow"
    )
    found = check_chart(profile_from(draft, profile_id="x", maker="", model="x"))
    assert [(remark.severity, remark.mode) for remark in found] == [
        (Severity.NOTE, "3 channel mode 2")
    ]


def test_shipped_charts_have_no_stop_or_caution() -> None:
    """What ships is in order."""
    for profile in shipped_profiles():
        assert [r for r in check_chart(profile) if r.severity is not Severity.NOTE] == [], (
            profile.title
        )


def test_a_newer_chart_in_a_show_can_clash() -> None:
    """A chart that grows a mode shows its new overlaps; a mode that is gone is told; parts follow
    the mode."""
    show = clean_show()
    old = show.profile_by_id["tansy-pond-wash"]
    grown = Mode("5 channel", (Part(7),))
    newer = Profile(
        old.id,
        old.maker,
        old.model,
        (grown, *(m for m in old.modes if m.name in ("8 channel",))),
        revision=2,
    )
    after = edits.update_chart(show, newer)
    rules = {finding.rule for finding in check(after)}
    assert {"overlap", "mode-missing"} <= rules
    assert [f.patch for f in after.fixtures] == [f.patch for f in show.fixtures]
    with pytest.raises(EditError, match="not in the show"):
        edits.update_chart(show, Profile("gone", "", "gone", ()))
    split = Profile(old.id, old.maker, old.model, (Mode("5 channel", (Part(1), Part(4))),))
    lily = next(f for f in edits.update_chart(show, split).fixtures if f.label == "Lily 1")
    assert [str(patch) for patch in lily.patch] == ["U2 001", "no address"]
