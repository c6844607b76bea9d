"""Serving Fence for browsers."""

from __future__ import annotations

import gc
import os
import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC
from io import StringIO
from pathlib import Path
from threading import Thread
from typing import Any

import click
import segno
from flask import Flask

from fence import demo
from fence.cli.common import database_option, default_database, say
from fence.core.model.errors import FenceError
from fence.core.model.record import Witness
from fence.disk import held, is_held, read_file, write_text
from fence.store.database import open_engine
from fence.store.keeping import DailyCopies
from fence.store.people import People
from fence.store.shows import ShowStore, utc_now
from fence.wire.interfaces import interfaces

SELDOM = (20_000, 20, 50)
"""When garbage is collected: seldom, since a page waits for it, and shows are made of many small
things that stay."""


@dataclass(frozen=True)
class Place:
    """Where to listen, under which names, with which certificate and its key."""

    host: str
    port: int
    names: tuple[str, ...]
    certificate: Path | None
    key: Path | None

    def __post_init__(self) -> None:
        if (self.certificate is None) != (self.key is None):
            raise FenceError("A certificate and its key go together: give both --cert and --key.")


def serving_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Where to listen, and on which database."""
    file = click.Path(path_type=Path, dir_okay=False, exists=True)
    command = click.option("--key", type=file, help="The key of the certificate (PEM).")(command)
    command = click.option("--cert", type=file, help="Serve HTTPS with this certificate (PEM).")(
        command
    )
    command = click.option(
        "--name",
        "names",
        multiple=True,
        help="A host name that browsers may call this Fence by (may be repeated).",
    )(command)
    command = click.option(
        "--port", default=5080, show_default=True, type=click.IntRange(1, 65535)
    )(command)
    command = click.option(
        "--host",
        default="127.0.0.1",
        show_default=True,
        help="Address to listen on. With any but this machine's own everyone is asked to log in.",
    )(command)
    return database_option(command)


@click.command(name="serve")
@serving_options
def serve_command(
    host: str,
    port: int,
    names: tuple[str, ...],
    cert: Path | None,
    key: Path | None,
    db: Path | None,
) -> None:
    """Serve Fence for browsers: on this machine for one person, with --host for a crew that logs
    in."""
    place = Place(host, port, names, cert, key)
    path = db or default_database()
    with held(path):
        run_server(path, place)


@click.command(name="demo")
@serving_options
def demo_command(
    host: str,
    port: int,
    names: tuple[str, ...],
    cert: Path | None,
    key: Path | None,
    db: Path | None,
) -> None:
    """Make the demo shows if they are missing, and serve them."""
    place = Place(host, port, names, cert, key)
    path = db or default_database("demo.db")
    with held(path):
        engine = open_engine(path)
        make_demo(ShowStore(engine))
        engine.dispose()
        run_server(path, place, practise=demo.ON_SITE_NAME)


@click.command(name="owner")
@click.option(
    "--base", default=None, help="Where browsers find this Fence. Default: where it is served now."
)
@database_option
def owner_command(base: str | None, db: Path | None) -> None:
    """Print an invitation for an owner: for the first one, or for one who forgot the password."""
    path = db or default_database()
    engine = open_engine(path, create=False)
    code = People(engine, utc_now).invite_owner(hours=1)
    engine.dispose()
    base = base or served_at(path)
    if base is None:
        say(
            "Nobody serves this database now. Start it (fence serve --host …), then open its "
            "address with"
        )
        say(f"/join/{code} behind it, within an hour, and choose a name and a password.")
        return
    say(f"Open {base.rstrip('/')}/join/{code} within an hour and choose a name and a password.")


def _note_of(path: Path) -> Path:
    """Where a server notes its address, for other commands on the same database."""
    target = Path(os.path.realpath(path))
    return target.with_name(f"{target.name}.served")


def served_at(path: Path) -> str | None:
    """Where the server of a database is found; None where nobody serves it, or that is not
    known."""
    if not is_held(path):
        return None
    try:
        found = read_file(_note_of(path), 1000).decode("utf-8", "replace").strip()
    except FenceError:
        return None
    return found if found.startswith(("http://", "https://")) else None


@contextmanager
def noting(path: Path, base: str) -> Iterator[None]:
    """Note where a database is served for as long as it is; where that cannot be written it is not
    known."""
    note = _note_of(path)
    with suppress(FenceError):
        write_text(note, f"{base}\n")
    try:
        yield
    finally:
        with suppress(OSError):
            note.unlink(missing_ok=True)


def make_demo(store: ShowStore) -> None:
    """Add the demo shows where the database lacks them: the plan, the same one a bad morning, and
    one being set."""
    names = {summary.name for summary in store.list_shows()}
    for show in (demo.clean_show(), demo.demo_show()):
        if show.name not in names:
            store.create(show, who="Fence demo")
    if demo.ON_SITE_NAME not in names:
        saved = store.create(demo.on_site_show(), who="Fence demo")
        for who, origin, step in demo.on_site_steps():
            by = Witness(who, store.clock().replace(tzinfo=UTC))
            saved = store.save(saved, step(saved.show, by), who=who, origin=origin)


def run_server(path: Path, place: Place, *, practise: str = "") -> None:
    """Serve until stopped by Ctrl+C or SIGTERM; ``FenceError`` where the place cannot be listened
    on.

    Beside it the practice rig of a show is started, where one is named.
    """
    from fence.web import create_app
    from fence.web.serving import Server

    reached = addresses_of(place.host)
    secure = place.certificate is not None
    app = create_app(path, names=(place.host, *reached, *place.names), secure=secure)
    try:
        server = Server(app, place.host, place.port, certificate=place.certificate, key=place.key)
    except (OSError, ValueError, OverflowError) as error:
        reason = getattr(error, "strerror", None) or error
        told = (
            f"Port {place.port} on {place.host} cannot be listened on ({reason}): see --host "
            "and --port."
        )
        raise FenceError(told) from None
    bases = [base_of(name, server.port, secure=secure) for name in (*place.names, *reached)] or [
        base_of(place.host, server.port, secure=secure)
    ]
    app.config["BASES"] = tuple(bases)
    for ending in (signal.SIGTERM, signal.SIGINT):  # before anybody is told where it is
        signal.signal(ending, server.stop)
    tell_where(app, bases, path)
    if practise:
        Thread(target=start_practice, args=(app, practise), daemon=True).start()
    try:
        gc.collect()
        # what was loaded stays, so that no page waits until all of it was looked through again
        gc.freeze()
        gc.set_threshold(*SELDOM)
        with DailyCopies(path), noting(path, bases[0]):
            server.run()
    finally:
        app.extensions["fence_sender"].close()
        app.extensions["fence_rigs"].end()
        app.extensions["fence_hunts"].end()
        app.extensions["fence_pages"].store.engine.dispose()
    if server.stuck:  # its thread would be waited for until the end of days
        say(f"{server.stuck} requests did not come to an end and were given up.")
        sys.stdout.flush()
        os._exit(0)


def start_practice(app: Flask, name: str) -> None:
    """Start the practice rig of a show, so that Prove works out of the box; without it, it starts
    when it is needed."""
    with suppress(FenceError, OSError):
        app.extensions["fence_rigs"].start(app.extensions["fence_pages"].store.find(name))


def addresses_of(host: str) -> list[str]:
    """Where others find this machine when it listens there: its addresses in the network, where
    that means all."""
    if host not in ("0.0.0.0", "::", ""):
        return [host]
    return [str(one.ip) for one in interfaces() if not one.ip.is_loopback]


def base_of(name: str, port: int, *, secure: bool) -> str:
    """The address that browsers are given."""
    shown = f"[{name}]" if ":" in name else name
    return f"{'https' if secure else 'http'}://{shown}:{port}"


def tell_where(app: Flask, bases: list[str], path: Path) -> None:
    """The start lines: where Fence is, as text, and for others in the network as a code for their
    cameras."""
    say(f"Fence is at {' or '.join(bases)} (stop with Ctrl+C). Data: {path}")
    if not app.config["GUARDED"]:
        return
    people: People = app.extensions["fence_pages"].people
    first = bases[0]
    if people.owned():
        say("Everyone is asked to log in. The owner invites, on the page People.")
    else:
        first = f"{bases[0]}/join/{people.invite_owner()}"
        say(
            f"Nobody owns this Fence yet. Open {first} within a day, and choose a name and a "
            "password."
        )
    if not app.config["SESSION_COOKIE_SECURE"]:
        say(
            "Not encrypted: whoever is on this network can read along. --cert and --key make it "
            "HTTPS."
        )
    click.echo(as_picture(first))


def as_picture(address: str) -> str:
    """An address as a code for cameras, in letters for a terminal; empty where the terminal cannot
    show it."""
    stream = StringIO()
    segno.make(address, error="m").terminal(stream, compact=True)
    picture = stream.getvalue()
    encoding = sys.stdout.encoding or "ascii"
    return picture if picture.encode(encoding, "replace").decode(encoding) == picture else ""
