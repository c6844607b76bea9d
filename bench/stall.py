"""Can anything hold Fence up? The worst answer of a page, a mark and All out while slow things go
on, in milliseconds.

Fence is served as a process of its own, to one person, to a crew, and to a crew over HTTPS. Each
slow thing goes on while the three are asked over and over; beside each stands how many times as
long that is as with nothing going on. 300 ms are allowed.
"""

from __future__ import annotations

import json
import os
import signal
import socket
import ssl
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from shutil import copyfile
from tempfile import TemporaryDirectory
from time import monotonic, perf_counter

import trustme

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.faults.conftest import Client, Served, start_serving  # noqa: E402
from tests.faults.test_doors import HALVES, LARGE, PASSWORD, House  # noqa: E402

from fence.cli.serving import make_demo  # noqa: E402
from fence.core import edits  # noqa: E402
from fence.core.model.box import Protocol  # noqa: E402
from fence.formats.show_json import write_show_json  # noqa: E402
from fence.store.database import open_engine  # noqa: E402
from fence.store.people import People, Role  # noqa: E402
from fence.store.shows import ShowStore, utc_now  # noqa: E402

FORMS = ("loopback", "crew", "https")
ALLOWED = 300.0
SECONDS = 5.0
OUT_EVERY = 10
PAUSE = 0.4
"""Seconds between what one person does and does again: what holds up is looked for, not what is
merely busy."""
SILENT = "127.131.0.9"


def opened(folder: Path, form: str, furnished: Path) -> House:
    """A Fence in one of the three ways."""
    path = folder / f"{form}.db"
    copyfile(furnished, path)
    options: tuple[str, ...] = ()
    trust = None
    if form != "loopback":
        engine = open_engine(path)
        people = People(engine, utc_now)
        for role in (Role.OWNER, Role.PLANNER, Role.CREW):
            people.join(people.invite(role, hours=1, by=""), role.capitalize(), PASSWORD)
        engine.dispose()
        options = ("--name", "fence.test")
    if form == "https":
        made = trustme.CA()
        one = made.issue_cert("localhost", "127.0.0.1")
        one.private_key_pem.write_to_path(folder / "key.pem")
        one.cert_chain_pems[0].write_to_path(folder / "cert.pem")
        made.cert_pem.write_to_path(folder / "trusted.pem")
        options = (*options, "--cert", str(folder / "cert.pem"), "--key", str(folder / "key.pem"))
        trust = ssl.create_default_context(cafile=str(folder / "trusted.pem"))
    return House(start_serving(path, *options), trust, form != "loopback")


def planner(house: House) -> Client:
    """Somebody who plans."""
    found = house.client()
    if house.door:
        found = Client(house.served.port, trust=house.trust, headers=dict(found.headers))
        found.get("/log-in")
        assert found.post("/log-in", name="Planner", password=PASSWORD)[0] == 302
        found.get("/shows/1/set")
    return found


@contextmanager
def over_and_over(*acts: Callable[[], object]) -> Iterator[None]:
    """Each of these again and again, as people press buttons, in a thread of its own."""
    done = threading.Event()

    def run(act: Callable[[], object]) -> None:
        while not done.is_set():
            with suppress(OSError, ssl.SSLError):
                act()
            done.wait(PAUSE)

    threads = [threading.Thread(target=run, args=(act,), daemon=True) for act in acts]
    for thread in threads:
        thread.start()
    try:
        yield
    finally:
        done.set()
        for thread in threads:
            thread.join(30)


@contextmanager
def nothing(_house: House) -> Iterator[None]:
    """Nothing goes on."""
    yield


@contextmanager
def halves(house: House) -> Iterator[None]:
    """Two hundred silent lines, halves of heads and of bodies, and forty answers that nobody
    takes."""
    with ExitStack() as held:
        for half in HALVES:
            for number in range(66):
                line = held.enter_context(house.line() if number % 2 and not half else house.raw())
                if half:
                    line.sendall(half)
        for _ in range(40):
            held.enter_context(house.raw()).sendall(LARGE * 20)
        house.client().get("/healthz")
        yield


@contextmanager
def silent_devices(house: House) -> Iterator[None]:
    """A box that never answers is asked for its devices, in four shows at once, again and again."""
    clients = [planner(house) for _ in range(4)]
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as there:
        there.bind((SILENT, 6454))
        with over_and_over(
            *(
                lambda c=c, n=n: c.post(f"/shows/{n}/rdm/ask", place=f"box-{BOX[n]}")
                for n, c in enumerate(clients, 4)
            )
        ):
            yield


def children(pid: int) -> list[int]:
    """The processes that a process has started."""
    return [int(one) for one in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


@contextmanager
def stopped_processes(house: House) -> Iterator[None]:
    """The process that sends and the practice rig stand still while eight people send and look."""
    clients = [house.client() for _ in range(8)]
    assert clients[0].post("/shows/3/prove/bring", fixture=5)[0] == 302
    end = monotonic() + 60
    while "are lit" not in clients[0].get("/shows/3/prove/seen")[1] and monotonic() < end:
        if len(children_of(house.served)) >= 2:
            break
    stopped = children_of(house.served)
    for pid in stopped:
        os.kill(pid, signal.SIGSTOP)
    try:
        with over_and_over(
            *(
                lambda c=c: (
                    c.get("/shows/3/prove/seen"),
                    c.post("/shows/3/prove/bring", fixture=5),
                )
                for c in clients
            )
        ):
            yield
    finally:
        for pid in stopped:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGCONT)


