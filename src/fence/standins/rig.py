"""A rig to practise on: the fixtures of a show file as they stand, a process of its own, on
loopback.

It listens to sACN and Art-Net as the boxes of the show would, carries the universes over the
planned lines, and says what each fixture does: in words, as they change, and to whoever asks on its
own port, as one line of JSON.
"""

from __future__ import annotations

import json
import selectors
import socket
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from typing import Any

from pydantic import TypeAdapter

from fence.core.model.address import SLOTS
from fence.core.model.box import Protocol, Use
from fence.core.model.errors import FenceError
from fence.core.model.network import group_of
from fence.core.model.profile import Function
from fence.core.model.show import Show
from fence.core.model.wiring import fixtures_behind
from fence.core.simulation.faults import Fault, Trouble, read_fault
from fence.core.simulation.practice import PracticeRig, Seen
from fence.core.troubleshooting.evidence import Check
from fence.core.troubleshooting.inspecting import inspected
from fence.standins.rdm_devices import RdmFault, RdmLines, read_talk_fault
from fence.standins.rdm_devices import Trouble as TalkTrouble
from fence.wire import artnet, sacn
from fence.wire.groups import group_socket

TICK = 0.2
SELDOM = (200_000, 20, 20)
"""When garbage is collected: seldom, since nothing here makes circles and a frame must not wait for
it."""
MOST_UNIVERSES = 512
FLICKER_SECONDS = 1.0
"""How long after a packet of RDM a fixture that cannot stand it flickers."""
MOST_GROUPS = 64
"""Multicast groups that are joined."""
LONGEST_QUESTION = 20_000
CHECK = TypeAdapter(Check)
FAULTS = TypeAdapter(tuple[Fault, ...])
ANSWER_SECONDS = 1.0


@dataclass
class Carried:
    """What is heard of one universe: the sources by their ids, with the last frame of each."""

    frames: dict[str, tuple[float, int, str, bytes]] = field(default_factory=dict)
    times: deque[float] = field(default_factory=lambda: deque(maxlen=100))

    def levels(self, now: float) -> bytes | None:
        """The levels that count: of the source with the highest priority, the later of two; None
        for no signal."""
        living = [held for held in self.frames.values() if now - held[0] < sacn.LOST_AFTER]
        return max(living, key=lambda held: (held[1], held[0]))[3] if living else None

    def rate(self, now: float) -> float:
        """Frames a second over the last two."""
        return sum(1 for at in self.times if now - at <= 2) / 2


