"""The practice rig as a process of its own, and the commands that send to it and listen."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from fence.demo import clean_show
from fence.formats.show_json import write_show_json
from fence.standins.rig import ask
from tests import warm
from tests.addresses import own
from tests.conftest import until
from tests.faults.conftest import COMMAND, fence, free_port

THERE = own(61)


@pytest.fixture
def show_file(tmp_path: Path) -> Path:
    """The clean demo show as a file."""
    path = tmp_path / "show.json"
    path.write_text(write_show_json(clean_show()))
    return path


@pytest.fixture
def practising(show_file: Path) -> Iterator[Callable[..., int]]:
    """Start a practice rig; gives the port at which it is asked. It is ended with the test."""
    started: list[subprocess.Popen[str]] = []

    def start(*options: str) -> int:
        port = free_port()
        place = ["standin", "rig", str(show_file), "--bind", THERE, "--tell", str(port), *options]
        started.append(warm.start([*COMMAND, *place], stdout=subprocess.PIPE, text=True))
        assert started[-1].stdout is not None
        assert started[-1].stdout.readline() == f"ready {port}\n"
        return port

    start.started = started  # type: ignore[attr-defined]
    yield start
    for one in started:
        one.send_signal(signal.SIGTERM)
        assert one.wait(timeout=20) == 0
        assert one.stdout is not None
        one.stdout.close()


@pytest.mark.parametrize("protocol", ["sacn", "artnet"])
def test_what_is_sent_is_seen(
    practising: Callable[..., int], show_file: Path, protocol: str
) -> None:
    """Fern 5 is red for as long as its levels are sent, over either protocol; afterwards there is
    no signal."""
    port = practising()
    fern = next(one for one in clean_show().fixtures if one.label == "Fern 5")
    assert fern.start is not None
    red = {fern.start: 255, fern.start + 1: 255, fern.start + 5: 255}
    levels = ",".join(f"{slot}={level}" for slot, level in red.items())
    place = [
        "send",
        str(show_file),
        "--universe",
        "1",
        "--levels",
        levels,
        "--to",
        THERE,
        "--bind",
        "127.0.0.1",
    ]
    command = [*COMMAND, *place, "--protocol", protocol, "--seconds", "30", "--yes"]
    sending = warm.start(command, stdout=subprocess.DEVNULL, text=True)
    try:
        until(lambda: state(port)["fixtures"][str(fern.id)]["state"] == "lit", "it is lit")
        told = state(port)
        red_, green, blue = told["fixtures"][str(fern.id)]["colour"]
        assert red_ > 200 > 50 > max(green, blue)
        others = [
            one
            for key, one in told["fixtures"].items()
            if one["state"] == "lit" and key != str(fern.id)
        ]
        assert not others
    finally:
        sending.send_signal(signal.SIGINT)
        sending.wait(timeout=20)
    until(lambda: state(port)["fixtures"][str(fern.id)]["state"] == "dark", "it is dark")


def state(port: int) -> dict[str, dict[str, dict[str, object]]]:
    """What the practice rig says."""
    told = ask(THERE, port)
    assert told is not None
    return told


def test_faults_are_put_on_and_taken_off(practising: Callable[..., int]) -> None:
    """By the command and while it runs; one that cannot be changes nothing."""
    port = practising("--fault", "deaf=Palm 1")
    demo = {"own program"}
    palms = {str(one.id) for one in clean_show().fixtures if one.label.startswith("Palm")}
    assert {state(port)["fixtures"][one]["state"] for one in palms} == demo
    told = ask(THERE, port, ["no-power=Palm 2"])
    assert told is not None
    assert sorted(told["fixtures"][one]["state"] for one in palms) == ["dark", *["own program"] * 3]
    assert ask(THERE, port, ["no-power=Nobody"]) is None
    assert sorted(str(state(port)["fixtures"][one]["state"]) for one in palms) == [
        "dark",
        *["own program"] * 3,
    ]


def test_what_would_be_sent_is_said_first(show_file: Path) -> None:
    """Without --yes nothing goes out; what cannot be read says what is accepted."""
    place = ("send", show_file, "--universe", "1", "--to", "127.0.0.62")
    told = fence(*place, "--levels", "1=255,2=10")
    assert told.returncode == 0
    assert "Would send U1 as sACN 1 to 127.0.0.62, 2 slots above zero" in told.stdout
    for levels in ("1", "0=5", "513=5", "1=256", "x=y"):
        done = fence(*place, "--levels", levels)
        assert done.returncode == 2
        assert "Use slots 1 to 512" in done.stderr
    assert (
        "Multicast is"
        in fence(
            "send", show_file, "--universe", "1", "--to", "multicast", "--protocol", "artnet"
        ).stderr
    )
    assert "not on loopback" in fence("standin", "rig", show_file, "--bind", "10.0.0.1").stderr
    assert "is not a fault" in fence("standin", "rig", show_file, "--fault", "fire=Palm 1").stderr


def test_listening_says_what_is_heard(show_file: Path) -> None:
    """Sources, frames a second and levels, as JSON and in words; silence is said."""
    place = ["send", str(show_file), "--universe", "5", "--levels", "3=200,512=5", "--to", own(63)]
    command = [*COMMAND, *place, "--seconds", "20", "--yes"]
    sending = warm.start(command, stdout=subprocess.DEVNULL, text=True)
    try:
        told = fence("listen", "--universe", "5", "--bind", own(63), "--seconds", "3", "--json")
        found = json.loads(told.stdout)
        assert found["heard"] is True
        assert found["levels"] == {"3": 200, "512": 5}
        assert [(one["name"], one["priority"]) for one in found["sources"]] == [("Fence", 50)]
        assert found["frames_per_second"] > 1
        words = fence(
            "listen", "--universe", "5", "--slot", "512", "--bind", own(63), "--seconds", "2"
        ).stdout
        assert "512   5   1 %" in words
    finally:
        sending.terminate()
        sending.wait(timeout=20)
    nothing = fence("listen", "--universe", "6", "--bind", own(63), "--seconds", "0.3", "--json")
    assert json.loads(nothing.stdout) == {
        "heard": False,
        "sources": [],
        "frames_per_second": 0.0,
        "levels": {},
    }


def test_it_takes_nothing_from_other_programs(practising: Callable[..., int]) -> None:
    """It listens at its own address and in groups, and at no address that means all of this
    machine: whatever other programs send each other on these ports stays theirs."""
    practising()
    pid = practising.started[-1].pid  # type: ignore[attr-defined]
    mine = {os.readlink(entry) for entry in Path(f"/proc/{pid}/fd").iterdir() if entry.is_symlink()}
    held = []
    for line in Path(f"/proc/{pid}/net/udp").read_text().splitlines()[1:]:
        words = line.split()
        if f"socket:[{words[9]}]" in mine:
            held.append(socket.inet_ntoa(bytes.fromhex(words[1].partition(":")[0])[::-1]))
    assert len(held) >= 4
    assert all(ip.startswith(("127.", "239.255.")) for ip in held), held
