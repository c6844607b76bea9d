"""The practice rig as a process of its own with hidden faults, and somebody who stands beside it:
what the page asks for is done there, and answered by what is found."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from fence.core.model.show import Show
from fence.core.troubleshooting.evidence import Check
from fence.core.troubleshooting.foresight import Foresight
from fence.formats.show_json import write_show_json
from fence.standins.rig import ask
from tests.browser.conftest import Page

Told = list[tuple[str, str]]


@dataclass(frozen=True)
class HiddenRig:
    """A practice rig that nobody but this test knows the faults of."""

    show: Show
    bind: str
    port: int

    def hide(self, *faults: str) -> None:
        """Take the faults that there are away, and put these on."""
        assert ask(self.bind, self.port, faults, seconds=30) is not None

    def found(self, check: Check) -> Told:
        """What somebody finds there who makes a check."""
        state = ask(self.bind, self.port, check=check, seconds=30)
        assert state is not None
        return [(one["answer"], one["value"]) for one in state["found"]]

    def heard(self, fixture_id: int) -> bool:
        """Whether the levels arrived that bring a fixture up."""
        state = ask(self.bind, self.port, seconds=30)
        wanted = Foresight(self.show).frames_for(self.show.fixture(fixture_id))
        carried = state["universes"] if state else {}
        return all(
            _as_wanted(bytes.fromhex(carried.get(str(universe), {}).get("levels", "")), frame)
            for universe, frame in wanted.items()
            if universe in self.show.carried
        )


def _as_wanted(levels: bytes, wanted: bytes) -> bool:
    """Whether this is what brings a fixture up, but for a slot that tells the universe."""
    others = [
        slot for slot, level in enumerate(wanted) if levels[slot : slot + 1] != bytes([level])
    ]
    return bool(levels) and not any(wanted[slot] for slot in others) and len(others) < 2


@contextmanager
def hidden_rig(show: Show, bind: str, folder: Path, fault: str) -> Iterator[HiddenRig]:
    """A rig with a fault from its command line on; ends with the block."""
    path = folder / "hidden.json"
    path.write_text(write_show_json(show), encoding="utf-8")
    command = [sys.executable, "-m", "fence.cli", "standin", "rig", str(path), "--bind", bind]
    with subprocess.Popen(
        [*command, "--tell", "0", "--fault", fault, "--with-parent"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    ) as process:
        try:
            assert process.stdout is not None
            words = process.stdout.readline().split()
            assert words[0] == "ready", words
            yield HiddenRig(show, bind, int(words[1]))
        finally:
            process.terminate()


def send_there(page: Page, bind: str) -> None:
    """Confirm the address of the rig for the show, and send there."""
    page.open("/shows/1/prove?fixture=1")
    page.driver.execute_script(
        "document.querySelector('#to').closest('details').open = true;"
        "document.querySelector('#to').value = arguments[0];"
        "document.querySelector('[name=sure]').checked = true;"
        "document.querySelector('[name=sure]').closest('form').requestSubmit()",
        bind,
    )
    page.sees("Confirmed for output")
