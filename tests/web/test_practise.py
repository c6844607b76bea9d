"""Practise: drills answered and kept, work sheets, hidden faults, cases."""

from __future__ import annotations

import re
from collections.abc import Iterator
from html import unescape
from io import BytesIO
from json import loads

import pytest
from flask import Flask
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.errors import FenceError
from fence.core.practising.register import BY_KEY, ask
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.told import cause_words, remedy
from fence.demo import back_room
from fence.formats.cases import CaseFile, read_case, write_case
from tests.conftest import Visitor, until


@pytest.fixture
def hunting(app: Flask, visitor: Visitor) -> Iterator[Visitor]:
    """Somebody who looks for hidden faults; the processes end with the test."""
    yield visitor
    app.extensions["fence_hunts"].end()


def once(visitor: Visitor, path: str, sign: str) -> str:
    """The page once it has a sign."""
    until(lambda: sign in visitor.get(path).text, f"{sign} on {path}")
    return visitor.get(path).text


def test_a_drill_is_answered_and_kept(visitor: Visitor) -> None:
    """Right, wrong with its slip, unreadable; only answers count, and the boxes show it."""
    place = "/practise/drill/next-start"
    asked = ask("next-start", 1, 4, back_room(), back_room())
    assert unescape(asked.asks) in unescape(visitor.get(f"{place}?seed=4&level=1").text)
    refused = visitor.post(place, {"level": 1, "seed": 4, "answer": "about here"})
    assert refused.status_code == 422
    assert "cannot be read. Use universe and slot" in refused.text
    assert 'value="about here"' in refused.text
    assert "0 of 42 are held for good" in visitor.get("/practise").text
    slip = asked.slips[0]
    for answer, told in ((slip.answer, slip.why), (asked.right[0], "Right.")):
        done = visitor.post(place, {"level": 1, "seed": 4, "answer": answer})
        assert done.status_code == 302
        page = unescape(visitor.get(done.headers["Location"]).text)
        assert told in page
        assert asked.working in page
    page = visitor.get("/practise").text
    assert "1/2" in page
    visitor.post("/practise/forget", {})
    assert "1/2" not in visitor.get("/practise").text


def test_each_person_has_boxes_of_their_own(visitor: Visitor) -> None:
    """Under the name that was given at this browser."""
    right = ask("levels", 1, 9, back_room(), back_room()).right[0]
    visitor.get("/")
    visitor.post("/who", {"who": "Ash"})
    visitor.post("/practise/drill/levels", {"level": 1, "seed": 9, "answer": right})
    assert "1/1" in visitor.get("/practise").text
    visitor.post("/who", {"who": "Elm"})
    assert "1/1" not in visitor.get("/practise").text
    visitor.post("/who", {"who": "ash"})
    assert "1/1" in visitor.get("/practise").text


def test_a_round_goes_on_to_what_is_due(visitor: Visitor) -> None:
    """Until nothing of the round is left, and then to the next one."""
    seen = []
    for _ in range(4):
        to = visitor.get("/shows/1/practise/next").headers["Location"]
        key = re.search(r"/drill/([a-z-]+)", to)[1]  # type: ignore[index]
        seed = re.search(r"seed=(\d+)", to)[1]  # type: ignore[index]
        seen.append(key)
        form = {"level": 1, "seed": seed, "answer": "0", "round": 1}
        visitor.post(f"/shows/1/practise/drill/{key}", form)
    assert len(set(seen)) == 4
    assert "Round 2: " in visitor.get("/shows/1/practise").text


@pytest.mark.parametrize("key", ["", *BY_KEY])
def test_a_sheet_has_its_answers_behind(visitor: Visitor, key: str) -> None:
    """Twelve questions, the same for the same number, with twelve answers on the second page."""
    path = f"/shows/1/practise/sheet?seed=5&drill={key}&level=2"
    page = visitor.get(path).text
    questions, answers = page.split('aria-label="Answers"')
    assert questions.count("<li>\n            <p>") + questions.count("<li><p>") == 12
    assert answers.count('<li><b class="mono">') + answers.count('<b class="mono">') >= 12
    assert plain(visitor.get(path).text) == plain(page)
    assert visitor.get("/practise/sheet?seed=5&drill=juggling").status_code in (404, 422)


def case_of(title: str, *faults: Fault) -> bytes:
    """A case on the built-in rig, as a file."""
    return write_case(CaseFile(title, back_room(), faults)).encode()


def begun(visitor: Visitor, data: bytes) -> str:
    """Take a case from its file and begin it: the page once the rig stands."""
    visitor.get("/practise/find")
    sent = visitor.post("/practise/cases", {"file": (BytesIO(data), "case.json")})
    assert sent.status_code == 302, sent.text
    visitor.get(sent.headers["Location"])
    visitor.post(f"{sent.headers['Location']}/begin", {})
    return once(visitor, "/practise/find", 'id="complaint"')


