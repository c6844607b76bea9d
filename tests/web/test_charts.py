"""Charts as text, on the pages."""

from __future__ import annotations

import io
from html import unescape
from re import DOTALL, findall, search

from flask import Flask

from fence.store.shows import ShowStore
from tests.conftest import Visitor

TEXT = "1 Dimmer\n2 Red\n3 Green\n4 Blue\n5 Twinkle 0-9 off, 10-255 slow to fast\nHang it safely."
BASE = {"maker": "Bramble", "model": "Bog Wash", "text": TEXT, "setter": "menu", "chart": ""}


def test_reading_marks_every_line(visitor: Visitor) -> None:
    """The page is told what each line was taken for, and an unknown wording can be taught."""
    text = visitor.post("/shows/2/charts/read", BASE, htmx=True).text
    assert "4 lines sure, 1 guessed, 1 not understood." in text
    assert "Hang it safely." in text
    assert 'name="wording" value="twinkle"' in text
    taught = visitor.post(
        "/shows/2/charts/read", {**BASE, "wording": "twinkle", "means": "shutter/strobe"}, htmx=True
    )
    assert "5 lines sure, 0 guessed" in taught.text
    assert "<option selected>shutter/strobe</option>" in taught.text
    nothing = visitor.post("/shows/2/charts/read", {**BASE, "text": "good evening"}, htmx=True)
    assert "No channel was found." in nothing.text


def test_a_chart_is_saved_used_changed_and_brought_into_the_show(
    visitor: Visitor, shows: ShowStore
) -> None:
    """From text to fixtures; a new revision is seen in its effect before the show takes it."""
    revision = shows.get(2).revision
    done = visitor.post("/shows/2/charts/paste", {**BASE, "revision": revision})
    assert done.headers["Location"].endswith("/shows/2/rig/add?kind=bramble-bog-wash+%7C+5+channel")
    add = {
        "kind": "bramble-bog-wash | 5 channel",
        "quantity": "2",
        "label": "Bog 1",
        "universe": "4",
        "start": "401",
    }
    visitor.post("/shows/2/rig/add", {**add, "revision": revision})
    assert [f.start for f in shows.get(2).show.fixtures][-2:] == [401, 406]
    longer = {**BASE, "text": "Mode: 5 channel\n" + TEXT + "\n6 Sound", "chart": "bramble-bog-wash"}
    effect = visitor.post("/shows/2/charts/read", longer, htmx=True).text
    assert "2 fixtures in 5 channel: 5 channels now, 6 then." in effect
    assert "Stops: 7 now, 8 then." in effect
    visitor.post(
        "/shows/2/charts/bramble-bog-wash/edit", {**longer, "revision": shows.get(2).revision}
    )
    assert "revision 2 exists" in visitor.get("/shows/2/charts").text
    assert "6 sound" in visitor.get("/shows/2/charts/bramble-bog-wash/revisions/2").text
    old = visitor.get("/shows/2/charts/bramble-bog-wash/revisions/1").text
    assert "the one that this show was planned with" in old
    assert "6 sound" not in old
    assert visitor.get("/shows/2/charts/bramble-bog-wash/revisions/3").status_code == 422
    assert shows.get(2).show.profile_by_id["bramble-bog-wash"].revision == 1
    assert "6 then" in visitor.get("/shows/2/charts/bramble-bog-wash/update").text
    visitor.post(
        "/shows/2/charts/bramble-bog-wash/update", {"revision": shows.get(2).revision, "seen": "1"}
    )
    show = shows.get(2).show
    assert show.footprints_of(show.fixtures[-1]) == (6,)
    assert shows.history(2)[0].words == "Chart of Bramble Bog Wash brought to revision 2"


def test_editing_a_shipped_chart_as_text_keeps_what_text_cannot_say(
    visitor: Visitor, app: Flask
) -> None:
    """Saving the text of a chart unchanged is no new revision; modes in several parts and the
    setter stay."""
    shelf = app.extensions["fence_pages"].library
    for chart_id in ("tansy-pond-wash", "dibber-cyc-duo", "mattock-fork-8", "wheelhoe-mirror"):
        page = visitor.get(f"/shows/1/charts/{chart_id}/edit")
        assert page.status_code == 200
        before = shelf.newest(chart_id)
        form = {name: str(value) for name, value in _fields(page.text).items()}
        answer = visitor.post(f"/shows/1/charts/{chart_id}/edit", {**form, "kind": "Changed"})
        if chart_id == "mattock-fork-8":
            assert answer.status_code == 422
            continue
        assert answer.status_code == 302
        after = shelf.newest(chart_id)
        assert (after.kind, after.setter, after.modes) == ("Changed", before.setter, before.modes)


