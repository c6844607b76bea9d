"""Nothing on disk is lost: backups, restores and results are written beside, and only where they
belong."""

from __future__ import annotations

import os
import sqlite3
import stat
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path
from random import Random

import pytest
from flask import Flask

from fence.core.model.errors import FenceError
from fence.disk import held, is_held
from fence.store.backups import is_fence_database, restore, tables_of
from fence.web import create_app
from tests.examples import DEEP
from tests.faults.conftest import Served, as_anybody, fence, free_port, on_a_full_disk, one_line

RIG = "label,channels,universe,address\nA,5,1,10\nB,5,1,13\n" + "".join(
    f"C{n},5,2,{n}\n" for n in range(1, 400)
)


def test_a_backup_never_writes_over_the_database_itself(
    database: Path, tmp_path: Path, serve: Callable[..., Served]
) -> None:
    """Also while serving, by another name or through a link; afterwards the database is whole."""
    served = serve(database)
    (tmp_path / "link.db").symlink_to(database)
    os.link(database, tmp_path / "hard.db")
    for target in (
        database,
        tmp_path / "link.db",
        tmp_path / "hard.db",
        f"{database}-wal",
        f"{database}.key",
    ):
        one_line(fence("backup", target, "--db", database), "the database itself")
    status, page = served.client().get("/shows/2/address")
    assert (status, "Glasshouse" in page) == (200, True)
    served.stop()
    assert is_fence_database(database, whole=True)


def test_a_backup_replaces_only_backups(database: Path, tmp_path: Path) -> None:
    """Another file, a folder or a device stays as it is; an older backup is replaced; ``--force``
    takes any file."""
    letter = tmp_path / "letter.txt"
    letter.write_text("dear all")
    one_line(fence("backup", letter, "--db", database), "not a Fence database: --force")
    assert letter.read_text() == "dear all"
    one_line(fence("backup", "/dev/null", "--db", database), "not a regular file")
    assert stat.S_ISCHR(os.stat("/dev/null").st_mode)
    os.mkfifo(tmp_path / "pipe")
    one_line(fence("backup", tmp_path / "pipe", "--db", database), "not a regular file")
    for words in (("copy.db",), ("copy.db",), ("letter.txt", "--force")):
        assert fence("backup", tmp_path / words[0], *words[1:], "--db", database).returncode == 0
        assert is_fence_database(tmp_path / words[0], whole=True)
        assert not list(tmp_path.glob(".*partial"))
    assert stat.S_IMODE((tmp_path / "copy.db").stat().st_mode) == 0o600


@pytest.mark.parametrize(
    "words", [("mend",), ("layout", "--school", "back-to-back")], ids=["mend", "layout"]
)
def test_a_full_disk_leaves_the_input_as_it_was(tmp_path: Path, words: tuple[str, ...]) -> None:
    """A result written over its own input on a disk without room: told in one line, and the input
    is whole."""
    rig = tmp_path / "rig.csv"
    rig.write_text(RIG)
    done = fence(*words, rig, "-o", rig, preexec_fn=on_a_full_disk(100))
    one_line(done, "cannot be written")
    assert rig.read_text() == RIG
    assert list(tmp_path.iterdir()) == [rig]


def test_a_full_disk_in_a_backup_and_an_export(database: Path, tmp_path: Path) -> None:
    """The copies that were there before are still there."""
    for name, words in (
        ("b.db", ("backup",)),
        ("e.json", ("export", "2", "--format", "json", "-o")),
    ):
        before = tmp_path / name
        assert fence(*words, before, "--db", database).returncode == 0
        held = before.read_bytes()
        one_line(
            fence(*words, before, "--db", database, preexec_fn=on_a_full_disk(4096)), "written"
        )
        assert before.read_bytes() == held


def test_a_link_stays_a_link_and_a_mode_stays(tmp_path: Path) -> None:
    """Writing through a link writes what it points at; who may read the file does not change."""
    rig, link = tmp_path / "rig.csv", tmp_path / "link.csv"
    rig.write_text(RIG)
    rig.chmod(0o640)
    link.symlink_to(rig)
    assert fence("mend", rig, "-o", link).returncode == 0
    assert link.is_symlink()
    assert (stat.S_IMODE(rig.stat().st_mode), rig.read_text() == RIG) == (0o640, False)
    one_line(fence("mend", rig, "-o", "/dev/full.csv/x.csv"), "cannot be written")


