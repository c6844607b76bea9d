"""Address switches: the pattern of an address, and the address of a pattern."""

from __future__ import annotations

import json

import click

from fence.cli.common import json_option, say
from fence.core.model.profile import Setter, SetterKind
from fence.core.model.setter import address_of, switches_on
from fence.core.model.text import whole_number
from fence.formats.errors import FileError


@click.command(name="switches")
@click.argument("address", required=False)
@click.option("--on", "on", help="Switches that are on, such as 2,3,5: gives the address.")
@click.option("--zero-based", is_flag=True, help="The switches show address - 1.")
@click.option("--switches", "count", default=9, show_default=True, type=click.IntRange(1, 16))
@json_option
def switches_command(
    address: str | None, on: str | None, zero_based: bool, count: int, as_json: bool
) -> None:
    """The switch pattern for an ADDRESS, or the address of a pattern."""
    setter = Setter(SetterKind.SWITCHES, switches=count, zero_based=zero_based)
    if (address is None) == (on is None):
        raise FileError(
            "Give either an address from 1 to 512, or --on with the switches that are on."
        )
    if on is not None:
        pattern = tuple(
            sorted({_number(piece, "switch") for piece in on.split(",") if piece.strip()})
        )
        found = address_of(pattern, setter)
    else:
        found = _number(address or "", "address")
        pattern = switches_on(found, setter)
    if as_json:
        click.echo(json.dumps({"address": found, "on": list(pattern)}))
    else:
        drawn = " ".join(
            str(number) if number in pattern else "-" for number in range(1, count + 1)
        )
        say(f"address {found:03d}   on: {drawn}")


def _number(text: str, what: str) -> int:
    found = whole_number(text)
    if found is None or found > 999_999:
        raise FileError(f"“{text.strip()[:40]}” is not a {what} number. Use whole numbers.")
    return found