def test_how_a_type_is_set_is_all_in_its_form(visitor: Visitor, app: Flask) -> None:
    """Further switches, which way is on, which side is first, one at a time: typed and kept; what
    cannot be is said, with all as it was typed."""
    path = "/shows/1/charts/tansy-pond-wash/edit"
    form = {name: str(value) for name, value in _fields(visitor.get(path).text).items()}
    typed = {
        **form,
        "fixed_on": "10, 12",
        "fixed_off": "11",
        "on_is_down": "y",
        "from_right": "y",
        "one_at_a_time": "y",
        "display_flips": "y",
        "confirm": "hold OK",
        "battery_hours": "6-7 h",
        "battery_stays": "y",
    }
    for wrong, told in (("x", "Accepted are switches from 1 to 32"), ("3", "Switch 3 carries")):
        refused = visitor.post(path, {**typed, "fixed_off": wrong})
        assert refused.status_code == 422
        assert told in refused.text
        assert 'value="10, 12"' in refused.text
        assert f'value="{wrong}"' in refused.text
        assert 'value="hold OK"' in refused.text
    assert visitor.post(path, typed).status_code == 302
    chart = app.extensions["fence_pages"].library.newest("tansy-pond-wash")
    assert (chart.battery_hours, chart.battery_stays) == (6.0, True)
    setter = chart.setter
    assert (setter.fixed_on, setter.fixed_off) == ((10, 12), (11,))
    assert not setter.on_is_up
    assert not setter.first_is_left
    assert setter.one_at_a_time
    assert setter.display_flips
    assert setter.confirm == "hold OK"


def _fields(page: str) -> dict[str, object]:
    """The fields of the chart form as the page has them."""

    fields: dict[str, object] = {}
    for tag in findall(r"<input [^>]*>", page):
        name, value = search(r'name="([^"]+)"', tag), search(r'value="([^"]*)"', tag)
        if name and ('type="checkbox"' not in tag or " checked" in tag):
            fields[name[1]] = unescape(value[1]) if value else "y"
    text = search(r"<textarea[^>]*>\n?(.*?)</textarea>", page, DOTALL)
    chosen = search(r'<option selected value="([^"]+)"', page)
    fields["text"] = unescape(text[1]).replace("\r\n", "\n") if text else ""
    fields["setter"] = chosen[1] if chosen else "menu"
    return fields


def test_a_chart_without_channels_is_not_kept(visitor: Visitor) -> None:
    """Nonsense is refused with everything kept on the page; a missing model is named."""
    refused = visitor.post("/shows/2/charts/paste", {**BASE, "text": "good evening"})
    assert (refused.status_code, "No channel was found in the text" in refused.text) == (422, True)
    assert "good evening" in refused.text
    assert "A model is needed" in visitor.post("/shows/2/charts/paste", {**BASE, "model": ""}).text


def test_retired_charts_leave_the_shelf(visitor: Visitor) -> None:
    """A retired chart is not offered for adding and can be offered again."""
    visitor.post("/shows/2/charts/bindweed-flicker/retire", {})
    fresh = visitor.post("/shows", {"name": "Fresh"}).headers["Location"]
    show = fresh.split("/")[2]
    assert "bindweed-flicker" not in visitor.get(f"/shows/{show}/rig/add").text
    visitor.post("/shows/2/charts/bindweed-flicker/bring-back", {})
    assert "bindweed-flicker" in visitor.get(f"/shows/{show}/rig/add").text


DOUBTED = (
    "3 channel "
    "mode\nCh\tFunction\tValue\n1\tRed\t0-255\n2\tTwinkle\t0-255\n3\tBlue\t0-255\nof the lower ring"
)


def test_a_doubt_is_settled_and_the_rest_is_read_with_that(visitor: Visitor) -> None:
    """Right as read, a channel, levels, above, left out: each is kept for its words, also when
    lines are put before."""
    asked = visitor.post("/shows/2/charts/read", {**BASE, "text": DOUBTED}, htmx=True).text
    assert "4 lines sure" not in asked
    assert "The first doubt is line 4" in asked
    settled = {"line": "4", "line_words": "2\tTwinkle\t0-255", "is-4": "right"}
    assert (
        "right, as you said"
        in visitor.post(
            "/shows/2/charts/read", {**BASE, "text": DOUBTED, **settled}, htmx=True
        ).text
    )
    moved = visitor.post(
        "/shows/2/charts/read", {**BASE, "text": "\n\n" + DOUBTED, **settled}, htmx=True
    ).text
    assert 'id="is-6-right" name="is-6" value="right" autocomplete="off" checked' in moved
    other = visitor.post(
        "/shows/2/charts/read",
        {**BASE, "text": DOUBTED.replace("Twinkle", "Glow"), **settled},
        htmx=True,
    )
    assert "as you said" not in other.text
    joined = {"line": "6", "line_words": "of the lower ring", "is-6": "above"}
    assert (
        "blue of the lower ring"
        in visitor.post("/shows/2/charts/read", {**BASE, "text": DOUBTED, **joined}, htmx=True).text
    )
    left = {"line": "4", "line_words": "2\tTwinkle\t0-255", "is-4": "leave out"}
    text = visitor.post("/shows/2/charts/read", {**BASE, "text": DOUBTED, **left}, htmx=True).text
    assert "left out, as you said" in text
    assert "Not in the text: channel 2." in text