def test_the_database_is_its_owners_alone(tmp_path: Path) -> None:
    """A new database, its key and its companions can be read by nobody else."""
    path, rig = tmp_path / "new" / "fence.db", tmp_path / "rig.csv"
    rig.write_text(RIG)
    assert fence("import", rig, "--show", "Mine", "--db", path).returncode == 0
    for found in path.parent.iterdir():
        assert stat.S_IMODE(found.stat().st_mode) & 0o077 == 0, found


def test_restore_needs_the_database_for_itself(
    database: Path, tmp_path: Path, serve: Callable[..., Served]
) -> None:
    """While Fence serves it a restore is refused, and so is a second server; afterwards both go."""
    copy = tmp_path / "copy.db"
    assert fence("backup", copy, "--db", database).returncode == 0
    served = serve(database)
    one_line(fence("restore", copy, "--db", database), "served by another Fence")
    one_line(fence("serve", "--db", database, "--port", served.port + 1), "served by another Fence")
    one_line(fence("demo", "--db", database, "--port", served.port + 1), "served by another Fence")
    assert served.client().post("/shows/2/address/nudge", fixture=1, by=1, revision=1)[0] == 302
    served.process.kill()
    served.process.wait(timeout=30)
    done = fence("restore", copy, "--db", database)
    assert done.returncode == 0, done.stderr
    assert is_fence_database(database, whole=True)
    assert "before-restore" in done.stdout
    assert serve(database).client().get("/shows/2/address")[0] == 200


@pytest.mark.parametrize("kind", ["link", "hard link", "folder"])
def test_one_file_is_held_once_whatever_it_is_called(
    database: Path, tmp_path: Path, serve: Callable[..., Served], kind: str
) -> None:
    """A second server, and a restore, by another name of the same file: refused, until the first
    one has ended."""
    other = tmp_path / "elsewhere" / "other.db"
    if kind == "folder":
        (tmp_path / "elsewhere").symlink_to(database.parent, target_is_directory=True)
        other = tmp_path / "elsewhere" / database.name
    else:
        other.parent.mkdir()
        if kind == "link":
            other.symlink_to(database)
        else:
            other.hardlink_to(database)
    copy = tmp_path / "copy.db"
    copy.write_bytes(database.read_bytes())
    served = serve(other)
    for words in (("serve", "--port", free_port()), ("restore", copy)):
        one_line(fence(*words, "--db", database), "is being served by another Fence")
    assert served.stop() == 0
    assert fence("restore", copy, "--db", database).returncode == 0


def test_a_lock_that_nobody_holds_leaves_no_file(tmp_path: Path) -> None:
    """A restore that fails where there was no database leaves none; one that was empty stays."""
    path = tmp_path / "none.db"
    one_line(fence("restore", tmp_path / "missing.db", "--db", path), "There is no file")
    assert list(tmp_path.iterdir()) == []
    with held(path):
        assert is_held(path)
        assert path.exists()
    assert not path.exists()
    assert not is_held(path)


def test_a_folder_that_can_only_be_read_is_served_for_looking(
    database: Path, tmp_path: Path, serve: Callable[..., Served]
) -> None:
    """No key, no lock, no note can be made there: pages and exports come all the same, and a step
    is refused."""
    folder = tmp_path / "shut"
    folder.mkdir()
    path = folder / "fence.db"
    path.write_bytes(database.read_bytes())
    path.chmod(0o400)
    folder.chmod(0o500)
    try:
        client = serve(path, first=as_anybody).client()
        for page in (
            "/",
            "/shows/2/address",
            "/shows/3/set",
            "/shows/2/export.json",
            "/shows/2/log",
        ):
            assert client.get(page)[0] == 200, page
        status, told = client.post("/shows/2/address/nudge", fixture=1, by=1, revision=1)
        assert (status, "can only be read" in told) == (503, True)
        assert [one.name for one in folder.iterdir()] == ["fence.db"]
    finally:
        folder.chmod(0o700)