def children_of(served: Served) -> list[int]:
    """The processes that a server has started, whichever of its threads did."""
    found = []
    for task in Path(f"/proc/{served.process.pid}/task").iterdir():
        with suppress(OSError):
            found += [int(one) for one in (task / "children").read_text().split()]
    return found


@contextmanager
def many_listen(house: House) -> Iterator[None]:
    """Ten people read the tester at once."""
    clients = [planner(house) for _ in range(10)]
    with over_and_over(
        *(lambda c=c: c.get("/shows/3/prove/tester?bind=127.0.0.1&u=9") for c in clients)
    ):
        yield


@contextmanager
def large_files(house: House) -> Iterator[None]:
    """Files of a million faults, of eight hundred boxes of one name, and labels of long names."""
    client, other = planner(house), planner(house)
    faults = (
        '{"format":"fence-show","version":2,"show":{"name":"x","fixtures":['
        + "{}," * 10**6
        + "{}]}}"
    )
    boxes = json.dumps(
        {
            "format": "fence-show",
            "version": 2,
            "show": {"name": "x", "boxes": [{"id": n, "name": "Node"} for n in range(1, 801)]},
        }
    )
    with over_and_over(
        lambda: upload(client, faults),
        lambda: upload(client, boxes),
        lambda: other.get("/shows/8/set/labels.pdf"),
    ):
        yield


def upload(client: Client, text: str) -> None:
    """Send a file to the import."""
    parts = {"csrf_token": client.token}
    body = "".join(
        f'--X\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'
        for k, v in parts.items()
    )
    body += (
        '--X\r\nContent-Disposition: form-data; name="file"; '
        f'filename="a.json"\r\n\r\n{text}\r\n--X--\r\n'
    )
    line = client.connect()
    with suppress(OSError):
        line.request(
            "POST",
            "/import",
            body,
            {
                "Cookie": client.cookie,
                "Content-Type": "multipart/form-data; boundary=X",
                **client.headers,
            },
        )
        line.getresponse().read()
    line.close()


SLOW = (nothing, halves, silent_devices, stopped_processes, many_listen, large_files)
BOX: dict[int, int] = {}


def furnish(path: Path) -> None:
    """The demo shows, four shows with a box that never answers, and one with long names."""
    store = ShowStore(open_engine(path))
    make_demo(store)
    show = store.get(1).show
    box = (
        next(box for box in show.boxes if box.protocol is Protocol.ARTNET and box.outputs)
        if any(box.protocol is Protocol.ARTNET for box in show.boxes)
        else show.boxes[1]
    )
    silent = edits.put_box(show, replace(box, ip=SILENT, protocol=Protocol.ARTNET))
    for number in range(4, 8):
        assert store.create(replace(silent, name=f"Silent {number}"), who="Bench").id == number
        BOX[number] = box.id
    long = [f"{fixture.id} {'Wm W' * 240}" for fixture in show.fixtures]
    named = tuple(
        replace(f, label=label, position=label)
        for f, label in zip(show.fixtures, long, strict=True)
    )
    store.create(edits.with_places(replace(show, name="Long", fixtures=named[:64])), who="Bench")
    assert write_show_json(show)
    store.engine.dispose()


def worst(house: House) -> dict[str, float]:
    """The worst answers within some seconds, by what was asked."""
    client = house.client()
    asked: dict[str, Callable[[], tuple[int, str]]] = {
        "page": lambda: client.get("/healthz"),
        "mark": lambda: client.post("/shows/1/set/1/serial", serial=f"S {perf_counter()}"),
        "all out": lambda: client.post("/out"),
    }
    for ask in asked.values():
        ask()
    found = dict.fromkeys(asked, 0.0)
    end, turn = monotonic() + SECONDS, 0
    while monotonic() < end:
        turn += 1
        for name, ask in asked.items():
            if name == "all out" and turn % OUT_EVERY:
                continue  # the processes that it ends are started again by those who send
            begin = perf_counter()
            status, _ = ask()
            found[name] = max(found[name], (perf_counter() - begin) * 1000)
            assert status in (200, 302), (name, status)
        client.get("/switches")  # what was said is read, so that it does not pile up in the cookie
    return found


def main() -> None:
    """Print the figures; end with 1 where one of them is too large."""
    slow = False
    with TemporaryDirectory() as name:
        folder = Path(name)
        furnished = folder / "furnished.db"
        furnish(furnished)
        for form in FORMS:
            house, usual = opened(folder, form, furnished), dict[str, float]()
            try:
                for thing in SLOW:
                    with thing(house):
                        found = worst(house)
                    usual = usual or found
                    told = ", ".join(
                        f"{k} {v:.0f} ms ({v / usual[k]:.1f})" for k, v in found.items()
                    )
                    slow = slow or any(value >= ALLOWED for value in found.values())
                    print(f"{form:9} {thing.__name__.replace('_', ' '):18} {told}", flush=True)
                with halves(house):
                    begin = perf_counter()
                    house.served.stop()
                    spent = perf_counter() - begin
                print(f"{form:9} ended on SIGTERM with all of these lines open in {spent:.1f} s")
            finally:
                house.served.end()
    sys.exit(1 if slow else 0)


if __name__ == "__main__":
    main()
