"""Getting on: who is let in, what each role may do at every place of Fence, invitations, sessions,
limits of trying."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from datetime import timedelta
from pathlib import Path
from shutil import copyfile

import pytest
from flask import Flask
from flask.testing import FlaskClient
from werkzeug.routing import Rule

from fence.core.edits.records import only_marks
from fence.core.model.errors import EditError
from fence.store import people as people_kept
from fence.store.people import MOST_SITTINGS, People, Role, spaced
from fence.store.shows import ShowStore
from fence.web import create_app
from fence.web.access.tries import Tries
from fence.web.assets import shipped_version
from tests.conftest import Visitor, attached

PASSWORD = "a quiet long night"
ROLES = [*Role]

EVERYBODY = """
    GET static, GET assets.stylesheet, GET assets.ahead,
    GET/POST access.log_in, GET/POST access.join, GET shows.healthz, GET later.worker,
    POST preferences.switch_theme
"""
WHOEVER_IS_IN = """
    GET/POST access.mine, POST access.end, POST access.log_out,
    GET shows.index, GET shows.open_show, GET shows.settings, GET shows.export,
    GET charts.index, GET charts.modes, GET charts.one, GET words.index, GET words.export,
    GET chart_files.export,
    GET chart_files.export_library, GET chart_update.index, GET chart_update.revision,
    GET choose.index,
    GET probe.index, GET probe.sheet,
    GET rig.index, GET find.index, GET fixture.index,
    GET address.index, GET address.overview, GET blocks.preview, GET layout.index, GET trial.index,
    GET ways.index,
    GET room.index, GET sheet.index, GET sheet.file, GET proposals.drop, GET proposals.mend,
    GET proposals.repair, GET proposals.others,
    GET proposals.try_drop,
    GET lines.index, GET pull.index, GET pull.as_csv, GET plans.as_csv, GET ground.index,
    GET stock.index,
    GET stock.as_csv, GET day.index, GET links.index, GET pins.index,
    GET network.index, GET hosts.index, GET boxcard.index, GET boxcard.card, GET numbers.index,
    GET numbers.of_show,
    GET set.index, GET set.open_label, GET card.index, GET says.index, GET place.index,
    GET order.index,
    GET rounds.index, GET labels.index, GET labels.pdf, GET labels.sheets, GET codes.index,
    GET here.index,
    GET later.token,
    GET findings.panel, GET lists.index, GET lists.pdf, GET practise.index,
    GET practice.index, GET practise.go_on,
    GET drills.index, GET worksheet.index, POST practise.forget, POST drills.answer,
    GET find_it.index, POST find_it.take, POST cases.start, GET cases.of, GET cases.as_file,
    GET challenges.heap, GET challenges.cable, POST challenges.hand_in, POST challenges.lay,
    GET switches.index,
    GET switches.of_show, GET prove.index, GET prove.seen, GET prove.compare, GET faders.index,
    GET faders.table, GET tester.index, GET troubleshoot.index, GET out.status,
    GET colour.index, GET lesson.index, GET hanging.index, GET hanging.pdf,
    GET rdm.index, GET rdm.progress, GET device.index, GET speak.index, GET speak.grown,
    GET hold.index,
    GET hold.status,
    POST out.take, GET log.index, GET log.between, GET handing.document
"""
THOSE_WHO_MARK = """
    POST card.mark, POST card.tick, POST card.turned, POST card.serial, POST says.take,
    POST place.take,
    POST place.tick, POST rounds.take, POST boxcard.mark, POST log.note, POST log.name_snapshot,
    POST steps.undo,
    POST steps.redo, POST troubleshoot.note, POST troubleshoot.take_back,
    POST troubleshoot.anew, POST troubleshoot.bring, POST troubleshoot.found,
    POST troubleshoot.take_rdm, POST troubleshoot.take_nodes,
    POST prove.bring, POST prove.chase, POST prove.answer, POST prove.practise,
    POST practice.take,
    POST faders.take, POST faders.put, POST rdm.ask, POST rdm.stop, POST rdm.blink, POST rdm.put,
    POST device.put,
    POST device.reset, POST device.who_is, POST rdm.keep,
    POST colour.take
