"""Boxes on the network: who answers, and stand-ins to practise with."""

from __future__ import annotations

import gc
import json
import os
import signal
import sys
import threading
from ipaddress import IPv4Address
from pathlib import Path
from typing import Any

import click

from fence.cli.common import file_argument, json_option, rig_of
from fence.core.model.address import MAX_UNIVERSE, SLOTS
from fence.core.model.box import Protocol, as_ip
from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.core.model.text import printable, whole_number
from fence.core.network.found import FoundBox
from fence.standins.boxes import BoxesStandIn, read_fault
from fence.standins.hidden import HiddenRig
from fence.standins.rdm_devices import Trouble as TalkTrouble
from fence.standins.rdm_devices import read_talk_fault
from fence.standins.rig import FAULTS, SELDOM, RigStandIn, read_faults
from fence.wire.node_discovery import LONGEST, SECONDS, look
from fence.wire.output import LOW_PRIORITY, MULTICAST, Output, Wanted, Way, send_for
from fence.wire.receiving import Ear
from fence.wire.targets import Reach


@click.command(name="nodes")
@click.option(
    "--to",
    multiple=True,
    help="Address of a node to ask (may be repeated); without it everybody near --bind.",
)
@click.option(
    "--bind", default="127.0.0.1", show_default=True, help="Address of this machine to ask from."
)
@click.option("--seconds", default=SECONDS, show_default=True, type=click.FloatRange(0.1, LONGEST))
@json_option
def nodes_command(to: tuple[str, ...], bind: str, seconds: float, as_json: bool) -> None:
    """Discover the nodes that are there (ArtPoll) and list who answers."""
    found = look(_address(bind), [_address(target) for target in to], seconds=seconds)
    if as_json:
        click.echo(
            json.dumps({"boxes": [box_data(box) for box in found.boxes]}, ensure_ascii=False)
        )
        return
    for note in found.notes:
        click.echo(note, err=True)
    for box in found.boxes:
        ports = (
            ", ".join(f"{p.number} {p.use} {p.says}" for p in box.ports)
            if box.tells
            else "tells no universes"
        )
        click.echo(printable(f"{box.ip:<15} {box.title}: {ports}"))
    if not found.boxes:
        click.echo("Nobody answered.")


def _address(text: str) -> str:
    return str(as_ip(text))


def box_data(box: FoundBox) -> dict[str, Any]:
    """A node that answered, as other programs read it."""
    ports = [
        {"number": p.number, "use": str(p.use), "says": p.says if p.use != "off" else None}
        for p in box.ports
    ]
    return {
        "ip": box.ip,
        "name": box.name,
        "long_name": box.long_name,
        "tells": box.tells,
        "ports": ports,
    }


class StandIns(click.Group):
    """The stand-ins; one that has another name now is found by its former one as well."""

    def get_command(self, context: click.Context, name: str) -> click.Command | None:
        """The command of that name, or of what it is called now."""
        return super().get_command(context, "nodes" if name == "boxes" else name)


@click.group(name="standin", cls=StandIns)
def standin_command() -> None:
    """Stand-ins for what is outside, made from a show file, to practise with."""


@standin_command.command(name="nodes")
@file_argument
@click.option(
    "--bind",
    default=None,
    help="The one address to answer at (without it: those of the nodes on loopback).",
)
@click.option(
    "--fault",
    "faults",
    multiple=True,
    metavar="NAME=NODE[:PORT]",
    help="A fault on a node (may be repeated).",
)
def nodes_standin(file: Path, bind: str | None, faults: tuple[str, ...]) -> None:
    """Answer as the nodes of a show FILE would, until stopped."""
    show = rig_of(file)
    if not show.boxes:
        raise FenceError(
            "This show has no nodes: add them in the Network step and export it once more."
        )
    talk = [text for text in faults if text.partition("=")[0] in set(TalkTrouble)]
    puts = [read_fault(show, text) for text in faults if text not in talk]
    talking = [read_talk_fault(show, text) for text in talk]
    standin = BoxesStandIn(show, _address(bind) if bind else None, puts, talking)
    ready = _Announce()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: standin.stop())
    standin.serve(ready)


