"""Serving others: the start lines, whom it answers under which name, the first owner, HTTPS."""

from __future__ import annotations

import http.client
import re
import signal
import ssl
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import trustme

from fence.cli.serving import addresses_of, as_picture, base_of
from tests.faults.conftest import Served, fence, one_line


def lines_of(served: Served, most: int) -> list[str]:
    """The lines that it prints after the first, up to the first of the picture."""
    found: list[str] = []
    assert served.process.stdout is not None
    while len(found) < most and "█" not in (line := served.process.stdout.readline()):
        found.append(line.strip())
    return found


def test_the_first_start_makes_an_owner(database: Path, serve: Callable[..., Served]) -> None:
    """It prints where to become one; that works once, and the next start only asks to log in."""
    served = serve(database, "--name", "fence.test")
    told = lines_of(served, 4)
    link = re.search(r"http://fence\.test:\d+(/join/\w{12})", told[0])
    assert link, told
    assert "Not encrypted" in told[1]
    client = served.client()
    assert client.get("/")[0] == 302
    assert client.get(link[1])[0] == 200
    told_ = client.post(link[1], name="Head of lights", password="a quiet long night")
    assert told_[0] == 302
    assert "Head of lights" in client.get("/people")[1]
    assert served.client().get(link[1])[0] == 404
    served.stop()
    again = serve(database, "--name", "fence.test")
    assert lines_of(again, 1) == [
        "Everyone is asked to log in. The owner invites, on the page People."
    ]
    client.port = again.port
    assert "Head of lights" in client.get("/people")[1]  # who was logged in still is
    done = fence("owner", "--db", database, "--base", "http://fence.test:5080/")
    code = re.search(r"http://fence\.test:5080(/join/\w{12}) ", done.stdout)
    assert code
    assert again.client().get(code[1])[0] == 200
    done = fence("owner", "--db", database)
    # where it is served, whatever the port
    assert f"Open http://fence.test:{again.port}/join/" in done.stdout
    again.stop()
    assert "Nobody serves this database now" in fence("owner", "--db", database).stdout


def test_addresses_that_others_are_given() -> None:
    """One that means all is told as those of this machine; a picture of it can be read by a
    camera."""
    assert addresses_of("10.0.0.5") == ["10.0.0.5"]
    assert not any(one.startswith("127.") or one == "0.0.0.0" for one in addresses_of("0.0.0.0"))
    assert base_of("fe80::1", 5080, secure=True) == "https://[fe80::1]:5080"
    assert as_picture("http://10.0.0.5:5080").count("\n") > 10


def test_https(database: Path, serve: Callable[..., Served], pair: tuple[Path, Path, Path]) -> None:
    """With a certificate and its key it answers by HTTPS only, its cookies are for that, and it
    ends when told to."""
    certificate, key, trusted = pair
    served = serve(
        database, "--name", "localhost.test", "--cert", str(certificate), "--key", str(key)
    )
    trust = ssl.create_default_context(cafile=str(trusted))
    line = http.client.HTTPSConnection("localhost", served.port, timeout=30, context=trust)
    line.request("GET", "/log-in")
    answer = line.getresponse()
    page = answer.read().decode()
    assert answer.status == 200
    assert "Secure" in answer.headers["Set-Cookie"]
    assert "Not encrypted" not in page
    line.request("GET", "/log-in", headers={"Host": "evil.example"})
    answer = line.getresponse()
    answer.read()
    assert answer.status == 400
    line.close()
    bare = http.client.HTTPConnection("127.0.0.1", served.port, timeout=30)
    bare.request("GET", "/log-in")
    with suppress(http.client.HTTPException, ConnectionError):
        assert bare.getresponse().status == 400
    bare.close()
    assert served.stop(signal.SIGTERM) == 0


def test_what_makes_no_pair_is_refused(
    database: Path, pair: tuple[Path, Path, Path], tmp_path: Path
) -> None:
    """One without the other, a key of another certificate, no certificate at all: one line, and
    nothing is served."""
    certificate, key, _ = pair
    place = ("serve", "--db", database, "--port", 1, "--cert", certificate)
    one_line(fence(*place), "go together")
    other = tmp_path / "other.pem"
    trustme.CA().issue_cert("localhost").private_key_pem.write_to_path(other)
    one_line(fence(*place, "--key", other), "do not make a pair")
    other.write_text("nothing")
    one_line(
        fence("serve", "--db", database, "--port", 1, "--cert", other, "--key", key),
        "do not make a pair",
    )
