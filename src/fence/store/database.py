"""Opening the database file: pragmas, transactions, migrations on start."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

from fence.core.errors import FenceError

BUSY_SECONDS = 15
"""How long a writer waits for another before it gives up."""


class DatabaseFileError(FenceError):
    """The database file cannot be opened or is no Fence database."""


def open_engine(path: Path) -> Engine:
    """An engine on the database file, made if missing, brought to the newest migration.

    WAL lets readers go on while someone saves; ``synchronous=FULL`` keeps every answered edit even if power fails.
    Raises ``DatabaseFileError`` with a sentence for the person.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_SECONDS})
        event.listen(engine, "connect", _on_connect)
        event.listen(engine, "begin", _on_begin)
        _migrate(engine)
    except (OSError, DatabaseError) as error:
        raise DatabaseFileError(f"{path} cannot be opened as a Fence database: {_reason(error)}.") from error
    return engine


def _reason(error: Exception) -> str:
    return str(getattr(error, "orig", error)).split("\n")[0]


def _on_connect(connection: sqlite3.Connection, _record: Any) -> None:
    connection.isolation_level = None  # transactions are begun below, not by the driver
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL"):
        connection.execute(f"PRAGMA {pragma}")


def _on_begin(connection: Any) -> None:
    writing = connection.get_execution_options().get("fence_write", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")


def _migrate(engine: Engine) -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    with engine.execution_options(fence_write=True).connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()


@contextmanager
def reading(engine: Engine) -> Iterator[Session]:
    """A session that only reads, on one consistent moment of the database."""
    with Session(engine) as session:
        yield session


@contextmanager
def writing(engine: Engine) -> Iterator[Session]:
    """A session whose transaction takes the write lock at once, and commits at the end or not at all."""
    with Session(engine.execution_options(fence_write=True)) as session, session.begin():
        yield session
