"""Every field of every place of Fence, with anything in it: an answer in words, never a failure.

Which fields a place reads is not listed here: the requests note what they are asked for, so that a
new field, and a new place, is tried as soon as it is there.
"""

from __future__ import annotations

import io
import logging
import re
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from random import Random
from shutil import copyfile
from typing import Any, ClassVar
from unittest.mock import patch

import pytest
from flask import Flask, Request
from flask.testing import FlaskClient
from werkzeug.datastructures import ImmutableMultiDict
from werkzeug.routing import Rule

from fence.store.people import People, Role
from fence.web import create_app
from fence.web.access.tries import Tries
from tests.examples import DEEP
from tests.web.test_access import PASSWORD
from tests.web.test_prove import Heard

ROUNDS = 3 * DEEP
"""How often each place is asked. While this was written eighty rounds with other seeds found what
these ten find."""
LEFT_ALONE = {
    "static",
    "access.log_out",
    "people.remove",
    "people.role",
    "people.end",
    "access.end",
    "people.backup",
}
"""Places that would end the test's own log-in, or that take no fields and much time."""

TEXTS = (
    "",
    " ",
    "x",
    "\0",
    "\ufeff",
    "\ufeffx",
    "\x7f\x80",
    "\u202e",
    "a" * 1001,
    "Fern 1",
    "%s{}%(x)s",
    "'\"<&>",
    "½",
    "²³",
    "٣",
    "\n\n",
    "1\n2",
    "0bis 5",
    "1 dimmer 3b 4",
    "Laser L1",
    "\U0001f4a1",
    "../../etc",
    "=1+1",
    "[]",
    "{}",
    "null",
    "true",
)
NUMBERS = (
    "0",
    "1",
    "2",
    "28",
    "-1",
    "1.5",
    "1,5",
    "1e9",
    "1e400",
    "nan",
    "inf",
    "-inf",
    "512",
    "513",
    "65536",
    str(2**31),
    str(2**53),
    str(2**63 - 1),
    str(2**63),
    str(2**64),
    "9" * 30,
    "9" * 5000,
    "0x10",
    "007",
    "+1",
    "1 000",
    "1/1",
    "2/600",
    "1.1+2.1",
    "1,2,3",
    "1-3",
    "1=255",
    "12:30",
    "25:61",
    "2026-02-30",
    "9999-12-31",
)
CHOSEN = (
    "on",
    "1",
    "sacn",
    "artnet",
    "out",
    "practice",
    "all",
    "picked",
    "set",
    "proven",
    "unset",
    "right",
    "dark",
    "open",
    "white",
    "csv",
    "json",
    "tansy-pond-wash | 5 channel",
    "5 channel",
    "16 channel",
    "back-to-back",
    "round",
    "paged",
    "unicast",
    "10.0.0.1",
    "8.8.8.8",
    "999.1.1.1",
    "10.0.0.0/33",
    "multicast",
    "127.0.0.1",
    "Palm House",
    "Gatehouse",
    "red",
    "#ff0000",
    "menu",
    "switches",
    "stop",
    "note",
    "crew",
    "owner",
    "24",
    "factory",
    "mode",
    "address",
    "add",
)
FILES = (
    b"",
    b"\0",
    b"\xef\xbb\xbf",
    b"\xff\xfe",
    b"{",
    b"[]",
    b'{"format":"fence-show","version":2,"show":{}}',
    b"PK\x03\x04",
    b"label,channels\nA,9223372036854775808\n",
    b"label,channels\n\0,1\n",
    b"wording,means\nx,red\n",
    b"a;b\n" * 50,
    b'{"format":"fence-charts","version":1,"charts":[{}]}',
    b"channel,function\n1,red\n",
)
NAMES = ("show.json", "rig.csv", "charts.json", "x.xlsx", "x.txt", "", "\0.csv", "a" * 300 + ".csv")


class Noted(ImmutableMultiDict[str, str]):
    """Fields that note which of them are asked for."""

    asked: ClassVar[set[str]] = set()

    def __getitem__(self, key: str) -> str:
        self.asked.add(key)
        return super().__getitem__(key)

    def __contains__(self, key: object) -> bool:
        self.asked.add(str(key))
        return super().__contains__(key)

    def get(self, key: str, *args: Any, **options: Any) -> Any:
        self.asked.add(key)
        return super().get(key, *args, **options)

    def getlist(self, key: str, type: Any = None) -> list[Any]:
        self.asked.add(key)
        return super().getlist(key, type)


