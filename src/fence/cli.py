"""The ``fence`` command. Exit codes: 0 well, 1 stops were found, 2 the input cannot be used."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import wraps
from pathlib import Path
from typing import Any

import click
from platformdirs import user_data_path

from fence import __version__, demo
from fence.core.address import Address
from fence.core.checks import Finding, Severity, check, findings_of
from fence.core.errors import FenceError
from fence.core.layout import Layout, School, lay_out, mend_show
from fence.core.mends import mends_for
from fence.core.profile import Setter, SetterKind
from fence.core.setter import address_of, switches_on
from fence.core.show import Show
from fence.core.space import use_of
from fence.formats.errors import MOST_BYTES, FileError
from fence.formats.files import read_rig, write_rig
from fence.formats.rig_csv import write_rig_csv
from fence.formats.show_json import write_show_json
from fence.library import shipped_profiles
from fence.store.database import open_engine
from fence.store.shows import NoSuchShow, ShowStore, backup, restore

WHO = "fence command"
MOST_PRINTED = 500


def default_database(name: str = "fence.db") -> Path:
    """Where the database is kept when nobody says otherwise; ``FENCE_DB`` says otherwise."""
    return Path(os.environ.get("FENCE_DB") or user_data_path("fence", appauthor=False) / name)


def one_line_errors(command: Callable[..., Any]) -> Callable[..., Any]:
    """Print an error for people as one line and exit with 2."""

    @wraps(command)
    def wrapped(*args: Any, **options: Any) -> Any:
        try:
            return command(*args, **options)
        except FenceError as error:
            click.echo(" ".join(str(error).split()), err=True)
            raise SystemExit(2) from None

    return wrapped


def database_option(command: Callable[..., Any]) -> Callable[..., Any]:
    """The ``--db`` option."""
    return click.option(
        "--db", "db", type=click.Path(path_type=Path, dir_okay=False), help="Database file. Default: your data folder."
    )(command)


json_option = click.option("--json", "as_json", is_flag=True, help="Print JSON for other programs.")
out_option = click.option("-o", "out", type=click.Path(path_type=Path, dir_okay=False), help="Write the result here.")
file_argument = click.argument("file", type=click.Path(path_type=Path))


def read_file(path: Path) -> Show:
    """The rig in a file; ``FileError`` starts with the file's name."""
    try:
        with path.open("rb") as stream:
            data = stream.read(MOST_BYTES + 1)
        return read_rig(path.name, data, known=shipped_profiles())
    except OSError as error:
        raise FileError(f"{path}: cannot be read ({error.strerror}). Accepted: a .csv or .json file.") from None
    except FenceError as error:
        raise FileError(f"{path.name}: {error}") from None


def write_file(path: Path, text: str) -> None:
    """Write text as UTF-8 with the line ends it has; ``FileError`` if the place cannot be written."""
    try:
        path.write_text(text, encoding="utf-8", newline="")
    except OSError as error:
        raise FileError(f"{path}: cannot be written ({error.strerror}).") from None


def open_store(db: Path | None) -> ShowStore:
    """The store on the database that the person named, or on the default one."""
    return ShowStore(open_engine(db or default_database()))


@click.group()
@click.version_option(__version__, prog_name="fence")
def main() -> None:
    """Plan DMX addresses, find the clashes, take the mend."""


# ---- serving


@main.command()
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")
@click.option("--port", default=5080, show_default=True, type=click.IntRange(1, 65535))
@database_option
@one_line_errors
def serve(host: str, port: int, db: Path | None) -> None:
    """Serve Fence for a browser."""
    run_server(db or default_database(), host, port)


@main.command(name="demo")
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")
@click.option("--port", default=5080, show_default=True, type=click.IntRange(1, 65535))
@database_option
@one_line_errors
def demo_command(host: str, port: int, db: Path | None) -> None:
    """Make the demo shows if they are missing, and serve them."""
    path = db or default_database("demo.db")
    make_demo(ShowStore(open_engine(path)))
    run_server(path, host, port)


def make_demo(store: ShowStore) -> None:
    """Add the two demo shows where the database lacks them."""
    names = {summary.name for summary in store.list_shows()}
    for show in (demo.clean_show(), demo.demo_show()):
        if show.name not in names:
            store.create(show, who="Fence demo")