@standin_command.command(name="rig")
@file_argument
@click.option(
    "--bind", default="127.0.0.1", show_default=True, help="The address on loopback to listen at."
)
@click.option(
    "--tell",
    type=click.IntRange(0, 65535),
    default=None,
    help="A port to ask it at; 0 takes a free one.",
)
@click.option(
    "--fault",
    "faults",
    multiple=True,
    metavar="NAME=WHERE[:WHAT]",
    help="A fault (may be repeated).",
)
@click.option("--put", default="[]", hidden=True, help="Faults as Fence itself writes them.")
@click.option("--with-parent", is_flag=True, hidden=True, help="End when the standard input ends.")
def rig_standin(
    file: Path, bind: str, tell: int | None, faults: tuple[str, ...], put: str, with_parent: bool
) -> None:
    """Be the fixtures of a show FILE, as they stand, until stopped: a rig to practise on.

    Faults: wrong-mode=NAME:MODE, wrong-address=NAME:161, deaf=NAME, no-power=NAME, flat=NAME,
    unlinked=NAME, plug-out=NAME, wrong-cable=NAME, no-terminator=LINE, wrong-universe=NODE:PORT,
    off-by-one=NODE, blackout. Of how they talk: heap (all at 1, in their first mode), no-rdm=NAME,
    slow=NAME, stubborn=NAME, broken=NAME, twin=NAME, rack=NAME:4, flickers=NAME, lossy=5 (percent
    of answers).
    """
    if not IPv4Address(_address(bind)).is_loopback:
        raise FenceError(
            f"{bind} is not on loopback: a practice rig listens on 127.0.0.1 to 127.255.255.254 "
            "only."
        )
    gc.set_threshold(*SELDOM)
    show = rig_of(file)
    found, talk = read_faults(show, faults)
    try:
        found += FAULTS.validate_json(put)
    except ValueError:
        raise FenceError("These faults are not as Fence writes them.") from None
    standin = RigStandIn(show, _address(bind), found, tell=tell, talk=talk)
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: standin.stop())
    if with_parent:

        def until_the_parent_ends() -> None:
            while os.read(sys.stdin.fileno(), 4096):
                pass
            standin.stop()

        threading.Thread(target=until_the_parent_ends, daemon=True).start()
    standin.serve(
        _AnnounceWith(standin), None if with_parent else lambda words: click.echo(printable(words))
    )


@standin_command.command(name="hidden", hidden=True)
@file_argument
def hidden_standin(file: Path) -> None:
    """Be a rig with hidden faults, for whoever asks on loopback, until the standard input ends."""
    standin = HiddenRig(rig_of(file))
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: standin.stop())

    def until_the_parent_ends() -> None:
        while os.read(sys.stdin.fileno(), 4096):
            pass
        standin.stop()

    threading.Thread(target=until_the_parent_ends, daemon=True).start()
    standin.serve(lambda port: click.echo(f"ready {port}"))


class _AnnounceWith(threading.Event):
    """Says on a line of its own that it answers, and at which port it can be asked."""

    def __init__(self, standin: RigStandIn) -> None:
        super().__init__()
        self.standin = standin

    def set(self) -> None:
        click.echo("ready" if self.standin.tell_port is None else f"ready {self.standin.tell_port}")
        super().set()


PROTOCOLS = click.Choice([str(one) for one in Protocol])


@click.command(name="send")
@file_argument
@click.option(
    "--universe", required=True, type=click.IntRange(1, MAX_UNIVERSE), help="Fence's number of it."
)
@click.option(
    "--levels", default="", help="Slots and levels, as 1=255,2=10; all others are at zero."
)
@click.option("--protocol", type=PROTOCOLS, default="sacn", show_default=True)
@click.option("--to", required=True, help="An address, or “multicast” for sACN.")
@click.option(
    "--bind", default="0.0.0.0", show_default=True, help="Address of this machine to send from."
)
@click.option("--seconds", default=3.0, show_default=True, type=click.FloatRange(0.1, 3600))
@click.option("--priority", default=LOW_PRIORITY, show_default=True, type=click.IntRange(0, 200))
@click.option(
    "--yes", is_flag=True, help="Really send. Without it this only says what would be sent."
)
def send_command(
    file: Path,
    universe: int,
    levels: str,
    protocol: str,
    to: str,
    bind: str,
    seconds: float,
    priority: int,
    yes: bool,
) -> None:
    """Send a universe of a show FILE to an address, and end the stream properly."""
    show, frame = rig_of(file), read_levels(levels)
    way = way_of(show, universe, Protocol(protocol), to)
    raised = sum(1 for level in frame if level)
    words = (
        f"U{universe} as {way.protocol.written} {way.number} to {way.to}, {raised} slots "
        f"above zero, {seconds:g} s"
    )
    if not yes:
        click.echo(
            f"Would send {words}. Lights may come on, and heads may move: say --yes to send."
        )
        return
    output = Output(_address(bind), priority=priority)
    click.echo(f"Sending {words}.")
    send_for(output, Wanted((way,), {universe: frame}), seconds)
    if output.problem:
        raise FenceError(output.problem)


