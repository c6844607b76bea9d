"""Opening the database file: pragmas, transactions, migrations on start."""

from __future__ import annotations

import logging
import os
import re
import sqlite3
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from threading import Lock
from typing import Any
from urllib.parse import quote
from weakref import WeakKeyDictionary

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from fence.core.model.errors import EditError, FenceError
from fence.store.errors import BUSY_SECONDS, DAMAGED, DatabaseFileError, StorageError, told
from fence.store.keeping import UPDATE, keep

MIGRATIONS = Path(__file__).parent / "migrations"
TOO_LARGE = "A number here is larger than any that Fence knows. Use whole numbers up to 15 digits."
log = logging.getLogger(__name__)


def newest_schema() -> str:
    """The number of the newest migration."""
    return max(path.stem[:4] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def open_engine(path: Path, *, create: bool = True) -> Engine:
    """An engine on the database file, brought to the newest migration.

    With ``create`` a missing file is made, readable by its owner only. WAL lets readers go on while
    someone saves; ``synchronous=FULL`` keeps every answered edit even if power fails. A file that
    cannot be written is opened for reading. Raises ``DatabaseFileError`` with a sentence for the
    person.
    """
    try:
        _check_place(path, create=create)
        read_only = not _can_write(path)
        engine = create_engine(f"sqlite:///{path}", creator=lambda: _connect(path, read_only))
        event.listen(engine, "begin", _on_begin)
        _bring_up(engine, path, read_only=read_only)
    except FenceError:
        raise
    except Exception as error:  # whatever a damaged file makes of SQLite, SQLAlchemy and Alembic
        log.info("%s cannot be opened: %s", path, type(error).__name__)
        raise DatabaseFileError(
            f"{path} cannot be opened as a Fence database: {_reason(error)}."
        ) from error
    return engine


def _reason(error: Exception) -> str:
    """Why, without a word of what stands in the file."""
    if isinstance(error, OSError) and error.strerror:
        return error.strerror
    if isinstance(error, NotOurs):
        return str(error)
    origin = getattr(error, "orig", error)
    code = getattr(origin, "sqlite_errorcode", sqlite3.SQLITE_CORRUPT) & 0xFF
    return REASONS.get(code, "it is damaged")


REASONS = {
    sqlite3.SQLITE_NOTADB: "it is not a database",
    sqlite3.SQLITE_CANTOPEN: "unable to open the database file",
    sqlite3.SQLITE_BUSY: "another program holds it",
    sqlite3.SQLITE_LOCKED: "another program holds it",
    sqlite3.SQLITE_FULL: "the disk is full",
    sqlite3.SQLITE_IOERR: "the disk does not give or take what is asked of it",
    sqlite3.SQLITE_READONLY: "it can only be read",
    sqlite3.SQLITE_PERM: "it may not be opened",
    sqlite3.SQLITE_AUTH: "it may not be opened",
}


class NotOurs(sqlite3.DatabaseError):
    """A database that Fence did not make."""


def _check_place(path: Path, *, create: bool) -> None:
    """Make the file where it is missing and wanted; refuse what is no regular file."""
    try:
        mode = path.stat().st_mode
    except FileNotFoundError:
        if not create:
            raise DatabaseFileError(f"There is no database at {path}.") from None
        path.parent.mkdir(parents=True, exist_ok=True)
        os.close(os.open(path, os.O_RDWR | os.O_CREAT, 0o600))
        return
    if not stat.S_ISREG(mode):
        raise DatabaseFileError(f"{path} is not a file that could be a database.")


def _uri(path: Path, options: str) -> str:
    return f"file:{quote(str(path.absolute()))}?{options}"


def _can_write(path: Path) -> bool:
    """Whether the file takes writes. A lock that another program holds does not speak against
    it."""
    connection = sqlite3.connect(_uri(path, "mode=rw"), uri=True, timeout=0, isolation_level=None)
    try:
        connection.execute("BEGIN IMMEDIATE")
        connection.execute("ROLLBACK")
    except sqlite3.OperationalError as error:
        code = error.sqlite_errorcode & 0xFF
        if code in (
            sqlite3.SQLITE_READONLY,
            sqlite3.SQLITE_CANTOPEN,
            sqlite3.SQLITE_FULL,
            sqlite3.SQLITE_IOERR,
        ):
            return False
        if code not in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            raise
    finally:
        connection.close()
    return True


def _connect(path: Path, read_only: bool) -> sqlite3.Connection:
    """A connection whose transactions are begun by ``_on_begin`` and not by the driver."""
    if read_only:
        return connect_reading(path)
    connection = _opened(path, "mode=rw")
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL"):
        connection.execute(f"PRAGMA {pragma}")
    return connection


def _opened(path: Path, options: str) -> sqlite3.Connection:
    return sqlite3.connect(
        _uri(path, options),
        uri=True,
        timeout=BUSY_SECONDS,
        isolation_level=None,
        check_same_thread=False,
    )


def connect_reading(path: Path) -> sqlite3.Connection:
    """A connection that only reads, also where there is no place for SQLite's own files beside the
    database.

    There it reads the file only if it is told that nobody writes it, which holds as long as no log
    of writes is there.
    """
    connection = _opened(path, "mode=ro")
    try:
        connection.execute("SELECT count(*) FROM sqlite_master")
    except sqlite3.OperationalError:
        wal = path.with_name(path.name + "-wal")
        if wal.exists() and wal.stat().st_size:
            raise
        connection.close()
        connection = _opened(path, "mode=ro&immutable=1")
    return connection


def _on_begin(connection: Any) -> None:
    writing = connection.get_execution_options().get("fence_write", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")


def _bring_up(engine: Engine, path: Path, *, read_only: bool) -> None:
    """Migrate the file where it is of an older schema, a copy of it kept; refuse one of a newer."""
    found, newest = _schema_of(engine), newest_schema()
    if found == newest:
        return
    if found is not None:
        _check_not_newer(found, path)
    if read_only:
        raise DatabaseFileError(
            f"{path} can only be read and is of an older Fence: make it writable once, and it is "
            "brought up to date."
        )
    if found is not None:
        keep(path, UPDATE, datetime.now())
    migrate(engine, "head")


def _schema_of(engine: Engine) -> str | None:
    """The number of its schema, None for a database without tables; ``NotOurs`` where it is another
    program's."""
    with engine.connect() as connection:
        found = connection.exec_driver_sql("SELECT type, name FROM sqlite_master").all()
        if any(kind in ("trigger", "view") for kind, _ in found):
            raise NotOurs(
                "it holds code that Fence did not put there; restored as a backup only its rows "
                "are taken"
            )
        tables = {name for kind, name in found if kind == "table"}
        if "alembic_version" in tables:
            return _checked(
                connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
            )
    if tables:
        raise NotOurs("it holds tables of another program")
    return None


def schema_in(connection: sqlite3.Connection, path: Path) -> str:
    """The number of the schema of a backup; ``DatabaseFileError`` for one of a newer Fence."""
    (found,) = connection.execute("SELECT version_num FROM alembic_version").fetchone() or (None,)
    _check_not_newer(schema := _checked(found), path)
    return schema


def _checked(found: object) -> str:
    if not isinstance(found, str) or not re.fullmatch(r"[0-9]{4}", found):
        raise NotOurs("it does not say which Fence made it")
    return found


def _check_not_newer(found: str, path: Path) -> None:
    if found > (newest := newest_schema()):
        raise DatabaseFileError(
            f"{path} was made by a newer Fence (schema {found}, this one knows {newest}): use "
            "that one."
        )


def make_at(path: Path, schema: str) -> None:
    """Make the tables of a schema in an empty file."""
    engine = create_engine(f"sqlite:///{path}", creator=lambda: _connect(path, read_only=False))
    event.listen(engine, "begin", _on_begin)
    try:
        migrate(engine, schema)
    finally:
        engine.dispose()


def migrate(engine: Engine, target: str) -> None:
    """Run the migrations up to ``target``. Alembic is loaded only here: most starts have nothing to
    migrate."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    with engine.execution_options(fence_write=True).connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, target)
        connection.commit()


@contextmanager
def reading(engine: Engine) -> Iterator[Session]:
    """A session that only reads, on one consistent moment of the database. Raises
    ``StorageError``."""
    try:
        with Session(engine) as session:
            yield session
    except FenceError:
        raise
    except DBAPIError as error:
        raise told(error) from error
    except OverflowError:
        raise EditError(TOO_LARGE) from None
    except (ValueError, TypeError, LookupError, ArithmeticError) as error:
        log.info("What stands in the database cannot be read: %s", type(error).__name__)
        raise StorageError(DAMAGED) from error


_TURNS: WeakKeyDictionary[Engine, Lock] = WeakKeyDictionary()
"""Whose turn it is to write, for each open database."""


@contextmanager
def writing(engine: Engine) -> Iterator[Session]:
    """A session whose transaction takes the write lock at once, and commits at the end or not at
    all.

    Writers of this process take turns before they ask for the file's lock: SQLite lets them race
    for it, so that one of many could be left waiting too long. Raises ``StorageError`` where the
    lock is held too long, or the file cannot be written.
    """
    try:
        with (
            _TURNS.setdefault(engine, Lock()),
            Session(engine.execution_options(fence_write=True)) as session,
            session.begin(),
        ):
            yield session
    except DBAPIError as error:
        raise told(error) from error
    except OverflowError:
        raise EditError(TOO_LARGE) from None
    except UnicodeError as error:
        raise StorageError(DAMAGED) from error
