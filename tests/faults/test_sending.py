"""What is on the wire when things go wrong: all out, a server that is killed or ends, a browser
that is gone."""

from __future__ import annotations

import os
import re
import signal
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import UUID

import pytest

from fence.core.model.box import Protocol
from fence.core.model.errors import FenceError
from fence.store.database import open_engine
from fence.store.people import People, Role
from fence.store.shows import ShowStore, utc_now
from fence.wire import sacn
from fence.wire.output import Output, Way
from fence.work import sender as sending
from fence.work.sender import Sender
from tests.addresses import own
from tests.conftest import until
from tests.faults.conftest import Client, Served

THERE, ELSEWHERE = own(71), own(72)
PASSWORD = "a quiet long night"


class Wire:
    """What arrives at an address: each frame with the time at which it came."""

    def __init__(self) -> None:
        self.frames: list[tuple[float, sacn.Frame]] = []
        self.done = threading.Event()

    def silent_for(self, seconds: float) -> bool:
        """Whether nothing has come for so long."""
        return not self.frames or time.monotonic() - self.frames[-1][0] > seconds

    def listen(self, there: socket.socket) -> None:
        """Take in what comes."""
        while not self.done.is_set():
            try:
                data = there.recv(2000)
            except OSError:
                continue
            if (frame := sacn.read_frame(data)) is not None:
                self.frames.append((time.monotonic(), frame))


@contextmanager
def wire(address: str) -> Iterator[Wire]:
    """Listen at an address until the end of the block."""
    found = Wire()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as there:
        there.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        there.bind((address, sacn.PORT))
        there.settimeout(0.05)
        thread = threading.Thread(target=found.listen, args=(there,), daemon=True)
        thread.start()
        try:
            yield found
        finally:
            found.done.set()
            thread.join(5)


def sending_to(client: Client, address: str) -> None:
    """Confirm an address for show 2 and bring a fixture up there."""
    client.get("/shows/2/prove")
    assert client.post("/shows/2/prove/ways", to=address, protocol="sacn", sure="1")[0] == 302
    assert client.post("/shows/2/prove/bring", fixture=1)[0] == 302


def ended_properly(found: Wire) -> None:
    """The last frames are at zero, and say three times that the stream ends, for each universe."""

    def of(universe: int) -> list[sacn.Frame]:
        return [frame for _, frame in found.frames if frame.universe == universe]

    for universe in {frame.universe for _, frame in found.frames}:
        until(
            lambda universe=universe: [frame.ends for frame in of(universe)[-3:]] == [True] * 3,
            "it is not ended three times",
        )
        assert not any(any(frame.levels) for frame in of(universe)[-6:])


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGTERM])
def test_nothing_goes_out_once_the_server_is_gone(
    database: Path, serve: Callable[..., Served], how: signal.Signals
) -> None:
    """Killed or ended: all goes to zero, the streams are ended, then nothing more; the log says
    why."""
    served = serve(database)
    with wire(THERE) as found, wire(ELSEWHERE) as other:
        sending_to(served.client(), THERE)
        until(lambda: any(any(frame.levels) for _, frame in found.frames), "nothing comes")
        served.process.send_signal(how)
        served.process.wait(timeout=30)
        until(lambda: found.frames[-1][1].ends and found.silent_for(1), "it goes on")
        ended_properly(found)
        assert other.frames == []
    store = ShowStore(open_engine(database))

    def told() -> bool:
        return "All out: Fence itself has ended" in [
            entry.words for entry in store.history(2, most=3)
        ]

    if how is signal.SIGKILL:
        until(told, "the log says why")
    else:
        assert not told()
    store.engine.dispose()


def test_nothing_goes_out_after_all_out(database: Path, serve: Callable[..., Served]) -> None:
    """The button ends everything properly; nothing comes later, and pages that are looked at bring
    nothing back."""
    served = serve(database)
    client = served.client()
    with wire(THERE) as found:
        sending_to(client, THERE)
        until(lambda: len(found.frames) > 50, "nothing comes")
        assert "All out" in client.get("/")[1]
        assert client.post("/out")[0] == 302
        until(lambda: found.frames[-1][1].ends, "it is not ended")
        count = len(found.frames)
        ended_properly(found)
        for path in (
            "/shows/2/prove",
            "/shows/2/prove/seen",
            "/shows/2/prove/faders",
            "/shows/2/prove/compare",
        ):
            assert client.get(path)[0] == 200
        until(lambda: found.silent_for(0.5), "silence")
        assert len(found.frames) == count
        assert 'id="all-out"' not in client.get("/shows/2/prove")[1]