"""
THOSE_WHO_PLAN = """
    GET/POST add.index, GET add.preview, POST bulk.index, POST fixture.index,
    POST address.move, POST address.next_gap, POST address.nudge, POST address.pin,
    POST blocks.take,
    POST layout.index, POST trial.index, POST ways.index, GET/POST universes.edit,
    POST universes.remove,
    POST proposals.take_mend, POST proposals.take_repair,
    GET/POST change.index, GET/POST entering.edit, GET/POST entering.paste, POST entering.read,
    POST choose.need,
    POST charts.retire, POST charts.bring_back, POST charts.copy, POST chart_update.index,
    POST words.index,
    GET chart_files.preview, POST chart_files.upload, POST chart_files.confirm, POST probe.begin,
    POST probe.answer,
    POST lines.take, GET/POST plans.index, GET/POST plans.read, POST ground.take, POST stock.take,
    POST day.take,
    POST network.take, GET/POST ports.index, POST hosts.index, POST hosts.keep, GET look.index,
    GET look.found,
    POST look.ask, POST look.take, POST look.by_hand,
    POST device.chart, POST speak.index, POST speak.grown, POST hold.begin, POST hold.end,
    POST colour.trim, POST prove.choose, POST prove.confirm, POST order.take, POST findings.waive,
    POST findings.unwaive,
    POST log.forget_snapshot, POST log.go_back, POST troubleshoot.weigh,
    POST hanging.set_out,
    GET cases.new, POST cases.take, GET cases.sheet, POST cases.upload, POST cases.remove,
    GET imports.preview, GET imports.heads, POST imports.say_heads,
    POST imports.upload, POST imports.mend_rows, POST imports.confirm,
    POST shows.create, POST shows.copy, POST shows.delete, POST shows.put_back,
    POST shows.make_demo,
    POST shows.settings
"""
THE_OWNER = """
    GET people.index, GET people.backup, POST people.invite, POST people.withdraw, POST people.role,
    POST people.remove, POST people.end, POST shows.remove
