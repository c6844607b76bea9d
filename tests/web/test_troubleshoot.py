"""Troubleshoot on its pages: noting, taking back, what counts no more, what is asked next."""

from __future__ import annotations

import html
import re
from pathlib import Path
from typing import Any

import pytest

from fence.core import edits
from fence.core.model.show import Show
from fence.core.simulation.faults import Fault, read_fault
from fence.core.simulation.practice import PracticeRig
from fence.core.troubleshooting.evidence import Answer, Check, Evidence, Kind
from fence.core.troubleshooting.foresight import Foresight
from fence.core.troubleshooting.inspecting import inspected
from fence.core.troubleshooting.search import Search
from fence.core.troubleshooting.told import cause_words
from fence.store.shows import ShowStore
from tests.conftest import Visitor
from tests.talking import answered

PATH = "/shows/1/prove/troubleshoot"


def labelled(shows: ShowStore, label: str) -> int:
    """The id of a fixture of the clean show."""
    return next(f.id for f in shows.get(1).show.fixtures if f.label == label)


def note(visitor: Visitor, **fields: object) -> str:
    """Note something, and see the page."""
    answer = visitor.post(f"{PATH}/note", fields)
    assert answer.status_code == 302, answer.text[:400]
    return visitor.get(PATH).text


def test_a_search_from_symptom_to_cause(visitor: Visitor, shows: ShowStore) -> None:
    """A symptom brings causes, a check and its reasons; the check's answer changes them; one is
    taken back; the log keeps all of it."""
    page = visitor.get(PATH).text
    assert "What do you see?" in page
    assert "Most likely" not in page
    fern = labelled(shows, "Fern 5")
    page = note(visitor, kind="look", fixture=fern, answer="dark")
    assert "For it: Fern 5 was dark." in page
    assert "Local rules and competent or licensed people come first." in page
    assert 'id="next-check"' in page
    assert "The desk is in blackout" in page
    after = note(visitor, kind="look", fixture=labelled(shows, "Lily 2"), answer="right")
    after = note(visitor, kind="look", fixture=labelled(shows, "Fern 6"), answer="right")
    assert "Fern 6 was right" in after
    assert "The desk is in blackout" not in after.split("What else")[0]
    taken = re.search(r"take-back/(\d+)", after)
    assert taken
    visitor.post(f"{PATH}/take-back/{taken[1]}", {})
    assert "2 pieces of evidence" in visitor.get(PATH).text
    log = visitor.get("/shows/1/log").text
    assert "Troubleshooting: Fern 5 was dark" in log


def test_it_ends_with_what_to_do(visitor: Visitor, shows: ShowStore) -> None:
    """The cause stands out, with the caution that fits, and leads to the fixture; then it begins
    anew."""
    fern = labelled(shows, "Fern 5")
    note(visitor, kind="look", fixture=fern, answer="dark")
    note(visitor, kind="look", fixture=labelled(shows, "Fern 6"), answer="right")
    note(visitor, kind="power", fixture=fern, answer="off")
    page = visitor.get(PATH).text
    assert "Fern 5 has no power." in page
    assert "Check plug, fuse and switch of Fern 5" in page
    assert f"/shows/1/set/{fern}" in page
    ids = re.findall(r'\sid="([^"]+)"', page)
    assert len(ids) == len(set(ids))
    visitor.post(f"{PATH}/found", {})
    page = visitor.get(PATH).text
    assert "0 pieces of evidence" in page
    assert "it stays open until it is proven right." in page
    assert "Found: Fern 5 has no power." in visitor.get("/shows/1/log").text
    assert shows.get(1).show.fixture(fern).sign is not None
    again = visitor.post(f"{PATH}/found", {})
    assert again.status_code == 422
    assert "No cause stands out any more" in again.text
    note(visitor, kind="look", fixture=fern, answer="dark")
    visitor.post(f"{PATH}/anew", {})
    assert "0 pieces of evidence" in visitor.get(PATH).text


