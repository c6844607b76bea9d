"""What was published stays as it is: migrations, and databases of every version that ever was."""

from __future__ import annotations

import ast
import sqlite3
from contextlib import closing
from hashlib import sha256
from pathlib import Path

import pytest

from fence.store import database
from fence.store.backups import restore
from fence.store.database import MIGRATIONS, make_at, newest_schema, open_engine
from fence.store.shows import ShowStore

PUBLISHED = MIGRATIONS / "published.txt"
VERSIONS = sorted(path.stem for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def digest_of(version: str) -> str:
    """What a migration does, whatever its lines look like."""
    tree = ast.parse((MIGRATIONS / "versions" / f"{version}.py").read_text(encoding="utf-8"))
    tree.body = tree.body[1:]  # its words may be bettered
    return sha256(ast.unparse(tree).encode()).hexdigest()


def test_published_migrations_never_change() -> None:
    """A database somewhere has run it as it was. A new one is entered here with its digest once,
    and for good."""
    entered = dict(line.split() for line in PUBLISHED.read_text(encoding="utf-8").splitlines())
    assert {version: digest_of(version) for version in VERSIONS} == entered


SCHEMAS = [version[:4] for version in VERSIONS]
CHANGED = [schema for schema in SCHEMAS if "0011" <= schema < "0016"]
"""Schemas that had no waivers where the eleventh was run before it was changed."""


@pytest.mark.parametrize(
    ("schema", "between"),
    [*((schema, False) for schema in SCHEMAS), *((schema, True) for schema in CHANGED)],
)
def test_every_schema_is_brought_up(tmp_path: Path, schema: str, between: bool) -> None:
    """A show of each schema opens with the newest, also one that ran the eleventh before it was
    changed; and so does it as a backup."""
    path = tmp_path / "old.db"
    database._check_place(path, create=True)
    make_at(path, schema)
    with closing(sqlite3.connect(path)) as connection:
        columns = {name for _, name, *_ in connection.execute("PRAGMA table_info(shows)")}
        if between:
            assert "waivers" in columns
            connection.execute("ALTER TABLE shows DROP COLUMN waivers")
        values = {
            "id": 7,
            "name": "Old",
            "revision": 5,
            "desk_name": "",
            "created_at": "2026-01-01 00:00:00",
            "changed_at": "2026-01-01 00:00:00",
            "key": "k7",
            "notes": "",
            "desk_universes": 8,
            "note": "",
            "desk": "",
        }
        required = [
            name
            for _, name, _, required, default, key in connection.execute("PRAGMA table_info(shows)")
            if required and default is None and not key
        ]
        named = {name: values.get(name, 1) for name in ("id", *required)}
        marks = ", ".join("?" * len(named))
        connection.execute(
            f"INSERT INTO shows ({', '.join(named)}) VALUES ({marks})", list(named.values())
        )
        connection.commit()
    backup = tmp_path / "backup.db"
    backup.write_bytes(path.read_bytes())
    for opened in (path, tmp_path / "restored.db"):
        if opened != path:
            restore(backup, opened)
        store = ShowStore(open_engine(opened))
        assert [(one.name, one.revision) for one in store.list_shows()] == [("Old", 5)]
        assert store.get(7).show.waivers == ()
        with closing(sqlite3.connect(opened)) as connection:
            assert connection.execute("SELECT version_num FROM alembic_version").fetchone() == (
                newest_schema(),
            )
        store.engine.dispose()