"""
NOBODY_HERE = "POST preferences.say_who"
"""A name is what one logs in with."""


def places(words: str) -> set[tuple[str, str]]:
    """The pairs of method and place in a list."""
    found = set()
    for entry in filter(None, (piece.strip() for piece in words.split(","))):
        methods, endpoint = entry.split()
        found |= {(method, endpoint) for method in methods.split("/")}
    return found


FROM = {
    Role.READER: places(WHOEVER_IS_IN),
    Role.CREW: places(THOSE_WHO_MARK),
    Role.PLANNER: places(THOSE_WHO_PLAN),
    Role.OWNER: places(THE_OWNER),
}


@pytest.fixture(scope="module")
def reachable(tmp_path_factory: pytest.TempPathFactory) -> Flask:
    """A Fence that others can reach, made once."""
    return create_app(
        tmp_path_factory.mktemp("reachable") / "none.db", {"TESTING": True}, names=("fence.test",)
    )


@pytest.fixture
def app(
    reachable: Flask, tmp_path: Path, furnished: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[Flask]:
    """The same on a copy of the demo shows; its passwords are hashed in no time."""
    monkeypatch.setattr("fence.store.people.HASHED_BY", "pbkdf2:sha256:10")
    with attached(reachable, tmp_path / "web.db", furnished):
        yield reachable


@pytest.fixture
def people(app: Flask) -> People:
    """An owner, a planner, a crew and a reader."""
    found: People = app.extensions["fence_pages"].people
    for role in Role:
        found.join(found.invite(role, hours=1, by=""), role.capitalize(), PASSWORD)
    return found


@pytest.fixture
def log_in(app: Flask, people: People) -> Callable[[str], Visitor]:
    """Somebody with a browser, logged in."""

    def opened(name: str) -> Visitor:
        found = Visitor(app.test_client())
        found.get("/log-in")
        assert found.post("/log-in", {"name": name, "password": PASSWORD}).status_code == 302
        found.get("/me")
        return found

    return opened


def tries_of(app: Flask) -> Tries:
    """What counts the tries of an application."""
    found: Tries = app.extensions["fence_tries"]
    return found


def path_of(app: Flask, rule: Rule) -> str:
    """An address that the rule answers: of a show that is not there, where it is about one."""
    values = {
        name: {"Number": "999", "AnyConverter": None, "PathConverter": "css/tokens.css"}.get(
            type(converter).__name__, "x"
        )
        for name, converter in rule._converters.items()
    }
    for name, converter in rule._converters.items():
        if values[name] is None:
            values[name] = sorted(converter.items)[0]  # type: ignore[attr-defined]
    return re.sub(r"<(?:[^<>:]*:)?(\w+)>", lambda found: str(values[found[1]]), rule.rule)


def strength(role: Role) -> int:
    """How many roles it may do the work of."""
    return sum(role.may(other) for other in Role)


def test_every_place_takes_those_it_is_for(app: Flask, people: People) -> None:
    """Every place of Fence, looked at and sent to, by nobody, by the weakest role that may and by
    the strongest that may not; a new place has to be entered above."""
    app.config["WTF_CSRF_ENABLED"] = False
    tries_of(app).enabled = False
    for_all, for_none = places(EVERYBODY), places(NOBODY_HERE)
    entered = for_all | for_none | set().union(*FROM.values())
    rules = [
        (method, rule)
        for rule in app.url_map.iter_rules()
        for method in sorted((rule.methods or set()) - {"HEAD", "OPTIONS"})
    ]
    assert {(method, rule.endpoint) for method, rule in rules} == entered
    clients = {role: app.test_client() for role in Role}

    def let_in(role: Role) -> FlaskClient:
        if clients[role].get("/me").status_code != 200:
            clients[role].post("/log-in", data={"name": role.capitalize(), "password": PASSWORD})
        return clients[role]

    wrong = []
    for method, rule in rules:
        place, path = (method, rule.endpoint), path_of(app, rule)
        told = app.test_client().open(path, method=method)
        told.close()
        shut = told.status_code == 302 and told.headers["Location"].startswith("/log-in")
        if shut == (place in for_all):
            wrong.append(f"nobody: {place} {told.status_code}")
        allowed = [
            role
            for role in Role
            if place in for_all or any(place in FROM[other] for other in Role if role.may(other))
        ]
        refused = [role for role in Role if role not in allowed]
        for role in (*sorted(allowed, key=strength)[:1], *sorted(refused, key=strength)[-1:]):
            told = let_in(role).open(path, method=method)
            may = role in allowed
            if (told.status_code == 403) == may or told.status_code in (401, 500):
                wrong.append(f"{role}: {place} {told.status_code}")
            told.close()
    assert not wrong, "\n".join(wrong)


def test_on_this_machine_alone_nobody_logs_in(tmp_path: Path, furnished: Path) -> None:
    """Names of this machine ask for nothing, and have no log-in; any other name does, and there is
    no way around it."""
    copyfile(furnished, tmp_path / "own.db")
    for names, asked in (
        (("127.0.0.1", "localhost", "::1"), False),
        (("127.0.0.1", "desk.local"), True),
        (("0.0.0.0",), True),
        (("10.0.0.7",), True),
        (("::",), True),
    ):
        app = create_app(tmp_path / "own.db", {"TESTING": True}, names=names)
        told = app.test_client().get("/")
        assert (told.status_code == 302) == asked
        assert (app.test_client().get("/log-in").status_code == 200) == asked
        assert app.test_client().get("/healthz").status_code == 200
        app.extensions["fence_pages"].store.engine.dispose()


def test_crew_marks_and_changes_nothing_of_the_plan(
    log_in: Callable[[str], Visitor], shows: ShowStore
) -> None:
    """The same page takes a crew's mark and refuses its plan; undo takes back own marks only."""
    crew, planner = log_in("Crew"), log_in("Planner")
    fixture = shows.get(3).show.fixture(47)
    mark = {
        "what": "set",
        "mode": fixture.mode,
        "patch": f"{fixture.patch[0].universe}.{fixture.patch[0].slot}",
    }
    before = shows.get(3).revision
    assert crew.post("/shows/3/set/47/says", {"says": "77", "action": "plan"}).status_code == 403
    assert shows.get(3).revision == before
    assert crew.post("/shows/3/set/47/mark", mark).status_code == 302
    assert shows.history(3)[0].who == "Crew"
    assert crew.post("/shows/3/undo", {"revision": before + 1}).status_code == 302
    assert crew.post("/shows/3/redo", {"revision": before + 2}).status_code == 302
    planner.get("/shows/3/rig")
    planner.post(
        "/shows/3/address/nudge", {"fixture": "47", "by": "0", "part": "0", "revision": before + 3}
    )
    planner.post("/shows/3/set/48/mark", {"what": "unset"})
    now = shows.get(3).revision
    told = crew.post("/shows/3/undo", {"revision": now})
    assert told.status_code == 422
    assert "The last step is by Planner" in told.text
    assert planner.post("/shows/3/undo", {"revision": now}).status_code == 302