def test_a_hung_server_is_noticed(database: Path, serve: Callable[..., Served]) -> None:
    """A server that stands still sends no sign of life: all goes out by itself, and the log says
    so."""
    served = serve(database)
    with wire(THERE) as found:
        sending_to(served.client(), THERE)
        until(lambda: len(found.frames) > 50, "nothing comes")
        served.process.send_signal(signal.SIGSTOP)
        try:
            until(lambda: found.frames[-1][1].ends and found.silent_for(1), "it goes on")
            ended_properly(found)
        finally:
            served.process.send_signal(signal.SIGCONT)
    store = ShowStore(open_engine(database))
    until(lambda: "did not answer" in store.history(2, most=1)[0].words, "the log says nothing")
    store.engine.dispose()


def test_signals_to_the_process_that_sends(database: Path) -> None:
    """Ctrl+C in a terminal reaches it, too, and is the server’s to act on. Told to end it ends
    properly and says so; the next levels start it anew."""
    sender = Sender(database, lambda show_id, words: None)
    with wire(THERE) as found:
        ways, levels = [Way(1, Protocol.SACN, THERE, 1)], {1: b"\xff" * 512}
        sender.send(2, "there", ways, levels)
        until(lambda: len(found.frames) > 20, "nothing comes")
        child = sender._child
        assert child is not None
        os.kill(child.pid, signal.SIGINT)
        count = len(found.frames)
        until(
            lambda: sender.touch() is not None or len(found.frames) > count + 40, "Ctrl+C ended it"
        )
        os.kill(child.pid, signal.SIGTERM)
        until(lambda: found.frames[-1][1].ends and found.silent_for(0.5), "it goes on")
        ended_properly(found)
        until(lambda: sender.now is None, "it is still taken to send")
        count = len(found.frames)
        sender.send(2, "there", ways, levels)
        until(lambda: len(found.frames) > count + 20, "it does not start anew")
        sender.out()
    store = ShowStore(open_engine(database))
    assert "All out: the process that sends was ended" in [
        entry.words for entry in store.history(2, most=3)
    ]
    store.engine.dispose()


