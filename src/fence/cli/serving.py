"""Serving Fence for browsers."""

from __future__ import annotations

import signal
from collections.abc import Callable
from datetime import UTC
from pathlib import Path
from typing import Any

import click

from fence import demo
from fence.cli.common import database_option, default_database, say
from fence.core.words.errors import FenceError
from fence.core.words.record import Witness
from fence.disk import held
from fence.store.database import open_engine
from fence.store.keeping import DailyCopies
from fence.store.shows import ShowStore


def serving_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Where to listen, and on which database."""
    command = click.option(
        "--name", "names", multiple=True, help="A host name that browsers may call this Fence by (may be repeated)."
    )(command)
    command = click.option("--port", default=5080, show_default=True, type=click.IntRange(1, 65535))(command)
    command = click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")(command)
    return database_option(command)


@click.command(name="serve")
@serving_options
def serve_command(host: str, port: int, names: tuple[str, ...], db: Path | None) -> None:
    """Serve Fence for a browser."""
    path = db or default_database()
    with held(path):
        run_server(path, host, port, names)


@click.command(name="demo")
@serving_options
def demo_command(host: str, port: int, names: tuple[str, ...], db: Path | None) -> None:
    """Make the demo shows if they are missing, and serve them."""
    path = db or default_database("demo.db")
    with held(path):
        engine = open_engine(path)
        make_demo(ShowStore(engine))
        engine.dispose()
        run_server(path, host, port, names)


def make_demo(store: ShowStore) -> None:
    """Add the demo shows where the database lacks them: the plan, the same one a bad morning, and one being set."""
    names = {summary.name for summary in store.list_shows()}
    for show in (demo.clean_show(), demo.demo_show()):
        if show.name not in names:
            store.create(show, who="Fence demo")
    if demo.ON_SITE_NAME not in names:
        saved = store.create(demo.on_site_show(), who="Fence demo")
        for who, step in demo.on_site_steps():
            by = Witness(who, store.clock().replace(tzinfo=UTC))
            saved = store.save(saved, step(saved.show, by), who=who)


def run_server(path: Path, host: str, port: int, names: tuple[str, ...]) -> None:
    """Serve until stopped by Ctrl+C or SIGTERM; ``FenceError`` where the place cannot be listened on."""
    from fence.web import create_app
    from fence.web.serving import Server

    app = create_app(path, names=(host, *names))
    try:
        server = Server(app, host, port)
    except (OSError, ValueError, OverflowError) as error:
        reason = getattr(error, "strerror", None) or error
        raise FenceError(f"Port {port} on {host} cannot be listened on ({reason}): see --host and --port.") from None
    shown = f"[{host}]" if ":" in host else host
    say(f"Fence is at http://{shown}:{port} (stop with Ctrl+C). Data: {path}")
    if host in ("0.0.0.0", "::") and not names:
        say("Only this machine is answered so far: say with --name under which name or address others call it.")
    signal.signal(signal.SIGTERM, server.stop)
    try:
        with DailyCopies(path):
            server.run()
    finally:
        app.extensions["fence_pages"].store.engine.dispose()
