"""Talking with fixtures by way of an Art-Net node: who is there, what one says, setting one."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import click

from fence.cli.common import json_option
from fence.core.model.address import SLOTS
from fence.core.model.box import as_ip
from fence.core.model.errors import FenceError
from fence.core.model.text import printable, whole_number
from fence.core.rdm.device_info import DeviceInfo, hear_out
from fence.core.rdm.packet import Identity, Parameter, read_identity
from fence.core.rdm.values import build_words
from fence.wire.rdm_ports import Lines, Place, hear_all, places_of, talking


@dataclass(frozen=True, slots=True)
class Settable:
    """Something that can be set: what it is, what it reads as, and how a typed value is carried."""

    parameter: Parameter
    read: Callable[[DeviceInfo], Any]
    carry: Callable[[str], bytes]


def _number(least: int, most: int, size: int) -> Callable[[str], bytes]:
    def carry(text: str) -> bytes:
        found = whole_number(text)
        if found is None or not least <= found <= most:
            raise FenceError(f"“{text[:30]}” is not accepted. Use {least} to {most}.")
        return found.to_bytes(size)

    return carry


def _switch(text: str) -> bytes:
    if text not in ("on", "off"):
        raise FenceError(f"“{text[:30]}” is not accepted. Use on and off.")
    return bytes((text == "on",))


def _label(text: str) -> bytes:
    if len(text.encode()) > 32:
        raise FenceError("A label has up to 32 characters.")
    return build_words(text)


SETTABLE = {
    "address": Settable(Parameter.START_ADDRESS, lambda said: said.address, _number(1, SLOTS, 2)),
    "mode": Settable(Parameter.PERSONALITY, lambda said: said.personality, _number(1, 255, 1)),
    "label": Settable(Parameter.LABEL, lambda said: said.label, _label),
    "identify": Settable(Parameter.IDENTIFY, lambda said: said.identify, _switch),
    "display": Settable(Parameter.DISPLAY_INVERT, lambda said: said.display_invert, _switch),
    "pan": Settable(Parameter.PAN_INVERT, lambda said: said.pan_invert, _switch),
    "tilt": Settable(Parameter.TILT_INVERT, lambda said: said.tilt_invert, _switch),
}
READABLE: dict[str, Callable[[DeviceInfo], Any]] = {
    **{name: held.read for name, held in SETTABLE.items()},
    "maker": lambda said: said.maker,
    "model": lambda said: said.model,
    "software": lambda said: said.software,
    "footprint": lambda said: said.footprint,
    "hours": lambda said: said.hours,
    "lamp-hours": lambda said: said.lamp_hours,
}

_box = click.option(
    "--node",
    "--box",
    "box",
    required=True,
    help="Address of the Art-Net node that the line starts at.",
)
_port = click.option(
    "--port", type=click.IntRange(1, 512), default=None, help="Which of its ports; without it all."
)
_bind = click.option(
    "--bind", default="127.0.0.1", show_default=True, help="Address of this machine to ask from."
)


@click.group(name="rdm")
def rdm_command() -> None:
    """Talk with fixtures over RDM, by way of an Art-Net node.

    Some fixtures flicker while RDM runs: use it when that does no harm.
    """


@rdm_command.command(name="list")
@_box
@_port
@_bind
@click.option("--known", is_flag=True, help="Take what the node knows; do not let it search anew.")
@json_option
def list_command(box: str, port: int | None, bind: str, known: bool, as_json: bool) -> None:
    """List who answers, and what each says of itself."""
    bind, box = str(as_ip(bind)), str(as_ip(box))
    places = places_of(bind, box, port)
    with talking(bind) as lines:
        said, notes = hear_all(lines, places, flush=not known)
    if as_json:
        click.echo(
            json.dumps(
                {"devices": [said_data(one) for one in said], "notes": notes}, ensure_ascii=False
            )
        )
        return
    for note in notes:
        click.echo(note, err=True)
    for one in said:
        where = "---" if one.address is None else f"{one.address:03d}"
        words = (
            one.problem or f"{one.title}, {one.mode or f'mode {one.personality}'} ({one.footprint})"
        )
        click.echo(printable(f"{one.identity}  {where}  {one.label or '(no label)'}: {words}"))
    if not said:
        click.echo("Nobody answered.")


def said_data(said: DeviceInfo) -> dict[str, Any]:
    """What a device said, as other programs read it."""
    return {
        "identity": str(said.identity),
        "port_address": said.port,
        "maker": said.maker,
        "model": said.model,
        "label": said.label,
        "software": said.software,
        "address": said.address,
        "footprint": said.footprint,
        "mode": said.personality,
        "modes": [
            {"number": p.number, "name": p.name, "footprint": p.footprint}
            for p in said.personalities
        ],
        "hours": said.hours,
        "lamp_hours": said.lamp_hours,
        "sensors": [{"name": s.name, "value": s.value, "unit": s.unit} for s in said.sensors],
        "display_invert": said.display_invert,
        "pan_invert": said.pan_invert,
        "tilt_invert": said.tilt_invert,
        "sub_devices": [
            {"number": s.number, "address": s.address, "footprint": s.footprint} for s in said.subs
        ],
        "problem": said.problem,
    }


@rdm_command.command(name="get")
@click.argument("identity")
@click.argument("what", type=click.Choice(["all", *READABLE]), default="all")
@_box
@_port
@_bind
@json_option
def get_command(
    identity: str, what: str, box: str, port: int | None, bind: str, as_json: bool
) -> None:
    """Ask the device of an IDENTITY, such as 7FF0:0000001A, for one thing or all."""
    who, bind, box = read_identity(identity), str(as_ip(bind)), str(as_ip(box))
    places = places_of(bind, box, port)
    with talking(bind) as lines:
        said = _found(lines, places, who)
    if what != "all":
        value = READABLE[what](said)
        click.echo(json.dumps({"identity": str(who), what: value}) if as_json else _worded(value))
        return
    data = said_data(said)
    if as_json:
        click.echo(json.dumps(data, ensure_ascii=False))
        return
    for name, value in data.items():
        if value not in (None, "", []):
            click.echo(printable(f"{name.replace('_', ' ')}: {_worded(value)}"))


def _worded(value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, list):
        return ", ".join(" ".join(str(part) for part in one.values()) for one in value)
    return "not told" if value is None else str(value)


def _found(lines: Lines, places: list[Place], who: Identity) -> DeviceInfo:
    """The device, on whichever of the ports it is."""
    for place in places:
        said = hear_out(
            lines.talk(place.box, place.address), who, box=place.box, port=place.address
        )
        if not said.problem:
            return said
    raise FenceError(f"{who} does not answer on {places[0].box}: list who does.")


@rdm_command.command(name="set")
@click.argument("identity")
@click.argument("what", type=click.Choice([*SETTABLE, "factory", "reset"]))
@click.argument("value", default="")
@_box
@_port
@_bind
@click.option(
    "--sub", type=click.IntRange(0, 512), default=0, help="A sub-device: a dimmer of a rack."
)
@click.option("--yes", is_flag=True, help="Really do it: needed for factory and reset.")
@json_option
def set_command(
    identity: str,
    what: str,
    value: str,
    box: str,
    port: int | None,
    bind: str,
    sub: int,
    yes: bool,
    as_json: bool,
) -> None:
    """Set something at the device of an IDENTITY, and say what it says then.

    WHAT and VALUE: address 1 to 512, mode by its number, label TEXT, identify, display, pan and
    tilt on or off. factory (all settings of the maker) and reset (it starts anew, and may move)
    take no value.
    """
    who, bind, box = read_identity(identity), str(as_ip(bind)), str(as_ip(box))
    if what in ("factory", "reset"):
        if not yes:
            raise FenceError(
                "It may move, go dark, and lose its address and mode: say --yes to do it."
            )
        parameter = Parameter.FACTORY_DEFAULTS if what == "factory" else Parameter.RESET
        data = b"" if what == "factory" else b"\xff"
    else:
        parameter, data = SETTABLE[what].parameter, SETTABLE[what].carry(value)
    places = places_of(bind, box, port)
    with talking(bind) as lines:
        said = _found(lines, places, who)
        talk = lines.talk_with(said)
        talk.set(who, parameter, data, sub=sub)
        said = hear_out(talk, who, box=said.box, port=said.port)
    if as_json:
        click.echo(json.dumps(said_data(said), ensure_ascii=False))
        return
    told = READABLE.get(what)
    click.echo(
        printable(f"{who} says {what} {_worded(told(said))}." if told else f"{who} has done it.")
    )