class RigStandIn:
    """The practice rig. ``serve`` listens until it is stopped."""

    def __init__(
        self,
        show: Show,
        bind: str = "127.0.0.1",
        faults: Sequence[Fault] = (),
        *,
        tell: int | None = None,
        talk: Sequence[RdmFault] = (),
    ) -> None:
        self.show, self.bind, self.tell_port = show, bind, tell
        self._stand(faults, talk)
        self.talked = float("-inf")
        self.carried: dict[int, Carried] = {}
        self.before: dict[int, bytes] = {}
        self.order = sacn.InOrder()
        self.said: dict[int, str] = {}
        self.stopped = threading.Event()
        artnet_boxes = [box for box in show.boxes if box.protocol is Protocol.ARTNET]
        self.counts_from = artnet_boxes[0].counts_from if artnet_boxes else 0

    def _stand(self, faults: Sequence[Fault], talk: Sequence[RdmFault]) -> None:
        """Stand as the show says, with these faults."""
        self.faults = tuple(faults)
        self.talking = RdmLines(self.show, talk, quiet=silent_ones(self.show, faults))
        heap = any(fault.trouble is TalkTrouble.HEAP for fault in talk)
        self.rig = PracticeRig(self.talking.standing() if heap else self.show, self.faults)

    def serve(
        self, ready: threading.Event | None = None, say: Callable[[str], None] | None = None
    ) -> None:
        """Open the sockets, say that it is ready, listen until ``stop``. ``FenceError`` where a
        place is taken."""
        with ExitStack() as stack, selectors.DefaultSelector() as selector:
            selector.register(
                self._opened(self.bind, sacn.PORT, stack), selectors.EVENT_READ, self._sacn
            )
            selector.register(
                self._opened(self.bind, artnet.PORT, stack), selectors.EVENT_READ, self._artnet
            )
            with suppress(OSError):
                for joined in self._groups(stack):
                    selector.register(joined, selectors.EVENT_READ, self._sacn)
            if self.tell_port is not None:
                asked = stack.enter_context(socket.create_server((self.bind, self.tell_port)))
                asked.setblocking(False)
                self.tell_port = int(asked.getsockname()[1])
                selector.register(asked, selectors.EVENT_READ, self._asked)
            if ready is not None:
                ready.set()
            due = 0.0
            while not self.stopped.is_set():
                for key, _ in selector.select(TICK):
                    assert isinstance(key.fileobj, socket.socket)
                    key.data(key.fileobj)
                if say is not None and time.monotonic() >= due:
                    due = time.monotonic() + TICK
                    self._say_changes(say)

    def stop(self) -> None:
        """Let it end within a moment."""
        self.stopped.set()

    def _opened(self, bind: str, port: int, stack: ExitStack) -> socket.socket:
        opened = stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
        # a tester may listen beside it
        opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        opened.setblocking(False)
        try:
            opened.bind((bind, port))
        except OSError as error:
            raise FenceError(f"{bind}, port {port}, cannot be used ({error.strerror}).") from None
        return opened

    def _groups(self, stack: ExitStack) -> Iterator[socket.socket]:
        """Sockets in the groups of the show's universes, on loopback only; what other programs send
        to each other on this machine is not taken from them."""
        for universe in sorted({u for f in self.show.fixtures for u in self.show.universes_of(f)})[
            :MOST_GROUPS
        ]:
            yield group_socket(group_of(universe), sacn.PORT, "127.0.0.1", stack)

    # ---- what comes

    def _sacn(self, listening: socket.socket) -> None:
        for data, _ in _packets(listening):
            frame = sacn.read_frame(data)
            if frame is None or not self.order.takes(frame, time.monotonic()):
                continue
            if frame.ends:
                if frame.universe in self.carried:
                    self.carried[frame.universe].frames.pop(frame.cid, None)
                continue
            self._take(frame.universe, frame.cid, frame.priority, frame.name, frame.levels)

    def _artnet(self, listening: socket.socket) -> None:
        for data, sender in _packets(listening):
            dmx = artnet.read_dmx(data)
            if dmx is not None:
                self._take(self._universe_at(dmx.address), sender[0], 100, "", dmx.levels)
                continue
            found = self._replies() if artnet.is_poll(data) else self._talk(data)
            for packet in found:
                with suppress(OSError):
                    listening.sendto(packet, sender)

    def _universe_at(self, address: int) -> int:
        return address + 1 - self.counts_from

    def _replies(self) -> list[bytes]:
        """Says that it is one box with a port for every universe."""
        ports = [
            artnet.ReplyPort(Use.OUT, u - 1 + self.counts_from)
            for u in self.show.universe_numbers
            if u <= 32_000
        ]
        whole = artnet.PollReply(
            self.bind, "practice rig", "Practice rig of this machine", tuple(ports)
        )
        return [artnet.build_reply(reply) for reply in artnet.replies_for(whole)]

    def _talk(self, data: bytes) -> list[bytes]:
        """Pass on what is said to fixtures, and what they answer. What is set there is how the rig
        stands then."""
        answers = self.talking.take(data, self._universe_at)
        if answers is None:
            return []
        self.talked = time.monotonic()
        self._stand_anew()
        return answers

    def _stand_anew(self) -> None:
        if self.talking.changed():
            self.rig = PracticeRig(self.talking.standing(), self.faults)

    def _take(self, universe: int, source: str, priority: int, name: str, levels: bytes) -> None:
        carried = self.carried.get(universe)
        if carried is None:
            if len(self.carried) >= MOST_UNIVERSES:
                return
            carried = self.carried[universe] = Carried()
        if source not in carried.frames and len(carried.frames) >= 20:
            return
        now = time.monotonic()
        carried.frames[source] = (now, priority, name, levels.ljust(SLOTS, b"\0"))
        carried.times.append(now)

    # ---- what is told

    def frames(self) -> dict[int, bytes]:
        """The levels of every universe that has a signal now."""
        now = time.monotonic()
        found = {
            u: levels for u, one in self.carried.items() if (levels := one.levels(now)) is not None
        }
        self.before |= found
        return found

    def seen(self) -> dict[int, Seen]:
        """What every fixture does now."""
        found = self.rig.seen(self.frames(), self.before)
        if time.monotonic() - self.talked < FLICKER_SECONDS:
            for fixture_id in self.talking.flickers:
                if fixture_id in found:
                    found[fixture_id] = found[fixture_id]._replace(flickers=True)
        return found

    def state(self) -> dict[str, Any]:
        """All that is to be known of it, for whoever asks."""
        now = time.monotonic()
        return {
            "universes": {
                str(universe): {
                    "rate": round(one.rate(now), 1),
                    "levels": (one.levels(now) or b"").hex(),
                    "sources": sorted(
                        {(held[2], held[1]) for held in one.frames.values() if now - held[0] < 2.5}
                    ),
                }
                for universe, one in sorted(self.carried.items())
            },
            "fixtures": {
                str(fixture_id): {
                    **seen_data(seen),
                    "universe": self.rig.signals[fixture_id].universe,
                }
                for fixture_id, seen in self.seen().items()
            },
        }

    def _asked(self, listening: socket.socket) -> None:
        """Answer one question: an empty one, faults to be put on instead of those there are,
        something changed at a fixture, or a check that somebody makes."""
        try:
            asking, _ = listening.accept()
        except OSError:
            return
        with asking, suppress(OSError, ValueError, FenceError):
            asking.settimeout(ANSWER_SECONDS)
            question = asking.makefile("rb").readline(LONGEST_QUESTION)
            words = json.loads(question or b"{}")
            if isinstance(words, dict) and isinstance(words.get("faults"), list):
                self._put(list(map(str, words["faults"][:200])))
            if isinstance(words, dict) and isinstance(words.get("touch"), dict):
                self.talking.touch(int(words["touch"].get("fixture", 0)), words["touch"])
                self._stand_anew()
            told = self.state()
            if isinstance(words, dict) and isinstance(words.get("check"), dict):
                told["found"] = self._found(CHECK.validate_python(words["check"]))
            asking.sendall(json.dumps(told).encode() + b"\n")

    def _found(self, check: Check) -> list[dict[str, str]]:
        """What somebody finds who makes a check; nothing where it cannot be made here."""
        found = inspected(self.rig, check, self.frames())
        return [{"answer": str(one.answer), "value": one.value} for one in found]

    def _put(self, faults: Sequence[str]) -> None:
        """Put these faults on the rig instead of those there are; it stands as the show says
        again."""
        self._stand(*read_faults(self.show, [text[:300] for text in faults]))

    def _say_changes(self, say: Callable[[str], None]) -> None:
        for fixture_id, seen in self.seen().items():
            words = seen.state + (
                " " + "#{:02x}{:02x}{:02x}".format(*seen.colour) if seen.lit else ""
            )
            words += ", flickers" if seen.flickers else ""
            if self.said.get(fixture_id, "dark") != words:
                self.said[fixture_id] = words
                say(f"{self.show.fixture(fixture_id).label}: {words}")