def ways_in(markup: str) -> dict[str, bool]:
    """The ways that can be chosen, and which one is taken."""
    found = findall(r'name="way"\s+value="([^"]*)"([^>]*)>', markup)
    return {unescape(value): "checked" in rest for value, rest in found}


def test_how_a_text_is_meant_is_what_the_person_says(visitor: Visitor) -> None:
    """Other readings are offered with what comes of them. What nobody asked for is not sent back,
    so that it is found anew when the text changes; what was asked for is, and is what is kept."""
    text = "Channel 1\nRed\nChannel 2\nGreen\nChannel 3\nBlue"
    asked = visitor.post("/shows/2/charts/read", {**BASE, "text": text}, htmx=True)
    assert ways_in(asked.text) == {"": True, "as it stands": False}
    assert "Numbers above their functions: 1 mode of 3 channels" in asked.text
    meant = {**BASE, "text": text, "way": "as it stands"}
    stands = visitor.post("/shows/2/charts/read", meant, htmx=True).text
    assert ways_in(stands) == {"as it stands": True, "numbers above their functions": False}
    other = visitor.post("/shows/2/charts/read", {**meant, "text": "1 Red\n2 Green"}, htmx=True)
    assert 'name="way"' not in other.text


def test_a_column_is_what_the_person_says(visitor: Visitor) -> None:
    """What a column holds can be changed, and the table is read anew."""
    text = "Ch\tFunction\tNotes\tMeaning\n1\tStrobe\t0-9\toff\n\t\t10-255\tslow\n2\tRed\t0-255\t"
    asked = visitor.post("/shows/2/charts/read", {**BASE, "text": text}, htmx=True).text
    assert 'name="column-1-2"' in asked
    said = {
        "head": "1",
        "head_words": text.split("\n")[0],
        "column-1-1": "leave out",
        "column-1-3": "function",
    }
    changed = visitor.post("/shows/2/charts/read", {**BASE, "text": text, **said}, htmx=True).text
    assert '<b class="mono">1</b> off' in changed


def test_a_chart_is_put_below_the_text_from_a_file(visitor: Visitor) -> None:
    """What is typed stays; what cannot be read is told with what is accepted."""
    table = io.BytesIO(b"2 channel mode\nCh,Function,Value\n1,Red,0-255\n2,Blue,0-255\n")
    form = {**BASE, "text": "1 Zoom", "do": "file", "revision": "1"}
    page = visitor.post("/shows/2/charts/paste", {**form, "file": (table, "rill.csv")}).text
    assert "1 Zoom" in unescape(page)
    assert "2 channel mode" in page
    bad = visitor.post(
        "/shows/2/charts/paste", {**form, "file": (io.BytesIO(b"%PDF-1.4"), "rill.pdf")}
    )
    assert bad.status_code == 422
    assert "rill.pdf: This is a PDF" in bad.text
    assert "1 Zoom" in bad.text
    assert "Choose a file first" in visitor.post("/shows/2/charts/paste", form).text


def test_words_go_out_and_come_back(visitor: Visitor) -> None:
    """Taught wordings are a file; a file teaches all of its words or none, and says which line is
    wrong."""
    where = "/shows/2/charts/files/words"
    visitor.post(where, {"wording": "Twinkle rate", "means": "shutter/strobe"})
    out = visitor.get(f"{where}/list.csv").text
    assert out == "wording,means\r\ntwinkle rate,shutter/strobe\r\n"
    visitor.post(where, {"forget": "twinkle rate"})
    assert visitor.get(f"{where}/list.csv").text == "wording,means\r\n"
    visitor.post(where, {"do": "file", "file": (io.BytesIO(out.encode()), "words.csv")})
    assert visitor.get(f"{where}/list.csv").text == out
    wrong = visitor.post(
        where,
        {"do": "file", "file": (io.BytesIO(b"wording,means\nglow,red\nmoss,colour\n"), "w.csv")},
    )
    assert "Line 3: “colour” does not fit the column means. Use" in unescape(wrong.text)
    assert "glow" not in visitor.get(f"{where}/list.csv").text