def test_what_was_changed_counts_no_more(visitor: Visitor, shows: ShowStore) -> None:
    """Another plan of a fixture, and what was seen of it does not count; it stays and says so."""
    fern = labelled(shows, "Fern 5")
    note(visitor, kind="look", fixture=fern, answer="dark")
    saved = shows.get(1)
    shows.save(saved, edits.mark_set(saved.show, [fern]), who="T")
    page = visitor.get(PATH).text
    assert "changed since: does not count" in page
    assert "Most likely" not in page


def test_a_display_says_address_and_mode(visitor: Visitor, shows: ShowStore) -> None:
    """One form for both; a wrong one is told, and nothing is lost."""
    fern = labelled(shows, "Fern 5")
    note(visitor, kind="look", fixture=fern, answer="dark")
    page = note(visitor, kind="display", fixture=fern, says="161", mode="")
    assert "Fern 5 says 161" in page
    assert "Fern 5 stands at 161." in page
    for fields in ({"says": "far"}, {"says": ""}):
        answer = visitor.post(f"{PATH}/note", {"kind": "display", "fixture": fern, **fields})
        assert answer.status_code == 422
        assert "Type" in answer.text or "can be read" in answer.text
    bad = visitor.post(f"{PATH}/note", {"kind": "look", "fixture": fern, "answer": "signal"})
    assert bad.status_code == 422
    assert "Say what was seen" in bad.text
    none = visitor.post(f"{PATH}/note", {"kind": "tester", "line": "Line A", "stop": 999})
    assert none.status_code == 422


def test_what_cannot_be_done_now_is_put_off(visitor: Visitor, shows: ShowStore) -> None:
    """The next best is asked, and the first again on request."""
    page = note(visitor, kind="look", fixture=labelled(shows, "Fern 5"), answer="dark")
    link = re.search(r'id="not-now"\s+href="([^"]+)"', page) or re.search(
        r'href="([^"]+skip=[^"]+)"', page
    )
    assert link
    first = re.search(r'id="next-check"><h2>([^<]+)', page.replace("\n", ""))
    later = visitor.get(link[1].replace("&amp;", "&")).text
    assert first is None or first[1] not in later