def test_without_a_browser_all_goes_out(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Nobody looks any more: the server itself ends it, and tells the log."""
    monkeypatch.setattr(sending, "BEAT_SECONDS", 0.2)
    told: list[tuple[int, str]] = []
    sender = Sender(database, lambda show_id, words: told.append((show_id, words)))
    with wire(THERE) as found:
        sender.send(2, "there", [Way(1, Protocol.SACN, THERE, 1)], {1: b"\xff" * 512})
        until(lambda: sender.touch() is not None or len(found.frames) > 20, "nothing comes")
        monkeypatch.setattr(sending, "NOBODY_SECONDS", 1.0)  # the process has begun by now
        until(lambda: sender.now is None, "it goes on")
        until(lambda: found.frames[-1][1].ends, "it is not ended")
        ended_properly(found)
    until(lambda: bool(told), "nothing is told")
    assert told[0][0] == 2
    assert re.match(r"All out: no browser looked for \d+ s", told[0][1])
    sender.out()


@pytest.mark.parametrize("how", [signal.SIGSTOP, signal.SIGKILL])
def test_a_process_that_stands_still_or_is_gone(
    database: Path, monkeypatch: pytest.MonkeyPatch, how: signal.Signals
) -> None:
    """Nobody waits for it, however much it is told. It is noticed; its streams are ended for it
    under its own name, and the log and the banner say why."""
    if how is signal.SIGSTOP:
        monkeypatch.setattr(sending, "HUNG_SECONDS", 2.0)
    told: list[tuple[int, str]] = []
    sender = Sender(database, lambda show_id, words: told.append((show_id, words)))
    with wire(THERE) as found:
        ways = [Way(universe, Protocol.SACN, THERE, universe) for universe in range(1, 9)]
        levels = dict.fromkeys(range(1, 9), b"\xff" * 512)
        sender.send(2, "there", ways, levels)
        until(
            lambda: len({frame.universe for _, frame in found.frames}) == 8 and sender._child.spoke,
            "it sends",
        )
        assert sender._child is not None
        os.kill(sender._child.pid, how)
        if how is signal.SIGSTOP:
            for level in range(200):  # more than a pipe holds, many times over
                sender.send(
                    2, "there", ways, {universe: bytes([level]) * 512 for universe in range(1, 9)}
                )
        until(lambda: sender.now is None, "it is noticed")
        until(lambda: bool(told), "the log is told")
        why = "the process that sends " + ("stood still" if how is signal.SIGSTOP else "was ended")
        assert told == [(2, f"All out: {why}")]
        assert sender.ended == why
        until(lambda: found.frames[-1][1].ends and found.silent_for(0.5), "the streams are ended")
        ended_properly(found)
        assert len({frame.cid for _, frame in found.frames}) == 1
        assert sender.out()


def test_all_out_does_not_wait_for_one_that_stands_still(database: Path) -> None:
    """It comes back at once and does not say that all is out before it is."""
    sender = Sender(database, lambda show_id, words: None)
    with wire(THERE) as found:
        sender.send(2, "there", [Way(1, Protocol.SACN, THERE, 1)], {1: b"\xff" * 512})
        until(lambda: len(found.frames) > 20, "it sends")
        assert sender._child is not None
        os.kill(sender._child.pid, signal.SIGSTOP)
        assert not sender.out()
        assert sender.now is None
        until(lambda: found.frames[-1][1].ends and found.silent_for(0.5), "the stream is ended")
        ended_properly(found)
        sender.send(2, "there", [Way(1, Protocol.SACN, THERE, 1)], {1: b"\xff" * 512})
        count = len(found.frames)
        until(lambda: len(found.frames) > count + 20, "it sends again")
        sender.close()


def test_the_end_of_a_stream_is_taken_after_any_number() -> None:
    """Whatever the number of the last packet was, at most one of those that end the stream is taken
    for an old one."""
    ending = Output("127.0.0.1", cid=UUID(int=7))
    way = Way(1, Protocol.SACN, ELSEWHERE, 1)
    with wire(ELSEWHERE) as found:
        ending.end_others([way])
        until(lambda: len(found.frames) == 6, "six packets")
    numbers = [frame.sequence for _, frame in found.frames]
    for last in range(256):
        taken = []
        held = last
        for number in numbers:
            if not -20 < (number - held + 128) % 256 - 128 <= 0:
                taken.append(number)
                held = number
        assert len(taken) >= 5, last


def test_who_may_not_any_more_sends_no_more(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What speaks against it is asked again and again, and said; where it cannot be asked all goes
    out as well."""
    monkeypatch.setattr(sending, "BEAT_SECONDS", 0.1)
    told: list[str] = []
    sender = Sender(database, lambda show_id, words: told.append(words))
    reasons = iter(["", "", "Ada may not do that any more"])

    def broken() -> str:
        raise FenceError("damaged")

    for still, words in ((lambda: next(reasons), "Ada may not"), (broken, "cannot be looked up")):
        with wire(THERE) as found:
            sender.send(
                2, "there", [Way(1, Protocol.SACN, THERE, 1)], {1: b"\xff" * 512}, still=still
            )
            until(lambda: sender.now is None, "it goes on")
            until(lambda words=words: any(words in one for one in told), words)
            until(
                lambda found=found: not found.frames or found.frames[-1][1].ends,
                "the stream is ended",
            )


def test_a_planner_who_became_crew(database: Path, serve: Callable[..., Served]) -> None:
    """What was aimed at fixtures ends with the role, at once for what is sent, and for the next
    level, too; a crew sends to the practice rig only, whatever its browser says."""
    engine = open_engine(database)
    people = People(engine, utc_now)
    for role in (Role.OWNER, Role.PLANNER):
        people.join(people.invite(role, hours=1, by=""), role.capitalize(), PASSWORD)
    served = serve(database, "--name", "fence.test")
    client = served.client()
    client.get("/log-in")
    assert client.post("/log-in", name="Planner", password=PASSWORD)[0] == 302
    with wire(THERE) as found:
        sending_to(client, THERE)
        until(lambda: len(found.frames) > 20, "it sends")
        mine = people.id_of("Planner")
        assert mine is not None
        people.set_role(mine, Role.CREW)
        until(lambda: found.frames[-1][1].ends and found.silent_for(0.5), "it ends with the role")
        count = len(found.frames)
        client.get("/shows/2/prove")
        assert client.post("/shows/2/prove/aim", aim="out")[0] == 403
        assert client.post("/shows/2/prove/bring", fixture=1)[0] == 302
        until(
            lambda: "the practice rig" in client.get("/sending")[1], "it goes to the practice rig"
        )
        assert len(found.frames) == count
        people.set_role(mine, Role.READER)
        until(lambda: "may not do that any more" in client.get("/sending")[1], "that ends as well")
    store = ShowStore(engine)
    why = "All out: Planner may not do that any more"
    until(lambda: why in [entry.words for entry in store.history(2, most=5)], "the log says why")
    engine.dispose()
