"""Boxes on the network: who answers, and stand-ins to practise with."""

from __future__ import annotations

import json
import signal
import threading
from pathlib import Path
from typing import Any

import click

from fence.cli.common import file_argument, json_option, rig_of
from fence.core.network.found import FoundBox
from fence.core.words.box import as_ip
from fence.core.words.errors import FenceError
from fence.core.words.text import printable
from fence.standins.boxes import BoxesStandIn, read_fault
from fence.wire.looking import LONGEST, SECONDS, look


@click.command(name="boxes")
@click.option(
    "--to", multiple=True, help="Address of a box to ask (may be repeated); without it everybody near --bind."
)
@click.option("--bind", default="127.0.0.1", show_default=True, help="Address of this machine to ask from.")
@click.option("--seconds", default=SECONDS, show_default=True, type=click.FloatRange(0.1, LONGEST))
@json_option
def boxes_command(to: tuple[str, ...], bind: str, seconds: float, as_json: bool) -> None:
    """Ask which boxes are there (ArtPoll) and list who answers."""
    found = look(_address(bind), [_address(target) for target in to], seconds=seconds)
    if as_json:
        click.echo(json.dumps({"boxes": [box_data(box) for box in found.boxes]}, ensure_ascii=False))
        return
    for note in found.notes:
        click.echo(note, err=True)
    for box in found.boxes:
        ports = ", ".join(f"{p.number} {p.use} {p.says}" for p in box.ports) if box.tells else "tells no universes"
        click.echo(printable(f"{box.ip:<15} {box.title}: {ports}"))
    if not found.boxes:
        click.echo("Nobody answered.")


def _address(text: str) -> str:
    return str(as_ip(text))


def box_data(box: FoundBox) -> dict[str, Any]:
    """A box that answered, as other programs read it."""
    ports = [{"number": p.number, "use": str(p.use), "says": p.says if p.use != "off" else None} for p in box.ports]
    return {"ip": box.ip, "name": box.name, "long_name": box.long_name, "tells": box.tells, "ports": ports}


@click.group(name="standin")
def standin_command() -> None:
    """Stand-ins for what is outside, made from a show file, to practise with."""


@standin_command.command(name="boxes")
@file_argument
@click.option("--bind", default=None, help="The one address to answer at (without it: those of the boxes on loopback).")
@click.option("--fault", "faults", multiple=True, metavar="NAME=BOX[:PORT]", help="A fault on a box (may be repeated).")
def boxes_standin(file: Path, bind: str | None, faults: tuple[str, ...]) -> None:
    """Answer as the boxes of a show FILE would, until stopped."""
    show = rig_of(file)
    if not show.boxes:
        raise FenceError("This show has no boxes: add them in the Network step and export it once more.")
    standin = BoxesStandIn(show, _address(bind) if bind else None, [read_fault(show, text) for text in faults])
    ready = _Announce()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: standin.stop())
    standin.serve(ready)


class _Announce(threading.Event):
    """Says on a line of its own that it answers."""

    def set(self) -> None:
        click.echo("ready")
        super().set()