def plain(page: str) -> str:
    """A page without what differs from one to the next."""
    page = re.sub(r'[\w-]{10,}\.[\w-]{4,}\.[\w-]{10,}|nonce="[^"]*"', "", page)
    return re.sub(r"/cases/\d+", "/cases/N", page)


def test_hidden_means_hidden(hunting: Visitor) -> None:
    """Two rigs with unlike faults of which the same is noticed look the same, answer by answer, as
    long as nothing is looked at that tells them apart; no page names the fault before its end."""
    show = back_room()
    wash = next(one.id for one in show.fixtures if one.label == "Wash 3")
    faults = [Fault(Trouble.NO_POWER, wash), Fault(Trouble.NO_LAMP, wash)]
    same = [
        ("find/check", {"kind": "look", "place": f"f{wash}"}),
        ("find/check", {"kind": "desk"}),
        ("find/check", {"kind": "tester", "place": "s1.3"}),
        ("find/claim", {"trouble": "blackout", "where": "d"}),
        ("find/over", {}),
    ]
    looked: list[list[str]] = []
    for fault in faults:
        pages = [begun(hunting, case_of("Same", fault))]
        for path, form in same:
            done = hunting.post(f"/practise/{path}", form)
            assert done.status_code == 302
            pages.append(str(sorted(done.headers.get_all("Location"))))
            pages.append(hunting.get("/practise/find").text)
        pages += [hunting.get(path).text for path in ("/practise", "/", "/healthz")]
        told = [cause_words(show, [fault]).rstrip("."), remedy(show, fault).rstrip(".")]
        assert not [words for words in told for page in pages if words in unescape(page)]
        looked.append([plain(page) for page in pages])
        hunting.post("/practise/find/leave", {})
        for case in re.findall(r"/practise/cases/(\d+)\"", hunting.get("/practise/find").text):
            hunting.post(f"/practise/cases/{case}/remove", {})
    assert looked[0] == looked[1]


def test_a_fault_is_found_and_compared(hunting: Visitor) -> None:
    """Checks with their minutes, a wrong claim, the right one, and the proof; then both ways beside
    each other, and with the case who solved it how."""
    show = back_room()
    cyc = next(one.id for one in show.fixtures if one.label == "Cyc 2")
    page = begun(hunting, case_of("One of three", Fault(Trouble.NO_POWER, cyc)))
    assert "Cyc 2 was dark." in page
    bad = hunting.post("/practise/find/check", {"kind": "tester", "place": f"f{cyc}"})
    assert bad.status_code == 422
    assert "choose a place from the list" in bad.text
    hunting.post("/practise/find/check", {"kind": "power", "place": f"f{cyc}"})
    hunting.post("/practise/find/claim", {"trouble": "deaf", "where": f"f{cyc}"})
    hunting.post("/practise/find/over", {})
    page = hunting.get("/practise/find").text
    for words in ("Cyc 2 has no power", "that was not it", "Something is still wrong"):
        assert words in page
    hunting.post("/practise/find/claim", {"trouble": "no-power", "where": f"f{cyc}"})
    hunting.post("/practise/find/over", {})
    page = once(hunting, "/practise/find", 'id="mark"')
    assert "Found and mended." in page
    assert "Cyc 2 has no power." in page
    minutes = [float(one) for one in re.findall(r"<h2>[^<]*: ([\d.]+) min</h2>", page)]
    assert minutes[0] > minutes[1] > 0
    assert "Troubleshoot: " in page
    assert hunting.post("/practise/find/check", {"kind": "desk"}).status_code == 422
    hunting.post("/practise/find/leave", {})
    page = hunting.get("/practise/find").text
    assert "1 fault found so far" in page
    case = re.search(r"/practise/cases/(\d+)\"", page)[1]  # type: ignore[index]
    page = hunting.get(f"/practise/cases/{case}").text
    assert "found and mended" in page
    assert f"{minutes[0]:.1f} min" in page