def run_server(path: Path, host: str, port: int) -> None:
    """Serve with waitress until stopped; ``FenceError`` if the port is taken."""
    from waitress import create_server

    from fence.web import create_app

    app = create_app(path)
    try:
        server = create_server(app, host=host, port=port, threads=8)
    except OSError as error:
        raise FenceError(
            f"Port {port} on {host} cannot be used ({error.strerror}): choose another with --port."
        ) from None
    shown = f"[{host}]" if ":" in host else host
    click.echo(f"Fence is at http://{shown}:{port} (stop with Ctrl+C). Data: {path}")
    server.run()


# ---- computing on files


@main.command(name="check")
@file_argument
@json_option
@one_line_errors
def check_command(file: Path, as_json: bool) -> None:
    """Check a rig in a .csv or .json FILE. Exit 1 if there are stops."""
    show = read_file(file)
    stops = print_findings_json(show) if as_json else print_findings(show)
    raise SystemExit(1 if stops else 0)


def print_findings_json(show: Show) -> int:
    """Print findings one by one, so that a rig with very many needs no memory for them; gives the stops."""
    stops = 0
    click.echo('{"findings":[', nl=False)
    for place, finding in enumerate(check(show)):
        stops += finding.severity is Severity.STOP
        click.echo(("," if place else "") + json.dumps(finding_data(show, finding), ensure_ascii=False), nl=False)
    universes = json.dumps(list(universe_data(show)))
    click.echo(f'],"universes":{universes}}}')
    return stops


def finding_data(show: Show, finding: Finding) -> dict[str, Any]:
    """A finding as other programs read it."""
    return {
        "rule": finding.rule,
        "severity": str(finding.severity),
        "universe": finding.universe,
        "first": finding.first,
        "last": finding.last,
        "fixtures": [show.fixture(fixture_id).label for fixture_id in finding.fixtures],
        "message": finding.message,
        "mends": [mend.text for mend in mends_for(show, finding)],
    }


def universe_data(show: Show) -> Iterator[dict[str, Any]]:
    """How full each universe is, as other programs read it."""
    for universe in show.universes:
        use = use_of(show, universe.number)
        gap = {"first": use.largest_gap.first, "length": use.largest_gap.length} if use.largest_gap else None
        yield {"number": universe.number, "used": use.used, "free": use.free, "largest_gap": gap}


def print_findings(show: Show) -> int:
    """Print findings for people, worst first; gives the stops."""
    found = findings_of(show)
    for finding in found[:MOST_PRINTED]:
        place = f"U{finding.universe} " if finding.universe else ""
        slots = f"{finding.first}-{finding.last} " if finding.first else ""
        click.echo(f"{finding.severity}: {place}{slots}{finding.rule}: {finding.message}")
        for mend in mends_for(show, finding)[:3]:
            click.echo(f"    {mend.text}")
    if len(found) > MOST_PRINTED:
        click.echo(f"… and {len(found) - MOST_PRINTED} more")
    for use in (use_of(show, universe.number) for universe in show.universes):
        largest = f", largest gap {use.largest_gap.length} at {use.largest_gap.first}" if use.largest_gap else ""
        click.echo(f"U{use.universe}: {use.used} of 512 taken, {use.free} free{largest}")
    stops = sum(finding.severity is Severity.STOP for finding in found)
    click.echo(f"{stops} stops in {len(found)} findings, {len(show.fixtures)} fixtures.")
    return stops


@main.command()
@file_argument
@json_option
@out_option
@one_line_errors
def mend(file: Path, as_json: bool, out: Path | None) -> None:
    """Compute the repair of the rig in FILE that moves few fixtures."""
    show = read_file(file)
    repair = mend_show(show)
    if out:
        write_file(out, write_rig(out.name, repair.show))
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
        click.echo(json.dumps({"moves": moves, "kept": repair.kept, "unplaced": labels}, ensure_ascii=False))
        return
    for move in repair.moves:
        click.echo(f"{show.fixture(move.fixture).label}: {move.before} -> {move.after}")
    click.echo(f"{len(repair.moves)} moves, {repair.kept} fixtures stay, {len(labels)} without a place.")
    if repair.moves and repair.proven:
        click.echo("Proven: no repair moves less.")
    for label in labels:
        click.echo(f"No gap for {label}.")


def _place_data(address: Address) -> dict[str, int]:
    return {"universe": address.universe, "address": address.slot}


