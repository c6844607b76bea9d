"""Scenes, fixture types and workbooks on the pages: seen before anything is saved, missing types
asked for, and given back."""

from __future__ import annotations

import re
from io import BytesIO
from pathlib import Path

import pymvr
import pytest
from openpyxl import load_workbook

from fence.core.model.profile import Mode, Part, Profile
from fence.formats.gdtf.writing import write_gdtf
from fence.store.shows import ShowStore
from tests.conftest import Visitor

STRANGE = Profile("x", "Sedge", "Stranger", (Mode("5 ch", (Part(5),)),))


def upload(visitor: Visitor, name: str, data: bytes, into: int | None = None) -> str:
    """Send a file, and give the address of its preview."""
    sent = {"file": (BytesIO(data), name), **({"into": str(into)} if into else {})}
    answer = visitor.post("/import", sent)
    assert answer.status_code == 302, answer.text[:500]
    return answer.headers["Location"]


def scene_of(path: Path, spec: str, *types: Profile) -> bytes:
    """A scene of two fixtures of one type, by the library of the standard."""
    fixtures = [
        pymvr.Fixture(
            name=f"Strange {at}",
            gdtf_spec=spec,
            gdtf_mode="5 ch",
            fixture_id=str(900 + at),
            addresses=pymvr.Addresses([pymvr.Address(0, 9, 1 + 5 * at)]),
        )
        for at in range(2)
    ]
    layer = pymvr.Layer(name="L", child_list=pymvr.ChildList(fixtures=fixtures))
    writer = pymvr.GeneralSceneDescriptionWriter()
    writer.serialize_scene(pymvr.Scene(layers=pymvr.Layers([layer]), aux_data=pymvr.AUXData()))
    for profile in types:
        held = path / spec
        held.write_bytes(write_gdtf(profile))
        writer.files_list.append((str(held), spec))
    writer.write_mvr(str(path / "scene.mvr"))
    return (path / "scene.mvr").read_bytes()


def test_a_scene_into_an_empty_show(visitor: Visitor, shows: ShowStore, tmp_path: Path) -> None:
    """With its types; what is there is told before it is saved."""
    data = scene_of(tmp_path, "Sedge@Stranger.gdtf", STRANGE)
    preview = upload(visitor, "rig.mvr", data)
    page = visitor.get(preview).text
    assert "2 fixtures understood" in page
    assert "Nothing is saved yet." in page
    draft = preview.split("/import/")[1].split("?")[0]
    saved = visitor.post(f"/import/{draft}/save", {"name": "From the designer"})
    show = shows.get(int(re.findall(r"/shows/(\d+)/", saved.headers["Location"])[0])).show
    assert [one.label for one in show.fixtures] == ["Strange 0", "Strange 1"]
    assert show.fixtures[1].planned_at == "U9 006"
    assert show.profiles[0].title == "Sedge Stranger"


def test_a_type_that_is_missing_is_asked_for(
    visitor: Visitor, shows: ShowStore, tmp_path: Path
) -> None:
    """Nothing is guessed: its fixtures are left out only where somebody says so, or get the chart
    that was chosen."""
    held = shows.get(1).show
    glow = next(one for one in held.profiles if any(len(m.parts) == 1 for m in one.modes))
    data = scene_of(tmp_path, "Nobody@Knows this.gdtf")
    preview = upload(visitor, "rig.mvr", data, into=1)
    page = visitor.get(preview).text
    assert "Types that the scene names and does not have" in page
    assert "Nobody@Knows this.gdtf, 2 fixtures" in page
    draft = preview.split("/import/")[1].split("?")[0]
    sent = {"into": "1", "revision": str(shows.get(1).revision)}
    none = visitor.post(f"/import/{draft}/save", sent)
    assert none.status_code == 422
    assert "All types of the scene are missing" in none.text
    chosen = f"Nobody@Knows this.gdtf\t{glow.id}"
    page = visitor.get(f"/import/{draft}", query_string={"into": "1", "instead": chosen}).text
    assert "2 would be new" in page
    visitor.post(f"/import/{draft}/save", {**sent, "instead": chosen})
    after = shows.get(1).show
    assert len(after.fixtures) == len(held.fixtures) + 2
    assert after.fixtures[-1].profile == glow.id