PLANTED = """
CREATE TRIGGER planted AFTER UPDATE ON sittings BEGIN UPDATE people SET role = 'owner'; END;
CREATE TRIGGER planted_too AFTER INSERT ON log BEGIN DELETE FROM people WHERE role = 'owner'; END;
CREATE VIEW spying AS SELECT * FROM people;
CREATE TABLE extra (words TEXT);
CREATE INDEX odd ON shows (abs(id));
"""


def test_a_backup_is_read_as_data(database: Path, tmp_path: Path) -> None:
    """Triggers, views, further tables and indexes of a backup do not come with its rows; served as
    it is such a file is refused. All rows that are Fence's come, as they are."""
    bad = tmp_path / "bad.db"
    bad.write_bytes(database.read_bytes())
    with closing(sqlite3.connect(bad)) as connection:
        connection.executescript(PLANTED)
    one_line(
        fence("serve", "--db", bad, "--port", free_port()),
        "holds code that Fence did not put there",
    )
    path = tmp_path / "fence.db.new"
    restore(bad, path)

    def everything(of: Path) -> tuple[set[tuple[str, str]], dict[str, list[tuple[object, ...]]]]:
        with closing(sqlite3.connect(of)) as connection:
            named = {
                (kind, name)
                for kind, name in connection.execute("SELECT type, name FROM sqlite_master")
            }
            tables = tables_of(connection)
            return named, {
                table: connection.execute(f"SELECT * FROM {table}").fetchall() for table in tables
            }

    assert everything(path) == everything(database)


def test_a_backup_that_is_no_backup(database: Path, tmp_path: Path) -> None:
    """Of a newer Fence, without a version, with rows of nobody, with a view in the place of a
    table: refused in one sentence, or taken without it; the database is as it was."""
    before = database.read_bytes()
    for number, (code, words) in enumerate(
        (
            ("UPDATE alembic_version SET version_num = '9999'", "newer Fence"),
            ("UPDATE alembic_version SET version_num = 'a secret'", "is damaged"),
            ("DELETE FROM alembic_version", "is damaged"),
            ("UPDATE fixtures SET show_id = 99 WHERE show_id = 1", "is damaged"),
            ("DROP TABLE log", "not a Fence backup"),
        )
    ):
        bad = tmp_path / f"bad{number}.db"
        bad.write_bytes(before)
        with closing(sqlite3.connect(bad)) as connection:
            connection.execute(code)
            connection.commit()
        done = fence("restore", bad, "--db", database)
        one_line(done, words)
        assert "secret" not in done.stderr
        assert database.read_bytes() == before


def opened(path: Path) -> Flask | None:
    """The application on a file; None where it refused that in a short sentence."""
    problem = ""
    try:
        return create_app(path, {"TESTING": True})
    except FenceError as error:
        problem = str(error)
    assert len(problem) < len(str(path)) + 200
    return None


@pytest.mark.parametrize("seed", range(3))
def test_a_damaged_file_is_told_in_one_sentence(database: Path, tmp_path: Path, seed: int) -> None:
    """Bytes changed at random, pages torn out, the end cut off: it opens or is refused in words,
    every page of every show answers, and nothing of what stands in the file, and no trace, is told.
    A restore of it breaks nothing."""
    chance, whole = Random(seed), database.read_bytes()
    for number in range(6 * DEEP):
        data, path = bytearray(whole), tmp_path / f"{number}.db"
        for _ in range(chance.choice([1, 20, 300])):
            data[chance.randrange(len(data))] = chance.randrange(256)
        if chance.random() < 0.5:
            page = 4096 * chance.randrange(len(data) // 4096)
            data[page : page + 4096] = chance.choice(
                [bytes(4096), b"\xff" * 4096, chance.randbytes(4096)]
            )
        if chance.random() < 0.2:
            del data[chance.randrange(len(data)) :]
        path.write_bytes(data)
        with suppress(FenceError):
            restore(path, tmp_path / f"{number}-restored.db")
        app = opened(path)
        if app is None:
            continue
        client = app.test_client()
        for page_ in (
            "/",
            *(
                f"/shows/{n}/{step}"
                for n in (1, 2, 3)
                for step in ("address", "log", "set", "prove")
            ),
        ):
            told = client.get(page_)
            assert told.status_code < 500 or told.status_code == 503, (
                number,
                page_,
                told.status_code,
            )
        app.extensions["fence_pages"].store.engine.dispose()