def test_a_box_is_marked_by_a_crew(log_in: Callable[[str], Visitor], shows: ShowStore) -> None:
    """What was typed at a box is a mark, too."""
    crew, saved = log_in("Crew"), shows.get(2)
    told = crew.post(
        f"/shows/2/network/cards/{saved.show.boxes[0].id}/mark",
        {"what": "typed", "revision": saved.revision},
    )
    assert told.status_code == 302
    assert shows.get(2).show.boxes[0].typed is not None


def test_codes_work_once_and_for_a_time(people: People, app: Flask) -> None:
    """A code is used up by joining, not by a slip on the way, and not good after its time;
    withdrawn ones never."""
    code = people.invite(Role.CREW, hours=1, by="Owner")
    with pytest.raises(EditError, match="characters"):
        people.join(code, "Ladder crew A", "short")
    with pytest.raises(EditError, match="already"):
        people.join(code, "  crew ", PASSWORD)
    assert people.invited(spaced(code).lower()) is not None
    found = people.join(spaced(code).lower(), "Ladder crew A", PASSWORD)
    assert (found.name, found.role) == ("Ladder crew A", Role.CREW)
    with pytest.raises(EditError, match="works once"):
        people.join(code, "Ladder crew B", PASSWORD)
    late, now = people.invite(Role.READER, hours=1, by="Owner"), people.clock()
    gone = people.invite(Role.READER, hours=24, by="Owner")
    assert len(people.invitations()) == 2
    people.withdraw(people.invitations()[1].id)
    people.clock = lambda: now + timedelta(hours=1, seconds=1)
    for code in (late, gone, "", "ABC"):
        assert people.invited(code) is None
        with pytest.raises(EditError, match="works once"):
            people.join(code, "Nobody", PASSWORD)
    client = Visitor(app.test_client())
    assert client.get(f"/join/{late}").status_code == 404
    assert "works once" in client.get(f"/join/{late}").text


def test_two_who_take_one_code_at_once(people: People) -> None:
    """Of many who join with one code at the same moment one is let in."""
    code = people.invite(Role.CREW, hours=1, by="Owner")

    def take(number: int) -> bool:
        try:
            people.join(code, f"Guest {number}", PASSWORD)
        except EditError:
            return False
        return True

    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(take, range(8))) == 1