def test_a_case_is_set_by_clicking(hunting: Visitor) -> None:
    """Each fault says what it will look like; what cannot be is refused and keeps the rest."""
    new = "/shows/1/practise/cases/new"
    hunting.get(new)
    page = hunting.post(new, {"add": 1, "trouble": "no-power", "where": "f1", "faults": "[]"}).text
    assert "Palm 1 has no power." in page
    assert "It will look like this: palm 1 was dark." in page
    faults = unescape(re.search(r'name="faults" value="([^"]*)"', page)[1])  # type: ignore[index]
    bad = {"add": 1, "trouble": "wrong-mode", "where": "f2", "more": "disco", "faults": faults}
    refused = hunting.post(new, bad)
    assert refused.status_code == 422
    assert "Say which mode it is in. Use one of" in refused.text
    assert "Palm 1 has no power." in refused.text
    assert 'value="disco"' in refused.text
    assert hunting.post(new, {"title": "", "faults": faults}).status_code == 422
    more = {"enter": 1, "trouble": "blackout", "where": "d", "faults": faults}
    assert "The desk is in blackout" in hunting.post(new, more).text, "Enter without a title"
    done = hunting.post(new, {**more, "title": "A dark palm"})
    assert done.status_code == 302
    page = hunting.get(done.headers["Location"]).text
    assert "A dark palm" in page
    assert "no power" not in page
    number = re.search(r"/cases/(\d+)\.json", page)[1]  # type: ignore[index]
    file = hunting.get(f"/practise/cases/{number}.json").get_data()
    assert b"no-power" not in file
    assert read_case(file).faults == (Fault(Trouble.NO_POWER, 1),)
    sheet = hunting.get(f"/practise/cases/{number}/sheet").text
    front, back = sheet.split('aria-label="The answer"')
    assert "no power" not in front
    assert "Palm 1 has no power." in back


@given(st.binary(max_size=400))
def test_any_file_is_a_case_or_refused(data: bytes) -> None:
    """In words."""
    try:
        read_case(data)
    except FenceError as error:
        assert str(error)  # noqa: PT017


@pytest.mark.parametrize(
    ("field", "value"),
    [("format", "x"), ("version", 2), ("sealed", "!"), ("sealed", "eJyLBQAAdgA5"), ("title", "")],
)
def test_what_is_no_case(field: str, value: object) -> None:
    """Each field is looked at."""
    file = loads(case_of("Sound", Fault(Trouble.BLACKOUT)))
    file[field] = value
    with pytest.raises(FenceError):
        read_case(str(file).replace("'", '"').replace("None", "null").encode())


def test_the_practice_rig_by_clicking(app: Flask, visitor: Visitor) -> None:
    """A fault is put in where it was picked, says what it looks like, is hidden and shown, and
    taken out; what cannot be there is not offered, and refused."""
    place = "/shows/1/prove/practice"
    page = visitor.get(f"{place}?where=f1").text
    assert "no power" in page
    assert "universe not sent" not in page
    bad = {"do": "put", "where": "f1", "trouble": "wrong-address", "more": "600"}
    refused = visitor.post(place, bad)
    assert refused.status_code == 422
    assert "Use an address from 1 to 512." in refused.text
    assert 'value="600"' in refused.text
    put = {"do": "put", "where": "f1", "trouble": "no-power", "hidden": "1"}
    page = visitor.get(visitor.post(place, put).headers["Location"]).text
    assert "1 fault, hidden." in page
    assert "Palm 1 has no power" not in page
    rigs = app.extensions["fence_rigs"]
    try:
        assert [one.put for one in rigs._running.values()] == [(Fault(Trouble.NO_POWER, 1),)]
        page = visitor.get(visitor.post(place, {"do": "show"}).headers["Location"]).text
        assert "Palm 1 has no power." in page
        assert "It will look like this: palm 1 was dark." in page
        page = visitor.get(visitor.post(place, {"do": "out", "out": "0"}).headers["Location"]).text
        assert "Nothing is wrong." in page
    finally:
        rigs.end()


def test_a_heap_is_handed_in(visitor: Visitor) -> None:
    """Beside Fence's layout; what cannot be read keeps what was typed."""
    page = visitor.get("/practise/heap?seed=3&level=1").text
    names = re.findall(r'name="(at-\d+)"', page)
    began = re.search(r'name="began" value="(\d+)"', page)[1]  # type: ignore[index]
    form = {"level": 1, "seed": 3, "began": began, **dict.fromkeys(names, "7")}
    bad = visitor.post("/practise/heap", {**form, names[2]: "here"})
    assert bad.status_code == 422
    assert "Fixture 3: " in bad.text
    assert 'value="here"' in bad.text
    done = visitor.post("/practise/heap", form).text
    assert f'id="touched">{len(names) - 1}<' in done
    assert visitor.get("/practise/heap").status_code == 302


def test_a_cable_is_laid(visitor: Visitor) -> None:
    """Beside Fence's plan; what is no plan is refused and stays as chosen."""
    page = visitor.get("/practise/cable?seed=3&level=1").text
    names = re.findall(r'name="(behind-\d+)"', page)
    form = {"level": 1, "seed": 3}
    done = visitor.post("/practise/cable", {**form, **dict.fromkeys(names, "sd")})
    assert done.status_code == 200
    assert "You: 1 splitter" in " ".join(done.text.split())
    ring = {names[0]: "1", names[1]: "0"}
    refused = visitor.post("/practise/cable", {**form, **dict.fromkeys(names, "sd"), **ring})
    assert refused.status_code == 422
    assert "hangs on itself" in refused.text
