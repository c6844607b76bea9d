"""A database from an earlier version is brought up to date with all that is in it."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine

import fence.store
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.store.database import open_engine
from fence.store.shows import ShowStore

ROWS = """
INSERT INTO shows VALUES
  (1, 'Old', 5, 'Shed desk', 8, 3, '', '2026-01-01 00:00:00', '2026-01-01 00:00:00', NULL);
INSERT INTO universes VALUES (1, 1, 'Hall', '[512]');
INSERT INTO fixtures
  (show_id, id, place, number, label, profile, mode, position, pinned, share, note)
  VALUES (1, 1, 0, 7, 'Lamp', 'gone', 'm', '', 0, '', '');
INSERT INTO patches VALUES (1, 1, 0, 1, 101);
"""


def test_the_first_version_upgrades_with_its_shows(tmp_path: Path) -> None:
    """Shows, fixtures and patches of the first version are there after the upgrade; new limits are
    unset."""
    path = tmp_path / "old.db"
    engine = create_engine(f"sqlite:///{path}")
    config = Config()
    config.set_main_option("script_location", str(Path(fence.store.__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0001")
    engine.dispose()
    raw = sqlite3.connect(path)
    raw.executescript(ROWS)
    raw.close()
    store = ShowStore(open_engine(path))
    saved = store.get(1)
    assert (saved.revision, saved.show.desk) == (5, Desk("Shed desk", 8))
    assert saved.show.fixtures == (Fixture(1, "Lamp", "gone", "m", 7, patch=(Patch(1, 101),)),)
    assert saved.show.universes[0].reserved == (512,)
    store.engine.dispose()
