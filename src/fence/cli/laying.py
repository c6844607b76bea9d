"""Commands that give addresses to the rig in a file: the repair, and laying out."""

from __future__ import annotations

import json
from pathlib import Path

import click

from fence.cli.common import file_argument, json_option, out_option, rig_of, say
from fence.core.addressing.repair import repair_rig
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.model.address import Address
from fence.core.model.text import counted
from fence.disk import write_bytes
from fence.formats.errors import FileError
from fence.formats.files import write_rig


@click.command(name="mend")
@file_argument
@json_option
@out_option
def mend_command(file: Path, as_json: bool, out: Path | None) -> None:
    """Compute the repair of the rig in FILE that moves few fixtures."""
    show = rig_of(file)
    repair = repair_rig(show)
    if out:
        write_bytes(out, write_rig(out.name, repair.show))
    labels = [show.fixture(fixture_id).label for fixture_id in repair.unplaced]
    if as_json:
        moves = [
            {
                "fixture": show.fixture(move.fixture).label,
                "from": _place_data(move.before),
                "to": _place_data(move.after),
            }
            for move in repair.moves
        ]
        click.echo(
            json.dumps(
                {"moves": moves, "kept": repair.kept, "unplaced": labels}, ensure_ascii=False
            )
        )
        return
    for move in repair.moves:
        say(f"{show.fixture(move.fixture).label}: {move.before} -> {move.after}")
    stay = counted(repair.kept, "fixture stays", "fixtures stay")
    say(f"{counted(len(repair.moves), 'move')}, {stay}, {len(labels)} without a place.")
    if repair.moves and repair.proven:
        say("Proven: no repair moves less.")
    for label in labels:
        say(f"No gap for {label}.")


def _place_data(address: Address) -> dict[str, int]:
    return {"universe": address.universe, "address": address.slot}


@click.command(name="layout")
@file_argument
@click.option(
    "--school",
    required=True,
    type=click.Choice([str(school) for school in School if school is not School.SHARED]),
)
@click.option("--page", type=int, help="Slots of a page; needed with paged.")
@click.option("--round", "round_to", type=int, help="Step of the round starts; needed with round.")
@click.option("--spare", type=int, default=0, help="Slots left free after each, with spaced.")
@click.option("--universes", type=int, help="Universes that may be used.")
@json_option
@out_option
def layout_command(
    file: Path,
    school: str,
    page: int | None,
    round_to: int | None,
    spare: int,
    universes: int | None,
    as_json: bool,
    out: Path | None,
) -> None:
    """Address the fixtures in FILE, in file order, by one school."""
    chosen = School(school)
    if chosen is School.PAGED and page is None:
        raise FileError("The paged school needs --page with the slots of a page.")
    if chosen is School.ROUND and round_to is None:
        raise FileError("The round school needs --round with the step of the round starts.")
    wanted = Layout(chosen, page=page or 1, round=round_to or 1, spare=spare, universes=universes)
    if page == 0 or round_to == 0:
        raise FileError("A step of 0 is not possible. Use 1 to 512.")
    show = rig_of(file)
    placement = lay_out(show, wanted)
    if out:
        write_bytes(out, write_rig(out.name, placement.show))
    unplaced = [show.fixture(fixture_id).label for fixture_id in placement.unplaced]
    placed = [
        {"fixture": show.fixture(owner).label, **_place_data(address)}
        for owner, _, address in placement.placed
    ]
    if as_json:
        click.echo(json.dumps({"placed": placed, "unplaced": unplaced}, ensure_ascii=False))
        return
    for owner, _, address in placement.placed:
        say(f"{address}  {show.fixture(owner).label}")
    for label in unplaced:
        say(f"No place for {label}.")