def read_levels(text: str) -> bytes:
    """Levels as typed: ``1=255,2=10``; ``FenceError`` says what is accepted."""
    frame = bytearray(SLOTS)
    for piece in filter(None, (piece.strip() for piece in text.split(","))):
        slot, _, level = (part.strip() for part in piece.partition("="))
        at, value = whole_number(slot), whole_number(level)
        if at is None or value is None or not 1 <= at <= SLOTS or value > 255:
            raise FenceError(
                f"“{piece[:30]}” is not a level. Use slots 1 to {SLOTS} at 0 to 255, as 1=255,2=10."
            )
        frame[at - 1] = value
    return bytes(frame)


def way_of(show: Show, universe: int, protocol: Protocol, to: str) -> Way:
    """Where a universe goes; the node of the show at that address says how it is counted there."""
    broadcast = False
    if to != MULTICAST:
        reach = Reach.here()
        broadcast = (to := _address(to)) in (chosen := reach.broadcasts_of(show))
        reach.check(to, broadcasts=tuple(chosen))
    elif protocol is not Protocol.SACN:
        raise FenceError("Multicast is sACN's: give the address of the node for Art-Net.")
    box = next((box for box in show.boxes if box.ip == to), None)
    counts = box.counts_from if box else 0
    return Way(
        universe,
        protocol,
        to,
        universe if protocol is Protocol.SACN else universe - 1 + counts,
        broadcast,
    )


@click.command(name="listen")
@click.option("--protocol", type=PROTOCOLS, default="sacn", show_default=True)
@click.option(
    "--universe",
    required=True,
    type=click.IntRange(0, MAX_UNIVERSE),
    help="As the protocol counts it.",
)
@click.option("--slot", type=click.IntRange(1, SLOTS), default=None, help="Only this slot.")
@click.option("--seconds", default=SECONDS, show_default=True, type=click.FloatRange(0.1, LONGEST))
@click.option(
    "--bind", default="127.0.0.1", show_default=True, help="Address of this machine to listen at."
)
@json_option
def listen_command(
    protocol: str, universe: int, slot: int | None, seconds: float, bind: str, as_json: bool
) -> None:
    """Listen to a universe and say who sends it, how often, and at which levels."""
    ear = Ear(Protocol(protocol), universe, _address(bind))
    try:
        ear.listen(seconds)
        heard = ear.heard()
    finally:
        ear.close()
    shown = {
        at: level
        for at, level in enumerate(heard.levels, 1)
        if (level if slot is None else at == slot)
    }
    sources = [{"name": one.name, "priority": one.priority, "ip": one.ip} for one in heard.sources]
    if as_json:
        told = {
            "heard": heard.any,
            "sources": sources,
            "frames_per_second": round(heard.frames_per_second, 1),
        }
        click.echo(json.dumps({**told, "levels": {str(at): level for at, level in shown.items()}}))
        return
    if not heard.any:
        click.echo("No signal.")
        return
    for one in sources:
        click.echo(
            printable(f"{one['name'] or 'A source'} at {one['ip']}, priority {one['priority']}")
        )
    click.echo(f"{heard.frames_per_second:.1f} frames a second")
    for at, level in shown.items():
        click.echo(f"{at:03d} {level:3d} {100 * level // 255:3d} %")


class _Announce(threading.Event):
    """Says on a line of its own that it answers."""

    def set(self) -> None:
        click.echo("ready")
        super().set()