@pytest.mark.parametrize("ending", ["mvr", "xlsx", "csv", "json"])
def test_what_goes_out_changes_nothing_when_it_comes_back(
    visitor: Visitor, shows: ShowStore, ending: str
) -> None:
    """Into the very show it came from."""
    data = visitor.get(f"/shows/1/export.{ending}").data
    page = visitor.get(upload(visitor, f"rig.{ending}", data, into=1)).text
    words = " ".join(re.findall(r'<p class="lead">(.*?)</p>', page, re.DOTALL)[0].split())
    count = len(shows.get(1).show.fixtures)
    assert f"{count} fixtures understood" in words
    assert f"0 of the show would change, {count} would stay as they are, 0 would be new" in words


def test_a_fixture_type_is_put_in_the_library(visitor: Visitor) -> None:
    """Seen first, with what there is to say of each mode; the next time it is there already."""
    part = Part(2)
    profile = Profile("sedge-stranger", "Sedge", "Stranger", (Mode("5 ch", (Part(5),)),))
    data = write_gdtf(Profile("x", "Sedge", "Stranger", (*profile.modes, Mode("2 ch", (part,)))))
    answer = visitor.post("/shows/1/charts/files", {"file": (BytesIO(data), "S.gdtf")})
    assert answer.status_code == 302, answer.text[:300]
    page = visitor.get(answer.headers["Location"]).text
    assert "Sedge Stranger" in page
    assert "5 ch (5 ch)" in page
    visitor.post(answer.headers["Location"], {"chart": "sedge-stranger"})
    again = visitor.get("/shows/1/charts/files/sedge-stranger.gdtf").data
    answer = visitor.post("/shows/1/charts/files", {"file": (BytesIO(again), "S.gdtf")})
    assert "as the library has it" in visitor.get(answer.headers["Location"]).text


@pytest.mark.parametrize(
    ("path", "name", "told"),
    [
        ("/import", "rig.mvr", "This is not a scene (.mvr)"),
        ("/import", "rig.xlsx", "This is not a workbook (.xlsx)"),
        ("/shows/1/charts/files", "a.gdtf", "This is not a fixture type (.gdtf)"),
    ],
)
def test_what_is_none_of_these(visitor: Visitor, path: str, name: str, told: str) -> None:
    """It says what was expected."""
    answer = visitor.post(path, {"file": (BytesIO(b"nothing of the kind"), name)})
    assert answer.status_code == 422
    assert told in answer.text


def test_a_workbook_has_a_sheet_for_each_universe(visitor: Visitor, shows: ShowStore) -> None:
    """For people, behind the table that is read."""
    book = load_workbook(BytesIO(visitor.get("/shows/1/export.xlsx").data))
    carried = shows.get(1).show.carried
    assert book.sheetnames[1:] == [f"U{number}" for number in carried]


def test_which_column_is_which_is_asked_once(visitor: Visitor, shows: ShowStore) -> None:
    """A table with heads that nobody knows is no dead end: somebody says which column is which,
    for this file and for all later ones."""
    table = "Gerätename;Kanalzahl;Ring;Ort\nSäule;5;2;Dach\n".encode()
    asked = upload(visitor, "liste.csv", table)
    assert asked.split("?")[0].endswith("/heads")
    page = visitor.get(asked).text
    assert "Which column is which?" in page
    assert "Säule" in page
    told = {
        "head": ["Gerätename", "Kanalzahl", "Ring", "Ort"],
        "column": ["label", "", "universe", "position"],
    }
    again = visitor.get(visitor.post(asked.split("?")[0], told).headers["Location"])
    assert "The column channels is missing" in again.text
    told["column"][1] = "channels"
    there = visitor.post(asked.split("?")[0], told).headers["Location"]
    preview = visitor.get(visitor.get(there).headers["Location"]).text
    assert "1 fixture understood" in preview
    assert "Dach" in preview
    later = upload(visitor, "other.csv", "Kanalzahl,Gerätename\n3,Neu\n".encode(), into=1)
    assert "1 would be new" in " ".join(visitor.get(later).text.split())
    wrong = visitor.post(asked.split("?")[0], {"head": ["x"], "column": ["colour"]})
    assert wrong.status_code == 422
    assert "A rig has no column “colour”" in wrong.text


def test_what_is_no_table_is_not_asked_about(visitor: Visitor) -> None:
    """One column, or nothing below the heads."""
    for data in (b"name of a thing\nA\n", b"what;else\n"):
        answer = visitor.post("/import", {"file": (BytesIO(data), "a.csv")})
        assert answer.status_code == 422