@main.command()
@file_argument
@click.option(
    "--school", required=True, type=click.Choice([str(school) for school in School if school is not School.SHARED])
)
@click.option("--page", type=int, help="Slots of a page; needed with paged.")
@click.option("--round", "round_to", type=int, help="Step of the round starts; needed with round.")
@click.option("--spare", type=int, default=0, help="Slots left free after each, with spaced.")
@click.option("--universes", type=int, help="Universes that may be used.")
@json_option
@out_option
@one_line_errors
def layout(
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
        raise FileError("A step of 0 is not possible: accepted are 1 to 512.")
    show = read_file(file)
    placement = lay_out(show, wanted)
    if out:
        write_file(out, write_rig(out.name, placement.show))
    unplaced = [show.fixture(fixture_id).label for fixture_id in placement.unplaced]
    placed = [{"fixture": show.fixture(owner).label, **_place_data(address)} for owner, _, address in placement.placed]
    if as_json:
        click.echo(json.dumps({"placed": placed, "unplaced": unplaced}, ensure_ascii=False))
        return
    for owner, _, address in placement.placed:
        click.echo(f"{address}  {show.fixture(owner).label}")
    for label in unplaced:
        click.echo(f"No place for {label}.")


@main.command()
@click.argument("address", required=False)
@click.option("--on", "on", help="Switches that are on, such as 2,3,5: gives the address.")
@click.option("--zero-based", is_flag=True, help="The switches show address - 1.")
@click.option("--switches", "count", default=9, show_default=True, type=click.IntRange(1, 16))
@json_option
@one_line_errors
def switches(address: str | None, on: str | None, zero_based: bool, count: int, as_json: bool) -> None:
    """The switch pattern for an ADDRESS, or the address of a pattern."""
    setter = Setter(SetterKind.SWITCHES, switches=count, zero_based=zero_based)
    if (address is None) == (on is None):
        raise FileError("Give either an address from 1 to 512, or --on with the switches that are on.")
    if on is not None:
        pattern = tuple(sorted({_number(piece, "switch") for piece in on.split(",") if piece.strip()}))
        found = address_of(pattern, setter)
    else:
        found = _number(address or "", "address")
        pattern = switches_on(found, setter)
    if as_json:
        click.echo(json.dumps({"address": found, "on": list(pattern)}))
    else:
        drawn = " ".join(str(number) if number in pattern else "-" for number in range(1, count + 1))
        click.echo(f"address {found:03d}   on: {drawn}")


def _number(text: str, what: str) -> int:
    tidy = text.strip()
    if not (tidy.isascii() and tidy.isdigit() and len(tidy) < 7):
        raise FileError(f"“{tidy[:40]}” is not a {what} number: accepted are whole numbers.")
    return int(tidy)


# ---- the database


@main.command()
@click.argument("show")
@click.option("--format", "kind", required=True, type=click.Choice(["csv", "json"]))
@click.option("-o", "out", required=True, type=click.Path(path_type=Path, dir_okay=False))
@database_option
@one_line_errors
def export(show: str, kind: str, out: Path, db: Path | None) -> None:
    """Write the SHOW of that name (or number) to a file."""
    saved = open_store(db).find(show)
    write_file(out, write_show_json(saved.show) if kind == "json" else write_rig_csv(saved.show))
    click.echo(f"{saved.show.name}: {len(saved.show.fixtures)} fixtures written to {out}")


@main.command(name="import")
@file_argument
@click.option("--show", "name", required=True, help="Name of the new show.")
@database_option
@one_line_errors
def import_command(file: Path, name: str, db: Path | None) -> None:
    """Save the rig in FILE as a new show. A file with any bad row is refused as a whole."""
    show = replace(read_file(file), name=name)
    store = open_store(db)
    if any(summary.name == name for summary in store.list_shows()):
        raise NoSuchShow(f"There is a show “{name}” already: choose another name.")
    saved = store.create(show, who=WHO)
    click.echo(f"{saved.show.name}: {len(saved.show.fixtures)} fixtures saved as show {saved.id}")


@main.command(name="backup")
@click.argument("out", type=click.Path(path_type=Path, dir_okay=False))
@database_option
@one_line_errors
def backup_command(out: Path, db: Path | None) -> None:
    """Write a copy of the whole database, also while Fence is running."""
    backup(db or default_database(), out)
    click.echo(f"Backup written to {out}")


@main.command(name="restore")
@click.argument("source", metavar="IN", type=click.Path(path_type=Path))
@database_option
@one_line_errors
def restore_command(source: Path, db: Path | None) -> None:
    """Put a backup in the place of the database. Stop Fence first."""
    path = db or default_database()
    kept = restore(source, path)
    click.echo(f"{path} restored." + (f" What was there is kept as {kept}" if kept else ""))


if __name__ == "__main__":
    main()
