"""The probe's pages: a sheet is kept, answers can be taken back, and a chart comes of it."""

from __future__ import annotations

from tests.conftest import Visitor


def begun(visitor: Visitor, **chosen: object) -> str:
    """The address of a fresh sheet."""
    return visitor.post("/shows/1/charts/probe", chosen).location


def test_a_sheet_is_kept(visitor: Visitor) -> None:
    """An answer is still there when the page is loaded anew, and can be taken back."""
    sheet = begun(visitor)
    visitor.post(sheet, {"answer": "red"})
    assert "Raise slot 2" in visitor.get(sheet).text
    visitor.post(sheet, {"do": "back"})
    assert "Raise slot 1" in visitor.get(sheet).text


def test_an_odd_answer_loses_nothing(visitor: Visitor) -> None:
    """An empty answer or one that was not offered is told; the sheet stands where it stood."""
    sheet = begun(visitor)
    visitor.post(sheet, {"answer": "red"})
    for odd, words in (("", "Choose what was seen"), ("pink elephants", "is not an answer here")):
        refused = visitor.post(sheet, {"answer": odd})
        assert refused.status_code == 422
        assert words in refused.text
    assert "1 seen so far" in visitor.get(sheet).text


def test_a_practice_fixture_to_a_chart(visitor: Visitor) -> None:
    """The practice fixture answers all; its chart opens as text, ready to be saved."""
    sheet = begun(visitor, practice=0)
    visitor.post(sheet, {"do": "rest"})
    page = visitor.get(sheet)
    assert "8 channels after" in page.text
    chart = visitor.get(f"/shows/1/charts/paste?sheet={sheet.rsplit('/', 1)[1]}")
    assert "6 shutter/strobe" in chart.text
    assert "10-239 strobe, slow to fast" in chart.text


def test_only_a_practice_fixture_answers(visitor: Visitor) -> None:
    """Fence does not answer for a real fixture; a sheet that is gone is a page that is not
    there."""
    assert visitor.post(begun(visitor), {"do": "let"}).status_code == 422
    assert visitor.get("/shows/1/charts/probe/none").status_code == 404
    assert visitor.get("/shows/1/charts/paste?sheet=none").status_code == 404