def seen_data(seen: Seen) -> dict[str, Any]:
    """What is seen of a fixture, as it is told."""
    values = dict(seen.sight.values) if seen.sight else {}
    return {
        "colour": list(seen.colour),
        "state": seen.state,
        "flickers": seen.flickers,
        "pan": values.get(Function.PAN),
        "tilt": values.get(Function.TILT),
    }


def read_faults(show: Show, texts: Sequence[str]) -> tuple[list[Fault], list[RdmFault]]:
    """Faults as typed: of what fixtures do with levels, and of how they talk. ``FenceError`` for
    what is neither."""
    talk = [text for text in texts if text.partition("=")[0] in set(TalkTrouble)]
    return [read_fault(show, text) for text in texts if text not in talk], [
        read_talk_fault(show, t) for t in talk
    ]


def silent_ones(show: Show, faults: Sequence[Fault]) -> set[int]:
    """Fixtures that a fault keeps from talking: without power, or behind a plug that is out."""
    found: set[int] = set()
    for fault in faults:
        if fault.fixture is None or fault.trouble not in (
            Trouble.NO_POWER,
            Trouble.FLAT,
            Trouble.PLUG_OUT,
        ):
            continue
        found.add(fault.fixture)
        for line in show.lines if fault.trouble is Trouble.PLUG_OUT else ():
            stop = next((stop for stop in line.stops if stop.fixture == fault.fixture), None)
            found.update(fixtures_behind(show, line, stop.id) if stop is not None else ())
    return found


def _packets(listening: socket.socket) -> list[tuple[bytes, tuple[str, int]]]:
    """What waits at a socket, up to a bound."""
    found = []
    for _ in range(200):
        try:
            data, sender = listening.recvfrom(sacn.LARGEST + 1)
        except OSError:
            break
        found.append((data, sender))
    return found


def ask(
    bind: str,
    port: int,
    faults: Sequence[str] | None = None,
    *,
    seconds: float = 2.0,
    touch: Mapping[str, int] | None = None,
    check: Check | None = None,
) -> dict[str, Any] | None:
    """What a practice rig says now; None where it does not answer. With ``faults`` those are put on
    it, with ``touch`` somebody changes something at a fixture (see ``TalkingLines.touch``), with
    ``check`` somebody makes one: ``found`` has its answers."""
    question: dict[str, Any] = {} if faults is None else {"faults": list(faults)}
    question |= {"touch": dict(touch)} if touch else {}
    question |= {"check": CHECK.dump_python(check, mode="json")} if check else {}
    try:
        with socket.create_connection((bind, port), timeout=seconds) as line:
            line.settimeout(seconds)
            line.sendall(json.dumps(question).encode() + b"\n")
            answer = json.loads(line.makefile("rb").readline(5_000_000))
    except (OSError, ValueError):
        return None
    return answer if isinstance(answer, dict) else None