class NotingRequest(Request):
    """A request whose fields are noted."""

    parameter_storage_class = Noted


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory, furnished: Path) -> Iterator[Flask]:
    """A Fence that others reach, so that all its places are there; nothing really goes out."""
    path = tmp_path_factory.mktemp("any") / "web.db"
    copyfile(furnished, path)
    app = create_app(path, {"WTF_CSRF_ENABLED": False, "LOOK_SECONDS": 0}, names=("fence.test",))
    app.request_class = NotingRequest
    app.extensions["fence_sender"] = Heard()
    app.extensions["fence_tries"] = Tries(enabled=False)
    with (
        patch("fence.store.people.HASHED_BY", "pbkdf2:sha256:10"),
        patch("fence.work.practice_rigs.Child", side_effect=OSError("no process is started here")),
        patch("fence.web.prove.tester.on_the_wire", return_value=None),
    ):
        people: People = app.extensions["fence_pages"].people
        people.join(people.invite(Role.OWNER, hours=1, by=""), "Owner", PASSWORD)
        yield app
        app.extensions["fence_rigs"].end()
    app.extensions["fence_pages"].store.engine.dispose()


def value(chance: Random) -> str:
    """Anything that a field may hold."""
    pool = chance.choice((TEXTS, NUMBERS, CHOSEN, CHOSEN, NUMBERS[:4]))
    return chance.choice(pool)


def path_of(rule: Rule, chance: Random) -> str:
    """An address that the rule may answer, mostly of what is there."""

    def piece(found: re.Match[str]) -> str:
        kind = type(rule._converters[found[1]]).__name__
        if kind == "Number":
            return chance.choice(("1", "1", "1", "2", "3", "3", "28", "0", "999", str(2**63)))
        if kind == "AnyConverter":
            return chance.choice(sorted(rule._converters[found[1]].items))  # type: ignore[attr-defined]
        return chance.choice(
            ("x", "1", "gap", "swap", "csv", "%00", "a" * 200, "7FF0:00000001", "tansy-pond-wash")
        )

    return re.sub(r"<(?:[^<>:]*:)?(\w+)>", piece, rule.rule)


def sent(
    client: FlaskClient, method: str, path: str, fields: dict[str, str], chance: Random
) -> int:
    """Send a request with these fields, in its address or its form; some with a file."""
    headers = chance.choice(({}, {}, {"HX-Request": "true"}, {"X-Sending": "mark"}))
    if method == "GET":
        told = client.get(path, query_string=fields, headers=headers)
    else:
        data: dict[str, Any] = dict(fields)
        if "file" in path or "import" in path or "words" in path or chance.random() < 0.1:
            data["file"] = (io.BytesIO(chance.choice(FILES)), chance.choice(NAMES))
        told = client.post(path, data=data, headers=headers)
    status = told.status_code
    told.close()
    return status


def test_no_field_makes_a_failure(house: Flask, caplog: pytest.LogCaptureFixture) -> None:
    """Texts, numbers of any size, NUL, byte order marks, halves of things, and values that mean
    something elsewhere."""
    caplog.set_level(logging.ERROR)
    chance = Random(5)
    client = house.test_client()
    assert client.post("/log-in", data={"name": "Owner", "password": PASSWORD}).status_code == 302
    known: defaultdict[tuple[str, str], set[str]] = defaultdict(set)
    places = [
        (method, rule)
        for rule in house.url_map.iter_rules()
        for method in sorted((rule.methods or set()) & {"GET", "POST"})
        if rule.endpoint not in LEFT_ALONE
    ]
    failed = []
    for turn in range(ROUNDS):
        for method, rule in places:
            fields = {
                name: value(chance)
                for name in sorted(known[method, rule.rule])
                if chance.random() < 0.8
            }
            if "revision" in fields and chance.random() < 0.8:
                fields["revision"] = str(
                    house.extensions["fence_pages"].store.list_shows()[0].revision
                )
            path = path_of(rule, chance)
            Noted.asked.clear()
            status = sent(client, method, path, fields, chance)
            known[method, rule.rule] |= {name for name in Noted.asked if len(name) < 60} - {
                "csrf_token"
            }
            if status >= 500:
                trace = caplog.records[-1].exc_text if caplog.records else ""
                failed.append(f"{turn} {method} {path} {fields} {status} {str(trace)[-400:]}")
    assert not failed, "\n\n".join(failed[:10])
    assert sum(map(len, known.values())) > 400  # else the fields are not noted any more
