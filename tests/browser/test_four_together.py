"""Two planners and two crews on one show for a minute, each in a browser of its own: a server that
is killed, phones that are cut off; in the end every step that was acknowledged is there, once."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass, field
from pathlib import Path
from random import Random
from shutil import copyfile

import pytest
from selenium.common.exceptions import NoSuchElementException, WebDriverException
from selenium.webdriver import Chrome
from sqlalchemy import select

from fence.store.database import open_engine, reading
from fence.store.people import People, Role
from fence.store.shows import ShowStore
from fence.store.tables import LogRow
from tests import warm
from tests.browser.chromium import chromium
from tests.browser.conftest import Page
from tests.browser.gate import Gate, gate
from tests.faults.conftest import COMMAND, free_port

pytestmark = pytest.mark.browser

STEPS, FEWEST, LATEST = 16, 3, 600
"""How much is done, how often each is acknowledged at least, and seconds after which nobody waits
for that any more."""
PASSWORD = "a quiet long night"
SHOW = 1


@dataclass
class Server:
    """Fence as a process that can be killed and started again in the same place."""

    database: Path
    port: int = field(default_factory=free_port)
    process: subprocess.Popen[str] | None = None

    def start(self) -> None:
        """Start it, and wait until it listens."""
        place = [
            "serve",
            "--db",
            str(self.database),
            "--port",
            str(self.port),
            "--name",
            "fence.test",
        ]
        self.process = warm.start(
            [*COMMAND, *place], stdout=subprocess.PIPE, text=True, stderr=subprocess.DEVNULL
        )
        assert self.process.stdout is not None
        assert "Fence is at" in self.process.stdout.readline()

    def kill(self) -> None:
        """End it as a power cut would."""
        assert self.process is not None
        self.process.kill()
        self.process.wait(timeout=30)
        assert self.process.stdout is not None
        self.process.stdout.close()


@dataclass
class Somebody:
    """A person with a browser, what they did that was acknowledged, and what was begun."""

    name: str
    page: Page
    random: Random
    way: Gate
    acknowledged: list[str] = field(default_factory=list)
    begun: int = 0

    def token(self) -> str:
        """Words that stand nowhere else."""
        self.begun += 1
        return f"{self.name.replace(' ', '')}-{self.begun:03d}x"

    def log_in(self) -> None:
        """Name and password."""
        self.page.open("/log-in")
        self.page.type("#name", self.name)
        self.page.type("#password", PASSWORD)
        self.page.click("#log-in")
        self.page.sees("Shows", "h1")


class Planner(Somebody):
    """Writes notes, each of its own words."""

    def step(self) -> None:
        """One note; acknowledged once the next page is there."""
        words, fixture = self.token(), self.random.randint(1, 60)
        try:
            self.page.driver.get(f"{self.page.base}/shows/{SHOW}/rig/{fixture}")
            note = self.page.driver.find_element("id", "note")
            note.clear()
            note.send_keys(words)
            self.page.driver.find_element("css selector", "main form button[type=submit]").click()
            deadline = time.monotonic() + 5
            while time.monotonic() < deadline:
                if self.page.driver.current_url.rstrip("/").endswith(f"/shows/{SHOW}/rig"):
                    self.acknowledged.append(words)
                    return
                if "Changed meanwhile" in self.page.driver.title:
                    return
        except (WebDriverException, NoSuchElementException):
            return


class Crew(Somebody):
    """Writes serial numbers at the fixtures, each of its own; acknowledged once the phone keeps
    it."""

    def step(self) -> None:
        """One fixture."""
        words, driver = self.token(), self.page.driver
        fixture = self.random.choice([11, 12, 13, 14, 15, 16, 17, 18, 19, 20])
        try:
            driver.get(f"{self.page.base}/shows/{SHOW}/set/{fixture}")
            field_ = driver.find_element("id", "serial")
            driver.execute_script(
                "arguments[0].closest('details').open = true; arguments[0].value = arguments[1]",
                field_,
                words,
            )
            driver.execute_script("arguments[0].form.requestSubmit()", field_)
            if words in driver.execute_script("return localStorage['fence.waiting'] || ''"):
                self.acknowledged.append(words)
        except (WebDriverException, NoSuchElementException):
            return

    def waiting(self) -> int:
        """How many marks the phone still has."""
        return int(
            self.page.driver.execute_script(
                "return JSON.parse(localStorage['fence.waiting'] || '[]').length"
            )
        )


@pytest.fixture
def server(tmp_path: Path, furnished: Path) -> Iterator[Server]:
    """A Fence with four people."""
    copyfile(furnished, tmp_path / "four.db")
    engine = open_engine(tmp_path / "four.db")
    people = People(engine, ShowStore(engine).clock)
    for name, role in (
        ("Owner", Role.OWNER),
        *((f"Planner {n}", Role.PLANNER) for n in (1, 2)),
        *((f"Crew {n}", Role.CREW) for n in (1, 2)),
    ):
        people.join(people.invite(role, hours=1, by=""), name, PASSWORD)
    engine.dispose()
    made = Server(tmp_path / "four.db")
    made.start()
    yield made
    if made.process is not None and made.process.poll() is None:
        made.kill()


def browsers(stack: ExitStack, server: Server, seed: int) -> list[Somebody]:
    """Four of them, each logged in, the phones with the cards that they will need."""
    found: list[Somebody] = []
    for number, kind in enumerate((Planner, Planner, Crew, Crew)):
        driver: Chrome = stack.enter_context(chromium(frugal=True))
        driver.set_page_load_timeout(20)
        way = stack.enter_context(gate(server.port))
        name = f"{kind.__name__} {number % 2 + 1}"
        found.append(kind(name, Page(driver, way.base), Random(seed * 10 + number), way))
        found[-1].log_in()
        if kind is Crew:
            found[-1].page.open(f"/shows/{SHOW}/set")
            driver.execute_script("return navigator.serviceWorker.ready.then(() => 1)")
            for fixture in range(11, 21):
                found[-1].page.open(f"/shows/{SHOW}/set/{fixture}")
    return found


def test_all_that_was_acknowledged_is_there_once(
    server: Server, capsys: pytest.CaptureFixture[str]
) -> None:
    """Random work; the server is killed once, each phone is cut off and comes back."""
    with ExitStack() as stack:
        four = browsers(stack, server, 5)
        random = Random(5)
        events = {
            3: lambda: four[2].way.shut(),
            6: server.kill,
            8: server.start,
            10: lambda: setattr(four[2].way, "open", True),
            11: lambda: four[3].way.shut(),
            15: lambda: setattr(four[3].way, "open", True),
        }
        assert max(events) < STEPS
        for step in range(STEPS):
            events.get(step, lambda: None)()
            random.choice(four).step()
        end = time.monotonic() + LATEST
        while (slow := min(four, key=lambda one: len(one.acknowledged))) and len(
            slow.acknowledged
        ) < FEWEST:
            if time.monotonic() > end:
                pytest.fail(f"{slow.name} gets nowhere")
            slow.step()
        for crew in four[2:]:
            assert isinstance(crew, Crew)
            crew.page.open(f"/shows/{SHOW}/set")
            crew.page.wait(lambda crew=crew: crew.waiting() == 0, "marks wait on")  # type: ignore[misc]
    engine = open_engine(server.database)
    with reading(engine) as session:
        rows = session.scalars(
            select(LogRow.difference).where(LogRow.show_id == SHOW, LogRow.kind == "edit")
        ).all()
    engine.dispose()
    came = Counter[str]()
    for row in rows:
        for change in json.loads(row)["fixtures"]:
            for what in ("note", "serial"):
                before, after = ((change[state] or {}).get(what) for state in ("before", "after"))
                came[after] += before != after
    wrong, counts = [], Counter[str]()
    for one in four:
        counts[f"{one.name}: begun"] = one.begun
        counts[f"{one.name}: acknowledged"] = len(one.acknowledged)
        wrong += [(words, came[words]) for words in one.acknowledged if came[words] != 1]
    with capsys.disabled():
        print("\n", dict(counts), "not there once:", wrong, file=sys.stderr)
    assert not wrong
    assert all(len(one.acknowledged) >= FEWEST for one in four), counts