def test_signs_of_prove_are_evidence(
    visitor: Visitor, shows: ShowStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is dark on Prove is where a search begins; what is right counts once it has begun."""
    monkeypatch.setattr("fence.web.prove.views._is_up", lambda *_: True)
    monkeypatch.setattr("fence.web.prove.views.bring_up", lambda *_: None)
    fern, other = labelled(shows, "Fern 5"), labelled(shows, "Fern 6")
    visitor.post("/shows/1/prove/answer", {"fixture": other, "answer": "right", "look": ""})
    assert "0 pieces of evidence" in visitor.get(PATH).text
    visitor.post("/shows/1/prove/answer", {"fixture": fern, "answer": "dark"})
    page = visitor.get(PATH).text
    assert "1 piece of evidence" in page
    assert "Fern 5 was dark" in page
    visitor.post("/shows/1/prove/answer", {"fixture": other, "answer": "right"})
    assert "Fern 6 was right" in visitor.get(PATH).text


def test_several_at_once(visitor: Visitor, shows: ShowStore) -> None:
    """All at a position or of a universe are said to be dark in one step."""
    page = note(visitor, kind="look", whom="at:Fern Gully", answer="dark")
    fern = [f for f in shows.get(1).show.fixtures if f.position == "Fern Gully"]
    assert f"{len(fern)} pieces of evidence" in page
    page = note(visitor, kind="look", whom="u:3", answer="right")
    assert "was right" in page
    none = visitor.post(f"{PATH}/note", {"kind": "look", "whom": "at:Moon", "answer": "dark"})
    assert none.status_code == 422
    assert "pick one of the list" in none.text


def test_all_checks_can_be_put_off(visitor: Visitor, shows: ShowStore) -> None:
    """One after the other, whatever their names are, until none is left; then all are asked
    again."""
    saved = shows.get(1)
    shows.save(saved, edits.rename_line(saved.show, 1, "Line A, left; and right", 1), who="T")
    page = note(visitor, kind="look", fixture=labelled(shows, "Fern 5"), answer="dark")
    asked = set()
    for _ in range(60):
        found = re.search(r'id="not-now"\s+href="([^"]+)"', page)
        if found is None:
            break
        question = page.split('id="next-check"', 1)[1].split("</h2>", 1)[0]
        assert question not in asked
        asked.add(question)
        page = visitor.get(html.unescape(found[1])).text
    assert len(asked) > 8
    assert "Nothing that can be checked here tells more." in page
    assert "Ask again what was put off." in page


def test_a_search_goes_on_with_what_it_knows(
    visitor: Visitor, shows: ShowStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Evidence, and its words in the log, make no new search; another show does."""
    made = []
    kept = Search.__init__

    def counting(self: Search, *what: Any) -> None:
        made.append(what)
        kept(self, *what)

    monkeypatch.setattr(Search, "__init__", counting)
    fern = labelled(shows, "Fern 5")
    note(visitor, kind="look", fixture=fern, answer="dark")
    note(visitor, kind="power", fixture=fern, answer="on")
    before = len(made)
    assert before <= 1
    saved = shows.get(1)
    shows.save(saved, edits.rename(saved.show, fern, "Fern Five"), who="T")
    visitor.get(PATH)
    assert len(made) == before + 1


def test_a_fixture_that_is_gone(visitor: Visitor, shows: ShowStore) -> None:
    """What was seen of it stays, says so, and does not count."""
    fern = labelled(shows, "Fern 5")
    note(visitor, kind="look", fixture=fern, answer="dark")
    saved = shows.get(1)
    shows.save(saved, edits.remove_fixtures(saved.show, [fern]), who="T")
    page = visitor.get(PATH).text
    assert "a fixture that is gone was dark" in page
    assert "changed since: does not count" in page


def test_an_empty_show(visitor: Visitor, shows: ShowStore) -> None:
    """It says what is missing, and the way there."""
    empty = shows.create(Show("Empty"), who="T")
    page = visitor.get(f"/shows/{empty.id}/prove/troubleshoot").text
    assert "What is wrong with one is searched here, once it has an address" in page
    assert f"/shows/{empty.id}/rig/add" in page
    assert "What do you see?" not in page


def settled(visitor: Visitor, shows: ShowStore) -> int:
    """A search that has found that Fern 5 stands at 161."""
    fern = labelled(shows, "Fern 5")
    note(visitor, kind="look", fixture=fern, answer="dark")
    note(visitor, kind="look", fixture=labelled(shows, "Fern 6"), answer="right")
    note(visitor, kind="power", fixture=fern, answer="on")
    page = note(visitor, kind="display", fixture=fern, says="161")
    assert 'aria-label="Found"' in page
    return fern


def test_after_the_mend_it_is_looked_at_again(visitor: Visitor, shows: ShowStore) -> None:
    """What was dark before is asked for again and does not count; right again, nothing is suspected
    any more, and dark again, the search goes on."""
    fern = settled(visitor, shows)
    assert visitor.post(f"{PATH}/found", {"was_set": "1"}).status_code == 302
    page = visitor.get(PATH).text
    assert "Once it is mended, look again:" in page
    assert "before the mend: look again" in page
    assert "Most likely" not in page
    fixture = shows.get(1).show.fixture(fern)
    assert fixture.set_to is not None
    assert fixture.sign is not None
    right = note(visitor, kind="look", fixture=fern, answer="right")
    assert "Nothing that was noted is wrong any more." in right
    assert "look again" not in right
    dark = note(visitor, kind="look", fixture=fern, answer="dark")
    assert "Most likely" in dark
    assert 'id="next-check"' in dark


@pytest.mark.parametrize(
    ("sent", "told"),
    [
        ({"reading": "power:off", "fixture": "Fern 5"}, "Fern 5 has no power"),
        ({"reading": "listens:no", "fixture": "Fern 5"}, "Fern 5 is not set to listen to DMX"),
        ({"reading": "rdm:silent", "fixture": "Fern 5"}, "Fern 5 is silent over RDM"),
        ({"reading": "display:says", "fixture": "Fern 5", "says": "161"}, "Fern 5 says 161"),
        ({"reading": "tester:no-signal", "place": "stop:1:4"}, "reads no signal at Palm 4"),
        ({"reading": "node:says", "place": "port:2:4", "says": "5"}, "port 4 of palm dock says 5"),
        ({"reading": "desk:blackout"}, "the desk is in blackout"),
    ],
)
def test_whatever_was_read(
    visitor: Visitor, shows: ShowStore, sent: dict[str, str], told: str
) -> None:
    """Is evidence, without being asked for."""
    if "fixture" in sent:
        sent = {**sent, "fixture": str(labelled(shows, sent["fixture"]))}
    assert told in note(visitor, **sent)


def test_what_cannot_be_read_is_kept_as_typed(visitor: Visitor, shows: ShowStore) -> None:
    """With what is accepted beside it, and nothing noted."""
    fern = labelled(shows, "Fern 5")
    sent = {"reading": "display:says", "fixture": str(fern), "says": "sixteen"}
    refused = visitor.post(f"{PATH}/note", sent)
    assert refused.status_code == 422
    assert "is not a number that can be read" in refused.text
    assert 'value="sixteen"' in refused.text
    gone = visitor.post(f"{PATH}/note", {"reading": "tester:signal", "place": "stop:1:999"})
    assert "That device is not on the line" in gone.text
    assert "0 pieces of evidence" in visitor.get(PATH).text


def test_several_that_are_ticked(visitor: Visitor, shows: ShowStore) -> None:
    """What is chosen is said of all that are ticked, whatever the list beside them says."""
    ids = [labelled(shows, label) for label in ("Lily 6", "Lily 7", "Lily 8")]
    sent = {"kind": "look", "whom": str(labelled(shows, "Fern 5")), "answer": "dark", "at": ids}
    page = note(visitor, **sent)
    assert "3 pieces of evidence" in page
    assert "Fern 5 was dark" not in page


def test_weights_of_a_show(visitor: Visitor, shows: ShowStore) -> None:
    """What somebody knows better counts in this show, and only there, until practice is wanted
    back; what cannot be read is refused with what was typed."""
    fern = labelled(shows, "Fern 5")
    first = note(visitor, kind="look", fixture=fern, answer="dark")
    sent = {"trouble": ["no-lamp", "no-power"], "weight": ["900", "0,5"]}
    refused = visitor.post(f"{PATH}/weights", {**sent, "weight": ["900", "much"]})
    assert refused.status_code == 422
    assert "“much” is not a weight of no-power. Use 0 to 1000" in refused.text
    assert 'value="much"' in refused.text
    assert visitor.post(f"{PATH}/weights", {**sent, "weight": ["-1", "1001"]}).status_code == 422
    visitor.post(f"{PATH}/weights", sent)
    page = visitor.get(PATH).text
    likeliest = page.split("Most likely", 1)[1].split("</b>", 1)[0]
    assert "The lamp, emitter or board of Fern 5 is dead" in likeliest
    assert 'value="0.5"' in page
    assert 'value="900"' not in visitor.get("/shows/2/prove/troubleshoot").text
    visitor.post(f"{PATH}/weights", {"practice": "1"})
    again = visitor.get(PATH).text
    assert again.split("Most likely", 1)[1][:400] == first.split("Most likely", 1)[1][:400]


EVERY_KIND = {
    "wrong-address=Fern 5:161": 4,
    "wrong-mode=Fern 5:3 channel": 4,
    "deaf=Fern 5": 6,
    "no-power=Lily 2": 5,
    "no-lamp=Bough 1": 5,
    "own-program=Arch 1": 3,
    "flat=Reed 4": 6,
    "unlinked=Reed 2": 7,
    "plug-out=Fern 5": 11,
    "wrong-cable=Canopy 2": 6,
    "swapped-pair=Lily 4": 11,
    "no-terminator=Line C": 5,
    "second-terminator=Line C": 5,
    "splitter-off=Split 1": 7,
    "output-dead=Split 1:1": 8,
    "wrong-universe=palm dock:4": 8,
    "off-by-one=palm dock": 7,
    "port-off=palm dock:3": 5,
    "other-network=palm dock": 6,
    "not-sent=2": 7,
    "second-source=3": 5,
    "blackout": 5,
}
"""A fault of each kind, and the most checks that it may take."""
TWINS = {"no-terminator", "second-terminator", "second-source", "flat", "unlinked"}
"""Those that nothing which can be asked for tells from another one."""


@pytest.mark.parametrize("typed", EVERY_KIND)
def test_a_fault_of_each_kind(visitor: Visitor, shows: ShowStore, typed: str) -> None:
    """Is found by answering what the page asks for with what somebody finds at a rig that has it;
    it is named first, or among the first three where it has a twin."""
    show = shows.get(1).show
    fault = read_fault(show, typed)
    rig, foresight = PracticeRig(show, (fault,)), Foresight(show)
    fixture, seen = first_sign(show, fault)
    page = note(visitor, kind="look", fixture=fixture, answer=seen)
    checks = 0
    while 'id="next-check"' in page and 'aria-label="Found"' not in page:
        check = asked(page)
        sent = foresight.silence
        if check.fixture:
            sent = foresight.frames_for(show.fixture(check.fixture))
        found = inspected(rig, check, sent)
        checks += 1
        assert checks <= EVERY_KIND[typed]
        page = answered_with(visitor, check, found) if found else put_off(visitor, page)
    words = cause_words(show, [fault])
    if typed.partition("=")[0] in TWINS:
        assert words in page.split("Most likely", 1)[1]
    else:
        assert f"<h2>{words}</h2>" in page, re.findall(r"<h2>(.*?)</h2>", page)


def first_sign(show: Show, fault: Fault) -> tuple[int, str]:
    """The first fixture at which something is not right, and what is seen there."""
    rig, foresight = PracticeRig(show, (fault,)), Foresight(show)
    for fixture in show.fixtures:
        if not foresight.can_look(fixture):
            continue
        (seen,) = inspected(rig, Check(Kind.LOOK, fixture.id), foresight.frames_for(fixture))
        if seen.answer is not Answer.RIGHT:
            dark = seen.answer is Answer.ANOTHER
            return fixture.id, str(Answer.DARK if dark else seen.answer)
    raise AssertionError("nothing is seen of it")


def asked(page: str) -> Check:
    """The check that the page asks for, as its form names it."""
    form = page.split('id="next-check"', 1)[1].split("search-side", 1)[0]
    kind = re.search(r'name="kind" value="([^"]+)"', form)
    assert kind
    form = form[kind.start() :].split("</form>", 1)[0]
    told = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', form))
    place = {name: html.unescape(told.get(name, "")) for name in ("line", "box")}
    numbers = {name: int(told.get(name) or 0) for name in ("fixture", "stop", "port")}
    return Check(Kind(kind[1]), **place, **numbers)


def answered_with(visitor: Visitor, check: Check, found: list[Evidence]) -> str:
    """The page after an answer is given in its form."""
    said = {str(one.answer): one.value for one in found}
    place = {name: getattr(check, name) for name in ("fixture", "line", "stop", "box", "port")}
    fields = {"kind": str(check.kind), **{name: held for name, held in place.items() if held}}
    if "another" in said:
        return note(visitor, **fields, other=said["another"])
    if "says" in said:
        return note(visitor, **fields, says=said["says"], mode=said.get("mode", ""))
    return note(visitor, **fields, answer=str(found[0].answer))


def put_off(visitor: Visitor, page: str) -> str:
    """The page after a check was put off."""
    link = re.search(r'id="not-now"\s+href="([^"]+)"', page)
    assert link
    return visitor.get(html.unescape(link[1])).text


def test_what_was_heard_over_rdm_is_taken_over(visitor: Visitor, shows: ShowStore) -> None:
    """From the page of who answers; before anybody was asked it says so."""
    early = visitor.post(f"{PATH}/take-rdm", {})
    assert early.status_code == 422
    assert "Nobody was asked over RDM yet" in early.text
    answered(Path(str(shows.engine.url.database)))
    assert 'id="take-rdm"' in visitor.get("/shows/1/rdm").text
    visitor.post(f"{PATH}/take-rdm", {})
    page = visitor.get(PATH).text
    assert "of evidence taken over." in page
    assert "answers over RDM" in page
    assert "is silent over RDM" in page