def test_an_unknown_name_is_not_told_from_a_wrong_password(
    app: Flask, people: People, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The same words for both, after the same work: one hash is compared, made in the same way."""
    told = {}
    for name in ("Owner", "Nobody at all"):
        client = Visitor(app.test_client())
        client.get("/log-in")
        answer = client.post("/log-in", {"name": name, "password": "not the password"})
        told[name] = (
            re.sub(r'value="[^"]*"|\{"X-CSRFToken[^}]*\}', "", answer.text),
            answer.status_code,
        )
    assert told["Owner"] == told["Nobody at all"]
    hashed: list[str] = []

    def look(kept: str, password: str) -> bool:
        hashed.append(kept.split("$")[0])
        return False

    monkeypatch.setattr(people_kept, "check_password_hash", look)
    people_kept._nobodys.cache_clear()
    for name in ("Owner", "Nobody at all"):
        assert people.known(name, "not the password") is None
    assert hashed == [people_kept.HASHED_BY] * 2
    people_kept._nobodys.cache_clear()


Tried = Callable[..., int]


@pytest.fixture
def tried(app: Flask, people: People) -> Tried:
    """Try a password from a place, with a new browser or a given one; gives the status of the
    answer."""
    app.config["WTF_CSRF_ENABLED"] = False

    def send(name: str, password: str, place: str, client: FlaskClient | None = None) -> int:
        sent = {"name": name, "password": password}
        browser = client or app.test_client()
        return browser.post(
            "/log-in", data=sent, environ_overrides={"REMOTE_ADDR": place}
        ).status_code

    return send


def test_many_tries_get_nowhere(tried: Tried) -> None:
    """Of 200 tries from one place ten are looked at, whatever the names; the tenth still is, the
    eleventh is not. Right ones are not counted."""
    answers = [
        tried(f"Name {number % 50}", "wrong wrong wrong", "10.0.0.66") for number in range(200)
    ]
    assert answers == [422] * 10 + [429] * 190
    assert [tried("Owner", PASSWORD, "10.0.0.5") for _ in range(15)] == [302] * 15
    assert [tried("Owner", "wrong wrong wrong", "2001:db8::5") for _ in range(10)] == [422] * 10
    assert tried("Owner", PASSWORD, "2001:db8::77") == 429  # the network of one site
    assert tried("Owner", PASSWORD, "2001:db8:0:1::77") == 302


def test_of_forty_at_once_ten_are_looked_at(tried: Tried) -> None:
    """However many come at the same moment."""
    with ThreadPoolExecutor(40) as pool:
        answers = list(
            pool.map(lambda _: tried("Owner", "wrong wrong wrong", "10.0.0.66"), range(40))
        )
    assert sorted(answers) == [422] * 10 + [429] * 30


def test_nobody_locks_out_another(app: Flask, tried: Tried) -> None:
    """Wrong passwords for a name from a hundred places leave its owner in, and from the owner's own
    place whoever has been on with that browser before; it is no way to try for others."""
    known = app.test_client()
    assert tried("Owner", PASSWORD, "10.0.0.5", known) == 302
    known.post("/log-out")
    spread = [
        tried("Owner", "wrong wrong wrong", f"10.0.{place}.1")
        for place in range(100)
        for _ in range(2)
    ]
    assert spread == [422] * 200
    assert tried("Owner", PASSWORD, "10.1.0.5") == 302
    assert [tried("Owner", "wrong wrong wrong", "10.0.0.5") for _ in range(11)][-1] == 429
    assert tried("Owner", PASSWORD, "10.0.0.5") == 429
    assert tried("Planner", "wrong wrong wrong", "10.0.0.5", known) == 429
    assert [tried("Owner", "wrong wrong wrong", "10.0.0.5", known) for _ in range(11)] == [
        422
    ] * 10 + [429]
    forged = app.test_client()
    forged.set_cookie(f"{app.config['SESSION_COOKIE_NAME']}_known", '["ffff", [1]].AAAA')
    assert tried("Owner", PASSWORD, "10.0.0.5", forged) == 429


def test_the_password_of_now_is_no_way_to_guess(log_in: Callable[[str], Visitor]) -> None:
    """Who sits down at somebody's browser has ten tries at the old password; a new one that will
    not do is none."""
    crew, again = log_in("Crew"), log_in("Crew")
    slips = [
        crew.post("/me", {"old": PASSWORD, "password": "a" * 10}).status_code for _ in range(12)
    ]
    assert slips == [422] * 12
    wrong = {"old": "wrong wrong wrong", "password": "another long night"}
    assert [crew.post("/me", wrong).status_code for _ in range(11)] == [422] * 10 + [429]
    assert crew.post("/me", {"old": PASSWORD, "password": "another long night"}).status_code == 429
    assert again.post("/me", {"old": PASSWORD, "password": "another long night"}).status_code == 302


def test_codes_are_not_guessed(app: Flask, people: People) -> None:
    """Ten wrong codes from one place are looked at; a right one is not counted, however often its
    page is loaded."""
    code = people.invite(Role.CREW, hours=1, by="Owner")
    client = app.test_client()
    assert [client.get(f"/join/{code}").status_code for _ in range(15)] == [200] * 15
    assert [client.get(f"/join/WRONG{number}").status_code for number in range(11)] == [
        404
    ] * 10 + [429]
    assert client.get(f"/join/{code}").status_code == 429


@pytest.mark.parametrize(
    ("name", "problem"),
    [
        ("Plann\u0435r", "looks like that"),
        ("P1anner", "looks like that"),
        ("PLANNER", "looks like that"),
        ("Fence", "log calls this program"),
        ("F\u0435nce", "log calls this program"),
        (" fence ", "log calls this program"),
        ("La\u200bdder", "not seen"),
        ("Ada \u202eevil", "not seen"),
        ("\u3164", "not seen"),
        ("Ada\ufe0f", "not seen"),
        ("a" * 61, "up to 60"),
        ("", "needed"),
    ],
)
def test_names_are_seen_as_they_are(people: People, name: str, problem: str) -> None:
    """None that looks like another person's or Fence's own, and none with what is not seen; other
    scripts are fine."""
    code = people.invite(Role.CREW, hours=1, by="Owner")
    with pytest.raises(EditError, match=problem):
        people.join(code, name, PASSWORD)
    assert people.invited(code) is not None
    assert (
        people.join(code, "\u041c\u0430\u0440\u0438\u044f " + "\u7530" * 50, PASSWORD).role
        is Role.CREW
    )


@pytest.mark.parametrize(
    ("password", "taken"),
    [
        (" " * 10, False),
        ("abcd abcd", False),
        ("abcd abcd ", False),
        ("abcd abcde", True),
        ("aaaaabbbbc", False),
        ("aaaaabbbcd", True),
        ("x" + "yz!" * 66 + "y", True),
        ("x" + "yz!" * 66 + "yy", False),
    ],
)
def test_passwords_on_both_sides_of_what_is_accepted(
    people: People, password: str, taken: bool
) -> None:
    """Ten to two hundred characters beside blanks at the ends, four of them different."""
    code = people.invite(Role.CREW, hours=1, by="Owner")
    with nullcontext() if taken else pytest.raises(EditError, match="A password has"):
        people.join(code, "Somebody", password)


def test_private_pages_are_kept_by_no_browser(app: Flask, log_in: Callable[[str], Visitor]) -> None:
    """Nobody goes back to them after a log-out; cookies are named by the database, so that two
    Fences keep apart."""
    crew = log_in("Crew")
    for path in ("/", "/shows/3/set", "/me", "/log-in", "/shows/2/export.csv"):
        assert crew.get(path).headers["Cache-Control"] == "no-store", path
    assert (
        "max-age"
        in crew.get(f"/static/{shipped_version()}/css/tokens.css").headers["Cache-Control"]
    )
    assert re.fullmatch(r"fence_[0-9a-f]{10}", app.config["SESSION_COOKIE_NAME"])


def test_factory_defaults_are_a_planners(log_in: Callable[[str], Visitor], people: People) -> None:
    """A crew has a device start anew, and does not take its settings from it; what each role may is
    told."""
    place = "/shows/2/rdm/device/7FF0:00000001/reset"
    assert log_in("Crew").post(place, {"what": "factory", "sure": "1"}).status_code == 403
    # nobody has asked
    assert log_in("Planner").post(place, {"what": "factory", "sure": "1"}).status_code == 422
    crew = log_in("Crew")
    assert crew.post(place, {"what": "reset", "sure": "1"}).status_code == 422
    page = crew.get("/me").text
    assert "sets fixtures over RDM" in page
    assert "factory defaults" not in page


def test_a_mark_with_a_repair_changes_no_plan(
    log_in: Callable[[str], Visitor], shows: ShowStore
) -> None:
    """What is really written decides: whatever a crew's form asks for beside its mark, addresses
    stay."""
    crew, planner = log_in("Crew"), log_in("Planner")
    before = shows.get(2)
    fixture = next(one for one in before.show.fixtures if one.position)
    patch = "+".join(f"{entry.universe}.{entry.slot}" for entry in fixture.patch)
    card, at = f"/shows/2/set/{fixture.id}", fixture.position
    marks: list[tuple[str, dict[str, object]]] = [
        (f"{card}/mark", {"what": "set", "mode": fixture.mode, "patch": patch}),
        (f"{card}/mark", {"what": "proven"}),
        (f"{card}/tick", {"step": "mode", "done": "1"}),
        (f"{card}/turned", {"turned": "1"}),
        (f"{card}/serial", {"serial": "S 1"}),
        (f"{card}/says", {"says": "77", "action": "note"}),
        ("/shows/2/set/place", {"at": at, "revision": before.revision}),
        ("/shows/2/set/place/tick", {"at": at, "fixtures": str(fixture.id), "step": "mode"}),
        (
            f"/shows/2/network/cards/{before.show.boxes[0].id}/mark",
            {"what": "typed", "revision": before.revision},
        ),
    ]
    for path, fields in marks:
        told = crew.post(path, {**fields, "repair": "1", "seen": "1"})
        assert told.status_code in (302, 403), (path, told.status_code, told.text)
        now = shows.get(2).show
        assert [one.patch for one in now.fixtures] == [one.patch for one in before.show.fixtures], (
            path
        )
        assert only_marks(before.show, now), path
    assert planner.post(*marks[2]).status_code == 302


def test_a_session_ends_at_once(log_in: Callable[[str], Visitor], people: People) -> None:
    """Ended on the owner's page, by another role, by being taken out, by another password: with the
    next click."""
    owner, crew, again = log_in("Owner"), log_in("Crew"), log_in("Crew")
    mine = next(one for one in people.all() if one.name == "Crew")
    first, second = sorted(people.sittings(mine.id), key=lambda one: one.id)
    assert crew.get("/shows/3/set").status_code == 200
    owner.post("/people/end", {"sitting": first.id})
    assert crew.get("/shows/3/set").headers["Location"] == "/log-in?next=/shows/3/set"
    assert crew.post("/shows/3/set/47/mark", {"what": "unset"}).headers["Location"] == "/log-in"
    assert crew.post("/shows/3/address/nudge", {}, htmx=True).headers["HX-Redirect"] == "/log-in"
    assert again.get("/shows/3/set").status_code == 200
    owner.post("/people/role", {"person": mine.id, "role": "reader"})
    assert again.post("/shows/3/set/47/mark", {"what": "unset"}).status_code == 403
    owner.post("/people/remove", {"person": mine.id})
    assert again.get("/shows/3/set").status_code == 302
    assert not [one for one in people.sittings() if one.id == second.id]
    here, there = log_in("Planner"), log_in("Planner")
    told = here.post("/me", {"old": PASSWORD, "password": "another long night"})
    assert told.status_code == 302
    assert here.get("/me").status_code == 200
    assert there.get("/me").status_code == 302
    assert people.known("planner ", "another long night") is not None


def test_somebody_always_owns_it(log_in: Callable[[str], Visitor], people: People) -> None:
    """The last owner can be neither taken out nor made less."""
    owner = log_in("Owner")
    me = next(one for one in people.all() if one.role is Role.OWNER)
    for place, extra in (("remove", {}), ("role", {"role": "reader"})):
        told = owner.post(f"/people/{place}", {"person": me.id, **extra})
        assert told.status_code == 422
        assert "the only owner" in told.text
    told = owner.post("/people/invite", {"role": "planner", "hours": "24"})
    code = re.search(r'id="code">([\w-]+)<', told.text)
    assert code is not None
    assert people.invited(code[1]) is not None
    assert owner.post("/people/invite", {"role": "king", "hours": "24"}).status_code == 422
    assert owner.post("/people/invite", {"role": "crew", "hours": "9999"}).status_code == 422
    copy = owner.get("/people/backup")
    assert copy.data.startswith(b"SQLite format 3")
    assert PASSWORD.encode() not in copy.data


def test_cookies_keep_to_themselves(app: Flask, people: People, tmp_path: Path) -> None:
    """HttpOnly and SameSite always, Secure under HTTPS; what the cookie holds changes with the
    log-in."""
    for secure in (False, True):
        made = create_app(
            tmp_path / "web.db", {"TESTING": True}, names=("fence.test",), secure=secure
        )
        client = made.test_client()
        base = {"base_url": "https://localhost"} if secure else {}
        page = client.get("/log-in", **base)
        before = page.headers["Set-Cookie"]
        token = re.search(r'name="csrf_token" value="([^"]+)"', page.text)
        assert token is not None
        sent = {"csrf_token": token[1], "name": "Owner", "password": PASSWORD}
        headers = {"Referer": "https://localhost/log-in"} if secure else {}
        after = client.post("/log-in", data=sent, headers=headers, **base).headers["Set-Cookie"]
        for cookie in (before, after):
            assert "HttpOnly" in cookie
            assert "SameSite=Lax" in cookie
            assert ("Secure" in cookie) == secure
        assert before.split(";")[0] != after.split(";")[0]
        assert ("Not encrypted" in client.get("/me", **base).text) != secure
        made.extensions["fence_pages"].store.engine.dispose()


@pytest.mark.parametrize(
    "way", ["//evil.example", "https://evil.example/", "/\\evil.example", "javascript:x", "x"]
)
def test_the_way_after_the_log_in_stays_here(app: Flask, people: People, way: str) -> None:
    """A link that leads to the log-in leads on to this Fence only."""
    client = Visitor(app.test_client())
    client.get("/log-in")
    told = client.post("/log-in", {"name": "Owner", "password": PASSWORD, "next": way})
    assert told.headers["Location"] == "/"


def test_browsers_of_one_person_are_counted(people: People) -> None:
    """Of more browsers than a person may have the one not seen for longest is logged out; after a
    month all are."""
    mine = people.all()[0]
    tokens = [people.begin(mine.id, "a browser") for _ in range(MOST_SITTINGS + 2)]
    assert [people.at(token) is not None for token in tokens] == [False] * 2 + [
        True
    ] * MOST_SITTINGS
    now = people.clock()
    people.clock = lambda: now + timedelta(days=31)
    assert people.at(tokens[-1]) is None
